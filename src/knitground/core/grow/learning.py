"""Learning from an example: what lies side by side in it, or which small blocks it is made of, and more of the same.

References
----------
P. Merrell, "Example-based model synthesis", ACM SIGGRAPH Symposium on Interactive 3D Graphics (2007): what is laid
looks like the example in every small neighbourhood.
"""

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRecipe
from knitground.core.grow.agreeing import SIDE_STEPS
from knitground.core.grow.fitting import MOST_PATTERNS, CannotAgree, Field, Held, Progress, Rules, fill, rect_field

LARGEST_BLOCK = 3
_SMALLEST = 2
_FAR = 0.5

Example = NDArray[np.int32]
"""Codes of an example, (H, W) int32."""


class Learned(NamedTuple):
    """What an example is made of.

    Attributes
    ----------
    blocks : (K, n, n) int32
        The different blocks of n x n codes; single codes where n is 1.
    rules : Rules
        Which of them may lie one cell further north, east, south and west, and how often each lies in the example.
    """

    blocks: NDArray[np.int32]
    rules: Rules


class CannotGoOn(BadRecipe):
    """There is no more of an example, in the way asked for."""


class Used(NamedTuple):
    """How often a code lies in the example and in what was made of it, as shares."""

    code: int
    wanted: float
    got: float


def learn(examples: list[Example], size: int = 1) -> Learned:
    """Reads one example, or several that are turns of it.

    Parameters
    ----------
    examples : list of (H, W) int32
    size : int
        1 to learn which codes lie side by side, 2 or 3 for blocks of so many rows and columns.

    Raises
    ------
    BadRecipe
        If there is too little to learn from, or too much.
    """
    if not 1 <= size <= LARGEST_BLOCK:
        raise BadRecipe(f"Blocks of {size} x {size} can't be learned; choose 1, 2 or {LARGEST_BLOCK}.")
    if any(min(example.shape) < max(size, _SMALLEST) for example in examples):
        raise BadRecipe(f"An example of at least {max(size, _SMALLEST)} x {max(size, _SMALLEST)} tiles is needed.")
    windows = [np.lib.stride_tricks.sliding_window_view(example, (size, size)) for example in examples]
    rows = np.concatenate([window.reshape(-1, size * size) for window in windows])
    blocks, numbers, counts = np.unique(rows, axis=0, return_inverse=True, return_counts=True)
    if len(blocks) > MOST_PATTERNS:
        raise BadRecipe(
            f"The example holds {len(blocks)} different blocks, and {MOST_PATTERNS} can be learned: take smaller "
            "blocks, a smaller example, or leave turned ones out."
        )
    grids, first = [], 0
    for window in windows:
        count = window.shape[0] * window.shape[1]
        grids.append(numbers.ravel()[first : first + count].reshape(window.shape[:2]))
        first += count
    blocks = blocks.reshape(-1, size, size).astype(np.int32)
    east, south = _side_by_side(grids, len(blocks)) if size == 1 else _overlapping(blocks)
    return Learned(blocks, Rules(np.array([south.T, east, south, east.T]), counts.astype(np.float64)))


def more_of(
    learned: Learned, height: int, width: int, seed: int, *, wraps: bool = False,
    given: NDArray[np.int32] | None = None, progress: Progress = lambda share: None,
) -> NDArray[np.int32]:  # fmt: skip
    """A field of codes in which every two neighbours, or every block, lie so in the example.

    Parameters
    ----------
    learned : Learned
    height, width : int
    seed : int
    wraps : bool
        Whether it also holds over the borders.
    given : (height, width) int32, optional
        Codes that have to stay; negative where anything may lie.
    progress : callable, optional

    Returns
    -------
    codes : (height, width) int32

    Raises
    ------
    BadRecipe
        If there is no way, or none was found.

    See Also
    --------
    more_or_advice
    """
    size = learned.blocks.shape[1]
    less = 0 if wraps else size - 1
    around = " round the borders" if wraps else ""
    if min(height, width) < max(size, 1):
        raise BadRecipe(f"{width} x {height} tiles are less than one block of the example; ask for more.")
    field = rect_field(height - less, width - less, SIDE_STEPS, wraps=wraps)
    held = None if given is None else _held(learned, given, height - less, width - less)
    try:
        chosen = fill(learned.rules, field, held, seed, progress=progress)
    except CannotAgree:
        alike = f"in blocks of {size} x {size}" if size > 1 else "side by side"
        raise _no_way(around, alike) from None
    return _spread(learned.blocks, chosen.reshape(height - less, width - less), height, width)


