"""Things on prop layers: placing, moving, turning, ordering, aligning, and what is said of them."""

import math
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any, Literal

import numpy as np

from knitground.core.edits.layers import put_layer
from knitground.core.edits.painting import check_unlocked
from knitground.core.errors import BadRequest
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import PropLayer, as_props
from knitground.core.layers.thing import (
    CORNERS_AT_LEAST,
    LARGEST_SCALE,
    MOST_THINGS,
    Corner,
    Form,
    Thing,
    is_near,
    outline,
    reach,
    shifted,
)
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.notes import MOST_POINTS

Snap = Literal["cell", "half", "pixel", "free"]
SNAPS: tuple[Snap, ...] = ("cell", "half", "pixel", "free")
"""What places things snap to: middles of cells, halves of cells, whole pixels, or nothing."""
Side = Literal["left", "right", "top", "bottom", "middle", "centre"]
Sizes = Callable[[Any], tuple[int, int]]
"""Width and height of a tile in pixels; (0, 0) where there is none."""
Step = Literal["up", "down", "top", "bottom"]
_SIMPLER_BY = 1.5


def stands_freely(cut: Cut, ground: Ground) -> bool:
    """Whether tiles of a cut rather stand as things than lie in the cells of a ground.

    Loose pieces do, and on a square grid what is no whole number of cells wide and high.
    """
    fits = cut.tile_width % ground.tile_width == 0 and cut.tile_height % ground.tile_height == 0
    return bool(cut.pieces) or (ground.grid == "square" and not fits)


def things_on(document: Document, ground_id: str, layer_id: str) -> tuple[PropLayer, tuple[Thing, ...]]:
    """A prop layer that may be changed, and its things; raises BadRequest where it is none, or is locked."""
    layers = by_id(document.project.grounds, ground_id).layers
    layer = next((as_props(one) for one in layers if one.id == layer_id), None)
    if layer is None:
        raise BadRequest("Things stand on prop layers; choose one, or add one with the plus at the right.")
    check_unlocked(layer)
    return layer, layer.things


def snapped(ground: Ground, x: float, y: float, snap: Snap, form: Form = "sprite") -> tuple[float, float]:
    """The place nearest to a pixel where a thing of a form may lie.

    Parameters
    ----------
    ground : Ground
    x, y : float
        In pixels of the ground's picture.
    snap : Snap
    form : Form
        Sprites snap with their foot to the lower border of a cell's box, so that they stand as tiles do.
    """
    if snap == "free":
        return round(x, 2), round(y, 2)
    if snap == "pixel":
        return float(round(x)), float(round(y))
    projection = ground.projection
    # A sprite is meant for the cell in which its body is, not for the one that its foot has just reached.
    lift = ground.tile_height / 2 if form == "sprite" else 0.0
    if snap == "half":
        found_x, found_y = projection.half_way(x, y - lift)
    else:
        flat_y, flat_x = projection.place(x, y - lift)
        found_x, found_y = projection.point(math.floor(flat_y) + 0.5, math.floor(flat_x) + 0.5)
    return float(found_x), float(found_y + lift)


def place(document: Document, ground_id: str, layer_id: str, things: Iterable[Thing], label: str = "") -> list[str]:
    """Puts things on top of a layer, with ids of their own; returns these.

    Raises
    ------
    BadRequest
        If the layer is no prop layer, is locked, or would hold too many.
    """
    layer, known = things_on(document, ground_id, layer_id)
    added: list[Thing] = []
    number = next_number(known)
    for thing in things:
        added.append(replace(thing, id=str(number)))
        number += 1
    if len(known) + len(added) > MOST_THINGS:
        raise BadRequest(f"A layer holds {MOST_THINGS} things at most; make another prop layer.")
    _put(document, ground_id, layer, (*known, *added), label or _label("place", added))
    return [thing.id for thing in added]


def remove(document: Document, ground_id: str, layer_id: str, ids: Collection[str]) -> None:
    """Takes things off a layer."""
    layer, known = things_on(document, ground_id, layer_id)
    gone = [thing for thing in known if thing.id in ids]
    if gone:
        kept = tuple(thing for thing in known if thing.id not in ids)
        _put(document, ground_id, layer, kept, _label("remove", gone))


def change(
    document: Document, ground_id: str, layer_id: str, ids: Collection[str], label: str, act: Callable[[Thing], Thing]
) -> None:
    """Exchanges some things for what a function makes of them."""
    layer, known = things_on(document, ground_id, layer_id)
    changed = tuple(replace(act(thing), grown="") if thing.id in ids else thing for thing in known)
    if changed != known:
        _put(document, ground_id, layer, changed, label)


def move(document: Document, ground_id: str, layer_id: str, ids: Collection[str], by: tuple[float, float]) -> None:
    """Moves things so many pixels across and down."""
    change(document, ground_id, layer_id, ids, "move things", lambda thing: shifted(thing, *by))


def duplicate(
    document: Document, ground_id: str, layer_id: str, ids: Collection[str], by: tuple[float, float]
) -> list[str]:
    """Puts copies of things so many pixels further; returns their ids."""
    _, known = things_on(document, ground_id, layer_id)
    copies = [shifted(thing, *by) for thing in known if thing.id in ids]
    return place(document, ground_id, layer_id, copies, _label("duplicate", copies)) if copies else []


