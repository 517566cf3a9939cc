"""What a layer is, whatever its kind: the header that all share, and what the program may ask of one.

A kind of layer is a subclass in a module of its own. Others ask for a capability (`knits`, `takes_areas`, ...), never
for its class. Methods get the board on which the layer lies, its planes, and what the project knows (`Sets`, `Source`).
"""

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, ClassVar, Literal, NamedTuple, Protocol, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, model_serializer

from knitground.core.grid.board import Board, On
from knitground.core.grid.plane import Plane
from knitground.core.grid.projection import Projection
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.joins.sets import Terrain
from knitground.core.layers.source import Sets, Source
from knitground.core.sheet.picture import Colour
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

PINS = "pins"
LARGEST_SHIFT = 4096
PLAIN_TINT = "#ffffff"

Name = Annotated[str, Field(min_length=1, max_length=80)]
Share = Annotated[float, Field(ge=0, le=1)]
Shift = Annotated[int, Field(ge=-LARGEST_SHIFT, le=LARGEST_SHIFT)]
Parallax = Annotated[float, Field(ge=-16, le=16)]
Stacking = Literal["whole", "depth"]
Solid = Literal["shapes", "whole", "none"]
Stands = Literal["auto", "under", "foot", "over"]
Planes = Mapping[str, Plane]
Patches = dict[str, tuple[Shape, NDArray[Any] | int]]
Values = Callable[[CellRect], NDArray[Any] | int]
"""What is laid on a rectangle of a plane: one number, or one for each place."""


class PlaneSpec(NamedTuple):
    """One of a layer's planes.

    Attributes
    ----------
    on : On
        What its numbers lie on, which says how large it is.
    dtype : str
    codes : bool
        Whether it holds cell codes, which refer to the palette.
    later : bool
        Whether it is there only from the first number on.
    goes_on : bool
        Whether what a larger ground adds is as at the old border, instead of bare.
    """

    on: On
    dtype: str = "uint8"
    codes: bool = False
    later: bool = False
    goes_on: bool = False


class Laid(NamedTuple):
    """Tiles of a rectangle of cells, and the cells that are not as they should be.

    Attributes
    ----------
    codes : (H, W) int32
    unmet : (H, W) uint8
        1 where no tile fits what was painted, 2 where what is laid instead breaks a join, 3 for both.
    more : (N, H, W) int32, optional
        What else is to be kept of the rectangle, such as the tiles that go onto other layers.
    """

    codes: NDArray[np.int32]
    unmet: NDArray[np.uint8]
    more: NDArray[np.int32] | None = None


class Others(Protocol):
    """The other layers of a ground, as a layer sees them whose tiles follow from theirs."""

    @property
    def board(self) -> Board: ...

    def layer(self, layer_id: str) -> "Layer":
        """A layer."""

    def planes_of(self, layer_id: str) -> Planes:
        """What is painted on a layer."""

    def laid(self, layer_id: str, rect: CellRect) -> Laid:
        """The tiles of a layer."""


class Follows(NamedTuple):
    """Something that a layer's tiles follow from: another layer, and whether its tiles count or what is painted."""

    layer: str
    tiles: bool


class Place(NamedTuple):
    """A cell that is asked about: on which board, with which planes, table and seed of the project."""

    board: Board
    planes: Planes
    table: Any
    row: int
    column: int
    code: int
    seed: int


