"""What becomes of stitches on grounds: those that fire nowhere, and blocks that stick out of the map."""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.check import Facts, Finding, GroundCheck, Tallies, Tally, many, tally, together
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.stitches.compiled import ReadyCourse, ReadySet

_OUT = "sticks out"


def _look(facts: Facts, ground: Ground, layer: Layer, cells: CellRect) -> Tallies:
    table: ReadySet | None = facts.table(ground.id, layer.id)
    more = facts.laid(ground.id, layer.id, cells).more
    if table is None or more is None:
        return {}
    found: dict[str, Tally] = {}
    for course, fired in zip(table.courses, more[table.parts - 1 :], strict=False):
        for number in np.unique(fired[fired > 0]).tolist():
            here = fired == number
            one = tally(here, cells)
            assert one is not None
            name = str(course.numbers[course.variants[number - 1].stitch])
            found[name] = together((found[name], one)) if name in found else one
            out = tally(_sticking_out(ground, course, number - 1, here, cells), cells)
            if out is not None:
                found[_OUT] = together((found[_OUT], out)) if _OUT in found else out
    return found


def _sticking_out(
    ground: Ground, course: ReadyCourse, number: int, here: NDArray[np.bool_], cells: CellRect
) -> NDArray[np.bool_]:
    """Where a variant fires and a block of it reaches over the border of the map, (H, W) bool.

    Parameters
    ----------
    here : (H, W) bool
        Where it fires on a rectangle of cells.
    """
    found = np.zeros_like(here)
    steps = [step for laying in course.variants[number].layings if laying.is_block for step in laying.steps]
    if not steps:
        return found
    rows, columns = np.nonzero(here)
    ys, xs = ground.board.flat("cells", rows + cells.top, columns + cells.left)
    out = np.zeros(len(rows), dtype=bool)
    for down, right in steps:
        out |= ~np.broadcast_to(ground.board.there("cells", ys + down, xs + right), out.shape)
    found[rows[out], columns[out]] = True
    return found


def _tell(facts: Facts, found: Sequence[tuple[Ground, Layer, Tallies]]) -> Iterator[Finding]:
    for ground, layer, tallies in found:
        if _OUT in tallies:
            count, row, column = tallies[_OUT]
            yield Finding(
                "block sticks out", "ground",
                f"{ground.name}, {layer.name}: {many(count, 'block sticks', 'blocks stick')} out of the map, "
                f"first at {column}, {row}",
                ground.id, layer.id, row, column, count=count,
                mend="Plan further from the border, or let the stitch look for cells off the map.",
            )  # fmt: skip
    for stitch_set in facts.stitch_sets:
        mine = [tallies for _, layer, tallies in found if layer.set_id == stitch_set.id]
        if not any(mine):
            continue
        fired = {int(name) for tallies in mine for name in tallies if name != _OUT}
        active = [number for course in facts.ready(stitch_set).courses for number in course.numbers]
        idle = [number for number in active if number not in fired]
        if idle:
            numbers = ", ".join(str(number + 1) for number in idle[:6]) + (" and more" if len(idle) > 6 else "")
            yield Finding(
                "idle stitch", "stitches",
                f"{stitch_set.name}: {many(len(idle), 'stitch fires', 'stitches fire')} nowhere on any ground: "
                f"{numbers}",
                stitch_set.id, index=idle[0], count=len(idle),
                mend="Look at it on the proof; plan what it is for, switch it off, or take it out.",
            )  # fmt: skip


def _depends(facts: Facts, ground: Ground, layer: Layer) -> tuple[Any, ...]:
    return facts.table(ground.id, layer.id), ground.board


CHECK = GroundCheck(
    "stitches laid",
    lambda layer: layer.knits and layer.takes_terrains_of == "stitch_sets",
    _depends,
    _look,
    lambda *of: tuple(_tell(*of)),
)