def turned(thing: Thing, by: float) -> Thing:
    """A thing turned further by some degrees, clockwise."""
    return replace(thing, turn=round((thing.turn + by) % 360, 3) % 360)


def scaled(thing: Thing, scale: float) -> Thing:
    """A thing at another scale; raises BadRequest where that is out of range."""
    if not 0 < scale <= LARGEST_SCALE:
        raise BadRequest(f"A scale of {scale:g} is out of range; give a number above 0, up to {LARGEST_SCALE:g}.")
    return replace(thing, scale=scale)


def about(thing: Thing, middle: tuple[float, float], turn: float = 0.0, *, mirror: bool = False) -> Thing:
    """A thing turned or mirrored together with others about a place."""
    x, y = thing.x - middle[0], thing.y - middle[1]
    if mirror:
        made = replace(thing, mirrored=not thing.mirrored, turn=round(-thing.turn % 360, 3) % 360)
        return replace(made, x=middle[0] - x, y=thing.y)
    rad = math.radians(turn)
    made = turned(thing, turn)
    return replace(
        made,
        x=round(middle[0] + x * math.cos(rad) - y * math.sin(rad), 3),
        y=round(middle[1] + x * math.sin(rad) + y * math.cos(rad), 3),
    )


def align(document: Document, ground_id: str, layer_id: str, ids: Collection[str], side: Side, sizes: Sizes) -> None:
    """Moves things so that one of their sides, or their middle, lies on one line."""
    _, known = things_on(document, ground_id, layer_id)
    boxes = {thing.id: bounds([thing], sizes) for thing in known if thing.id in ids}
    if len(boxes) < 2:
        raise BadRequest("Choose two things or more to align them.")
    left, top, right, bottom = bounds([thing for thing in known if thing.id in ids], sizes)
    wanted: Mapping[Side, tuple[int, Callable[[tuple[float, float, float, float]], float]]] = {
        "left": (0, lambda box: left - box[0]),
        "right": (0, lambda box: right - box[2]),
        "centre": (0, lambda box: (left + right - box[0] - box[2]) / 2),
        "top": (1, lambda box: top - box[1]),
        "bottom": (1, lambda box: bottom - box[3]),
        "middle": (1, lambda box: (top + bottom - box[1] - box[3]) / 2),
    }
    axis, far = wanted[side]

    def moved(thing: Thing) -> Thing:
        by = far(boxes[thing.id])
        return shifted(thing, by, 0) if axis == 0 else shifted(thing, 0, by)

    change(document, ground_id, layer_id, ids, f"align things ({side})", moved)


def spread(document: Document, ground_id: str, layer_id: str, ids: Collection[str], *, across: bool) -> None:
    """Moves things so that they lie evenly between the two that are farthest apart."""
    _, known = things_on(document, ground_id, layer_id)
    chosen = sorted((thing for thing in known if thing.id in ids), key=lambda one: one.x if across else one.y)
    if len(chosen) < 3:
        raise BadRequest("Choose three things or more to spread them evenly.")
    first, last = ((one.x if across else one.y) for one in (chosen[0], chosen[-1]))
    step = (last - first) / (len(chosen) - 1)
    places = {thing.id: round(first + step * number, 2) for number, thing in enumerate(chosen)}
    field = "x" if across else "y"
    changes: Callable[[Thing], Any] = lambda thing: {field: places[thing.id]}  # noqa: E731
    change(document, ground_id, layer_id, ids, "spread things", lambda thing: replace(thing, **changes(thing)))


def reorder(document: Document, ground_id: str, layer_id: str, ids: Collection[str], step: Step) -> None:
    """Moves things before or behind others in the order of the layer, which from now on is by hand."""
    layer, known = things_on(document, ground_id, layer_id)
    mine = [thing for thing in known if thing.id in ids]
    others = [thing for thing in known if thing.id not in ids]
    if not mine or not others:
        return
    above = [thing for thing in known[max(known.index(one) for one in mine) :] if thing.id not in ids]
    below = [thing for thing in known[: min(known.index(one) for one in mine)] if thing.id not in ids]
    behind = {"top": len(others), "bottom": 0, "up": len(others) - max(0, len(above) - 1), "down": len(below) - 1}
    at = max(0, behind[step])
    ordered = (*others[:at], *mine, *others[at:])
    put_layer(document, ground_id, "order things", replace(layer, things=ordered, order="hand"))


def thing_at(layer: PropLayer, x: float, y: float, within: float, sizes: Sizes) -> Thing | None:
    """The thing in front at a place, in pixels of the ground; None where there is none.

    Parameters
    ----------
    layer : Layer
        A prop layer.
    x, y : float
        In pixels of the ground.
    within : float
        How far beside it a thing is still met.
    sizes : callable
    """
    for thing in reversed(layer.in_order):
        size = sizes(thing.tile)
        far = reach(thing, size) + 2 * within
        if abs(thing.x - x) <= far and abs(thing.y - y) <= far and is_near(thing, x, y, within, size):
            return thing
    return None


