import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from knitground.core.edits.layers import remove_layer
from knitground.core.edits.pins import pin
from knitground.core.grid.rect import CellRect as Cells
from knitground.core.grid.shapes import Shape
from knitground.core.project.derived import Derived
from making import cell_pixels, poke, tile
from window.choosing import choose, plane
from window.finding import layer_button, press, says

RIGHT = Qt.MouseButton.RightButton


def seen_cell(window, row: int, column: int) -> np.ndarray:
    """The pixels of a cell as they are on the screen, reduced to one for each of the art."""
    view = window.ground.view
    rect = view.cells_rect(Cells(row, column, 1, 1)).toRect()
    image = view.grab(rect).toImage().convertToFormat(view.grab().toImage().Format.Format_RGBA8888)
    pixels = np.array(image.constBits()).reshape(image.height(), image.bytesPerLine() // 4, 4)
    zoom = int(view.zoom)
    return pixels[zoom // 2 :: zoom, zoom // 2 :: zoom][:, : rect.width() // zoom]


def true_cell(window, row: int, column: int) -> np.ndarray:
    return cell_pixels(Derived(window.session.document), Cells(row, column, 1, 1))


def test_painting_a_terrain_reknits_what_is_seen(working, hand):
    choose(working, "areas", terrain=2, radius=1)
    hand.on_ground((4.5, 5.5), (4.5, 9.5))
    hand.move(working.ground.view, QPointF(1, 1))
    corners = plane(working, "areas", "corners")
    assert (corners[4:7, 5:12] == 2).sum() > 12
    for cell in ((4, 6), (3, 5), (5, 9), (9, 9)):
        assert np.array_equal(seen_cell(working, *cell), true_cell(working, *cell))


def test_a_stroke_is_one_step_of_undo_and_redo(working, hand):
    choose(working, "areas", terrain=2)
    before = plane(working, "areas", "corners").copy()
    hand.on_ground((2, 2), (2, 9), (8, 9))
    after = plane(working, "areas", "corners").copy()
    assert not np.array_equal(before, after)
    QTest.keyClick(working.ground.view, "z", Qt.KeyboardModifier.ControlModifier)
    assert np.array_equal(plane(working, "areas", "corners"), before)
    QTest.keyClick(working.ground.view, "y", Qt.KeyboardModifier.ControlModifier)
    assert np.array_equal(plane(working, "areas", "corners"), after)


def test_undo_in_the_middle_of_a_stroke_waits_and_escape_takes_the_stroke_back(working, hand):
    choose(working, "areas", terrain=2)
    view, left, none = working.ground.view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    hand.on_ground((1, 1), (1, 4))
    before = plane(working, "areas", "corners").copy()
    QTest.mousePress(view, left, none, hand.cell(6, 6).toPoint())
    hand.move(view, hand.cell(6, 9), left)
    QTest.keyClick(view, "z", Qt.KeyboardModifier.ControlModifier)
    hand.move(view, hand.cell(8, 9), left)
    assert int((plane(working, "areas", "corners") == 2).sum()) > int((before == 2).sum()) + 4
    QTest.keyClick(view, Qt.Key.Key_Escape)
    QTest.mouseRelease(view, left, none, hand.cell(8, 9).toPoint())
    assert np.array_equal(plane(working, "areas", "corners"), before)
    assert working.session.document.undo_label == "draw"


def test_a_quick_stroke_leaves_no_holes(working, hand):
    choose(working, "things", tile=tile(3, 3))
    hand.on_ground((7, 2), (7, 17))
    assert (plane(working, "things", "cells")[7, 2:18] > 0).all()


def test_the_right_button_and_the_eraser_take_away(working, hand):
    choose(working, "things", tile=tile(3, 3))
    hand.on_ground((3, 3), (3, 8))
    hand.on_ground((3, 4), (3, 5), button=RIGHT)
    hand.key(working.ground.view, "x")
    hand.on_ground((3, 7))
    assert (plane(working, "things", "cells")[3, 3:9] > 0).tolist() == [True, False, False, True, False, True]


def test_erasing_a_terrain_that_cannot_border_on_nothing_leaves_the_first(working, hand):
    choose(working, "areas", terrain=2, radius=2)
    hand.on_ground((6, 6))
    choose(working, "areas", "erase", radius=3)
    hand.on_ground((6, 6))
    assert (plane(working, "areas", "corners") == 1).all()


def test_dragging_on_edges_lays_a_connected_run(working, hand):
    choose(working, "lines", terrain=1)
    hand.on_ground((5, 3), (5, 8), (9, 8))
    assert plane(working, "lines", "along")[5, 4:9].all()
    assert plane(working, "lines", "across")[6:10, 8].all()
    codes = Derived(working.session.document).knitted("ground").codes("lines", Cells(0, 0, 15, 20))
    assert (codes[5, 3:9] > 0).all()
    assert (codes >= 0).all()
    hand.on_ground((5, 5), button=RIGHT)
    assert not plane(working, "lines", "along")[5, 5:7].any()


def test_a_rectangle_is_laid_when_the_button_goes_up_and_not_before(working, hand):
    choose(working, "walls", "area", terrain=1)
    view = working.ground.view
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, hand.cell(2, 2).toPoint())
    hand.move(view, hand.cell(5, 9), Qt.MouseButton.LeftButton)
    assert not plane(working, "walls", "plan").any()
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, hand.cell(5, 9).toPoint())
    assert plane(working, "walls", "plan").sum() == 4 * 8
    assert plane(working, "walls", "plan")[2:6, 2:10].all()


