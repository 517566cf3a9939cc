"""Isometric tiles of one sheet: the lower corners of their diamonds stand in even lines, which tells the distances.

Floors, walls and things of one sheet differ in height, so that their art hardly shows how far apart their cells are.
"""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut
from knitground.core.sheet.footing import SMALLEST_FOOT, Foot, LowerOutline, common_slope, foot_on, lower_outline
from knitground.core.sheet.hexagons import foot_on_hexagon, hexagon_outline

_MOST_PIXELS, _MOST_SHAPES = 2**24, 4096
_FEWEST, _OFF, _NEARLY_ALL, _MOST_LINES = 5, 1.5, 0.8, 32
"""How many feet tell, by how many pixels each may be off its place, what share is not, and how many lines are tried."""
_DEEP = 4
"""How far up the outline goes at least between two tiles that touch."""
_FOOTED = 0.3
"""What share of the cells with art has a foot at least."""
_SURE = 0.3
"""How far from whole pixels the distance of lines may be."""
_LITTLE = 0.25
"""So much of what a row shows on average may be where tiles end."""
_STACKED, _PART = 0.2, 0.15
"""What share of the cells may show a thing above another, each at least so much of all that they show."""
_ALIKE, _NARROWEST, _TOUCHING = 0.1, 0.45, 4
"""By what share a cell may be narrower than the widest foot, how wide a foot is beside that one at least, and by how
many pixels cells are wider where floors touch."""


Box = tuple[slice, ...]


class _Lines(NamedTuple):
    """Where feet stand along an axis: the first, and how far apart, in pixels."""

    first: float
    pitch: float


def footed_cut(art: NDArray[np.bool_]) -> Cut | None:
    """The cut of isometric tiles by where their feet stand; none where these don't stand at even distances.

    Parameters
    ----------
    art : (H, W) bool
        What is opaque.
    """
    if art.size > _MOST_PIXELS or not art.any() or art.all():
        return None
    feet = _feet_on(art)
    if len(feet) < _FEWEST:
        return None
    # A thing may end below as a diamond does; its width tells. What takes two by two cells is twice as wide.
    wide = max(foot.width for foot in feet)
    places = np.array([(foot.x, foot.y) for foot in feet if foot.width >= _NARROWEST * wide])
    across, down = _lines(places[:, 0]), _lines(places[:, 1])
    if across is None or down is None or not wide * (1 - _ALIKE) <= across.pitch < 2 * wide:
        return None
    on = [_off(places[:, axis], lines) <= _OFF for axis, lines in enumerate((across, down))]
    # Floors that touch their neighbours end half-way between feet.
    touch = round(across.first + across.pitch / 2) if across.pitch <= wide + _TOUCHING else None
    columns, rows = _run(art, 0, across, touch), _run(art, 1, down, _below_feet(art, down))
    if columns is None or rows is None:
        return None
    return _cut_of(art, int((on[0] & on[1]).sum()), columns, rows)


def _feet_on(art: NDArray[np.bool_]) -> list[Foot]:
    """The feet of all shapes that stand on a diamond or a hexagon."""
    # Corners that touch, blades of grass and thin lines are no part of a shape.
    bulk = scipy.ndimage.binary_erosion(art, np.ones((3, 3), bool))
    labels, count = scipy.ndimage.label(bulk, np.ones((3, 3), int))
    if not 1 < count <= _MOST_SHAPES:
        return []
    boxes: list[Box] = scipy.ndimage.find_objects(labels)
    shapes = [
        (box, (labels[box] == number).astype(np.uint8) * 255)
        for number, box in enumerate(boxes, start=1)
        if box[1].stop - box[1].start >= SMALLEST_FOOT
    ]
    # Blocks of some height have the outline of hexagons.
    return max(_on_diamonds(shapes), _on_hexagons(shapes), key=len)


