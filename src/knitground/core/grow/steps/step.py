"""What a step of a recipe is, whatever its kind: what all share, what it works on, and what a window asks of it.

A kind of step is a module of its own and a line in `knitground.core.grow.steps.KINDS`. It tells what it lays at each
place; where it may, which planes that concerns and how they are painted is seen to by who runs it.
"""

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, NamedTuple, Protocol, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, model_serializer

from knitground.core.chance import chance, seed_for
from knitground.core.grow.noise import Progress, wrapping_noise
from knitground.core.grow.places import Mask, Places
from knitground.core.grow.region import CellRuns, Spot, Where
from knitground.core.joins.sets import MOST_TERRAINS
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

if TYPE_CHECKING:
    from knitground.core.grow.learning import Used

LEFT = -1
"""What a step tells of places that it leaves as they are."""

TerrainNumber = Annotated[int, Field(ge=0, le=MOST_TERRAINS)]
Share = Annotated[float, Field(ge=0, le=1)]
Marks = NDArray[np.int32]


class Knob(NamedTuple):
    """A number of a step, as a slider shows it: how it is called, its bounds, and the text of a value."""

    name: str
    title: str
    low: float
    high: float
    text: str = "{:.0f}"
    unit: float = 1.0


class Role(NamedTuple):
    """A terrain that a step asks for: its field, how it is called, and what none of it means."""

    name: str
    title: str
    none: str = ""


class Asked(NamedTuple):
    """Spots of the ground that a step asks for: what they are to it, and what none of them means."""

    title: str
    none: str


class Choice(NamedTuple):
    """A field of a step with a few values, by what each is called."""

    name: str
    title: str
    values: tuple[tuple[str, Any], ...]


class Tools(Protocol):
    """What steps ask of the project."""

    def mix(self, mix_id: str, canvas: "Canvas", at: Mask | None = None) -> Marks:
        """A throw of a mix; blocks lie whole where the step may lay something.

        Parameters
        ----------
        mix_id : str
        canvas : Canvas
        at : (height, width) bool, optional
            Where something falls; everywhere if not given.

        Returns
        -------
        codes : (height, width) int32
            Cell codes; `LEFT` where nothing falls.
        """

    def shown(self, layer_id: str) -> Marks:
        """The tiles that a layer of the ground shows as of this step, (height, width) int32 of cell codes."""

    def brightness(self, sheet_id: str, height: int, width: int) -> NDArray[np.float32]:
        """How bright a sheet's picture is, averaged to (height, width), from 0 to 1; what is clear is dark.

        Parameters
        ----------
        sheet_id : str
        height, width : int
            How many places it is averaged to.
        """

    def unlike(self, mix_id: str, canvas: "Canvas") -> Marks:
        """The same so that no two alike lie side by side, as far as the mix has enough parts."""


@dataclass(frozen=True)
class Canvas:
    """What a step works on.

    Attributes
    ----------
    values : (height, width) int
        What lies there: terrains, marks or cell codes.
    places : Places
    may : (height, width) bool
        Where the step may lay something.
    spacing : (float, float)
        Rows and columns per cell on the screen, so that what is round comes out round on every grid.
    wraps : (bool, bool)
        Whether the ground goes round down, and across.
    seed : int
    tiles : bool
        Whether the values are cell codes; on prop layers they are nothing, and only where something is laid counts.
    orientations : ints
        Those in which a piece of what lies there can be turned (see `orient`).
    """

    values: NDArray[Any]
    places: Places
    may: Mask
    spacing: tuple[float, float]
    wraps: tuple[bool, bool]
    seed: int
    tools: Tools
    tiles: bool = False
    progress: Progress = lambda share: None
    orientations: tuple[int, ...] = (0,)

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.places.height, self.places.width

    def chance(self, name: str = "") -> NDArray[np.float64]:
        """Uniform numbers in [0, 1) by place alone, (height, width); others for another name.

        Parameters
        ----------
        name : str
        """
        height, width = self.shape
        return chance(seed_for(self.seed, name), np.arange(height)[:, None], np.arange(width))

    def noise(self, scale: float, octaves: int, name: str = "") -> NDArray[np.float32]:
        """Noise that goes round, (height, width), with features so many cells across.

        Parameters
        ----------
        scale : float
            In cells.
        octaves : int
        name : str
            Another gives other noise.
        """
        both = scale * self.spacing[0], scale * self.spacing[1]
        return wrapping_noise(
            *self.shape, scale=both, octaves=octaves, seed=seed_for(self.seed, name) if name else self.seed,
            progress=self.progress,
        )  # fmt: skip

    def near(self, spots: Sequence[Spot], reach: float) -> NDArray[np.float64]:
        """How near each place lies to one of some spots: 1 there, 0.6 at `reach` cells; 1 everywhere without any.

        Parameters
        ----------
        spots : sequence of Spot
        reach : float
            In cells.

        Returns
        -------
        near : (height, width) float64
        """
        if not spots:
            return np.ones(self.shape)
        away = np.full(self.shape, np.inf)
        rows, columns = np.arange(self.shape[0])[:, None], np.arange(self.shape[1])
        for spot in spots:
            down, across = np.abs(rows - spot.row), np.abs(columns - spot.column)
            down = np.minimum(down, self.shape[0] - down) if self.wraps[0] else down
            across = np.minimum(across, self.shape[1] - across) if self.wraps[1] else across
            away = np.minimum(away, (down / self.spacing[0]) ** 2 + (across / self.spacing[1]) ** 2)
        return np.asarray(np.exp(-0.5 * away / reach**2))

    def marks(self, mask: Mask, number: int | None, elsewhere: int | None = None) -> Marks:
        """One number in a mask and another outside; none leaves what lies there.

        Parameters
        ----------
        mask : (height, width) bool
        """
        return np.where(mask, LEFT if number is None else number, LEFT if elsewhere is None else elsewhere).astype(
            np.int32
        )


