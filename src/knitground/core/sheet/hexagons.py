"""Whether images show hexagons, on a point or on a side, how large these are, and where they lie in each image.

The most common silhouette is what most images of one size agree on, so that grass over a border or a tree on one of
them does not count. Its four slanted sides are found by least squares.
"""

from collections import Counter
from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

HexShape = Literal["hex-pointed", "hex-flat"]

_SOLID = 128
SMALLEST_HEXAGON = 16
_GROUPS, _LOOKED_AT = 4, 64
"""How many sizes of art are looked at, and of how many images of each."""
_AGREE, _OFF, _ON, _OFF_PER_PIXEL = 0.6, 0.9, 0.9, 0.025
"""What share of images has to show a pixel, and how far from its side what share of the border may be: less on small
ones, as circles of 24 pixels have about the same border."""
_UNEVEN, _PIXELS = 0.06, 1.5
"""By what share, or so many pixels, a side may be longer or shorter than another or than a hexagon's."""
_FULL = 0.96
_THICK = 0.45
"""So many times the height of a hexagon may be below its face; octagons show more."""
_NEAR, _SUITS = 3, 0.06
_CONTRAST, _SAME = 9.0, 0.7
"""How much lighter one side of a corner of blocks is than the other, and on what share of them."""


class Hexagon(NamedTuple):
    """What hexagons some images show: how they lie, the box of their face, and how much of each is below that."""

    shape: HexShape
    width: int
    height: int
    below: int


class _Side(NamedTuple):
    """A slanted side of a silhouette: how far it goes across and down, in pixels."""

    across: float
    down: float


def hexagon_in(images: Sequence[NDArray[np.uint8]]) -> Hexagon | None:
    """The hexagons that some images show; None if most of them show something else, or blocks seen from a corner.

    Parameters
    ----------
    images : sequence of (h, w, 4) uint8
        RGBA, straight alpha.
    """
    found = hexagon_outline([image[..., 3] for image in images])
    if found is None or found.shape == "hex-flat":
        return found
    size = found.height + found.below, found.width
    boxes = [box_of(image[..., 3] >= _SOLID) for image in images]
    alike = [image[box] for image, box in zip(images, boxes, strict=True) if box and _size_of(box) == size]
    floors = [image[box][..., 3] for image, box in zip(images, boxes, strict=True) if box and _is_floor(box, found)]
    # A diamond of that width among them takes half of its box.
    diamonds = sum(abs(float((one >= _SOLID).mean()) - 0.5) < _UNEVEN for one in floors)
    return None if diamonds > 1 or _are_blocks(alike[:_LOOKED_AT], found) else found


def hexagon_outline(alphas: Sequence[NDArray[np.uint8]]) -> Hexagon | None:
    """The hexagons whose outlines some images have, as blocks seen from a corner may have, too.

    Parameters
    ----------
    alphas : sequence of (h, w) uint8
    """
    shown = [alpha >= _SOLID for alpha in alphas]
    boxes = [box_of(one) for one in shown]
    sizes = Counter(_size_of(box) for box in boxes if box is not None)
    for size, _ in sizes.most_common(_GROUPS):
        if min(size) < SMALLEST_HEXAGON:
            continue
        alike = [one[box] for one, box in zip(shown, boxes, strict=True) if box and _size_of(box) == size]
        found = _hexagon_of(np.mean(alike[:_LOOKED_AT], axis=0) >= _AGREE)
        if found is not None:
            return found
    return None


def _is_floor(box: tuple[slice, slice], hexagon: Hexagon) -> bool:
    """Whether what takes a box may be the floor beside blocks with the outline of pointed hexagons."""
    height, width = _size_of(box)
    return abs(width - hexagon.width) <= _NEAR and abs(height - hexagon.height / 2) <= _NEAR


def _size_of(box: tuple[slice, slice]) -> tuple[int, int]:
    return box[0].stop - box[0].start, box[1].stop - box[1].start


def box_of(solid: NDArray[np.bool_]) -> tuple[slice, slice] | None:
    """The rows and columns in which something is; None if nothing is.

    Parameters
    ----------
    solid : (h, w) bool
    """
    rows, columns = np.flatnonzero(solid.any(axis=1)), np.flatnonzero(solid.any(axis=0))
    if not rows.size:
        return None
    return slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1)


def foot_on_hexagon(alpha: NDArray[np.uint8], hexagon: Hexagon) -> tuple[float, float] | None:
    """Where the lower middle of the box of a hexagon lies in an image of one; None if it shows none.

    Parameters
    ----------
    alpha : (h, w) uint8
    hexagon : Hexagon
        The usual one.
    """
    solid = alpha >= _SOLID
    box = box_of(solid)
    if box is None:
        return None
    # Trees and towers may reach far aside, but not so far down.
    low = hexagon.height // 2 + hexagon.below
    part = solid[max(0, box[0].stop - low) : box[0].stop]
    columns = np.flatnonzero(part.sum(axis=0) > (hexagon.shape == "hex-pointed"))
    if not columns.size:
        return None
    left, right = int(columns[0]), int(columns[-1]) + 1
    if abs(right - left - hexagon.width) > max(_NEAR, _UNEVEN * hexagon.width):
        return None
    # A hexagon takes three quarters of its box; a round or an empty one less, a crate all of it.
    share = 0.75 * hexagon.height / 2 + hexagon.below
    if not 0.85 * share <= part.sum() / hexagon.width <= 1.08 * share:
        return None
    return (left + right) / 2, float(box[0].stop - hexagon.below)


