"""Charts and what they allow, stitches that never fire, and why one does not fire here."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from knitground.core.edits.plans import planned, why_planned
from knitground.core.edits.stitching import put_set
from knitground.core.errors import BadRequest
from knitground.core.joins.sets import Terrain
from knitground.core.layers.layer import Place
from knitground.core.project.derived import Derived
from knitground.core.project.wool import ProjectWool
from knitground.core.stitches.audit import Looks, alive_in, dead_stitches, same_charts
from knitground.core.stitches.charts import (
    Chart,
    blank_chart,
    chart_of,
    read_sign,
    renumbered,
    resized,
    turned,
    turned_step,
    with_word,
    write_sign,
)
from knitground.core.stitches.compiled import ReadySet, make_ready
from knitground.core.stitches.match import lowest
from knitground.core.stitches.rules import Course, Piece, Stitch, StitchSet, around
from making import make_document, one_course, tile, with_stitches

MARKS = (Terrain("Wall", "W", "#808080"), Terrain("Door", "D", "#a06040"))
PLAIN = make_document()

tokens = st.one_of(st.just("x"), st.integers(0, 9).map(str), st.integers(0, 9).map(lambda number: f"{number}~"))
words = st.one_of(
    st.sampled_from("V-."),
    st.tuples(st.sampled_from(("", "!")), st.lists(tokens, min_size=1, max_size=3)).map(
        lambda one: one[0] + "/".join(one[1])
    ),
)
odd = st.sampled_from((1, 3, 5))
charts = st.tuples(odd, odd).flatmap(
    lambda size: st.lists(st.lists(words, min_size=size[1], max_size=size[1]), min_size=size[0], max_size=size[0])
).map(chart_of)  # fmt: skip
plain_charts = st.text("V-.", min_size=8, max_size=8)


def ready(*stitches: Stitch, marks=MARKS) -> ReadySet:
    return make_ready(one_course("s", "S", marks, *stitches), ProjectWool(PLAIN))


@given(word=words)
def test_a_sign_is_written_as_it_was_read(word):
    assert read_sign(write_sign(read_sign(word))) == read_sign(word)


@given(chart=charts)
def test_four_quarter_turns_and_two_mirrors_are_none(chart):
    assert turned(turned(chart, 1), 3) == turned(turned(chart, 2), 2) == turned(turned(chart, 4), 4) == chart


@given(chart=charts, orientation=st.integers(0, 7))
def test_signs_go_where_a_turned_chart_has_them(chart, orientation):
    there = {turned_step(step, orientation): sign for step, sign in chart.signs.items()}
    assert turned(chart, orientation).signs == there


@given(chart=charts, rows=odd, columns=odd)
def test_a_larger_chart_keeps_its_signs_and_a_smaller_one_those_that_it_holds(chart, rows, columns):
    new = resized(chart, rows, columns)
    assert new.size == (rows, columns)
    kept = {
        step: sign for step, sign in chart.signs.items() if abs(step[0]) <= rows // 2 and abs(step[1]) <= columns // 2
    }
    assert new.signs == {step: read_sign(write_sign(sign)) for step, sign in kept.items()}


def test_a_number_that_is_gone_is_named_no_more():
    chart = chart_of((("1", "2/3", "!2"),))
    assert renumbered(chart, {1: 1, 3: 2}).rows == ("1 2 .",)


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        (("1 1",), "odd number"),
        (("1", "2"), "odd number"),
        (("1 . .", "1"), "odd number"),
        (("?",), "no sign"),
        (("1//2",), "no sign"),
        ((" ".join("." * 11),), "at most 9"),
    ],
)
def test_charts_that_can_not_be_are_refused(rows, says):
    with pytest.raises(ValidationError, match=says):
        TypeAdapter(Chart).validate_python({"rows": rows})


@given(bits=st.lists(st.integers(0, 2**64 - 1), min_size=1, max_size=3))
def test_the_lowest_bit_is_found_in_whichever_word_it_is(bits):
    whole = sum(word << 64 * place for place, word in enumerate(bits))
    expected = (whole & -whole).bit_length() - 1 if whole else 64 * len(bits)
    assert lowest(np.array(bits, dtype=np.uint64)[:, None, None])[0, 0] == expected


def wins(rules, own: int, near: tuple[int, ...]) -> int | None:
    """Which of some stitches of three by three fires at a mark, by looking at one after another."""
    for place, (mark, chart) in enumerate(rules):
        fits = all(sign == "." or (one == own) == (sign == "V") for sign, one in zip(chart, near, strict=True))
        if own == mark and fits:
            return place
    return None


@given(rules=st.lists(st.tuples(st.integers(1, 2), plain_charts), min_size=1, max_size=6))
@settings(deadline=None)
def test_a_stitch_is_dead_just_when_no_neighbourhood_lets_it_win(rules):
    made = ready(*(around(f"s{n}", mark, chart) for n, (mark, chart) in enumerate(rules)))
    dead = {one.index for one in dead_stitches(made)}
    # Of the neighbours only counts whether they are as the middle is, so that bits hold all that there is.
    alive = {
        wins(rules, own, tuple(own if bits >> n & 1 else 3 - own for n in range(8)))
        for own in (1, 2)
        for bits in range(256)
    }
    assert dead == set(range(len(rules))) - alive


@given(rules=st.lists(st.tuples(st.integers(1, 2), plain_charts), min_size=1, max_size=6))
@settings(deadline=None)
def test_those_that_hide_a_dead_stitch_are_enough_to_hide_it(rules):
    stitches = [around(f"s{n}", mark, chart) for n, (mark, chart) in enumerate(rules)]
    for one in dead_stitches(ready(*stitches)):
        assert all(other < one.index for other in one.hidden_by)
        alone = [stitches[other] for other in one.hidden_by]
        assert [len(alone)] == [dead.index for dead in dead_stitches(ready(*alone, stitches[one.index]))][-1:]


def test_a_stitch_that_may_stay_away_hides_nothing():
    broad, narrow = around("a", 1, "........", tile(0, 0)), around("b", 1, "V.......", tile(1, 0))
    assert dead_stitches(ready(broad, narrow))[0].hidden_by == (0,)
    for shy in (replace(broad, chance=99), replace(broad, apart=1), replace(broad, active=False)):
        assert dead_stitches(ready(shy, narrow)) == []
    block = replace(broad, pieces=(Piece(tiles=(tile(0, 0),), rows=("1 1",)),))
    assert dead_stitches(ready(block, narrow)) == []


def test_signs_that_contradict_one_another_are_told():
    never = Stitch("a", (chart_of((("!0/1/2/x",),)),))
    assert [(one.index, one.hidden_by) for one in dead_stitches(ready(never))] == [(0, ())]


def test_a_stitch_that_is_hidden_by_several_together_is_found():
    halves = [around("a", 1, "V......."), around("b", 1, "-.......")]
    both = around("c", 1, ".V......")
    assert [(one.index, one.hidden_by) for one in dead_stitches(ready(*halves, both))] == [(2, (0, 1))]
    made = ready(*halves, both)
    assert [box is not None for box in alive_in(made, made.courses[0], Looks())] == [True, True, False]


def test_stitches_that_differ_only_in_what_they_lay_are_told():
    one, other = around("a", 1, "V.......", tile(0, 0)), around("b", 1, "V.......", tile(1, 0))
    assert same_charts(ready(one, other).courses[0]) == [(0, 1)]
    assert same_charts(ready(one, replace(other, pieces=one.pieces)).courses[0]) == []


def plan_of(*rows: str) -> np.ndarray:
    return np.array([["·WD".index(sign) for sign in row] for row in rows], dtype=np.uint8)


def stitched(stitch_set: StitchSet, plan: np.ndarray):
    """A document with just a plan, its derived tiles and its layer."""
    document = make_document()
    document.define("set", replace(document.project, stitch_sets=(*document.project.stitch_sets, stitch_set)))
    derived = Derived(document)
    return derived, planned(derived, stitch_set, plan)


def reasons(stitch_set: StitchSet, plan: np.ndarray, row: int, column: int):
    _, knitted = stitched(stitch_set, plan)
    layer = knitted.ground.layers[0]
    place = Place(
        knitted.ground.board, knitted.planes[layer.id], knitted.tables[layer.id], row, column, 0, knitted.seed
    )
    return layer.hindrances(place)


def test_the_first_sign_that_does_not_fit_is_named():
    narrow = Stitch("a", (chart_of(((".", "2", "."), (".", "1", "."), (".", ".", "."))),), (Piece(tile(0, 0)),))
    broad = around("b", 1, "........", tile(1, 0))
    last = around("c", 1, "........", tile(2, 0))
    found = reasons(one_course("s", "S", MARKS, narrow, broad, last), plan_of("···", "·W·", "···"), 1, 1)
    assert (found[0].reason, found[0].step, found[0].of) == ("chart", (-1, 0), "")
    assert found[1] is None
    assert (found[2].reason, found[2].by) == ("earlier", 1)


def test_chance_places_and_room_are_named_too():
    never = replace(around("a", 1, "........", tile(0, 0)), chance=0)
    odd_rows = replace(never, id="b", chance=100, places=replace(never.places, rows=2, first_row=1))
    block = replace(never, id="c", chance=100, pieces=(Piece(tiles=(tile(0, 0),), rows=("1 1",)),))
    found = reasons(one_course("s", "S", MARKS, never, odd_rows, block), plan_of("WWW"), 0, 1)
    assert [found[number].reason for number in range(3)] == ["chance", "place", "room"]


def test_why_names_the_stitch_its_name_and_where_it_fires():
    block = replace(
        around("a", 1, "........"), name="Pair", pieces=(Piece(tiles=(tile(3, 0),), rows=("1 1",)),)
    )  # fmt: skip
    derived, knitted = stitched(one_course("s", "S", MARKS, block), plan_of("W·", "··"))
    assert why_planned(derived, knitted, 0, 0) == "art 3, 0: stitch 1 “Pair” of “S”, Wall"
    assert why_planned(derived, knitted, 0, 1) == "art 3, 0: stitch 1 “Pair” of “S”, which fires at 0, 0"
    assert why_planned(derived, knitted, 1, 0) == "bare"


def test_marks_that_nothing_fits_get_what_is_laid_otherwise():
    one = replace(one_course("s", "S", MARKS), otherwise={1: Piece(tile(5, 0))})
    derived, knitted = stitched(one, plan_of("WD"))
    assert "laid otherwise for “S”, Wall" in why_planned(derived, knitted, 0, 0)
    assert why_planned(derived, knitted, 0, 1) == "no tile: no stitch of “S”, Door fits here"


def test_later_courses_lay_over_earlier_ones_but_never_tear_their_blocks():
    block = Stitch("a", (blank_chart(middle="1"),), (Piece(tiles=(tile(0, 0), tile(1, 0)), rows=("1 2",)),))
    over = Stitch("b", (blank_chart(middle="0"),), (Piece(tiles=(tile(2, 0),), rows=("1 1",)),))
    single = Stitch("c", (blank_chart(middle="0"),), (Piece(tile(3, 0)),))

    def laid(*courses: Stitch) -> list[int]:
        courses = tuple(Course(f"C{n}", (one,)) for n, one in enumerate(courses))
        derived, knitted = stitched(StitchSet("s", "S", MARKS, courses), plan_of("W··"))
        codes = knitted.codes("plan", knitted.ground.board.whole)[0]
        return [derived.document.palette.ref(int(code)).column if code else -1 for code in codes]

    assert laid(block) == [0, 1, -1]
    assert laid(block, over) == [0, 1, 2], "the block that sticks out of the map is laid, the one in the way is not"
    assert laid(block, single) == [0, 3, 3]
    assert laid(block, replace(single, spares_blocks=True)) == [0, 1, 3]


def test_what_can_not_be_in_a_set_is_told():
    document = make_document()
    walls = document.project.stitch_sets[0]
    plain = walls.stitches[0]
    for wrong, says in (
        (with_stitches(walls, plain, plain), "has 2 stitches with the id"),
        (with_stitches(walls, replace(plain, charts=(with_word(plain.charts[0], (0, 0), "7"),))), "has not"),
        (with_stitches(walls, replace(plain, charts=(blank_chart("Sky"),))), "none of its views"),
        (with_stitches(walls, replace(plain, pieces=(Piece(mix="m"),))), "the mix “m”"),
        (with_stitches(walls, replace(plain, pieces=(Piece(onto="Up"),))), "none of its parts"),
        (replace(walls, otherwise={2: Piece()}), "a mark that is not there"),
    ):
        with pytest.raises(BadRequest, match=says):
            put_set(document, "x", wrong)
        assert document.project.stitch_sets[0] is walls
