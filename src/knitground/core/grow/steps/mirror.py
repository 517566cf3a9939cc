"""Symmetry: one part of the ground repeated mirrored or turned."""

from dataclasses import dataclass, field
from typing import ClassVar, Literal

import numpy as np

from knitground.core.grow.steps.step import Canvas, Choice, Marks, Role, Step


@dataclass(frozen=True)
class MirrorStep(Step):
    """The left half mirrored to the right, the upper one down, both, or the upper half turned round the middle."""

    how: Literal["left-right", "up-down", "both", "turned"] = field(default="left-right", kw_only=True)
    kind: Literal["mirror"] = field(default="mirror", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Symmetry"
    says: ClassVar[str] = "repeats one half mirrored or turned"
    roles: ClassVar[tuple[Role, ...]] = ()
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("how", "Repeats", (
            ("left to right", "left-right"), ("top to bottom", "up-down"), ("both ways", "both"),
            ("turned by half", "turned"),
        )),
    )  # fmt: skip

    def marks(self, canvas: Canvas) -> Marks:
        height, width = canvas.shape
        rows, columns = np.indices(canvas.shape)
        lower, right = rows >= (height + 1) // 2, columns >= (width + 1) // 2
        down = lower if self.how in ("up-down", "both", "turned") else np.zeros_like(lower)
        across = right if self.how in ("left-right", "both") else down if self.how == "turned" else np.zeros_like(right)
        rows, columns = np.where(down, height - 1 - rows, rows), np.where(across, width - 1 - columns, columns)
        return canvas.values[:height, :width][rows, columns].astype(np.int32)
