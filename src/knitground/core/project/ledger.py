"""The ledger: what is wrong with a project, kept up with its changes.

Findings of definitions are kept as long as what they follow from; findings on grounds are kept by blocks, and only
blocks that something reached are looked at again. A few blocks are looked at while one waits; many, as on opening a
project, beside the interface on a snapshot, whose answers count for all blocks that nothing has touched since.
"""

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.check import DEFINITION_CHECKS, GROUND_CHECKS
from knitground.core.check.check import BLOCK, Finding, GroundCheck, Progress, Tallies, Tally, together
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived, Reached
from knitground.core.project.facts import ProjectFacts

FEW_BLOCKS = 128
"""So many blocks may be looked at while one waits."""
_SPARSE = 2
"""Blocks are knit at once if the rectangle round them holds no more than this many times as many."""

_Key = tuple[str, str, str]


@dataclass
class _Blocks:
    """What one check knows of one layer."""

    made_from: tuple[Any, ...]
    tallies: dict[tuple[int, int], Tallies] = field(default_factory=dict)
    due: NDArray[np.bool_] = field(default_factory=lambda: np.zeros((0, 0), dtype=bool))
    since: NDArray[np.int64] = field(default_factory=lambda: np.zeros((0, 0), dtype=np.int64))
    """When each block was reached for the last time."""
    _total: dict[str, Tally] | None = None

    def note(self, spot: tuple[int, int], tallies: Tallies) -> None:
        """Keeps what was found in a block."""
        if tallies:
            self.tallies[spot] = tallies
        else:
            self.tallies.pop(spot, None)
        self._total = None

    def total(self) -> dict[str, Tally]:
        if self._total is None:
            found = defaultdict[str, list[Tally]](list)
            for tallies in self.tallies.values():
                for kind, one in tallies.items():
                    found[kind].append(one)
            self._total = {kind: together(some) for kind, some in found.items()}
        return self._total


class Answers(NamedTuple):
    """What was found beside the interface."""

    time: int
    definitions: dict[tuple[str, str], tuple[tuple[Any, ...], Sequence[Finding]]]
    blocks: dict[_Key, tuple[tuple[Any, ...], dict[tuple[int, int], Tallies]]]


