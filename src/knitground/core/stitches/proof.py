"""A small plan on which every stitch that can fire does, each in an arrangement that no earlier one takes."""

from collections.abc import Iterator, Mapping
from contextlib import suppress
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.stitches.audit import Box, Looks, OutOfLooks, alive_in
from knitground.core.stitches.charts import Step
from knitground.core.stitches.compiled import ReadySet

_EDGES = ("", "first", "last")


class Proof(NamedTuple):
    """A plan, and where each stitch fires on it.

    Attributes
    ----------
    plan : (H, W) uint8
    spots : dict of int to (row, column)
        By the place of the stitch in its set.
    lacking : tuple of int
        Stitches that could fire, but for which no place was found.
    seen : mapping of str to mapping of (row, column) to int
        What has to lie on other layers, by view and cell: kinds as bits. Views on which nothing needs to are left out.
    """

    plan: NDArray[np.uint8]
    spots: dict[int, tuple[int, int]]
    lacking: tuple[int, ...]
    seen: Mapping[str, Mapping[Step, int]]


class _Patch(NamedTuple):
    """Marks round the cell at which a stitch is to fire, and at which borders of the plan they lie how near.

    Attributes
    ----------
    marks : dict of (down, right) to int
    down, right : (str, int)
        At which border ("first" or "last" line, or none), and how many lines lie between it and the cell.
    """

    stitch: int
    marks: dict[Step, int]
    seen: dict[tuple[str, Step], int]
    down: tuple[str, int]
    right: tuple[str, int]


def proof_plan(ready: ReadySet) -> Proof:
    """A plan for a set that was made ready without chance."""
    patches: list[_Patch] = []
    lacking: list[int] = []
    looks = Looks()
    for course in ready.courses:
        boxes = _as_far_as_looked(alive_in(ready, course, looks))
        lacking += course.numbers[len(boxes) :]
        for number, box in zip(course.numbers, boxes, strict=False):
            patch = _patch(ready, number, box) if box is not None else None
            if patch is not None:
                patches.append(patch)
            elif box is not None:
                lacking.append(number)
    far = max((course.far for course in ready.courses), default=0)
    proof = _laid_out(patches, max(1, ready.looks), far + 1, lacking)
    return proof._replace(seen=_seen(ready, proof, patches))


def _seen(ready: ReadySet, proof: Proof, patches: list[_Patch]) -> dict[str, dict[Step, int]]:
    """What patches ask of other layers, where it is put on the plan; nothing of those of which bare cells will do."""
    found: dict[str, dict[Step, int]] = {}
    for one in patches:
        if one.stitch in proof.spots:
            row, column = proof.spots[one.stitch]
            for (of, (y, x)), bits in one.seen.items():
                if 0 <= row + y < proof.plan.shape[0] and 0 <= column + x < proof.plan.shape[1]:
                    found.setdefault(of, {})[row + y, column + x] = bits
    return {of: some for of, some in found.items() if not all(_bare_will_do(ready, of, bits) for bits in some.values())}


def _as_far_as_looked(boxes: Iterator[Box | None]) -> list[Box | None]:
    found: list[Box | None] = []
    with suppress(OutOfLooks):
        for box in boxes:
            found.append(box)
    return found


def _patch(ready: ReadySet, number: int, box: Box) -> _Patch | None:
    """The marks that an arrangement asks for; None where it asks for more than a plan can give."""
    marks: dict[Step, int] = {}
    seen: dict[tuple[str, Step], int] = {}
    off: set[Step] = set()
    for (of, step), bits in box.items():
        if of:
            view = ready.owner.view(of)
            if view is not None and view.sees != "laid":
                seen[of, step] = bits
            elif not _bare_will_do(ready, of, bits):
                return None
            continue
        kinds = ready.told("").kinds
        on = bits & ((1 << kinds) - 1)
        if on:
            marks[step] = (on & -on).bit_length() - 1
        else:
            off.add(step)
    for down in _ways(off, marks, 0):
        for right in _ways(off, marks, 1):
            if all(_is_off(step, down, right) == (step in off) for step in (*marks, *off)):
                return _Patch(number, marks, seen, down, right)
    return None


def _bare_will_do(ready: ReadySet, of: str, bits: int) -> bool:
    """Whether nothing on a view fits what is asked of it."""
    if of.endswith("="):
        return bool(bits & 2)
    told = ready.told(of)
    nothing = 0
    if told.signs is None:
        nothing = 1 << (told.named.index(0) if 0 in told.named else len(told.named))
    return bool(bits >> nothing & 1)


def _ways(off: set[Step], marks: dict[Step, int], axis: int) -> Iterator[tuple[str, int]]:
    """At which borders a patch might lie so that some of its cells are off the plan, how near; nowhere first."""
    yield "", 0
    reach = max((abs(step[axis]) for step in (*off, *marks)), default=0)
    if any(step[axis] for step in off):
        for edge in _EDGES[1:]:
            for near in range(reach + 1):
                yield edge, near


def _is_off(step: Step, down: tuple[str, int], right: tuple[str, int]) -> bool:
    def along(value: int, edge: str, near: int) -> bool:
        return bool(edge) and (value < -near if edge == "first" else value > near)

    return along(step[0], *down) or along(step[1], *right)


def _laid_out(patches: list[_Patch], looks: int, gap: int, lacking: list[int]) -> Proof:
    """Patches side by side, those that need a border at it."""
    pitch = 2 * looks + 1 + gap
    inside = [one for one in patches if not one.down[0] and not one.right[0]]
    columns = max(1, int(np.ceil(np.sqrt(len(inside)))))
    # Along each border lie the patches that need it, one after another; corners hold one patch each.
    most = max([columns, *(len(some) + 2 for some in _by_border(patches).values())])
    rows = max(-(-len(inside) // columns), most if len(_by_border(patches)) else 1)
    height, width = (rows + 2) * pitch, (most + 2) * pitch
    plan, spots, taken = np.zeros((height, width), dtype=np.uint8), {}, set()
    for place, one in enumerate(inside):
        spots[one.stitch] = (place // columns + 1) * pitch + looks, (place % columns + 1) * pitch + looks
    for (down, right), some in _by_border(patches).items():
        for place, one in enumerate(some):
            if down and right and (down, right) in taken:
                lacking.append(one.stitch)
                continue
            taken.add((down, right))
            spots[one.stitch] = (
                _line(one.down, height, (place + 1) * pitch + looks),
                _line(one.right, width, (place + 1) * pitch + looks),
            )
    for one in patches:
        row, column = spots.get(one.stitch, (-1, -1))
        for (y, x), mark in one.marks.items() if row >= 0 else ():
            plan[row + y, column + x] = mark
    return Proof(plan, spots, tuple(sorted(lacking)), {})


def _line(at: tuple[str, int], count: int, free: int) -> int:
    edge, near = at
    return free if not edge else near if edge == "first" else count - 1 - near


def _by_border(patches: list[_Patch]) -> dict[tuple[str, str], list[_Patch]]:
    found: dict[tuple[str, str], list[_Patch]] = {}
    for one in patches:
        if one.down[0] or one.right[0]:
            found.setdefault((one.down[0], one.right[0]), []).append(one)
    return found
