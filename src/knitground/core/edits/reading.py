"""Labels read off pixels, in the terms of a join set: proposed, then taken whole or tile by tile."""

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.rare import rare_weights, with_rare
from knitground.core.edits.sets import new_terrain
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.joins.art import colours_told_apart, terrain_colours, thread_near
from knitground.core.joins.beneath import ground_first, lies_beneath
from knitground.core.joins.infer import Inferred, infer_labels
from knitground.core.joins.lattice import POINTS
from knitground.core.joins.look import laid_flat, seen_colours
from knitground.core.joins.sets import MIDDLE, MOST_TERRAINS, JoinSet, Labels, Terrain, with_labels
from knitground.core.joins.words import in_words
from knitground.core.project.document import Document
from knitground.core.project.model import replaced
from knitground.core.sheet.cut import TileShape
from knitground.core.tiles.tile import TileRef

SURE = 0.83
"""Below this confidence a tile is marked as one to look at: a seventh of all, with more than half of the errors."""


@dataclass(frozen=True)
class Proposal:
    """Labels for some tiles, by the numbers of a set's terrains, with how sure each is.

    Numbers beyond the set's terrains are of terrains to be added when the proposal is taken.
    """

    labels: Mapping[TileRef, Labels]
    confidence: Mapping[TileRef, float]
    terrains: int
    added: Mapping[int, Terrain] = field(default_factory=dict)
    """The terrains with these further numbers, as they would be called."""
    rare: Mapping[TileRef, float] = field(default_factory=dict)
    """What tiles weigh that show something on what another of the same labels shows alone."""

    def unsure(self) -> list[TileRef]:
        """The tiles to look at."""
        return [ref for ref, sure in self.confidence.items() if sure < SURE]


def read_labels(
    join_set: JoinSet,
    refs: Sequence[TileRef],
    tiles: Sequence[NDArray[np.uint8]],
    terrains: int | None = None,
    shape: TileShape = "square",
    progress: Callable[[float], None] = lambda share: None,
) -> Proposal:
    """Reads labels for a set off the pixels of tiles.

    Where some of the tiles are labelled already, terrains take the numbers that agree most with those; where the set
    may border on nothing, what is transparent is nothing.

    Parameters
    ----------
    refs, tiles : sequences of TileRef and of (h, w, 4) uint8
    terrains : int, optional
        How many, nothing being one of them where it shows; found out if not given.
    shape : TileShape
        Isometric tiles are diamonds; see `infer_labels`.
    progress : callable, optional
        Is told the share done from 0 to 1; may raise to stop.

    Raises
    ------
    BadRequest
        As `infer_labels`; or if the tiles differ in size.
    """
    if len({tile.shape for tile in tiles}) > 1:
        raise BadRequest("Tiles of different sizes can't be compared; choose cells of one cut.")
    stacked = np.stack(tiles) if tiles else np.zeros((0, 1, 1, 4), np.uint8)
    found = infer_labels(stacked, join_set.kind, shape=shape, terrains=terrains, progress=progress)
    flat = laid_flat(stacked, shape)
    groups = ground_first(found.labels, lies_beneath(join_set.kind, found.labels, flat))
    naming = _naming(join_set, refs, stacked, found, shape, groups)
    labels = {ref: tuple(naming[group] for group in row) for ref, row in zip(refs, found.labels.tolist(), strict=True)}
    sure = dict(zip(refs, found.confidence.tolist(), strict=True))
    added = _added(join_set, naming, found.labels, flat)
    rare = rare_weights(join_set.kind, refs, stacked, found.labels)
    return Proposal(labels, sure, len(set(naming.values()) - {0}), added, rare)


