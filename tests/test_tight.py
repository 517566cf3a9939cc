"""Narrow places and dead ends, of grounds drawn as letters."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from calling import fails_with_one_sentence, knitground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.notes import set_collision
from knitground.core.edits.placing import place
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.walk.goals import marks_of
from knitground.core.walk.survey import Survey, surveyed
from knitground.core.walk.tight import dead_ends, narrow_places, tight_places
from making import SIDE, make_document, poke
from test_walk import FOOT, WALL, walled


def drawn(*rows: str, document=None) -> Survey:
    """A survey of a ground whose upper left is drawn, and all the rest is wall: # is a wall."""
    document = document or make_document()
    set_collision(document, {WALL: "whole"})
    codes = np.full((15, 20), document.palette.code(WALL))
    for number, row in enumerate(rows):
        codes[number, : len(row)] = [0 if cell == "." else document.palette.code(WALL) for cell in row]
    poke(document, "things", "cells", np.s_[:, :], codes)
    return surveyed(Derived(document), "ground", FOOT)


ROOMS = (
    "##########",
    "#....##..#",
    "#........#",
    "#....##..#",
    "##########",
)
CORRIDOR = (
    "#####",
    "#...######",
    "#........#",
    "#...######",
    "#####",
)


def test_a_door_between_rooms_is_narrow_for_a_figure_that_hardly_fits_and_for_no_other():
    survey = drawn(*ROOMS)
    # The door is a cell high: 8 pixels, of which the foot takes 3.
    assert narrow_places(survey, 4.5) == []
    [door] = narrow_places(survey, 6)
    assert door.leads == 2
    assert 5 * SIDE <= door.spot.x <= 7 * SIDE
    assert 2 * SIDE <= door.spot.y <= 3 * SIDE
    assert door.length == pytest.approx(2 * SIDE + FOOT.width, abs=0.5)
    assert dead_ends(survey) == []


def test_a_corridor_that_leads_nowhere_is_a_dead_end_unless_something_is_to_be_found_there():
    survey = drawn(*CORRIDOR)
    [end] = dead_ends(survey)
    assert end.spot.x > 4 * SIDE
    assert end.length > 3 * SIDE
    document = make_document()
    add_layer(document, "ground", "Props", kind="props")
    place(document, "ground", "props", [Thing("new", 8.5 * SIDE, 2.5 * SIDE, "point", tags=("goal",))])
    survey = drawn(*CORRIDOR, document=document)
    assert dead_ends(survey, tuple(marks_of(survey.solids.ground, document.project.thing_kinds))) == []


@settings(deadline=None, max_examples=15)
@given(seed=st.integers(0, 10_000), spare=st.floats(2.0, 14.0))
def test_what_is_tight_is_room_and_what_is_wide_enough_is_not_tight(seed, spare):
    random = np.random.default_rng(seed).random((14, 18)) < 0.3
    survey = drawn(*("".join(".#"[int(cell)] for cell in row) for row in random))
    rooms = [piece for room in survey.reach.rooms.values() for piece in room.pieces]
    for one in tight_places(survey, spare):
        assert min(piece.distance(one.shape.representative_point()) for piece in rooms) < 0.1
        # A square as wide as is asked for fits nowhere inside.
        assert one.shape.buffer(-spare / 2, join_style="mitre").is_empty


def test_they_are_told_on_the_command_line(tmp_path):
    document, _ = walled(9.0)
    document.save(tmp_path / "p")
    said = knitground(
        "reach", tmp_path / "p", "--from", "1,1", "--figure", "4x3", "--narrow", "6", "--dead-ends"
    ).stdout
    assert "narrow place at column" in said
    assert "no dead end" in said
    wrong = knitground("reach", tmp_path / "p", "--from", "1,1", "--figure", "4x3", "--narrow", "-3")
    assert "--narrow" in fails_with_one_sentence(wrong)
