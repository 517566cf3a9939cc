"""Throwing mixes: tiles and blocks by weighted chance, by place alone, so that any window comes out as the whole."""

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance, choose, seed_for
from knitground.core.errors import BadRecipe
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grow.mix import Mix, MixPart, leaves
from knitground.core.tiles.tile import TileRef

LEFT_ALONE = -1
LARGEST_BLOCK = 16
"""How many cells high or wide a block in a mix may be."""

Mask = NDArray[np.bool_]
Code = Callable[[TileRef | None, int], int]


class Cell(NamedTuple):
    """A cell of a piece: how many flat rows and columns from where the piece falls, and the code of its tile."""

    down: int
    across: int
    code: int


class Throw(NamedTuple):
    """What falls, each piece by its cells, and how often; a piece of one cell may also leave it bare, with code 0."""

    pieces: tuple[tuple[Cell, ...], ...]
    weights: tuple[float, ...]

    @property
    def blocks(self) -> list[int]:
        """Which pieces take more than the cell on which they fall."""
        return [number for number, piece in enumerate(self.pieces) if len(piece) > 1 or piece[0][:2] != (0, 0)]


class TileCell(NamedTuple):
    """A tile of a block: how many flat rows and columns from the block's first it lies, and how it is turned."""

    down: int
    across: int
    tile: TileRef
    orientation: int


class Kept(Protocol):
    """A swatch of the tray, as mixes see it."""

    @property
    def id(self) -> str: ...

    @property
    def tile_cells(self) -> Sequence[TileCell]: ...


class MixesAndSwatches(Protocol):
    """What mixes are made of, in a project."""

    @property
    def mixes(self) -> tuple[Mix, ...]: ...

    @property
    def swatches(self) -> Sequence[Kept]: ...


def throw_of(mix: Mix, sets: MixesAndSwatches, code: Code) -> Throw:
    """A mix with all that it names, ready to be thrown; what can't fall is left out.

    Parameters
    ----------
    code : callable
        Gives the cell code of a tile in an orientation, or of no tile.
    """
    known = {swatch.id: swatch for swatch in sets.swatches}
    found = []
    for part, weight in leaves(mix, sets.mixes):
        cells = _cells(part, known, code)
        if cells and weight > 0:
            found.append((cells, weight))
    return Throw(tuple(cells for cells, _ in found), tuple(weight for _, weight in found))


def singles_of(mix: Mix, sets: MixesAndSwatches) -> list[tuple[TileRef | None, int, float]]:
    """The single tiles of a mix and of the mixes in it (none for bare), how they are turned, and their weights."""
    known = {swatch.id: swatch for swatch in sets.swatches}
    found: list[tuple[TileRef | None, int, float]] = []
    for part, weight in leaves(mix, sets.mixes):
        cells = known[part.swatch].tile_cells if part.swatch in known else ()
        if not part.swatch:
            found.append((part.tile, part.orientation, weight))
        elif len(cells) == 1:
            found.append((cells[0].tile, cells[0].orientation, weight))
    return found


def _cells(part: MixPart, known: dict[str, Any], code: Code) -> tuple[Cell, ...]:
    if not part.swatch:
        return (Cell(0, 0, code(part.tile, part.orientation if part.tile is not None else 0)),)
    cells: Sequence[TileCell] = known[part.swatch].tile_cells if part.swatch in known else ()
    if not cells:
        return ()
    down, across = sorted(one.down for one in cells), sorted(one.across for one in cells)
    if max(down[-1] - down[0], across[-1] - across[0]) >= LARGEST_BLOCK:
        return ()
    # A block falls with its middle, so that it lies round the place.
    middle = (down[0] + down[-1]) // 2, (across[0] + across[-1]) // 2
    return tuple(Cell(one.down - middle[0], one.across - middle[1], code(one.tile, one.orientation)) for one in cells)


