"""What is said of tiles, for one or many."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from knitground.core.edits.notes import (
    add_tag,
    animate,
    notes_of,
    play_apart,
    remove_property,
    remove_tag,
    set_collision,
    set_property,
    set_walkable,
    set_weight,
    shared,
    told,
)
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.playing import playing
from knitground.core.tiles.notes import (
    SHORTEST_MS,
    Frame,
    Property,
    TileNotes,
    as_typed,
    frame_at,
    frames_at,
    property_of,
)
from knitground.core.tiles.phases import phase_of_thing, phases_of_cells
from making import make_document, plane_of, poke, tile

REFS = [tile(0, 0), tile(1, 0), tile(2, 0)]


@pytest.fixture
def document() -> Document:
    return make_document()


@pytest.mark.parametrize(
    ("kind", "text", "value"),
    [("whole", " 12 ", 12), ("number", "2,5", 2.5), ("yes-no", "Yes", True), ("colour", "#FF8800", "#ff8800"),
     ("text", " red roof ", "red roof")],
)  # fmt: skip
def test_what_is_typed_becomes_a_value_and_reads_the_same_again(kind, text, value):
    made = property_of(kind, text)
    assert made == Property(kind, value)
    assert property_of(kind, as_typed(made)) == made


@pytest.mark.parametrize(
    ("kind", "text", "says"),
    [("whole", "1.5", "whole number"), ("number", "lots", "number"), ("number", "1e999", "number"),
     ("yes-no", "perhaps", "yes nor no"), ("colour", "red", "colour")],
)  # fmt: skip
def test_what_is_no_value_of_the_kind_is_refused_in_a_sentence(kind, text, says):
    with pytest.raises(BadRequest, match=says):
        property_of(kind, text)


@pytest.mark.parametrize(
    "raw", [{"kind": "whole", "value": 1.5}, {"kind": "yes-no", "value": 1}, {"kind": "whole", "value": True},
            {"kind": "colour", "value": "red"}, {"kind": "shape", "value": "x"}],
)  # fmt: skip
def test_a_file_cannot_bring_in_a_value_of_the_wrong_kind(raw):
    with pytest.raises(ValidationError):
        TypeAdapter(Property).validate_python(raw)


def test_many_are_changed_at_once_and_only_in_what_was_meant(document):
    set_weight(document, REFS[:1], 3)
    add_tag(document, REFS, "roof")
    add_tag(document, REFS[:2], "old")
    set_walkable(document, REFS[1:], False)
    assert [notes_of(document, ref).weight for ref in REFS] == [3, 1, 1]
    assert [notes_of(document, ref).tags for ref in REFS] == [("old", "roof"), ("old", "roof"), ("roof",)]
    assert shared(document, REFS, lambda notes: notes.walkable) == [False, True]
    remove_tag(document, REFS, "old")
    assert shared(document, REFS, lambda notes: notes.tags) == [("roof",)]
    assert document.undo() == "tag"
    assert notes_of(document, REFS[0]).tags == ("old", "roof")


def test_tiles_of_which_the_same_is_said_are_told_together(document):
    add_tag(document, REFS, "roof")
    set_weight(document, REFS, 2)
    assert [(notes.tags, notes.weight, count) for notes, count in told(document, REFS)] == [(("roof",), 2, 3)]
    set_weight(document, REFS[:1], 5)
    assert sorted((notes.weight, count) for notes, count in told(document, REFS)) == [(2, 2), (5, 1)]
    assert told(document, []) == []


def test_properties_come_and_go(document):
    set_property(document, REFS, "height", property_of("whole", "2"))
    set_property(document, REFS[:1], "height", property_of("whole", "5"))
    assert [value.value for value in shared(document, REFS, lambda n: n.properties["height"])] == [2, 5]
    remove_property(document, REFS, "height")
    assert not document.project.tiles


def test_a_tile_of_which_nothing_is_left_to_say_is_not_kept(document):
    set_weight(document, REFS, 2)
    set_weight(document, REFS, 1)
    assert not document.project.tiles


@pytest.mark.parametrize("tag", ["", "  ", "a,b", "x" * 61])
def test_tags_that_cannot_be_are_refused(document, tag):
    with pytest.raises(BadRequest, match="tag"):
        add_tag(document, REFS, tag)


def test_all_of_it_survives_saving(document, tmp_path):
    add_tag(document, REFS, "roof")
    for kind, text in (("text", "x"), ("whole", "3"), ("number", "3"), ("yes-no", "no"), ("colour", "#010203")):
        set_property(document, REFS[:1], f"a {kind}", property_of(kind, text))
    set_collision(document, {REFS[0]: "whole", REFS[1]: (((0.0, 0.0), (8.0, 0.0), (8.0, 4.5)),)})
    animate(document, {REFS[2]: [Frame(REFS[0], 80), Frame(REFS[1], 200)]})
    document.save(tmp_path)
    again = Document.load(tmp_path)
    assert again.project == document.project
    assert isinstance(again.project.tiles[REFS[0]].properties["a number"].value, float)


def test_one_frame_is_no_animation(document):
    animate(document, {REFS[0]: [Frame(REFS[0], 80)]})
    assert notes_of(document, REFS[0]) == TileNotes()
    with pytest.raises(BadRequest, match="too many"):
        animate(document, {REFS[0]: [Frame(REFS[0], 80)] * 300})


@given(times=st.lists(st.integers(10, 500), min_size=1, max_size=8), ms=st.integers(0, 10_000))
def test_frames_show_as_long_as_they_say_and_go_round(times, ms):
    frames = tuple(Frame(tile(number, 0), time) for number, time in enumerate(times))
    shown = frame_at(frames, ms)
    assert frame_at(frames, ms + sum(times)) == shown
    start = sum(times[:shown])
    assert start <= ms % sum(times) < start + times[shown]


@given(times=st.lists(st.integers(SHORTEST_MS, 400), min_size=1, max_size=9), ms=st.integers(0, 10_000))
def test_what_began_with_a_later_frame_is_as_far_on_as_if_those_before_had_shown(times, ms):
    frames = tuple(Frame(tile(number, 0), long) for number, long in enumerate(times))
    assert frames_at(frames, ms) == [frame_at(frames, ms + sum(times[:first])) for first in range(len(times))]


def test_neighbours_begin_apart_and_no_pattern_shows():
    phases = phases_of_cells(CellRect(0, 0, 96, 96))
    assert np.array_equal(phases_of_cells(CellRect(5, 40, 3, 7)), phases[5:8, 40:47]), "whatever part is asked for"
    for count in (2, 3, 4, 6):
        first = phases % count
        assert np.abs(np.bincount(first.ravel()) / first.size - 1 / count).max() < 0.03
        for far in ((0, 1), (1, 0), (1, 1), (2, 0), (0, 2), (3, 5)):
            alike = first == np.roll(first, far, axis=(0, 1))
            assert abs(alike.mean() - 1 / count) < 0.05
    assert phase_of_thing("hive-12") == phase_of_thing("hive-11") + 1


@pytest.mark.parametrize("apart", [False, True])
def test_cells_and_things_show_a_frame_of_their_own_where_an_animation_is_played_apart(document, apart):
    owner, three = tile(5, 3), [tile(5, 3), tile(6, 3), tile(7, 3)]
    animate(document, {owner: [Frame(one, 100) for one in three]})
    play_apart(document, [owner], apart=apart)
    poke(document, "things", "cells", np.s_[:], document.palette.code(owner, 5))
    moved, whole = playing(Derived(document)), CellRect(0, 0, 15, 20)
    codes = plane_of(document, "things", "cells")
    for ms in (0, 150, 299):
        now = moved.exchange_at(ms)(codes, whole)
        began = phases_of_cells(whole) % 3 if apart else np.zeros(whole[2:], dtype=int)
        wanted = np.array([document.palette.code(one, 5) for one in three])[(began + ms // 100) % 3]
        assert np.array_equal(now, wanted)
        assert moved.shown_apart(ms)[owner] == tuple(three[ms // 100 :] + three[: ms // 100])[: 3 if apart else 1]
    assert moved.moment(0) != moved.moment(150)
    assert moved.moment(20) == moved.moment(320), "what was drawn once is drawn again"
    animate(document, {owner: []})
    assert not notes_of(document, owner).apart, "what stands still has nothing to begin with"
