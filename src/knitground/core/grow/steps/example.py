"""More of a piece of the map: what lies in a rectangle of the layer is the example for all of it."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.errors import BadRecipe
from knitground.core.grow.learning import Used, more_or_advice, more_over_sides, usage
from knitground.core.grow.steps.step import Canvas, Choice, Knob, Marks, Role, Step
from knitground.core.tiles.tile import MIRRORED, turned_codes

Place = Annotated[int, Field(ge=0, le=4096)]
Size = Annotated[int, Field(ge=2, le=4096)]


@dataclass(frozen=True)
class ExampleStep(Step):
    """Lays more of the rows and columns from `top` and `left` on."""

    top: Place = 0
    left: Place = 0
    rows: Size = 12
    columns: Size = 12
    blocks: Literal[1, 2, 3] = field(default=2, kw_only=True)
    turns: bool = field(default=False, kw_only=True)
    kind: Literal["example"] = field(default="example", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "More of a piece"
    says: ClassVar[str] = "lays more of a piece of the map"
    takes_tiles: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = ()
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("top", "From row", 0, 255),
        Knob("left", "Column", 0, 255),
        Knob("rows", "Rows", 2, 64),
        Knob("columns", "Columns", 2, 64),
    )
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("blocks", "Alike", (("side by side", 1), ("in blocks of two", 2), ("in blocks of three", 3))),
        Choice("turns", "Turned", (("as it lies only", False), ("turned and mirrored too", True))),
    )

    @property
    def compiled(self) -> bool:
        return True

    def used(self, before: NDArray[Any], after: NDArray[Any]) -> list[Used]:
        """What of the example was left out, or used much more or less than in it.

        Parameters
        ----------
        before, after : (H, W) int
            What lay on the layer, and what lies there after the step.
        """
        return usage(self._piece(before.astype(np.int32)), after.astype(np.int32))

    def _piece(self, values: NDArray[np.int32]) -> NDArray[np.int32]:
        """The example itself, of what lies on the layer.

        Parameters
        ----------
        values : (h, w) int32
        """
        return values[self.top : self.top + self.rows, self.left : self.left + self.columns]

    def marks(self, canvas: Canvas) -> Marks:
        height, width = canvas.shape
        values = canvas.values[:height, :width].astype(np.int32)
        if not canvas.places.plain:
            return self._over_sides(canvas, values)
        example = self._piece(values)
        if min(example.shape) < 2:
            raise BadRecipe("The piece that is the example lies off this ground; select another.")
        given = np.where(canvas.may, -1, values)
        known = np.isin(values, np.unique(example))
        # What can't be told from the example is left alone, and what is held round about has to be in it.
        given[~canvas.may & ~known] = -1
        turned = list(_turned(example, canvas))
        more = None if self.turns or len(turned) == 1 else lambda: turned
        return more_or_advice(
            turned if self.turns else turned[:1], self.blocks, height, width, canvas.seed, wraps=all(canvas.wraps),
            turned=more, given=None if canvas.may.all() else given, progress=canvas.progress,
        )  # fmt: skip

    def _over_sides(self, canvas: Canvas, values: NDArray[np.int32]) -> Marks:
        """More where rows are staggered or cells have six sides: what lies over each side as it does in the example.

        Parameters
        ----------
        values : (h, w) int32
        """
        if self.blocks > 1 or self.turns:
            raise BadRecipe(
                "On this grid a piece can be learned side by side and as it lies only; choose both, or another step."
            )
        inside = np.zeros(canvas.shape, dtype=bool)
        inside[self.top : self.top + self.rows, self.left : self.left + self.columns] = True
        return more_over_sides(
            values, inside, canvas.places.sides, canvas.seed, free=canvas.may, progress=canvas.progress
        )


def _turned(example: NDArray[np.int32], canvas: Canvas) -> Iterator[NDArray[np.int32]]:
    """The example as it lies, and after it in all the other orientations in which it can lie.

    Parameters
    ----------
    example : (h, w) int32
    """
    for orientation in canvas.orientations:
        codes = turned_codes(example, orientation) if canvas.tiles else example
        codes = codes[:, ::-1] if orientation & MIRRORED else codes
        yield np.ascontiguousarray(np.rot90(codes, -(orientation % 4)))
