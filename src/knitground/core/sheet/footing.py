"""Where isometric images have their foot: the two lower sides of a diamond, whatever room or shadow lies round it.

For each column of an image the lowest opaque pixel is looked at. On the sides of a diamond these lie on two lines of
one slope, one falling and one rising; those lines are found as by Hough (1962): what most columns agree on.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, TileShape, slice_tiles
from knitground.core.sheet.gutters import corner_colour
from knitground.core.sheet.hexagons import Hexagon, foot_on_hexagon, hexagon_in
from knitground.core.sheet.isometric import fills_diamond, shape_of

_SOLID, _FAINT = 128, 8
SMALLEST_FOOT = 20
"""Below so many columns a ball looks like a diamond, too."""
_SLOPES = (0.5, *(number / 100 for number in range(38, 84) if number != 50))
"""How steep the sides may be, the usual first."""
_STEEP, _NEARLY = 1.0, 0.1
"""By how many pixels the ends of sides may be off, and by how much worse these may fit, to count as the usual ones."""
_LEEWAY = 0.75
_AGREE, _POINTED = 0.7, 0.1
_SMALL_HALF, _ABOUT = 8, 0.1
_UNEVEN = 0.1
_SPILLS = 6
_NARROW = 0.9
_LOW = 0.1
_NEAR = 1
_SHARE, _SMALL_SHARE = 0.12, 0.5
"""Of so many images the foot has to be seen; of more where cells are so small that anything round looks like one."""
_HEXAGONS, _LARGE, _LARGE_HEXAGONS = 0.3, 48, 0.02
"""What share of images has to show a hexagon; nothing else looks like large flat ones, of these fewer have to."""
_LOOKED_AT = 32
_MOST_TILES = 256
_TOGETHER = 1.5
"""So many pixels apart at most are the feet of images that were drawn at one place of one canvas."""


class Foot(NamedTuple):
    """The lower corner of the diamond that an image stands on, in its pixels, and the width of that diamond."""

    x: float
    y: float
    width: int


class Footing(NamedTuple):
    """The cell that some images are drawn for, the foot of each, and where the lower corner of a cell lies in each.

    `feet` has None for an image that stands on no diamond, `corners` where nothing tells.
    """

    cell: tuple[int, int]
    feet: tuple[Foot | None, ...]
    corners: tuple[tuple[float, float] | None, ...]
    shape: TileShape = "isometric"


class LowerOutline(NamedTuple):
    """The lower outline of an image: the middles of columns that show something, and how far down each does."""

    columns: NDArray[np.float64]
    low: NDArray[np.float64]
    alpha: NDArray[np.uint8]


class _Sides(NamedTuple):
    """The lower sides of a diamond: their corner, how many columns agree, and which."""

    x: float
    y: float
    share: float
    on: NDArray[np.bool_]


def footing_of(images: Sequence[NDArray[np.uint8]]) -> Footing | None:
    """How single images stand on hexagons or on isometric cells; a colour round most opaque ones counts as clear.

    Parameters
    ----------
    images : sequence of (h, w, 4) uint8
        RGBA, straight alpha.
    """
    key = corner_colour(images)
    if key is not None:
        images = [_cleared(image, key) for image in images]
    return _standing(images)


def _standing(images: Sequence[NDArray[np.uint8]]) -> Footing | None:
    """How images stand on hexagons, or else on isometric cells."""
    alphas, hexagon = [image[..., 3] for image in images], hexagon_in(images)
    on_hexagons = None if hexagon is None or hexagon.width < SMALLEST_FOOT else _on_hexagons(alphas, hexagon)
    return on_hexagons or footing(alphas)


def _cleared(image: NDArray[np.uint8], key: tuple[int, int, int]) -> NDArray[np.uint8]:
    """An image with a colour made clear."""
    alpha = np.where((image[..., :3] == key).all(axis=-1), 0, image[..., 3])
    return np.dstack([image[..., :3], alpha]).astype(np.uint8)


def _on_hexagons(alphas: Sequence[NDArray[np.uint8]], hexagon: Hexagon) -> Footing | None:
    """How images stand on hexagons; None if few show one."""
    places = [foot_on_hexagon(alpha, hexagon) for alpha in alphas]
    feet = tuple(None if place is None else Foot(*place, hexagon.width) for place in places)
    share = _LARGE_HEXAGONS if hexagon.width >= _LARGE and not hexagon.below else _HEXAGONS
    if sum(foot is not None for foot in feet) < max(2, share * len(feet)):
        return None
    shared = _shared_corners(alphas, feet)
    corners = tuple(shared.get(alpha.shape) or place for alpha, place in zip(alphas, places, strict=True))
    return Footing((hexagon.width, hexagon.height), feet, corners, hexagon.shape)


def footing(images: Sequence[NDArray[np.uint8]]) -> Footing | None:
    """How single images stand on the cells of an isometric ground; None if they don't look so.

    Parameters
    ----------
    images : sequence of (h, w) uint8
        Their alpha.
    """
    outlines = [lower_outline(image) for image in images]
    slope = common_slope([one for one in outlines if one is not None]) or _SLOPES[0]
    seen = [foot_on(one, slope) or _small_foot(image) for one, image in zip(outlines, images, strict=True)]
    if slope != _SLOPES[0] and _are_usual(_sizes(seen, images), slope):
        slope = _SLOPES[0]
        seen = [foot_on(one, slope) or _small_foot(image) for one, image in zip(outlines, images, strict=True)]
    cell = _usual_cell(_sizes(seen, images), slope)
    if cell is None:
        return None
    feet = tuple(foot if foot is not None and foot.width > _NARROW * cell[0] else None for foot in seen)
    share = _SHARE if cell[0] >= SMALLEST_FOOT else _SMALL_SHARE
    if sum(foot is not None for foot in feet) <= max(1, share * len(images)):
        return None
    return Footing(cell, feet, tuple(_corners(images, outlines, seen, cell)))


def lower_outline(alpha: NDArray[np.uint8]) -> LowerOutline | None:
    """The lower outline of an image; None if nothing in it is opaque.

    Parameters
    ----------
    alpha : (h, w) uint8
    """
    solid = alpha >= _SOLID
    columns = np.flatnonzero(solid.any(axis=0))
    if not columns.size:
        return None
    low = solid.shape[0] - np.argmax(solid[::-1, columns], axis=0)
    return LowerOutline((columns + 0.5).astype(np.float64), low.astype(np.float64), alpha)


def common_slope(outlines: Sequence[LowerOutline]) -> float | None:
    """How steep the sides of most images are, in pixels down for each across; None where none has two sides."""
    found, usual, off = [], [], []
    for one in outlines[:: max(1, len(outlines) // _LOOKED_AT)]:
        sides = [_sides(one, slope) for slope in _likely_slopes(one)]
        best = int(np.argmax([side.share for side in sides])) if sides else 0
        if sides and sides[best].share >= _AGREE:
            found.append(_refined(one, sides[best]))
            off.append(abs(found[-1] - _SLOPES[0]) * len(one.columns) / 2)
            usual.append(sides[0].share >= sides[best].share - _NEARLY)
    if not found:
        return None
    limit = _STEEP * (1.5 if np.mean(usual) > 0.5 else 1.0)
    return _SLOPES[0] if np.median(off) < limit else float(np.median(found))


def _likely_slopes(outline: LowerOutline) -> list[float]:
    """The usual slope, and those about as steep as the halves of an outline are on the whole; none if it has none."""
    if not _is_pointed(outline):
        return []
    low, at = outline.low, int(outline.low.argmax())
    halves = [half for half in (low[: at + 1], low[: at - 1 : -1]) if len(half) > _SMALL_HALF]
    steep = [float(np.median(np.diff(half[:: _SMALL_HALF // 2]))) / (_SMALL_HALF // 2) for half in halves]
    if not steep:
        return []
    return [slope for slope in _SLOPES if slope == _SLOPES[0] or abs(slope - np.mean(steep)) <= _ABOUT]


def _is_pointed(outline: LowerOutline) -> bool:
    """Whether an outline reaches lower in its middle than at both ends; a quick look, as most art doesn't."""
    low, count = outline.low, len(outline.low)
    part = count // 8
    return count >= SMALLEST_FOOT and bool(low.max() - max(low[:part].min(), low[-part:].min()) >= _POINTED * count)