class Ledger:
    """The findings of a project."""

    def __init__(self, derived: Derived) -> None:
        self.derived, self._facts = derived, ProjectFacts(derived)
        self._definitions: dict[tuple[str, str], tuple[tuple[Any, ...], Sequence[Finding]]] = {}
        self._blocks: dict[_Key, _Blocks] = {}
        self._time = self._tiles_laid = 0
        self.define()

    @property
    def findings(self) -> list[Finding]:
        """All that is known to be wrong, in the order of the work."""
        found: list[Finding] = []
        for definition in DEFINITION_CHECKS:
            for thing in definition.about(self._facts):
                found += self._definitions.get((definition.name, thing.id), ((), ()))[1]
        for check in GROUND_CHECKS:
            seen = [
                (ground, layer, self._blocks[check.name, ground.id, layer.id].total())
                for ground, layer in self._layers(check)
                if (check.name, ground.id, layer.id) in self._blocks
            ]
            found += check.tell(self._facts, seen)
        return found

    @property
    def waiting(self) -> int:
        """How many blocks, and slow definitions, have not been looked at yet."""
        return sum(int(blocks.due.sum()) for blocks in self._blocks.values()) + len(self._slow())

    def define(self) -> None:
        """Definitions changed: looks at what is quick, and marks what has to be looked at on grounds."""
        facts = self._facts
        self._tiles_laid = facts.tiles_laid
        for definition in DEFINITION_CHECKS:
            if definition.at_once:
                for thing in definition.about(facts):
                    self._define(definition.name, thing.id, definition.depends(facts, thing), definition.find, thing)
        known: dict[_Key, _Blocks] = {}
        self._time += 1
        for check in GROUND_CHECKS:
            for ground, layer in self._layers(check):
                key = check.name, ground.id, layer.id
                made_from = (*check.depends(facts, ground, layer), facts.planes(ground.id, layer.id))
                old = self._blocks.get(key)
                if old is not None and _same(old.made_from, made_from):
                    known[key] = old
                else:
                    size = -(-ground.height // BLOCK), -(-ground.width // BLOCK)
                    known[key] = _Blocks(
                        made_from, {}, np.ones(size, dtype=bool), np.full(size, self._time, dtype=np.int64)
                    )
        self._blocks = known

    def reach(self, reached: Iterable[Reached]) -> None:
        """Cells changed: marks their blocks."""
        self._time += 1
        for ground, layer, cells in reached:
            rows = slice(cells.top // BLOCK, -(-cells.bottom // BLOCK))
            columns = slice(cells.left // BLOCK, -(-cells.right // BLOCK))
            for check in GROUND_CHECKS:
                blocks = self._blocks.get((check.name, ground, layer))
                if blocks is not None:
                    blocks.due[rows, columns] = True
                    blocks.since[rows, columns] = self._time
        for (_, ground, layer), blocks in self._blocks.items():
            # The planes may be others now; what was marked says where.
            planes = self._facts.planes(ground, layer)
            if planes is not blocks.made_from[-1]:
                blocks.made_from = (*blocks.made_from[:-1], planes)
        # A new tile in the palette may be one that is lost or of the wrong size.
        if self._facts.tiles_laid != self._tiles_laid:
            self.define()

    def look(self, most: int = FEW_BLOCKS) -> bool:
        """Looks at what is waiting if that is little; whether everything has been looked at."""
        if self.waiting > most:
            return False
        facts = self._facts
        for check, ground, layer, blocks in self._waiting_blocks():
            spots = np.argwhere(blocks.due)
            if layer.knits:
                # Blocks side by side are knit much faster at once than one after another.
                first, last = spots.min(axis=0).tolist(), spots.max(axis=0).tolist()
                if (last[0] - first[0] + 1) * (last[1] - first[1] + 1) <= _SPARSE * len(spots):
                    facts.laid(ground.id, layer.id, _rect(ground, *first, *last))
            for row, column in spots.tolist():
                blocks.note((row, column), check.look(facts, ground, layer, _rect(ground, row, column)))
            blocks.due[:] = False
        return not self._slow()

    def job(self) -> Callable[[Progress], Answers]:
        """A function that looks at all that is waiting, on the project as it is now; see `take`."""
        # First, so that what both sides keep of definitions is the same.
        slow = self._slow()
        facts, time = self._facts.at_this_moment(), self._time
        work = [
            (check, ground, layer, blocks.made_from, np.argwhere(blocks.due).tolist())
            for check, ground, layer, blocks in self._waiting_blocks()
        ]
        total = sum(len(spots) for *_, spots in work) + len(slow) or 1

        def look(progress: Progress) -> Answers:
            answers, done = Answers(time, {}, {}), 0
            facts.pulse = lambda: progress(done / total)
            for name, thing in slow:
                definition = next(one for one in DEFINITION_CHECKS if one.name == name)
                made_from = definition.depends(facts, thing)
                answers.definitions[name, thing.id] = made_from, definition.find(facts, thing)
                done += 1
                progress(done / total)
            for check, ground, layer, made_from, spots in work:
                found = {}
                seen_row = -1
                for row, column in spots:
                    if row != seen_row and layer.knits:
                        # A row of blocks at once is knit much faster than one block after another.
                        columns = [other for line, other in spots if line == row]
                        facts.laid(ground.id, layer.id, _rect(ground, row, min(columns), row, max(columns)))
                        seen_row = row
                    found[row, column] = check.look(facts, ground, layer, _rect(ground, row, column))
                    done += 1
                    progress(done / total)
                answers.blocks[check.name, ground.id, layer.id] = made_from, found
            return answers

        return look

    def take(self, answers: Answers) -> None:
        """Takes over what was found beside the interface, where it is still true."""
        for key, (made_from, findings) in answers.definitions.items():
            self._definitions[key] = made_from, findings
        for block_key, (made_from, found) in answers.blocks.items():
            blocks = self._blocks.get(block_key)
            if blocks is None or not _same(blocks.made_from[:-1], made_from[:-1]):
                continue
            for spot, tallies in found.items():
                if blocks.since[spot] <= answers.time:
                    blocks.note(spot, tallies)
                    blocks.due[spot] = False

    def _define(self, name: str, thing_id: str, made_from: tuple[Any, ...], find: Any, thing: Any) -> None:
        known = self._definitions.get((name, thing_id))
        if known is None or not _same(known[0], made_from):
            self._definitions[name, thing_id] = made_from, find(self._facts, thing)

    def _slow(self) -> list[tuple[str, Any]]:
        """Slow checks of definitions that are not true any more."""
        found = []
        for definition in DEFINITION_CHECKS:
            for thing in () if definition.at_once else definition.about(self._facts):
                known = self._definitions.get((definition.name, thing.id))
                # Worked out even where nothing is known yet, so that a snapshot for work beside the window shares it.
                made_from = definition.depends(self._facts, thing)
                if known is None or not _same(known[0], made_from):
                    found.append((definition.name, thing))
        return found

    def _layers(self, check: GroundCheck) -> Iterable[tuple[Ground, Layer]]:
        for ground in self._facts.grounds:
            for layer in ground.layers:
                if check.applies(layer):
                    yield ground, layer

    def _waiting_blocks(self) -> Iterable[tuple[GroundCheck, Ground, Layer, _Blocks]]:
        for check in GROUND_CHECKS:
            for ground, layer in self._layers(check):
                blocks = self._blocks.get((check.name, ground.id, layer.id))
                if blocks is not None and blocks.due.any():
                    yield check, ground, layer, blocks


def all_findings(derived: Derived, progress: Progress = lambda share: None) -> list[Finding]:
    """Everything that is wrong with a project, looked at from nothing."""
    ledger = Ledger(derived)
    ledger.take(ledger.job()(progress))
    return ledger.findings


def _rect(ground: Ground, row: int, column: int, to_row: int | None = None, to_column: int | None = None) -> CellRect:
    """The cells of a block, or of all blocks up to another."""
    height = (row if to_row is None else to_row) + 1 - row
    width = (column if to_column is None else to_column) + 1 - column
    return ground.board.clip(CellRect(row * BLOCK, column * BLOCK, height * BLOCK, width * BLOCK))


def _same(one: tuple[Any, ...], other: tuple[Any, ...]) -> bool:
    """Whether two things were made from the same objects; numbers and boards may also be equal."""
    return len(one) == len(other) and all(
        a is b or (isinstance(a, int | str) and a == b) or (type(a) is type(b) and hasattr(a, "wraps_x") and a == b)
        for a, b in zip(one, other, strict=True)
    )
