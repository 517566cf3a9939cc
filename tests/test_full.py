"""Full joins, turned tiles, and grounds that wrap."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import walk
from knitground.core.grid.square import SquareBoard
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.joins.coverage import Coverage, coverage, is_formed
from knitground.core.joins.knit import knit
from knitground.core.joins.lattice import SIDES, doubled, labels_of, places_round
from knitground.core.joins.proof import proof_full
from knitground.core.joins.sets import CORNERS, EDGES, JoinSet, Terrain
from knitground.core.joins.table import compile_table
from knitground.core.joins.turning import laid_tiles, orientations, turned_labels
from knitground.core.layers.full import full_patches
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.tiles.tile import cell_code, orient
from making import CORNERED, swept_disc, tile

TERRAINS = (Terrain("Moss", "M", "#80a040"), Terrain("Slate", "S", "#8090b0"))


def family(terrains: int, *, bare: bool = True) -> dict[int, tuple[int, ...]]:
    """A code for every combination that areas and runs can form."""
    numbers = range(0 if bare else 1, terrains + 1)
    return dict(enumerate(Coverage("full", {}, numbers).combinations(), start=1))


@given(data=st.data(), terrains=st.integers(1, 3))
@settings(deadline=None, max_examples=10)
def test_a_full_tile_carries_the_eight_terrains_round_its_cell(data, terrains):
    labels = family(terrains)
    planes = {
        name: data.draw(hnp.arrays(np.uint8, shape, elements=st.integers(0, terrains)))
        for name, shape in (("corners", (6, 8)), ("across", (6, 7)), ("along", (5, 8)))
    }
    table = compile_table(labels, {}, terrains, kind="full", bare=True)
    codes = knit(places_round(planes, "full"), table, seed=1)
    for code, wanted in zip(
        codes.ravel().tolist(), labels_of(doubled(planes), "full").reshape(-1, 8).tolist(), strict=True
    ):
        assert labels.get(code, (0,) * 8) == tuple(wanted) if is_formed(wanted) else code == -1


def test_a_full_set_of_many_terrains_needs_no_huge_table():
    labels = {1: (31,) * 8, 2: (32,) * 8, 3: (31, 31, 32, 32, 31, 32, 32, 31)}
    table = compile_table(labels, {}, 32, kind="full")
    assert table.starts.nbytes < 10_000
    assert table.lays(np.array([*labels.values(), (1,) * 8, (31,) * 7 + (32,)])).tolist() == [True] * 3 + [False] * 2


@given(
    strokes=st.lists(st.tuples(st.booleans(), st.integers(0, 12), st.integers(0, 12), st.integers(0, 3)), max_size=8)
)
@settings(deadline=None, max_examples=25)
def test_areas_and_runs_of_any_order_make_what_tiles_are_asked_for(strokes):
    board = SquareBoard(12, 12)
    planes = {name: np.zeros(board.shape(name), np.uint8) for name in ("corners", "across", "along")}
    for area, row, column, terrain in strokes:
        shapes = {"corners": board.disc("corners", (row, column), (column, row), 1)}
        if not area:
            shapes = board.edges(walk((min(row, 11), min(column, 11)), (min(column, 11), min(row, 11))))
        for name, (shape, values) in full_patches(board, planes, shapes, terrain).items():
            window = shape.window
            planes[name][window.rows, window.columns][shape.mask] = values[shape.mask]
        for name, shape in shapes.items():
            assert (planes[name][shape.window.rows, shape.window.columns][shape.mask] == terrain).all()
    assert all(is_formed(labels) for labels in labels_of(doubled(planes), "full").reshape(-1, 8).tolist())


@pytest.mark.parametrize(("terrains", "bare", "count"), [(1, True, 46), (2, False, 47), (2, True, 649)])
def test_the_proof_of_a_full_set_holds_every_combination_and_wraps(terrains, bare, count):
    numbers = range(0 if bare else 1, terrains + 1)
    found = Coverage("full", {}, numbers)
    planes = proof_full(numbers)
    assert np.array_equal(planes["corners"][0], planes["corners"][-1])
    assert np.array_equal(planes["corners"][:, 0], planes["corners"][:, -1])
    assert np.array_equal(planes["across"][0], planes["across"][-1])
    assert np.array_equal(planes["along"][:, 0], planes["along"][:, -1])
    shown = {tuple(row) for row in labels_of(doubled(planes), "full").reshape(-1, 8).tolist()}
    assert found.total == count == sum(1 for _ in found.combinations())
    assert shown >= set(found.combinations())
    assert all(is_formed(labels) for labels in shown)


@pytest.mark.parametrize("orientation", range(8))
def test_labels_turn_with_the_pixels(orientation):
    picture = np.zeros((3, 3, 4), dtype=np.uint8)
    spots = dict(zip(CORNERS + EDGES, ((0, 0), (0, 2), (2, 2), (2, 0), (0, 1), (1, 2), (2, 1), (1, 0)), strict=True))
    labels = tuple(range(1, 9))
    for number, spot in zip(labels, spots.values(), strict=True):
        picture[spot] = number
    turned = orient(picture, orientation)
    expected = tuple(int(turned[spot][0]) for spot in spots.values())
    assert turned_labels(labels, "full", orientation) == expected
    assert turned_labels(labels[:4], "corner", orientation) == expected[:4]
    assert turned_labels(labels[4:], "edge", orientation) == expected[4:]


@pytest.mark.parametrize(
    ("flags", "square", "expected"),
    [((False,) * 3, True, 1), ((True, False, False), True, 4), ((True, True, False), True, 8),
     ((False, True, True), True, 4), ((False, False, True), True, 2), ((True, False, False), False, 2),
     ((True, True, True), False, 4)],
)  # fmt: skip
def test_the_allowed_orientations_are_a_group(flags, square, expected):
    turns, mirrors_x, mirrors_y = flags
    chosen = JoinSet("s", "S", "corner", TERRAINS, turns=turns, mirrors_x=mirrors_x, mirrors_y=mirrors_y)
    allowed = orientations(chosen, square=square)
    mark = np.arange(16, dtype=np.uint8).reshape(2, 2, 4)
    seen = {orient(mark, one).tobytes(): one for one in range(8)}
    products = {seen[orient(orient(mark, one), other).tobytes()] for one, other in product(allowed, repeat=2)}
    assert len(allowed) == expected
    assert products == set(allowed)


def test_six_corner_tiles_cover_all_sixteen_by_turning_and_drawn_ones_come_first():
    rows = [(1, 1, 1, 1), (2, 1, 1, 1), (2, 2, 1, 1), (2, 1, 2, 1), (2, 2, 2, 1), (2, 2, 2, 2), (1, 2, 1, 1)]
    labels = {tile(n, 0): row for n, row in enumerate(rows)}
    turning = JoinSet("s", "S", "corner", TERRAINS, labels=labels, turns=True)
    found = coverage(turning)
    assert (found.total, found.present, found.lacking, found.turned) == (16, 16, 0, 9)
    assert laid_tiles(turning)[(1, 2, 1, 1)] == ((tile(6, 0), 0),)
    assert found.group((1, 1, 2, 1)) == "turned"
    table = compile_table(
        {cell_code(n + 1, one.orientation): row for n, (row, (one, *_)) in enumerate(found.tiles.items())}, {}, 2
    )
    assert table.complete


@pytest.mark.parametrize("grid", CORNERED)
@pytest.mark.parametrize("kind", ["corner", "edge", "full"])
@pytest.mark.parametrize("complete", [True, False])
def test_a_ground_that_wraps_knits_without_a_seam(grid, kind, complete):
    random = np.random.Generator(np.random.PCG64(8))
    count = 8 if kind == "full" else 4
    rows = [row for row in product((1, 2), repeat=count) if complete or random.random() < 0.9 or len(set(row)) == 1]
    labels = dict(enumerate(rows, start=1))
    table = compile_table(labels, {}, 2, kind=kind)
    layer = TerrainLayer("layer", "Layer", "set", kind)
    ground = Ground("g", "G", 23, 32, 8, 8, (layer,), grid, wraps_x=True, wraps_y=True)
    planes = {
        name: Plane.of(random.integers(1, 3, ground.board.shape(spec.on)).astype(np.uint8))
        for name, spec in layer.specs.items()
        if not spec.codes
    }
    codes = layer.lay(ground.board, planes, table, 5, CellRect(0, 0, 32, 23)).codes
    laid = np.array([labels[code] for code in codes.ravel().tolist()]).reshape(32, 23, count)
    ys, xs = ground.board.flat("cells", *np.mgrid[:32, :23])
    for (down, across), side in {(0, 1): (1, 3), (1, 0): (2, 0)}.items():
        rows_, columns = ground.board.stored("cells", ys + down, xs + across)
        beside = laid[rows_ % 32, columns % 23]
        mine, theirs = (list(SIDES[kind][one]) for one in side)
        assert np.array_equal(laid[..., mine], beside[..., theirs])
    for rect in (CellRect(0, 0, 3, 23), CellRect(5, 19, 20, 4), CellRect(31, 22, 1, 1)):
        part = layer.lay(ground.board, planes, table, 5, rect).codes
        assert np.array_equal(part, codes[rect.rows, rect.columns])


@pytest.mark.parametrize("grid", CORNERED)
@pytest.mark.parametrize("wraps", [True, False])
def test_painting_bit_by_bit_gives_what_knitting_the_whole_gives(grid, wraps):
    random = np.random.Generator(np.random.PCG64(9))
    labels = {n: row for n, row in enumerate(product((1, 2, 3), repeat=4), start=1) if len(set(row)) < 3}
    table = compile_table(labels, {}, 3)
    layer = TerrainLayer("layer", "Layer", "set", "corner")
    ground = Ground("g", "G", 90, 70, 8, 8, (layer,), grid, wraps_x=wraps, wraps_y=wraps)
    shape = ground.board.shape("corners")
    planes = {"corners": Plane.full(shape, np.uint8, 1)}
    knitted = Knitted(ground, {"layer": planes}, {"layer": table}, 5)
    whole = CellRect(0, 0, 70, 90)
    before = knitted.codes("layer", whole).copy()
    for number in range(12):
        row, column = int(random.integers(0, 70)), int(random.integers(0, 90))
        rect, mask = swept_disc(shape, (row, column), (row + 5, column + 9), 3)
        values = np.where(mask, 1 + number % 3, planes["corners"].read(rect))
        planes = {"corners": planes["corners"].written(rect, values)}
        reached = knitted.touched("layer", "corners", rect, planes)
        after = knitted.codes("layer", whole).copy()
        changed = before != after
        for _, window in reached:
            changed[window.rows, window.columns] = False
        assert not changed.any()
        assert np.array_equal(after, layer.lay(ground.board, planes, table, 5, whole).codes)
        before = after
