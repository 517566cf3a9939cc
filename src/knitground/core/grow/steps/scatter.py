"""Scattering: single places, evenly apart or in clusters, at least so far from a border."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.places import Mask
from knitground.core.grow.region import Spots
from knitground.core.grow.steps.step import DENSER, FADES, Asked, Canvas, Choice, Knob, Marks, Role, Share, Step


@dataclass(frozen=True)
class ScatterStep(Step):
    """Lays a mix, or a terrain, at single places.

    Evenly strewn ones lie at least `apart` cells from one another. Clusters gather them where noise is high; towards
    `spots` they get denser, or fade out over so many cells away from them.

    References
    ----------
    R. Bridson, "Fast Poisson disk sampling in arbitrary dimensions", ACM SIGGRAPH sketches (2007). Here all places
    are there from the start, so that they are gone through in an order by chance, and each taken that is far enough
    from those taken before: the same discs, and the same whatever lies elsewhere.
    """

    apart: Annotated[float, Field(ge=1, le=64)] = 4.0
    amount: Share = 1.0
    clusters: Share = 0.0
    size: Annotated[float, Field(ge=2, le=256)] = 10.0
    mix: str = field(default="", kw_only=True)
    spots: Spots = field(default=(), kw_only=True)
    fades: Annotated[float, Field(ge=1, le=512)] = field(default=12.0, kw_only=True)
    spread: Literal["evenly", "by chance"] = field(default="evenly", kw_only=True)
    kind: Literal["scatter"] = field(default="scatter", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Scatter"
    says: ClassVar[str] = "strews a mix, or a terrain"
    takes_tiles: ClassVar[bool] = True
    takes_things: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Lay"),)
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("apart", "Apart", 1, 24, "{:.1f}", 0.5),
        Knob("amount", "Share", 0, 1, "{:.0%}", 0.01),
        Knob("clusters", "Clusters", 0, 1, "{:.0%}", 0.01),
        Knob("size", "Their size", 2, 48, "{:.0f}"),
        FADES,
    )
    asks_spots: ClassVar[Asked | None] = DENSER
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("spread", "Strewn", (("evenly", "evenly"), ("by chance", "by chance"))),
    )

    @property
    def mix_id(self) -> str | None:
        return self.mix

    @property
    def local(self) -> bool:
        return self.spread == "by chance" and self.clusters == 0

    def marks(self, canvas: Canvas) -> Marks:
        wanted = canvas.chance("wanted")
        may, amount = canvas.may.copy(), self.amount * canvas.near(self.spots, self.fades)
        if self.clusters > 0:
            noise = canvas.noise(self.size, 2, "clusters")
            may &= noise >= np.quantile(noise, min(0.97, self.clusters))
        if self.spread == "evenly":
            there = self._apart(canvas, may, wanted) & (canvas.chance("kept") < amount)
        else:
            # As many as would lie evenly, but wherever chance lets them fall.
            there = may & (wanted < amount * min(1.0, 0.7 / self.apart**2))
        if canvas.tiles:
            return canvas.tools.mix(self.mix, canvas, there)
        return canvas.marks(there, self.terrain)

    def _apart(self, canvas: Canvas, may: Mask, order: np.ndarray) -> Mask:
        """Places of which no two lie nearer than wanted, as many as fit: (height, width) bool.

        Parameters
        ----------
        may : (height, width) bool
        order : (height, width) float64
        """
        height, width = canvas.shape
        reach = [max(1, int(np.ceil(self.apart * space))) for space in canvas.spacing]
        down, across = np.mgrid[-reach[0] : reach[0] + 1, -reach[1] : reach[1] + 1]
        away = np.hypot(down / canvas.spacing[0], across / canvas.spacing[1])
        disc = np.argwhere(away < self.apart) - reach
        free, there = may.ravel().copy(), np.zeros(may.size, dtype=bool)
        for place in np.argsort(order, axis=None, kind="stable").tolist():
            if not free[place]:
                continue
            there[place] = True
            rows, columns = disc[:, 0] + place // width, disc[:, 1] + place % width
            inside = np.ones(len(rows), dtype=bool)
            for axis, (lines, size) in enumerate(((rows, height), (columns, width))):
                if canvas.wraps[axis]:
                    lines %= size
                else:
                    inside &= (lines >= 0) & (lines < size)
            free[rows[inside] * width + columns[inside]] = False
        return there.reshape(may.shape)
