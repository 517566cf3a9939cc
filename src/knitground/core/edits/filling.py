"""Filling a layer to fit: tiles of a join set so that every neighbour agrees, by weight, round what is held."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance, choose, seed_for
from knitground.core.errors import BadRecipe
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.agreeing import allowed, steps_of, weights_of
from knitground.core.grow.fitting import CannotAgree, Field, Held, Rules, fill
from knitground.core.grow.places import closed
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.lattice import PLANES, SPOTS
from knitground.core.joins.sets import MIDDLE, JoinSet, Labels, letters
from knitground.core.layers.layer import PINS, Layer, Planes
from knitground.core.layers.tiles import CELLS
from knitground.core.project.derived import Derived

Progress = Callable[[float], None]
Mask = NDArray[np.bool_]


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
    """A set, its combinations and their weights, and which combinations each cell code or painted number may be.

    Attributes
    ----------
    combinations : list of K labels
    weights : (K,) float64
    held : mapping of a code, or of a terrain of a cell layer, to a row of `may`
    may : (R, K) bool
    """

    join_set: JoinSet
    coverage: Coverage
    combinations: list[Labels]
    weights: NDArray[np.float64]
    held: Mapping[int, int]
    may: Mask


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
    ground = by_id(derived.document.project.grounds, ground_id)
    layer, join_set = ground.layer(layer_id), by_id(derived.document.project.join_sets, set_id)
    if layer.locked:
        raise BadRecipe(f"“{layer.name}” is locked; unlock it to fill it.")
    if not layer.holds_tiles and layer.set_id != set_id:
        raise BadRecipe(
            f"“{layer.name}” is not knit from “{join_set.name}”; choose a layer that is, or one of single tiles."
        )
    if "corners" not in ground.board.painted:
        raise BadRecipe(f"The cells of “{ground.name}” meet over six sides, and “{join_set.name}” tells of four.")
    board = _board(ground, wraps=wanted.wraps)
    planes = derived.document.state.planes[ground_id][layer_id] if planes is None else planes
    known = _known(derived, layer, join_set)
    lying = _lying(board, layer, planes, known)
    free = np.ones((board.height, board.width), dtype=bool) if wanted.cells is None else wanted.cells.copy()
    if wanted.held:
        free &= lying < 0
    elif PINS in planes:
        free &= (np.asarray(planes[PINS]) == 0) | (lying < 0)
    if not free.any():
        raise BadRecipe("Nothing is free to be filled; rub something out, or fill elsewhere.")
    chosen = _fitted(board, known, free, lying, seed, progress)
    if not layer.holds_tiles:
        return _painted(board, layer, planes, known, chosen, free)
    codes = np.asarray(planes[CELLS]).copy()
    codes[free] = _codes(derived, known, chosen, free, seed_for(seed, "variants"))
    return {CELLS: Plane.of(codes)}


def _board(ground: Ground, *, wraps: bool) -> Board:
    if not wraps:
        return ground.board
    round_about = replace(ground, wraps_x=True, wraps_y=True).board
    if round_about.problem:
        raise BadRecipe(f"“{ground.name}” can't go round: {round_about.problem}.")
    return round_about


def _known(derived: Derived, layer: Layer, join_set: JoinSet) -> _Known:
    coverage = derived.coverage(join_set)
    if not coverage.tiles:
        raise BadRecipe(f"“{join_set.name}” has no tile that can be laid; label some first.")
    combinations = sorted(coverage.tiles)
    weights = weights_of([sum(derived.weight(one.ref) for one in coverage.tiles[labels]) for labels in combinations])
    if join_set.kind == "cell" or join_set.bare:
        # Bare cells are wanted as often as a usual combination.
        combinations.insert(0, join_set.blank)
        weights = np.concatenate([[weights.mean()], weights])
    every = np.eye(len(combinations), dtype=bool)
    if layer.holds_tiles or join_set.kind != "cell":
        held = {
            derived.code(one.ref, one.orientation): number
            for number, labels in enumerate(combinations)
            for one in coverage.tiles.get(labels, ())
        }
        return _Known(join_set, coverage, combinations, weights, held, every)
    middles = np.array([labels[MIDDLE] for labels in combinations])
    numbers = np.unique(middles)
    return _Known(
        join_set, coverage, combinations, weights, {one: row for row, one in enumerate(numbers.tolist())},
        middles[None] == numbers[:, None],
    )  # fmt: skip


def _lying(board: Board, layer: Layer, planes: Planes, known: _Known) -> NDArray[np.int32]:
    """What lies in each cell as a row of `_Known.may`, (H, W) int32; -1 where nothing that the set knows."""
    if not layer.holds_tiles and known.join_set.kind != "cell":
        numbers = {labels: number for number, labels in enumerate(known.combinations)}
        parts = [board.around(planes[on], on, [step], board.whole)[0] for on, step in SPOTS[known.join_set.kind]]
        rows, places = np.unique(np.stack(parts, axis=-1).reshape(-1, len(parts)), axis=0, return_inverse=True)
        found = np.array([numbers.get(tuple(row), -1) for row in rows.tolist()], dtype=np.int32)
        return found[places.ravel()].reshape(board.height, board.width)
    codes, places = np.unique(np.asarray(planes[layer.area_plane]), return_inverse=True)
    found = np.array([known.held.get(code, -1) if code else -1 for code in codes.tolist()], dtype=np.int32)
    return found[places.reshape(board.height, board.width)]


def _fitted(
    board: Board, known: _Known, free: Mask, lying: NDArray[np.int32], seed: int, progress: Progress
) -> NDArray[np.int32]:
    """A combination for each cell that is free, (H, W) int32; -1 in all others."""
    kind = known.join_set.kind
    ys, xs = board.flat("cells", *np.nonzero(free))
    beside_free = np.zeros(free.shape, dtype=bool)
    for down, right in steps_of(kind):
        there = board.there("cells", ys + down, xs + right)
        beside_free[_stored(board, ys[there] + down, xs[there] + right)] = True
    # Of what is not free only what lies beside it counts, and what the set knows.
    near = free | (beside_free & (lying >= 0))
    places = np.argwhere(near)
    ys, xs = board.flat("cells", places[:, 0], places[:, 1])
    numbers = np.full(free.shape, -1, dtype=np.int32)
    numbers[near] = np.arange(len(places))
    beside = np.full((len(steps_of(kind)), len(places)), -1, dtype=np.int32)
    for way, (down, right) in enumerate(steps_of(kind)):
        there = board.there("cells", ys + down, xs + right)
        beside[way, there] = numbers[_stored(board, ys[there] + down, xs[there] + right)]
    kept = np.flatnonzero(~free[near])
    held = Held(kept, known.may[lying[near][kept]])
    rules = Rules(allowed(kind, known.combinations, known.join_set.ground), known.weights)
    try:
        chosen = fill(rules, Field(beside, places.astype(np.int32)), held, seed, progress=progress)
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
    name, near = known.join_set.name, []
    rows = {int(cell): may for cell, may in zip(held.cells, held.may, strict=True) if may.sum() == 1}
    for other in [cell for cell in beside[:, problem.cell].tolist() if cell in rows]:
        at, labels = places[other].tolist(), known.combinations[int(rows[other].argmax())]
        near.append(f"{letters(known.join_set, labels)} at column {at[1]}, row {at[0]}")
    if near:
        return (
            f"No tile of “{name}” agrees at column {column}, row {row} with what lies beside it ({'; '.join(near)}): "
            "rub one of these out, or add the tile that is missing."
        )
    return (
        f"“{name}” can't fill this so that everything agrees; it came to nothing round column {column}, row {row}. "
        "Add tiles for joins that are missing (see the coverage of the set), or free what is held there."
    )


def _codes(derived: Derived, known: _Known, chosen: NDArray[np.int32], free: Mask, seed: int) -> NDArray[np.int32]:
    """The cell codes of free cells, (F,) int32: of several tiles of a combination one by weighted chance."""
    rows, columns = np.nonzero(free)
    numbers, drawn = chosen[free], chance(seed, rows, columns)
    codes = np.zeros(len(numbers), dtype=np.int32)
    for number in np.unique(numbers).tolist():
        variants = known.coverage.tiles.get(known.combinations[number], ())
        if variants:
            weights = [derived.weight(one.ref) for one in variants]
            mine = numbers == number
            which = choose(weights if any(weights) else [1.0] * len(weights), drawn[mine])
            codes[mine] = np.array([derived.code(one.ref, one.orientation) for one in variants])[which]
    return codes


def _painted(
    board: Board, layer: Layer, planes: Planes, known: _Known, chosen: NDArray[np.int32], free: Mask
) -> dict[str, Plane]:
    """What has to be painted on a knit layer so that it shows the combinations of free cells."""
    kind = known.join_set.kind
    labels = np.array(known.combinations, dtype=np.uint8)[chosen[free]]
    ys, xs = board.flat("cells", *np.nonzero(free))
    period = board.period
    values = {on: np.asarray(planes[on])[: period[0], : period[1]].copy() for on in PLANES[kind]}
    for place, (on, (down, right)) in enumerate(SPOTS[kind]):
        rows, columns = board.stored(on, ys + down, xs + right)
        height, width = values[on].shape
        values[on][rows % height, columns % width] = labels[:, MIDDLE if kind == "cell" else place]
    return {on: Plane.of(closed(plane, planes[on].shape)) for on, plane in values.items()}
