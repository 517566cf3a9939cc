"""The plain ground of sets that is drawn in another part of their sheet, as titled groups and key colours part it."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.beneath import with_plain
from knitground.core.joins.found import FoundSet
from knitground.core.joins.lines import is_road
from knitground.core.joins.look import laid_flat, seen_colours
from knitground.core.joins.taking_in import tiles_of
from knitground.core.sheet.cut import TileShape


class Elsewhere(NamedTuple):
    """Sets with plain tiles of other parts, which count as if they lay in rows below their own.

    Attributes
    ----------
    found : list of FoundSet
    taken : dict of (column, row) to int
        Which of the tiles elsewhere each further cell is.
    """

    found: list[FoundSet]
    taken: dict[tuple[int, int], int]


def with_ground_elsewhere(
    found: Sequence[FoundSet],
    tiles: NDArray[np.uint8],
    held: NDArray[np.bool_],
    elsewhere: Sequence[NDArray[np.uint8]],
    shape: TileShape,
) -> Elsewhere:
    """The sets of a part, those of which no tile shows a ground alone with tiles elsewhere that do.

    Parameters
    ----------
    found : sequence of FoundSet
    tiles : (R, C, h, w, 4) uint8
        Those of the part, straight alpha.
    held : (R, C) bool
        Which cells hold a tile.
    elsewhere : sequence of (h, w, 4) uint8
        Those of other parts, of the same size.
    shape : TileShape
    """
    rows, columns = held.shape
    further = -(-len(elsewhere) // columns)
    number = np.full((rows + further, columns), -1, dtype=np.intp)
    number[:rows][held] = np.arange(held.sum())
    number[rows:].ravel()[: len(elsewhere)] = held.sum() + np.arange(len(elsewhere))
    drawn = tiles[held]
    lacks = [_lacks_ground(one, drawn[tiles_of(one, number)], shape) for one in found]
    if not any(lacks) or not len(elsewhere):
        return Elsewhere(list(found), {})
    every = np.concatenate([drawn, np.stack(elsewhere)])
    colours = seen_colours(every, shape)
    whole = [
        with_plain(one, every, colours, number, shape) if lack else one for one, lack in zip(found, lacks, strict=True)
    ]
    cells = [(column, row) for one in whole for column, row in one.cells.tolist() if row >= rows]
    return Elsewhere(whole, {cell: int(number[cell[1], cell[0]] - held.sum()) for cell in cells})


def _lacks_ground(found: FoundSet, tiles: NDArray[np.uint8], shape: TileShape) -> bool:
    """Whether some terrain of a set that fills its tiles, or what lies beneath its road, is shown alone by none."""
    flat = laid_flat(tiles, shape)
    if found.kind == "edge":
        return is_road(found, flat) and not (found.labels == 0).all(axis=1).any()
    alone = np.unique(found.labels[(found.labels == found.labels[:, :1]).all(axis=1)])
    return found.kind != "cell" and bool(flat[..., 3].min() == 255) and len(alone) < len(np.unique(found.labels))
