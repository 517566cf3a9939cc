"""The project file: one JSON document in the project's folder, its sheets as image files beside it."""

import hashlib
import json
import re
import stat
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path, PurePosixPath
from typing import Annotated, Any, Final, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, TypeAdapter, ValidationError

from knitground.core.errors import BadProject, BadSheet, readable
from knitground.core.grid.plane import Plane
from knitground.core.project.by_hand import hand_key
from knitground.core.project.cells import Cells, written
from knitground.core.project.collecting import collect, laid_out
from knitground.core.project.model import Palette, Picture, Project, State
from knitground.core.project.older import brought_up
from knitground.core.project.validity import check_cost, check_whole, planes_from
from knitground.core.sheet.picture import Sheet, read_file
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

FILE_NAME = "knitground.json"
PREVIOUS_NAME = "knitground.previous.json"
FORMAT: Final = "knitground-project"
OLDEST, VERSION = 1, 16
LARGEST_FILE = 2**30
_SURROGATE = re.compile(rb"\\u[dD][89a-fA-F]")


@dataclass(frozen=True)
class ProjectFile:
    """What the JSON document holds."""

    __pydantic_config__ = ConfigDict(extra="forbid", title="Knit Ground project", defer_build=True)

    format: Literal["knitground-project"]
    version: Annotated[int, Field(ge=OLDEST, le=VERSION)]
    project: Project
    palette: Annotated[
        tuple[TileRef, ...], Field(description="tiles that tile layers hold by number, the first being 1")
    ] = ()
    maps: Annotated[
        Mapping[str, Mapping[str, Mapping[str, Cells]]],
        Field(description="planes by ground, layer and plane"),
    ] = field(default_factory=dict)


_ADAPTER = TypeAdapter(ProjectFile)


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of the project file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **_ADAPTER.json_schema(mode="validation"),
    }


class Saved(NamedTuple):
    """What the files of a project's folder are known to hold.

    Attributes
    ----------
    files : mapping of Path to Picture
        Which picture each image file holds.
    document : str, or None
        The digest of the document; None where it is not known.
    """

    files: dict[Path, Picture]
    document: str | None


def load_project(folder: Path) -> tuple[State, Palette, Saved]:
    """A project from its folder (or from the file in it), and what its files hold.

    Raises
    ------
    BadProject
        If the file is missing, damaged, newer than this program, or holds something impossible.
    BadSheet
        If one of its sheets cannot be read.
    """
    path = folder / FILE_NAME if _is_folder(folder) else folder
    data = _read(path)
    state, palette = read_document(data, path, lambda sheet: _sheet_picture(path.parent, sheet))
    files = {path.parent / name: state.pictures[sheet.id] for sheet in state.project.sheets for name in sheet.files}
    return state, palette, Saved(files, digest(data))


def read_document(data: bytes, path: Path, picture_of: Callable[[Sheet], Picture]) -> tuple[State, Palette]:
    """A project from the bytes of its document; raises as `load_project`.

    Parameters
    ----------
    path : Path
        What to call the document in messages.
    picture_of : callable
        Gives the picture of a sheet.
    """
    content = _parsed(data, path)
    check_whole(content.project, path.name)
    palette = Palette(content.palette)
    if len(palette.refs) != len(set(palette.refs)):
        raise BadProject(f"{path.name} lists a tile twice in its palette; restore the file from a copy.")
    check_cost(content.project, content.maps, path.name)
    planes = {
        ground.id: planes_from(ground, content.maps.get(ground.id, {}), content.project, len(palette.refs), path.name)
        for ground in content.project.grounds
    }
    sheets, pictures = [], {}
    for sheet in content.project.sheets:
        picture = picture_of(sheet)
        sheets.append(laid_out(sheet, picture) if sheet.images else sheet)
        pictures[sheet.id] = picture
    return State(replace(content.project, sheets=tuple(sheets)), pictures, planes), palette


def digest(data: bytes) -> str:
    """What tells one document from another."""
    return hashlib.sha256(data).hexdigest()


def document_bytes(state: State, palette: Palette) -> bytes:
    """The document as it is written: stable order, one map row per line."""
    refs, numbers = palette.filed(_used(state, len(palette.refs)))
    maps: dict[str, dict[str, dict[str, Cells]]] = {ground.id: {} for ground in state.project.grounds}
    for ground in state.project.grounds:
        for layer in ground.layers:
            maps[ground.id][layer.id] = {
                name: written(_renumbered(plane, numbers) if layer.specs[name].codes else plane)
                for name, plane in state.planes[ground.id][layer.id].items()
            }
            masks = state.planes[ground.id].get(hand_key(layer.id))
            if masks:
                maps[ground.id][hand_key(layer.id)] = {name: written(mask) for name, mask in masks.items()}
    content = ProjectFile(FORMAT, VERSION, state.project, refs, maps)
    text = json.dumps(_ADAPTER.dump_python(content, mode="json"), ensure_ascii=False, indent=1)
    # Labels read best on one line; line breaks never stand inside a JSON string.
    text = re.sub(r"\[\n\s+(\d+(?:,\n\s+\d+)*)\n\s+\]", lambda m: "[" + re.sub(r"\s+", " ", m[1]) + "]", text)
    return text.encode() + b"\n"


