"""What a terrain is called by its colour."""

import numpy as np
import pytest

from knitground.core.edits.finding import propose
from knitground.core.joins.find import find_sets
from knitground.core.joins.words import in_words
from knitground.core.tiles.tile import TileRef


@pytest.mark.parametrize(
    ("colour", "word"),
    [
        ((122, 38, 52), "red"),
        ((190, 20, 28), "red"),
        ((52, 48, 62), "grey"),
        ((84, 84, 84), "grey"),
        ((28, 62, 40), "green"),
        ((60, 230, 70), "green"),
        ((250, 240, 90), "yellow"),
        ((46, 110, 120), "teal"),
        ((24, 70, 84), "teal"),
        ((66, 20, 24), "red"),
        ((84, 60, 30), "brown"),
        ((32, 40, 70), "blue"),
        ((240, 200, 214), "pink"),
        ((96, 64, 44), "brown"),
    ],
)
def test_a_colour_is_called_by_its_own_hue(colour, word):
    assert in_words([np.array(colour)])[0].split()[-1] == word


def test_colours_that_are_called_alike_are_numbered():
    assert in_words([np.array(one) for one in ((122, 38, 52), (120, 40, 54), (46, 110, 120))]) == [
        "wine red",
        "wine red 2",
        "deep teal",
    ]


def test_what_is_thin_on_a_ground_of_its_own_colour_is_called_and_marked_after_what_stands_out():
    """Rails and sleepers on ash: pale and dark, on average they are as grey as the ash."""
    side, random = 30, np.random.default_rng(1)
    ash = np.clip(np.array((84, 80, 88)) + random.integers(-6, 7, (side, side, 1)), 0, 255)
    sheet = np.full((4, 4, side, side, 4), 255, np.uint8)
    for number in range(16):
        tile = ash.copy()
        for turn in range(4):
            turned = np.rot90(tile, turn)
            if number >> turn & 1:
                turned[2:16:6, 8:22] = 70, 48, 34
                turned[:16, 10:12] = turned[:16, 18:20] = 170, 176, 186
        sheet[number // 4, number % 4, ..., :3] = tile
    found = find_sets(sheet, np.ones((4, 4), bool))
    refs = {TileRef("yard", "tiles", x, y): sheet[y, x] for y, x in np.ndindex(4, 4)}
    (one,) = propose(found, refs, next(iter(refs)))
    ground, rails = one.join_set.terrains
    assert ground.name.rstrip(" 2") != rails.name.rstrip(" 2")
    first, second = (np.array([int(one.colour[at : at + 2], 16) for at in (1, 3, 5)]) for one in (ground, rails))
    assert np.linalg.norm(first - second) > 40
