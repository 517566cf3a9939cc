"""What a check is, and what it may ask.

A check looks at one thing and gives findings in sentences, with the spot to go to and what to do about it. Each says
what it depends on, so that it is done anew only where something changed: checks of definitions by the objects they
were made from, checks of grounds besides block by block.
"""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.seams import Seam
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import JoinSet
from knitground.core.layers.blocking import BlockRules
from knitground.core.layers.layer import Laid, Layer, Planes
from knitground.core.layers.thing import ThingKind
from knitground.core.sheet.picture import Sheet
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.shape_kinds import ShapeKind
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.journey import Journey, KeptRoute, Route
from knitground.core.walk.leaps import Leaps
from knitground.core.walk.motion import Spot
from knitground.core.walk.reach import Reach

BLOCK = 64
"""Cells on the side of a block by which findings on grounds are kept."""

Stage = Literal["sheet", "joins", "stitches", "ground", "grow", "deliver"]
Progress = Callable[[float], None]


@dataclass(frozen=True)
class Finding:
    """Something that is wrong: in which stage to mend it, a sentence, and where it is.

    `subject` is the id of the sheet, set or ground; `layer`, `row` and `column` lead to a cell of a ground, or
    `index` to an item of a list, or `tiles` to tiles of a sheet, and of these to the shapes of `shape_kind` where it is
    about shapes. `mend` says what to do.
    """

    kind: str
    stage: Stage
    sentence: str
    subject: str
    layer: str | None = None
    row: int | None = None
    column: int | None = None
    index: int | None = None
    count: int = 1
    tiles: tuple[str, ...] = ()
    mend: str = ""
    shape_kind: str = ""


class Sprite(NamedTuple):
    """A tile, turned as it is laid.

    Attributes
    ----------
    alpha : (h, w) uint8
    left, top : int
        Where its left top pixel lies, seen from that of the box of its cell.
    """

    alpha: NDArray[np.uint8]
    left: int
    top: int


class Facts(Protocol):
    """What checks may ask of a project."""

    pulse: Callable[[], None]
    """Called now and then by what takes long; may raise to stop it."""

    @property
    def sheets(self) -> tuple[Sheet, ...]: ...

    @property
    def join_sets(self) -> tuple[JoinSet, ...]: ...

    @property
    def stitch_sets(self) -> tuple[StitchSet, ...]: ...

    @property
    def grounds(self) -> tuple[Ground, ...]: ...

    @property
    def tile_sizes(self) -> NDArray[np.int32]:
        """Width and height of each palette number's tile, (N + 1, 2): 0 where it is on no sheet, -1 for any size."""

    @property
    def sizes_since(self) -> object:
        """Another object whenever the size of a tile that was known changed; new tiles change nothing."""

    @property
    def lost(self) -> Mapping[TileRef, int | None]:
        """Tiles that something names and their sheets do not hold, with their palette numbers."""

    @property
    def lost_by_sheet(self) -> Mapping[str, Mapping[str, int]]:
        """What names lost tiles of each sheet, and how many."""

    @property
    def tiles(self) -> Mapping[TileRef, TileNotes]:
        """What is said of tiles."""

    @property
    def thing_kinds(self) -> tuple[ThingKind, ...]: ...

    @property
    def shape_kinds(self) -> tuple[ShapeKind, ...]: ...

    @property
    def block_rules(self) -> BlockRules: ...

    def blocking_since(self, ground: Ground) -> tuple[Any, ...]:
        """What follows what blocks on a ground: other objects whenever it may differ."""

    @property
    def routes(self) -> tuple[KeptRoute, ...]: ...

    def walked(self, ground: Ground, route: Route) -> Journey:
        """Where a route leads a figure of the usual size now."""

    def blamed(self, ground: Ground, spot: Spot) -> str:
        """What such a figure touches at a place, in words."""

    def reach(self, ground: Ground) -> Reach:
        """What hangs together on a ground for a figure of the usual size."""

    def leaps(self, ground: Ground) -> Leaps:
        """What hangs together on a ground seen from the side, for a body of the usual size and strength."""

    def picture(self, sheet: Sheet) -> NDArray[np.uint8]:
        """A sheet's picture, (H, W, 4), with what counts as transparent made so.

        Parameters
        ----------
        sheet : Sheet
            One of the project's.

        Returns
        -------
        picture : (H, W, 4) uint8
            Straight alpha.
        """

    def usable(self, refs: Collection[TileRef]) -> Collection[TileRef]:
        """Those of some tiles that their sheets hold."""

    def ready(self, owner: StitchSet) -> Any:
        """A stitch set made ready to be laid (a `ReadySet`)."""

    def coverage(self, owner: JoinSet) -> Coverage:
        """The combinations that a join set can lay."""

    def seams(self, owner: JoinSet) -> Callable[[], list[Seam]]:
        """Finds the seams of a join set."""

    def table(self, ground_id: str, layer_id: str) -> Any:
        """The compiled table of a layer."""

    def planes(self, ground_id: str, layer_id: str) -> Planes:
        """What is painted on a layer."""

    def laid(self, ground_id: str, layer_id: str, cells: CellRect) -> Laid:
        """The tiles of a layer."""

    def lies_flat(self, ground: Ground, codes: NDArray[np.int32]) -> NDArray[np.bool_]:
        """Which cell codes show nothing outside the outline of their cell.

        Parameters
        ----------
        ground : Ground
        codes : (H, W) int32

        Returns
        -------
        flat : (H, W) bool
        """

    def sprite(self, ground: Ground, code: int) -> Sprite:
        """How the tile of a cell code lies over its cell on a ground."""

    def floor_height(self, ground: Ground, code: int) -> int:
        """How high the tile of a cell code is if it is a block of a floor, on which things stand; else 0."""

    def ref(self, number: int) -> TileRef:
        """The tile that a number in cell codes stands for."""


