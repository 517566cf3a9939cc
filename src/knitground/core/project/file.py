"""The project file: one JSON document in the project's folder, its sheets as image files beside it."""

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path, PurePosixPath
from typing import Annotated, Any, Final, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, TypeAdapter, ValidationError

from knitground.core.errors import BadProject, BadSheet
from knitground.core.ground.layers import CODED, Planes
from knitground.core.project.atomic import write_atomically
from knitground.core.project.cells import Cells, written
from knitground.core.project.collecting import collect, laid_out
from knitground.core.project.model import Palette, Picture, Project, State
from knitground.core.project.validity import check_whole, planes_from
from knitground.core.sheet.picture import Sheet, read_file
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

FILE_NAME = "knitground.json"
PREVIOUS_NAME = "knitground.previous.json"
FORMAT: Final = "knitground-project"
OLDEST, VERSION = 1, 2
LARGEST_FILE = 2**30


@dataclass(frozen=True)
class ProjectFile:
    """What the JSON document holds."""

    __pydantic_config__ = ConfigDict(extra="forbid", title="Knit Ground project")

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


def load_project(folder: Path) -> tuple[State, Palette]:
    """A project from its folder (or from the file in it).

    Raises
    ------
    BadProject
        If the file is missing, damaged, newer than this program, or holds something impossible.
    BadSheet
        If one of its sheets cannot be read.
    """
    path = folder / FILE_NAME if folder.is_dir() else folder
    content = _parsed(path)
    check_whole(content.project, path.name)
    palette = Palette(content.palette)
    if len(palette.refs) != len(set(palette.refs)):
        raise BadProject(f"{path.name} lists a tile twice in its palette; restore the file from a copy.")
    planes: dict[str, dict[str, Planes]] = {}
    for ground in content.project.grounds:
        planes[ground.id] = planes_from(
            ground, content.maps.get(ground.id, {}), content.project, len(palette.refs), path.name
        )
    sheets, pictures = [], {}
    for sheet in content.project.sheets:
        picture = _sheet_picture(path.parent, sheet)
        sheets.append(laid_out(sheet, picture) if sheet.images else sheet)
        pictures[sheet.id] = picture
    return State(replace(content.project, sheets=tuple(sheets)), pictures, planes), palette


def save_project(folder: Path, state: State, palette: Palette, filed: dict[Path, Picture] | None = None) -> None:
    """Writes a project into its folder: first its sheets that are not there yet, then the document.

    The version before is kept as ``knitground.previous.json``. `filed` tells which picture each image file is known
    to hold; such a file is left alone, whatever another program has made of it since, and what is written is noted.

    Raises
    ------
    CannotWrite
        If a file cannot be written; the document is then as it was.
    """
    for sheet in state.project.sheets:
        picture = state.pictures[sheet.id]
        for name, data in zip(sheet.files, picture.files, strict=True):
            path = inside(folder, name)
            known = filed is not None and filed.get(path) is picture
            if not path.exists() or not (known or path.read_bytes() == data):
                write_atomically(path, data)
            if filed is not None:
                filed[path] = picture
    write_atomically(folder / FILE_NAME, document_bytes(state, palette), keep=folder / PREVIOUS_NAME)


def document_bytes(state: State, palette: Palette) -> bytes:
    """The document as it is written: stable order, one map row per line."""
    refs, numbers = palette.filed(_used(state, len(palette.refs)))

    def plane_text(name: str, plane: NDArray[np.generic]) -> Cells:
        return written(_renumbered(plane, numbers) if name in CODED else plane)

    def layer_text(planes: Planes) -> dict[str, Cells]:
        return {name: plane_text(name, plane) for name, plane in planes.items()}

    maps = {
        ground: {layer: layer_text(planes) for layer, planes in layers.items()}
        for ground, layers in state.planes.items()
    }
    content = ProjectFile(FORMAT, VERSION, state.project, refs, maps)
    text = json.dumps(_ADAPTER.dump_python(content, mode="json"), ensure_ascii=False, indent=1)
    # Labels read best on one line; line breaks never stand inside a JSON string.
    text = re.sub(r"\[\n\s+(\d+(?:,\n\s+\d+)*)\n\s+\]", lambda m: "[" + re.sub(r"\s+", " ", m[1]) + "]", text)
    return text.encode() + b"\n"


