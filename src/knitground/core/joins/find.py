"""Finding sets on a whole cut: blocks, rows and runs of cells that together show every combination of two terrains.

What each tile shows near its corners and edges is worked out once. Then every block of a usual size is split into
two groups of places, which takes little, and those in which nearly all combinations come out different are looked at
closely, as `infer_labels` reads them. Of blocks that overlap the clearest is kept. A sheet that holds the combinations
of more terrains in one piece is tried as a whole.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.infer import MOST_INFERRED, MOST_TILES, infer_labels
from knitground.core.joins.look import Floats, place_features, place_windows, seen_colours
from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.cut import TileShape

_BLOCKS: dict[JoinKind, tuple[tuple[int, int], ...]] = {
    "corner": ((4, 4), (8, 2), (2, 8), (16, 1), (1, 16), (5, 3), (3, 5), (15, 1), (6, 3), (7, 2)),
    "edge": ((4, 4), (8, 2), (2, 8), (16, 1), (1, 16), (5, 3), (3, 5), (15, 1)),
    "full": ((8, 6), (6, 8), (12, 4), (7, 7), (11, 5), (10, 5), (16, 3), (47, 1), (48, 1)),
}
"""Columns and rows in which sheets hold sets of two terrains."""
_FORMED = np.array([is_formed(tuple(number >> place & 1 for place in range(8))) for number in range(256)])
_WHOLE = int(_FORMED.sum())
_HELD = 0.8
_NEARLY = 0.78
_LOOKED_AT = 24
_ROUNDS = 3
_FEW_OF_MORE = 60
_SURE = 0.45


class Block(NamedTuple):
    """A rectangle of cells that may hold a set of a kind, and how likely it looks."""

    kind: JoinKind
    column: int
    row: int
    columns: int
    rows: int
    score: float


@dataclass(frozen=True)
class FoundSet:
    """A set that was found.

    Attributes
    ----------
    kind : JoinKind
    cells : (N, 2) intp
        Column and row of each tile.
    labels : (N, P) intp
        A number from 0 for the terrain at each place.
    sure : (N,) float64
        How clearly each tile's labels could be told, from 0 to 1.
    covered : float
        The share of its combinations that some tile shows.
    """

    kind: JoinKind
    cells: NDArray[np.intp]
    labels: NDArray[np.intp]
    sure: Floats
    covered: float

    @property
    def confidence(self) -> float:
        """How likely it is that these cells are a set."""
        return round(float(self.covered * np.clip(self.sure, 0, 1).mean()), 3)


def find_sets(
    tiles: NDArray[np.uint8],
    held: NDArray[np.bool_],
    *,
    shape: TileShape = "square",
    progress: Callable[[float], None] = lambda share: None,
) -> list[FoundSet]:
    """The sets of a cut, the most certain first; no two share a cell.

    Parameters
    ----------
    tiles : (R, C, h, w, 4) uint8
        RGBA, straight alpha.
    held : (R, C) bool
        Which cells hold a tile.
    shape : TileShape
    progress : callable, optional
        Is told the share done from 0 to 1; may raise to stop.
    """
    spots = np.argwhere(held)
    if len(spots) < 12:
        return []
    number = np.full(held.shape, -1, dtype=np.intp)
    number[held] = np.arange(len(spots))
    colours = seen_colours(tiles[held], shape)
    features = {kind: _features(colours, kind) for kind in _BLOCKS}
    progress(0.2)
    likely = sorted(
        (block for kind in _BLOCKS for block in _likely(kind, number, features[kind])), key=lambda one: -one.score
    )
    progress(0.4)
    read: list[FoundSet] = []
    for done, block in enumerate(_apart(likely)):
        progress(0.4 + 0.5 * done / _LOOKED_AT)
        inside = number[block.row : block.row + block.rows, block.column : block.column + block.columns]
        found = _read(tiles[held], spots, inside[inside >= 0], block.kind, shape, 2)
        if found is not None:
            read.append(found)
    read += _of_more(tiles[held], spots, held, shape)
    progress(1.0)
    return _kept(read)


def _features(colours: Floats, kind: JoinKind) -> Floats:
    """What the places of each tile show, (n, P, F)."""
    windows = place_windows(kind, *colours.shape[1:3])
    return place_features(colours, windows).reshape(len(colours), len(windows), -1)


def _likely(kind: JoinKind, number: NDArray[np.intp], features: Floats) -> Iterator[Block]:
    """The blocks in which two groups of places make nearly all combinations."""
    rows, columns = number.shape
    for wide, high in _BLOCKS[kind]:
        for row in range(rows - high + 1):
            for column in range(columns - wide + 1):
                inside = number[row : row + high, column : column + wide]
                mine = inside[inside >= 0]
                if len(mine) < _HELD * wide * high:
                    continue
                labels, apart = _halved(features[mine])
                share = _covered(labels, kind)
                if share >= _NEARLY:
                    # Cells that show what others show already are likely to belong to something else.
                    alone = len(_different(labels)) / len(mine)
                    yield Block(kind, column, row, wide, high, share * alone * apart)


def _halved(features: Floats) -> tuple[NDArray[np.intp], float]:
    """Places in two groups, (n, P), and how far these are apart, from 0 to 1; by two means along the longest axis."""
    flat = features.reshape(-1, features.shape[-1])
    centred = flat - flat.mean(axis=0)
    _, axes = np.linalg.eigh(centred.T @ centred)
    upper = centred @ axes[:, -1] > 0
    for _ in range(_ROUNDS):
        if upper.all() or not upper.any():
            return upper.reshape(features.shape[:2]).astype(np.intp), 0.0
        means = flat[~upper].mean(axis=0), flat[upper].mean(axis=0)
        upper = ((flat - means[1]) ** 2).sum(axis=1) < ((flat - means[0]) ** 2).sum(axis=1)
    if upper.all() or not upper.any():
        return upper.reshape(features.shape[:2]).astype(np.intp), 0.0
    low, high = flat[~upper], flat[upper]
    inside = ((low - low.mean(axis=0)) ** 2).sum() + ((high - high.mean(axis=0)) ** 2).sum()
    return upper.reshape(features.shape[:2]).astype(np.intp), float(1 - inside / ((centred**2).sum() + 1e-12))


def _covered(labels: NDArray[np.intp], kind: JoinKind, terrains: int = 2) -> float:
    """The share of a kind's combinations that some row of labels shows, whichever terrain lies on which."""
    numbers = _different(labels, terrains)
    if kind != "full":
        return float(min(1.0, len(numbers) / terrains ** labels.shape[1]))
    return float(min(1.0, max(_FORMED[numbers].sum(), _FORMED[255 - numbers].sum()) / _WHOLE))


