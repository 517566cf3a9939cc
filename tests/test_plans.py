"""Plans as CSV, laid by a stitch set, against a slow reading of the rules cell by cell."""

import csv
import io
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.edits.plans import planned, read_plan, tiles_as_rows, why_planned
from knitground.core.errors import BadRequest
from knitground.core.joins.sets import Terrain
from knitground.core.project.derived import Derived
from knitground.core.stitches.rules import StitchSet, around
from making import make_document, one_course, tile

MARKS = (Terrain("Wall", "W", "#808080"), Terrain("Door", "D", "#a06040"))
STEPS = [(-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1)]
stitches = st.lists(
    st.tuples(st.integers(1, 2), st.text("V-.", min_size=8, max_size=8), st.one_of(st.none(), st.integers(0, 9))),
    max_size=6,
)
# A line without any letter or comma is no row of CSV, so plans are two cells wide or more.
plans = hnp.arrays(np.uint8, st.tuples(st.integers(1, 6), st.integers(2, 6)), elements=st.integers(0, 2))


def by_hand(rules, plan: np.ndarray) -> list[list[str]]:
    """What each cell gets: the first rule of its mark whose signs all fit; the plan goes on as at its border."""
    height, width = plan.shape

    def mark(row: int, column: int) -> int:
        return int(plan[min(max(row, 0), height - 1), min(max(column, 0), width - 1)])

    def laid(row: int, column: int) -> str:
        for wanted, chart, number in rules:
            around = [mark(row + down, column + across) for down, across in STEPS]
            fits = all(
                sign == "." or (near == wanted) == (sign == "V") for sign, near in zip(chart, around, strict=True)
            )
            if mark(row, column) == wanted and fits:
                return "" if number is None else f"art/tiles/{number},0"
        return ""

    return [[laid(row, column) for column in range(width)] for row in range(height)]


def as_csv(plan: np.ndarray) -> str:
    return "\n".join(",".join(("", "W", "D")[number] for number in row) for row in plan.tolist()) + "\n"


def documented(rules) -> tuple[Derived, StitchSet]:
    document = make_document()
    made = [
        around(f"s{place}", mark, chart, None if number is None else tile(number, 0))
        for place, (mark, chart, number) in enumerate(rules)
    ]
    one = one_course("plan", "Plan", MARKS, *made)
    document.define("set", replace(document.project, stitch_sets=(*document.project.stitch_sets, one)))
    return Derived(document), one


@given(rules=stitches, plan=plans)
@settings(deadline=None)
def test_a_plan_is_laid_as_its_rules_say(rules, plan):
    derived, one = documented(rules)
    read = read_plan(as_csv(plan), one)
    assert np.array_equal(read, plan)
    laid = planned(derived, one, read)
    assert list(csv.reader(io.StringIO(tiles_as_rows(laid, derived.document.palette)))) == by_hand(rules, plan)


def test_why_tells_the_stitch_and_refuses_cells_beside_the_plan():
    derived, one = documented([(1, "-.......", 3), (1, "........", 4)])
    laid = planned(derived, one, read_plan("W,W\n,W\n", one))
    assert "stitch 2 of “Plan”, Wall" in why_planned(derived, laid, 0, 0)
    assert why_planned(derived, laid, 1, 0) == "bare"
    with pytest.raises(BadRequest, match="no cell 2,0"):
        why_planned(derived, laid, 2, 0)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("W,W\nW\n", "as many cells"),
        ("", "is empty"),
        ("W,Q\n", "“Q” is no mark of “Plan”; it has W for Wall, D for Door"),
        ('W,"D\n', "no CSV"),
        (",".join("W" * 5000), "5000 x 1 cells"),
    ],
)
def test_plans_that_can_not_be_read_are_told(text, says):
    _, one = documented([])
    with pytest.raises(BadRequest, match=says):
        read_plan(text, one)


def test_a_plan_one_cell_wide_may_have_empty_cells():
    _, one = documented([])
    assert read_plan("W\n\nD\n", one).tolist() == [[1], [0], [2]]
