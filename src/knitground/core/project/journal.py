"""The journal: work is written as it is done, so that nothing but the last moment is lost when the program is ended.

A journal begins with a project as it lies on the disk and adds a record for each change, in the order in which they
came: the difference between two states, whatever led from the one to the other. A record is a line of JSON with its
checksum; what was cut short at the end is left away when the journal is read. Records follow the size of the edit.
"""

import base64
import hashlib
import json
import os
import shutil
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import fields, replace
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple, get_type_hints

import numpy as np
from filelock import FileLock, Timeout
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from knitground.core.errors import CannotWrite, KnitGroundError, refusal
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.project.atomic import write_atomically
from knitground.core.project.by_hand import hands_of
from knitground.core.project.delta import Delta, FieldChange, Packed, Part, PlaneChange, delta_between, keyed
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME, Saved, digest, read_document, sheet_picture
from knitground.core.project.model import Palette, Picture, Project, State
from knitground.core.project.thing_records import split_off, with_things
from knitground.core.sheet.cut import Rect
from knitground.core.sheet.picture import Sheet, decode_picture
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

_BASE, _RECORDS, _LOCK, _ORIGIN, _NUMBERS = "base.json", "records", "lock", "origin", "palette"
_MOST_RECORD = 2**30


class _Written(NamedTuple):
    """The moment up to which a journal is written."""

    state: State
    palette: int


class Journal:
    """The journal of one document, in a folder of its own; used by one thread at a time."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._lock = FileLock(folder / _LOCK, timeout=0, thread_local=False)
        self._written: _Written | None = None

    @property
    def begun(self) -> bool:
        """Whether it has been begun, or is gone on with."""
        return self._written is not None

    def begin(self, state: State, refs: Sequence[TileRef], origin: Path | None, document: str | None) -> None:
        """Begins with a project as its folder holds it; else with nothing, so that the first record holds all.

        Parameters
        ----------
        state : State
            The project as it was opened or saved.
        refs : sequence of TileRef
            The tiles of its palette then, in order.
        origin : Path, optional
            Its folder.
        document : str, optional
            The digest of the document there.

        Raises
        ------
        CannotWrite
            If no journal can be kept.
        """
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self._lock.acquire()
            (self.folder / _RECORDS).write_bytes(b"")
            write_atomically(self.folder / _ORIGIN, os.fsencode(origin or ""))
            base = (origin / FILE_NAME).read_bytes() if origin is not None and document is not None else b""
            if base and digest(base) == document:
                write_atomically(self.folder / _BASE, base)
                # A file numbers tiles in its own way; records go by the numbers of the open project.
                write_atomically(self.folder / _NUMBERS, "\n".join(map(str, refs)).encode("utf-8", "surrogatepass"))
                self._written = _Written(state, len(refs))
            else:
                self._written = _Written(State(Project(), {}, {}), 0)
        except (OSError, Timeout) as problem:
            raise CannotWrite(refusal(_as_os_error(problem), self.folder)) from problem

    def add(self, state: State, palette: Palette) -> int:
        """Writes what changed since the last time; returns how many bytes that took. Raises CannotWrite."""
        if self._written is None or state is self._written.state:
            return 0
        delta = delta_between(self._written.state, state)
        refs = palette.refs[self._written.palette :]
        record = {"delta": _told(delta), "palette": [str(ref) for ref in refs]}
        text = json.dumps(record, ensure_ascii=True, separators=(",", ":")).encode()
        try:
            size = sum(self._keep(picture) for _, _, picture in delta.pictures if picture is not None)
            size += self._append(text)
        except OSError as problem:
            raise CannotWrite(refusal(problem, self.folder / _RECORDS)) from problem
        self._written = _Written(state, self._written.palette + len(refs))
        return size

    def adopt(self, document: Document) -> None:
        """Goes on with what this journal holds, which the document was read from; raises CannotWrite."""
        try:
            self._lock.acquire()
        except (OSError, Timeout) as problem:
            raise CannotWrite(refusal(_as_os_error(problem), self.folder)) from problem
        self._written = _Written(document.state, len(document.palette.refs))

    def forget(self) -> None:
        """Removes the journal: the work is saved, or was thrown away on purpose."""
        self._lock.release()
        self._written = None
        shutil.rmtree(self.folder, ignore_errors=True)

    def _append(self, text: bytes) -> int:
        line = b"%08x %s\n" % (zlib.crc32(text), text)
        path = self.folder / _RECORDS
        before = path.stat().st_size
        try:
            with path.open("ab") as file:
                file.write(line)
                file.flush()
                os.fsync(file.fileno())
        except OSError:
            # Half a record would hide all that follow it.
            os.truncate(path, before)
            raise
        return len(line)

    def _keep(self, picture: Picture) -> int:
        """Writes a picture's files, each once."""
        size = 0
        for data in picture.files:
            path = self.folder / f"{hashlib.sha256(data).hexdigest()}.blob"
            if not path.exists():
                write_atomically(path, data)
                size += len(data)
        return size


