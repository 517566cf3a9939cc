"""Finding sets on a whole cut: blocks, rows and runs of cells that together show every combination of two terrains.

What each tile shows near its corners and edges is worked out once. Blocks in which nearly all combinations come out
different (`blocks`) are looked at closely, as `infer_labels` reads them. Of blocks that overlap the clearest is kept. A
sheet that holds the combinations of more terrains in one piece is tried as a whole. What shows the same as a tile of a
set (`variants`) joins it, wherever it lies; so does a weaker set of which that holds for a good part.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.beneath import with_plain
from knitground.core.joins.blocks import (
    KINDS,
    LOOKED_AT,
    best_apart,
    features_of,
    likely_blocks,
)
from knitground.core.joins.brimful import brimful_sets
from knitground.core.joins.found import (
    FULL,
    FoundSet,
    apart_from,
    cells_of,
    covered_by_cells,
    lacks_surroundings,
    thin,
    with_own_faces,
    without_cells,
    without_hollow,
)
from knitground.core.joins.islands import Island, island_sets, not_of_islands
from knitground.core.joins.lines import lines_beside
from knitground.core.joins.lines_of_cut import LinesOfCut
from knitground.core.joins.look import Floats, looks_of, seen_colours
from knitground.core.joins.moving import with_frames
from knitground.core.joins.nooks import read_nooks
from knitground.core.joins.ordered import SIXTEEN, drawn_as_one, ordered_sets, with_alike
from knitground.core.joins.plain_ground import without_plain_ground
from knitground.core.joins.reach import stands_clear
from knitground.core.joins.read_closely import completed, read_set, sets_of_more
from knitground.core.joins.rim_tiles import read_rim_tiles
from knitground.core.joins.rimmed import find_rimmed
from knitground.core.joins.rims import read_rims
from knitground.core.joins.sides import Sides
from knitground.core.joins.standing import STANDING_AT, standing_sets
from knitground.core.joins.taking_in import each_to_nearest, tiles_of, with_variants
from knitground.core.joins.variants import Matched
from knitground.core.sheet.cut import TileShape
from knitground.core.sheet.enlarged import tiles_enlarged

_SURE, _SURELY = 0.45, 0.6
_MORE = 1.5
"""How many times as many tiles as a set in order one has of which that may be a part."""
_MIXED = 0.5
"""How much less a set is worth that takes two terrains for one."""
_MOSTLY, _FEW_THIN = 0.8, 2
"""What share of the tiles of a set a block has to have, to be found in its place; and how many thin ones."""


def find_sets(
    tiles: NDArray[np.uint8],
    held: NDArray[np.bool_],
    *,
    shape: TileShape = "square",
    progress: Callable[[float], None] = lambda share: None,
) -> list[FoundSet]:
    """The sets of a cut, the most certain first; no two share a cell, but for tiles that show one terrain alone.

    Parameters
    ----------
    tiles : (R, C, h, w, 4) uint8
        RGBA, straight alpha.
    held : (R, C) bool
        Which cells hold a tile.
    shape : TileShape
    progress : callable, optional
        Is told the share done from 0 to 1; may raise to stop.
    """
    times = tiles_enlarged(tiles[held]) if held.any() else 1
    tiles = tiles[:, :, ::times, ::times]
    found = _found(tiles, held, shape, progress)
    return with_frames(found, tiles, held, lambda some: _found(tiles, some, shape, lambda share: progress(1.0)))


def _found(
    tiles: NDArray[np.uint8], held: NDArray[np.bool_], shape: TileShape, progress: Callable[[float], None]
) -> list[FoundSet]:
    """The sets among some cells of a cut."""
    spots = np.argwhere(held)
    number = np.where(held, np.cumsum(held).reshape(held.shape) - 1, -1).astype(np.intp)
    blocks = _blocks(tiles[held], spots, number) if shape == "square" else []
    if faced := [one for one in blocks if len(one.faces)]:
        # Walls and cliffs, which their faces tell, with what belongs to them.
        return _and_others(with_own_faces(_whole(faced, set(), tiles[held], number)), tiles, held, shape, progress)
    bare = without_plain_ground(drawn := tiles[held])
    colours = seen_colours(drawn, shape)
    lines_of = LinesOfCut(drawn, bare, colours, number, shape)
    if len(spots) < 12:
        return lines_of.with_all(_whole(blocks, set(), drawn, number))
    features = {kind: features_of(colours, kind) for kind in KINDS}
    progress(0.2)
    ordered = list(ordered_sets(colours, number))
    taken = [tile for one in ordered for tile in tiles_of(one, number)]
    # What lies in order may still be a part of more, but is nothing else.
    likely = sorted(
        (
            one for kind in KINDS for one in likely_blocks(kind, number, features[kind])
            if kind == "full" or not np.isin(one.tiles, taken).any()
        ),
        key=lambda one: -one.score,
    )  # fmt: skip
    progress(0.4)
    read, islands, rings = list[FoundSet](), list[FoundSet](), list[Island]()
    standing = stands_clear(tiles[held], shape)
    for done, one in enumerate(best_apart(likely, len(spots))):
        progress(0.4 + 0.4 * done / LOOKED_AT)
        found = read_set(tiles[held], colours, spots, one.tiles, one.kind, shape, 2, only_colours=standing, bare=bare)
        read += [] if found is None else [found]
    if standing:
        for done, found in enumerate(standing_sets(tiles[held], spots, number)):
            progress(0.8 + 0.2 * done / STANDING_AT)
            read.append(found)
    elif shape == "square":
        for island in island_sets(number, features["corner"], colours):
            found = read_set(tiles[held], colours, spots, island.tiles, "corner", shape, 2)
            if found is not None and found.confidence >= _SURE:
                islands, rings = [*islands, found], [*rings, island]
    read += sets_of_more(tiles[held], colours, spots, held, shape)
    read = [*islands, *not_of_islands(read, rings, colours, number)]
    art = (tiles[held][..., 3] > 0).mean(axis=(1, 2))
    # Art that stands on clear ground differs from tile to tile by more than one meeting from another.
    lines = [] if standing else lines_of.on_a_ground(blocks)
    # What is drawn as a line on the ground is no variant of that.
    others = lines_beside([*read, *ordered], lines)
    ordered = _in_order(ordered, others, tiles[held], colours, number, blocks, read, islands, standing=standing)
    read, blocks = apart_from(read, ordered), apart_from(blocks, ordered)
    if alone := [one for one in blocks if _stands_alone(one, read, art, number)]:
        # Whatever else has some of their tiles is a set by chance.
        alone = _whole(alone, cells_of(ordered), tiles[held], number)
        return _and_others([*alone, *ordered], tiles, held, shape, progress, 0.8)
    kept = [without_hollow(one, art, number) for one in _kept(read)]
    if not standing:
        kept = [with_plain(one, tiles[held], colours, number, shape) for one in kept]
        kept = [completed(one, [*kept, *ordered], tiles[held], spots, colours, number, shape) for one in kept]
    lines = lines_beside([*kept, *ordered], lines) if kept else []
    if kept and not standing:
        kept = [without_cells(one, lines) for one in kept]
        others = [*lines, *ordered, *apart_from(blocks, kept)]
        kept = with_variants(kept, others, tiles[held], colours, number, lambda share: progress(0.8 + 0.2 * share))
    kept = _not_of_blocks([without_hollow(one, art, number) for one in kept], blocks, tiles[held], number)
    kept += lines_of.with_plain(lines) + ordered
    kept += _whole(apart_from(blocks, kept), cells_of(kept), tiles[held], number)
    kept = lines_of.with_all(kept)
    progress(1.0)
    return sorted(kept, key=lambda one: -one.confidence)


def _and_others(
    sets: list[FoundSet],
    tiles: NDArray[np.uint8],
    held: NDArray[np.bool_],
    shape: TileShape,
    progress: Callable[[float], None],
    done: float = 0.0,
) -> list[FoundSet]:
    """Sets that are told by themselves, and those among all other cells; so much of the work is done already."""
    cells = np.array([cell for one in sets for cell in (*one.cells, *one.faces.reshape(-1, 2), *one.hanging[:, 0])])
    others = held.copy()
    others[cells[:, 1], cells[:, 0]] = False
    found = _found(tiles, others, shape, lambda share: progress(done + (1 - done) * share))
    return sorted([*sets, *found], key=lambda one: -one.confidence)


def _in_order(
    found: list[FoundSet],
    lines: list[FoundSet],
    tiles: NDArray[np.uint8],
    colours: Floats,
    number: NDArray[np.intp],
    blocks: list[FoundSet],
    read: list[FoundSet],
    islands: list[FoundSet],
    *,
    standing: bool,
) -> list[FoundSet]:
    """Sets that lie in order, with their variants; but for what is part of more, of a block or a set that was read.

    What islands and other sure sets hold is no variant: they may have the only plain tile of what both share.
    """
    found = apart_from(found, [one for one in read if len(one.cells) >= _MORE * SIXTEEN and one.confidence >= _SURE])
    if any(drawn_as_one(one) and not apart_from([one], blocks) for one in found):
        mine = [cells_of([one]) for one in found]
        theirs = [cells_of([one]) for one in _whole(blocks, set(), tiles, number)]
        more = [cells for cells in theirs if sum(bool(cells & one) for one in mine) == 1]
        found = [
            one for one, cells in zip(found, mine, strict=True)
            if not (drawn_as_one(one) and any(cells <= block or (cells & block and block - cells) for block in more))
        ]  # fmt: skip
    found = with_alike(found, colours, number)
    if found and not standing:
        others = [one for one in read if one.confidence >= _SURELY or one in islands]
        found = with_variants(found, [*lines, *apart_from(others, found)], tiles, colours, number, lambda share: None)
    return found


def _blocks(tiles: NDArray[np.uint8], spots: NDArray[np.intp], number: NDArray[np.intp]) -> list[FoundSet]:
    """Blocks that are painted by the cell: on clear ground by where they end, others by what rims them."""
    blocks = _kept(list(_rimmed(tiles, spots, number)))
    return blocks + apart_from(_kept(list(brimful_sets(tiles, number))), blocks)


def _rimmed(tiles: NDArray[np.uint8], spots: NDArray[np.intp], number: NDArray[np.intp]) -> Iterator[FoundSet]:
    """Blocks on clear ground that are painted by the cell."""
    for block in find_rimmed(tiles, number):
        at = spots[:, ::-1]
        yield FoundSet(
            "cell", at[block.tiles], block.labels, block.sure, covered_by_cells(block.labels), block.confidence,
            at[block.hanging], block.instead,
        )  # fmt: skip


def _kept(read: list[FoundSet]) -> list[FoundSet]:
    """The most certain, of those that share cells the one with more of both."""
    kept: list[FoundSet] = []
    taken: set[tuple[int, ...]] = set()
    for found in sorted(read, key=_merit, reverse=True):
        cells = set(map(tuple, found.cells.tolist()))
        if found.confidence >= _SURE and not cells & taken:
            kept.append(found)
            taken |= cells
    return sorted(kept, key=lambda one: -one.confidence)


def _stands_alone(block: FoundSet, read: list[FoundSet], art: Floats, number: NDArray[np.intp]) -> bool:
    """Whether a block surely stands on clear ground, and none of the sets that were read is made of its tiles."""
    mine = cells_of([block])
    on_clear = block.confidence >= _SURELY and art[tiles_of(block, number)].min() < FULL
    return on_clear and all(len(mine & cells_of([one])) < _MOSTLY * len(mine) for one in read)


def _merit(found: FoundSet) -> float:
    """How good a set is among those that share its cells; what only shows again what others do adds nothing."""
    different = len(np.unique(found.labels, axis=0))
    return float(found.confidence * np.sqrt(different) * (1 - _MIXED * min(1.0, found.mixed)))


def _not_of_blocks(
    sets: list[FoundSet], blocks: list[FoundSet], tiles: NDArray[np.uint8], number: NDArray[np.intp]
) -> list[FoundSet]:
    """Sets, but for those that a block explains better, as it has nearly all of their tiles.

    With thin ones a block shows all combinations of edges. Whatever shows those of corners is such a set, also where
    its tiles could be laid by the cell, unless the block has thin ones besides, which no corners tell apart, or fills
    its cells and nothing shows what would lie round it alone.
    """

    def gives_way(one: FoundSet) -> bool:
        mine, others = cells_of([one]), [other for other in sets if other is not one and other.kind != "edge"]
        near = [block for block in apart_from(blocks, others) if mine & cells_of([block])]
        for block in _whole(near, cells_of(others), tiles, number):
            enough = one.kind == "edge" or thin(block.labels).sum() >= _FEW_THIN
            lone = lacks_surroundings(one) and (tiles[tiles_of(block, number)][..., 3] > 0).mean() >= FULL
            if len(mine & cells_of([block])) >= _MOSTLY * len(mine) and (enough or lone):
                return True
        return False

    return [one for one in sets if one.kind not in ("edge", "corner") or not gives_way(one)]


def _whole(
    blocks: list[FoundSet], taken: set[tuple[int, ...]], tiles: NDArray[np.uint8], number: NDArray[np.intp]
) -> list[FoundSet]:
    """Blocks with their inner corners, what is thin, and variants, from what no set has taken."""
    rims = read_rims(tiles) if blocks else None
    if rims is None:
        return blocks
    sides = Sides(tiles)
    below = {tuple(at) for one in blocks for at in (*one.hanging[:, 0].tolist(), *one.faces.reshape(-1, 2).tolist())}
    gone = np.array([number[row, column] for column, row in taken | cells_of(blocks) | below], dtype=np.intp)
    free = np.setdiff1d(np.arange(len(tiles)), gone)
    matches = []
    for block in blocks:
        mine = tiles_of(block, number)
        if rims.labels[mine].all():  # it fills its cells, and was found with all that it has
            matches.append(Matched(rims.labels[free], np.full(len(free), np.inf)))
            continue
        nooks = read_nooks(sides, rims.labels, mine, block.labels, free)
        rim = read_rim_tiles(tiles, rims.labels, mine, block.labels, free)
        inside = np.isfinite(nooks.apart)
        labels = np.where(inside[:, None], nooks.labels, rim.labels)
        matches.append(Matched(labels, np.where(inside, nooks.apart, rim.apart)))
    whole = each_to_nearest(blocks, matches, free, number, looks_of(tiles))
    return [replace(one, covered=covered_by_cells(one.labels)) for one in whole]
