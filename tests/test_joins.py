from collections import Counter
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.errors import BadRequest
from knitground.core.joins.coverage import coverage
from knitground.core.joins.knit import knit
from knitground.core.joins.lattice import places_round
from knitground.core.joins.proof import proof_corners, proof_edges
from knitground.core.joins.sets import JoinSet, with_label, with_labels
from knitground.core.joins.table import SLOTS, compile_table, share_slots
from knitground.core.tiles.tile import EMPTY, GAP
from making import corner_set, edge_set, tile

sizes = st.integers(1, 24)


def complete_labels(terrains: int, variants: int = 1, base: int = 1) -> dict[int, tuple[int, ...]]:
    """Codes for every combination, several each."""
    combinations = list(product(range(base, terrains + 1), repeat=4))
    return {
        1 + n * variants + v: labels for n, labels in enumerate(combinations) for v in range(variants) if any(labels)
    }


def corners_of(lattice: np.ndarray) -> np.ndarray:
    return np.stack([lattice[:-1, :-1], lattice[:-1, 1:], lattice[1:, 1:], lattice[1:, :-1]], axis=-1)


@given(data=st.data(), terrains=st.integers(1, 5), height=sizes, width=sizes, seed=st.integers(0, 2**32 - 1))
def test_every_tile_carries_the_labels_of_its_cell(data, terrains, height, width, seed):
    lattice = data.draw(hnp.arrays(np.uint8, (height + 1, width + 1), elements=st.integers(1, terrains)))
    labels = complete_labels(terrains, variants=2)
    codes = knit(places_round({"corners": lattice}, "corner"), compile_table(labels, {}, terrains), seed=seed)
    laid = np.array([labels[code] for code in codes.ravel().tolist()]).reshape(height, width, 4)
    assert np.array_equal(laid, corners_of(lattice))


@given(data=st.data(), terrains=st.integers(1, 3), height=sizes, width=sizes)
def test_every_tile_of_an_edge_set_carries_the_edges_of_its_cell(data, terrains, height, width):
    across = data.draw(hnp.arrays(np.uint8, (height + 1, width), elements=st.integers(0, terrains)))
    along = data.draw(hnp.arrays(np.uint8, (height, width + 1), elements=st.integers(0, terrains)))
    labels = complete_labels(terrains, base=0)
    codes = knit(
        places_round({"across": across, "along": along}, "edge"),
        compile_table(labels, {}, terrains, kind="edge", bare=True),
        seed=1,
    )
    for row, column in product(range(height), range(width)):
        wanted = (across[row, column], along[row, column + 1], across[row + 1, column], along[row, column])
        assert labels.get(int(codes[row, column]), (0, 0, 0, 0)) == wanted


@given(
    lattice=hnp.arrays(np.uint8, (20, 30), elements=st.integers(0, 3)),
    top=st.integers(0, 10), left=st.integers(0, 20), height=st.integers(1, 9), width=st.integers(1, 9),
)  # fmt: skip
def test_knitting_a_window_equals_the_window_of_the_whole(lattice, top, left, height, width):
    table = compile_table(complete_labels(3, variants=3), {1: 5.0, 2: 0.25}, 3)
    whole = knit(places_round({"corners": lattice}, "corner"), table, seed=9)
    window = knit(
        places_round({"corners": lattice[top : top + height + 1, left : left + width + 1]}, "corner"),
        table,
        seed=9,
        top=top,
        left=left,
    )
    assert np.array_equal(window, whole[top : top + height, left : left + width][: window.shape[0], : window.shape[1]])


def test_many_terrains_and_large_windows_take_other_roads_to_the_same_tiles():
    random = np.random.Generator(np.random.PCG64(3))
    lattice = random.integers(1, 3, (601, 601)).astype(np.uint8)
    few = complete_labels(2, variants=2)
    narrow, wide = compile_table(few, {}, 2), compile_table(few, {}, 32)
    assert narrow.dense
    assert not wide.dense
    codes = knit(places_round({"corners": lattice}, "corner"), narrow, seed=4)
    assert np.array_equal(codes, knit(places_round({"corners": lattice}, "corner"), wide, seed=4))
    assert np.array_equal(
        codes[100:110, 50:80],
        knit(places_round({"corners": lattice[100:111, 50:81]}, "corner"), narrow, seed=4, top=100, left=50),
    )


