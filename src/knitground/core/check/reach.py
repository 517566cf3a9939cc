"""Goals that can't be reached from where a figure comes in, and places to come in where it has no room."""

from collections.abc import Iterator, Sequence
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.ground.ground import Ground
from knitground.core.walk.goals import GOAL, SPAWN, Mark, marks_of
from knitground.core.walk.side import seen_from_side

MOST_CELLS = 2**18
"""Larger grounds are not looked at: it would take minutes after every change."""


def _about(facts: Facts) -> Sequence[Ground]:
    return [
        ground
        for ground in facts.grounds
        if ground.height * ground.width <= MOST_CELLS
        and not seen_from_side(ground)
        and any(mark.role == SPAWN for mark in marks_of(ground, facts.thing_kinds))
    ]


def _depends(facts: Facts, ground: Ground) -> tuple[Any, ...]:
    return facts.blocking_since(ground)


def _find(facts: Facts, ground: Ground) -> Iterator[Finding]:
    reach = facts.reach(ground)
    size = f"{reach.foot.width:g} x {reach.foot.height:g} pixels"
    marks = list(marks_of(ground, facts.thing_kinds))
    spawns = [(mark, reach.part_at(mark.spot)) for mark in marks if mark.role == SPAWN]
    for mark, part in spawns:
        if part < 0:
            says = f"a figure of {size} has no room at “{mark.name}” of “{ground.name}”"
            yield finding_at(ground, mark, says, "Move it, or what blocks there.")
    starts = {part for _, part in spawns if part >= 0}
    names = " or ".join(f"“{mark.name}”" for mark, part in spawns if part >= 0)
    for mark in marks:
        if mark.role == GOAL and starts and reach.part_at(mark.spot) not in starts:
            says = f"“{mark.name}” can't be reached from {names} on “{ground.name}” by a figure of {size}"
            yield finding_at(ground, mark, says, "Open a way, or show what blocks to see where it ends (Shift+Z).")


def finding_at(ground: Ground, mark: Mark, says: str, mend: str) -> Finding:
    """A finding about a place that is something to a figure."""
    cell = ground.board.cell_at(*(float(n) for n in ground.projection.place(*mark.spot)))
    row, column = cell if cell is not None else (None, None)
    return Finding("reach", "ground", says, ground.id, mark.layer, row, column, mend=mend)


CHECK = DefinitionCheck("reach", _about, _depends, lambda *of: tuple(_find(*of)), at_once=False)
