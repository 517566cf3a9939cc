from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.joins.lattice import PLANES, SIDES, doubled, labels_of
from knitground.core.joins.mend import codes_of, mend, reach
from knitground.core.joins.places import Places
from knitground.core.joins.table import JoinTable, compile_table

REACH = reach()
KINDS = ("corner", "edge", "full")
numbers = st.integers(2, 3)


def board(draw, kind: str, height: int, width: int, terrains: int, least: int = 1) -> dict[str, np.ndarray]:
    """Painted planes of a small ground."""
    shapes = {"corners": (height + 1, width + 1), "across": (height + 1, width), "along": (height, width + 1)}
    return {
        name: draw(hnp.arrays(np.uint8, shapes[name], elements=st.integers(least, terrains))) for name in PLANES[kind]
    }


def laid_on(planes: dict[str, np.ndarray], table: JoinTable) -> tuple[np.ndarray, int]:
    """The labels of the tiles that are laid, and how many cells were painted with what no tile shows."""
    painted = labels_of(doubled(planes), table.kind)
    laid, mended = painted.copy(), mend(planes, table)
    if mended is not None:
        laid[mended.rows, mended.columns] = mended.labels
    return laid, int((~table.lays(painted)).sum())


def broken_joins(laid: np.ndarray, kind: str) -> int:
    """Pairs of neighbours whose labels differ where they meet."""
    north, east, south, west = (list(side) for side in SIDES[kind])
    level = (laid[:, :-1][..., east] != laid[:, 1:][..., west]).any(axis=-1)
    return int(level.sum() + (laid[:-1][..., south] != laid[1:][..., north]).any(axis=-1).sum())


def fewest_joins(combinations: np.ndarray, kind: str, height: int, width: int) -> int:
    """What no laying of these tiles can undercut, row by row over all rows there can be."""
    north, east, south, west = (list(side) for side in SIDES[kind])
    tiles = range(len(combinations))
    level = (combinations[:, None, east] != combinations[None][..., west]).any(axis=-1)
    upright = (combinations[:, None, south] != combinations[None][..., north]).any(axis=-1)
    rows = np.array(list(product(tiles, repeat=width)))
    inner = np.stack([level[rows[:, a], rows[:, b]] for a, b in pairwise(range(width))]).sum(axis=0)
    costs = inner.copy()
    for _ in range(height - 1):
        between = sum(upright[rows[:, None, c], rows[None, :, c]].astype(int) for c in range(width))
        costs = (costs[:, None] + between).min(axis=0) + inner
    return int(costs.min())


@given(data=st.data(), kind=st.sampled_from(KINDS), terrains=numbers)
@settings(max_examples=25, deadline=None)
def test_a_random_set_leaves_no_hole_and_breaks_joins_only_where_no_tile_fits(data, kind, terrains):
    rows = st.tuples(*[st.integers(1, terrains)] * (8 if kind == "full" else 4))
    combinations = data.draw(st.lists(rows, min_size=1, max_size=6, unique=True))
    table = compile_table(dict(enumerate(combinations, start=1)), {}, terrains, kind=kind)
    planes = board(data.draw, kind, 4, 5, terrains)
    laid, missing = laid_on(planes, table)
    assert table.lays(laid).all()
    assert laid.any(axis=-1).all()
    assert broken_joins(laid, kind) <= 4 * missing


@pytest.mark.parametrize("kind", KINDS)
def test_few_more_joins_break_than_must(kind):
    random = np.random.Generator(np.random.PCG64(1))
    shapes = {"corners": (4, 4), "across": (4, 3), "along": (3, 4)}
    excess = []
    for _ in range(60):
        terrains, count = int(random.integers(2, 4)), 8 if kind == "full" else 4
        rows = {tuple(int(n) for n in random.integers(1, terrains + 1, count)) for _ in range(random.integers(1, 7))}
        table = compile_table(dict(enumerate(sorted(rows), start=1)), {}, terrains, kind=kind)
        planes = {name: random.integers(1, terrains + 1, shapes[name]).astype(np.uint8) for name in PLANES[kind]}
        laid, missing = laid_on(planes, table)
        optimum = fewest_joins(np.array(sorted(rows)), kind, 3, 3)
        assert broken_joins(laid, kind) <= optimum + 1.25 * missing
        excess.append((broken_joins(laid, kind) - optimum) / max(missing, 1))
    assert np.mean(excess) < 0.2


@given(data=st.data(), kind=st.sampled_from(KINDS), terrains=numbers)
@settings(max_examples=20, deadline=None)
def test_a_complete_set_lays_what_is_painted(data, kind, terrains):
    rows = product(range(1, terrains + 1), repeat=8 if kind == "full" and terrains == 2 else 4)
    if kind == "full" and terrains == 3:
        return
    table = compile_table(dict(enumerate(rows, start=1)), {}, terrains, kind=kind)
    planes = board(data.draw, kind, 5, 6, terrains)
    assert table.complete
    assert mend(planes, table) is None
    assert broken_joins(laid_on(planes, table)[0], kind) == 0


