"""Which combinations of terrains a join set can lay.

A set of n terrains has up to n⁴ combinations, a million for 32: those that are missing are counted, and only gone
through one by one where somebody asks for them.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from itertools import product

from knitground.core.joins.sets import JoinSet, Labels, finished
from knitground.core.tiles.tile import TileRef


@dataclass(frozen=True)
class Coverage:
    """The combinations that some tile shows, each with its tiles, out of all that the terrains can form."""

    tiles: dict[Labels, tuple[TileRef, ...]]
    numbers: range

    @property
    def total(self) -> int:
        """How many combinations there are; nothing all round is none."""
        return len(self.numbers) ** 4 - (0 in self.numbers)

    @property
    def present(self) -> int:
        """How many combinations have a tile."""
        return len(self.tiles)

    @property
    def doubled(self) -> int:
        """How many combinations have several tiles."""
        return sum(len(refs) > 1 for refs in self.tiles.values())

    @property
    def lacking(self) -> int:
        """How many combinations have no tile."""
        return self.total - self.present

    def combinations(self) -> Iterator[Labels]:
        """All combinations, in order."""
        return ((a, b, c, d) for a, b, c, d in product(self.numbers, repeat=4) if a or b or c or d)

    def missing(self) -> Iterator[Labels]:
        """The combinations without a tile, in order."""
        return (labels for labels in self.combinations() if labels not in self.tiles)


def coverage(join_set: JoinSet, usable: Collection[TileRef] | None = None) -> Coverage:
    """The coverage of a set.

    Parameters
    ----------
    join_set : JoinSet
        Where its tiles may border on nothing, nothing counts as one more terrain.
    usable : collection of TileRef, optional
        The tiles that their sheets really hold; labels of others do not count.
    """
    numbers = range(0 if join_set.bare else 1, len(join_set.terrains) + 1)
    found: dict[Labels, list[TileRef]] = {}
    for ref, labels in finished(join_set).items():
        if max(labels) < numbers.stop and (usable is None or ref in usable):
            found.setdefault(labels, []).append(ref)
    return Coverage({labels: tuple(refs) for labels, refs in found.items()}, numbers)