def test_escape_drops_a_rectangle(working, hand):
    choose(working, "walls", "area")
    view = working.ground.view
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, hand.cell(2, 2).toPoint())
    hand.key(view, Qt.Key.Key_Escape)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, hand.cell(5, 9).toPoint())
    assert not plane(working, "walls", "plan").any()


def test_a_rectangle_on_edges_is_a_run_once_round(working, hand):
    choose(working, "lines", "area", terrain=1)
    hand.on_ground((3, 3), (6, 8))
    along, across = plane(working, "lines", "along"), plane(working, "lines", "across")
    assert along.sum() == 2 * 5
    assert across.sum() == 2 * 3


def test_fill_stays_inside_its_region(working, hand):
    choose(working, "areas", "area", terrain=2)
    hand.on_ground((3.5, 3.5), (9.5, 12.5))
    choose(working, "areas", "fill", terrain=1)
    hand.on_ground((5.5, 5.5))
    assert (plane(working, "areas", "corners") == 1).all()


SHARES = (0.6, 0.7, 0.75, 0.8, 0.9)


def test_a_mix_is_seen_before_it_is_laid_thrown_again_by_a_key_and_lands_on_a_click(working, hand):
    session = working.session
    from knitground.core.grow.mix import Mix, MixPart

    session.put_mix(Mix("m", "M", (MixPart(tile(2, 3), 1), MixPart(tile(5, 3), 1))), "add mix")
    choose(working, "things", "fill", mix_id="m", lays_mix=True)
    view = working.ground.view
    bare = seen_cell(working, 4, 4).astype(float)
    hand.move(view, hand.cell(7, 9))
    first = seen_cell(working, 4, 4).copy(), seen_cell(working, 4, 5).copy(), seen_cell(working, 9, 12).copy()
    assert not plane(working, "things", "cells").any()
    thrown = []
    for _ in range(6):
        hand.key(view, "r")
        hand.move(view, hand.cell(7, 9))
        thrown.append(
            [
                seen_cell(working, 4, 4).copy(),
                seen_cell(working, 4, 5).copy(),
                seen_cell(working, 9, 12).copy(),
            ]
        )
    assert any((one != before).any() for throw in thrown for one, before in zip(throw, first, strict=True))
    hand.click(view, hand.cell(7, 9))
    cells = plane(working, "things", "cells")
    assert (cells > 0).all()
    assert 0.3 < (cells == cells[0, 0]).mean() < 0.7
    for place, pixels in zip(((4, 4), (4, 5), (9, 12)), thrown[-1], strict=True):
        # It was seen through: a little of the bare ground, and the most of what lies there now.
        shares = [np.abs(pixels - (share * true_cell(working, *place) + (1 - share) * bare)).max() for share in SHARES]
        assert min(shares) <= 2


def test_picking_takes_tile_and_terrain_in_hand(working, hand):
    poke(working.session.document, "things", "cells", np.s_[6, 6], working.session.document.palette.code(tile(7, 3)))
    choose(working, "things", "pick", tile=tile(0, 0))
    hand.on_ground((6, 6))
    assert working.session.choices.tile == tile(7, 3)
    poke(working.session.document, "areas", "corners", np.s_[9, 9], 2)
    choose(working, "areas", "pick", terrain=1)
    hand.on_ground((8.5, 8.5))
    assert working.session.choices.terrain == 2


def test_of_a_layer_that_others_lay_what_is_pinned_is_picked(demo, qtbot):
    session = demo.session
    session.set_stage("ground")
    session.choose(layer_id="dressing", tile=None)
    demo.ground.choose_tool("pick")
    view, cell = demo.ground.view, (12, 9)
    view.centre_on(cell[1] * 16 + 8, cell[0] * 16 + 8)
    middle = QPoint(view.width() // 2, view.height() // 2)
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle)
    assert session.choices.tile is None
    assert session.document.state.planes["long-roof"]["dressing"].get("pins") is None
    wanted = next(iter(session.document.project.join_sets[0].labels))
    rect = Cells(*cell, 1, 1)
    pin(
        session.document,
        "long-roof",
        "dressing",
        Shape(rect, np.ones((1, 1), bool)),
        session.document.palette.code(wanted),
    )
    demo.ground.choose_tool("pick")
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle)
    assert session.choices.tile == wanted