def left_behind(root: Path) -> list[Path]:
    """Journals below a folder that no running program holds and that hold work, the newest first."""
    try:
        folders = [one for one in root.iterdir() if (one / _RECORDS).is_file()]
    except OSError:
        return []
    free = [one for one in folders if (one / _RECORDS).stat().st_size and not _held(one)]
    return sorted(free, key=lambda one: -(one / _RECORDS).stat().st_mtime)


def last_kept(folder: Path) -> int:
    """When a journal was written for the last time, in seconds since 1970."""
    return int((folder / _RECORDS).stat().st_mtime)


def replay(folder: Path) -> Document | None:
    """The document that a journal leads to, as unsaved work; None where not even its beginning can be read.

    Pictures that the project had on the disk are taken as they are there now: a sheet that was drawn anew since is
    newer than the journal.
    """
    try:
        origin = Path(os.fsdecode((folder / _ORIGIN).read_bytes()) or ".") if (folder / _ORIGIN).exists() else Path()
        state, palette, saved = _base(folder, origin)
        lines = (folder / _RECORDS).read_bytes().split(b"\n")
    except (OSError, ValueError, KnitGroundError):
        return None
    for line in lines:
        try:
            record = _record(line)
            if record is None:
                break
            for name in record["palette"]:
                palette.number(TileRef.parse(name))
            state = with_things(_read(record["delta"], folder).applied(state), record["delta"].get("things", []))
        except (KeyError, ValueError, TypeError, IndexError, OSError, KnitGroundError, ValidationError, zlib.error):
            break
    document = Document(state, palette, origin if saved.document is not None else None)
    document.saved_as = saved
    document.mark_unsaved()
    return document


def drop(folder: Path) -> None:
    """Throws a journal away."""
    shutil.rmtree(folder, ignore_errors=True)


def _held(folder: Path) -> bool:
    lock = FileLock(folder / _LOCK, timeout=0, thread_local=False)
    try:
        lock.acquire()
    except Timeout:
        return True
    except OSError:
        return False
    lock.release()
    return False


def _base(folder: Path, origin: Path) -> tuple[State, Palette, Saved]:
    """The project that a journal begins with, and what its folder holds."""
    if not (folder / _BASE).exists():
        return State(Project(), {}, {}), Palette(), Saved({}, None)
    data = (folder / _BASE).read_bytes()
    known: dict[Path, Picture] = {}

    def picture_of(sheet: Sheet) -> Picture:
        picture = sheet_picture(origin, sheet)
        known.update({origin / name: picture for name in sheet.files})
        return picture

    state, filed = read_document(data, folder / _BASE, picture_of)
    names = (folder / _NUMBERS).read_text("utf-8", "surrogatepass").splitlines()
    palette = Palette(TileRef.parse(name) for name in names)
    numbers = np.array([0, *(palette.number(ref) for ref in filed.refs)], dtype=np.int32)
    return state._replace(planes=_renumbered(state, numbers)), palette, Saved(known, digest(data))


def _renumbered(state: State, numbers: NDArray[np.int32]) -> dict[str, dict[str, dict[str, Plane]]]:
    """The planes of a state with other palette numbers."""

    def mapped(codes: NDArray[np.int32]) -> NDArray[np.int32]:
        """Cell codes with the other numbers.

        Parameters
        ----------
        codes : (...) int32

        Returns
        -------
        codes : (...) int32
        """
        return np.asarray(numbers[codes & NUMBER_MASK] | (codes & ~np.int32(NUMBER_MASK)))

    return {
        ground.id: {
            layer.id: {
                name: plane.mapped(mapped) if name in layer.coded else plane
                for name, plane in state.planes[ground.id][layer.id].items()
            }
            for layer in ground.layers
        }
        | hands_of(state.planes[ground.id])
        for ground in state.project.grounds
    }


def _record(line: bytes) -> dict[str, Any] | None:
    """What a line holds; None at the end, or where it was cut short."""
    check, _, text = line.partition(b" ")
    if not text or len(text) > _MOST_RECORD or int(check, 16) != zlib.crc32(text):
        return None
    found: dict[str, Any] = json.loads(text)
    return found


