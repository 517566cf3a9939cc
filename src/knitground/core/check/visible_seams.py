"""Pairs of tiles that may meet and do not go on into one another, the worst few by name."""

from collections.abc import Iterator
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.joins.sets import JoinSet
from knitground.core.joins.turning import is_isometric
from knitground.core.tiles.called import called

_NAMED = 3
_LIES = {False: ("above", "beside"), True: ("up and right of", "up and left of")}
"""Where the first tile of a seam lies that is level, and of one that is upright: of squares, and of diamonds."""
_MEND = "Redraw the border of one of the two; a click shows them enlarged."


def _find(facts: Facts, join_set: JoinSet) -> Iterator[Finding]:
    seams = facts.seams(join_set)()
    for seam in seams[:_NAMED]:
        says = _LIES[_isometric(facts, join_set)][seam.level]
        first, second = (called(facts.sheets, ref) for ref in (seam.first, seam.second))
        sentence = (
            f"{join_set.name}: a seam shows where {first} lies {says} {second}, "
            f"{seam.times:.1f} times as rough as within"
        )
        tiles = str(seam.first), str(seam.second)
        yield Finding("seam", "joins", sentence, join_set.id, index=int(seam.level), tiles=tiles, mend=_MEND)
    if seams[_NAMED:]:
        rest = len(seams) - _NAMED
        sentence = f"{join_set.name}: {rest} more seam{'s that are' if rest > 1 else ' that is'} not as bad"
        yield Finding("seam", "joins", sentence, join_set.id, count=rest, mend=_MEND)


def _isometric(facts: Facts, join_set: JoinSet) -> bool:
    return is_isometric(join_set, {(sheet.id, cut.id): cut for sheet in facts.sheets for cut in sheet.cuts})


def _depends(facts: Facts, join_set: JoinSet) -> tuple[Any, ...]:
    return (facts.seams(join_set), _isometric(facts, join_set))


CHECK = DefinitionCheck(
    "seams", lambda facts: facts.join_sets, _depends, lambda *of: tuple(_find(*of)), at_once=False
)  # fmt: skip
