"""Where a step of a recipe may lay something: cells that were selected, and what has to lie on a layer there."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, model_serializer

from knitground.core.grid.shapes import Shape
from knitground.core.joins.sets import MOST_TERRAINS
from knitground.core.tiles.notes import Tag
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

MOST_RUNS = 2**20
_Line = Annotated[int, Field(ge=0, le=2**20)]


class CellRun(NamedTuple):
    """Cells of a row from one column up to, and without, another."""

    row: _Line
    left: _Line
    right: _Line


class Spot(NamedTuple):
    """A place of a ground, which need not be on it."""

    row: _Line
    column: _Line


MOST_SPOTS = 256
Spots = Annotated[tuple[Spot, ...], Field(max_length=MOST_SPOTS)]
CellRuns = Annotated[tuple[CellRun, ...], Field(max_length=MOST_RUNS)]


@dataclass(frozen=True)
class Where:
    """Only where something lies on a layer of the ground, at least so far from its border.

    That is a tile, or a tile with a tag, as the layer shows it; or else a terrain or mark that is painted there
    (0: anything). `outside` turns that round: only where it does not lie, at least so far from it.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    layer: str
    terrain: Annotated[int, Field(ge=0, le=MOST_TERRAINS)] = 0
    inside: Annotated[int, Field(ge=0, le=64)] = 0
    outside: bool = False
    tag: Tag | None = field(default=None, kw_only=True)
    tile: TileRef | None = field(default=None, kw_only=True)

    @property
    def shows(self) -> bool:
        """Whether it asks for tiles, not for what is painted."""
        return self.tag is not None or self.tile is not None

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "Where":
        """The same with its tile exchanged."""
        return self if self.tile is None else replace(self, tile=exchanged(self.tile))

    def with_terrains(self, numbers: Sequence[int]) -> "Where":
        """The same after the terrains of its layer got other numbers."""
        return replace(self, terrain=int(numbers[self.terrain]))

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


def runs_of(shape: Shape) -> tuple[CellRun, ...]:
    """The cells of a shape, row by row."""
    mask = np.pad(shape.mask, ((0, 0), (1, 1))).astype(np.int8)
    rows, begins = np.nonzero(np.diff(mask, axis=1) == 1)
    ends = np.nonzero(np.diff(mask, axis=1) == -1)[1]
    top, left = shape.window.top, shape.window.left
    return tuple(
        CellRun(row + top, begin + left, end + left)
        for row, begin, end in zip(rows.tolist(), begins.tolist(), ends.tolist(), strict=True)
    )


def mask_of(runs: Iterable[CellRun], height: int, width: int) -> NDArray[np.bool_]:
    """Which cells of a ground are in some runs.

    Parameters
    ----------
    runs : iterable of CellRun
    height, width : int
        Of the ground, in cells.

    Returns
    -------
    mask : (height, width) bool
    """
    mask = np.zeros((height, width), dtype=bool)
    for row, left, right in runs:
        if row < height:
            mask[row, left:right] = True
    return mask


def cells_said(runs: Iterable[CellRun]) -> str:
    """How many cells some runs hold, in words."""
    count = sum(max(0, run.right - run.left) for run in runs)
    return f"{count} cell{'s' * (count != 1)}"


def spots_of(shape: Shape) -> tuple[Spot, ...]:
    """The middles of the parts of a shape, those with the most cells first where there are too many."""
    parts, _ = scipy.ndimage.label(shape.mask, np.ones((3, 3)))
    found = []
    for cells in (np.argwhere(parts == number) for number in range(1, parts.max(initial=0) + 1)):
        nearest = cells[np.abs(cells - cells.mean(axis=0)).sum(axis=1).argmin()]
        found.append((len(cells), Spot(int(nearest[0]) + shape.window.top, int(nearest[1]) + shape.window.left)))
    found.sort(key=lambda one: -one[0])
    return tuple(sorted(spot for _, spot in found[:MOST_SPOTS]))
