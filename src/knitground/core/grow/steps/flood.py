"""Flooding with a mix: every cell one of its parts by weight, if wanted no two alike side by side."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.region import Spots
from knitground.core.grow.steps.step import DENSER, FADES, LEFT, Asked, Canvas, Choice, Knob, Marks, Role, Share, Step


@dataclass(frozen=True)
class FloodStep(Step):
    """Lays a mix all over its region."""

    amount: Share = 1.0
    mix: str = field(default="", kw_only=True)
    spots: Spots = field(default=(), kw_only=True)
    fades: Annotated[float, Field(ge=1, le=512)] = field(default=12.0, kw_only=True)
    alike: bool = field(default=True, kw_only=True)
    kind: Literal["flood"] = field(default="flood", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Mix"
    says: ClassVar[str] = "lays a mix in every cell"
    takes_tiles: ClassVar[bool] = True
    takes_areas: ClassVar[bool] = False
    roles: ClassVar[tuple[Role, ...]] = ()
    knobs: ClassVar[tuple[Knob, ...]] = (Knob("amount", "Share", 0, 1, "{:.0%}", 0.01), FADES)
    asks_spots: ClassVar[Asked | None] = DENSER
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("alike", "Neighbours", (("as chance has it", True), ("never alike", False))),
    )

    @property
    def mix_id(self) -> str | None:
        return self.mix

    @property
    def compiled(self) -> bool:
        return not self.alike

    @property
    def local(self) -> bool:
        return self.alike

    def marks(self, canvas: Canvas) -> Marks:
        falls = canvas.chance("share") < self.amount * canvas.near(self.spots, self.fades)
        if self.alike:
            return canvas.tools.mix(self.mix, canvas, falls)
        return np.where(falls, canvas.tools.unlike(self.mix, canvas), LEFT)