def _sides(outline: LowerOutline, slope: float) -> _Sides:
    """Where the two sides run that most columns agree on, and how many agree on the one of them that is theirs."""
    falls, rises = outline.low + slope * outline.columns, outline.low - slope * outline.columns
    right, left = _agreed(falls), _agreed(rises)
    x, y = (right - left) / (2 * slope), (right + left) / 2
    beyond = outline.columns > x
    on = np.where(beyond, np.abs(falls - right), np.abs(rises - left)) <= _LEEWAY
    share = min(half.mean() if half.size else 0.0 for half in (on[beyond], on[~beyond]))
    return _Sides(x, y, float(share), on)


def _agreed(values: NDArray[np.float64]) -> float:
    """The middle of what most of some values agree on."""
    ordered = np.sort(values)
    counts = np.searchsorted(ordered, ordered + 2 * _LEEWAY, "right") - np.arange(len(ordered))
    best = int(np.argmax(counts))
    return float(ordered[best : best + counts[best]].mean())


def _refined(outline: LowerOutline, sides: _Sides) -> float:
    """The slope that suits the columns of both sides best, by least squares."""
    across, low = outline.columns[sides.on] - sides.x, outline.low[sides.on]
    design = np.stack([np.abs(across), np.sign(across), np.ones_like(across)], axis=1)
    return float(-np.linalg.lstsq(design, low, rcond=None)[0][0])


