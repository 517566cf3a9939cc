"""A picture as input: its bright or dark parts become a terrain."""

from dataclasses import dataclass, field
from typing import ClassVar, Literal

import numpy as np

from knitground.core.grow.steps.step import Canvas, Choice, Knob, Marks, Role, Share, Step, TerrainNumber


@dataclass(frozen=True)
class PictureStep(Step):
    """Lays a picture over the whole ground, and a terrain where it is bright or dark, with a band beside it."""

    amount: Share = 0.5
    band_amount: Share = 0.15
    sheet: str = field(default="", kw_only=True)
    band: TerrainNumber | None = field(default=None, kw_only=True)
    takes: Literal["bright", "dark"] = field(default="bright", kw_only=True)
    kind: Literal["picture"] = field(default="picture", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Picture"
    says: ClassVar[str] = "lays a terrain where a picture is bright or dark"
    roles: ClassVar[tuple[Role, ...]] = (
        Role("terrain", "Lay"),
        Role("band", "Beside it", "nothing"),
        Role("elsewhere", "Elsewhere", "as it is"),
    )
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("amount", "From", 0, 1, "{:.0%}", 0.01),
        Knob("band_amount", "Band", 0, 1, "{:.0%}", 0.01),
    )
    choices: ClassVar[tuple[Choice, ...]] = (Choice("takes", "Where it is", (("bright", "bright"), ("dark", "dark"))),)

    @property
    def sheet_id(self) -> str | None:
        return self.sheet

    def marks(self, canvas: Canvas) -> Marks:
        light = canvas.tools.brightness(self.sheet, *canvas.shape)
        light = light if self.takes == "bright" else 1 - light
        there = light >= self.amount
        marks = canvas.marks(there, self.terrain, self.elsewhere)
        if self.band is not None:
            marks[np.asarray(light >= self.amount - self.band_amount) & ~there] = self.band
        return marks
