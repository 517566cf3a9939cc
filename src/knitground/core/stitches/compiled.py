"""Stitch sets made ready: what each stitch allows at each place round a cell, as bits, one for each way it may stand.

A chart is a list of places with the kinds of cells that may lie there. All stitches of a course are looked up together:
for each place, a table gives for each kind of cell the bits of those that allow it, and what is left after all places
fits. Cells side by side share a table as long as it stays small; no table grows with the area of a chart.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.joins.turning import orientations
from knitground.core.stitches.charts import OTHER, SAME, Chart, Sign, Step, turned, turned_step
from knitground.core.stitches.classes import Classes
from knitground.core.stitches.rules import Course, Piece, Stitch, StitchSet, View
from knitground.core.tiles.tile import TileRef, turned_further

LARGEST_TABLE = 1024
MOST_NAMED = 13
_WORD = 64

Bits = NDArray[np.uint64]


class Wool(Protocol):
    """What a set is made ready from: tiles as codes, mixes, and what is said of tiles."""

    def code(self, ref: TileRef | None, orientation: int = 0) -> int:
        """The cell code of a tile."""

    def parts_of(self, mix_id: str) -> Sequence[tuple[TileRef | None, int, float]]:
        """The tiles of a mix, how they are turned, and their weights; none where there is no such mix."""

    def signed(self, view: View) -> dict[int, frozenset[int]]:
        """The numbers of a view's signs that a tile bears, by its palette number; those that bear none are left out."""


@dataclass(frozen=True)
class Laying:
    """A piece made ready.

    Attributes
    ----------
    part : int
        0 for the stitched layer itself, else the number of one of the set's parts from 1.
    steps : tuple of (down, right)
        Where its cells lie, from the one at which the stitch fires.
    codes : (len(steps),) int32
        What is laid; of a mix, the code of each of its tiles.
    weights : tuple of float
        Of a mix.
    thing : str
        The kind of things as one of which it is handed over.
    """

    part: int
    steps: tuple[Step, ...]
    codes: NDArray[np.int32]
    weights: tuple[float, ...] = ()
    thing: str = ""

    @property
    def is_block(self) -> bool:
        """Whether it covers several cells, which stay together."""
        return len(self.steps) > 1


class Variant(NamedTuple):
    """A way in which a stitch may stand: the stitch's place in its course, its orientation, and what is laid."""

    stitch: int
    orientation: int
    layings: tuple[Laying, ...]


class Run(NamedTuple):
    """Cells side by side, from a step on, and the bits that each combination of their kinds leaves."""

    step: Step
    table: Bits


class Look(NamedTuple):
    """What a course looks at on one layer.

    Attributes
    ----------
    view : int
        -1 for the plan, else the number of one of the set's views.
    kinds : int
        How many kinds of cells there are on the map; those off it count on from there if `off` is set.
    off : bool
    width : int
        How many cells make up a run.
    runs : tuple of Run
        Tables are (kinds ** width, words) uint64, the first cell of the run being the highest digit.
    equal : tuple of Run
        The same for whether a cell bears the same as the middle: (2, words) uint64.
    reach : int
        How far from the middle it looks, in any direction.
    """

    view: int
    kinds: int
    off: bool
    width: int
    runs: tuple[Run, ...]
    equal: tuple[Run, ...]
    reach: int


