"""Pair sets: made by hand, or read off a map that lies there or off the pixels along the tiles' borders."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.board import Board
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import by_id
from knitground.core.grow.agreeing import SIDE_STEPS
from knitground.core.grow.pairs import MOST_TILES, PairSet, PairTile
from knitground.core.joins.borders import steps_between
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef, orient

MOST_STEP = 1.3
"""How many times as far as inside them colours of tiles may step where they meet, if these are to go on."""


def add_pair_set(document: Document, name: str) -> str:
    """Adds a set without tiles; returns its id."""
    project, name = document.project, name.strip()[:80]
    if not name:
        raise BadRequest("Pairs need a name; write one such as “cliff”.")
    made = PairSet(fresh_id(name, (*project.join_sets, *project.pair_sets)), name)
    put(document, f"add {name}", "pair_sets", made)
    return made.id


def remove_pair_set(document: Document, set_id: str) -> None:
    """Takes a set out; raises BadRequest where a recipe still fills with it."""
    project = document.project
    gone = by_id(project.pair_sets, set_id)
    users = [one.name for one in project.recipes if any(step.set_id == set_id for step in one.steps)]
    if users:
        raise BadRequest(f"“{gone.name}” is laid by the recipe “{users[0]}”; take it out there first.")
    kept = tuple(one for one in project.pair_sets if one is not gone)
    document.define(f"remove {gone.name}", replace(project, pair_sets=kept))


def put_pairs(document: Document, label: str, pair_set: PairSet) -> None:
    """Exchanges a set for a changed one; raises BadRequest where it has too many tiles."""
    if len(pair_set.tiles) > MOST_TILES:
        raise BadRequest(f"Pairs hold {MOST_TILES} tiles at most; take some out, or make a second set.")
    put(document, label, "pair_sets", pair_set)


def with_tiles(pair_set: PairSet, refs: Iterable[TileRef | None]) -> PairSet:
    """The set with further tiles as they are drawn; none stands for a bare cell."""
    return pair_set.with_tiles_added(PairTile(ref) for ref in refs)


def read_off_map(
    derived: Derived, pair_set: PairSet, ground_id: str, layer_id: str, within: Shape | None = None
) -> PairSet:
    """The set with all tiles of a layer as it shows them, and with every two that lie side by side there.

    Bare cells count as a tile where something lies beside them.

    Parameters
    ----------
    within : Shape, optional
        Only what lies in these cells; all of the ground if not given.

    Raises
    ------
    BadRequest
        If no tile lies there, or too many different ones.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    board = ground.board
    codes = np.maximum(derived.knitted(ground_id).codes(layer_id, board.whole), 0)
    mine = np.full(codes.shape, within is None)
    if within is not None:
        mine[within.window.rows, within.window.columns] = within.mask
    laid = np.unique(codes[mine & (codes > 0)])
    if not laid.size:
        raise BadRequest(f"No tile lies on “{ground.layer(layer_id).name}” there; lay some, or choose another layer.")
    met = [_met(board, codes, mine, step) for step in (SIDE_STEPS[1], SIDE_STEPS[2])]
    known = np.unique(np.concatenate([laid, *(pairs.ravel() for pairs in met)]))
    tiles = {code: _tile(derived, code) for code in known.tolist()}
    after = pair_set.with_tiles_added(tiles.values())
    if len(after.tiles) > MOST_TILES:
        raise BadRequest(f"{len(after.tiles)} different tiles lie there, and {MOST_TILES} can be paired; select fewer.")
    places = {one: place for place, one in enumerate(after.tiles)}
    signs = np.zeros((2, len(places), len(places)), dtype=bool)
    for way, pairs in enumerate(met):
        for one, other in pairs.tolist():
            signs[way, places[tiles[one]], places[tiles[other]]] = True
    return after.with_pairs(signs[0], signs[1], also=True)


def _met(board: Board, codes: NDArray[np.int32], mine: NDArray[np.bool_], step: tuple[int, int]) -> NDArray[np.int32]:
    """The different pairs of codes that lie a step from one another, (N, 2) int32.

    Parameters
    ----------
    codes : (H, W) int32
    mine : (H, W) bool
        The cells that count.
    """
    rows, columns = np.nonzero(mine)
    ys, xs = board.flat("cells", rows, columns)
    there = np.broadcast_to(board.there("cells", ys + step[0], xs + step[1]), rows.shape)
    rows, columns, ys, xs = rows[there], columns[there], ys[there], xs[there]
    other_rows, other_columns = board.stored("cells", ys + step[0], xs + step[1])
    other_rows, other_columns = other_rows % board.height, other_columns % board.width
    both = mine[other_rows, other_columns]
    pairs = np.unique(np.stack([codes[rows, columns], codes[other_rows, other_columns]], axis=1)[both], axis=0)
    # Where a tile borders on bare cells, these may also lie side by side; elsewhere they are no part of the art.
    return pairs if ((pairs > 0).sum(axis=1) == 1).any() else pairs[(pairs > 0).all(axis=1)]


def _tile(derived: Derived, code: int) -> PairTile:
    if code == 0:
        return PairTile(None)
    return PairTile(derived.document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT)


def read_off_pixels(derived: Derived, pair_set: PairSet, most: float = MOST_STEP) -> PairSet:
    """The set with every two of its tiles paired whose pixels go on into one another where they meet.

    Parameters
    ----------
    most : float
        How many times as far as inside the tiles their colours may step there.

    Raises
    ------
    BadRequest
        If it has no tiles, or tiles of different sizes.
    """
    pixels: dict[int, NDArray[np.uint8]] = {}
    for number, one in enumerate(pair_set.tiles):
        drawn = derived.tile(one.tile) if one.tile is not None else None
        if drawn is not None:
            pixels[number] = orient(np.asarray(drawn), one.orientation)
    if not pixels:
        raise BadRequest("There are no tiles to compare yet; put some in first.")
    if len({drawn.shape for drawn in pixels.values()}) > 1:
        raise BadRequest("The tiles are of different sizes; only those of one size can be compared.")
    there, tiles = list(pixels), np.stack(list(pixels.values()))
    first = next(one.tile for number, one in enumerate(pair_set.tiles) if number in pixels and one.tile is not None)
    steps = steps_between(tiles, derived.document.project.cuts[first.sheet, first.cut].shape)
    east, south = (pair_set.allowed[way].copy() for way in (1, 2))
    east[np.ix_(there, there)] = steps.east <= most
    south[np.ix_(there, there)] = steps.south <= most
    return pair_set.with_pairs(east, south)