def things_in(layer: PropLayer, left: float, top: float, right: float, bottom: float, sizes: Sizes) -> list[str]:
    """The things that lie wholly in a rectangle of pixels."""
    found = []
    for thing in layer.in_order:
        if left <= thing.x <= right and top <= thing.y <= bottom:
            box = bounds([thing], sizes)
            if left <= box[0] and top <= box[1] and box[2] <= right and box[3] <= bottom:
                found.append(thing.id)
    return found


def standing_in(ground: Ground, layer: Layer, shape: Shape) -> frozenset[str]:
    """The things of a layer that stand in some cells, by their ids; none on layers that hold none.

    Parameters
    ----------
    shape : Shape
        Stored cells.
    """
    props, window = as_props(layer), shape.window
    if props is None or not props.things or window.is_empty:
        return frozenset()
    # A sprite's foot is on the lower border of the cell in which it stands.
    lifted = ((one.x, one.y - (ground.tile_height / 2 if one.form == "sprite" else 0.0)) for one in props.things)
    xs, ys = np.array(list(lifted)).T
    flat_y, flat_x = (np.floor(one).astype(np.intp) for one in ground.projection.place(xs, ys))
    rows, columns = ground.board.stored("cells", flat_y, flat_x)
    rows, columns = rows - window.top, columns - window.left
    inside = (rows >= 0) & (rows < window.height) & (columns >= 0) & (columns < window.width)
    inside[inside] = shape.mask[rows[inside], columns[inside]]
    return frozenset(props.things[number].id for number in np.flatnonzero(inside).tolist())


def carry(document: Document, ground_id: str, layers: Iterable[str], shape: Shape, by: tuple[int, int] | None) -> None:
    """Moves the things that stand in some cells by flat rows and columns along with these, or with None removes them.

    Parameters
    ----------
    layers : iterable of str
        Those without things, and locked ones, are left alone.
    shape : Shape
        Stored cells.
    """
    ground = by_id(document.project.grounds, ground_id)
    (x0, y0), (x1, y1) = ground.projection.point(0, 0), ground.projection.point(*(by or (0, 0)))
    for layer_id in layers:
        layer = ground.layer(layer_id)
        ids = standing_in(ground, layer, shape)
        if ids and not layer.locked:
            if by is None:
                remove(document, ground_id, layer_id, ids)
            else:
                move(document, ground_id, layer_id, ids, (x1 - x0, y1 - y0))


def bounds(things: Iterable[Thing], sizes: Sizes) -> tuple[float, float, float, float]:
    """The smallest rectangle that holds things: left, top, right and bottom in pixels."""
    corners = [corner for thing in things for corner in outline(thing, sizes(thing.tile))]
    xs, ys = [corner[0] for corner in corners], [corner[1] for corner in corners]
    return min(xs), min(ys), max(xs), max(ys)


def drawn_shape(form: Form, start: tuple[float, float], end: tuple[float, float]) -> Thing:
    """A box, round or line between two places."""
    if form == "line":
        return Thing("new", *start, form="line", points=(Corner(0, 0), Corner(end[0] - start[0], end[1] - start[1])))
    width, height = abs(end[0] - start[0]), abs(end[1] - start[1])
    return Thing("new", (start[0] + end[0]) / 2, (start[1] + end[1]) / 2, form=form, width=width, height=height)


def drawn_polygon(way: Sequence[tuple[float, float]]) -> Thing:
    """A polygon after a line drawn by hand, with no more corners than tell its shape.

    Raises
    ------
    BadRequest
        If the line goes round nothing.

    References
    ----------
    D. H. Douglas and T. K. Peucker, "Algorithms for the reduction of the number of points", Cartographica 10 (1973).
    """
    from shapely.geometry import LineString, Polygon  # slow to import, and only needed here

    if len(way) < CORNERS_AT_LEAST["polygon"] or Polygon(way).area < 1:
        raise BadRequest("Draw a line that goes round something, to make a shape of it.")
    by = _SIMPLER_BY
    points: Sequence[tuple[float, ...]] = list(LineString(way).simplify(by).coords)
    while len(points) > MOST_POINTS:
        by *= 2
        points = list(LineString(way).simplify(by).coords)
    while len(points) < CORNERS_AT_LEAST["polygon"]:
        points = way[:: max(1, len(way) // 8)][:8]
    x, y = points[0][:2]
    return Thing("new", x, y, form="polygon", points=tuple(Corner(point[0] - x, point[1] - y) for point in points))


def _put(document: Document, ground_id: str, layer: PropLayer, things: tuple[Thing, ...], label: str) -> None:
    put_layer(document, ground_id, label, replace(layer, things=things))


def next_number(things: Iterable[Thing]) -> int:
    """The first number that is free as an id, and with it all that follow."""
    return 1 + max((int(thing.id) for thing in things if thing.id.isdecimal() and len(thing.id) < 10), default=0)


def _label(verb: str, things: Sequence[Thing]) -> str:
    return f"{verb} {len(things):,} things" if len(things) > 1 else f"{verb} {things[0].name or 'a thing'}"
