"""Sheets packed anew: the same tiles in the same columns and rows, with another margin and spacing."""

from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.picture import LARGEST_SIDE, MOST_PIXELS

LARGEST_GAP = 256


class Gaps(NamedTuple):
    """Pixels to leave free when a sheet is packed.

    `margin` and `spacing` are clear pixels round the sheet and between what is drawn for two tiles; `extrude` is how
    many pixels to repeat the border of each tile outwards, so that filtering never mixes in a neighbour.
    `power_of_two` makes both sides of the picture a power of two, with clear pixels at the right and below.
    """

    margin: int = 0
    spacing: int = 0
    extrude: int = 0
    power_of_two: bool = False


def check_gaps(gaps: Gaps) -> None:
    """Raises BadRequest where a number is out of range."""
    for name, value in (("margin", gaps.margin), ("spacing", gaps.spacing), ("extrusion", gaps.extrude)):
        if not 0 <= value <= LARGEST_GAP:
            raise BadRequest(f"The {name} is {value}; give a number from 0 to {LARGEST_GAP}.")


def repack(tiles: NDArray[np.uint8], gaps: Gaps) -> NDArray[np.uint8]:
    """A picture of tiles with chosen gaps; its sides are as they come.

    Parameters
    ----------
    tiles : (rows, columns, h, w, 4) uint8
    gaps : Gaps

    Returns
    -------
    picture : (H, W, 4) uint8
        See `repacked_cut` for where the tiles lie on it.

    Raises
    ------
    BadRequest
        If a number is out of range, or the picture would be too large.
    """
    check_gaps(gaps)
    margin, spacing, extrude, _ = gaps
    rows, columns, height, width = tiles.shape[:4]
    pitch_x, pitch_y = width + 2 * extrude + spacing, height + 2 * extrude + spacing
    size = [2 * margin + rows * pitch_y - spacing, 2 * margin + columns * pitch_x - spacing]
    if max(size) > LARGEST_SIDE or size[0] * size[1] > MOST_PIXELS:
        raise BadRequest(f"The sheet would be {size[1]} x {size[0]} pixels, which is too large; give smaller gaps.")
    picture = np.zeros((*size, 4), dtype=np.uint8)
    around = ((extrude, extrude), (extrude, extrude), (0, 0))
    for row in range(rows):
        for column in range(columns):
            top, left = margin + row * pitch_y, margin + column * pitch_x
            tile = np.pad(tiles[row, column], around, mode="edge")
            picture[top : top + tile.shape[0], left : left + tile.shape[1]] = tile
    return picture


def repacked_cut(cut: Cut, gaps: Gaps) -> Cut:
    """The cut of a sheet that was packed anew with these gaps."""
    start, between = gaps.margin + gaps.extrude, gaps.spacing + 2 * gaps.extrude
    return replace(cut, margin_x=start, margin_y=start, spacing_x=between, spacing_y=between, region=None)
