"""Filling to fit: patterns laid so that every neighbour agrees, by weight, with what is given left as it is."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.errors import BadRecipe

if TYPE_CHECKING:
    from knitground.core.grow.kernel import Work

MOST_PATTERNS = 4096
MOST_CELLS = 2**23
_IN_EIGHTS = 512
_SLICE, _BLOCK, _TURNS = 20_000, 32, 3
_WITH_CORNERS, _FEW_ENOUGH = 8, 1024
_KNOWN = 4096

Progress = Callable[[float], None]


class CannotAgree(BadRecipe):
    """Demands contradict one another; `cell` is the number of a cell at which they meet."""

    def __init__(self, cell: int, sentence: str) -> None:
        super().__init__(sentence)
        self.cell = cell


class Rules(NamedTuple):
    """Which patterns may lie beside which, and how often each is wanted.

    Attributes
    ----------
    allowed : (D, K, K) bool
        Whether the second may be the neighbour of the first in each of D directions. Both ways of a pair of cells are
        told: what D says from the one, the opposite direction says from the other.
    weights : (K,) float64
        Positive.
    """

    allowed: NDArray[np.bool_]
    weights: NDArray[np.float64]


@dataclass(frozen=True)
class Field:
    """The cells that are filled: N of them.

    Attributes
    ----------
    beside : (D, N) int32
        The neighbour of each cell in each direction of the rules, -1 where there is none.
    places : (N, 2) int32
        Row and column, by which chance goes.
    """

    beside: NDArray[np.int32]
    places: NDArray[np.int32]


def rect_field(height: int, width: int, steps: tuple[tuple[int, int], ...], *, wraps: bool) -> Field:
    """A rectangle of cells.

    Parameters
    ----------
    steps : D steps of (down, right)
    wraps : bool
        Whether the far edges are neighbours.
    """
    rows, columns = np.mgrid[0:height, 0:width]
    beside = []
    for down, right in steps:
        y, x = rows + down, columns + right
        there = (y >= 0) & (y < height) & (x >= 0) & (x < width)
        beside.append(np.where(there | wraps, (y % height) * width + x % width, -1).ravel())
    places = np.stack([rows.ravel(), columns.ravel()], axis=1)
    return Field(np.array(beside, dtype=np.int32), places.astype(np.int32))


class Held(NamedTuple):
    """Cells that may not hold just anything.

    Attributes
    ----------
    cells : (M,) int
        Their numbers.
    may : (M, K) bool
        The patterns that each may hold; a single one where it is given.
    """

    cells: NDArray[np.intp]
    may: NDArray[np.bool_]


def fill(
    rules: Rules, field: Field, held: Held | None, seed: int, *, progress: Progress = lambda share: None
) -> NDArray[np.int32]:
    """A pattern for each cell, so that all neighbours agree.

    Parameters
    ----------
    rules : Rules
    field : Field
    held : Held, optional
        All other cells may hold any pattern.
    seed : int
    progress : callable, optional

    Returns
    -------
    patterns : (N,) int32

    Raises
    ------
    CannotAgree
        If there is no way, or none was found within many tries.
    BadRecipe
        If there are no patterns, or too many of them or of cells.

    References
    ----------
    See `knitground.core.grow.kernel`.
    """
    # Compiled code is slow to import, and not needed until something is filled.
    from knitground.core.grow import kernel

    count = len(rules.weights)
    if not 0 < count <= MOST_PATTERNS:
        raise BadRecipe(
            f"{count} patterns are too many to fill with; at most {MOST_PATTERNS} can be." if count
            else "There is nothing to fill with; choose a set that has tiles."
        )  # fmt: skip
    if len(field.places) > MOST_CELLS:
        raise BadRecipe(f"{len(field.places):,} cells are too many to fill at once; at most {MOST_CELLS:,} can be.")
    rules, field = _needed(rules, field)
    work = _work(rules, field, held)
    stuck = kernel.make_ready(*work, _narrowed(rules, work.domain))
    if stuck >= 0:
        raise CannotAgree(stuck, "what is given there can't agree")
    order, bounds = _blocks(field)
    start = work.domain.copy()
    for turn in range(_TURNS):
        status, own = kernel.MORE, seed_for(seed, f"turn {turn}")
        while status == kernel.MORE:
            status, stuck = kernel.run(*work, start, field.places, order, bounds, _SLICE, own)
            progress(int(work.heads[kernel.BLOCK]) / (len(bounds) - 1))
        if status == kernel.DONE:
            return _patterns(work.domain)
        work = _work(rules, field, None)
        work.domain[:] = start
    raise CannotAgree(stuck, "no way was found to lay tiles there that agree")


def _work(rules: Rules, field: Field, held: Held | None) -> "Work":
    """All that the compiled loops work on."""
    from knitground.core.grow import kernel
    from knitground.core.grow.domains import LEVELS

    count, number = len(rules.weights), field.beside.shape[1]
    words = -(-count // 64)
    everything = _packed(np.ones((1, count), dtype=bool), words)
    domain = np.repeat(everything, number, axis=0)
    if held is not None:
        domain[held.cells] = _packed(held.may, words)
    cells = np.zeros((number, 8), dtype=np.int32)
    cells[:, kernel.LEVEL] = kernel.CLOSED
    heads = np.zeros(LEVELS + 7, dtype=np.int64)
    heads[:LEVELS] = -1
    lists = np.zeros((3, number), dtype=np.int32)
    table, weighed = _table(rules.allowed, words), _weighed(rules.weights)
    known = np.zeros((_KNOWN >> (words - 1).bit_length(), words + table.shape[2] + 1), dtype=np.uint64)
    # One number for each domain is by far the commonest, and has loops of its own.
    parts = (0,) if words == 1 else np.zeros(words, dtype=np.uint8)
    return kernel.Work(domain, parts, np.zeros_like(domain), cells, lists, heads, field.beside, table, known, weighed)


def _needed(rules: Rules, field: Field) -> tuple[Rules, Field]:
    """Without the steps over corners, where the steps over the sides before and after each say as much."""
    ways, count = rules.allowed.shape[:2]
    if ways != _WITH_CORNERS or count > _FEW_ENOUGH:
        return rules, field
    may, beside = rules.allowed.astype(np.float32), field.beside
    for place in range(4):
        first, last, corner = (place - 1) % 4, place, 4 + place
        by_sides = (may[first] @ may[last] > 0) & (may[last] @ may[first] > 0)
        # The way round the other side is that of the opposite corner, seen from its far end.
        one = beside[first]
        goes_round = (beside[corner] < 0) | ((one >= 0) & (beside[last].take(one, mode="wrap") == beside[corner]))
        if (by_sides & ~rules.allowed[corner]).any() or not goes_round.all():
            return rules, field
    return Rules(np.ascontiguousarray(rules.allowed[:4]), rules.weights), Field(beside[:4].copy(), field.places)


def _narrowed(rules: Rules, domain: NDArray[np.uint64]) -> NDArray[np.intp]:
    """The cells that may forbid their neighbours something: where anything goes with something, those held."""
    if not rules.allowed.any(axis=1).all():
        return np.arange(len(domain))
    everything = _packed(np.ones((1, len(rules.weights)), dtype=bool), domain.shape[1])
    return np.flatnonzero((domain != everything).any(axis=1))


def _blocks(field: Field) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """The cells block by block, (N,) int32, and where each block begins, (B + 1,) int32."""
    down, across = (field.places // _BLOCK).T
    block = down * (across.max() + 1) + across
    # Short numbers are sorted by their digits, several times as quickly.
    order = np.argsort(block.astype(np.min_scalar_type(int(block.max()))), kind="stable")
    changes = np.flatnonzero(np.diff(block[order])) + 1
    return order.astype(np.int32), np.array([0, *changes, len(order)], dtype=np.int32)


def _packed(bits: NDArray[np.bool_], words: int) -> NDArray[np.uint64]:
    """Rows of bits as numbers of 64, the first bit the lowest.

    Parameters
    ----------
    bits : (N, K) bool

    Returns
    -------
    packed : (N, words) uint64
    """
    padded = np.zeros((len(bits), words * 8), dtype=np.uint8)
    packed = np.packbits(bits, axis=1, bitorder="little")
    padded[:, : packed.shape[1]] = packed
    return padded.view("<u8").astype(np.uint64)


def _table(allowed: NDArray[np.bool_], words: int) -> NDArray[np.uint64]:
    """What neighbours may be, by each value of some bits, one direction after the other: see `Work.table`."""
    ways, count = allowed.shape[:2]
    bits = 8 if count <= _IN_EIGHTS else 4
    eights = -(-count // bits)
    table = np.zeros((eights, 1 << bits, ways * words), dtype=np.uint64)
    rows = np.zeros((bits * eights, ways * words), dtype=np.uint64)
    rows[:count] = np.concatenate([_packed(allowed[way], words) for way in range(ways)], axis=1)
    together = rows.reshape(eights, bits, ways * words)
    for bit in range(bits):
        # All values with this as their highest bit are those without it, and this one's row.
        table[:, 1 << bit : 2 << bit] = table[:, : 1 << bit] | together[:, bit, None]
    return table


def _weighed(weights: NDArray[np.float64]) -> NDArray[np.float64]:
    """The sums of weights and of weights times their logarithms, by each value of each eight: (K / 8, 256, 2)."""
    eights = -(-len(weights) // 8)
    weights = np.pad(weights, (0, 8 * eights - len(weights)))
    bits = (np.arange(256)[:, None] >> np.arange(8)) & 1
    both = np.stack([weights, weights * np.log2(np.maximum(weights, 1e-300))], axis=1).reshape(eights, 8, 2)
    return np.ascontiguousarray(np.einsum("vb,cbk->cvk", bits.astype(np.float64), both))


def _patterns(domain: NDArray[np.uint64]) -> NDArray[np.int32]:
    """The only pattern of each domain, (N,) int32."""
    patterns = np.zeros(len(domain), dtype=np.int32)
    for word, bits in enumerate(domain.T):
        # The exponent of the only bit; numbers of none have the exponent 0.
        patterns += np.where(bits, 64 * word - 1, 0).astype(np.int32) + np.frexp(bits.astype(np.float64))[1]
    return patterns