@dataclass(frozen=True)
class Layer(ABC):
    """The header of every layer.

    `opacity` and `tint` act on the layer as a whole. The offset moves it on the screen, in pixels; parallax is how fast
    it moves with the view, 1 being as the ground does. Neighbouring layers with `stacking` "depth" are drawn together,
    cell by cell from the back to the front; the others one whole layer after another. `group` names the groups that it
    lies in, from the outermost, with slashes between. What of it blocks is what `solid` says: the shapes of its
    tiles and things, all that lies on it, or nothing; and all that lies on it keeps light off if it `stops_sight`,
    else what of its tiles has such shapes. It lies "under" or "over" a figure that walks, or as their feet
    say; "auto" is by foot where things or tiles stand in depth, and else under it.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Name
    visible: bool = field(default=True, kw_only=True)
    locked: bool = field(default=False, kw_only=True)
    opacity: Share = field(default=1.0, kw_only=True)
    tint: Colour = field(default=PLAIN_TINT, kw_only=True)
    offset_x: Shift = field(default=0, kw_only=True)
    offset_y: Shift = field(default=0, kw_only=True)
    parallax_x: Parallax = field(default=1.0, kw_only=True)
    parallax_y: Parallax = field(default=1.0, kw_only=True)
    stacking: Stacking = field(default="whole", kw_only=True)
    solid: Solid = field(default="shapes", kw_only=True)
    stops_sight: bool = field(default=False, kw_only=True)
    stands: Stands = field(default="auto", kw_only=True)
    group: Annotated[str, Field(max_length=400)] = field(default="", kw_only=True)

    title: ClassVar[str]
    """What the kind is called in sentences."""
    knits: ClassVar[bool] = False
    """Whether its tiles follow from what is painted."""
    pinnable: ClassVar[bool] = False
    """Whether single tiles can be held in place on it."""
    holds_tiles: ClassVar[bool] = False
    """Whether single tiles, mixes and blocks are laid on it."""
    takes_areas: ClassVar[bool] = True
    """Whether something can be painted on it that covers cells or corners."""
    takes_terrains_of: ClassVar[Literal["join_sets", "stitch_sets", ""]] = ""
    """Which of the project's lists holds the set that lays its tiles."""
    shades_below: ClassVar[bool] = False
    """Whether it is a shade over what lies below."""
    owns_terrains: ClassVar[bool] = False
    """Whether what can be painted on it belongs to the layer itself; see `with_terrain`."""
    may_end: ClassVar[bool] = False
    """Whether it can be chosen what lies off the map; see `goes_on`."""
    marks_walking: ClassVar[bool] = False
    """Whether what is painted on it says where one can walk; see `knitground.core.walk.solid`."""
    places_things: ClassVar[bool] = False
    """Whether things can be placed freely on it."""

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler, always=("kind",))

    @classmethod
    @abstractmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "Self | None":
        """A new layer of this kind that lays tiles by a set (none: by itself); None if that is no set of its kind."""

    @classmethod
    @abstractmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        """What new layers of this kind there may be: how a menu names each, its first name, and its set."""

    @property
    @abstractmethod
    def kind(self) -> Any:
        """What files call its kind."""

    @property
    @abstractmethod
    def specs(self) -> Mapping[str, PlaneSpec]:
        """Its planes by their names."""

    @property
    @abstractmethod
    def area_plane(self) -> str:
        """The plane that areas are painted on."""

    @property
    def stands_in_depth(self) -> bool:
        """Whether it is drawn together with neighbours of the same kind, from the back to the front."""
        return self.stacking == "depth" and not self.shades_below

    @property
    def moved_down(self) -> int:
        """How far feet lie lower on the screen than their cells; what is stacked by depth is only higher or lower."""
        return 0 if self.stacking == "depth" else self.offset_y

    @property
    def sprites(self) -> tuple[TileRef, ...]:
        """The tiles that things on it show."""
        return ()

    @property
    def stitched_by(self) -> str:
        """The stitch set whose tiles it shows, if it shows one's."""
        return (self.set_id or "") if self.takes_terrains_of == "stitch_sets" else ""

    @property
    def refuses(self) -> str:
        """Why nothing can be painted on it, as the end of a sentence; nothing if something can."""
        return ""

    @property
    def shown_part(self) -> str:
        """The part of a stitch set that it shows, if it shows one."""
        return ""

    @property
    def goes_on(self) -> bool:
        """Whether what lies at the border of the map goes on beyond it."""
        return True

    @property
    def takes_runs(self) -> bool:
        """Whether it can be painted in runs along edges."""
        return False

    @property
    def set_id(self) -> str | None:
        """The set that lays its tiles."""
        return None

    @property
    def mix_id(self) -> str | None:
        """The mix that it lays, if it lays one."""
        return None

    def lays_runs(self, wanted: bool) -> bool:
        """Whether a gesture lays a run along edges, if runs are chosen where there is a choice."""
        return self.takes_runs and (wanted or not self.takes_areas)

    def terrains(self, sets: Sets) -> tuple[Terrain, ...]:
        """What can be painted on it, numbered from 1; nothing on layers of single tiles."""
        return ()

    def erased(self, sets: Sets) -> int:
        """The number that erasing leaves."""
        return 0

    def has_ground(self, sets: Sets) -> bool:
        """Whether something covers all of it that can be left to what lies below; see `above_others`."""
        return False

    def above_others(self, sets: Sets) -> "Layer":
        """The layer as it is best added above one that covers the ground: it does not hide all of that."""
        return self

    def problem(self, sets: Sets) -> str:
        """Why the layer can't be what it is, as the end of a sentence; nothing if all is well."""
        return ""

    def with_terrain(self, number: int, terrain: Terrain | None) -> "Self | None":
        """The layer with one of its own terrains exchanged, added at the end or taken out; None if it has none."""
        return None

    def with_numbers(self, layers: Collection[str], numbers: Sequence[int]) -> "Layer":
        """The layer after the terrains of some layers of its ground, by their ids, got other numbers."""
        return self

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "Layer":
        """The layer with the tiles that things on it show exchanged."""
        return self

    def stretched(self, across: float, down: float) -> "Layer":
        """The layer on cells so many times as wide and as high."""
        return self

    def round_moved(self, projection: Projection, down: int, across: int) -> "Layer":
        """The layer with all that is placed freely on it so many cells further, coming in at the other side."""
        return self

    def moved(self, across: float, down: float) -> "Layer":
        """The layer with all that is placed freely on it so many pixels further."""
        return self

    def on_cells(self) -> "Layer | None":
        """The layer as it is where only cells can be painted on; None if it can't be there."""
        return None

    def blank(self, board: Board, sets: Sets) -> dict[str, Plane]:
        """Its planes where nothing is painted yet."""
        return {
            name: Plane.full(board.shape(spec.on), spec.dtype, self.erased(sets) if spec.goes_on else 0)
            for name, spec in self.specs.items()
            if not spec.later
        }

    def resized(self, planes: Planes, board: Board, sets: Sets) -> dict[str, Plane]:
        """Its planes on a larger or smaller ground."""
        return {
            name: plane.resized(board.shape(self.specs[name].on), goes_on=self.specs[name].goes_on)
            for name, plane in planes.items()
        }

    def patches(self, board: Board, planes: Planes, shapes: Mapping[str, Shape], values: Values) -> Patches:
        """What a gesture that covers some shapes of planes sets on them."""
        return {name: (shape, values(shape.window)) for name, shape in shapes.items() if not shape.window.is_empty}

    def table(self, source: Source) -> Any:
        """What `lay` looks up; None if there is nothing."""
        return None

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        """Tiles of a rectangle of cells, as a pure function of what was painted, the set and the seed."""
        return nothing_laid(rect)

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        """The cells whose tiles may change where places of a rectangle of a plane do."""
        return board.reach(rect, 1)

    def kept(self, sets: Sets) -> int:
        """How many numbers are kept for each cell besides its tile."""
        return 0

    def spread(self, table: Any) -> int:
        """How far a tile that changed may change others in turn, and these still others; 0 where none does."""
        return 0

    def follows(self, layers: "Sequence[Layer]", table: Any) -> Mapping[str, Follows]:
        """The layers of its ground that its tiles follow from, by what it calls them."""
        return {}

    def with_others(self, planes: Planes, others: Others, follows: Mapping[str, Follows]) -> Planes:
        """Its planes together with what `lay` asks of the layers that it follows."""
        return planes

    @property
    def unmet_says(self) -> str:
        """What is said of cells whose tile does not fit, `{cells}` being how many."""
        return "{cells} without a tile"

    def why(self, place: Place, source: Source) -> str:
        """A sentence about what lies in a cell."""
        return "bare"

    def renumbered(self, planes: Planes, numbers: Sequence[int]) -> dict[str, Plane]:
        """Its planes with other numbers for what was painted; cell codes stay."""
        lookup = np.asarray(numbers, dtype=np.uint8)
        return {
            name: plane if self.specs[name].codes else plane.mapped(lambda block: lookup[block])
            for name, plane in planes.items()
        }

    @property
    def coded(self) -> tuple[str, ...]:
        """Names of the planes that hold cell codes."""
        return tuple(name for name, spec in self.specs.items() if spec.codes)

    def drawn(self, planes: Planes, codes: Callable[[CellRect], NDArray[np.int32]]) -> Any:
        """What the compositor draws of it (see `knitground.core.layers.items`).

        Parameters
        ----------
        planes : mapping of name to Plane
        codes : callable
            Gives the cell codes of a rectangle, (height, width) int32.
        """
        from knitground.core.layers.items import TileItems

        return TileItems(codes)


def nothing_laid(rect: CellRect) -> Laid:
    """Bare cells."""
    size = max(0, rect.height), max(0, rect.width)
    return Laid(np.zeros(size, dtype=np.int32), np.zeros(size, dtype=np.uint8))
