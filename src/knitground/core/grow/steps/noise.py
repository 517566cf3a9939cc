"""Noise to terrains by thresholds."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.steps.step import Canvas, Knob, Marks, Role, Share, Step, TerrainNumber


@dataclass(frozen=True)
class NoiseStep(Step):
    """Lays a terrain where wrapping noise is highest, and another one in a band round it.

    `amount` is the share of the layer to cover, `band_amount` the share that `band` takes next to it.
    """

    scale: Annotated[float, Field(ge=2, le=4096)] = 12.0
    amount: Share = 0.4
    octaves: Annotated[int, Field(ge=1, le=6)] = 3
    band: TerrainNumber | None = field(default=None, kw_only=True)
    band_amount: Share = field(default=0.15, kw_only=True)
    kind: Literal["noise"] = field(default="noise", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Patches"
    says: ClassVar[str] = "lays a terrain in patches of noise"
    takes_runs: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (
        Role("terrain", "Lay"),
        Role("band", "Round it", "nothing"),
        Role("elsewhere", "Elsewhere", "as it is"),
    )
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("scale", "Size", 2, 64, "{:.0f}"),
        Knob("amount", "Share", 0, 1, "{:.0%}", 0.01),
        Knob("octaves", "Detail", 1, 6, "{:.0f}"),
        Knob("band_amount", "Band", 0, 1, "{:.0%}", 0.01),
    )

    def marks(self, canvas: Canvas) -> Marks:
        noise = canvas.noise(self.scale, self.octaves)
        marks = canvas.marks(_highest(noise, self.amount), self.terrain, self.elsewhere)
        if self.band is not None:
            band = _highest(noise, min(1.0, self.amount + self.band_amount)) & ~_highest(noise, self.amount)
            marks[band] = self.band
        return marks


def _highest(noise: np.ndarray, amount: float) -> np.ndarray:
    """Where noise is among the highest share of its places, (height, width) bool.

    Parameters
    ----------
    noise : (height, width) float32
    """
    if amount <= 0:
        return np.zeros(noise.shape, dtype=bool)
    return np.asarray(noise >= (np.quantile(noise, 1 - amount) if amount < 1 else -np.inf))
