"""Tiles that take the place of others, in everything that names them."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.plane import Plane
from knitground.core.ground.swatch import ClipThing, Swatch
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.joins.turning import LaidTile, laid_tiles, orientations, turned_labels
from knitground.core.project.by_hand import hands_of
from knitground.core.project.document import Document
from knitground.core.project.model import Palette, Project, replaced
from knitground.core.project.naming import named_as_drawn
from knitground.core.sheet.cut import Cell
from knitground.core.tiles.alike import Twin, inverse
from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef, turned_further

Moves = Mapping[TileRef, tuple[TileRef, int]]
"""Which tile takes the place of another, and in which orientation it looks like it."""


@dataclass(frozen=True)
class Merged:
    """What came of merging: how many tiles are gone, and why others stay."""

    gone: int
    kept: tuple[tuple[TileRef, str], ...]


def merge_twins(document: Document, groups: Iterable[Sequence[Twin]]) -> Merged:
    """Lets the first tile of each group take the place of the others on all maps and in all sets, as one step.

    The cells of the others are left out of their cuts. A tile stays where something that cannot turn tiles names it
    and it is only a turned copy, and where it is labelled or described otherwise than the first.
    """
    project, moves, kept = _planned(document.project, groups)
    if moves:
        document.define(
            f"merge {len(moves):,} tiles",
            _left_out(moved_in(project, moves), moves),
            planes=moved_on_maps(document, moves),
        )
    return Merged(len(moves), kept)


def would_stay(project: Project, groups: Iterable[Sequence[Twin]]) -> dict[TileRef, str]:
    """The tiles that merging would leave where they are, and why."""
    return dict(_planned(project, groups)[2])


def _planned(
    project: Project, groups: Iterable[Sequence[Twin]]
) -> tuple[Project, dict[TileRef, tuple[TileRef, int]], tuple[tuple[TileRef, str], ...]]:
    """The project with what is said of merged tiles joined, which tiles go, and which stay for what reason."""
    moves: dict[TileRef, tuple[TileRef, int]] = {}
    kept: list[tuple[TileRef, str]] = []
    named = named_as_drawn(project)
    for group in groups:
        first = group[0].ref
        for twin in group[1:]:
            reason = why_not(project, first, twin, named)
            if reason:
                kept.append((twin.ref, reason))
            else:
                moves[twin.ref] = first, twin.orientation
                project = joined(project, first, twin)
    return project, moves, tuple(kept)


def moved_in(project: Project, moves: Moves) -> Project:
    """The definitions with tiles exchanged for those that take their place."""

    def new(ref: TileRef) -> TileRef:
        return moves[ref][0] if ref in moves else ref

    tiles = {ref: notes for ref, notes in project.tiles.items() if ref not in moves}
    tiles |= {moves[ref][0]: notes for ref, notes in project.tiles.items() if ref in moves}
    return replace(
        project,
        tiles={ref: _frames_moved(notes, moves) for ref, notes in tiles.items()},
        join_sets=tuple(
            replace(one, labels=_labels_moved(one, moves)) for one in project.join_sets
        ),
        stitch_sets=tuple(one.with_tiles(new) for one in project.stitch_sets),
        mixes=tuple(_mix_moved(mix, moves) for mix in project.mixes),
        pair_sets=tuple(one.with_tiles(new) for one in project.pair_sets),
        recipes=tuple(one.with_tiles(new) for one in project.recipes),
        swatches=tuple(_swatch_moved(swatch, moves) for swatch in project.swatches),
        grounds=tuple(
            replace(one, layers=tuple(layer.with_tiles(new) for layer in one.layers))
            for one in project.grounds
        ),
    )  # fmt: skip


def moved_on_maps(document: Document, moves: Moves) -> dict[str, dict[str, dict[str, Plane]]]:
    """All planes, those that hold tiles with the tiles exchanged."""
    numbers, turns = _lookup(document.palette, moves)
    planes = document.state.planes
    return {
        ground.id: {
            layer.id: {
                name: plane.mapped(lambda codes: _cells_moved(codes, numbers, turns)) if name in layer.coded else plane
                for name, plane in planes[ground.id][layer.id].items()
            }
            for layer in ground.layers
        }
        | hands_of(planes[ground.id])
        for ground in document.project.grounds
    }


def why_not(project: Project, first: TileRef, twin: Twin, named: Mapping[TileRef, str]) -> str:
    """Why a tile cannot be merged into another, or nothing; `named` are those named by what can't turn them."""
    if twin.orientation and twin.ref in named:
        return f"it is a turned copy, and “{named[twin.ref]}” names it as it is drawn"
    if twin.orientation and project.cuts[first.sheet, first.cut].shape == "isometric":
        return "it is a turned copy of an isometric tile"
    for join_set in project.join_sets:
        if reason := _why_not_in(join_set, first, twin):
            return reason
    ours, theirs = (replace(project.tiles.get(ref, PLAIN), weight=1.0) for ref in (first, twin.ref))
    if theirs not in (ours, PLAIN) and ours != PLAIN:
        return "the two are described differently"
    weights = [project.tiles.get(ref, PLAIN).weight for ref in (first, twin.ref)]
    if twin.orientation and weights[0] != weights[1] and any(twin.ref in one.labels for one in project.join_sets):
        return "it is a turned copy of another weight"
    if twin.orientation and any(not isinstance(shape, str) for shape in theirs.all_shapes().values()):
        return "it is a turned copy with a collision shape of its own"
    return ""


