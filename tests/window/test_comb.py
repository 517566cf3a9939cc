"""The frame of comb, a ground of hexagons, worked on with mouse and keyboard."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QAbstractButton, QLabel

from knitground.app.ground.new_ground import GroundDialog
from knitground.app.ground.usual_cell import usual_cell, usual_grid
from knitground.app.widgets import ChoiceBox
from knitground.app.window import Window
from knitground.core.ground.ground import by_id
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, tile
from test_hexagon_art import hexagon
from window.finding import named, open_menu, painted, press, says, take

POLLEN, WOOD = TileRef("comb", "cells", 4, 1), TileRef("comb", "cells", 0, 2)


@pytest.fixture
def comb(demo: Window) -> Window:
    demo.session.set_stage("ground")
    demo.session.choose(ground_id="comb", layer_id="cells", tile=POLLEN)
    demo.ground.choose_tool("draw")
    return demo


def middle(window: Window, row: int, column: int) -> QPointF:
    """The middle of a cell's box on the view."""
    return window.ground.view.rect_on_widget(*window.session.ground.projection.box(row, column)).center()


def laid(window: Window) -> np.ndarray:
    code = window.session.document.palette.code(window.session.choices.tile)
    return np.asarray(window.session.document.state.planes["comb"]["cells"]["cells"]) == code


def test_a_click_lays_in_the_cell_that_is_pointed_at_and_a_drag_has_no_hole(comb, hand):
    view = comb.ground.view
    comb.session.choose(tile=WOOD._replace(column=2))
    hand.click(view, middle(comb, 8, 11))
    assert np.argwhere(laid(comb)).tolist() == [[8, 11]]
    assert "x 11" in says(comb)
    hand.drag(view, middle(comb, 4, 4), middle(comb, 14, 9))
    assert laid(comb).sum() == 1 + 11
    comb.session.document.undo()
    assert laid(comb).sum() == 1


def test_cells_are_selected_widened_moved_and_taken_back(comb, hand):
    view, session = comb.ground.view, comb.session
    comb.ground.choose_tool("select")
    hand.drag(view, middle(comb, 6, 6), middle(comb, 6, 7))
    assert session.selected.count == 2
    hand.key(view, Qt.Key.Key_BracketRight, Qt.KeyboardModifier.ShiftModifier)
    assert session.selected.count == 10
    state = session.document.state
    hand.drag(view, middle(comb, 6, 6), middle(comb, 9, 9))
    assert session.document.state is not state
    assert session.selected.count == 10
    session.document.undo()
    assert session.document.state.planes == state.planes


def test_blocks_are_laid_but_not_turned_and_sets_are_refused_in_a_sentence(comb, hand):
    view, session = comb.ground.view, comb.session
    comb.ground.choose_tool("select")
    hand.drag(view, middle(comb, 6, 6), middle(comb, 7, 7))
    hand.key(view, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    hand.key(view, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    before = np.asarray(session.document.state.planes["comb"]["cells"]["cells"])
    hand.click(view, middle(comb, 15, 15))
    after = np.asarray(session.document.state.planes["comb"]["cells"]["cells"])
    assert sorted(after[14:17, 14:17].ravel()) != sorted(before[14:17, 14:17].ravel())
    hand.key(view, Qt.Key.Key_T)
    assert "can't be turned" in says(comb)
    press(comb.ground, "Add a layer above the one at hand")
    take(open_menu(), "Roof cover")
    assert "hexagons can't be painted on yet" in says(comb)
    assert [layer.id for layer in session.ground.layers] == ["cells", "shadow", "bees"]


def test_a_new_ground_of_hexagons_is_made_in_the_dialog_and_painted(working, hand, monkeypatch):
    session = working.session

    def answer(dialog: GroundDialog) -> bool:
        dialog.name.setText("Hexes")
        box = named(dialog, ChoiceBox, "Grid", shown=False)
        box.setCurrentIndex(box.findData("hex-flat"))
        return True

    monkeypatch.setattr(GroundDialog, "exec", answer)
    working.commands.action("New ground…").trigger()
    ground = session.ground
    assert (ground.name, ground.grid) == ("Hexes", "hex-flat")
    session.choose(tile=tile(3, 3))
    working.ground.choose_tool("fill")
    hand.click(working.ground.view, middle(working, 1, 1))
    layer = ground.layers[0].id
    assert (np.asarray(session.document.state.planes[ground.id][layer]["cells"]) > 0).all()


def test_the_grid_is_drawn_round_each_cell(comb, hand):
    view = comb.ground.view
    view.set_zoom(4)
    bare = painted(view)
    while not np.array_equal(bare, again := painted(view)):
        bare = again
    hand.key(view, Qt.Key.Key_G)
    changed = (painted(view) != bare).any(axis=-1)
    assert 0.002 < changed.mean() < 0.2
    hand.key(view, Qt.Key.Key_G)
    assert np.array_equal(painted(view), bare)


def test_a_new_ground_of_hexagons_gets_cells_as_large_as_the_art_of_its_tiles(comb, monkeypatch):
    seen = []

    def answer(dialog: GroundDialog) -> bool:
        box = named(dialog, ChoiceBox, "Grid", shown=False)
        for grid in ("hex-pointed", "square", "hex-flat"):
            box.setCurrentIndex(box.findData(grid))
            seen.append(dialog.tile_size)
        return False

    monkeypatch.setattr(GroundDialog, "exec", answer)
    comb.commands.action("New ground…").trigger()
    # Tiles of the comb have room above them, in which bees stand out.
    assert seen == [(24, 28), (16, 16), (24, 28)]


def test_a_sheet_of_hexagons_says_that_no_set_knits_them(window):
    session, joins = window.session, window.panels["joins"]
    tiles = np.concatenate([hexagon("hex-pointed", 48, 56, 0, n) for n in range(4)], axis=1)
    session.choose(sheet_id=add_sheet(session.document, "marsh.png", png(tiles)))
    session.set_stage("joins")
    assert any("No set can knit hexagons yet" in label.text() for label in joins.findChildren(QLabel))
    for name in ("New join set", "Find sets"):
        made = named(joins, QAbstractButton, name)
        assert not made.isEnabled()
        assert "No set can knit hexagons yet" in made.toolTip()
    for name in ("New join set…", "Find sets on this sheet"):
        assert "No set can knit hexagons yet" in window.commands.action(name).toolTip()


def test_a_new_ground_for_hexagons_is_one_of_hexagons(working):
    session = working.session
    tiles = np.concatenate([hexagon("hex-pointed", 48, 56, 8, n, (2, 4, 2, 0)) for n in range(4)], axis=1)
    sheet = add_sheet(session.document, "marsh.png", png(np.concatenate([tiles, tiles[:, ::-1]])))
    session.choose(sheet_id=sheet, cut_id=by_id(session.document.project.sheets, sheet).cuts[0].id, tile=None)
    assert usual_grid(session) == "hex-pointed"
    assert usual_cell(session, "hex-pointed") == (48, 56)
