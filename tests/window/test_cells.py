"""Areas painted by the cell, from a sheet to the ground."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QInputDialog

from knitground.app.canvas.faces import face_of
from knitground.app.joins.marks import place_at, stitch_line
from knitground.app.joins.tile_marks import TileMarks
from knitground.app.layers.layer_dialog import LayerDialog
from knitground.core.edits.layers import add_layer, move_layer
from knitground.core.edits.sets import label_tiles
from knitground.core.edits.sheets import set_cut
from knitground.core.joins.layouts import known_arrangements
from knitground.core.joins.sets import MIDDLE, PLACES, formed
from making import add_sheet, png
from window.finding import layer_button, menu_of, named, open_menu, painted, press, says, take

RIGHT = Qt.MouseButton.RightButton
SIDE = 16
ARRANGEMENT = next(one for one in known_arrangements() if one.id == "cells-counted")


def bed(labels: tuple[int, ...]) -> np.ndarray:
    """A bed with a margin round it on clear ground, and a nook where it ends between two edges that go on."""
    ys, xs = np.mgrid[:SIDE, :SIDE]
    ends = {"north": ys < 3, "south": ys > 12, "west": xs < 3, "east": xs > 12}
    there = np.ones((SIDE, SIDE), dtype=bool)
    for side, label in zip(("north", "east", "south", "west"), labels[4:8], strict=True):
        there &= bool(label) | ~ends[side]
    corners = (("north", "west"), ("north", "east"), ("south", "east"), ("south", "west"))
    for (one, other), label in zip(corners, labels[:4], strict=True):
        there &= bool(label) | ~(ends[one] & ends[other])
    return np.where(there[..., None], np.array([110, 70, 50, 255]), 0).astype(np.uint8)


@pytest.fixture
def beds(window, monkeypatch):
    """A set of cell joins without a label, and a sheet of 47 tiles in counted order."""
    sheet = np.zeros((6 * SIDE, 8 * SIDE, 4), dtype=np.uint8)
    for place, labels in ARRANGEMENT.tiles.items():
        column, row = map(int, place.split(","))
        sheet[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE] = bed(labels)
    document = window.session.document
    add_sheet(document, "art.png", png(sheet))
    cut = document.project.sheets[0].cuts[0]
    set_cut(document, "art", type(cut)(cut.id, SIDE, SIDE))
    window.session.set_stage("joins")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Beds", True))
    press(window.panels["joins"], "New join set")
    take(open_menu(), "Cell joins")
    return window


def labelled(beds, hand) -> None:
    panel = beds.panels["joins"]
    press(panel, "Arrangement…")
    take(open_menu(), ARRANGEMENT.name)
    hand.click(panel.view, panel.view.tile_on_widget(0, 0).center())


def laid(window, row: int, column: int) -> tuple[int, ...]:
    """The labels of the tile that lies in a cell."""
    session = window.session
    code = int(
        session.derived.knitted(session.ground.id).codes(session.layer.id, session.ground.board.whole)[row, column]
    )
    return session.document.project.join_sets[0].labels[session.document.palette.ref(code)]


def test_a_sheet_becomes_a_painted_area_with_lone_tile_line_and_inner_corner(beds, hand):
    labelled(beds, hand)
    panel = beds.panels["joins"]
    assert "47 of 47 present" in says(panel)
    assert beds.ground.view.shows_proof
    press(panel, "Paint with it")
    assert (beds.session.ground.tile_width, beds.session.layer.title) == (SIDE, "cell layer")
    assert beds.ground.view.tool.name == "draw"
    assert "lays cells" in says(beds.ground)
    beds.ground.view.set_zoom(2)
    beds.ground.view.centre_on(160, 140)
    beds.session.choose(radius=0)
    hand.on_ground((3, 3))
    assert laid(beds, 3, 3)[:8] == (0,) * 8
    hand.on_ground((5, 3), (5, 8))
    assert laid(beds, 5, 5)[4:8] == (0, 1, 0, 1)
    beds.ground.choose_tool("area")
    hand.on_ground((8, 3), (11, 8))
    hand.on_ground((9, 5), button=RIGHT)
    assert laid(beds, 8, 3) == (0, 0, 1, 0, 0, 1, 1, 0, 1)
    assert laid(beds, 10, 6) == (0, 1, 1, 1, 1, 1, 1, 1, 1)
    beds.session.say("")
    hand.move(beds.ground.view, hand.cell(9, 4))
    assert "cell joins “Beds”" in says(beds.ledger)
    for _ in range(4):
        beds.undo()
    assert not np.asarray(beds.session.document.state.planes[beds.session.ground.id]["beds"]["cells"]).any()


def seen(window, hand, row: int, column: int) -> np.ndarray:
    at = hand.cell(row, column).toPoint()
    return painted(window.ground.view)[at.y() - 14 : at.y() + 14, at.x() - 14 : at.x() + 14].astype(int)


def test_what_a_brush_an_area_and_a_fill_will_lay_is_seen_before_the_click(beds, hand):
    labelled(beds, hand)
    press(beds.panels["joins"], "Paint with it")
    view = beds.ground.view
    view.set_zoom(2)
    view.centre_on(160, 140)
    beds.session.choose(radius=0)
    hand.on_ground((4, 4))
    hand.move(view, QPointF(2, 2))
    lone, bare = seen(beds, hand, 4, 4), seen(beds, hand, 4, 5)
    hand.move(view, hand.cell(4, 5))
    # The lone tile beside would go on to the new one, and is seen to.
    assert (seen(beds, hand, 4, 4) != lone).any()
    assert (seen(beds, hand, 4, 5) != bare).any()
    assert laid(beds, 4, 4)[:8] == (0,) * 8
    hand.move(view, QPointF(2, 2))
    assert (seen(beds, hand, 4, 4) == lone).all()
    beds.ground.choose_tool("fill")
    hand.move(view, hand.cell(8, 8))
    assert (seen(beds, hand, 7, 9) != bare).any()
    hand.move(view, QPointF(2, 2))
    beds.ground.choose_tool("erase")
    hand.move(view, hand.cell(4, 4))
    assert (seen(beds, hand, 4, 4) != lone).any()
    assert laid(beds, 4, 4)[:8] == (0,) * 8


def test_two_terrains_of_one_set_lie_over_another_layers_ground_with_clear_borders(beds, hand):
    labelled(beds, hand)
    session = beds.session
    document, join_set = session.document, session.join_set
    lone = next(ref for ref, row in join_set.labels.items() if row == (0, 0, 0, 0, 0, 0, 0, 0, 1))
    press(beds.panels["joins"], "Add a terrain")
    label_tiles(document, join_set.id, {lone: (0, 0, 0, 0, 0, 0, 0, 0, 2)}, "label")
    press(beds.panels["joins"], "Paint with it")
    over = session.layer.id
    ground = session.ground.id
    below = add_layer(document, ground, "Floor", None, "tiles")
    move_layer(document, ground, below, 0)
    beds.ground.view.set_zoom(2)
    beds.ground.view.centre_on(160, 140)
    session.choose(layer_id=below, tile=next(ref for ref, row in join_set.labels.items() if row == (1,) * 9))
    beds.ground.choose_tool("fill")
    hand.on_ground((5, 5))
    session.choose(layer_id=over, terrain=1, radius=0)
    beds.ground.choose_tool("draw")
    hand.on_ground((5, 5), (5, 6))
    session.choose(terrain=2)
    assert "lays cells" in says(beds.ground)
    hand.on_ground((5, 7))
    assert laid(beds, 5, 7) == (0, 0, 0, 0, 0, 0, 0, 0, 2)
    # Terrain 1 knows no border with terrain 2, so it ends there as it does where nothing lies.
    assert laid(beds, 5, 6)[4:8] == (0, 0, 0, 1)
    at = beds.ground.view.point(5.05, 5.05).toPoint()
    assert painted(beds.ground.view)[at.y(), at.x(), :3].tolist() == [110, 70, 50]


def test_paint_with_it_takes_a_layer_that_is_there_and_tells_a_set_without_tiles(beds, hand):
    said = []
    beds.session.said.connect(lambda sentence, problem: said.append(sentence))
    press(beds.panels["joins"], "Paint with it")
    assert "has no tile yet" in said[-1]
    assert beds.session.ground is None
    labelled(beds, hand)
    for _ in range(2):
        beds.session.set_stage("joins")
        press(beds.panels["joins"], "Paint with it")
    assert [layer.name for layer in beds.session.ground.layers] == ["Beds"]
    beds.undo()
    assert beds.session.document.project.grounds == ()


def test_the_middle_of_a_tile_is_labelled_by_a_click_into_it(beds, hand):
    panel = beds.panels["joins"]
    beds.session.choose(tile=panel.view.ref_at(QPointF(20, 4)), terrain=1)
    marks = panel.findChild(TileMarks)
    for place in (QPointF(58, 58), QPointF(58, 6)):
        hand.click(marks, place)
    (labels,) = beds.session.join_set.labels.values()
    assert labels == (0, 0, 0, 0, 1, 0, 0, 0, 1)
    hand.click(marks, QPointF(58, 58), RIGHT)
    assert any("labelled only in part" in finding.sentence for finding in beds.session.findings)


def test_each_place_of_a_cell_tile_has_its_mark_where_it_is_clicked():
    from PySide6.QtCore import QRectF

    rect = QRectF(10, 20, 60, 60)
    for place in range(len(PLACES["cell"])):
        line = stitch_line(face_of(rect), "cell", place)
        assert place_at(face_of(rect), "cell", line.center() if place == MIDDLE else line.p1()) == place
        assert rect.contains(line.p1())
        assert rect.contains(line.p2())


def test_labels_of_cell_tiles_are_read_off_their_pixels(beds, qtbot):
    panel = beds.panels["joins"]
    press(panel, "Read labels")
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20_000)
    read = panel.reading.proposal.labels
    right = sum(formed(read[ref], 0) == formed(ARRANGEMENT.tiles[f"{ref.column},{ref.row}"], 0) for ref in read)
    assert (right, len(read)) == (47, 47)
    press(panel, "Take all")
    assert beds.session.derived.coverage(beds.session.join_set).lacking == 0


def test_the_ground_of_a_set_and_what_lies_off_the_map_are_choices(beds, hand, monkeypatch):
    labelled(beds, hand)
    panel = beds.panels["joins"]
    box = named(panel, QComboBox, "What lies round the tiles where nothing is painted")
    assert box.isVisible()
    assert [box.itemText(place) for place in range(box.count())] == ["nothing", "Bed"]
    press(panel, "Paint with it")
    beds.session.choose(radius=0)
    beds.ground.choose_tool("fill")
    beds.ground.view.set_zoom(1)
    beds.ground.view.centre_on(100, 100)
    hand.on_ground((3, 3))
    assert laid(beds, 0, 0) == (1,) * 9

    def untick(dialog: LayerDialog) -> int:
        dialog.show()
        named(dialog, QCheckBox, "Goes on off the map").click()
        dialog.accept()
        return 1

    monkeypatch.setattr(LayerDialog, "exec", untick)
    take(menu_of(layer_button(beds, "Beds")), "Look, place and blocking…")
    assert laid(beds, 0, 0) == (0, 0, 1, 0, 0, 1, 1, 0, 1)
    beds.undo()
    assert laid(beds, 0, 0) == (1,) * 9
