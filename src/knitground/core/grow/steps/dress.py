"""Dressing: a mix laid along the border of what lies on another layer, in its corners or at its dead ends."""

from dataclasses import dataclass, field
from typing import ClassVar, Literal

import numpy as np

from knitground.core.grow.steps.step import Canvas, Choice, Knob, Marks, Role, Share, Step


@dataclass(frozen=True)
class DressStep(Step):
    """Lays a mix, or a terrain, in cells of its region that lie at its border, in a corner or at a dead end.

    A cell lies at the border if a side of it does, in a corner if two sides that meet do, and at a dead end if all
    but one do.
    """

    amount: Share = 0.5
    mix: str = field(default="", kw_only=True)
    at: Literal["border", "corners", "ends"] = field(default="border", kw_only=True)
    kind: Literal["dress"] = field(default="dress", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Dress"
    says: ClassVar[str] = "lays a mix along borders, in corners or at dead ends"
    takes_tiles: ClassVar[bool] = True
    takes_things: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Lay"),)
    knobs: ClassVar[tuple[Knob, ...]] = (Knob("amount", "Share", 0, 1, "{:.0%}", 0.01),)
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("at", "Lies", (("at the border", "border"), ("in corners", "corners"), ("at dead ends", "ends"))),
    )

    @property
    def mix_id(self) -> str | None:
        return self.mix

    @property
    def local(self) -> bool:
        return True

    def marks(self, canvas: Canvas) -> Marks:
        sides = canvas.places.sides
        # Off the ground what lies there goes on.
        closed = ~np.append(canvas.may, True)[sides]
        if self.at == "border":
            there = closed.any(axis=0)
        elif self.at == "corners":
            there = (closed[:4] & np.roll(closed[:4], 1, axis=0)).any(axis=0)
        else:
            there = closed.sum(axis=0) == len(sides) - 1
        mask = there.reshape(canvas.shape) & canvas.may & (canvas.chance("kept") < self.amount)
        if canvas.tiles:
            return canvas.tools.mix(self.mix, canvas, mask)
        return canvas.marks(mask, self.terrain)
