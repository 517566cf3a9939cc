"""Fences and roads, from a sheet or a folder to the ground."""

import numpy as np
import pytest

from knitground.app.joins.made_dialog import MadeDialog
from knitground.core.edits.importing import add_collection
from knitground.core.edits.sheets import set_cut
from knitground.core.joins.coverage import coverage
from knitground.core.joins.make import MadeTile
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, together
from test_lines import EAST, SIDE, WEST, fence, on_sheet
from test_roads import KINDS, on_grass
from window.finding import painted, press, says


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


def tiles_laid(window, row: int) -> dict[int, TileRef]:
    """The tiles in a row of the ground, each by its column."""
    session = window.session
    codes = session.derived.knitted(session.ground.id).codes(session.layer.id, session.ground.board.whole)[row]
    return {at: session.document.palette.ref(int(codes[at])) for at in np.flatnonzero(codes).tolist()}


def columns_laid(window, row: int) -> dict[int, int]:
    """The columns of the ground at which a tile lies in a row, each with that of the sheet."""
    return {at: ref.column for at, ref in tiles_laid(window, row).items()}


def test_a_road_of_single_images_is_found_its_ends_are_made_and_it_ends_where_it_is_painted(
    window, hand, qtbot, monkeypatch
):
    ways = [(0, 0, 0, 0), *KINDS["ten"]]
    add_collection(window.session.document, "lane", together(dict(zip(map(str, ways), on_grass(*ways), strict=True))))
    window.session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    press(panel, "Take all")
    monkeypatch.setattr(MadeDialog, "exec", lambda dialog: dialog.accept() or 1)
    press(window.ledger, "Make missing tiles…")
    assert "16 of 16 present" in says(panel)
    press(window.ledger, "Paint with this join set")
    window.ground.view.set_zoom(1)
    window.session.choose(radius=0)
    hand.on_ground((3, 2), (3, 7))
    labels = window.session.join_set.labels
    laid = [labels[tiles_laid(window, 3)[column]][1::2] for column in range(2, 8)]
    assert laid == [(2, 1), *[(2, 2)] * 4, (1, 2)]


def test_what_is_made_says_in_two_lines_what_it_is_however_large_its_picture(window, qtbot):
    walks = JoinSet("walks", "Walks", "edge", (Terrain("Moss", "M", "#3a6b35"), Terrain("Walk", "W", "#b08a5a")))
    lone = MadeTile((2, 1, 1, 1), np.full((28, 28, 4), 255, np.uint8), "straight ones")
    dialog = MadeDialog(window, walks, [lone], coverage(walks))
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.list.clearSelection()
    item, below = dialog.list.visualItemRect(dialog.list.item(0)), dialog.list.iconSize().height() + 10
    card = painted(dialog.list.viewport())[item.top() + below : item.bottom() - 6, item.left() + 6 : item.right() - 6]
    inked = (card[..., 3] > 128).any(axis=1)  # the cards have no ground of their own
    assert np.count_nonzero(np.diff(inked.astype(int), prepend=0) == 1) == 2


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
