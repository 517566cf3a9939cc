"""What a terrain is called by its colour."""

import numpy as np
import pytest

from knitground.core.joins.words import in_words


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
