"""Rooms of right angles, with corridors between them."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.places import linked
from knitground.core.grow.steps.step import Canvas, Knob, Marks, Role, Step

_TRIES = 12


@dataclass(frozen=True)
class RoomsStep(Step):
    """Rooms that do not touch, joined by corridors that keep to their lines."""

    smallest: Annotated[int, Field(ge=1, le=64)] = 4
    largest: Annotated[int, Field(ge=1, le=128)] = 9
    apart: Annotated[int, Field(ge=1, le=32)] = 3
    share: Annotated[float, Field(ge=0, le=1)] = 0.4
    kind: Literal["rooms"] = field(default="rooms", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Rooms"
    says: ClassVar[str] = "lays rooms and corridors"
    lays_ground: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Floor"), Role("elsewhere", "Between", "as it is"))
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("smallest", "Smallest", 1, 32, "{:.0f}"),
        Knob("largest", "Largest", 1, 64, "{:.0f}"),
        Knob("apart", "Apart", 1, 16, "{:.0f}"),
        Knob("share", "Share", 0, 1, "{:.0%}", 0.01),
    )

    def marks(self, canvas: Canvas) -> Marks:
        height, width = canvas.shape
        random = np.random.Generator(np.random.PCG64(canvas.seed))
        low, high = min(self.smallest, self.largest), max(self.smallest, self.largest)
        floor, taken = np.zeros(canvas.shape, dtype=bool), ~canvas.may
        wanted, each = self.share * canvas.may.sum(), ((low + high) / 2) ** 2 * canvas.spacing[0] * canvas.spacing[1]
        laid = 0
        for _ in range(int(_TRIES * wanted / max(each, 1)) + _TRIES):
            if laid >= wanted:
                break
            high_, wide = (
                max(1, round(int(side) * space))
                for side, space in zip(random.integers(low, high + 1, 2), canvas.spacing, strict=True)
            )
            if high_ >= height - 1 or wide >= width - 1:
                continue
            top, left = int(random.integers(1, height - high_)), int(random.integers(1, width - wide))
            around = np.s_[max(0, top - self.apart) : top + high_ + self.apart,
                           max(0, left - self.apart) : left + wide + self.apart]  # fmt: skip
            if not taken[around].any():
                floor[top : top + high_, left : left + wide] = True
                taken[top : top + high_, left : left + wide] = True
                laid += high_ * wide
        # Lines of even numbers are cheaper, so that corridors fall together and run straight.
        rows, columns = np.indices(canvas.shape)
        cost = 1.0 + 0.6 * ((rows % 2) & (columns % 2)) + 0.3 * ((rows % 4 != 0) & (columns % 4 != 0))
        floor = linked(canvas.places, floor, np.where(canvas.may, cost, 1e4)) & canvas.may
        return canvas.marks(floor, self.terrain, self.elsewhere)
