"""Join sets of isometric tiles: labels lie on their diamonds, and the proof is an isometric ground."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox

from knitground.app.canvas.faces import face_of
from knitground.app.joins.marks import place_at, stitch_line
from knitground.core.edits.sets import add_join_set, set_labels
from knitground.core.edits.sheets import set_cut
from knitground.core.grid.projection import PixelRect
from knitground.core.joins.sets import MIDDLE
from knitground.core.project.proofing import proof_ground
from knitground.core.render.compositor import render
from knitground.core.render.scale import Scale
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png
from test_footing import block, grid_of_tiles
from window.finding import named

PADDED = Cut("tiles", 60, 44, shape="isometric", anchor="bottom", offset_x=-2, offset_y=5, foot=(48, 24))


@pytest.mark.parametrize("kind", ["corner", "edge", "full", "cell"])
@pytest.mark.parametrize("cut", [PADDED, Cut("tiles", 48, 24, shape="isometric"), Cut("tiles", 48, 24)])
def test_half_stitches_lie_on_the_face_of_a_tile(kind, cut):
    face = face_of(QRectF(100, 50, 3 * cut.tile_width, 3 * cut.tile_height), cut)
    for place in range({"full": 8, "cell": 9}.get(kind, 4)):
        line = stitch_line(face, kind, place)
        assert place_at(face, kind, line.center() if place == MIDDLE else line.p1()) == place
        for end in (line.p1(), line.p2()):
            there = face.from_centre(end)
            assert max(abs(there.x()), abs(there.y())) <= 0.5


def test_the_north_west_corner_of_an_isometric_tile_is_on_top_of_its_diamond():
    face = face_of(QRectF(0, 0, 60, 44), PADDED)
    # 6 pixels and 2 more at its left, 15 above it.
    assert face.corners == (QPointF(32, 15), QPointF(56, 27), QPointF(32, 39), QPointF(8, 27))
    assert face.centre == QPointF(32, 27)


@pytest.fixture
def terraces(window, tmp_path):
    """A window with a sheet of 16 padded isometric floors, and a corner set without labels."""
    document = window.session.document
    tiles = [block(48, 24, 0, (8, 15, 4, 5)) for _ in range(16)]
    for number, tile in enumerate(tiles):
        tile[..., :3][tile[..., 3] > 0] = (40 + 10 * number, 90, 120)
    add_sheet(document, "floor.png", png(grid_of_tiles(tiles, 4)))
    set_cut(document, "floor", replace(PADDED, id=document.project.sheets[0].cuts[0].id))
    (sheet,) = document.project.sheets
    set_id = add_join_set(document, "Terraces", "corner", ["Moss", "Slate"])
    window.session.set_stage("joins")
    window.session.choose(sheet_id=sheet.id, join_set_id=set_id, terrain=1)
    return window, sheet


def test_a_click_on_a_corner_of_the_diamond_labels_it(terraces, hand):
    window, sheet = terraces
    view = window.panels["joins"].view
    ref = TileRef(sheet.id, sheet.cuts[0].id, 1, 0)
    face = view.face_of(ref, view.rect_of(ref))
    for place in (0, 1):
        hand.click(view, stitch_line(face, "corner", place).p1())
    (join_set,) = window.session.document.project.join_sets
    assert join_set.labels[ref] == (1, 1, 0, 0)


def test_the_proof_of_an_isometric_set_has_no_gap_between_its_cells(terraces):
    window, sheet = terraces
    document = window.session.document
    set_id = document.project.join_sets[0].id
    for number in range(16):
        ref = TileRef(sheet.id, sheet.cuts[0].id, number % 4, number // 4)
        for place in range(4):
            set_labels(document, set_id, [(ref, place)], 1 + (number >> place & 1))
    derived = window.session.derived
    proof = proof_ground(derived, document.project.join_sets[0])
    assert proof is not None
    ground = proof.ground
    assert (ground.grid, ground.tile_width, ground.tile_height) == ("diamond", 48, 24)
    middle = PixelRect(24 * ground.width - 24, 12 * ground.height - 12, 48, 24)
    assert render(derived.scene(proof), middle, Scale())[..., 3].all()


def test_labels_are_read_as_the_cut_lies_and_the_tick_says_how_that_is(terraces, qtbot):
    window, sheet = terraces
    panel, document = window.panels["joins"], window.session.document
    panel.read_labels()
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20000)
    tick = named(panel, QCheckBox, "Isometric diamonds")
    assert tick.isChecked()
    before = panel.reading.proposal
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: panel.reading.proposal not in (None, before), timeout=20000)
    assert document.project.sheets[0].cuts[0].shape == "square"
    assert not tick.isChecked()
    document.undo()
    assert document.project.sheets[0].cuts[0] == sheet.cuts[0]