def foot_on(outline: LowerOutline | None, slope: float) -> Foot | None:
    """The foot that an outline shows, if its sides are as steep as said; else None."""
    if outline is None or not _is_pointed(outline):
        return None
    sides = _sides(outline, slope)
    if sides.share < _AGREE:
        return None
    within = outline.columns[sides.on]
    # What is round goes on beyond what looks like a corner.
    if len(outline.columns) - np.ptp(within) > max(_SPILLS, _UNEVEN * np.ptp(within)):
        return None
    left, right = sides.x - within[0] + 0.5, within[-1] + 0.5 - sides.x
    width = left + right
    if abs(left - right) > _UNEVEN * width:
        return None
    # Corners that end softly reach a pixel further than what is opaque.
    middle = round(sides.y - slope * width / 2)
    faint = (outline.alpha[max(0, middle - 2) : middle + 3] >= _FAINT).any(axis=0)
    beside = np.flatnonzero(faint) + 0.5 - sides.x
    beside = beside[np.abs(beside) < width / 2 + 2]
    before, after = -beside.min(initial=0.0), beside.max(initial=0.0)
    # A shadow reaches further at one side only.
    ends = before + after if abs(before - after) < _LEEWAY else 2 * min(before, after)
    foot = Foot(sides.x, sides.y, round(ends) + 1)
    high, wide = outline.alpha.shape
    # A flat canvas that ends about there says where it ends.
    flat = abs(2 * high - wide) <= 2 and 0 <= wide - foot.width <= 2
    tight = flat and abs(foot.x - wide / 2) <= _NEAR and abs(foot.y - high) <= _NEAR
    return Foot(wide / 2, high, wide) if tight else foot