def _why_not_in(join_set: JoinSet, first: TileRef, twin: Twin) -> str:
    one, other = join_set.labels.get(first), join_set.labels.get(twin.ref)
    if not other:
        return ""
    if one and turned_labels(one, join_set.kind, twin.orientation) != other:
        return f"“{join_set.name}” labels the two differently"
    if twin.orientation == 0:
        return ""
    if twin.orientation not in orientations(join_set):
        return f"it is a turned copy; “{join_set.name}” would have to be let turn or mirror its tiles"
    # What is drawn goes before what is turned, and the first turn that fits before others that would.
    if _looks_laid(join_set, first, twin) != _looks_laid(_joined_in(join_set, first, twin), first, twin):
        return f"it is a turned copy, and “{join_set.name}” would lay another in its place"
    return ""


def _looks_laid(join_set: JoinSet, first: TileRef, twin: Twin) -> dict[Labels, tuple[LaidTile, ...]]:
    """What is laid for each combination, a twin as what it looks like; in its order where that is thrown for."""

    def look(one: LaidTile) -> LaidTile:
        return one if one.ref != twin.ref else LaidTile(first, turned_further(twin.orientation, one.orientation))

    looks = {row: tuple(look(one) for one in tiles) for row, tiles in laid_tiles(join_set).items()}
    return {row: laid if len(set(laid)) > 1 else laid[:1] for row, laid in looks.items()}


def _joined_in(join_set: JoinSet, first: TileRef, twin: Twin) -> JoinSet:
    """A set in which the first of two tiles stands for both."""
    labels: dict[TileRef, Labels] = dict(join_set.labels)
    row = turned_labels(labels.pop(twin.ref), join_set.kind, inverse(twin.orientation))
    labels.setdefault(first, row)
    return replace(join_set, labels=labels)


def joined(project: Project, first: TileRef, twin: Twin) -> Project:
    """What is said of two tiles, said of the first: labels that only one has, and the share of both."""
    other = twin.ref
    tiles = dict(project.tiles)
    ours, theirs = tiles.get(first, PLAIN), tiles.get(other, PLAIN)
    sets = project.join_sets
    variants = False
    for join_set in sets:
        if other in join_set.labels:
            variants = variants or join_set.labels.get(first) == join_set.labels[other]
            sets = replaced(sets, _joined_in(join_set, first, twin))
    said = ours if replace(ours, weight=1.0) != PLAIN else replace(theirs, weight=ours.weight)
    weight = ours.weight + theirs.weight if variants else said.weight
    tiles.pop(other, None)
    tiles[first] = replace(said, weight=min(weight, 1e6))
    if tiles[first] == PLAIN:
        del tiles[first]
    return replace(project, tiles=tiles, join_sets=sets)