def _different(labels: NDArray[np.intp], terrains: int = 2) -> NDArray[np.intp]:
    """The combinations among rows of labels, each as one number with the first label as its lowest digit."""
    return np.asarray(np.unique(labels @ terrains ** np.arange(labels.shape[1])))


def _apart(likely: list[Block]) -> list[Block]:
    """The best blocks, of those that overlap by more than half only the better few."""
    chosen: list[Block] = []
    for block in likely:
        over = sum(_shared(block, other) > 0.5 * block.columns * block.rows for other in chosen)
        if over < 2:
            chosen.append(block)
        if len(chosen) == _LOOKED_AT:
            break
    return chosen


def _shared(one: Block, other: Block) -> int:
    """How many cells two blocks share."""
    wide = min(one.column + one.columns, other.column + other.columns) - max(one.column, other.column)
    high = min(one.row + one.rows, other.row + other.rows) - max(one.row, other.row)
    return max(0, wide) * max(0, high)


def _read(
    tiles: NDArray[np.uint8],
    spots: NDArray[np.intp],
    mine: NDArray[np.intp],
    kind: JoinKind,
    shape: TileShape,
    terrains: int,
) -> FoundSet | None:
    """The set that some tiles make if their labels are read closely; None if they make none."""
    try:
        found = infer_labels(tiles[mine], kind, shape=shape, terrains=terrains)
    except BadRequest:
        return None
    count = int(found.labels.max()) + 1
    covered = _covered(found.labels, kind, max(2, count))
    if covered < _NEARLY or count < 2:
        return None
    return FoundSet(kind, spots[mine][:, ::-1], found.labels, found.confidence, covered)


def _of_more(
    tiles: NDArray[np.uint8], spots: NDArray[np.intp], held: NDArray[np.bool_], shape: TileShape
) -> Iterator[FoundSet]:
    """Sets of three terrains and more: pieces of the sheet that hang together and are large enough."""
    from scipy import ndimage

    pieces, count = ndimage.label(held)
    for piece in range(1, count + 1):
        mine = np.flatnonzero(pieces[held] == piece)
        terrains = round(len(mine) ** 0.25)
        if _FEW_OF_MORE <= len(mine) <= MOST_TILES and 2 < terrains <= MOST_INFERRED:
            found = _read(tiles, spots, mine, "corner", shape, terrains)
            if found is not None:
                yield found


def _kept(read: list[FoundSet]) -> list[FoundSet]:
    """The most certain, of those that share cells the one with more of both."""
    kept: list[FoundSet] = []
    taken: set[tuple[int, ...]] = set()
    for found in sorted(read, key=lambda one: -one.confidence * np.sqrt(len(one.cells))):
        cells = set(map(tuple, found.cells.tolist()))
        if found.confidence >= _SURE and not cells & taken:
            kept.append(found)
            taken |= cells
    return sorted(kept, key=lambda one: -one.confidence)
