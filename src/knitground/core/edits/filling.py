"""Filling a layer to fit: tiles of a join set so that every neighbour agrees, by weight, round what is held."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance, choose, seed_for
from knitground.core.errors import BadRecipe
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.agreeing import SIDE_STEPS, allowed, steps_of, weights_of
from knitground.core.grow.fitting import CannotAgree, Field, Held, Rules, fill
from knitground.core.grow.pairs import PairSet
from knitground.core.grow.places import closed
from knitground.core.joins.lattice import PLANES, SPOTS
from knitground.core.joins.sets import MIDDLE, JoinKind, JoinSet, Labels, letters
from knitground.core.layers.layer import PINS, Layer, Planes
from knitground.core.layers.tiles import CELLS
from knitground.core.project.derived import Derived

Progress = Callable[[float], None]
Mask = NDArray[np.bool_]
_NEAR = 12
"""How many cells off something held is still named where nothing agrees."""


class Wanted(NamedTuple):
    """What is to be filled.

    Attributes
    ----------
    cells : (H, W) bool, optional
        Where; everywhere if not given. What lies elsewhere is held.
    held : bool
        Whether tiles of the set that lie where it fills stay, too.
    wraps : bool
        Whether tiles also agree over the borders of a ground that does not go round.
    """

    cells: Mask | None = None
    held: bool = False
    wraps: bool = False


class _Known(NamedTuple):
    """What fills: what may lie in a cell, which of that side by side, and what is known of what lies there already.

    Attributes
    ----------
    name : str
    steps : D steps
    rules : Rules
        Of K patterns: combinations of labels, or tiles of a pair set.
    held : mapping of a code, or of a terrain of a cell layer, to a row of `may`
    may : (R, K) bool
    variants : list of K lists of (code, weight)
        The tiles of each pattern; none for a bare cell.
    says : callable
        What a pattern is called in sentences.
    labels : (K, P) uint8
        What each pattern shows at its places; nothing for pair sets.
    """

    name: str
    steps: Sequence[tuple[int, int]]
    rules: Rules
    held: Mapping[int, int]
    may: Mask
    variants: list[list[tuple[int, float]]]
    says: Callable[[int], str]
    labels: NDArray[np.uint8]


def filled_planes(
    derived: Derived, ground_id: str, layer_id: str, set_id: str, seed: int, wanted: Wanted = Wanted(),
    *, planes: Planes | None = None, progress: Progress = lambda share: None,
) -> dict[str, Plane]:  # fmt: skip
    """The planes of a layer after it is filled with the tiles of a set so that all neighbours agree.

    On a layer of single tiles the tiles are laid; on one that is knit from the set the terrains that they show are
    painted, so that its tiles go on to follow.

    Parameters
    ----------
    planes : mapping of name to Plane, optional
        What lies on the layer; as the document says if not given.

    Raises
    ------
    BadRecipe
        If the layer can't take the set, or there is no way to lay tiles that agree.
    """
    project = derived.document.project
    ground = by_id(project.grounds, ground_id)
    layer = ground.layer(layer_id)
    join_set = next((one for one in project.join_sets if one.id == set_id), None)
    if layer.locked:
        raise BadRecipe(f"“{layer.name}” is locked; unlock it to fill it.")
    known = _of_joins(derived, layer, join_set) if join_set else _of_pairs(derived, by_id(project.pair_sets, set_id))
    if not layer.holds_tiles and (join_set is None or layer.set_id != set_id):
        raise BadRecipe(
            f"“{layer.name}” is not knit from “{known.name}”; choose a layer that is, or one of single tiles."
        )
    if "corners" not in ground.board.painted:
        raise BadRecipe(f"The cells of “{ground.name}” meet over six sides, and “{known.name}” tells of four.")
    board = _board(ground, wraps=wanted.wraps)
    planes = derived.document.state.planes[ground_id][layer_id] if planes is None else planes
    if layer.holds_tiles or join_set is None or join_set.kind == "cell":
        lying = _lying_codes(np.asarray(planes[layer.area_plane]), known)
    else:
        lying = _lying_labels(board, planes, join_set.kind, known)
    free = np.ones((board.height, board.width), dtype=bool) if wanted.cells is None else wanted.cells.copy()
    if wanted.held:
        free &= lying < 0
    elif PINS in planes:
        free &= (np.asarray(planes[PINS]) == 0) | (lying < 0)
    if not free.any():
        raise BadRecipe("Nothing is free to be filled; rub something out, or fill elsewhere.")
    chosen = _fitted(board, known, free, lying, seed, progress)
    if not layer.holds_tiles and join_set is not None:
        return _painted(board, planes, join_set.kind, known.labels[chosen[free]], free)
    codes = np.asarray(planes[CELLS]).copy()
    codes[free] = _codes(known, chosen, free, seed_for(seed, "variants"))
    return {CELLS: Plane.of(codes)}


def _board(ground: Ground, *, wraps: bool) -> Board:
    if not wraps:
        return ground.board
    round_about = replace(ground, wraps_x=True, wraps_y=True).board
    if round_about.problem:
        raise BadRecipe(f"“{ground.name}” can't go round: {round_about.problem}.")
    return round_about


def _of_joins(derived: Derived, layer: Layer, join_set: JoinSet) -> _Known:
    coverage = derived.coverage(join_set)
    if not coverage.tiles:
        raise BadRecipe(f"“{join_set.name}” has no tile that can be laid; label some first.")
    combinations: list[Labels] = sorted(coverage.tiles)
    weights = weights_of([sum(derived.weight(one.ref) for one in coverage.tiles[labels]) for labels in combinations])
    if join_set.kind == "cell" or join_set.bare:
        # Bare cells are wanted as often as a usual combination.
        combinations.insert(0, join_set.blank)
        weights = np.concatenate([[weights.mean()], weights])
    variants = [
        [(derived.code(one.ref, one.orientation), derived.weight(one.ref)) for one in coverage.tiles.get(labels, ())]
        for labels in combinations
    ]
    may = np.eye(len(combinations), dtype=bool)
    held = {code: number for number, tiles in enumerate(variants) for code, _ in tiles}
    if not layer.holds_tiles and join_set.kind == "cell":
        middles = np.array([labels[MIDDLE] for labels in combinations])
        numbers = np.unique(middles)
        held, may = {one: row for row, one in enumerate(numbers.tolist())}, middles[None] == numbers[:, None]
    return _Known(
        join_set.name, steps_of(join_set.kind),
        Rules(allowed(join_set.kind, combinations, join_set.ground), weights), held, may, variants,
        lambda number: letters(join_set, combinations[number]), np.array(combinations, dtype=np.uint8),
    )  # fmt: skip


def _of_pairs(derived: Derived, pair_set: PairSet) -> _Known:
    usable = derived.usable([one.tile for one in pair_set.tiles if one.tile is not None])
    there = [number for number, one in enumerate(pair_set.tiles) if one.tile is None or one.tile in usable]
    tiles = [pair_set.tiles[number] for number in there]
    if not any(one.tile is not None for one in tiles):
        raise BadRecipe(
            f"“{pair_set.name}” has no tile that can be laid; put some in, and say what may lie beside them."
        )
    shares = [derived.weight(one.tile) for one in tiles if one.tile is not None]
    usual = sum(shares) / len(shares)
    weights = weights_of([derived.weight(one.tile) if one.tile is not None else usual for one in tiles])
    codes = [derived.code(one.tile, one.orientation if one.tile is not None else 0) for one in tiles]
    return _Known(
        pair_set.name, SIDE_STEPS, Rules(pair_set.allowed[:, there][:, :, there], weights),
        {code: number for number, code in enumerate(codes)}, np.eye(len(tiles), dtype=bool),
        [[(code, 1.0)] if code else [] for code in codes],
        lambda number: derived.tile_name(codes[number]) if codes[number] else "a bare cell",
        np.zeros((len(tiles), 0), dtype=np.uint8),
    )  # fmt: skip


def _lying_labels(board: Board, planes: Planes, kind: JoinKind, known: _Known) -> NDArray[np.int32]:
    """What is painted round each cell as a row of `_Known.may`, (H, W) int32; -1 where nothing that the set knows."""
    numbers = {tuple(labels): number for number, labels in enumerate(known.labels.tolist())}
    parts = [board.around(planes[on], on, [step], board.whole)[0] for on, step in SPOTS[kind]]
    rows, places = np.unique(np.stack(parts, axis=-1).reshape(-1, len(parts)), axis=0, return_inverse=True)
    found = np.array([numbers.get(tuple(row), -1) for row in rows.tolist()], dtype=np.int32)
    return found[places.ravel()].reshape(board.height, board.width)


def _lying_codes(values: NDArray[Any], known: _Known) -> NDArray[np.int32]:
    """What lies in each cell as a row of `_Known.may`, (H, W) int32; -1 where nothing that the set knows.

    Parameters
    ----------
    values : (H, W) int
        Cell codes, or terrains of a cell layer.
    """
    codes, places = np.unique(values, return_inverse=True)
    found = np.array([known.held.get(code, -1) if code else -1 for code in codes.tolist()], dtype=np.int32)
    return found[places.reshape(values.shape)]


def _fitted(
    board: Board, known: _Known, free: Mask, lying: NDArray[np.int32], seed: int, progress: Progress
) -> NDArray[np.int32]:
    """A combination for each cell that is free, (H, W) int32; -1 in all others."""
    ys, xs = board.flat("cells", *np.nonzero(free))
    beside_free = np.zeros(free.shape, dtype=bool)
    for down, right in known.steps:
        there = board.there("cells", ys + down, xs + right)
        beside_free[_stored(board, ys[there] + down, xs[there] + right)] = True
    # Of what is not free only what lies beside it counts, and what the set knows.
    near = free | (beside_free & (lying >= 0))
    places = np.argwhere(near)
    ys, xs = board.flat("cells", places[:, 0], places[:, 1])
    numbers = np.full(free.shape, -1, dtype=np.int32)
    numbers[near] = np.arange(len(places))
    beside = np.full((len(known.steps), len(places)), -1, dtype=np.int32)
    for way, (down, right) in enumerate(known.steps):
        there = board.there("cells", ys + down, xs + right)
        beside[way, there] = numbers[_stored(board, ys[there] + down, xs[there] + right)]
    kept = np.flatnonzero(~free[near])
    held = Held(kept, known.may[lying[near][kept]])
    try:
        chosen = fill(known.rules, Field(beside, places.astype(np.int32)), held, seed, progress=progress)
    except CannotAgree as problem:
        raise BadRecipe(_told(known, places, beside, held, problem)) from None
    found = np.full(free.shape, -1, dtype=np.int32)
    found[near] = chosen
    found[~free] = -1
    return found


def _stored(board: Board, ys: NDArray[np.intp], xs: NDArray[np.intp]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of flat cells, brought back inside where the ground goes round.

    Parameters
    ----------
    ys, xs : (N,) intp
    """
    rows, columns = board.stored("cells", ys, xs)
    return rows % board.height, columns % board.width


