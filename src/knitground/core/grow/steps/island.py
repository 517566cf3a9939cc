"""Islands and coasts: land that falls off to the borders, ragged by noise."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.steps.step import Canvas, Choice, Knob, Marks, Role, Share, Step, TerrainNumber


@dataclass(frozen=True)
class IslandStep(Step):
    """Land in the middle, or along the west or north, with a coast of its own terrain if wanted."""

    amount: Share = 0.5
    ragged: Share = 0.5
    scale: Annotated[float, Field(ge=2, le=4096)] = 14.0
    coast: TerrainNumber | None = field(default=None, kw_only=True)
    coast_width: Annotated[int, Field(ge=1, le=32)] = field(default=2, kw_only=True)
    lies: Literal["middle", "west", "north"] = field(default="middle", kw_only=True)
    kind: Literal["island"] = field(default="island", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Island"
    says: ClassVar[str] = "lays an island, or a coast"
    lays_ground: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (
        Role("terrain", "Land"), Role("coast", "Coast", "none"), Role("elsewhere", "Sea", "as it is"),
    )  # fmt: skip
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("amount", "Land", 0, 1, "{:.0%}", 0.01),
        Knob("ragged", "Ragged", 0, 1, "{:.0%}", 0.01),
        Knob("scale", "Bays", 2, 64, "{:.0f}"),
        Knob("coast_width", "Coast", 1, 12, "{:.0f}"),
    )
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("lies", "Lies", (("in the middle", "middle"), ("in the west", "west"), ("in the north", "north"))),
    )

    def marks(self, canvas: Canvas) -> Marks:
        height, width = canvas.shape
        y, x = (np.arange(height)[:, None] + 0.5) / height, (np.arange(width) + 0.5) / width
        if self.lies == "middle":
            # 0 along the borders, 1 in the middle; sides are rounder than a box and squarer than a disc.
            high = (1 - (2 * y - 1) ** 4) * (1 - (2 * x - 1) ** 4)
        else:
            high = 1 - (x + 0 * y if self.lies == "west" else y + 0 * x)
        high = high + self.ragged * canvas.noise(self.scale, 4)
        land = np.zeros(canvas.shape, dtype=bool)
        if self.amount > 0:
            land = high >= np.quantile(high, 1 - self.amount)
        if self.lies == "middle":
            land[[0, -1]] = land[:, [0, -1]] = False
        land &= canvas.may
        marks = canvas.marks(land, self.terrain, self.elsewhere)
        if self.coast is not None:
            marks[canvas.places.grown(land, self.coast_width) & ~land] = self.coast
        return marks
