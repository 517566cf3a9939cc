"""Tidying what lies there: smooth it, let it grow or shrink, remove specks, fill holes."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.places import Mask, Places
from knitground.core.grow.steps.step import LEFT, Canvas, Choice, Knob, Marks, Role, Step


@dataclass(frozen=True)
class TidyStep(Step):
    """Changes the outline of a terrain; where it gives way, `elsewhere` is laid, or what lies nearest."""

    amount: Annotated[int, Field(ge=1, le=512)] = 1
    does: Literal["smooth", "grow", "shrink", "specks", "holes"] = field(default="smooth", kw_only=True)
    kind: Literal["tidy"] = field(default="tidy", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Tidy"
    says: ClassVar[str] = "smooths, grows or shrinks a terrain"
    roles: ClassVar[tuple[Role, ...]] = (
        Role("terrain", "Terrain"),
        Role("elsewhere", "Gives way to", "what is beside"),
    )
    knobs: ClassVar[tuple[Knob, ...]] = (Knob("amount", "By", 1, 64, "{:.0f}"),)
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("does", "Do", (
            ("smooth it", "smooth"), ("let it grow", "grow"), ("let it shrink", "shrink"),
            ("remove specks", "specks"), ("fill holes", "holes"),
        )),
    )  # fmt: skip

    @property
    def local(self) -> bool:
        return self.does in ("smooth", "grow", "shrink")

    def marks(self, canvas: Canvas) -> Marks:
        before = canvas.values == self.terrain
        after = self._outline(canvas.places, before)
        marks = canvas.marks(after & ~before, self.terrain)
        gone = before & ~after
        if gone.any():
            marks[gone] = self.elsewhere if self.elsewhere is not None else _beside(canvas, gone)
        return marks

    def _outline(self, places: Places, mask: Mask) -> Mask:
        """The terrain's new outline, (height, width) bool.

        Parameters
        ----------
        mask : (height, width) bool
        """
        if self.does == "grow":
            return places.grown(mask, self.amount)
        if self.does == "shrink":
            return places.shrunk(mask, self.amount)
        if self.does == "smooth":
            for _ in range(self.amount):
                near = places.count(mask)
                mask = np.where(near * 2 == places.most, mask, near * 2 > places.most)
            return mask
        # Specks are small parts of the terrain, holes small parts of what is not.
        wanted = mask if self.does == "specks" else ~mask
        _, parts = places.parts(wanted)
        small = np.bincount(parts.ravel()) <= self.amount
        small[0] = False
        return mask & ~small[parts] if self.does == "specks" else mask | small[parts]


def _beside(canvas: Canvas, gone: Mask) -> Marks:
    """What lies nearest to places that are given up, (count of them,) int32."""
    # Terrains are held without a sign, in which what is left would be one of them.
    values = np.where(gone, LEFT, canvas.values.astype(np.int32)).ravel()
    for _ in range(sum(canvas.shape)):
        bare = np.flatnonzero(values == LEFT)
        if not bare.size:
            break
        padded = np.append(values, LEFT)
        near = padded[canvas.places.sides[:, bare]].max(axis=0)
        if (near == LEFT).all():
            break
        values[bare] = near
    return np.asarray(np.where(values == LEFT, 0, values).reshape(gone.shape)[gone])