def thrown(
    throw: Throw, seed: int, board: Board, rect: CellRect, free: NDArray[Any] | Plane | None = None,
    at: NDArray[Any] | Plane | None = None,
) -> NDArray[np.int32]:  # fmt: skip
    """What a throw lays in a rectangle of cells.

    Blocks lie whole, in free cells alone, and never over one another: of those that would, the one to which chance
    gave the higher number stays, so that what lies far off changes nothing. Where one gives way a single tile falls.

    Parameters
    ----------
    seed : int
        The same seed throws the same, cell by cell, whatever the rectangle.
    rect : CellRect
        Inside the ground.
    free : (H, W) bool, optional
        The cells of the ground that may be covered; all if not given.
    at : (H, W) bool, optional
        The cells on which something falls; all if not given.

    Returns
    -------
    codes : (height, width) int32
        `LEFT_ALONE` where nothing falls.

    Raises
    ------
    BadRecipe
        If nothing can be chosen.
    """
    if rect.is_empty:
        return np.zeros((max(0, rect.height), max(0, rect.width)), dtype=np.int32)
    if not throw.pieces or sum(throw.weights) <= 0:
        raise BadRecipe("The mix has no tile to lay; give at least one tile a weight above zero.")
    rows, columns = np.arange(rect.top, rect.bottom)[:, None], np.arange(rect.left, rect.right)
    picks = choose(throw.weights, chance(seed, rows, columns))
    blocks = throw.blocks
    codes = np.array([piece[0].code for piece in throw.pieces], dtype=np.int32)[picks]
    if blocks:
        codes = _singles(throw, blocks, seed, rows, columns, picks, codes)
    for mask in (one for one in (free, at) if one is not None):
        codes[~np.asarray(mask[rect.rows, rect.columns])] = LEFT_ALONE
    if blocks:
        whole = blocks_thrown(throw, seed, board, rect, free, at)
        codes = np.where(whole > 0, whole, codes)
    return codes


def _singles(
    throw: Throw, blocks: list[int], seed: int, rows: NDArray[Any], columns: NDArray[Any],
    picks: NDArray[np.intp], codes: NDArray[np.int32],
) -> NDArray[np.int32]:  # fmt: skip
    """Single tiles everywhere, for where no block comes to lie; nothing falls there if there are only blocks."""
    single = [number for number in range(len(throw.pieces)) if number not in blocks]
    if not single:
        return np.full_like(codes, LEFT_ALONE)
    again = choose([throw.weights[number] for number in single], chance(seed_for(seed, "singles"), rows, columns))
    instead = np.array([throw.pieces[number][0].code for number in single], dtype=np.int32)[again]
    return np.where(np.isin(picks, blocks), instead, codes)


