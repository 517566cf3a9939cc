"""Which combinations of terrains a join set can lay.

A set of n terrains has up to n⁴ combinations, a million for 32, and a full set more: those that are missing are
counted, and only gone through one by one where somebody asks for them.

Terrains that no tile shows together, though others lead from one to the other, are not expected to meet (`apart`). Nor
are lines expected to go up and down that no tile leads there (`one_way`), as a fence that is seen from the front.

Of a full set's combinations only those are asked for that areas and runs can form: a terrain lies at a corner only
where it, or one with a higher number, lies on both edges that meet there. With one terrain and nothing these are 47.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.apart import count_exactly, count_squares, groups_together, holds_apart, stand_together
from knitground.core.joins.cells import combinations, count_combinations, is_narrow
from knitground.core.joins.sets import JoinKind, JoinSet, Labels
from knitground.core.joins.turning import LaidTile, laid_tiles
from knitground.core.tiles.tile import TileRef

Group = Literal["missing", "made", "turned", "several", "one"]
Axis = Literal["across", "down"]
_AXES: dict[Axis, tuple[int, int]] = {"across": (1, 3), "down": (0, 2)}
"""The places of an edge set's labels over which lines go along each axis."""
_MOST_LOOKED_AT = 4096
"""Among how many combinations those that are missing are looked at one by one."""


@dataclass(frozen=True)
class Coverage:
    """The combinations that some tile shows, each with its tiles, out of all that the terrains can form."""

    kind: JoinKind
    tiles: dict[Labels, tuple[LaidTile, ...]]
    numbers: range
    made: frozenset[str] = frozenset()
    ground: int = 0

    @property
    def total(self) -> int:
        """How many combinations there are; nothing all round is none."""
        if self.kind == "cell":
            return count_combinations(list(self.tiles), self.ground)
        return self._count(self.together) - (0 in self.numbers)

    @cached_property
    def together(self) -> NDArray[np.bool_]:
        """Which terrains may stand together in a combination; see `stand_together`."""
        return stand_together(self.kind, self.tiles.keys(), self.numbers)

    @property
    def apart(self) -> list[tuple[int, int]]:
        """The numbers of terrains that are not expected to meet, the lower first."""
        pairs = np.argwhere(np.triu(~self.together)) + self.numbers.start
        return [(int(one), int(other)) for one, other in pairs]

    @property
    def beyond(self) -> int:
        """How many combinations are none of the total, as terrains do not meet, or lines do not go there."""
        if self.one_way is not None:
            return count_squares(np.ones_like(self.together)) - self._count(self.together)
        if not self.apart:
            return 0
        return self._count(np.ones_like(self.together)) - self._count(self.together)

    @cached_property
    def one_way(self) -> Axis | None:
        """The axis along which alone the lines of an edge set go, if they border on nothing at all other sides."""
        if self.kind != "edge" or 0 not in self.numbers:
            return None
        goes = [
            axis for axis, places in _AXES.items() if any(labels[place] for labels in self.tiles for place in places)
        ]
        return goes[0] if len(goes) == 1 else None

    def _count(self, together: NDArray[np.bool_]) -> int:
        if self.one_way is not None:
            return int(together.sum())
        if self.kind != "full":
            return count_squares(together)
        if together.all():
            return _count_formed(len(together))
        counted = tuple(_count_formed(count) for count in range(len(together) + 1))
        return sum(count_exactly(len(group), counted) for group in groups_together(together))

    @property
    def present(self) -> int:
        """How many of the combinations have a tile."""
        return len(self.tiles) if self.kind != "full" else sum(is_formed(labels) for labels in self.tiles)

    @property
    def several(self) -> int:
        """How many combinations have several tiles."""
        return sum(len(tiles) > 1 for tiles in self.tiles.values())

    @property
    def turned(self) -> int:
        """How many combinations only turned or mirrored tiles show."""
        return sum(tiles[0].orientation > 0 for tiles in self.tiles.values())

    @property
    def lacking(self) -> int:
        """How many combinations have no tile."""
        return self.total - self.present

    @property
    def narrow(self) -> int:
        """How many combinations of a cell set have no tile and are of narrow areas.

        Those whose corners lie two cells apart, as most do, never come to these; 0 where there are too many to look at.
        """
        if self.kind != "cell" or self.total > _MOST_LOOKED_AT:
            return 0
        corners = any(any(labels[:4]) for labels in self.tiles)
        return sum(is_narrow(labels, corners=corners) for labels in self.missing())

    def combinations(self) -> Iterator[Labels]:
        """All combinations of the total, in order."""
        if self.kind == "cell":
            return combinations(list(self.tiles), self.ground)
        every = self._every()
        return (labels for labels in every if not self._is_beyond(labels)) if self.beyond else every

    def rest(self) -> Iterator[Labels]:
        """The combinations beyond the total, in order."""
        return (labels for labels in self._every() if self._is_beyond(labels)) if self.beyond else iter(())

    def _is_beyond(self, labels: Labels) -> bool:
        others = [place for axis, places in _AXES.items() if axis != self.one_way for place in places]
        if self.one_way is not None and any(labels[place] for place in others):
            return True
        return holds_apart(labels, self.together, self.numbers)

    def _every(self) -> Iterator[Labels]:
        every: Iterator[Labels] = product(self.numbers, repeat=4)
        if self.kind == "full":
            # The edges that a corner needs are at least as high, so each choice of corners leaves few.
            every = (
                corners + edges
                for corners in product(self.numbers, repeat=4)
                for edges in product(*(range(low, self.numbers.stop) for low in _least_edges(corners)))
            )
        return (labels for labels in every if any(labels))

    def missing(self) -> Iterator[Labels]:
        """The combinations without a tile, in order."""
        return (labels for labels in self.combinations() if labels not in self.tiles)

    def group(self, labels: Labels) -> Group:
        """How a combination is there: by one drawn tile, several, one that was made, only by turning, or not at all."""
        tiles = self.tiles.get(labels, ())
        if not tiles:
            return "missing"
        if tiles[0].orientation:
            return "turned"
        if tiles[0].ref.sheet in self.made:
            return "made"
        return "several" if len(tiles) > 1 else "one"