@dataclass(frozen=True)
class ReadyCourse:
    """A course made ready; `numbers` are the places of its active stitches in the set, from 0."""

    numbers: tuple[int, ...]
    stitches: tuple[Stitch, ...]
    variants: tuple[Variant, ...]
    looks: tuple[Look, ...]

    @property
    def words(self) -> int:
        """How many words of 64 bits hold a bit for each variant."""
        return max(1, -(-len(self.variants) // _WORD))

    @cached_property
    def segments(self) -> tuple[tuple[bool, range], ...]:
        """Its stitches in order: those that lay single tiles where they fire together, all others one by one."""
        found: list[tuple[bool, range]] = []
        plain = [stitch.apart == 0 for stitch in self.stitches]
        for variant in self.variants:
            plain[variant.stitch] &= all(laying.steps == ((0, 0),) for laying in variant.layings)
        for place, alone in enumerate(plain):
            if alone and found and found[-1][0]:
                found[-1] = True, range(found[-1][1].start, place + 1)
            else:
                found.append((alone, range(place, place + 1)))
        return tuple(found)

    def of_stitches(self, places: range) -> list[int]:
        """The variants of some of its stitches."""
        return [number for number, variant in enumerate(self.variants) if variant.stitch in places]

    @cached_property
    def far(self) -> int:
        """How far from where a stitch fires it lays tiles, or looks for others like it."""
        steps = (step for variant in self.variants for laying in variant.layings for step in laying.steps)
        laid = max((max(abs(y), abs(x)) for y, x in steps), default=0)
        return max([laid, *(stitch.apart for stitch in self.stitches)], default=0)

    def bits(self, variants: Sequence[int]) -> Bits:
        """The bits of some variants, (words,) uint64."""
        found = np.zeros(self.words, dtype=np.uint64)
        for variant in variants:
            found[variant // _WORD] |= np.uint64(1 << variant % _WORD)
        return found


@dataclass(frozen=True)
class ReadySet:
    """A stitch set made ready to be laid."""

    owner: StitchSet
    courses: tuple[ReadyCourse, ...]
    classes: tuple[Classes, ...]
    """How the cells of each view are told apart."""
    otherwise: dict[int, Laying]

    @property
    def parts(self) -> int:
        """How many layers it lays onto, with its own."""
        return len(self.owner.parts) + 1

    @cached_property
    def _by_view(self) -> dict[str, Classes]:
        names = [view.name for view in self.owner.views]
        return {"": Classes(len(self.owner.marks) + 1), **dict(zip(names, self.classes, strict=True))}

    def told(self, of: str) -> Classes:
        """How the cells of a view are told apart; those of the plan, which has no name, by their marks."""
        return self._by_view[of]

    @cached_property
    def looks(self) -> int:
        """How far charts look, in cells."""
        return max((look.reach for course in self.courses for look in course.looks), default=0)

    @cached_property
    def spread(self) -> int:
        """How far what is laid in one place may matter for what is laid in another, from one to the next."""
        return sum(course.far + self.looks_back(course) for course in self.courses)

    def looks_back(self, course: ReadyCourse) -> int:
        """How far a course looks at what earlier ones have laid."""
        views = self.owner.views
        return max(
            (look.reach for look in course.looks if look.view >= 0 and views[look.view].sees == "laid"), default=0
        )


def make_ready(owner: StitchSet, wool: Wool) -> ReadySet:
    """A stitch set made ready.

    Raises
    ------
    BadRequest
        If its charts name too many terrains of one layer.
    """
    classes = tuple(_classes(owner, view, wool) for view in owner.views)
    courses, before = [], 0
    for course in owner.courses:
        if course.active:
            courses.append(_course(owner, course, before, classes, wool))
        before += len(course.stitches)
    otherwise = {mark: _laying(owner, piece, 0, False, wool) for mark, piece in owner.otherwise.items()}
    return ReadySet(owner, tuple(courses), classes, otherwise)


def ways(stitch: Stitch) -> list[tuple[int, tuple[Chart, ...]]]:
    """The orientations in which a stitch stands, each with its charts; those that look alike only once."""
    found: dict[tuple[Chart, ...], int] = {}
    for orientation in orientations(stitch):
        charts = tuple(turned(chart, orientation) for chart in stitch.charts)
        if orientation == 0 or charts not in found or orientation in stitch.forms:
            found.setdefault(charts, orientation)
    return [(orientation, charts) for charts, orientation in found.items()]


def turned_piece(piece: Piece, orientation: int, as_drawn: bool) -> dict[Step, tuple[TileRef | None, int]]:
    """The cells of a piece after its stitch is laid in an orientation, and the tile and orientation of each."""
    return {
        turned_step(step, orientation): (ref, own if as_drawn else turned_further(own, orientation))
        for step, (ref, own) in piece.cells.items()
    }


def definite_mark(charts: Sequence[Chart]) -> int | None:
    """The one mark that the cell itself has to bear, if there is one."""
    plan = next((chart for chart in charts if not chart.of), None)
    middle = plan.signs.get((0, 0)) if plan else None
    if middle is None or middle.none_of or middle.off or len(middle.named) != 1:
        return None
    return next(iter(middle.named))


def _classes(owner: StitchSet, view: View, wool: Wool) -> Classes:
    if view.sees == "painted":
        charts = [chart for stitch in owner.stitches for chart in stitch.charts if chart.of == view.name]
        named = tuple(sorted({number for chart in charts for number in chart.numbers}))
        if len(named) > MOST_NAMED:
            raise BadRequest(
                f"The charts of “{owner.name}” name {len(named)} terrains of “{view.name}”, and {MOST_NAMED} are the "
                "most; name fewer, or split the set in two."
            )
        return Classes(2 ** (len(named) + 1), named or (-1,))
    bearing = wool.signed(view)
    rows: dict[frozenset[int], int] = {frozenset({0}): 0, frozenset(): 1}
    by_number = np.ones(max(bearing, default=0) + 2, dtype=np.uint16)
    by_number[0] = 0
    for number, borne in bearing.items():
        by_number[number] = rows.setdefault(borne, len(rows))
    signs = np.zeros((len(rows), len(view.signs) + 1), dtype=bool)
    for row, kind in rows.items():
        signs[kind, list(row)] = True
    return Classes(len(rows), signs=signs, by_number=by_number)


def _course(owner: StitchSet, course: Course, before: int, classes: Sequence[Classes], wool: Wool) -> ReadyCourse:
    active = [(before + place, stitch) for place, stitch in enumerate(course.stitches) if stitch.active]
    variants: list[Variant] = []
    charts: list[tuple[Chart, ...]] = []
    for place, (_, stitch) in enumerate(active):
        for orientation, seen in ways(stitch):
            named = stitch.forms.get(orientation) if orientation else None
            pieces, turn = (stitch.pieces, orientation) if named is None else (named, 0)
            layings = tuple(_laying(owner, piece, turn, stitch.as_drawn, wool) for piece in pieces)
            variants.append(Variant(place, orientation, layings))
            charts.append(seen)
    ready = ReadyCourse(tuple(n for n, _ in active), tuple(one for _, one in active), tuple(variants), ())
    looks = (_look(owner, view, charts, classes, ready) for view in range(-1, len(owner.views)))
    return replace(ready, looks=tuple(look for look in looks if look.runs or look.equal))


def _laying(owner: StitchSet, piece: Piece, orientation: int, as_drawn: bool, wool: Wool) -> Laying:
    part = owner.parts.index(piece.onto) + 1 if piece.onto in owner.parts else 0
    cells = turned_piece(piece, orientation, as_drawn)
    if piece.mix:
        members = wool.parts_of(piece.mix)
        turn = piece.orientation if as_drawn else turned_further(piece.orientation, orientation)
        codes = [wool.code(ref, turned_further(own, turn) if ref is not None else 0) for ref, own, _ in members]
        weights = tuple(weight for _, _, weight in members)
        usable = codes and sum(weights) > 0
        thrown = np.array(codes if usable else [0], dtype=np.int32)
        return Laying(part, tuple(cells), thrown, weights if usable else (1.0,), piece.thing)
    codes = [wool.code(ref, own) for ref, own in cells.values()]
    return Laying(part, tuple(cells), np.array(codes, dtype=np.int32), thing=piece.thing)


def _look(
    owner: StitchSet, view: int, charts: Sequence[tuple[Chart, ...]], classes: Sequence[Classes], ready: ReadyCourse
) -> Look:
    """The tables of all charts of one view."""
    told = Classes(len(owner.marks) + 1) if view < 0 else classes[view]
    name = "" if view < 0 else owner.views[view].name
    wanted = _wanted(charts, name)
    off = any(sign.off for _, sign in wanted)
    kinds = told.kinds * (1 + off)
    values: dict[Step, Bits] = {}
    equal: dict[Step, Bits] = {}
    every = ready.bits(range(len(ready.variants)))
    for (step, sign), variants in wanted.items():
        bits = ready.bits(variants)
        if sign.word:
            # The middle is always the same as itself, and never another.
            if step != (0, 0) or sign.word == OTHER:
                equal.setdefault(step, np.tile(every, (2, 1)))[int(sign.word != SAME)] &= ~bits
            continue
        fits = np.tile(told.fits(sign), 1 + off)
        if sign.off:
            fits[told.kinds :] = True
        fits = ~fits if sign.none_of else fits
        values.setdefault(step, np.tile(every, (kinds, 1)))[~fits] &= ~bits
    width = max(1, min(5, int(np.log(LARGEST_TABLE) / np.log(max(2, kinds)))))
    reach = max((max(abs(y), abs(x)) for y, x in (*values, *equal)), default=0)
    same = tuple(Run(step, table) for step, table in sorted(equal.items()))
    return Look(view, told.kinds, off, width, tuple(_runs(values, kinds, width, every)), same, reach)


def _wanted(charts: Sequence[tuple[Chart, ...]], of: str) -> dict[tuple[Step, Sign], list[int]]:
    """What the charts of a view ask for where, and which variants ask for it."""
    found: dict[tuple[Step, Sign], list[int]] = {}
    for variant, seen in enumerate(charts):
        own = None if of else definite_mark(seen)
        for chart in seen:
            if chart.of != of:
                continue
            for step, sign in chart.signs.items():
                if sign.word and own is not None:
                    # Where the cell's own mark is known, the same and another are marks as any.
                    sign = Sign("", frozenset({own}), none_of=sign.word == OTHER)
                found.setdefault((step, sign), []).append(variant)
    return found


def _runs(values: dict[Step, Bits], kinds: int, width: int, every: Bits) -> list[Run]:
    """Tables for cells side by side, put together as long as they stay small."""
    left, found = dict(values), []
    while left:
        y, x = min(left)
        table = every[None]
        for step in range(width):
            own = left.pop((y, x + step), None)
            own = np.tile(every, (kinds, 1)) if own is None else own
            table = (table[:, None] & own[None]).reshape(-1, table.shape[1])
        found.append(Run((y, x), table))
    return found