def _used(state: State, count: int) -> NDArray[np.bool_]:
    """Which palette numbers the maps hold, (count + 1,) bool."""
    used = np.zeros(count + 1, dtype=bool)
    for ground in state.project.grounds:
        for layer in ground.layers:
            for name in layer.coded:
                if name in state.planes[ground.id][layer.id]:
                    used[state.planes[ground.id][layer.id][name].unique() & NUMBER_MASK] = True
    return used


def _renumbered(cells: Plane, numbers: NDArray[np.int32]) -> Plane:
    """Cell codes with other palette numbers and the same orientations."""
    return cells.mapped(lambda codes: numbers[codes & NUMBER_MASK] | (codes & ~np.int32(NUMBER_MASK)))


def inside(folder: Path, name: str) -> Path:
    """The path of a file of the project.

    Raises
    ------
    BadProject
        If it would leave the project's folder, or is no name for a file.
    """
    path = folder / name
    leaves = PurePosixPath(name).is_absolute() or "\\" in name or not name or "\x00" in name
    try:
        leaves = leaves or not path.resolve().is_relative_to(folder.resolve())
    except (OSError, RuntimeError, ValueError):
        raise BadProject(
            f"The sheet “{readable(name)}” can't be found: its name leads in a circle; name another."
        ) from None
    if leaves:
        raise BadProject(
            f"The sheet “{readable(name)}” lies outside the project's folder; move it inside and name it there."
        )
    return path


def sheet_picture(folder: Path, sheet: Sheet) -> Picture:
    """The picture of a sheet, from its files; raises BadSheet or BadProject."""
    files = {name: read_file(inside(folder, name)) for name in sheet.files}
    if sheet.images:
        return collect(files)
    picture = Picture.decode(files[sheet.file], sheet.file)
    picture.cleared(sheet)  # takes a while, and files are read where nobody waits for it
    return picture


def _sheet_picture(folder: Path, sheet: Sheet) -> Picture:
    try:
        return sheet_picture(folder, sheet)
    except BadSheet as problem:
        raise BadSheet(f"{problem} The project needs this sheet.") from None


def _is_folder(path: Path) -> bool:
    try:
        return path.is_dir()
    except (OSError, ValueError):
        return False


def _read(path: Path) -> bytes:
    """The bytes of the document."""
    try:
        kind = path.stat()
        if not stat.S_ISREG(kind.st_mode):
            raise BadProject(f"{readable(path)} is no ordinary file; choose the folder of a project.")
        if kind.st_size > LARGEST_FILE:
            raise BadProject(f"{path.name} is larger than {LARGEST_FILE >> 20} MiB and is no project of this program.")
        return path.read_bytes()
    except FileNotFoundError:
        raise BadProject(
            f"There is no project in {readable(path.parent)}; it should hold a file {readable(path.name)}."
        ) from None
    except (OSError, ValueError) as problem:
        reason = getattr(problem, "strerror", None) or "the name can't be used"
        raise BadProject(f"{readable(path)} cannot be read ({reason}); check that you may open it.") from None


def _parsed(data: bytes, path: Path) -> ProjectFile:
    """The checked content of a project file."""
    try:
        raw = json.loads(data)
        if _SURROGATE.search(data):
            json.dumps(raw, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        raise BadProject(
            f"{path.name} holds a name with half a letter (a lone surrogate); mend it or restore a copy."
        ) from None
    except (ValueError, RecursionError) as problem:
        kept = path.with_name(PREVIOUS_NAME)
        advice = f"open {kept.name} instead" if kept.exists() else "restore it from a copy"
        raise BadProject(f"{path.name} is damaged ({readable(problem)}); {advice}.") from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise BadProject(f"{path.name} is not a Knit Ground project; choose another folder.")
    version = raw.get("version")
    if isinstance(version, int) and version > VERSION:
        raise BadProject(
            f"{path.name} was written by a newer Knit Ground (version {version} of the format, this one reads up to "
            f"{VERSION}); open it with that, it was left as it is."
        )
    try:
        return _ADAPTER.validate_python(brought_up(raw, version if isinstance(version, int) else VERSION))
    except ValidationError as problem:
        raise BadProject(_first_problem(problem, path.name)) from None


def _first_problem(problem: ValidationError, name: str) -> str:
    first = problem.errors(include_url=False, include_input=False)[0]
    place = ", ".join(str(part) for part in first["loc"])
    reason = first["msg"].removeprefix("Value error, ")
    return (
        f"{name} holds something impossible at {place}: {reason[:1].lower() + reason[1:]}; mend it or restore a copy."
    )