def _used(state: State, count: int) -> NDArray[np.bool_]:
    """Which palette numbers the maps hold, (count + 1,) bool."""
    used = np.zeros(count + 1, dtype=bool)
    for layers in state.planes.values():
        for planes in layers.values():
            for name in CODED:
                if name in planes:
                    used[np.asarray(planes[name], dtype=np.int32) & NUMBER_MASK] = True
    return used


def _renumbered(cells: NDArray[np.generic], numbers: NDArray[np.int32]) -> NDArray[np.int32]:
    """Cell codes with other palette numbers and the same orientations."""
    codes = np.asarray(cells, dtype=np.int32)
    result: NDArray[np.int32] = numbers[codes & NUMBER_MASK] | (codes & ~np.int32(NUMBER_MASK))
    return result


def inside(folder: Path, name: str) -> Path:
    """The path of a file of the project.

    Raises
    ------
    BadProject
        If it would leave the project's folder.
    """
    path = folder / name
    leaves = PurePosixPath(name).is_absolute() or "\\" in name or not name
    if leaves or not path.resolve().is_relative_to(folder.resolve()):
        raise BadProject(f"The sheet “{name}” lies outside the project's folder; move it inside and name it there.")
    return path


def sheet_picture(folder: Path, sheet: Sheet) -> Picture:
    """The picture of a sheet, from its files; raises BadSheet or BadProject."""
    files = {name: read_file(inside(folder, name)) for name in sheet.files}
    if sheet.images:
        return collect(files)
    return Picture.decode(files[sheet.file], sheet.file)


def _sheet_picture(folder: Path, sheet: Sheet) -> Picture:
    try:
        return sheet_picture(folder, sheet)
    except BadSheet as problem:
        raise BadSheet(f"{problem} The project needs this sheet.") from None


def _parsed(path: Path) -> ProjectFile:
    """The checked content of a project file."""
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise BadProject(f"{path.name} is larger than {LARGEST_FILE >> 20} MiB and is no project of this program.")
        raw = json.loads(path.read_bytes())
    except FileNotFoundError:
        raise BadProject(f"There is no project in {path.parent}; it should hold a file {path.name}.") from None
    except OSError as problem:
        raise BadProject(f"{path} cannot be read ({problem.strerror}); check that you may open it.") from None
    except (ValueError, RecursionError) as problem:
        kept = path.with_name(PREVIOUS_NAME)
        advice = f"open {kept.name} instead" if kept.exists() else "restore it from a copy"
        raise BadProject(f"{path.name} is damaged ({problem}); {advice}.") from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise BadProject(f"{path.name} is not a Knit Ground project; choose another folder.")
    version = raw.get("version")
    if isinstance(version, int) and version > VERSION:
        raise BadProject(
            f"{path.name} was written by a newer Knit Ground (version {version} of the format, this one reads up to "
            f"{VERSION}); open it with that, it was left as it is."
        )
    try:
        return _ADAPTER.validate_python(raw)
    except ValidationError as problem:
        raise BadProject(_first_problem(problem, path.name)) from None


def _first_problem(problem: ValidationError, name: str) -> str:
    first = problem.errors(include_url=False, include_input=False)[0]
    place = ", ".join(str(part) for part in first["loc"])
    reason = first["msg"].removeprefix("Value error, ")
    return (
        f"{name} holds something impossible at {place}: {reason[:1].lower() + reason[1:]}; mend it or restore a copy."
    )