def _left_out(project: Project, refs: Iterable[TileRef]) -> Project:
    """The project with some cells no longer tiles."""
    cells: dict[tuple[str, str], set[Cell]] = defaultdict(set)
    for ref in refs:
        cells[ref.sheet, ref.cut].add(Cell(ref.column, ref.row))
    sheets = tuple(
        replace(sheet, cuts=tuple(
            replace(
                cut,
                left_out=tuple(sorted({*cut.left_out, *cells[sheet.id, cut.id]})),
                taken_in=tuple(cell for cell in cut.taken_in if cell not in cells[sheet.id, cut.id]),
            )
            if (sheet.id, cut.id) in cells else cut
            for cut in sheet.cuts
        ))
        for sheet in project.sheets
    )  # fmt: skip
    return replace(project, sheets=sheets)


def _frames_moved(notes: TileNotes, moves: Moves) -> TileNotes:
    if not any(frame.tile in moves for frame in notes.frames):
        return notes
    frames = (replace(one, tile=moves[one.tile][0]) if one.tile in moves else one for one in notes.frames)
    return replace(notes, frames=tuple(frames))


def _labels_moved(join_set: JoinSet, moves: Moves) -> dict[TileRef, Labels]:
    labels = {ref: row for ref, row in join_set.labels.items() if ref not in moves}
    for ref, row in join_set.labels.items():
        if ref in moves:
            labels[moves[ref][0]] = row
    return labels


def _mix_moved(mix: Mix, moves: Moves) -> Mix:
    if not any(part.tile in moves for part in mix.parts):
        return mix
    weights: dict[MixPart, float] = defaultdict(float)
    for part in mix.parts:
        plain = replace(part, weight=1.0)
        if part.tile is not None and part.tile in moves:
            ref, first = moves[part.tile]
            plain = replace(plain, tile=ref, orientation=turned_further(first, part.orientation))
        weights[plain] += part.weight
    return replace(mix, parts=tuple(replace(part, weight=weight) for part, weight in weights.items()))


def _swatch_moved(swatch: Swatch, moves: Moves) -> Swatch:
    if not any(ref in moves for ref in swatch.tiles):
        return swatch
    if swatch.tile is not None:
        return replace(swatch, tile=moves[swatch.tile][0])
    assert swatch.clip is not None  # it is either
    tiles = tuple(moves[ref][0] if ref in moves else ref for ref in swatch.clip.tiles)

    def moved(one: ClipThing) -> ClipThing:
        ref = one.thing.tile
        return one if ref is None or ref not in moves else replace(one, thing=replace(one.thing, tile=moves[ref][0]))

    things = tuple(moved(one) for one in swatch.clip.things)
    return replace(swatch, clip=replace(swatch.clip, tiles=tiles, things=things))


def _lookup(palette: Palette, moves: Moves) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """New palette numbers, (N + 1,) int32, and how their tiles look like the old ones."""
    numbers = np.arange(len(palette.refs) + 1, dtype=np.int32)
    turns = np.zeros(len(numbers), dtype=np.int32)
    for number, ref in enumerate(list(palette.refs), start=1):
        if ref in moves:
            numbers[number] = palette.number(moves[ref][0])
            turns[number] = moves[ref][1]
    return numbers, turns


def _cells_moved(plane: NDArray[np.generic], numbers: NDArray[np.int32], turns: NDArray[np.int32]) -> NDArray[np.int32]:
    together = np.array([[turned_further(one, other) for other in range(8)] for one in range(8)], dtype=np.int32)
    codes = np.asarray(plane, dtype=np.int32)
    old = codes & NUMBER_MASK
    orientation = together[turns[old], (codes >> ORIENTATION_SHIFT) & 7]
    return np.where(codes > 0, numbers[old] | orientation << ORIENTATION_SHIFT, codes).astype(np.int32)