def more_over_sides(
    values: NDArray[np.int32], inside: NDArray[np.bool_], sides: NDArray[np.int32], seed: int, *,
    free: NDArray[np.bool_], progress: Progress = lambda share: None,
) -> NDArray[np.int32]:  # fmt: skip
    """More of a piece of what lies on any grid: every two neighbours lie so, over that side, in the piece.

    Parameters
    ----------
    values : (H, W) int32
        What lies there.
    inside : (H, W) bool
        The piece.
    sides : (S, H W) int32
        The neighbour over each side, -1 for none.
    free : (H, W) bool
        Where something may be laid. What lies elsewhere is kept to where the piece has its like.

    Returns
    -------
    codes : (H, W) int32

    Raises
    ------
    CannotGoOn
        If there is no way, or none was found.
    """
    codes, counts = np.unique(values[inside], return_counts=True)
    numbers = np.searchsorted(codes, values.ravel()).clip(0, len(codes) - 1)
    one, known = np.flatnonzero(inside), codes[numbers] == values.ravel()
    allowed = np.zeros((len(sides), len(codes), len(codes)), dtype=bool)
    for way, beside in enumerate(sides):
        other = beside[one]
        both = (other >= 0) & inside.ravel()[other]
        allowed[way, numbers[one[both]], numbers[other[both]]] = True
    fixed = np.flatnonzero(~free.ravel() & known)
    held = Held(fixed, np.eye(len(codes), dtype=bool)[numbers[fixed]])
    places = np.stack(np.divmod(np.arange(values.size), values.shape[1]), axis=1).astype(np.int32)
    try:
        chosen = fill(Rules(allowed, counts.astype(np.float64)), Field(sides, places), held, seed, progress=progress)
    except CannotAgree:
        raise _no_way("", "side by side") from None
    return np.asarray(codes[chosen].reshape(values.shape), dtype=np.int32)


def _no_way(around: str, alike: str) -> CannotGoOn:
    return CannotGoOn(
        f"No way was found to go on{around} from this example so that everything lies {alike} as in it: give it more "
        "of what may lie together."
    )


def more_or_advice(
    examples: list[Example], block: int, height: int, width: int, seed: int, *, wraps: bool = False,
    turned: Callable[[], list[Example]] | None = None, given: NDArray[np.int32] | None = None,
    progress: Progress = lambda share: None,
) -> NDArray[np.int32]:  # fmt: skip
    """As `learn` and `more_of`; where there is no way, what little else was asked for would do, found by trying it.

    Parameters
    ----------
    examples : list of (H, W) int32
    block : int
        1 to 3, see `learn`.
    turned : callable, optional
        Gives the examples in all orientations, where those could be asked for and were not.

    Raises
    ------
    CannotGoOn
        With what would go on instead, if anything does.
    BadRecipe
        If there is too little to learn from, or too much.
    """

    def made(examples: list[Example], block: int, around: bool) -> NDArray[np.int32]:
        return more_of(learn(examples, block), height, width, seed, wraps=around, given=given, progress=progress)

    def goes_on(examples: list[Example], block: int, around: bool) -> bool:
        try:
            made(examples, block, around)
        except BadRecipe:
            return False
        return True

    try:
        return made(examples, block, wraps)
    except CannotGoOn as problem:
        ways = ["without going round"] if wraps and goes_on(examples, block, False) else []
        if turned and goes_on(turned(), block, wraps):
            ways.append("with turned and mirrored tiles too")
        for less in range(block - 1, 0, -1):
            if goes_on(examples, less, wraps):
                ways.append(f"in blocks of {less} x {less}" if less > 1 else "side by side only")
        if not ways:
            raise
        raise CannotGoOn(f"{problem} What does go on: the same {' or '.join(ways)}.") from None


