"""What layers ask of the project: its sets, and what follows from them."""

from collections.abc import Sequence
from typing import Any, Protocol

from knitground.core.grow.mix import Mix
from knitground.core.grow.thrown import Kept
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import JoinSet
from knitground.core.layers.thing import ThingKind
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import TileRef


class Sets(Protocol):
    """The sets of a project, by which layers lay their tiles."""

    @property
    def join_sets(self) -> tuple[JoinSet, ...]: ...

    @property
    def stitch_sets(self) -> tuple[StitchSet, ...]: ...

    @property
    def thing_kinds(self) -> tuple[ThingKind, ...]: ...

    @property
    def mixes(self) -> tuple[Mix, ...]: ...

    @property
    def swatches(self) -> Sequence[Kept]: ...


class Source(Protocol):
    """What follows from a project: compiled tables, and how to name what they lay."""

    @property
    def sets(self) -> Sets: ...

    def table(self, owner: Any) -> Any:
        """The compiled table of a join or stitch set."""

    def coverage(self, owner: JoinSet) -> Coverage:
        """The combinations that a join set can lay."""

    def tile_name(self, code: int) -> str:
        """What a cell code is called in sentences."""

    def code(self, ref: TileRef | None, orientation: int = 0) -> int:
        """The cell code of a tile in an orientation, or of no tile."""

    def weight(self, ref: TileRef) -> float:
        """How often a tile comes among its variants."""