def test_bare_cells_stay_empty_and_unknown_combinations_are_gaps():
    table = compile_table({7: (1, 1, 1, 1)}, {}, 2)
    lattice = np.array([[0, 0, 1, 1], [0, 0, 1, 1], [2, 2, 2, 2]], dtype=np.uint8)
    codes = knit(places_round({"corners": lattice}, "corner"), table, seed=0)
    assert codes[0].tolist() == [EMPTY, GAP, 7]
    assert (codes[1] == GAP).all()


def test_variants_come_as_weighted():
    table = compile_table({1: (1, 1, 1, 1), 2: (1, 1, 1, 1), 3: (1, 1, 1, 1)}, {1: 6, 2: 3, 3: 1}, 1)
    codes = knit(places_round({"corners": np.ones((401, 401), np.uint8)}, "corner"), table, seed=11)
    shares = np.bincount(codes.ravel(), minlength=4)[1:] / codes.size
    assert np.allclose(shares, [0.6, 0.3, 0.1], atol=0.01)


@given(weights=st.lists(st.floats(0, 1e6), min_size=1, max_size=60))
def test_slots_follow_weights_and_lose_no_positive_one(weights):
    slots = share_slots(list(range(1, len(weights) + 1)), weights)
    assert len(slots) == SLOTS
    counts = Counter(slots.tolist())
    total = sum(weights)
    for code, weight in enumerate(weights, start=1):
        if total > 0:
            assert (counts[code] > 0) == (weight > 0)
            assert abs(counts[code] - weight / total * SLOTS) <= len(weights) + 1


@pytest.mark.parametrize("terrains", [1, 2, 3, 4, 5, 6, 8, 10, 12])
def test_a_proof_holds_every_combination_and_wraps(terrains):
    lattice = proof_corners(list(range(1, terrains + 1)))
    assert np.array_equal(lattice[0], lattice[-1])
    assert np.array_equal(lattice[:, 0], lattice[:, -1])
    assert len(np.unique(corners_of(lattice).reshape(-1, 4), axis=0)) == terrains**4
    assert lattice.shape == (terrains**2 + 1, terrains**2 + 1), "no smaller one holds all"
    across, along = proof_edges(list(range(terrains)))
    cells = np.stack([across[:-1], along[:, 1:], across[1:], along[:, :-1]], axis=-1)
    assert len(np.unique(cells.reshape(-1, 4), axis=0)) == terrains**4 == cells.shape[0] * cells.shape[1]
    assert np.array_equal(across[0], across[-1])
    assert np.array_equal(along[:, 0], along[:, -1])


def test_coverage_counts_present_several_and_missing():
    full = corner_set(2)
    assert (coverage(full).present, coverage(full).several, list(coverage(full).missing())) == (16, 0, [])
    labels = dict(full.labels)
    gone = labels.pop(tile(5, 0))
    labels[tile(0, 3)] = labels[tile(0, 0)]
    found = coverage(JoinSet("s", "S", "corner", full.terrains, False, labels))
    assert (found.present, found.several, list(found.missing())) == (15, 1, [gone])


def test_a_set_with_bare_places_counts_nothing_as_a_terrain():
    found = coverage(edge_set())
    assert (found.total, found.present, found.lacking, list(found.missing())) == (15, 15, 0, [])


def test_tiles_that_the_sheet_lacks_do_not_count():
    full = corner_set(2)
    assert coverage(full, usable=set(list(full.labels)[:10])).present == 10


def test_a_tile_without_labels_leaves_the_set():
    one = JoinSet("s", "S", "corner", corner_set().terrains, True, {tile(0, 0): (0, 1, 0, 0)})
    assert with_label(one, tile(0, 0), 1, 0) == {}
    assert with_label(one, tile(0, 0), 0, 2) == {tile(0, 0): (2, 1, 0, 0)}


@pytest.mark.parametrize("row", [(1, 0, 0, 0, 1, 0, 0, 0, 1), (3, 0, 0, 0)])
def test_labels_of_another_kind_of_set_or_of_a_terrain_that_is_gone_are_refused(row):
    one = JoinSet("s", "S", "corner", corner_set().terrains[:2], True, {})
    with pytest.raises(BadRequest, match="choose that anew"):
        with_labels(one, {tile(0, 0): row})
