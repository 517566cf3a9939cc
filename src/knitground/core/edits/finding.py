"""Sets that were found on a sheet, as join sets: named after their colours, and taken into the project."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.animations import run_of
from knitground.core.edits.hanging import Face, Hanging, stitches_below
from knitground.core.edits.rare import rare_weights, with_rare
from knitground.core.edits.sets import new_terrain
from knitground.core.joins.art import colours_told_apart, terrain_colours, thread_near
from knitground.core.joins.beneath import ground_first, lies_beneath
from knitground.core.joins.coverage import coverage
from knitground.core.joins.found import FoundSet
from knitground.core.joins.infer import infer_labels
from knitground.core.joins.look import laid_flat, seen_colours
from knitground.core.joins.ordered import of_areas
from knitground.core.joins.plain_ground import without_plain_ground
from knitground.core.joins.sets import MIDDLE, JoinKind, JoinSet, Labels, Terrain
from knitground.core.joins.words import in_words
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.sheet.cut import TileShape
from knitground.core.sheet.frames import USUAL_MS
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.tile import TileRef

_NEARLY_ALL = 0.95


class Proposed(NamedTuple):
    """A join set that could be taken.

    Attributes
    ----------
    join_set : JoinSet
    confidence, covered : float
        How certain it is, and how much of it is covered, from 0 to 1.
    hanging : tuple of Hanging
        What hangs from its rim.
    faces : tuple of Face
        Rows of a wall's face, that lie below where the set ends.
    rare : mapping of TileRef to float
        What tiles weigh that show something on what another shows alone: laid as often, they would crowd the ground.
    frames : mapping of TileRef to tuple of TileRef
        Tiles that other blocks of the sheet repeat, each with those at its place in them, itself first.
    moves : bool
        Whether its tiles will play those; else they are variants.
    parts : tuple of Proposed
        The sets that it was joined of, as they share a terrain; none if it was found as it is.
    """

    join_set: JoinSet
    confidence: float
    covered: float
    hanging: tuple[Hanging, ...] = ()
    faces: tuple[Face, ...] = ()
    rare: Mapping[TileRef, float] = {}
    frames: Mapping[TileRef, tuple[TileRef, ...]] = {}
    moves: bool = False
    parts: tuple["Proposed", ...] = ()

    @property
    def tiles(self) -> tuple[TileRef, ...]:
        """The tiles of the set, and what stitches will lay below its rim."""
        below = [one.tile for one in self.hanging] + [tile for face in self.faces for tile in face]
        return (*self.join_set.labels, *below)

    def playing(self, moves: bool) -> "Proposed":
        """The same with the blocks that repeat it as frames of its tiles, or as variants."""
        later = {frame: first for first, run in self.frames.items() for frame in run[1:]}
        labels = {ref: row for ref, row in self.join_set.labels.items() if ref not in later}
        if not moves:
            labels |= {frame: labels[first] for frame, first in later.items() if first in labels}
        return self._replace(join_set=replace(self.join_set, labels=labels), moves=moves)


def propose(
    found: Sequence[FoundSet],
    tiles: Mapping[TileRef, NDArray[np.uint8]],
    cut: TileRef,
    shape: TileShape = "square",
    *,
    first: int = 0,
) -> list[Proposed]:
    """Join sets for what was found on a cut.

    Parameters
    ----------
    found : sequence of FoundSet
    tiles : mapping of TileRef to (h, w, 4) uint8
        The tiles of the cut.
    cut : TileRef
        Any tile of the cut.
    shape : TileShape
    first : int
        The number of the first, where others are proposed before it.

    Returns
    -------
    proposed : list of Proposed
        Their ids are made up, and differ.
    """
    made = []
    bare = cache(lambda: dict(zip(tiles, without_plain_ground(np.stack(list(tiles.values()))), strict=True)))
    for number, one in enumerate(found, first):
        refs = [cut._replace(column=column, row=row) for column, row in one.cells.tolist()]
        pixels = np.stack([tiles[ref] for ref in refs])
        kind, labels = _kind_of(one, pixels, shape)
        # A line is called after itself, not after the ground on which it is drawn.
        line = one.kind == "edge" and one.labels.any(axis=1).all()
        seen = np.stack([bare()[ref] for ref in refs]) if line else pixels
        join_set = _as_set(f"found-{number}", kind, refs, labels, laid_flat(seen, shape))
        hanging = tuple(
            Hanging(cut._replace(column=column, row=row), tuple(labels), cut._replace(column=above[0], row=above[1]))
            for ((column, row), above), labels in zip(one.hanging.tolist(), one.instead.tolist(), strict=True)
        )
        rows = [[cut._replace(column=column, row=row) for column, row in face] for face in one.faces.tolist()]
        faces = tuple((left, middle, right) for left, middle, right in rows)
        runs = [[cut._replace(column=column, row=row) for column, row in run] for run in one.frames.tolist()]
        frames = {run[0]: tuple(run) for run in runs if run[0] in join_set.labels}
        rare = rare_weights(kind, refs, pixels, labels)
        laid = coverage(join_set, square=pixels.shape[1] == pixels.shape[2], isometric=shape == "isometric")
        covered = laid.present / max(1, laid.total)
        made.append(Proposed(join_set, one.confidence, covered, hanging, faces, rare, frames, one.moves))
    return made


def grounds_first(proposed: Iterable[Proposed]) -> list[Proposed]:
    """Sets in the order in which one would paint with them: what covers a ground, then what lies on it, large first."""
    return sorted(proposed, key=lambda one: (one.join_set.bare, -one.confidence * len(one.join_set.labels) ** 0.5))


def named_apart(proposed: Sequence[Proposed]) -> list[Proposed]:
    """Sets with what they don't share first in their names: where there is little room, no more is read.

    Those with the same name are numbered.

    Parameters
    ----------
    proposed : sequence of Proposed
        All that are proposed together, of whichever cuts.
    """
    shared = Counter(terrain.name for one in proposed for terrain in one.join_set.terrains)
    seen, named = Counter[str](), []
    for one in proposed:
        name = name_of(sorted((terrain.name for terrain in one.join_set.terrains), key=lambda name: shared[name]))
        seen[name] += 1
        name = name if seen[name] == 1 else f"{name[:75]} {seen[name]}"
        named.append(one._replace(join_set=replace(one.join_set, name=name)))
    return named


def name_of(terrains: Sequence[str]) -> str:
    """A name for a set of some terrains."""
    *others, last = [name.lower() for name in terrains] or ["found"]
    return (f"{', '.join(others)} and {last}" if others else last).capitalize()[:80]


def take_sets(document: Document, proposed: Iterable[Proposed]) -> list[str]:
    """Adds proposed sets to the project, with their frames and stitches for what hangs, as one step; returns ids."""
    ids = []
    sets, stitches = list(document.project.join_sets), list(document.project.stitch_sets)
    tiles = dict(document.project.tiles)
    for one in proposed:
        taken = replace(one.join_set, id=fresh_id(one.join_set.name, sets))
        sets.append(taken)
        ids.append(taken.id)
        if one.hanging or one.faces:
            below = fresh_id(f"Below {taken.name}", stitches)
            stitches.append(stitches_below(below, taken, one.hanging, one.faces))
        tiles = with_rare(tiles, one.rare)
        for ref, run in one.frames.items() if one.moves else ():
            said = tiles.get(ref, PLAIN)
            tiles[ref] = said if said.frames else replace(said, frames=run_of(run, USUAL_MS))
    if ids:
        changed = replace(document.project, join_sets=tuple(sets), stitch_sets=tuple(stitches), tiles=tiles)
        document.define("take found sets", changed)
    return ids


def _kind_of(found: FoundSet, pixels: NDArray[np.uint8], shape: TileShape) -> tuple[JoinKind, NDArray[np.intp]]:
    """The kind by which a set is best painted: by the cell if all its tiles are the same and go on as areas do."""
    if found.kind in ("corner", "cell") or int(found.labels.max()) > 1:
        return found.kind, found.labels
    if found.kind == "edge":
        terrain = of_areas(found.labels, seen_colours(pixels, shape))
        if terrain is None:
            return found.kind, found.labels
        edges = (found.labels == terrain).astype(np.intp)
        # Nothing shows what lies round a corner: those count for nothing.
        return "cell", np.column_stack([np.zeros_like(edges), edges, np.ones(len(edges), np.intp)])
    labels = infer_labels(pixels, "cell", shape=shape, terrains=2).labels
    inside = int(np.bincount(labels[:, MIDDLE]).argmax())
    crossing = labels[(labels[:, 4:8] == inside).all(axis=1)]
    same = (labels[:, MIDDLE] == inside).mean() >= _NEARLY_ALL
    # Where a line crosses another its corners lie beside it; where an area goes on they are part of it.
    goes_on = bool(len(crossing)) and (crossing[:, :4] == inside).all(axis=1).any()
    return ("cell", labels) if same and goes_on else (found.kind, found.labels)


def _as_set(
    set_id: str, kind: JoinKind, refs: list[TileRef], labels: NDArray[np.intp], pixels: NDArray[np.uint8]
) -> JoinSet:
    """A set with terrains by the colours of their art; what is mostly transparent is nothing.

    What lies beneath comes first, as a ground is covered with it; where no tile shows it alone it is nothing, too.
    """
    colours, clear = terrain_colours(kind, labels, pixels)
    beneath = lies_beneath(kind, labels, pixels)
    if beneath is not None and not (labels == beneath).all(axis=1).any():
        clear[beneath] = True
    first = int(np.bincount(labels[:, MIDDLE]).argmax()) if kind == "cell" else beneath
    order = ground_first(labels, first)
    # What cell tiles lie on is nothing to paint.
    painted = [group for group in order if not (clear[group] or (kind == "cell" and group != first))]
    numbers = dict.fromkeys(order, 0) | {group: number for number, group in enumerate(painted, 1)}
    colours = colours_told_apart(kind, labels, pixels, colours, painted)
    terrains: list[Terrain] = []
    for group, word in zip(painted, in_words([colours[group] for group in painted]), strict=True):
        terrains.append(replace(new_terrain(terrains, word.capitalize()), colour=thread_near(colours[group])))
    rows: dict[TileRef, Labels] = {
        ref: tuple(numbers[label] for label in row) for ref, row in zip(refs, labels.tolist(), strict=True)
    }
    bare = any(clear) or kind == "cell"
    kept = {ref: row for ref, row in rows.items() if any(row)}
    return JoinSet(set_id, name_of([terrain.name for terrain in terrains]), kind, tuple(terrains), bare, kept)