def coverage(
    join_set: JoinSet,
    usable: Collection[TileRef] | None = None,
    *,
    square: bool = True,
    isometric: bool = False,
    made: Collection[str] = (),
) -> Coverage:
    """The coverage of a set.

    Parameters
    ----------
    join_set : JoinSet
        Where its tiles may border on nothing, nothing counts as one more terrain.
    usable : collection of TileRef, optional
        The tiles that their sheets really hold; labels of others do not count.
    square : bool
        Whether tiles are square, so that they can be laid in quarter turns.
    isometric : bool
        Whether tiles are diamonds.
    made : collection of str
        Sheets whose tiles were made by the program.
    """
    tiles = laid_tiles(join_set, usable, square=square, isometric=isometric, made=made)
    return Coverage(join_set.kind, tiles, join_set.numbers, frozenset(made), join_set.ground)


def is_formed(labels: Labels) -> bool:
    """Whether areas and runs can form a combination of a full set."""
    return all(edge >= low for edge, low in zip(labels[4:], _least_edges(labels[:4]), strict=True))


def _least_edges(corners: Labels) -> tuple[int, int, int, int]:
    """The lowest number that each edge must have beside some corners."""
    north_west, north_east, south_east, south_west = corners
    return (
        max(north_west, north_east), max(north_east, south_east), max(south_east, south_west),
        max(south_west, north_west),
    )  # fmt: skip


@lru_cache(maxsize=64)
def _count_formed(count: int) -> int:
    """How many combinations of so many numbers areas and runs can form.

    Round the cell: the corners, and for each edge as many choices as are not below its two corners.
    """
    steps = np.array([[count - max(a, b) for b in range(count)] for a in range(count)], dtype=object)
    return int(np.trace(np.linalg.matrix_power(steps, 4))) if count else 0