def take_proposal(document: Document, set_id: str, proposal: Proposal, refs: Collection[TileRef] | None = None) -> None:
    """Labels tiles as proposed, all or some, lets rare ones come seldom, and adds what terrains lack, as one step.

    A set without labels so far whose tiles turn out to be covered all over does not border on nothing.
    """
    join_set = by_id(document.project.join_sets, set_id)
    labels = {ref: row for ref, row in proposal.labels.items() if refs is None or ref in refs}
    terrains = list(join_set.terrains)
    while len(terrains) < max((max(row) for row in labels.values()), default=0):
        number = len(terrains) + 1
        terrains.append(proposal.added.get(number) or new_terrain(terrains, f"Terrain {number}"))
    covered = not join_set.labels and all(min(row) > 0 for row in proposal.labels.values())
    changed = replace(join_set, terrains=tuple(terrains))
    if join_set.kind == "cell":
        changed = replace(changed, ground=join_set.ground or _ground_of(labels.values()))
    else:
        changed = replace(changed, bare=join_set.bare and not covered)
    project, labelled = document.project, replace(changed, labels=with_labels(changed, labels))
    tiles = with_rare(project.tiles, {ref: weight for ref, weight in proposal.rare.items() if ref in labels})
    document.define("read labels", replace(project, join_sets=replaced(project.join_sets, labelled), tiles=tiles))


def _added(
    join_set: JoinSet, naming: Mapping[int, int], labels: NDArray[np.intp], tiles: NDArray[np.uint8]
) -> dict[int, Terrain]:
    """The terrains that a set lacks for what was read, called after their colours, by their numbers."""
    colours, _ = terrain_colours(join_set.kind, labels, tiles)
    numbered = sorted((number, group) for group, number in naming.items() if number > 0)
    colours = colours_told_apart(join_set.kind, labels, tiles, colours, [group for _, group in numbered])
    new = [(number, group) for number, group in numbered if number > len(join_set.terrains)]
    terrains, found = list(join_set.terrains), {}
    for (number, group), word in zip(new, in_words([colours[group] for _, group in new]), strict=True):
        found[number] = replace(new_terrain(terrains, word.capitalize()), colour=thread_near(colours[group]))
        terrains.append(found[number])
    return found


def _ground_of(rows: Iterable[Labels]) -> int:
    """The terrain that lies round what tiles of a cell set are, but is what none of them is; 0 if there is no such."""
    rows = list(rows)
    middles = {row[MIDDLE] for row in rows}
    others = {label for row in rows for label in row[:MIDDLE]} - middles - {0}
    return others.pop() if len(others) == 1 else 0


def _naming(
    join_set: JoinSet,
    refs: Sequence[TileRef],
    tiles: NDArray[np.uint8],
    found: Inferred,
    shape: TileShape,
    groups: Sequence[int],
) -> dict[int, int]:
    """The set's number for each terrain found; those that the set lacks get theirs in the order of `groups`."""
    naming: dict[int, int] = {}
    if found.nothing is not None:
        naming[found.nothing] = 0
    elif 0 in join_set.numbers:
        naming |= {group: 0 for group in groups if _is_clear(group, tiles, found.labels, join_set, shape)}
    votes: Counter[tuple[int, int]] = Counter()
    for ref, row in zip(refs, found.labels.tolist(), strict=True):
        votes.update(
            (group, number) for group, number in zip(row, join_set.labels.get(ref, ()), strict=False) if number
        )
    for (group, number), _ in votes.most_common():
        if group not in naming and number not in naming.values():
            naming[group] = number
    free = (number for number in range(1, MOST_TERRAINS + 1) if number not in naming.values())
    for group in groups:
        if group not in naming:
            naming[group] = next(free)
    return naming


def _is_clear(
    group: int,
    tiles: NDArray[np.uint8],
    labels: NDArray[np.intp],
    join_set: JoinSet,
    shape: TileShape,
) -> bool:
    """Whether most places of a group are transparent, at the pixel that lies there."""
    alpha = seen_colours(tiles, shape)[..., 3]
    size = np.array(alpha.shape[1:])
    clear = []
    for place, spot in enumerate(POINTS[join_set.kind]):
        row, column = np.minimum(np.array(spot) * size // 2, size - 1)
        clear.append(alpha[labels[:, place] == group, row, column] < 0.5 * alpha.max())
    return bool(np.concatenate(clear).mean() > 0.5)
