"""Saving: all of the new version lies in the folder, or all of the old one, whenever the program is ended.

Pictures are written first, under names that nothing uses yet; the document, put in place in one step, names them; what
neither it nor the version before names any more is removed last. No file that holds another picture is ever written to.
"""

import json
from collections.abc import Iterable, Iterator
from dataclasses import replace
from pathlib import Path, PurePosixPath

from knitground.core.errors import CannotWrite, ChangedMeanwhile, KnitGroundError, refusal
from knitground.core.project.atomic import write_atomically
from knitground.core.project.file import FILE_NAME, PREVIOUS_NAME, Saved, digest, document_bytes, inside
from knitground.core.project.model import Palette, Picture, State
from knitground.core.sheet.picture import Sheet

_OURS = "sheets/"


def save_project(
    folder: Path, state: State, palette: Palette, known: Saved, *, over: bool = False
) -> tuple[Saved, dict[str, Sheet]]:
    """Writes a project into its folder.

    Parameters
    ----------
    known : Saved
        What the files there are known to hold. A file that is known to hold a picture is left alone, whatever another
        program has made of it since.
    over : bool
        Write even if the document was changed by another program since it was read.

    Returns
    -------
    saved : Saved
        What the files hold now.
    names : dict of sheet id to Sheet
        Sheets whose pictures had to be written under other names than the state says.

    Raises
    ------
    ChangedMeanwhile
        If another program has written the document.
    CannotWrite
        If a file can't be written; the folder then holds all that it did.
    """
    path = folder / FILE_NAME
    old = _bytes(path)
    if not over and old is not None and known.document != digest(old):
        raise ChangedMeanwhile(
            f"{folder.name} was changed by another program since it was opened, so it was not saved; save in another "
            "folder, or open it again."
        )
    files: dict[Path, Picture] = {}
    names: dict[str, Sheet] = {}
    fresh: list[Path] = []
    taken = {file for sheet in state.project.sheets for file in sheet.files}
    try:
        for sheet in state.project.sheets:
            named = _written(folder, sheet, state, known, taken, fresh)
            files |= {inside(folder, name): state.pictures[sheet.id] for name in named.files}
            if named is not sheet:
                names[sheet.id] = named
        sheets = tuple(names.get(sheet.id, sheet) for sheet in state.project.sheets)
        data = document_bytes(state._replace(project=replace(state.project, sheets=sheets)), palette)
        forgotten = _named_in(_bytes(folder / PREVIOUS_NAME))
        if old is not None:
            write_atomically(folder / PREVIOUS_NAME, old)
        write_atomically(path, data)
    except BaseException:  # even where Ctrl+C stops it, no new picture may lie about
        for one in fresh:
            one.unlink(missing_ok=True)
        raise
    _remove(folder, forgotten - _named_in(old) - _named_in(data))
    return Saved(files, digest(data)), names


def _written(folder: Path, sheet: Sheet, state: State, known: Saved, taken: set[str], fresh: list[Path]) -> Sheet:
    """Sees to it that a sheet's picture lies in the folder; the sheet with the names of its files."""
    picture = state.pictures[sheet.id]
    files = list(zip(sheet.files, picture.files, strict=True))
    if all(_holds(inside(folder, name), known, picture, data) is not False for name, data in files):
        named = sheet
    else:
        named = next(
            one
            for one in _other_names(sheet)
            if not (set(one.files) & taken) and not any(inside(folder, name).exists() for name in one.files)
        )
    for name, data in zip(named.files, picture.files, strict=True):
        path = inside(folder, name)
        if not path.exists():
            write_atomically(path, data)
            fresh.append(path)
    return named


def _holds(path: Path, known: Saved, picture: object, data: bytes) -> bool | None:
    """Whether a file holds a picture; None where there is no file."""
    try:
        if not path.exists():
            return None
        return known.files.get(path) is picture or path.read_bytes() == data
    except OSError as problem:
        raise CannotWrite(refusal(problem, path)) from problem


def _other_names(sheet: Sheet) -> Iterator[Sheet]:
    """The sheet with other names for its files; images of a collection keep theirs in another folder."""
    number = 1
    while True:
        number += 1
        if sheet.images:
            images = tuple(f"{_OURS}{sheet.id}-{number}/{PurePosixPath(name).name}" for name in sheet.images)
            yield replace(sheet, file=images[0], images=images)
        else:
            file = PurePosixPath(sheet.file)
            yield replace(sheet, file=str(file.with_name(f"{_stem(file.stem)}-{number}.png")))


def _stem(name: str) -> str:
    """A name without the number that was put behind it."""
    head, _, tail = name.rpartition("-")
    return head if head and tail.isdigit() else name


def _bytes(path: Path) -> bytes | None:
    try:
        return path.read_bytes()
    except FileNotFoundError:
        return None
    except (OSError, ValueError) as problem:
        reason = problem if isinstance(problem, OSError) else OSError(0, "the name can't be used")
        raise CannotWrite(refusal(reason, path)) from problem


def _named_in(data: bytes | None) -> set[str]:
    """The image files that a document names; none if it can't be read."""
    try:
        sheets = json.loads(data or b"{}")["project"]["sheets"]
        return {name for sheet in sheets for name in (sheet["file"], *sheet.get("images", ()))}
    except (ValueError, KeyError, TypeError, RecursionError):
        return set()


def _remove(folder: Path, names: Iterable[str]) -> None:
    """Removes pictures that the program wrote and no version names any more."""
    for name in names:
        if name.startswith(_OURS):
            try:
                inside(folder, name).unlink(missing_ok=True)
            except (OSError, KnitGroundError):  # a file that stays does no harm, and the project is saved
                continue
