"""Reading some tiles closely as one set: those of a likely block, of a set with what it lacks, of a whole piece."""

from collections.abc import Iterator

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.joins.blocks import NEARLY, covered_share
from knitground.core.joins.found import FoundSet
from knitground.core.joins.infer import MOST_INFERRED, MOST_TILES, infer_labels
from knitground.core.joins.look import Floats, motley, terrains_mixed
from knitground.core.joins.ordered import of_areas
from knitground.core.joins.outlines import outlines_agree
from knitground.core.joins.sets import JoinKind
from knitground.core.joins.taking_in import tiles_of
from knitground.core.joins.variants import in_squares, match_lacking
from knitground.core.sheet.cut import TileShape

_FEW_OF_MORE = 60
"""How many tiles a piece of a sheet has at the least that holds more than two terrains."""
_CLEAR = 0.1
"""What share of an edge set that stands on clear ground is clear."""
_MOTLEY = 0.075
"""How far the colours of tiles on clear ground lie from those of most."""
_FREELY = 0.8
"""How sure the labels of areas are that need not meet to the pixel."""


def read_set(
    tiles: NDArray[np.uint8],
    colours: Floats,
    spots: NDArray[np.intp],
    mine: NDArray[np.intp],
    kind: JoinKind,
    shape: TileShape,
    terrains: int,
    *,
    only_colours: bool = False,
    bare: NDArray[np.uint8] | None = None,
) -> FoundSet | None:
    """The set that some tiles, without their ground `bare`, make if their labels are read closely; None if none."""
    try:
        found = infer_labels(tiles[mine], kind, shape=shape, terrains=terrains, only_colours=only_colours)
    except BadRequest:
        return None
    count = int(found.labels.max()) + 1
    covered = covered_share(found.labels, kind, max(2, count))
    if covered < NEARLY or count < 2:
        return None
    at = spots[mine][:, ::-1]
    seen = (tiles if bare is None else bare)[mine]
    on_clear = shape == "square" and kind == "edge" and (seen[..., 3] == 0).mean() >= _CLEAR
    colours = colours[mine]
    # What stands for one terrain on clear ground is not of this colour here and of another there.
    if shape == "square" and terrains == 2 and motley(colours) > _MOTLEY:
        return None
    sure = np.clip(found.confidence, 0, 1).mean()
    if on_clear and not outlines_agree(seen, at, found.labels, kind):
        # Areas on a ground are drawn more freely than lines; what stands on clear ground may be furniture.
        freely = sure >= _FREELY and (tiles[mine][..., 3] == 255).all()
        if not freely or of_areas(found.labels, colours) is None:
            return None
    confidence = round(float(covered * sure), 3)
    mixed = terrains_mixed(kind, found.labels, colours)
    return FoundSet(kind, at, found.labels, found.confidence, covered, confidence, mixed=mixed)


def completed(
    found: FoundSet,
    kept: list[FoundSet],
    tiles: NDArray[np.uint8],
    spots: NDArray[np.intp],
    colours: Floats,
    number: NDArray[np.intp],
    shape: TileShape,
) -> FoundSet:
    """A set with tiles right beside it that show what it lacks, if it is as sure as before with these."""
    mine, terrains = np.sort(tiles_of(found, number)), int(found.labels.max()) + 1
    if found.covered >= 1 or found.kind == "cell":
        return found
    taken = np.concatenate([tiles_of(one, number) for one in kept])
    near = np.setdiff1d(_beside(mine, spots, number), taken)
    squares = in_squares(colours[np.concatenate([mine, near])], (found.kind,))
    labels = found.labels[np.argsort(tiles_of(found, number))]
    match = match_lacking(squares, found.kind, np.arange(len(mine)), labels, np.arange(len(near)) + len(mine))
    # Those that show a terrain alone are told more exactly, wherever they lie.
    match.apart[(match.labels == match.labels[:, :1]).all(axis=1)] = np.inf
    order = np.argsort(match.apart, kind="stable")[: np.isfinite(match.apart).sum()]
    # Of those that show the same the nearest is enough; what is a variant of it comes later.
    order = order[np.sort(np.unique(match.labels[order], axis=0, return_index=True)[1])] if len(order) else order
    if not len(order) or len(mine) + len(order) > MOST_TILES:
        return found
    whole = read_set(tiles, colours, spots, np.sort(np.concatenate([mine, near[order]])), found.kind, shape, terrains)
    better = whole is not None and whole.covered > found.covered and whole.confidence >= found.confidence
    return whole if whole is not None and better else found


def _beside(mine: NDArray[np.intp], spots: NDArray[np.intp], number: NDArray[np.intp]) -> NDArray[np.intp]:
    """The tiles beside, above and below some others, and those before and behind them in reading order."""
    around = np.pad(number, 1, constant_values=-1)
    rows, columns = spots[mine].T + 1
    steps = ((0, 1), (1, 0), (0, -1), (-1, 0))
    near = np.concatenate([mine - 1, mine + 1, *(around[rows + down, columns + across] for down, across in steps)])
    return np.unique(near[(near >= 0) & (near < len(spots))])


def sets_of_more(
    tiles: NDArray[np.uint8], colours: Floats, spots: NDArray[np.intp], held: NDArray[np.bool_], shape: TileShape
) -> Iterator[FoundSet]:
    """Sets of three terrains and more: pieces of the sheet that hang together and are large enough."""
    pieces, count = scipy.ndimage.label(held)
    for piece in range(1, count + 1):
        mine = np.flatnonzero(pieces[held] == piece)
        terrains = round(len(mine) ** 0.25)
        if _FEW_OF_MORE <= len(mine) <= MOST_TILES and 2 < terrains <= MOST_INFERRED:
            found = read_set(tiles, colours, spots, mine, "corner", shape, terrains)
            if found is not None:
                yield found
