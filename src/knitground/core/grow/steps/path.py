"""Rivers and paths: the cheapest way over hilly ground from border to border, or between parts of a terrain."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
import scipy
from pydantic import Field

from knitground.core.grow.places import Mask, linked
from knitground.core.grow.region import Spots
from knitground.core.grow.steps.step import Asked, Canvas, Choice, Knob, Marks, Role, Share, Step, TerrainNumber

_HILLS = 9.0


@dataclass(frozen=True)
class PathStep(Step):
    """A way that winds from border to border, or joins all of some spots; a single one it joins to the border.

    Where it crosses `crossed`, it lays `bridge` there, as wide as itself.
    """

    width: Annotated[int, Field(ge=1, le=32)] = 2
    winding: Share = 0.5
    count: Annotated[int, Field(ge=1, le=32)] = 1
    goes: Literal["across", "down"] = field(default="across", kw_only=True)
    spots: Spots = field(default=(), kw_only=True)
    crossed: TerrainNumber | None = field(default=None, kw_only=True)
    bridge: TerrainNumber | None = field(default=None, kw_only=True)
    kind: Literal["path"] = field(default="path", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Way"
    says: ClassVar[str] = "lays a river or a path from border to border, or between places"
    roles: ClassVar[tuple[Role, ...]] = (
        Role("terrain", "Lay"), Role("crossed", "Crossing", "anything"), Role("bridge", "Bridge", "none"),
    )  # fmt: skip
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("width", "Width", 1, 12, "{:.0f}"),
        Knob("winding", "Winding", 0, 1, "{:.0%}", 0.01),
        Knob("count", "How many", 1, 12),
    )
    asks_spots: ClassVar[Asked | None] = Asked("Between", "the borders")
    choices: ClassVar[tuple[Choice, ...]] = (
        Choice("goes", "Goes", (("from west to east", "across"), ("from north to south", "down"))),
    )

    def marks(self, canvas: Canvas) -> Marks:
        way = np.zeros(canvas.shape, dtype=bool)
        for number in range(self.count):
            way |= self._way(canvas, number)
        way = canvas.places.grown(way, (self.width - 1) // 2)
        if self.width % 2 == 0:
            # An even width has no middle: the last step is to the north and west only.
            padded = np.append(way, False)
            way |= (padded[canvas.places.sides[2]] | padded[canvas.places.sides[1]]).reshape(way.shape)
        marks = canvas.marks(way & canvas.may, self.terrain, self.elsewhere)
        if self.bridge is not None and self.crossed is not None:
            marks[way & (canvas.values == self.crossed)] = self.bridge
        return marks

    def _way(self, canvas: Canvas, number: int) -> Mask:
        """One way, a place wide: (height, width) bool."""
        height, width = canvas.shape
        hills = canvas.noise(_HILLS, 3, f"hills {number}")
        cost = np.exp(10 * self.winding * hills.astype(np.float64)) + 0.2 * canvas.chance(f"way {number}")
        cost = np.where(canvas.may, cost, cost * 1e3)
        spots = [(one.row, one.column) for one in self.spots if one.row < height and one.column < width]
        if len(spots) > 1:
            mask = np.zeros((height, width), dtype=bool)
            mask[tuple(np.transpose(spots))] = True
            return linked(canvas.places, mask, cost)
        first, last = self._ends(canvas, number)
        last = spots[0][0] * width + spots[0][1] if spots else last
        graph = canvas.places.graph(cost)
        if not spots and canvas.wraps[1 if self.goes == "across" else 0]:
            graph = _cut(canvas, graph, down=self.goes == "down")
        before = scipy.sparse.csgraph.dijkstra(graph, indices=np.array(first), return_predecessors=True)[1]
        way, place = np.zeros(height * width, dtype=bool), last
        while place >= 0:
            way[place] = True
            place = int(before[place])
        return way.reshape(height, width)

    def _ends(self, canvas: Canvas, number: int) -> tuple[int, int]:
        """The numbers of the places at which a way begins and ends."""
        height, width = canvas.shape
        drawn = canvas.chance(f"ends {number}").ravel()
        lines = height if self.goes == "across" else width
        begin = int(drawn[0] * lines)
        # Where the ground goes round a way meets itself at the border.
        round_about = canvas.wraps[1] if self.goes == "across" else canvas.wraps[0]
        end = begin if round_about else int(drawn[-1] * lines)
        if self.goes == "across":
            return begin * width, end * width + width - 1
        return begin, (height - 1) * width + end


def _cut(canvas: Canvas, graph: "scipy.sparse.csr_array", *, down: bool) -> "scipy.sparse.csr_array":
    """A graph of ways that do not step over the border at which they begin and end."""
    width = canvas.shape[1]
    found = graph.tocoo()
    one, other = (found.row // width, found.col // width) if down else (found.row % width, found.col % width)
    near = np.abs(one - other) <= 2
    return scipy.sparse.csr_array((found.data[near], (found.row[near], found.col[near])), shape=graph.shape)
