"""Connecting: all parts of a terrain made one by the shortest cuts."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.places import linked
from knitground.core.grow.steps.step import Canvas, Knob, Marks, Role, Step


@dataclass(frozen=True)
class ConnectStep(Step):
    """Cuts ways of a terrain between its parts, `width` cells wide."""

    width: Annotated[int, Field(ge=1, le=16)] = 1
    kind: Literal["connect"] = field(default="connect", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Connect"
    says: ClassVar[str] = "joins all parts of a terrain"
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Terrain"),)
    knobs: ClassVar[tuple[Knob, ...]] = (Knob("width", "Width", 1, 8, "{:.0f}"),)

    def marks(self, canvas: Canvas) -> Marks:
        there = canvas.values == self.terrain
        cuts = linked(canvas.places, there, np.where(canvas.may, 1 + 0.01 * canvas.chance(), 1e4)) & ~there
        cuts = canvas.places.grown(cuts, self.width - 1) & ~there
        return canvas.marks(cuts & canvas.may, self.terrain)
