"""Pictures that were drawn anew outside while the project is open."""

from pathlib import Path
from typing import Literal, NamedTuple

from knitground.core.edits.sheets import read_picture
from knitground.core.errors import KnitGroundError
from knitground.core.project.collecting import collect
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.sheet.picture import Sheet, read_file

Signature = tuple[int, int, int]
Taken = Literal["taken", "same", "kept"]


class Watched(NamedTuple):
    """A sheet and the files that its picture comes from."""

    sheet: Sheet
    paths: tuple[Path, ...]


def signature(path: Path) -> Signature | None:
    """What tells one state of a file from another; none where there is no file."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size, found.st_ino


def watched(document: Document) -> list[Watched]:
    """The sheets whose pictures lie in files of the project's folder."""
    if document.folder is None:
        return []
    found = []
    for sheet in document.project.sheets:
        paths = tuple(document.folder / name for name in sheet.files)
        if all(path in document.saved_as.files for path in paths):
            found.append(Watched(sheet, paths))
    return found


def read_again(one: Watched) -> Picture | None:
    """The picture that the files of a sheet hold now; none while they are missing or written only in part."""
    try:
        data = [read_file(path) for path in one.paths]
        if one.sheet.images:
            return collect(dict(zip(one.sheet.images, data, strict=True)))
        return read_picture(one.sheet.file, data[0])
    except KnitGroundError:
        return None


def take_over(document: Document, one: Watched, picture: Picture) -> Taken:
    """Lets a document show what a file holds now, if it differs from what was known.

    Where the picture was exchanged in the program and not saved since, the program's is kept.
    """
    sheet = next((sheet for sheet in document.project.sheets if sheet.id == one.sheet.id), None)
    known = document.state.pictures.get(one.sheet.id)
    if sheet is None or known is None or known.files == picture.files:
        return "same"
    if any(document.saved_as.files.get(path, known) is not known for path in one.paths):
        return "kept"
    if any(path not in document.saved_as.files for path in one.paths):
        document.mark_unsaved()  # it was drawn anew elsewhere than in the project's folder
    document.redrawn(sheet, picture)
    for path in one.paths:
        if path in document.saved_as.files:
            document.saved_as.files[path] = picture
    return "taken"
