import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.stitches.match import NO_STITCH, dead_stitches, same_bits, stitch_cells, stitch_tiles, winners
from knitground.core.stitches.rules import NEIGHBOURS, Stitch, turned
from knitground.core.tiles.tile import EMPTY, GAP

charts = st.text("V-.", min_size=8, max_size=8)
stitches = st.lists(st.builds(Stitch, st.integers(1, 2), charts), max_size=8)
plans = hnp.arrays(np.uint8, (9, 11), elements=st.integers(0, 2))


def seen(plan: np.ndarray) -> tuple[np.ndarray, list[np.ndarray]]:
    """The inner cells of a plan and their eight neighbours."""
    height, width = plan.shape[0] - 2, plan.shape[1] - 2
    around = [plan[1 + down : 1 + down + height, 1 + right : 1 + right + width] for down, right in NEIGHBOURS]
    return plan[1:-1, 1:-1], around


def fits_by_hand(plan: np.ndarray, row: int, column: int, stitch: Stitch) -> bool:
    mark = plan[row, column]
    if mark != stitch.mark:
        return False
    for sign, (down, right) in zip(stitch.chart, NEIGHBOURS, strict=True):
        same = plan[row + down, column + right] == mark
        if (sign == "V" and not same) or (sign == "-" and same):
            return False
    return True


@given(plan=plans, rules=stitches)
def test_the_first_stitch_that_fits_lays_its_tile(plan, rules):
    codes = stitch_cells(*seen(plan), stitch_tiles(winners(rules, 2), [10 + n for n in range(len(rules))]))
    for row in range(1, plan.shape[0] - 1):
        for column in range(1, plan.shape[1] - 1):
            first = next((n for n, rule in enumerate(rules) if fits_by_hand(plan, row, column, rule)), None)
            bare = EMPTY if plan[row, column] == 0 else GAP
            assert codes[row - 1, column - 1] == (bare if first is None else 10 + first)


@given(rules=stitches)
def test_a_stitch_is_dead_just_when_no_neighbourhood_lets_it_win(rules):
    dead = {one.index for one in dead_stitches(rules, 2)}
    table = winners(rules, 2)
    for index in range(len(rules)):
        assert (index in dead) == (not (table == index).any())


@given(rules=stitches)
def test_those_that_hide_a_dead_stitch_come_before_it_and_take_all_its_places(rules):
    table = winners(rules, 2)
    for one in dead_stitches(rules, 2):
        assert all(other < one.index for other in one.hidden_by)
        its_places = winners([rules[one.index]], 2) == 0
        assert set(table[its_places].tolist()) == set(one.hidden_by)


def test_a_broad_stitch_above_a_narrow_one_is_named():
    dead = dead_stitches([Stitch(1, "........"), Stitch(1, "V......."), Stitch(2, "V.......")], 2)
    assert [(one.index, one.hidden_by) for one in dead] == [(1, (0,))]


def test_marks_without_a_stitch_win_nothing():
    table = winners([Stitch(1, "........")], 3)
    assert (table[[0, 2, 3]] == NO_STITCH).all()
    assert (table[1] == 0).all()


def test_bits_are_in_reading_order():
    plan = np.zeros((3, 3), np.uint8)
    plan[1, 1] = plan[0, 0] = plan[2, 1] = 1
    assert same_bits(*seen(plan))[0, 0] == 1 | 1 << 6


@given(chart=charts)
def test_four_quarter_turns_are_none(chart):
    assert turned(chart, 4) == turned(turned(chart, 1), 3) == chart


@pytest.mark.parametrize(("turns", "place"), [(0, 1), (1, 4), (2, 6), (3, 3)])
def test_a_turned_chart_looks_the_other_way(turns, place):
    assert turned(".V......", turns).index("V") == place


@given(plan=plans, rules=stitches)
def test_turning_plan_and_charts_together_turns_the_result(plan, rules):
    codes = list(range(1, len(rules) + 1))
    straight = stitch_cells(*seen(plan), stitch_tiles(winners(rules, 2), codes))
    spun = [Stitch(rule.mark, turned(rule.chart, 1)) for rule in rules]
    assert np.array_equal(
        stitch_cells(*seen(np.rot90(plan, -1)), stitch_tiles(winners(spun, 2), codes)), np.rot90(straight, -1)
    )