def _on_diamonds(shapes: Sequence[tuple[Box, NDArray[np.uint8]]]) -> list[Foot]:
    """The feet of all shapes that end below as diamonds do, each with its box on the sheet and its alpha."""
    pieces = [(box, outline) for box, alpha in shapes for outline in _parted(lower_outline(alpha))]
    slope = common_slope([outline for _, outline in pieces])
    if slope is None:
        return []
    found = [(box, _on_pixels(outline, foot_on(outline, slope))) for box, outline in pieces]
    return [foot._replace(x=foot.x + box[1].start, y=foot.y + box[0].start) for box, foot in found if foot is not None]


def _on_hexagons(shapes: Sequence[tuple[Box, NDArray[np.uint8]]]) -> list[Foot]:
    """The feet of all shapes that are hexagons, each with its box on the sheet and its alpha."""
    hexagon = hexagon_outline([alpha for _, alpha in shapes])
    if hexagon is None:
        return []
    places = [(box, foot_on_hexagon(alpha, hexagon)) for box, alpha in shapes]
    return [
        Foot(place[0] + box[1].start, place[1] + box[0].start, hexagon.width)
        for box, place in places
        if place is not None
    ]


def _on_pixels(outline: LowerOutline, foot: Foot | None) -> Foot | None:
    """A foot where the art ends, if it ends about there: that is the same for all tiles to the pixel."""
    if foot is None:
        return None
    x, y = float(outline.columns[[0, -1]].mean()), float(outline.low.max())
    return foot._replace(x=x if abs(x - foot.x) <= _OFF else foot.x, y=y if abs(y - foot.y) <= _OFF else foot.y)


def _parted(outline: LowerOutline | None) -> Iterator[LowerOutline]:
    """The lower outlines of all tiles that one goes along."""
    if outline is None or len(outline.columns) < 2 * SMALLEST_FOOT:
        yield from [] if outline is None else [outline]
        return
    ends = [0, *(_highest(outline.low, a, b) for a, b in pairwise(bottoms(outline.low, _DEEP))), len(outline.low)]
    for begin, end in pairwise(ends):
        yield outline._replace(columns=outline.columns[begin:end], low=outline.low[begin:end])