def _told(known: _Known, places: NDArray[np.intp], beside: NDArray[np.int32], held: Held, problem: CannotAgree) -> str:
    """Why there is no way, with the cell and what is held round it."""
    row, column = places[problem.cell].tolist()
    held_one = held.may.sum(axis=1) == 1
    cells, rows = held.cells[held_one], held.may[held_one]
    away = np.abs(places[cells] - places[problem.cell]).max(axis=1) if len(cells) else np.zeros(0)
    beside_it = np.isin(cells, beside[:, problem.cell])
    # What lies beside it is to blame; or else the nearest two that are held, between which nothing fits.
    blamed = np.flatnonzero(beside_it) if beside_it.any() else np.argsort(away, kind="stable")[:2]
    near = [
        f"{known.says(int(rows[one].argmax()))} at column {places[cells[one]][1]}, row {places[cells[one]][0]}"
        for one in blamed.tolist()
        if away[one] <= _NEAR
    ]
    if near:
        where = "with what lies beside it" if beside_it.any() else "between what is held near it"
        return (
            f"No tile of “{known.name}” agrees at column {column}, row {row} {where} ({'; '.join(near)}): "
            "rub one of these out, or add the tile that is missing."
        )
    return (
        f"“{known.name}” can't fill this so that all agrees; it came to nothing near column {column}, row {row}. "
        "Add tiles for what is missing, let more of them lie side by side, or free what is held there."
    )


