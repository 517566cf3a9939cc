"""Grounds seen from the side: goals that no jump leads to, and places that one gets into and not out of."""

from collections.abc import Iterator, Sequence
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.check.reach import finding_at
from knitground.core.ground.ground import Ground
from knitground.core.walk.goals import GOAL, SPAWN, marks_of
from knitground.core.walk.leaps import Leaps
from knitground.core.walk.side import seen_from_side, usual_strength

MOST_PIXELS = 2**21
"""Larger grounds are not looked at: it would take minutes after every change."""


def _about(facts: Facts) -> Sequence[Ground]:
    return [
        ground
        for ground in facts.grounds
        if seen_from_side(ground)
        and ground.projection.size[0] * ground.projection.size[1] <= MOST_PIXELS
        and any(mark.role == SPAWN for mark in marks_of(ground, facts.thing_kinds))
    ]


def _find(facts: Facts, ground: Ground) -> Iterator[Finding]:
    leaps, high = facts.leaps(ground), usual_strength(ground).jump
    # A fall into a place to come in may be of any length; what is picked up may hang as high as one jumps.
    marks = [
        (mark, leaps.below(mark.spot, ground.projection.size[1] if mark.role == SPAWN else high))
        for mark in marks_of(ground, facts.thing_kinds)
    ]
    spawns = [(mark, platform) for mark, platform in marks if mark.role == SPAWN and platform >= 0]
    for mark, platform in marks:
        if mark.role == SPAWN and platform < 0:
            yield finding_at(ground, mark, f"nothing to stand on lies below “{mark.name}” of “{ground.name}”", _ROOM)
    there = {one for _, platform in spawns for one in leaps.reached(platform)}
    names = " or ".join(f"“{mark.name}”" for mark, _ in spawns)
    for mark, platform in marks:
        if mark.role == GOAL and spawns and platform not in there:
            says = f"no way was found to run and jump from {names} to “{mark.name}” on “{ground.name}”"
            yield finding_at(ground, mark, says, "Bring something to stand on nearer; Shift+J shows what is reached.")
    yield from _traps(ground, leaps, [(mark.name, platform) for mark, platform in spawns])


_ROOM = "Move it over a floor."


def _traps(ground: Ground, leaps: Leaps, spawns: Sequence[tuple[str, int]]) -> Iterator[Finding]:
    """Places from which one doesn't get back; each is told once, whatever the number of places to come in."""
    told = set()
    for name, platform in spawns:
        for leap in leaps.traps(platform):
            if leap.end not in told:
                told.add(leap.end)
                y, x = (float(n) for n in ground.projection.place(*leap.way[-1]))
                row, column = ground.board.cell_at(y, x) or (None, None)
                says = (
                    f"one gets down to column {column}, row {row} of “{ground.name}” and, as far as was found, not "
                    f"back to “{name}”"
                )
                yield Finding("trap", "ground", says, ground.id, None, row, column,
                              mend="Let something to stand on lead up again, or let it be if it is meant.")  # fmt: skip


def _depends(facts: Facts, ground: Ground) -> tuple[Any, ...]:
    return facts.blocking_since(ground)


CHECK = DefinitionCheck("platforms", _about, _depends, lambda *of: tuple(_find(*of)), at_once=False)
