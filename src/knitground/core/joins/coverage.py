"""Which combinations of terrains a join set can lay."""

from collections.abc import Collection
from dataclasses import dataclass
from itertools import product

from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.tiles.tile import TileRef


@dataclass(frozen=True)
class Coverage:
    """Every combination the terrains can form, with the tiles that show it (none: missing; several: variants)."""

    tiles: dict[Labels, tuple[TileRef, ...]]

    @property
    def present(self) -> int:
        """How many combinations have a tile."""
        return sum(bool(refs) for refs in self.tiles.values())

    @property
    def doubled(self) -> int:
        """How many combinations have several tiles."""
        return sum(len(refs) > 1 for refs in self.tiles.values())

    @property
    def missing(self) -> list[Labels]:
        """The combinations without a tile."""
        return [labels for labels, refs in self.tiles.items() if not refs]


def coverage(join_set: JoinSet, usable: Collection[TileRef] | None = None) -> Coverage:
    """The coverage of a set.

    Parameters
    ----------
    join_set : JoinSet
        Where its tiles may border on nothing, nothing counts as one more terrain.
    usable : collection of TileRef, optional
        The tiles that their sheets really hold; labels of others do not count.
    """
    first = 0 if join_set.bare else 1
    numbers = range(first, len(join_set.terrains) + 1)
    found: dict[Labels, list[TileRef]] = {
        (a, b, c, d): [] for a, b, c, d in product(numbers, repeat=4) if a + b + c + d
    }
    for ref, labels in join_set.labels.items():
        if labels in found and (usable is None or ref in usable):
            found[labels].append(ref)
    return Coverage({labels: tuple(refs) for labels, refs in found.items()})
