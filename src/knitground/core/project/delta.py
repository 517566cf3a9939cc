"""Deltas: what differs between two moments of a project, whatever was done in between.

States are immutable trees, so a delta is found by looking at which parts are not the same object any more: things by
list and id, pictures by sheet, planes by block. Undo, redo, the journal and recovery all read deltas; there is no
class for what one can do.
"""

import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.project.model import Picture, Project, State

_PACKED_FROM = 256
_AT_ONCE = 2**21
"""Larger changes of planes are not packed while somebody waits for them; see `Delta.pack`."""
_THING_BYTES = 1024

Before = Any
After = Any


class Packed:
    """Cells of a plane, packed once somebody has the time."""

    def __init__(self, array: NDArray[Any]) -> None:
        self.shape, self.dtype = array.shape, array.dtype
        self._array: NDArray[Any] | None = array
        self._data = b""

    @classmethod
    def of(cls, data: bytes, shape: tuple[int, ...], dtype: np.dtype[Any]) -> "Packed":
        """Cells that are packed already."""
        made = cls(np.zeros(shape, dtype=dtype))
        made._data, made._array = data, None
        return made

    def pack(self) -> bytes:
        """The cells row by row, little-endian, zlib; from now on kept like that alone."""
        array = self._array
        if array is not None:
            little = array.astype(array.dtype.newbyteorder("<"), copy=False)
            self._data = zlib.compress(np.ascontiguousarray(little).tobytes(), 1)
            self._array = None
        return self._data

    def array(self) -> NDArray[Any]:
        """The cells, (height, width)."""
        array = self._array
        if array is not None:
            return array
        flat = np.frombuffer(zlib.decompress(self._data), dtype=self.dtype.newbyteorder("<"))
        return flat.reshape(self.shape).astype(self.dtype)

    @property
    def nbytes(self) -> int:
        """Bytes that it takes."""
        array = self._array
        return len(self._data) if array is None else array.nbytes


class Part(NamedTuple):
    """Cells of a plane before and after."""

    rect: CellRect
    before: Packed
    after: Packed


@dataclass(frozen=True)
class PlaneChange:
    """What changed on a plane: some parts of it; or all, where it came, went or got another size."""

    ground: str
    layer: str
    plane: str
    parts: tuple[Part, ...] = ()
    before: Plane | None = None
    after: Plane | None = None

    @property
    def whole(self) -> bool:
        """Whether the plane is another one altogether."""
        return self.before is not None or self.after is not None

    @property
    def inverse(self) -> "PlaneChange":
        """The change back."""
        parts = tuple(Part(rect, after, before) for rect, before, after in self.parts)
        return replace(self, parts=parts, before=self.after, after=self.before)

    @property
    def nbytes(self) -> int:
        """Bytes that it takes."""
        whole = sum(plane.nbytes for plane in (self.before, self.after) if plane is not None)
        return whole + sum(part.before.nbytes + part.after.nbytes for part in self.parts)

    def applied(self, plane: Plane | None) -> Plane | None:
        """The plane after the change."""
        if self.whole:
            return self.after
        assert plane is not None
        for rect, _, after in self.parts:
            plane = plane.written(rect, after.array())
        return plane


@dataclass(frozen=True)
class FieldChange:
    """What changed in a field of the project: its things by key, and their order if that did.

    A field that holds one plain value counts as a thing with the key "".
    """

    field: str
    things: tuple[tuple[str, Before, After], ...]
    order: tuple[tuple[str, ...], tuple[str, ...]] | None = None

    @property
    def inverse(self) -> "FieldChange":
        """The change back."""
        order = None if self.order is None else (self.order[1], self.order[0])
        return FieldChange(self.field, tuple((key, after, before) for key, before, after in self.things), order)

    def applied(self, value: Any) -> Any:
        """The field's value after the change."""
        if not isinstance(value, tuple | Mapping):
            return self.things[0][2]
        known = keyed(value)
        for key, _, after in self.things:
            if after is None:
                known.pop(key, None)
            else:
                known[key] = after
        ordered = known if self.order is None else {key: known[key] for key in self.order[1] if key in known}
        if isinstance(value, tuple):
            return tuple(ordered.values())
        return dict(ordered.values())


@dataclass(frozen=True)
class Delta:
    """A change of a project from one moment to another."""

    fields: tuple[FieldChange, ...] = ()
    pictures: tuple[tuple[str, Picture | None, Picture | None], ...] = ()
    planes: tuple[PlaneChange, ...] = ()

    @property
    def is_empty(self) -> bool:
        """Whether nothing differs."""
        return not (self.fields or self.pictures or self.planes)

    @property
    def inverse(self) -> "Delta":
        """The change back."""
        return Delta(
            tuple(change.inverse for change in self.fields),
            tuple((sheet, after, before) for sheet, before, after in self.pictures),
            tuple(change.inverse for change in self.planes),
        )

    @property
    def nbytes(self) -> int:
        """Bytes that it keeps alive, roughly."""
        pictures = sum(one.nbytes for _, *both in self.pictures for one in both if one is not None)
        things = sum(len(change.things) for change in self.fields) * _THING_BYTES
        return pictures + things + sum(change.nbytes for change in self.planes)

    @cached_property
    def defines(self) -> bool:
        """Whether more changes than cells of planes."""
        return bool(self.fields or self.pictures) or any(change.whole for change in self.planes)

    def pack(self) -> None:
        """Packs the planes' cells; may be called beside other work."""
        for change in self.planes:
            for part in change.parts:
                part.before.pack()
                part.after.pack()

    def applied(self, state: State) -> State:
        """The state after the change."""
        project: Project = state.project
        changed = {change.field: change.applied(getattr(project, change.field)) for change in self.fields}
        pictures = dict(state.pictures)
        for sheet, _, after in self.pictures:
            if after is None:
                pictures.pop(sheet, None)
            else:
                pictures[sheet] = after
        return State(
            replace(project, **changed) if changed else project,
            pictures if self.pictures else state.pictures,
            _planes_after(state.planes, self.planes, changed.get("grounds", project.grounds)),
        )


