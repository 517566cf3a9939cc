"""Pairs of tiles that may meet and do not go on into one another, the worst few by name."""

from collections.abc import Iterator
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.joins.sets import JoinSet

_NAMED = 3
_MEND = "Redraw the border of one of the two; a click shows them enlarged."


def _find(facts: Facts, join_set: JoinSet) -> Iterator[Finding]:
    seams = facts.seams(join_set)()
    for seam in seams[:_NAMED]:
        says = "beside" if seam.level else "above"
        sentence = (
            f"{join_set.name}: a seam shows where {seam.first} lies {says} {seam.second}, "
            f"{seam.times:.1f} times as rough as within"
        )
        tiles = str(seam.first), str(seam.second)
        yield Finding("seam", "joins", sentence, join_set.id, index=int(seam.level), tiles=tiles, mend=_MEND)
    if seams[_NAMED:]:
        sentence = f"{join_set.name}: {len(seams) - _NAMED} more seams that are not as bad"
        yield Finding("seam", "joins", sentence, join_set.id, count=len(seams) - _NAMED, mend=_MEND)


def _depends(facts: Facts, join_set: JoinSet) -> tuple[Any, ...]:
    return (facts.seams(join_set),)


CHECK = DefinitionCheck(
    "seams", lambda facts: facts.join_sets, _depends, lambda *of: tuple(_find(*of)), at_once=False
)  # fmt: skip
