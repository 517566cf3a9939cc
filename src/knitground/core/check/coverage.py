"""Combinations that no tile of a join set shows, and labels of tiles that can't be laid."""

from collections.abc import Iterator
from itertools import islice
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.joins.beyond import told_narrow
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import JoinSet, finished, letters
from knitground.core.tiles.called import called

_NAMED = 3
_SAID = 4
"""How many letters of a combination can be taken in."""
_ENOUGH = "Areas whose corners lie two cells apart lack nothing; for others the nearest tile is laid. "


def _find(facts: Facts, join_set: JoinSet) -> Iterator[Finding]:
    usable = facts.usable(join_set.labels)
    lost = [ref for ref in join_set.labels if ref not in usable]
    if lost:
        sentence = f"{join_set.name}: {len(lost)} labelled tiles are not on their sheet"
        yield Finding(
            "lost tile", "joins", f"{sentence}, first {called(facts.sheets, lost[0])}", join_set.id,
            count=len(lost), mend="Take their labels away, or bring the sheet back.",
        )  # fmt: skip
    laid = finished(join_set)
    unfinished = [ref for ref in join_set.labels if ref not in laid]
    if unfinished:
        tiles = many(len(unfinished), "tile is", "tiles are")
        sentence = f"{join_set.name}: {tiles} labelled only in part, first {called(facts.sheets, unfinished[0])}"
        yield Finding(
            "half labelled", "joins", sentence, join_set.id, count=len(unfinished),
            mend="Paint the labels that are missing; in a cell set, what the tile is in its middle.",
        )  # fmt: skip
    found = facts.coverage(join_set)
    if join_set.labels and found.lacking:
        sentence = f"{join_set.name}: no tile for {_missing(found, join_set)}"
        enough = _ENOUGH if found.narrow == found.lacking else ""
        yield Finding(
            "missing join", "joins", sentence, join_set.id, count=found.lacking,
            mend=f"{enough}Draw these tiles, or let “Make missing” stand in for them.",
        )  # fmt: skip


def _missing(found: Coverage, join_set: JoinSet) -> str:
    """The first combinations without a tile, where their letters can be taken in; else how many there are."""
    few = list(islice(found.missing(), _NAMED))
    if len(few[0]) > _SAID:
        return ", ".join(filter(None, [f"{found.lacking} of {found.total} combinations", told_narrow(found)]))
    more = f" and {found.lacking - _NAMED:,} more" if found.lacking > _NAMED else ""
    return ", ".join(letters(join_set, labels) for labels in few) + more


def _depends(facts: Facts, join_set: JoinSet) -> tuple[Any, ...]:
    return join_set, facts.coverage(join_set)


CHECK = DefinitionCheck("coverage", lambda facts: facts.join_sets, _depends, lambda *of: tuple(_find(*of)))
