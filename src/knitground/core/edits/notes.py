"""What is said of tiles, for one or many at once."""

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import replace
from typing import Any

from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.tiles.notes import LONGEST_NAME, MOST_FRAMES, PLAIN, Collision, Frame, Property, TileNotes
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import TileRef


def notes_of(document: Document, ref: TileRef) -> TileNotes:
    """What is said of a tile."""
    return document.project.tiles.get(ref, PLAIN)


def told(document: Document, refs: Iterable[TileRef]) -> list[tuple[TileNotes, int]]:
    """The different notes of some tiles, and of how many of them each is; many tiles may share them."""
    said = document.project.tiles
    found = [said.get(ref, PLAIN) for ref in refs]
    by_id = {id(notes): notes for notes in found}
    return [(by_id[key], count) for key, count in Counter(map(id, found)).items()]


def note(
    document: Document, label: str, refs: Iterable[TileRef], change: Callable[[TileRef, TileNotes], TileNotes]
) -> None:
    """Changes what is said of some tiles, as one step; a tile of which nothing is left to say is not kept."""
    tiles = dict(document.project.tiles)
    for ref in refs:
        new = change(ref, tiles.get(ref, PLAIN))
        if new == PLAIN:
            tiles.pop(ref, None)
        else:
            tiles[ref] = new
    document.define(label, replace(document.project, tiles=tiles))


def note_alike(
    document: Document, label: str, refs: Iterable[TileRef], change: Callable[[TileNotes], TileNotes]
) -> None:
    """Changes what is said of some tiles in one way, as one step; those of which the same was said share it again."""
    made: dict[int, TileNotes] = {}

    def changed(_: TileRef, notes: TileNotes) -> TileNotes:
        # Of most tiles nothing is said yet, or the same.
        if id(notes) not in made:
            made[id(notes)] = change(notes)
        return made[id(notes)]

    note(document, label, refs, changed)


def set_weight(document: Document, refs: Iterable[TileRef], weight: float) -> None:
    """Changes how often some tiles come among their variants."""
    weight = _checked_weight(weight)
    note_alike(document, "weight", refs, lambda notes: replace(notes, weight=weight))


def set_weights(document: Document, weights: Mapping[TileRef, float]) -> None:
    """Changes how often each of some tiles comes among its variants."""
    for weight in weights.values():
        _checked_weight(weight)
    note(document, "weight", weights, lambda ref, notes: replace(notes, weight=weights[ref]))


def _checked_weight(weight: float) -> float:
    if not 0 <= weight <= 1e6:
        raise BadRequest(f"A weight of {weight} is out of range; give a number from 0 to 1000000.")
    return weight


def set_walkable(document: Document, refs: Iterable[TileRef], walkable: bool) -> None:
    """Says whether some tiles can be walked on."""
    note_alike(document, "walkable", refs, lambda notes: replace(notes, walkable=walkable))


def add_tag(document: Document, refs: Iterable[TileRef], tag: str) -> None:
    """Gives some tiles a tag."""
    tag = checked_tag(tag)
    note_alike(document, "tag", refs, lambda notes: replace(notes, tags=tuple(sorted({*notes.tags, tag}))))


def checked_tag(tag: str) -> str:
    """A tag as it is kept; raises BadRequest where it is none."""
    tag = tag.strip()
    if not tag or "," in tag or len(tag) > LONGEST_NAME:
        raise BadRequest(f"A tag is 1 to {LONGEST_NAME} letters without a comma; write one such as “roof”.")
    return tag


def checked_name(name: str) -> str:
    """A property's name as it is kept; raises BadRequest where it is none."""
    name = name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise BadRequest(f"A property's name is 1 to {LONGEST_NAME} letters; write one such as “height”.")
    return name


def remove_tag(document: Document, refs: Iterable[TileRef], tag: str) -> None:
    """Takes a tag off some tiles."""
    note_alike(document, "tag", refs, lambda notes: replace(notes, tags=tuple(one for one in notes.tags if one != tag)))


def set_property(document: Document, refs: Iterable[TileRef], name: str, value: Property) -> None:
    """Gives some tiles a property, or another value of it."""
    name = checked_name(name)
    note_alike(
        document, f"property {name}", refs,
        lambda notes: replace(notes, properties=dict(sorted({**notes.properties, name: value}.items()))),
    )  # fmt: skip


def remove_property(document: Document, refs: Iterable[TileRef], name: str) -> None:
    """Takes a property off some tiles."""

    def without(notes: TileNotes) -> TileNotes:
        return replace(notes, properties={key: value for key, value in notes.properties.items() if key != name})

    note_alike(document, f"remove property {name}", refs, without)


def set_collision(document: Document, shapes: Mapping[TileRef, Collision], kind: str = FEET) -> None:
    """Gives some tiles other shapes of a kind: of what stops feet, if not given."""
    note(document, "collision shape", shapes, lambda ref, notes: notes.with_shape(kind, shapes[ref]))


def reshape(document: Document, refs: Iterable[TileRef], change: Callable[[TileRef, str, Collision], Collision]) -> int:
    """Changes the shapes of all kinds of some tiles, as one step; how many tiles changed.

    Parameters
    ----------
    change : callable
        Gives the new shape for a tile, a kind and the shape.
    """
    changed = {}
    for ref in refs:
        before = after = notes_of(document, ref)
        for kind, shape in before.all_shapes().items():
            after = after.with_shape(kind, change(ref, kind, shape))
        if after != before:
            changed[ref] = after
    if changed:
        note(document, "collision shape", changed, lambda ref, _: changed[ref])
    return len(changed)


def animate(document: Document, frames: Mapping[TileRef, Collection[Frame]]) -> None:
    """Lets tiles play frames, as one step; with none or one a tile stands still.

    Raises
    ------
    BadRequest
        If there are too many, or two are of different sizes.
    """
    most = max(map(len, frames.values()), default=0)
    if most > MOST_FRAMES:
        raise BadRequest(f"{most} frames are too many; an animation has at most {MOST_FRAMES}.")

    def playing(ref: TileRef, notes: TileNotes) -> TileNotes:
        kept = tuple(frames[ref]) if len(frames[ref]) > 1 else ()
        return replace(notes, frames=kept, apart=notes.apart and bool(kept))

    note(document, "animation", frames, playing)


def play_apart(document: Document, refs: Collection[TileRef], *, apart: bool) -> None:
    """Lets each cell and each thing begin the animations of some tiles with a frame of its own, or all alike."""
    note_alike(document, "play apart" if apart else "play alike", refs, lambda notes: replace(notes, apart=apart))


def shared(document: Document, refs: Iterable[TileRef], field: Callable[[TileNotes], Any]) -> list[Any]:
    """The different values that some tiles have of something, the most common first; one value where all agree."""
    values: list[Any] = []
    counts: list[int] = []
    for notes, count in told(document, refs):
        value = field(notes)
        if value in values:
            counts[values.index(value)] += count
        else:
            values.append(value)
            counts.append(count)
    return [value for _, value in sorted(zip(counts, values, strict=True), key=lambda pair: -pair[0])]
