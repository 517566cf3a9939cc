"""What fills the gutters of a sheet: a key that means nothing is there, if tiles stand on it, too."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.bared import is_hazy
from knitground.core.sheet.checkered import CHECKER, checker_on
from knitground.core.sheet.colour import hex_of
from knitground.core.sheet.cut import Cut, grid_of, tile_rects
from knitground.core.sheet.settled import settled
from knitground.core.sheet.uneven import GROUND, uneven_ground

_NEARLY_ALL = 0.95
_ROUND, _SEEN = 0.6, 32
"""What share of the corners of images has the colour that they are drawn on; how many lines of one are looked at."""
_FEWEST, _BARE, _STAND = 3, 0.04, 2
"""How many cells, and what share of all, show nothing but the colour of what is empty; how many tiles stand on it."""
_PURE = ((255, 0, 255), (0, 255, 255), (0, 255, 0), (0, 0, 255))
_MOSTLY, _SOME = 0.8, 0.05
"""How much of what lies beside tiles is uneven ground, with its grain and captions on it, and how much of tiles."""
_LOOKED_AT = 768


class Looked(NamedTuple):
    """What is looked at of a sheet once, for who asks often.

    Attributes
    ----------
    seen : (h, w, 4) uint8
        Its corner; where colours were kept nearly its ground is made even.
    checkered, hazy : bool
        Whether a checkerboard is drawn in there, or a haze lies on it.
    ground : (h, w) bool, optional
        Where a ground shows that is not of one colour, in every so manieth pixel of the whole.
    step : int
        In which.
    """

    seen: NDArray[np.uint8]
    checkered: bool
    hazy: bool
    ground: NDArray[np.bool_] | None
    step: int


def looked_at(pixels: NDArray[np.uint8]) -> Looked:
    """What is to be looked at of a sheet.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha.
    """
    corner = pixels[:_LOOKED_AT, :_LOOKED_AT]
    step = -(-max(pixels.shape[:2]) // _LOOKED_AT)
    some = np.ascontiguousarray(pixels[::step, ::step])
    ground = uneven_ground(some)
    shown = None if ground is None else ground.on(some)
    return Looked(settled(corner), checker_on(corner) is not None, is_hazy(corner), shown, step)


def gutter_key(pixels: NDArray[np.uint8], cuts: Sequence[Cut], looked: Looked | None = None) -> str | None:
    """The one opaque colour between and round the tiles of a sheet, if a tile has it at all its corners; else None.

    Where tiles lie without gaps, it is what fills the empty cells. Where a checkerboard is drawn in, it is that,
    whatever the cuts are; an uneven ground is, if tiles stand on it. Lines that are ruled between tiles are of one
    colour, too, but no tile stands on them.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha.
    cuts : sequence of Cut
        All that the sheet has.
    looked : Looked, optional
        `looked_at` the pixels, for who asks often: while a cut is dragged this is asked again and again.
    """
    looked = looked_at(pixels) if looked is None else looked
    if looked.checkered:
        return CHECKER
    tiles: list[list[int]] = []
    for cut in cuts:
        try:
            columns, rows, _, _ = grid_of(cut, pixels.shape[1], pixels.shape[0])
        except BadSheet:
            return None
        cells = np.stack(np.meshgrid(np.arange(columns), np.arange(rows)), axis=-1).reshape(-1, 2)
        tiles += tile_rects(cut, cells).tolist()
    # A grained ground has a colour, too, but what is as far from that as its grains is art as well.
    if looked.ground is not None and _stand_on(looked.ground, looked.step, tiles):
        return GROUND
    return _colour_between(looked.seen, tiles, slanted=any(cut.shape != "square" for cut in cuts))


def corner_colour(images: Iterable[NDArray[np.uint8]]) -> tuple[int, int, int] | None:
    """The opaque colour that most of some single images have at their corners: what they are drawn on.

    Parameters
    ----------
    images : iterable of (h, w, 4) uint8
        RGBA, straight alpha. Those of one colour do not count.
    """
    corners = []
    for image in images:
        # A look at some pixels is enough, and costs as much for large images as for small ones.
        down, across = (max(1, side // _SEEN) for side in image.shape[:2])
        some, four = image[::down, ::across], image[[0, 0, -1, -1], [0, -1, 0, -1]]
        if (some[..., 3] == 255).all() and (four[:, 3] == 255).all() and (some != some[0, 0]).any():
            corners.append(four)
    if not corners:
        return None
    colours, counts = np.unique(np.concatenate(corners)[:, :3], axis=0, return_counts=True)
    if counts.max() < _ROUND * counts.sum():
        return None
    red, green, blue = colours[counts.argmax()].tolist()
    return red, green, blue


def _colour_between(seen: NDArray[np.uint8], tiles: list[list[int]], *, slanted: bool) -> str | None:
    """The colour between and round tiles that some stand on; what is true of a corner is true of the sheet.

    Where nothing lies between them, the corners of tiles that are drawn for cells with slanted sides show it, and of
    others the cells that are empty.
    """
    beside, corners = np.ones(seen.shape[:2], dtype=bool), [np.zeros((0, 4, 4), np.uint8)]
    whole = list[NDArray[np.uint8]]()
    for x, y, wide, high in tiles:
        beside[y : y + high, x : x + wide] = False
        tile = seen[y : y + high, x : x + wide]
        if tile.shape[:2] == (high, wide):
            corners.append(tile[[[0, 0, -1, -1]], [[0, -1, 0, -1]]])
            whole.append(tile)
    found = seen[beside]
    if slanted and not len(found):
        key = corner_colour(whole)
        return None if key is None else hex_of(key)
    every = np.concatenate(corners)
    if len(found):
        # Captions and other art may lie across gutters.
        colours, counts = np.unique(np.ascontiguousarray(found).view(np.uint32), return_counts=True)
        most = colours[counts.argmax() : counts.argmax() + 1].view(np.uint8)
        stands = (every == most).all(axis=(1, 2)).any()
        if most[3] < 255:
            return None
        if counts.max() / len(found) >= _NEARLY_ALL and stands:
            return hex_of(most[:3])
    return _pure_colour(every) or _colour_of_empty(whole, every)


def _pure_colour(corners: NDArray[np.uint8]) -> str | None:
    """The pure colour that most corners of tiles have, (n, 4, 4): nobody paints ground in one, be it ever so flat."""
    for pure in _PURE:
        if len(corners) and (corners == (*pure, 255)).all(axis=2).mean() >= _ROUND:
            return hex_of(pure)
    return None


def _colour_of_empty(tiles: list[NDArray[np.uint8]], corners: NDArray[np.uint8]) -> str | None:
    """The opaque colour that many cells show alone, and others at all their corners, (n, 4, 4).

    A sheet of flat terrains has a cell or two of each; what is empty goes on to the end of a sheet.
    """
    first = corners[:, :1]
    same = (corners == first).all(axis=(1, 2)) & (first[:, 0, 3] == 255)
    if not same.any():
        return None
    colours, counts = np.unique(first[same, 0], axis=0, return_counts=True)
    most = colours[counts.argmax()]
    on_it = np.flatnonzero(same & (first[:, 0] == most).all(axis=1)).tolist()
    bare = sum(bool((tiles[number] == most).all()) for number in on_it)
    found = bare >= max(_FEWEST, _BARE * len(tiles)) and len(on_it) - bare >= _STAND
    return hex_of(most[:3]) if found else None


def _stand_on(ground: NDArray[np.bool_], step: int, tiles: list[list[int]]) -> bool:
    """Whether a ground lies round tiles, and shows in them as well."""
    within = np.zeros(ground.shape, dtype=bool)
    for x, y, wide, high in tiles:
        within[y // step : (y + high) // step, x // step : (x + wide) // step] = True
    if within.all() or not within.any():
        return False
    return bool(ground[~within].mean() >= _MOSTLY and ground[within].mean() >= _SOME)
