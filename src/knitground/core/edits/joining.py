"""Sets that share a terrain as one: all that lies on the same ground is painted on one layer.

On layers of their own one would hide the other, as each covers all of the ground with what they share.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import combinations, count

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.finding import Proposed, name_of
from knitground.core.edits.sets import new_terrain
from knitground.core.joins.coverage import coverage
from knitground.core.joins.sets import MOST_TERRAINS, JoinSet
from knitground.core.joins.shared import Look, looks_of, pairs_of, same_terrains
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef

Known = tuple[Proposed, Mapping[int, Look]]
"""A set and what its terrains look like where they lie alone."""


def join_alike(
    proposed: Sequence[Proposed], tiles: Mapping[TileRef, NDArray[np.uint8]], cuts: Mapping[tuple[str, str], Cut]
) -> list[Proposed]:
    """Proposed sets of which those that share a terrain are one; each such knows what it was joined of.

    Sets of other kinds, sizes of tiles or shapes stay apart, and such as may border on nothing: on layers of their own
    these hide nothing. So do sets that show the same two terrains: their meetings are drawn in two ways.

    Parameters
    ----------
    proposed : sequence of Proposed
    tiles : mapping of TileRef to (h, w, 4) uint8
        All tiles of these, straight alpha.
    cuts : mapping of (sheet, cut) to Cut
        Those that these are of.
    """
    joined: list[Known] = [(one, looks_of(one.join_set, tiles, cuts[cut_of(one.join_set)].shape)) for one in proposed]
    while (found := _next_pair(joined, cuts)) is not None:
        (one, other, same) = found
        joined[one] = as_one(joined[one], joined[other], same)
        del joined[other]
    return [_ground_first(one) if one.parts else one for one, _ in joined]


def taken_apart(proposed: Sequence[Proposed], whole: Proposed) -> list[Proposed]:
    """What is proposed, with the parts of a joined set in its place."""
    return [part for one in proposed for part in (one.parts if one is whole else (one,))]


def joined_again(proposed: Sequence[Proposed], whole: Proposed) -> list[Proposed]:
    """What is proposed, with a joined set in the place of its parts."""
    ids = {part.join_set.id for part in whole.parts}
    return [whole, *(one for one in proposed if one.join_set.id not in ids)]


def whole_of(one: Proposed, wholes: Sequence[Proposed], proposed: Sequence[Proposed]) -> Proposed | None:
    """The set of several that a proposed one could be joined to, if all its other parts are proposed still."""
    there = {other.join_set.id for other in proposed}
    for whole in wholes:
        ids = {part.join_set.id for part in whole.parts}
        if one.join_set.id in ids and ids <= there:
            return whole
    return None


def cut_of(join_set: JoinSet) -> tuple[str, str]:
    """The sheet and cut of the first tile of a set."""
    ref = next(iter(join_set.labels))
    return ref.sheet, ref.cut


def _next_pair(some: Sequence[Known], cuts: Mapping[tuple[str, str], Cut]) -> tuple[int, int, dict[int, int]] | None:
    """Two sets that are joined next, with the number in the first of what terrains of the second are the same."""
    for (place, one), (other_place, other) in combinations(enumerate(some), 2):
        same = shared_by(one, other, cuts)
        if same:
            return place, other_place, same
    return None


def shared_by(one: Known, other: Known, cuts: Mapping[tuple[str, str], Cut]) -> dict[int, int]:
    """The number in a set of those terrains of another that are the same, if both can be one; else none.

    Parameters
    ----------
    one, other : Known
    cuts : mapping of (sheet, cut) to Cut
        Those that these are of.
    """
    (first, mine), (second, theirs) = one, other
    if not _may_join(first.join_set, second.join_set, cuts):
        return {}
    same = same_terrains(mine, theirs)
    drawn = pairs_of(first.join_set.labels.values())
    again = {frozenset(same.get(label, 0) for label in pair) for pair in pairs_of(second.join_set.labels.values())}
    many = len(first.join_set.terrains) + len(second.join_set.terrains) - len(same)
    return {} if drawn & again or many > MOST_TERRAINS else same


def _may_join(one: JoinSet, other: JoinSet, cuts: Mapping[tuple[str, str], Cut]) -> bool:
    """Whether tiles of both may lie on one layer."""
    mine, theirs = cuts[cut_of(one)], cuts[cut_of(other)]
    return (
        one.kind == other.kind != "cell"
        and not (one.bare or other.bare)
        and (mine.shape, mine.footprint) == (theirs.shape, theirs.footprint)
        and (mine.tile_width, mine.tile_height) == (theirs.tile_width, theirs.tile_height)
    )


def as_one(one: Known, other: Known, same: Mapping[int, int]) -> Known:
    """Two sets as one, with what their terrains look like; the first keeps its numbers.

    Parameters
    ----------
    one, other : Known
    same : mapping of int to int
        As `shared_by` gives it.
    """
    (first, mine), (second, theirs) = one, other
    terrains = [*first.join_set.terrains]
    numbers = {0: 0, **same}
    for number, terrain in enumerate(second.join_set.terrains, start=1):
        if number not in numbers:
            taken = {known.name for known in terrains}
            name = next(name for name in _names(terrain.name) if name not in taken)
            terrains.append(replace(new_terrain(terrains, name), colour=terrain.colour))
            numbers[number] = len(terrains)
    labels = {ref: tuple(numbers[label] for label in row) for ref, row in second.join_set.labels.items()}
    joined = first._replace(
        join_set=replace(first.join_set, terrains=tuple(terrains), labels={**labels, **first.join_set.labels}),
        confidence=min(first.confidence, second.confidence),
        rare={**first.rare, **second.rare},
        frames={**first.frames, **second.frames},
        moves=first.moves or second.moves,
        parts=(*(first.parts or (first,)), *(second.parts or (second,))),
    )
    return joined, {**{numbers[number]: look for number, look in theirs.items()}, **mine}


def most_met(join_set: JoinSet) -> int:
    """The number of the terrain that meets most others: what a ground is best covered with."""
    pairs = pairs_of(join_set.labels.values())
    numbers = range(1, len(join_set.terrains) + 1)
    return max(numbers, key=lambda number: (sum(number in pair for pair in pairs), -number))


def _ground_first(one: Proposed) -> Proposed:
    """A joined set, and its parts, with the terrain first that meets most others."""
    ground = most_met(one.join_set)
    whole = with_first(one.join_set, ground)
    found = coverage(whole)
    return one._replace(
        join_set=replace(whole, id=f"joined-{whole.id}", name=name_of([terrain.name for terrain in whole.terrains])),
        covered=found.present / max(1, found.total),
        parts=tuple(_with_it_first(part, one.join_set, ground) for part in one.parts),
    )


def _with_it_first(part: Proposed, whole: JoinSet, ground: int) -> Proposed:
    """A part with what is a terrain of the whole as its first, if it has that."""
    of = {
        own: number
        for ref, row in part.join_set.labels.items()
        for own, number in zip(row, whole.labels[ref], strict=True)
    }
    first = next((own for own, number in of.items() if number == ground), 1)
    known = with_first(part.join_set, first)
    shared, *others = (terrain.name for terrain in known.terrains)
    return part._replace(join_set=replace(known, name=name_of([*others, shared])))


def with_first(join_set: JoinSet, number: int) -> JoinSet:
    """The same set with another of its terrains as number 1."""
    order = [number, *(one for one in range(1, len(join_set.terrains) + 1) if one != number)]
    new = {0: 0, **{was: place for place, was in enumerate(order, start=1)}}
    labels = {ref: tuple(new[label] for label in row) for ref, row in join_set.labels.items()}
    return replace(join_set, terrains=tuple(join_set.terrains[was - 1] for was in order), labels=labels)


def _names(name: str) -> Iterator[str]:
    """A name, then the same with numbers."""
    yield name
    yield from (f"{name} {number}" for number in count(2))
