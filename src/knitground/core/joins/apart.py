"""Terrains that stand apart: no tile shows both, though over others, one tile after another, one leads to the other.

Sets of several terrains on one ground have no tile for two that meet. None is missing: what lies between them is laid
there (see `mend`). Terrains that nothing leads to are not apart, as nobody can tell yet what is to lie between.
"""

from collections.abc import Collection, Iterator
from itertools import combinations
from math import comb

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.sets import JoinKind, Labels

_MOST_COUNTED = 12
"""Full sets of more terrains are taken for such that want all to meet: their groups can't be counted one by one."""
_PLACES = 8


def stand_together(kind: JoinKind, rows: Collection[Labels], numbers: range) -> NDArray[np.bool_]:
    """Which terrains may stand together in a combination, (n, n), in the order of their numbers.

    Parameters
    ----------
    kind : JoinKind
    rows : collection of Labels
        What tiles show.
    numbers : range
        All that may lie at a place.
    """
    count = len(numbers)
    together = np.eye(count, dtype=bool)
    if kind == "cell" or (kind == "full" and count > _MOST_COUNTED):
        return np.ones_like(together)
    for held in {frozenset(row) for row in rows}:
        own = [number - numbers.start for number in held if number in numbers]
        together[np.ix_(own, own)] = True
    _, group = scipy.sparse.csgraph.connected_components(together, directed=False)
    alone: NDArray[np.bool_] = group[:, None] != group
    return together | alone


def holds_apart(labels: Labels, together: NDArray[np.bool_], numbers: range) -> bool:
    """Whether a combination holds two terrains that stand apart."""
    own = [number - numbers.start for number in set(labels)]
    return not together[np.ix_(own, own)].all()


def count_squares(together: NDArray[np.bool_]) -> int:
    """How many rows of four hold no two terrains that stand apart."""
    total = 0
    for near in together:
        among = together[np.ix_(near, near)].astype(np.int64)
        total += int(((among @ among) * among).sum())
    return total


def groups_together(together: NDArray[np.bool_]) -> Iterator[tuple[int, ...]]:
    """All groups of at most eight terrains in which none stands apart from another."""
    for size in range(1, min(_PLACES, len(together)) + 1):
        for group in combinations(range(len(together)), size):
            if together[np.ix_(group, group)].all():
                yield group


def count_exactly(size: int, counted: tuple[int, ...]) -> int:
    """How many combinations hold each of so many terrains, given how many hold no more than 0, 1, 2 ... of them."""
    return sum((-1) ** (size - some) * comb(size, some) * counted[some] for some in range(size + 1))