def _hexagon_of(shown: NDArray[np.bool_]) -> Hexagon | None:
    """The hexagon that a silhouette without room round it is; it may be thicker than its face."""
    height, width = shown.shape
    corners = [_starts(part) for part in (shown, shown[:, ::-1], shown[::-1], shown[::-1, ::-1])]
    leeway = min(_OFF, _OFF_PER_PIXEL * width)
    sides = [side for corner in corners if (side := _side(corner, leeway)) is not None]
    if len(sides) < len(corners):
        return None
    across, down = (float(np.mean([side[axis] for side in sides])) for axis in (0, 1))
    for side in sides:
        if abs(side.across - across) > _leeway(across) or abs(side.down - down) > _leeway(down):
            return None
    shape: HexShape
    if abs(across - width / 2) <= _leeway(width / 2):
        shape, across, part = "hex-pointed", width / 2, 4
    elif abs(across - width / 4) <= _leeway(width / 4):
        shape, across, part = "hex-flat", width / 4, 2
    else:
        return None
    high = _height_of(corners, (across, part), round(part * down), height)
    below = height - high
    if not 0 <= below <= _THICK * high or high < SMALLEST_HEXAGON // 2:
        return None
    full = width * (0.75 * high + below)
    return Hexagon(shape, width, high, below) if shown.sum() >= _FULL * full else None


def _leeway(length: float) -> float:
    return max(_PIXELS, _UNEVEN * length)


def _height_of(corners: Sequence[NDArray[np.float64]], side: tuple[float, int], about: int, whole: int) -> int:
    """The height of a face that suits its four corners best: all of a silhouette or an even one, if these suit, too.

    Parameters
    ----------
    corners : sequence of (rows,) float64
        Where the upper half begins, seen from each corner.
    side : (float, int)
        How far slanted sides go across, and what part of the height they go down.
    about, whole : int
        The height within a few pixels, and that of the silhouette.
    """
    rows, (across, part) = np.arange(len(corners[0])) + 0.5, side
    reach = max(_NEAR, round(_UNEVEN * about))
    off = {}
    for high in range(max(2, about - reach), about + reach + 1):
        begins = np.maximum(0.0, across * (1 - rows * part / high))
        # Each pixel of a row counts as much as it is away from the side.
        off[high] = float(np.mean([np.abs(one - begins).sum() for one in corners]) / np.hypot(across, high / part))
    suits = [high for high, much in off.items() if much <= min(off.values()) + _SUITS]
    if whole in suits:
        return whole
    return min([high for high in suits if high % 2 == 0] or suits, key=off.__getitem__)


def _starts(shown: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Where the rows of the upper half of a silhouette begin."""
    return np.asarray(np.argmax(shown[: len(shown) // 2 + 1], axis=1), dtype=np.float64)


def _side(starts: NDArray[np.float64], leeway: float) -> _Side | None:
    """The slanted side at the upper left of a silhouette, by where its rows begin; None if there is none."""
    ends = np.flatnonzero(starts < 1)
    last = int(ends[0]) if ends.size else 0
    if last < 3:
        return None
    rows = np.arange(last) + 0.5
    slope, begin = np.polyfit(rows, starts[:last], 1)
    if slope > -0.2:
        return None
    # The distance from the side, not along the row: flat sides are drawn in long steps.
    off = np.abs(starts[:last] - (begin + slope * rows)) / np.hypot(1.0, slope)
    if (off <= leeway).mean() < _ON:
        return None
    return _Side(float(begin), float(-begin / slope))


def _are_blocks(tiles: Sequence[NDArray[np.uint8]], hexagon: Hexagon) -> bool:
    """Whether what has the outline of pointed hexagons is blocks seen from a corner, which have sides of other shades.

    Parameters
    ----------
    tiles : sequence of (h, w, 4) uint8
        Cut where their art ends.
    hexagon : Hexagon
    """
    middle, deep = hexagon.width // 2, hexagon.height // 4
    beside = max(2, hexagon.width // 12)
    sides, tops = [], []
    for tile in tiles:
        light = tile[..., :3].astype(np.float64).mean(axis=2)
        upright = light[2 * deep + 2 : 4 * deep - 2]
        before, behind = upright[:, middle - beside : middle], upright[:, middle : middle + beside]
        sides.append(float(behind.mean() - before.mean()) if upright.size else 0.0)
        tops.append(_step_below_face(light, middle, deep, beside))
    return any(
        max(sum(step > _CONTRAST for step in steps), sum(step < -_CONTRAST for step in steps)) >= _SAME * len(steps)
        for steps in (sides, tops)
    )


def _step_below_face(light: NDArray[np.float64], middle: int, deep: int, beside: int) -> float:
    """How much lighter it is below the lower sides of the diamond on top of a block than above them."""
    columns = np.arange(middle // 4, 2 * middle - middle // 4)
    line = np.round(2 * deep - np.abs(columns + 0.5 - middle) * deep / middle).astype(int)
    steps = range(1, beside + 1)
    above = np.mean([light[np.clip(line - step, 0, len(light) - 1), columns] for step in steps])
    below = np.mean([light[np.clip(line + step, 0, len(light) - 1), columns] for step in steps])
    return float(below - above)
