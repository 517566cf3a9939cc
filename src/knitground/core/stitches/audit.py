"""What is wrong with a set's stitches: those that never fire, those that are told from others by nothing.

What a chart fits is a box: for each place that is looked at, some kinds of cells. A stitch never fires if the boxes of
earlier ones cover all of its own. They are cut away one after another; what is left, if anything, is an arrangement of
cells in which the stitch fires. Where that would take too long, arrangements are drawn by chance instead.
"""

import random
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass

from knitground.core.stitches.charts import SAME, Chart, Sign, Step
from knitground.core.stitches.compiled import ReadyCourse, ReadySet, definite_mark, ways
from knitground.core.stitches.rules import EVERYWHERE, Stitch

MOST_CUTS = 4000
SAMPLES = 2000
MOST_LOOKS = 1_500_000
"""So many times two boxes are compared for a set; stitches that come after that are not looked at."""

Place = tuple[str, Step]
"""A view and a step from the middle; for whether a cell bears the same as the middle, the view with an = behind it."""
Box = Mapping[Place, int]
"""The kinds that may lie at places, as bits; whatever is not named is free."""


@dataclass(frozen=True)
class DeadStitch:
    """A stitch that can never fire.

    Attributes
    ----------
    index : int
        Its place in the set, from 0.
    hidden_by : tuple of int
        The earlier ones that take every place it could; none where its own signs contradict one another.
    samples : int
        How many arrangements were tried, where not all could be looked at; else 0.
    """

    index: int
    hidden_by: tuple[int, ...]
    samples: int = 0


class Looks:
    """How often boxes may still be compared."""

    def __init__(self, left: int = MOST_LOOKS) -> None:
        self._left = left

    def spend(self, count: int) -> None:
        """Counts comparisons; raises OutOfLooks where they are used up."""
        self._left -= count
        if self._left < 0:
            raise OutOfLooks


class OutOfLooks(Exception):
    """A set is too large to be looked at as a whole."""


def dead_stitches(ready: ReadySet, pulse: Callable[[], None] = lambda: None) -> list[DeadStitch]:
    """The active stitches that can never fire, each with those that hide it; of very large sets those found in time.

    Parameters
    ----------
    pulse : callable, optional
        Called for each stitch; may raise to stop.
    """
    found: list[DeadStitch] = []
    looks = Looks()
    with suppress(OutOfLooks):
        for course in ready.courses:
            found += _dead_in(ready, course, looks, pulse)
    return found


def _dead_in(ready: ReadySet, course: ReadyCourse, looks: Looks, pulse: Callable[[], None]) -> Iterator[DeadStitch]:
    earlier: list[tuple[int, Box]] = []
    for place, stitch in enumerate(course.stitches):
        pulse()
        boxes = list(_boxes(ready, stitch))
        hidden_by, samples, alive = _covered(ready, boxes, earlier, looks)
        if not alive:
            by = tuple(sorted(course.numbers[other] for other in hidden_by))
            yield DeadStitch(course.numbers[place], by, samples)
        if _takes(course, place):
            earlier += [(place, box) for box in boxes]


def alive_in(ready: ReadySet, course: ReadyCourse, looks: Looks) -> Iterator[Box | None]:
    """For each stitch of a course, an arrangement of cells in which it is the first that fits; None for none found.

    Raises
    ------
    OutOfLooks
        If the set is too large.
    """
    earlier: list[Box] = []
    for place, stitch in enumerate(course.stitches):
        boxes = list(_boxes(ready, stitch))
        lefts = (_Cutting(ready, looks).left(box, earlier) for box in boxes)
        yield next((left for left in lefts if left is not None), None)
        if _takes(course, place):
            earlier += boxes


def same_charts(course: ReadyCourse) -> list[tuple[int, int]]:
    """Pairs of stitches, by their places in the set, that differ in nothing but what they lay."""
    found, known = [], dict[tuple[object, ...], tuple[int, Stitch]]()
    for number, stitch in zip(course.numbers, course.stitches, strict=True):
        key = (
            frozenset(stitch.charts), stitch.chance, stitch.places, stitch.apart,
            stitch.turns, stitch.mirrors_x, stitch.mirrors_y,
        )  # fmt: skip
        if key in known and known[key][1].all_pieces != stitch.all_pieces:
            found.append((known[key][0], number))
        known.setdefault(key, (number, stitch))
    return found


def _takes(course: ReadyCourse, place: int) -> bool:
    """Whether a stitch fires wherever its charts fit and nothing earlier does."""
    stitch = course.stitches[place]
    blocks = any(
        laying.is_block for variant in course.variants if variant.stitch == place for laying in variant.layings
    )
    return stitch.chance >= 100 and stitch.places == EVERYWHERE and not stitch.apart and not blocks