def chain_of_terrains(length: int) -> JoinTable:
    """A corner set in which each terrain meets the next one only."""
    rows = {row for low in range(1, length) for row in product((low, low + 1), repeat=4)}
    return compile_table(dict(enumerate(sorted(rows), start=1)), {}, length)


@pytest.mark.parametrize("far", [3, 4, 5])
def test_terrains_that_never_meet_get_those_between_them(far):
    table = chain_of_terrains(far)
    corners = np.ones((41, 41), dtype=np.uint8)
    corners[12:30, 12:30] = far
    laid, missing = laid_on({"corners": corners}, table)
    assert missing
    assert broken_joins(laid, "corner") == 0
    changed = (laid != labels_of(doubled({"corners": corners}), "corner")).any(axis=-1)
    assert not changed[: 11 - far].any()
    assert (laid[13:28, 13:28] == far).all()
    assert set(np.unique(laid)) == set(range(1, far + 1))


def test_patches_of_terrains_in_a_chain_join_without_a_break():
    random = np.random.Generator(np.random.PCG64(4))
    small = random.integers(1, 4, (8, 8)).astype(np.uint8)
    corners = np.repeat(np.repeat(small, 9, axis=0), 9, axis=1)
    laid, missing = laid_on({"corners": corners}, chain_of_terrains(3))
    assert missing > 100
    assert broken_joins(laid, "corner") == 0


@given(
    seed=st.integers(0, 2**16), kind=st.sampled_from(KINDS), top=st.integers(0, 60), left=st.integers(0, 60),
    height=st.integers(1, 30), width=st.integers(1, 30),
)  # fmt: skip
@settings(max_examples=8, deadline=None)
def test_a_window_with_its_surroundings_is_mended_as_the_whole_is(seed, kind, top, left, height, width):
    random = np.random.Generator(np.random.PCG64(seed))
    side, count = 2 * REACH, 8 if kind == "full" else 4
    rows = {tuple(int(n) for n in row) for row in random.integers(1, 3, (7, count))}
    table = compile_table(dict(enumerate(sorted(rows), start=1)), {}, 2, kind=kind)
    shapes = {"corners": (side + 1, side + 1), "across": (side + 1, side), "along": (side, side + 1)}
    planes = {name: random.integers(1, 3, shapes[name]).astype(np.uint8) for name in PLANES[kind]}
    whole, _ = laid_on(planes, table)
    first, begin = max(0, top - REACH), max(0, left - REACH)
    last, end = min(side, top + height + REACH), min(side, left + width + REACH)
    part = {
        name: plane[first : last + plane.shape[0] - side, begin : end + plane.shape[1] - side]
        for name, plane in planes.items()
    }
    laid = labels_of(doubled(part), kind).copy()
    mended = mend(part, table, Places(lambda rows, columns: (rows + first, columns + begin)))
    assert mended is not None
    laid[mended.rows, mended.columns] = mended.labels
    window = laid[top - first : top - first + height, left - begin : left - begin + width]
    assert np.array_equal(window, whole[top : top + height, left : left + width])


def test_what_is_laid_instead_is_chosen_among_variants_by_place():
    table = compile_table({1: (1, 1, 1, 1), 2: (1, 1, 1, 1)}, {}, 2)
    rows = np.repeat(np.arange(40), 40)
    codes = codes_of(np.ones((1600, 4), np.uint8), rows, np.tile(np.arange(40), 40), table, 3)
    assert 0.4 < (codes == 1).mean() < 0.6


@given(data=st.data(), kind=st.sampled_from(KINDS))
@settings(max_examples=25, deadline=None)
def test_where_something_is_painted_something_lies_even_if_tiles_may_border_on_nothing(data, kind):
    rows = st.tuples(*[st.integers(0, 2)] * (8 if kind == "full" else 4)).filter(any)
    combinations = data.draw(st.lists(rows, min_size=1, max_size=6, unique=True))
    table = compile_table(dict(enumerate(combinations, start=1)), {}, 2, kind=kind, bare=True)
    planes = board(data.draw, kind, 4, 5, 2, least=0)
    laid, _ = laid_on(planes, table)
    painted = labels_of(doubled(planes), kind)
    assert table.lays(laid).all()
    assert laid.any(axis=-1)[painted.any(axis=-1)].all()


def test_a_bar_without_end_tiles_is_still_seen():
    table = compile_table({1: (0, 1, 0, 1)}, {}, 1, kind="edge", bare=True)
    along = np.zeros((5, 9), dtype=np.uint8)
    along[2, 3:6] = 1
    laid, missing = laid_on({"across": np.zeros((6, 8), np.uint8), "along": along}, table)
    assert missing == 2
    assert (laid[2, 2:6] == (0, 1, 0, 1)).all()