def blocks_thrown(
    throw: Throw, seed: int, board: Board, rect: CellRect, free: NDArray[Any] | Plane | None = None,
    at: NDArray[Any] | Plane | None = None,
) -> NDArray[np.int32]:  # fmt: skip
    """The blocks alone of what `thrown` lays.

    Parameters
    ----------
    throw : Throw
    seed : int
    board : Board
    rect : CellRect
        The cells that are asked for.
    free, at : (H, W) array or Plane, optional
        As for `thrown`.

    Returns
    -------
    codes : (height, width) int32
        Cell codes, 0 where none lies.
    """
    blocks = throw.blocks
    if not blocks:
        return np.zeros((rect.height, rect.width), dtype=np.int32)
    cells = [cell for number in blocks for cell in throw.pieces[number]]
    far = max(max(abs(cell.down), abs(cell.across)) for cell in cells)
    # A block that reaches in may give way to one that reaches into it, which has to fit, too.
    ys, xs, _ = board.flat_window(board.seen_from(board.reach(rect, 3 * far)))
    ys, xs = _wider(ys, far), _wider(xs, far)
    rows, columns = board.stored("cells", *np.broadcast_arrays(ys[:, None], xs))
    there = np.broadcast_to(board.there("cells", ys[:, None], xs), rows.shape)
    rows, columns = (
        line if period is None else line % period for line, period in zip((rows, columns), board.period, strict=True)
    )
    may = there & (board.flat_patch(free, "cells", ys, xs)[0].astype(bool) if free is not None else True)
    falls = there & (board.flat_patch(at, "cells", ys, xs)[0].astype(bool) if at is not None else True)
    numbers = chance(seed, rows, columns)
    picks = np.where(falls, choose(throw.weights, numbers), -1)
    rank = chance(seed_for(seed, "blocks"), rows, columns) + 1.0
    size = board.height, board.width
    fits = {
        number: _fitting(picks == number, may, throw.pieces[number]) & _room(throw.pieces[number], size, board.period)
        for number in blocks
    }
    best = np.zeros(rows.shape)
    for number, mask in fits.items():
        ranks = np.where(mask, rank, 0.0)
        for cell in throw.pieces[number]:
            best = np.maximum(best, _moved(ranks, cell.down, cell.across))
    laid = np.zeros(rows.shape, dtype=np.int32)
    for number, mask in fits.items():
        for cell in throw.pieces[number]:
            mask = mask & (_moved(best, -cell.down, -cell.across) == rank)
        for cell in throw.pieces[number]:
            laid[_moved(mask, cell.down, cell.across)] = cell.code
    mine = board.flat("cells", *np.indices((rect.height, rect.width)) + np.array([rect.top, rect.left])[:, None, None])
    return np.asarray(laid[mine[0] - ys[0], mine[1] - xs[0]])


def blocks_lying(throw: Throw, board: Board, codes: NDArray[np.int32]) -> list[tuple[NDArray[Any], NDArray[Any]]]:
    """The blocks of a throw that lie somewhere whole: of each kind the rows and columns of its cells, (N, cells) int.

    Parameters
    ----------
    codes : (H, W) int32
    """
    found = []
    for number in throw.blocks:
        piece = throw.pieces[number]
        ys, xs = board.flat("cells", *np.nonzero(codes == piece[0].code))
        down = np.array([cell.down - piece[0].down for cell in piece])
        across = np.array([cell.across - piece[0].across for cell in piece])
        ys, xs = ys[:, None] + down, xs[:, None] + across
        there = np.broadcast_to(board.there("cells", ys, xs), ys.shape).all(axis=1)
        ys, xs = ys[there], xs[there]
        rows, columns = (line % size for line, size in zip(board.stored("cells", ys, xs), codes.shape, strict=True))
        whole = (codes[rows, columns] == np.array([cell.code for cell in piece])).all(axis=1)
        found.append((rows[whole], columns[whole]))
    return found


def _room(piece: Sequence[Cell], size: tuple[int, int], period: tuple[int | None, int | None]) -> bool:
    """Whether a block does not meet itself where the ground goes round."""
    spread = [max(cell[axis] for cell in piece) - min(cell[axis] for cell in piece) + 1 for axis in (0, 1)]
    return all(once is None or 2 * wide <= many for wide, many, once in zip(spread, size, period, strict=True))


def _fitting(anchors: Mask, may: Mask, piece: Sequence[Cell]) -> Mask:
    """Where a block falls and all of its cells may be covered, (h, w) bool.

    Parameters
    ----------
    anchors, may : (h, w) bool
    """
    found = anchors
    for cell in piece:
        found = found & _moved(may, -cell.down, -cell.across)
    return found


def _moved(values: NDArray[Any], down: int, across: int) -> NDArray[Any]:
    """An array moved so many rows and columns, with nothing where it came from.

    Parameters
    ----------
    values : (h, w) array
    """
    found = np.zeros_like(values)
    height, width = values.shape
    found[max(0, down) : height + min(0, down), max(0, across) : width + min(0, across)] = values[
        max(0, -down) : height - max(0, down), max(0, -across) : width - max(0, across)
    ]
    return found


def _wider(lines: NDArray[Any], by: int) -> NDArray[Any]:
    """Consecutive numbers with so many more at both ends."""
    return np.arange(lines[0] - by, lines[-1] + by + 1)