def bottoms(low: NDArray[np.float64], deep: float) -> list[int]:
    """Where an outline is lowest for a while: the middles of its peaks of some prominence.

    The prominence is how far one has to go up on either side before it goes farther down than there, as topography
    has it. That part of SciPy would take longer to come in than a sheet takes to be looked at.

    Parameters
    ----------
    low : (N,) float64
        How far down it goes at each column, 0 or more.
    deep : float
        The least prominence.
    """
    padded = np.concatenate([[0], low, [0]])
    begins = np.concatenate([[0], np.flatnonzero(np.diff(padded)) + 1])
    ends, values = np.append(begins[1:], len(padded)), padded[begins]
    found = []
    for run in np.flatnonzero((values[1:-1] > values[:-2]) & (values[1:-1] > values[2:])) + 1:
        deeper = np.flatnonzero(values > values[run])
        before, after = deeper[deeper < run].max(initial=-1) + 1, deeper[deeper > run].min(initial=len(values))
        sides = values[before:run].min(), values[run + 1 : after].min()
        if values[run] - max(sides) >= deep:
            found.append(int(begins[run] + ends[run] - 1) // 2 - 1)
    return found


def _highest(low: NDArray[np.float64], begin: int, end: int) -> int:
    """The middle of where an outline is highest between two places."""
    there = low[begin:end]
    return begin + int(np.flatnonzero(there == there.min()).mean()) + 1


def _lines(places: NDArray[np.float64]) -> _Lines | None:
    """The lines furthest apart that nearly all of some places stand in; none where all stand in one."""
    ordered = np.sort(places)
    groups = np.split(ordered, np.flatnonzero(np.diff(ordered) > 2 * _OFF) + 1)
    middles = np.array([group.mean() for group in groups[:_MOST_LINES]])
    apart = np.abs(middles[:, None] - middles)
    best: tuple[int, float, float] | None = None
    for pitch in np.unique(apart[apart >= SMALLEST_FOOT]).tolist():
        for first in middles.tolist():
            on = _off(places, _Lines(first, pitch)) <= _OFF
            # One of two lines at any distance fits all; several have to show it.
            if on.mean() >= _NEARLY_ALL and (best is None or (int(on.sum()), pitch) > best[:2]):
                best = int(on.sum()), pitch, first
    if best is None:
        return None
    steps = np.round((places - best[2]) / best[1])
    on = _off(places, _Lines(best[2], best[1])) <= _OFF
    known = np.unique(steps[on])
    if len(known) < 2:
        return None
    pitch, first = np.polyfit(known, [np.median(places[on & (steps == step)]) for step in known], 1)
    return _Lines(float(first), round(float(pitch))) if abs(pitch - round(float(pitch))) <= _SURE else None


def _off(places: NDArray[np.float64], lines: _Lines) -> NDArray[np.float64]:
    """How far each place is from the nearest of some lines."""
    steps = (places - lines.first) / lines.pitch
    return np.asarray(np.abs(steps - np.round(steps)) * lines.pitch)


class _Run(NamedTuple):
    """Where tiles begin, how long they are, and how far apart."""

    first: int
    length: int
    pitch: int


def _run(art: NDArray[np.bool_], axis: int, lines: _Lines, ends: int | None = None) -> _Run | None:
    """Where tiles lie along an axis; where art goes on across each place, by where one is known to end."""
    pitch = round(lines.pitch)
    places = np.bincount(np.flatnonzero(art.any(axis=axis)) % pitch, minlength=pitch) > 0
    clear = np.flatnonzero(~places)
    if not clear.size:
        return None if ends is None else _Run(ends % pitch, pitch, pitch)
    # Tiles are what lies between the longest stretches without art.
    twice = np.concatenate([places, places, [True]])
    lengths = [int(np.argmax(twice[at:])) for at in clear]
    longest = int(np.argmax(lengths))
    return _Run((int(clear[longest]) + lengths[longest]) % pitch, pitch - lengths[longest], pitch)


def _below_feet(art: NDArray[np.bool_], lines: _Lines) -> int | None:
    """Where the tiles end that stand in some rows, if little shows there; nothing may be clear on the way."""
    pitch = round(lines.pitch)
    shown = art.sum(axis=1)
    counts = np.bincount(np.arange(len(shown)) % pitch, shown, pitch)
    rows = np.arange(round(lines.first), round(lines.first) + pitch // 4) % pitch
    best = int(rows[np.argmin(counts[rows])])
    return best if counts[best] <= _LITTLE * counts.mean() else None


def _cut_of(art: NDArray[np.bool_], feet: int, columns: _Run, rows: _Run) -> Cut | None:
    """The cut of what lies in some columns and rows; none where few tiles have a foot, or many show two things."""
    height, width = art.shape
    many = (-(-(height - rows.first) // rows.pitch), -(-(width - columns.first) // columns.pitch))
    padded = np.zeros((many[0] * rows.pitch, many[1] * columns.pitch), bool)
    padded[: height - rows.first, : width - columns.first] = art[rows.first :, columns.first :]
    # How much each row of each cell shows: (lines of cells, rows in one, cells in a line).
    shown = padded.reshape(many[0], rows.pitch, many[1], columns.pitch).sum(axis=3)
    filled = shown.sum(axis=1) > 0
    if feet < _FOOTED * filled.sum() or _stacked(shown)[filled].mean() > _STACKED:
        return None
    return Cut(
        "", columns.length, rows.length, columns.first, rows.first,
        columns.pitch - columns.length, rows.pitch - rows.length,
    )  # fmt: skip


def _stacked(shown: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which cells show a thing above another, with clear rows between, by how much their rows show, (n, rows, m)."""
    before = np.cumsum(shown, axis=1)
    share = before / np.maximum(before[:, -1:], 1)
    return np.asarray(((shown == 0) & (share > _PART) & (share < 1 - _PART)).any(axis=1))
