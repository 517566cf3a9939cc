"""Why a stitch fires in a cell or does not: sign by sign, as one would look it up by hand."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, NamedTuple

import numpy as np

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.stitches.charts import OTHER, SAME, Chart, Sign, Step
from knitground.core.stitches.compiled import ReadySet, ways
from knitground.core.stitches.firing import may_fire
from knitground.core.stitches.lay import sew
from knitground.core.stitches.match import Read, Seen
from knitground.core.stitches.rules import Stitch
from knitground.core.tiles.tile import NUMBER_MASK

Reason = Literal["chart", "chance", "place", "earlier", "room"]


@dataclass(frozen=True)
class Hindrance:
    """What kept a stitch from firing in a cell.

    Attributes
    ----------
    reason : str
        A sign of a *chart*, *chance*, its *places*, an *earlier* stitch that fired there, or no *room*: another block
        lies there, or another of its kind too near.
    of : str
        The view of the chart.
    step : (int, int)
        The first cell of the chart, as drawn, that does not fit.
    orientation : int
        In which it came nearest to fitting.
    by : int
        The earlier stitch, by its place in the set from 0; -1 where it is not known.
    """

    reason: Reason
    of: str = ""
    step: Step = (0, 0)
    orientation: int = 0
    by: int = -1


class Spot(NamedTuple):
    """A cell that is asked about, and what is needed to look round it."""

    ready: ReadySet
    board: Board
    plan: Read
    views: Mapping[int, Seen]
    seed: int
    row: int
    column: int

    @property
    def rect(self) -> CellRect:
        """The cell alone."""
        return CellRect(self.row, self.column, 1, 1)


def hindrances(spot: Spot) -> dict[int, Hindrance | None]:
    """For each active stitch of a set, by its place there, what keeps it from firing in a cell; None where it fires."""
    found: dict[int, Hindrance | None] = {}
    sewn = sew(spot.ready, spot.board, spot.plan, spot.views, spot.seed, spot.rect)
    for number, course in enumerate(spot.ready.courses):
        looked = _Looked(spot, number)
        fired = int(sewn.fired[number, 0, 0])
        first = course.variants[fired - 1].stitch if fired else None
        for place, stitch in enumerate(course.stitches):
            at = course.numbers[place]
            if place == first:
                found[at] = None
                continue
            by = course.numbers[first] if first is not None and first < place else -1
            found[at] = _hindrance(looked, stitch, by)
    return found


def _hindrance(looked: "_Looked", stitch: Stitch, by: int) -> Hindrance:
    spot = looked.spot
    nearest: tuple[int, Hindrance] | None = None
    for orientation, charts in ways(stitch):
        fits, wrong = _count(looked, charts)
        if wrong is None:
            nearest = None
            break
        if nearest is None or fits > nearest[0]:
            nearest = fits, Hindrance("chart", wrong[0], wrong[1], orientation)
    if nearest is not None:
        return nearest[1]
    cell = np.array([spot.row]), np.array([spot.column])
    if not may_fire(replace(stitch, chance=100), spot.seed, *cell)[0]:
        return Hindrance("place")
    if not may_fire(stitch, spot.seed, *cell)[0]:
        return Hindrance("chance")
    return Hindrance("earlier", by=by) if by >= 0 else Hindrance("room")


def _count(looked: "_Looked", charts: Sequence[Chart]) -> tuple[int, tuple[str, Step] | None]:
    """How many signs of charts fit, and the first one that does not."""
    fits, wrong = 0, None
    for chart in charts:
        # The cell's own sign comes first: it tells most.
        for step, sign in sorted(chart.signs.items(), key=lambda one: one[0] != (0, 0)):
            if looked.fits(chart.of, step, sign):
                fits += 1
            elif wrong is None:
                wrong = chart.of, step
    return fits, wrong


class _Looked:
    """What lies round a cell before a course is laid, looked up once for each place."""

    def __init__(self, spot: Spot, course: int) -> None:
        self.spot = spot
        self._before = replace(spot.ready, courses=spot.ready.courses[:course])
        self._known: dict[tuple[str, Step], tuple[int, int, bool]] = {}

    def fits(self, of: str, step: Step, sign: Sign) -> bool:
        """Whether what lies at a step from the cell is what a sign asks for."""
        raw, kind, there = self._at(of, step)
        if sign.word in (SAME, OTHER):
            return (raw == self._at(of, (0, 0))[0]) == (sign.word == SAME)
        found = (sign.off and not there) or bool(self.spot.ready.told(of).fits(sign)[kind])
        return found != sign.none_of

    def _at(self, of: str, step: Step) -> tuple[int, int, bool]:
        """What lies at a step, its kind, and whether that is on the map."""
        if (of, step) not in self._known:
            board = self.spot.board
            y, x = board.flat("cells", self.spot.row, self.spot.column)
            row, column = (int(n) for n in board.stored("cells", y + step[0], x + step[1]))
            seen = self._seen(of)
            raw = seen.read(CellRect(row, column, 1, 1))
            there = bool(board.there("cells", y + step[0], x + step[1]))
            self._known[of, step] = int(raw[0, 0]), int(seen.kinds(raw)[0, 0]), there
        return self._known[of, step]

    def _seen(self, of: str) -> Seen:
        spot, owner = self.spot, self.spot.ready.owner
        if not of:
            return Seen(spot.plan, lambda values: values)
        number = [view.name for view in owner.views].index(of)
        view = owner.views[number]
        if view.sees != "laid":
            return spot.views[number]
        part = owner.parts.index(view.of) + 1 if view.of in owner.parts else 0
        by_number = spot.ready.classes[number].by_number
        assert by_number is not None

        def read(area: CellRect) -> Any:
            board = spot.board
            rows = _inside(area.top, board.height, board.wraps_y)
            columns = _inside(area.left, board.width, board.wraps_x)
            sewn = sew(self._before, board, spot.plan, spot.views, spot.seed, CellRect(rows, columns, 1, 1))
            return np.maximum(sewn.codes[part], 0) & NUMBER_MASK

        return Seen(read, lambda values: np.take(by_number, values, mode="clip"))


def _inside(place: int, count: int, wraps: bool) -> int:
    return place % count if wraps else min(max(place, 0), count - 1)