DENSER = Asked("Denser at", "no place")
FADES = Knob("fades", "Fades over", 1, 64, "{:.0f}")
"""For steps that lay more towards some spots, and how far from them."""


@dataclass(frozen=True)
class Step(ABC):
    """A step: the layer on which it works, what it lays there, and where it may.

    `over` says which terrain it may cover (none: every one; 0: only what is bare), `where` what has to lie on a layer
    there, and `cells` which ones were selected for it. `throw` makes another seed of the recipe's for this step alone;
    steps that are not `on` are left out.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    layer: str
    terrain: TerrainNumber = 1
    elsewhere: TerrainNumber | None = field(default=None, kw_only=True)
    over: TerrainNumber | None = field(default=None, kw_only=True)
    where: Where | None = field(default=None, kw_only=True)
    cells: CellRuns | None = field(default=None, kw_only=True)
    on: bool = field(default=True, kw_only=True)
    throw: Annotated[int, Field(ge=0, le=2**31 - 1)] = field(default=0, kw_only=True)

    kind: ClassVar[str]
    title: ClassVar[str]
    says: ClassVar[str]
    """What it does, in a sentence."""
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Lay"), Role("elsewhere", "Elsewhere", "as it is"))
    knobs: ClassVar[tuple[Knob, ...]] = ()
    choices: ClassVar[tuple[Choice, ...]] = ()
    asks_spots: ClassVar[Asked | None] = None
    """The spots that its field `spots` holds, if it has one."""
    lays_ground: ClassVar[bool] = False
    """Whether it means little unless something is laid elsewhere, too, as with an island and its sea."""
    takes_runs: ClassVar[bool] = False
    """Whether it works on what is painted along edges, too."""
    takes_tiles: ClassVar[bool] = False
    """Whether it works on layers of single tiles."""
    takes_things: ClassVar[bool] = False
    """Whether it strews things on prop layers; it tells by any number above 0 where."""
    takes_areas: ClassVar[bool] = True
    """Whether it works on layers on which terrains are painted."""

    @abstractmethod
    def marks(self, canvas: Canvas) -> Marks:
        """What it lays at each place, (height, width) int32; `LEFT` where it leaves what is there."""

    @property
    def compiled(self) -> bool:
        """Whether it calls compiled loops (see `knitground.core.grow.warm`)."""
        return False

    @property
    def local(self) -> bool:
        """Whether what it lays follows from what is near alone, so that a larger ground holds the smaller one."""
        return False

    @property
    def set_id(self) -> str | None:
        """The join set by which it fills to fit, if it does that."""
        return None

    @property
    def mix_id(self) -> str | None:
        """The mix that it throws, if it throws one."""
        return None

    @property
    def read_layer(self) -> str | None:
        """The layer whose tiles it takes, if it takes one's."""
        return None

    @property
    def sheet_id(self) -> str | None:
        """The sheet whose picture it reads, if it reads one."""
        return None

    def with_terrains(self, numbers: Sequence[int], layers: Collection[str]) -> Self:
        """The step after the terrains of some layers of its ground, by their ids, got other numbers."""
        values: dict[str, Any] = {}
        if self.layer in layers:
            old = {role.name: getattr(self, role.name) for role in (*self.roles, Role("over", ""))}
            values = {name: numbers[number] for name, number in old.items() if number is not None}
        if self.where is not None and self.where.layer in layers:
            values["where"] = self.where.with_terrains(numbers)
        return replace(self, **values)

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> Self:
        """The step with the tiles that it names exchanged."""
        return self if self.where is None else replace(self, where=self.where.with_tiles(exchanged))

    def with_layers(self, names: Mapping[str, str]) -> Self:
        """The step with other layers for those that it names."""
        values: dict[str, Any] = {"layer": names.get(self.layer, self.layer)}
        if self.where is not None:
            values["where"] = replace(self.where, layer=names.get(self.where.layer, self.where.layer))
        if self.read_layer is not None:
            values["reads"] = names.get(self.read_layer, self.read_layer)
        return replace(self, **values)

    @property
    def layers(self) -> tuple[str, ...]:
        """The layers that it names."""
        named = self.layer, self.where.layer if self.where else None, self.read_layer
        return tuple(one for one in named if one is not None)

    def changed(self, values: Mapping[str, Any]) -> Self:
        """The step with other values for some of its fields."""
        return replace(self, **values)

    def used(self, before: NDArray[Any], after: NDArray[Any]) -> "list[Used]":
        """Of what is its example, what came much more or less often in what it laid; nothing where it has none.

        Parameters
        ----------
        before, after : (h, w) int
            What lay on its layer, and what lies there after it.
        """
        return []

    def seed(self, recipe_seed: int, index: int) -> int:
        """The seed of a step, which is the recipe's `index`-th."""
        return seed_for(recipe_seed, f"step {index}" + (f" throw {self.throw}" if self.throw else ""))

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler, always=("kind", "layer", "terrain"))