def test_the_wheel_zooms_to_the_pointer(working, qtbot):
    from PySide6.QtGui import QWheelEvent
    from PySide6.QtWidgets import QApplication

    view = working.ground.view
    at = QPointF(200, 150)
    before = view.to_content(at)
    for turn in (120, 120, -120):
        none = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
        event = QWheelEvent(at, view.mapToGlobal(at), QPoint(), QPoint(0, turn), *none, False)
        QApplication.sendEvent(view, event)
        after = view.to_content(at)
        assert abs(after.x() - before.x()) <= 1
        assert abs(after.y() - before.y()) <= 1
    assert view.zoom == 4


def test_the_middle_button_and_the_arrows_pan(working, hand):
    view = working.ground.view
    before = view.to_widget(0, 0)
    hand.drag(view, QPointF(200, 200), QPointF(240, 230), button=Qt.MouseButton.MiddleButton)
    assert view.to_widget(0, 0) == before + QPointF(40, 30)
    hand.key(view, Qt.Key.Key_Left)
    assert view.to_widget(0, 0).x() > before.x() + 40


def test_every_zoom_shows_the_ground_without_a_fault(working):
    view = working.ground.view
    for steps in (-12, *[1] * 16):
        view.zoom_by(steps)
        assert not view.grab().isNull()


def test_what_lies_under_the_pointer_is_told(working, hand):
    choose(working, "areas")
    hand.move(working.ground.view, hand.cell(3, 5))
    texts = says(working.ledger).splitlines()
    assert "x 5  y 3" in texts
    assert any("corner joins “Areas”, A A A A" in text for text in texts)


def test_what_is_told_follows_when_the_ground_moves_below_a_pointer_that_rests(working, hand):
    view, told = working.ground.view, list[object]()
    hand.move(view, hand.cell(5, 5))
    working.ground.view.pointed.connect(told.append)
    view.centre_on(view.place[1].x() + 2 * working.session.ground.tile_width, view.place[1].y())
    assert told[-1] == (5.5, 7.5)


def test_what_was_just_laid_is_told_at_once(working, hand):
    choose(working, "walls", terrain=1)
    hand.on_ground((6, 4), (6, 7))
    assert "stitch 1 of “Walls”" in says(working.ledger)
    hand.on_ground((6, 7), button=RIGHT)
    assert "bare" in says(working.ledger).splitlines()


def test_keys_choose_tools_grid_and_brush(working):
    view = working.ground.view
    view.setFocus()
    for key, name in (("x", "erase"), ("f", "fill"), ("a", "area"), ("k", "pick"), ("d", "draw")):
        QTest.keyClick(view, key)
        assert view.tool.name == name
    QTest.keyClick(view, "g")
    assert view.grid
    QTest.keyClick(view, "]")
    QTest.keyClick(view, "]")
    QTest.keyClick(view, "[")
    assert working.session.choices.radius == 1


def test_hiding_a_layer_shows_what_is_below(working, hand, qtbot):
    choose(working, "things", tile=tile(9, 3))
    hand.on_ground((5, 5))
    hand.move(working.ground.view, QPointF(1, 1))
    above = seen_cell(working, 5, 5).copy()
    entry = layer_button(working, "Things")
    QTest.mouseClick(entry, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, entry._eye().center().toPoint())
    qtbot.waitUntil(lambda: np.array_equal(seen_cell(working, 5, 5), true_cell(working, 5, 5)))
    assert not np.array_equal(seen_cell(working, 5, 5), above)


def test_drawing_without_a_layer_or_tile_says_what_to_do(working, hand):
    said = []
    working.session.said.connect(lambda sentence, problem: said.append(sentence))
    choose(working, "things", tile=None)
    working.session.set_stage("sheet")
    hand.on_ground((3, 3))
    press(working.ledger, "Stage Ground")
    assert working.session.choices.stage == "ground"
    for layer in list(working.session.ground.layers):
        remove_layer(working.session.document, "ground", layer.id)
    hand.on_ground((3, 3))
    assert "No tile is chosen" in said[0]
    assert "no layer yet" in said[-1]


@pytest.mark.parametrize("layer", ["areas", "walls", "things"])
def test_dragging_off_the_ground_is_harmless(working, hand, layer):
    choose(working, layer, tile=tile(1, 3), radius=3)
    for tool in ("draw", "area", "erase"):
        working.ground.choose_tool(tool)
        hand.on_ground((3, 3), (-9, -9), (40, 60))
    working.ground.choose_tool("fill")
    hand.on_ground((-9, -9))
    working.ground.choose_tool("pick")
    hand.on_ground((40, 60))
    assert not working.ground.view.grab().isNull()


def test_a_very_large_region_is_filled_beside_the_window(window, hand, qtbot):
    from making import make_document

    window.session.open(make_document(1200, 1100))
    window.session.set_stage("ground")
    choose(window, "things", "fill", tile=tile(3, 3))
    hand.on_ground((4, 4))
    qtbot.waitUntil(lambda: bool((plane(window, "things", "cells") > 0).all()), timeout=20_000)
    window.undo()
    assert not plane(window, "things", "cells").any()