def usage(example: Example, made: NDArray[np.int32]) -> list[Used]:
    """What of an example was left out, or used twice as much or half as much as in it; the farthest off first.

    Parameters
    ----------
    example, made : (H, W) int32
    """
    codes, counts = np.unique(example, return_counts=True)
    found = []
    for code, count in zip(codes.tolist(), counts.tolist(), strict=True):
        wanted, got = count / example.size, float((made == code).mean())
        if got == 0 or not _FAR <= got / wanted <= 1 / _FAR:
            found.append(Used(code, wanted, got))
    return sorted(found, key=lambda one: (one.got > 0, -abs(one.got - one.wanted)))


def turns_of(example: Example, turned: NDArray[np.int32]) -> Iterator[Example]:
    """An example in all orientations in which its tiles can be laid.

    Parameters
    ----------
    example : (H, W) int32
        Codes from 0.
    turned : (8, C) int32
        The code of each code when it is laid in each orientation: quarter turns clockwise, then the same mirrored
        from left to right first; -1 in those in which it can't be laid.
    """
    for orientation in range(8):
        if (turned[orientation] < 0).any():
            continue
        codes = turned[orientation][example]
        codes = codes[:, ::-1] if orientation >= 4 else codes
        yield np.ascontiguousarray(np.rot90(codes, -(orientation % 4)))


def _side_by_side(grids: list[NDArray[np.intp]], count: int) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which codes lie at the right of which, and below, (K, K) bool each.

    Parameters
    ----------
    grids : list of (h, w) intp
        Numbers of codes.
    count : int
    """
    east, south = (np.zeros((count, count), dtype=bool) for _ in range(2))
    for grid in grids:
        east[grid[:, :-1], grid[:, 1:]] = True
        south[grid[:-1], grid[1:]] = True
    return east, south


def _overlapping(blocks: NDArray[np.int32]) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which blocks may lie one cell right of which, and one below: those that agree where they overlap.

    Parameters
    ----------
    blocks : (K, n, n) int32
    """

    def agree(first: NDArray[np.int32], second: NDArray[np.int32]) -> NDArray[np.bool_]:
        both = np.concatenate([first, second]).reshape(2 * len(blocks), -1)
        numbers = np.unique(both, axis=0, return_inverse=True)[1].ravel()
        return np.asarray(numbers[: len(blocks), None] == numbers[None, len(blocks) :])

    return agree(blocks[:, :, 1:], blocks[:, :, :-1]), agree(blocks[:, 1:], blocks[:, :-1])


def _held(learned: Learned, given: NDArray[np.int32], height: int, width: int) -> Held:
    """The places at which some code is given, and which blocks may lie there.

    Parameters
    ----------
    given : (H, W) int32
        Negative where anything may lie.
    """
    size = learned.blocks.shape[1]
    # Round the borders where the field goes round, and not looked at where it does not.
    padded = np.pad(given, ((0, size - 1), (0, size - 1)), mode="wrap")
    parts = np.lib.stride_tricks.sliding_window_view(padded, (size, size))[:height, :width]
    cells = np.flatnonzero((parts >= 0).any(axis=(2, 3)))
    asked = parts.reshape(-1, size * size)[cells]
    may = np.ones((len(cells), len(learned.blocks)), dtype=bool)
    for place, blocks in enumerate(learned.blocks.reshape(-1, size * size).T):
        may &= (asked[:, place, None] < 0) | (asked[:, place, None] == blocks)
    return Held(cells, may)


def _spread(blocks: NDArray[np.int32], chosen: NDArray[np.int32], height: int, width: int) -> NDArray[np.int32]:
    """The codes of a field of blocks that agree where they overlap: (height, width) int32.

    Parameters
    ----------
    blocks : (K, n, n) int32
    chosen : (h, w) int32
        As high and wide as the field, or by n - 1 less where it does not go round.
    """
    rows, columns = chosen.shape
    codes = np.empty((height, width), dtype=np.int32)
    codes[:rows, :columns] = blocks[:, 0, 0][chosen]
    if rows < height:
        codes[rows:, :columns] = blocks[chosen[-1], 1:, 0].T
        codes[:rows, columns:] = blocks[chosen[:, -1], 0, 1:]
        codes[rows:, columns:] = blocks[chosen[-1, -1], 1:, 1:]
    return codes
