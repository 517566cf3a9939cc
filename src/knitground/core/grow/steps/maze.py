"""A maze: every part reached by one way, with as many short cuts as wanted."""

from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
import scipy
from pydantic import Field

from knitground.core.grow.steps.step import Canvas, Knob, Marks, Role, Share, Step


@dataclass(frozen=True)
class MazeStep(Step):
    """Ways of a terrain between walls of another: a random spanning tree of a grid of crossings."""

    width: Annotated[int, Field(ge=1, le=16)] = 1
    walls: Annotated[int, Field(ge=1, le=16)] = 1
    loops: Share = 0.05
    kind: Literal["maze"] = field(default="maze", kw_only=True)  # type: ignore[misc]

    title: ClassVar[str] = "Maze"
    says: ClassVar[str] = "lays a maze"
    lays_ground: ClassVar[bool] = True
    roles: ClassVar[tuple[Role, ...]] = (Role("terrain", "Ways"), Role("elsewhere", "Walls", "as it is"))
    knobs: ClassVar[tuple[Knob, ...]] = (
        Knob("width", "Ways", 1, 8, "{:.0f}"),
        Knob("walls", "Walls", 1, 8, "{:.0f}"),
        Knob("loops", "Loops", 0, 1, "{:.0%}", 0.01),
    )

    def marks(self, canvas: Canvas) -> Marks:
        pitch = self.width + self.walls
        # Where crossings do not come out even round a ground, a wall stands at its border.
        wraps = [wraps and size % pitch == 0 for size, wraps in zip(canvas.shape, canvas.wraps, strict=True)]
        down, across = (
            size // pitch if round_about else (size - self.walls) // pitch
            for size, round_about in zip(canvas.shape, wraps, strict=True)
        )
        floor = np.zeros(canvas.shape, dtype=bool)
        if min(down, across) < 1:
            return canvas.marks(floor, self.terrain, self.elsewhere)
        crossings = np.arange(down * across).reshape(down, across)
        drawn, loops = canvas.chance("tree"), canvas.chance("loops")
        links = []
        for axis in (0, 1):
            others = np.roll(crossings, -1, axis=axis)
            there = np.ones(crossings.shape, dtype=bool)
            if not wraps[axis] or crossings.shape[axis] < 3:
                there[(-1, slice(None)) if axis == 0 else (slice(None), -1)] = False
            links += [(axis, one, other) for one, other in zip(crossings[there], others[there], strict=True)]
        axes, ones, others = np.array(links, dtype=np.intp).reshape(-1, 3).T
        weight = drawn.ravel()[(ones * 2 + axes) % drawn.size] + 1e-6 * (1 + np.arange(len(ones))) / max(1, len(ones))
        graph = scipy.sparse.csr_array((weight + 0.01, (ones, others)), shape=(crossings.size,) * 2)
        tree = scipy.sparse.csgraph.minimum_spanning_tree(graph).tocoo()
        kept = set(zip(tree.row.tolist(), tree.col.tolist(), strict=True))
        rows, columns = (np.arange(count) * pitch + (0 if round_about else self.walls)
                         for count, round_about in zip((down, across), wraps, strict=True))  # fmt: skip
        for row in rows.tolist():
            for column in columns.tolist():
                floor[row : row + self.width, column : column + self.width] = True
        for number, (axis, one, other) in enumerate(links):
            if (one, other) in kept or loops.ravel()[number % loops.size] < self.loops:
                row, column = rows[one // across], columns[one % across]
                if axis == 0:
                    floor[row + self.width : row + pitch, column : column + self.width] = True
                else:
                    floor[row : row + self.width, column + self.width : column + pitch] = True
        return canvas.marks(floor & canvas.may, self.terrain, self.elsewhere)
