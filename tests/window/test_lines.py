"""Fences, from a sheet to the ground."""

import numpy as np
import pytest

from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import Cut
from making import add_sheet, png
from test_lines import EAST, SIDE, WEST, fence, on_sheet
from window.finding import press, says


@pytest.fixture
def fences(window, qtbot):
    """The joins stage on a sheet with two fences and a post, of which the fences have been found and taken."""
    ways = {1: (EAST,), 2: (EAST, WEST), 3: (WEST,)}
    cells = {(x, 1): fence(*sides) for x, sides in ways.items()} | {(7, 1): fence()}
    cells |= {(x, 3): fence(*sides, colour=(178, 120, 70)) for x, sides in ways.items()}
    tiles, _ = on_sheet(cells)
    rows, columns = tiles.shape[:2]
    document = window.session.document
    add_sheet(document, "yard.png", png(tiles.swapaxes(1, 2).reshape(rows * SIDE, columns * SIDE, 4)))
    set_cut(document, "yard", Cut(document.project.sheets[0].cuts[0].id, SIDE, SIDE))
    window.session.set_stage("joins")
    press(window.panels["joins"], "Find sets")
    qtbot.waitUntil(lambda: "2 sets found" in says(window.panels["joins"]), timeout=20_000)
    press(window.panels["joins"], "Take all")
    return window


def columns_laid(window, row: int) -> dict[int, int]:
    """The columns of the ground at which a tile lies in a row, each with that of the sheet."""
    session = window.session
    codes = session.derived.knitted(session.ground.id).codes(session.layer.id, session.ground.board.whole)[row]
    return {at: session.document.palette.ref(int(codes[at])).column for at in np.flatnonzero(codes).tolist()}


def test_sets_that_look_alike_are_numbered_and_lack_nothing(fences):
    first, second = (one.name for one in fences.session.document.project.join_sets)
    assert second == f"{first} 2"
    assert "3 of 3 present" in says(fences.panels["joins"])
    assert "goes across alone" in says(fences.panels["joins"])


def test_a_drag_lays_a_fence_of_any_length(fences, hand):
    press(fences.panels["joins"], "Paint with it")
    fences.ground.view.set_zoom(1)
    fences.session.choose(radius=0)
    hand.on_ground((3, 2), (3, 7))
    assert columns_laid(fences, 3) == {2: 1, **dict.fromkeys(range(3, 7), 2), 7: 3}