def delta_between(before: State, after: State) -> Delta:
    """What differs between two states."""
    changes = (_field_change(one.name, before.project, after.project) for one in fields(Project))
    pictures = [
        (sheet, before.pictures.get(sheet), after.pictures.get(sheet))
        for sheet in dict.fromkeys((*before.pictures, *after.pictures))
        if before.pictures.get(sheet) is not after.pictures.get(sheet)
    ]
    return Delta(
        tuple(change for change in changes if change is not None), tuple(pictures), tuple(_plane_changes(before, after))
    )


def plane_change(ground: str, layer: str, name: str, before: Plane | None, after: Plane | None) -> PlaneChange | None:
    """What differs between two states of a plane, None where nothing does; a plane that is not there is bare."""
    if before is after:
        return None
    if before is None or after is None or before.shape != after.shape or before.dtype != after.dtype:
        return PlaneChange(ground, layer, name, before=before, after=after)
    parts = [Part(rect, Packed(old), Packed(new)) for rect, old, new in after.changes_from(before)]
    if not parts:
        return None
    if sum(part.before.nbytes for part in parts) <= _AT_ONCE:
        for part in parts:
            for cells in part[1:]:
                # A part of a block keeps all of the block alive.
                cells.pack()
    return PlaneChange(ground, layer, name, tuple(parts))


def keyed(value: Any) -> dict[str, Any]:
    """The things of a field by their keys: of a list by their ids, of a mapping whole entries by their written keys."""
    if isinstance(value, Mapping):
        return {str(key): (key, thing) for key, thing in value.items()}
    return {thing.id: thing for thing in value}


def _field_change(name: str, before: Project, after: Project) -> FieldChange | None:
    old, new = getattr(before, name), getattr(after, name)
    if old is new:
        return None
    if not isinstance(old, tuple | Mapping):
        return None if old == new else FieldChange(name, (("", old, new),))
    ours, theirs = keyed(old), keyed(new)
    things = tuple(
        (key, ours.get(key), theirs.get(key))
        for key in dict.fromkeys((*ours, *theirs))
        if ours.get(key) is not theirs.get(key) and ours.get(key) != theirs.get(key)
    )
    order = None if list(ours) == list(theirs) else (tuple(ours), tuple(theirs))
    return FieldChange(name, things, order) if things or order else None


def _plane_changes(before: State, after: State) -> Iterator[PlaneChange]:
    nothing: Mapping[str, Mapping[str, Plane]] = {}
    for ground in dict.fromkeys((*before.planes, *after.planes)):
        ours, theirs = before.planes.get(ground, nothing), after.planes.get(ground, nothing)
        if ours is theirs:
            continue
        for layer in dict.fromkeys((*ours, *theirs)):
            old, new = ours.get(layer, {}), theirs.get(layer, {})
            for name in dict.fromkeys((*old, *new)):
                change = plane_change(ground, layer, name, old.get(name), new.get(name))
                if change is not None:
                    yield change


def _planes_after(
    planes: Mapping[str, Mapping[str, Mapping[str, Plane]]],
    changes: tuple[PlaneChange, ...],
    now: tuple[Ground, ...],
) -> Mapping[str, Mapping[str, Mapping[str, Plane]]]:
    grounds = {ground.id for ground in now}
    bare = {
        ground.id: {layer.id for layer in ground.layers if all(spec.later for spec in layer.specs.values())}
        for ground in now
    }
    missing = {ground for ground, layers in bare.items() if not layers <= set(planes.get(ground, ()))}
    if not changes and set(planes) == grounds and not missing:
        return planes
    result = {ground: dict(layers) for ground, layers in planes.items() if ground in grounds}
    result |= {ground: {} for ground in grounds if ground not in result}
    for change in changes:
        if change.ground not in grounds:
            continue
        layers = result[change.ground]
        new = dict(layers.get(change.layer, {}))
        after = change.applied(new.get(change.plane))
        if after is None:
            new.pop(change.plane, None)
        else:
            new[change.plane] = after
        layers[change.layer] = new
        if not new and change.layer not in bare[change.ground]:
            del layers[change.layer]
    for ground in missing:
        # A layer without planes is in no change of planes, but known all the same.
        result[ground] = {**{layer: {} for layer in bare[ground]}, **result[ground]}
    # What did not change stays the same object, so that it is seen at once that nothing did.
    touched = {change.ground for change in changes} | missing
    return {ground: layers if ground in touched else planes.get(ground, layers) for ground, layers in result.items()}
