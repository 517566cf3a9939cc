"""Caves: a cellular automaton, with rooms of a least size, joined to one another."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from knitground.core.grow.places import linked
from knitground.core.grow.steps.step import Canvas, Choice, Knob, Marks, Role, Step


@dataclass(frozen=True)
class CavesStep(Step):
    """Caves of a terrain in another one.

    References
    ----------
    L. Johnson, G. N. Yannakakis and J. Togelius, "Cellular automata for real-time generation of infinite cave levels",
    Workshop on Procedural Content Generation in Games (2010).
    """

    open_share: Annotated[float, Field(ge=0.2, le=0.8)] = 0.52
    rounds: Annotated[int, Field(ge=1, le=12)] = 5
    least: Annotated[int, Field(ge=0, le=4096)] = 12
    greatest: Annotated[int, Field(ge=0, le=2**20)] = 0
    joined: bool = True
    kind: Literal["caves"] = field(default="caves", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Caves"
    says: ClassVar[str] = "lays caves that hang together"
    lays_ground: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Open"), Role("elsewhere", "Between", "as it is"))
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("open_share", "Open", 0.2, 0.8, "{:.0%}", 0.01),
        Knob("rounds", "Smooth", 1, 12),
        Knob("least", "Smallest", 0, 200, "{:.0f}"),
        Knob("greatest", "Largest", 0, 2000, "{:.0f}"),
    )
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("joined", "Rooms", (("all joined", True), ("as they come", False))),
    )

    def marks(self, canvas: Canvas) -> Marks:
        places = canvas.places
        there = canvas.chance("start") < self.open_share
        for _ in range(self.rounds):
            near = places.count(there)
            there = np.where(near * 2 == places.most, there, near * 2 > places.most)
        there &= canvas.may
        there = self._sized(canvas, there)
        if self.joined:
            there = linked(places, there, np.where(canvas.may, 1 + canvas.chance("ways"), 1e4)) & canvas.may
        return canvas.marks(there, self.terrain, self.elsewhere)

    def _sized(self, canvas: Canvas, there: np.ndarray) -> np.ndarray:
        """The rooms that are large enough; such as are too large are worn down to their wide parts first.

        Parameters
        ----------
        there : (height, width) bool
        """
        for _ in range(8):
            _, rooms = canvas.places.parts(there)
            sizes = np.bincount(rooms.ravel())
            large = (sizes > self.greatest) if self.greatest else np.zeros(len(sizes), dtype=bool)
            large[0] = False
            if not large.any():
                break
            there = there & (~large[rooms] | canvas.places.shrunk(there))
        _, rooms = canvas.places.parts(there)
        enough = np.bincount(rooms.ravel()) >= self.least
        enough[0] = False
        return np.asarray(enough[rooms])
