"""Edges that are drawn more than once, so that a game which filters the sheet shows nothing of what lies beside a tile.

Such lines belong to no tile: laid side by side with them, tiles would show their edges two or three times.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from knitground.core.sheet.cut import Cut, grid_of, tile_rect
from knitground.core.sheet.profile import SMALLEST_TILE

_MOST_TILES = 100
WIDEST = 8
_FEWEST_SIDES = 6
_NEARLY_ALL, _MANY = 0.97, 0.6
"""How many of the edges that tell must be repeated at least so often, and just so often."""
_MOST_EQUAL = 0.34
"""Where more of the lines inside of the tiles are as the next, art was drawn small and enlarged."""


def without_repeats(picture: NDArray[np.uint8], cut: Cut) -> Cut:
    """A cut whose tiles leave out what repeats their edges on the sheet, all round and in every tile equally wide.

    Room of one colour round that is left out too: with as much at the border of the sheet, gutters look like it.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    cut : Cut
        By a grid that fits the picture.

    Returns
    -------
    cut : Cut
        The same where edges are not repeated, or too few of them tell.
    """
    room = _room_round(picture, cut)
    wide = repeats(picture, _narrowed(cut, room))
    return _narrowed(cut, room + wide) if wide else cut


def left_out(picture: NDArray[np.uint8], cut: Cut) -> int:
    """How many pixels round every tile, which a cut leaves out between them, repeat its edges.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    cut : Cut
        By a grid that fits the picture.
    """
    room = min(WIDEST, cut.margin_x, cut.margin_y, cut.spacing_x // 2, cut.spacing_y // 2)
    return next((wide for wide in range(room, 0, -1) if repeats(picture, _narrowed(cut, -wide)) == wide), 0)


def repeats(picture: NDArray[np.uint8], cut: Cut) -> int:
    """How many pixels at every side of every tile repeat its edge.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    cut : Cut
        By a grid that fits the picture; of loose pieces nothing is told.
    """
    least = min(cut.tile_width, cut.tile_height)
    widest = min(WIDEST, least // 4, (least - SMALLEST_TILE) // 2)
    if cut.pieces or widest < 1:
        return 0
    tiles = _tiles_of(picture, cut)
    found: list[tuple[int, float]] = []
    for tile in tiles:
        found += [one for side in _sides(tile) if (one := _run(side, widest)) is not None]
        if sum(run == 0 for run, _ in found) > (1 - _NEARLY_ALL) * 4 * len(tiles):
            return 0  # as on nearly all sheets, and told by the first few tiles
    if len(found) < _FEWEST_SIDES:
        return 0
    runs, equal = np.array(found).T
    often = int(np.quantile(runs, 1 - _NEARLY_ALL, method="lower"))
    sure = often and (runs == often).mean() >= _MANY and equal.mean() <= _MOST_EQUAL
    return often if sure else 0


def straight(picture: NDArray[np.uint8], cut: Cut, behind: ArrayLike = 0) -> float:
    """The share of the sides of tiles, of those with several colours, along which nothing shows of what is behind.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    cut : Cut
        By a grid that fits the picture.
    behind : (4,) array_like
        Its colour; clear if none is given.
    """
    edges = [side[0] for tile in _tiles_of(picture, cut) for side in _sides(tile)]
    told = [not (edge == behind).all(axis=1).any() for edge in edges if (edge != edge[0]).any()]
    return float(np.mean(told)) if told else 0.0


def _narrowed(cut: Cut, wide: int) -> Cut:
    """A cut whose tiles are so much less wide at every side, and the more apart."""
    return replace(
        cut,
        tile_width=cut.tile_width - 2 * wide,
        tile_height=cut.tile_height - 2 * wide,
        margin_x=cut.margin_x + wide,
        margin_y=cut.margin_y + wide,
        spacing_x=cut.spacing_x + 2 * wide,
        spacing_y=cut.spacing_y + 2 * wide,
    )


def _room_round(picture: NDArray[np.uint8], cut: Cut) -> int:
    """How many lines of one and the same colour go round every tile, where most have straight sides inside of them."""
    widest = min(WIDEST, (min(cut.tile_width, cut.tile_height) - SMALLEST_TILE) // 2)
    sides = [] if cut.pieces else [side for tile in _tiles_of(picture, cut) for side in _sides(tile)]
    if widest < 1 or not sides:
        return 0
    room = [(side[: widest + 1] == sides[0][0, 0]).all(axis=2) for side in sides]
    wide = next((n for n in range(widest) if not all(of_room[n].all() for of_room in room)), widest)
    return wide if wide and straight(picture, _narrowed(cut, wide), sides[0][0, 0]) >= _MANY else 0


def _tiles_of(picture: NDArray[np.uint8], cut: Cut) -> list[NDArray[np.uint8]]:
    """Tiles of a cut with anything on them, spread over the sheet where they are many."""
    height, width = picture.shape[:2]
    grid = grid_of(cut, width, height)
    rects = [tile_rect(cut, column, row) for row in range(grid.rows) for column in range(grid.columns)]
    tiles = (picture[at.y : at.y + at.height, at.x : at.x + at.width] for at in rects[:: -(-len(rects) // _MOST_TILES)])
    return [np.where(tile[..., 3:] > 0, tile, np.uint8(0)) for tile in tiles if tile[..., 3].any()]


def _sides(tile: NDArray[np.uint8]) -> Iterator[NDArray[np.uint8]]:
    """A tile as seen from each side: its lines, the outermost first."""
    turned = tile.swapaxes(0, 1)
    yield from (tile, tile[::-1], turned, turned[::-1])


def _run(lines: NDArray[np.uint8], widest: int) -> tuple[int, float] | None:
    """How many lines repeat the outermost, and the share of further lines that are as the next; none if it can't tell.

    It can't where the outermost is of one colour, as it may lie on plain ground, nor where hardly any line differs.
    """
    if (lines[0] == lines[0, 0]).all():
        return None
    differs = (lines[1:] != lines[:-1]).any(axis=(1, 2))
    first = int(np.argmax(differs))
    if not differs[first] or first > widest:
        return None
    inside = differs[first + 1 : len(differs) - first]
    return first, 1 - float(inside.mean()) if inside.size else 0.0