@cache
def _adapter(field: str) -> TypeAdapter[Any]:
    return TypeAdapter(get_type_hints(Project, include_extras=True)[field])


def _told(delta: Delta) -> dict[str, Any]:
    """A delta as a record holds it: what things are after it."""
    split = [split_off(change) for change in delta.fields]
    return {
        "fields": [_field_told(change) for change, _ in split if change is not None],
        "things": [record for _, records in split for record in records],
        "pictures": [
            [sheet, None if after is None else [hashlib.sha256(data).hexdigest() for data in after.files],
             [] if after is None else [list(place) for place in after.places],
             [] if after is None else list(after.size)]
            for sheet, _, after in delta.pictures
        ],
        "planes": [_plane_told(change) for change in delta.planes],
    }  # fmt: skip


def _field_told(change: FieldChange) -> dict[str, Any]:
    plain = getattr(Project(), change.field)
    after = [(key, thing) for key, _, thing in change.things if thing is not None]
    if isinstance(plain, tuple):
        held: Any = tuple(thing for _, thing in after)
    elif isinstance(plain, Mapping):
        held = dict(thing for _, thing in after)
    else:
        held = after[0][1]
    return {
        "field": change.field,
        "after": _adapter(change.field).dump_python(held, mode="json"),
        "gone": [key for key, _, thing in change.things if thing is None],
        "order": None if change.order is None else list(change.order[1]),
    }


def _plane_told(change: PlaneChange) -> dict[str, Any]:
    told: dict[str, Any] = {"ground": change.ground, "layer": change.layer, "plane": change.plane}
    if change.whole:
        after = change.after
        if after is not None:
            told |= {"shape": after.shape, "dtype": after.dtype.str, "cells": _text(Packed(np.asarray(after)))}
        return told | {"whole": True}
    return told | {
        "parts": [[*rect, after.dtype.str, _text(after)] for rect, _, after in change.parts],
    }


def _text(cells: Packed) -> str:
    return base64.b64encode(cells.pack()).decode("ascii")


def _read(told: Mapping[str, Any], folder: Path) -> Delta:
    """The delta of a record."""
    return Delta(
        tuple(_field_read(one) for one in told["fields"]),
        tuple(_picture_read(one, folder) for one in told["pictures"]),
        tuple(_plane_read(one) for one in told["planes"]),
    )


def _field_read(told: Mapping[str, Any]) -> FieldChange:
    name = told["field"]
    if name not in {one.name for one in fields(Project)}:
        raise ValueError(name)
    value = _adapter(name).validate_python(told["after"])
    things = keyed(value) if isinstance(value, tuple | Mapping) else {"": value}
    order = told["order"]
    return FieldChange(
        name,
        (*((key, None, thing) for key, thing in things.items()), *((key, None, None) for key in told["gone"])),
        None if order is None else ((), tuple(order)),
    )


def _picture_read(told: list[Any], folder: Path) -> tuple[str, None, Picture | None]:
    sheet, names, places, size = told
    if names is None:
        return sheet, None, None
    files = [(folder / f"{name}.blob").read_bytes() for name in names if str(name).isalnum()]
    if not places:
        return sheet, None, Picture.decode(files[0], sheet)
    pixels = np.zeros((size[1], size[0], 4), dtype=np.uint8)
    rects = tuple(Rect(*place) for place in places)
    for data, (x, y, width, height) in zip(files, rects, strict=True):
        pixels[y : y + height, x : x + width] = decode_picture(data, sheet)
    return sheet, None, Picture(tuple(files), pixels, rects)


def _plane_read(told: Mapping[str, Any]) -> PlaneChange:
    change = PlaneChange(told["ground"], told["layer"], told["plane"])
    if told.get("whole"):
        if "cells" not in told:
            return replace(change, before=_NOWHERE)
        height, width = told["shape"]
        cells = Packed.of(base64.b64decode(told["cells"]), (height, width), np.dtype(told["dtype"]))
        return replace(change, after=Plane.of(cells.array()))
    parts = []
    for *rect, dtype, text in told["parts"]:
        cells = Packed.of(base64.b64decode(text), (rect[2], rect[3]), np.dtype(dtype))
        parts.append(Part(CellRect(*rect), cells, cells))
    return replace(change, parts=tuple(parts))


_NOWHERE = Plane.full((1, 1), np.uint8)
"""Stands for the plane that there was before one went: records do not tell."""


def _as_os_error(problem: BaseException) -> OSError:
    return problem if isinstance(problem, OSError) else OSError(0, "another program holds it")
