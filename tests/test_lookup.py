"""Finding a command by what one remembers of its name."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.lookup import OTHER_WORDS, found, meant, near

NAMES = (
    "Exchange the picture of the sheet…", "Deliver PNG…", "Tool: Fill", "Fill what is selected", "New ground…",
    "Walk on the ground, or end it", "All findings", "Tool: Erase", "Animate the chosen tiles", "Undo",
    "Add a prop layer", "Add a tile layer",
)  # fmt: skip


def called(text: str) -> list[str]:
    return [NAMES[place] for place in found(text, NAMES)]


def test_all_words_have_to_be_held_in_any_order_and_what_begins_so_comes_first():
    assert called("selected fill") == ["Fill what is selected"]
    assert called("fill") == ["Fill what is selected", "Tool: Fill"]
    assert called("") == list(NAMES)


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("another sheet", NAMES[0]), ("replace picture", NAMES[0]),
        ("export png", "Deliver PNG…"), ("bucket", "Tool: Fill"), ("level", "New ground…"), ("errors", "All findings"),
        ("playt", "Walk on the ground, or end it"), ("anim", "Animate the chosen tiles"), ("rubber", "Tool: Erase"),
        ("layer of things", "Add a prop layer"), ("a new layer for the tiles", "Add a tile layer"),
    ],
)  # fmt: skip
def test_what_the_trade_calls_otherwise_is_found_too(typed, first):
    assert (called(typed) + [NAMES[place] for place in meant(typed, NAMES)])[0] == first


def test_what_holds_the_words_themselves_is_not_named_twice_and_more_of_them_come_first():
    names = ("New ground…", "Map of the world", "Level of this ground")
    assert found("map", names) == [1]
    assert meant("map", names) == [0, 2]
    assert meant("ground map", names) == [0, 2]


@pytest.mark.parametrize(
    ("typed", "first"),
    [("anmate", "Animate the chosen tiles"), ("exchagne shet", "Exchange the picture of the sheet…"),
     ("exprot", "Deliver PNG…"), ("undo everything", "Undo")],
)  # fmt: skip
def test_what_is_misspelt_or_too_much_leads_to_what_is_near(typed, first):
    assert found(typed, NAMES) == []
    assert NAMES[near(typed, NAMES)[0]] == first


def test_what_is_far_from_everything_finds_nothing():
    assert near("qqqq", NAMES) == []
    assert near("", NAMES) == []


@given(st.sampled_from(NAMES), st.data())
def test_any_part_of_a_name_finds_it(name, data):
    begin = data.draw(st.integers(0, len(name) - 1))
    end = data.draw(st.integers(begin + 1, len(name)))
    assert name in called(name[begin:end])


@given(st.text(max_size=30))
def test_whatever_is_typed_each_name_is_found_once_at_most(text):
    for places in (found(text, NAMES) + meant(text, NAMES), near(text, NAMES)):
        assert len(set(places)) == len(places)
        assert all(0 <= place < len(NAMES) for place in places)


def test_other_words_are_written_small_and_say_something_new():
    for other, several in OTHER_WORDS.items():
        assert other == other.lower()
        assert not any(other in one for one in several)