def _boxes(ready: ReadySet, stitch: Stitch) -> Iterator[Box]:
    """What a stitch fits, in each way and for each mark that its own cell may bear."""
    for _, charts in ways(stitch):
        own = definite_mark(charts)
        for mark in range(len(ready.owner.marks) + 1) if own is None else (own,):
            box = _box(ready, charts, mark)
            if box is not None:
                yield box


def _box(ready: ReadySet, charts: Sequence[Chart], mark: int) -> Box | None:
    """What charts fit round a cell with a mark; None if that is nothing."""
    box: dict[Place, int] = {("", (0, 0)): 1 << mark}
    for chart in charts:
        told = ready.told(chart.of)
        everything = (1 << 2 * told.kinds) - 1
        for step, sign in chart.signs.items():
            place, bits = (chart.of, step), told.allowed(sign)
            if sign.word:
                if not chart.of:
                    bits = told.allowed(Sign("", frozenset({mark}), none_of=sign.word != SAME))
                else:
                    place, bits = (f"{chart.of}=", step), 1 + (sign.word == SAME)
                    if step == (0, 0):
                        bits &= 2
            box[place] = box.get(place, everything) & bits
            if step == (0, 0):
                # The cell itself is never off the map.
                box[place] &= (1 << told.kinds) - 1
            if not box[place]:
                return None
    return box


def _covered(
    ready: ReadySet, boxes: Sequence[Box], earlier: Sequence[tuple[int, Box]], looks: Looks
) -> tuple[set[int], int, bool]:
    """Whether earlier boxes leave anything of some boxes: which of them take it, how many samples, what is left."""
    hidden_by: set[int] = set()
    samples = 0
    for box in boxes:
        looks.spend(len(earlier))
        mine = [(other, one) for other, one in earlier if _meet(box, one)]
        cutting = _Cutting(ready, looks)
        if cutting.left(box, [one for _, one in mine]) is not None:
            return hidden_by, 0, True
        samples += cutting.samples
        hidden_by |= {mine[number][0] for number in cutting.used}
    return hidden_by, samples, False


def _meet(one: Box, other: Box) -> bool:
    # Asked a hundred thousand times of a large set: a plain loop takes half as long as `all` does.
    for place, bits in other.items():  # noqa: SIM110
        if place in one and not one[place] & bits:
            return False
    return True


class _Cutting:
    """Cutting boxes away from one."""

    def __init__(self, ready: ReadySet, looks: Looks) -> None:
        self._ready = ready
        self._looks = looks
        self._cuts = 0
        self._wholes: dict[Place, int] = {}
        self.samples = 0
        self.used: set[int] = set()

    def left(self, box: Box, others: Sequence[Box]) -> Box | None:
        """A part of a box that none of the others covers; None where there is none, or none was found."""
        try:
            return self._left(dict(box), others, 0)
        except _TooMany:
            return self._drawn(box, others)

    def _left(self, box: dict[Place, int], others: Sequence[Box], first: int) -> Box | None:
        self._cuts += 1
        if self._cuts > MOST_CUTS:
            raise _TooMany
        self._looks.spend(1 + (len(others) - first) // 4)
        number = next((n for n in range(first, len(others)) if _meet(box, others[n])), None)
        if number is None:
            return box
        rest = box
        for place, bits in others[number].items():
            mine = rest.get(place, self._all(place))
            if mine & ~bits:
                found = self._left({**rest, place: mine & ~bits}, others, number + 1)
                if found is not None:
                    return found
            rest = {**rest, place: mine & bits}
        self.used.add(number)
        return None

    def _all(self, place: Place) -> int:
        """All kinds that may lie at a place."""
        if place not in self._wholes:
            of, step = place
            kinds = 1 if of.endswith("=") else self._ready.told(of).kinds
            off = 1 if step == (0, 0) and not of.endswith("=") else 2
            self._wholes[place] = (1 << off * kinds) - 1
        return self._wholes[place]

    def _drawn(self, box: Box, others: Sequence[Box]) -> Box | None:
        """An arrangement of a box that was drawn by chance and lies in none of the others."""
        draw = random.Random(len(others))
        places = sorted({place for one in (box, *others) for place in one})
        self.used = set()
        for self.samples in range(1, SAMPLES + 1):
            self._looks.spend(len(others) // 4)
            drawn = {}
            for place in places:
                bits = box.get(place, self._all(place))
                kinds = [kind for kind in range(bits.bit_length()) if bits >> kind & 1]
                drawn[place] = 1 << draw.choice(kinds)
            by = next((n for n, one in enumerate(others) if _meet(drawn, one)), None)
            if by is None:
                return drawn
            self.used.add(by)
        return None


class _TooMany(Exception):
    """It would take too many cuts."""