def _codes(known: _Known, chosen: NDArray[np.int32], free: Mask, seed: int) -> NDArray[np.int32]:
    """The cell codes of free cells, (F,) int32: of several tiles of a pattern one by weighted chance."""
    rows, columns = np.nonzero(free)
    numbers, drawn = chosen[free], chance(seed, rows, columns)
    codes = np.zeros(len(numbers), dtype=np.int32)
    for number in np.unique(numbers).tolist():
        variants = known.variants[number]
        if variants:
            weights = [weight for _, weight in variants]
            mine = numbers == number
            which = choose(weights if any(weights) else [1.0] * len(weights), drawn[mine])
            codes[mine] = np.array([code for code, _ in variants])[which]
    return codes


def _painted(board: Board, planes: Planes, kind: JoinKind, labels: NDArray[np.uint8], free: Mask) -> dict[str, Plane]:
    """What has to be painted on a knit layer so that it shows the labels of its free cells, (F, P) uint8."""
    ys, xs = board.flat("cells", *np.nonzero(free))
    period = board.period
    values = {on: np.asarray(planes[on])[: period[0], : period[1]].copy() for on in PLANES[kind]}
    for place, (on, (down, right)) in enumerate(SPOTS[kind]):
        rows, columns = board.stored(on, ys + down, xs + right)
        height, width = values[on].shape
        values[on][rows % height, columns % width] = labels[:, MIDDLE if kind == "cell" else place]
    return {on: Plane.of(closed(plane, planes[on].shape)) for on, plane in values.items()}