@dataclass(frozen=True)
class DefinitionCheck:
    """A check of something that is defined.

    Attributes
    ----------
    name : str
    about : callable
        Gives the things to look at.
    depends : callable
        What the findings of a thing follow from; compared by identity.
    find : callable
        The findings of a thing.
    at_once : bool
        Whether it is quick enough to be done with every change; else it is done beside the window.
    """

    name: str
    about: Callable[[Facts], Sequence[Any]]
    depends: Callable[[Facts, Any], tuple[Any, ...]]
    find: Callable[[Facts, Any], Sequence[Finding]]
    at_once: bool = True


class Tally(NamedTuple):
    """How many cells of a block, and the first of them."""

    cells: int
    row: int
    column: int


def together(tallies: Sequence[Tally]) -> Tally:
    """Some tallies, at least one, as one."""
    return Tally(sum(one.cells for one in tallies), *min((one.row, one.column) for one in tallies))


Tallies = Mapping[str, Tally]
"""By what is wrong with the cells, in the check's own words."""


@dataclass(frozen=True)
class GroundCheck:
    """A check of grounds, layer by layer and block by block.

    Attributes
    ----------
    name : str
    applies : callable
        Whether it looks at a layer.
    depends : callable
        What the tallies of all blocks follow from, besides what is painted; compared by identity.
    look : callable
        The tallies of a block.
    tell : callable
        The findings, given what was found on each layer.
    """

    name: str
    applies: Callable[[Layer], bool]
    depends: Callable[[Facts, Ground, Layer], tuple[Any, ...]]
    look: Callable[[Facts, Ground, Layer, CellRect], Tallies]
    tell: Callable[[Facts, Sequence[tuple[Ground, Layer, Tallies]]], Sequence[Finding]]


def tally(cells: NDArray[np.bool_], rect: CellRect) -> Tally | None:
    """The tally of an (H, W) mask over a rectangle; None where nothing is set.

    Parameters
    ----------
    cells : (H, W) bool
        The cells of the rectangle that count.
    rect : CellRect
        Where they lie on the ground.
    """
    count = int(np.count_nonzero(cells))
    if not count:
        return None
    row, column = np.unravel_index(int(np.argmax(cells)), cells.shape)
    return Tally(count, rect.top + int(row), rect.left + int(column))


def many(count: int, one: str, several: str) -> str:
    """A count with its noun; thousands are set apart, as a large ground has millions of cells."""
    return f"1 {one}" if count == 1 else f"{count:,} {several}"