def _small_foot(alpha: NDArray[np.uint8]) -> Foot | None:
    """The foot of an image that is too small for its sides to tell much: it ends where the image does."""
    height, width = alpha.shape
    if width > 2 * SMALLEST_FOOT or (alpha[-1] > 0).sum() > max(4, width // 5) or not fills_diamond(alpha):
        return None
    return Foot(width / 2, height, width)


def _sizes(feet: Sequence[Foot | None], images: Sequence[NDArray[np.uint8]]) -> list[tuple[int, int]]:
    """Of what stands on a foot: how wide that is, and how high the art is above its lower corner."""
    return [
        (foot.width, round(foot.y) - int(np.argmax((alpha >= _FAINT).any(axis=1))))
        for foot, alpha in zip(feet, images, strict=True)
        if foot is not None
    ]


def _are_usual(sizes: Sequence[tuple[int, int]], slope: float) -> bool:
    """Whether flat art is half as high as wide, though its sides look a little steeper or less steep than that."""
    flat = [height - width / 2 for width, height in sizes if abs(height - slope * width) <= 3]
    return len(flat) > 1 and abs(float(np.median(flat))) <= 1


def _usual_cell(sizes: Sequence[tuple[int, int]], slope: float) -> tuple[int, int] | None:
    """The size of the diamond that most images stand on: of flat ones, where there are some."""
    flat, wide, ups = Counter[tuple[int, int]](), Counter[int](), []
    for width, height in sizes:
        wide[width] += 1
        ups.append(height / width - slope)
        if abs(height - slope * width) <= 2:
            # The corners of thin diamonds at the left and the right show nothing.
            lacks = slope == _SLOPES[0] and height % 2 == 0 and 2 * height - width == 2
            flat[width + 2 * lacks, height] += 1
    if wide.total() < 2:
        return None
    # Hexagons have the outline of blocks of one height, mostly in another angle than the usual one.
    if slope != _SLOPES[0] and flat.total() < 2 and (slope < _SLOPES[0] or np.ptp(np.quantile(ups, (0.1, 0.9))) < _LOW):
        return None
    width, height = max(wide, key=lambda one: (wide[one], one)), 0
    if flat.total() > 1:
        width, height = max(flat, key=lambda one: (flat[one], one))
    if slope == _SLOPES[0]:
        # Art that reaches a pixel over its cell lies close, art that is one short of it leaves a line.
        return width - width % 2, width // 2
    # The upright sides of blocks are as wide as the cell, the corners of floors may show nothing.
    upright = Counter(wide for wide, high in sizes if high - slope * wide > 2 and 0 < wide - width <= 2)
    if upright.total() > 1:
        width = upright.most_common(1)[0][0]
    height = height or max(1, round(width * slope))
    return width, height + height % 2


def _corners(
    images: Sequence[NDArray[np.uint8]],
    outlines: Sequence[LowerOutline | None],
    feet: Sequence[Foot | None],
    cell: tuple[int, int],
) -> list[tuple[float, float] | None]:
    """Where the lower corner of a cell lies in each image; what stands on a smaller diamond stands in its middle."""
    shared = _shared_corners(images, [foot if foot and foot.width > _NARROW * cell[0] else None for foot in feet])
    found: list[tuple[float, float] | None] = []
    for image, outline, foot in zip(images, outlines, feet, strict=True):
        corner = shared.get(image.shape)
        if corner is None and foot is not None:
            smaller = 0 if foot.width > _NARROW * cell[0] else cell[0] - foot.width
            corner = foot.x, foot.y + smaller * cell[1] / cell[0] / 2
        found.append(_far_side(outline, cell) if corner is None and outline is not None else corner)
    return found


def _shared_corners(
    images: Sequence[NDArray[np.uint8]], feet: Sequence[Foot | None]
) -> dict[tuple[int, ...], tuple[float, float]]:
    """By the size of a canvas on which all was drawn at its place: where the lower corner of the cell is there."""
    by_size: dict[tuple[int, ...], list[Foot]] = {}
    for image, foot in zip(images, feet, strict=True):
        if foot is not None:
            by_size.setdefault(image.shape, []).append(foot)
    found = {}
    for size, there in by_size.items():
        places = np.array([(foot.x, foot.y) for foot in there])
        middle = np.median(places, axis=0)
        if len(there) > 1 and (np.abs(places - middle) <= _TOGETHER).all(axis=1).mean() >= _NARROW:
            found[size] = float(middle[0]), float(middle[1])
    return found


def _far_side(outline: LowerOutline, cell: tuple[int, int]) -> tuple[float, float] | None:
    """Where the lower corner of a cell lies in an image of a wall at one of its two far sides; None if it is none."""
    slope, half = cell[1] / cell[0], cell[0] / 2
    if abs(np.ptp(outline.columns) + 1 - half) > _UNEVEN * cell[0]:
        return None
    for way in (1, -1):
        level = outline.low + way * slope * outline.columns
        at = _agreed(level)
        if (np.abs(level - at) <= _LEEWAY).mean() >= _AGREE:
            x = outline.columns[-1] + 0.5 if way > 0 else outline.columns[0] - 0.5
            return float(x), float(at - way * slope * x + cell[1])
    return None


def with_shape(picture: NDArray[np.uint8], cut: Cut) -> Cut:
    """A cut with the shape that its tiles show; what stands on a diamond or a hexagon stands on its foot.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet, straight alpha.
    cut : Cut
    """
    tiles = _tiles_in(picture, cut)
    found = _standing(tiles) if len(tiles) > 1 else None
    if found is None or found.cell[0] < SMALLEST_FOOT or len(corners := set(found.corners)) > 1 or None in corners:
        plain = shape_of(picture, cut) == "square"
        return cut if plain else replace(cut, shape="isometric", anchor=cut.anchor or "bottom")
    ((x, y),) = (corner for corner in corners if corner is not None)
    across = round(found.cell[0] / 2 - x - (found.cell[0] - cut.tile_width) // 2)
    down = round(cut.tile_height - y)
    usual = replace(cut, shape=found.shape, anchor=cut.anchor or ("bottom" if found.shape == "isometric" else None))
    if max(abs(across), abs(down), *np.abs(np.subtract(usual.footprint, found.cell))) <= _NEAR:
        return usual
    standing = replace(usual, anchor="bottom", offset_x=across, offset_y=down)
    return standing if standing.footprint == found.cell else replace(standing, foot=found.cell)


def _tiles_in(picture: NDArray[np.uint8], cut: Cut) -> list[NDArray[np.uint8]]:
    """The tiles of a grid that show anything, some of many; none where they are too small to tell."""
    if cut.pieces or cut.tile_width < SMALLEST_FOOT:
        return []
    try:
        tiles = slice_tiles(picture, cut)
    except BadSheet:
        return []
    held = np.argwhere(tiles[..., 3].any(axis=(2, 3)))
    return [tiles[row, column] for row, column in held[:_MOST_TILES]]
