"""Reading labels, arrangements, made tiles, full joins and pins, through the window."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from knitground.app.canvas.faces import face_of
from knitground.app.jobs import are_running, wait_for_jobs
from knitground.app.joins.coverage_chart import CoverageChart
from knitground.app.joins.made_dialog import MadeDialog
from knitground.app.joins.marks import place_at, stitch_line
from knitground.app.joins.tile_marks import TileMarks
from knitground.app.terrain_list import TerrainButton
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer, remove_layer
from knitground.core.edits.sets import add_join_set, label_tiles
from knitground.core.edits.sheets import set_cut
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.lattice import doubled, labels_of
from knitground.core.joins.layouts import known_arrangements
from knitground.core.joins.quarters import Quarters, of_five
from knitground.core.joins.sets import PLACES
from knitground.core.layers.layer import PINS
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, poke, sheet_of_tiles, tile
from window.choosing import bring
from window.finding import in_dialog, layer_button, menu_of, named, open_menu, press, says, take

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
RIGHT = Qt.MouseButton.RightButton
SIDE = 16


def patch_tile(labels: tuple[int, ...]) -> np.ndarray:
    """A patch with a rim on clear ground, of the quarters that its labels ask for."""
    five = []
    for edges in ((0, 0, 0, 0), (0, 1, 0, 1), (1, 0, 1, 0), (1, 1, 1, 1)):
        base = np.zeros((SIDE, SIDE, 4), dtype=np.uint8)
        base[4:12, 4:12] = (70, 130, 60, 255)
        for (rows, columns), there in zip(
            ((slice(0, 4), slice(4, 12)), (slice(4, 12), slice(12, 16)), (slice(12, 16), slice(4, 12)),
             (slice(4, 12), slice(0, 4))), edges, strict=True,
        ):  # fmt: skip
            if there:
                base[rows, columns] = (70, 130, 60, 255)
        five.append(base)
    five.append(np.full((SIDE, SIDE, 4), (70, 130, 60, 255), dtype=np.uint8))
    return Quarters(of_five(five)).tile(labels)


@pytest.fixture
def full(window):
    """The joins stage on a sheet of 47 tiles in counted order, with an empty full set."""
    arrangement = next(one for one in known_arrangements() if one.id == "full-counted")
    sheet = np.zeros((6 * SIDE, 8 * SIDE, 4), dtype=np.uint8)
    for place, labels in arrangement.tiles.items():
        column, row = map(int, place.split(","))
        sheet[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE] = patch_tile(labels)
    document = window.session.document
    add_sheet(document, "art.png", png(sheet))
    cut = document.project.sheets[0].cuts[0]
    set_cut(document, "art", type(cut)(cut.id, SIDE, SIDE))
    add_join_set(document, "Patches", "full", ("Cover",))
    window.session.choose(join_set_id="patches", terrain=1)
    window.session.set_stage("joins")
    return window


def spot(window, column: int, row: int, x: float = 0.5, y: float = 0.5) -> QPointF:
    rect = window.panels["joins"].view.tile_on_widget(column, row)
    return QPointF(rect.x() + x * rect.width(), rect.y() + y * rect.height())


def ref(window, column: int, row: int) -> TileRef:
    sheet = window.session.document.project.sheets[0]
    return TileRef(sheet.id, sheet.cuts[0].id, column, row)


def truth() -> dict[tuple[int, int], tuple[int, ...]]:
    arrangement = next(one for one in known_arrangements() if one.id == "full-counted")
    return {tuple(map(int, place.split(","))): row for place, row in arrangement.tiles.items()}


@pytest.mark.parametrize("place", range(8))
def test_each_half_stitch_of_a_full_tile_is_nearest_to_its_own_place(place):
    from PySide6.QtCore import QRectF

    rect = QRectF(10, 20, 48, 48)
    line = stitch_line(face_of(rect), "full", place)
    assert place_at(face_of(rect), "full", line.p1()) == place
    assert rect.contains(line.p2())
    assert len(PLACES["full"]) == 8


def test_labels_read_off_the_pixels_are_looked_at_then_taken(full, hand, qtbot):
    panel = full.panels["joins"]
    panel.read_labels()
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20000)
    assert not full.session.join_set.labels
    hand.click(panel.view, spot(full, 6, 5))
    assert full.session.join_set.labels == {ref(full, 6, 5): (1,) * 8}
    panel.reading.take()
    assert panel.reading.proposal is None
    wanted = {ref(full, *place): row for place, row in truth().items() if any(row)}
    assert full.session.join_set.labels == wanted
    assert full.session.derived.coverage(full.session.join_set).lacking == 0
    full.undo()
    full.undo()
    assert not full.session.join_set.labels


def test_labels_that_are_proposed_are_put_away_when_their_cells_are_gone(full, qtbot):
    panel, document = full.panels["joins"], full.session.document
    panel.read_labels()
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20000)
    sheet = document.project.sheets[0]
    set_cut(document, sheet.id, Cut(sheet.cuts[0].id, 8, 8))
    assert panel.reading.proposal is None
    said: list[str] = []
    full.session.said.connect(lambda sentence, _: said.append(sentence))
    panel.read_labels()
    document.undo()
    qtbot.waitUntil(lambda: any("cut anew meanwhile" in one for one in said), timeout=20000)
    assert panel.reading.proposal is None


def test_a_drag_over_what_is_proposed_takes_all_that_it_touches_as_one_step(full, hand, qtbot):
    panel = full.panels["joins"]
    panel.read_labels()
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20000)
    touched = {ref(full, column, row) for column in (2, 3, 4) for row in (1, 2)} & set(panel.reading.proposal.labels)
    assert len(touched) > 2
    before = set(panel.reading.proposal.labels)
    hand.drag(panel.view, spot(full, 2, 1), spot(full, 4, 2))
    assert set(full.session.join_set.labels) == touched
    assert set(panel.reading.proposal.labels) == before - touched
    full.undo()
    assert not full.session.join_set.labels


def test_a_proposal_that_is_dropped_leaves_everything(full, hand, qtbot):
    panel = full.panels["joins"]
    panel.read_labels()
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20000)
    hand.key(panel.view, Qt.Key.Key_Escape)
    assert panel.reading.proposal is None
    assert not full.session.join_set.labels


def test_ctrl_chooses_cells_and_only_they_are_read(full, hand, qtbot):
    panel = full.panels["joins"]
    hand.click(panel.view, spot(full, 1, 1), modifier=CONTROL)
    assert full.session.choices.selection == {ref(full, 1, 1)}
    hand.click(panel.view, spot(full, 1, 1), modifier=CONTROL)
    assert not full.session.choices.selection
    panel.read_labels()
    qtbot.waitUntil(lambda: panel.reading.proposal is not None, timeout=20000)
    assert len(panel.reading.proposal.labels) == 47
    panel.reading.drop()
    full.session.choose(selection=frozenset({ref(full, 0, 1)}))
    said = []
    full.session.said.connect(lambda sentence, problem: said.append(sentence))
    panel.read_labels()
    assert "two or more" in said[-1]


def test_an_arrangement_labels_a_block_in_one_click(full, hand):
    panel = full.panels["joins"]
    arrangement = next(one for one in known_arrangements() if one.id == "full-counted")
    press(panel, "Arrangement…")
    take(open_menu(), arrangement.name)
    hand.move(panel.view, spot(full, 0, 0))
    hand.click(panel.view, spot(full, 0, 0))
    assert full.session.choices.arrangement is None
    assert full.session.join_set.labels == {ref(full, *place): row for place, row in truth().items() if any(row)}


def test_an_arrangement_is_learned_from_chosen_cells(full, hand, monkeypatch):
    panel = full.panels["joins"]
    for x, y in ((0.1, 0.1), (0.5, 0.05)):
        hand.click(panel.view, spot(full, 2, 2, x, y))
    hand.click(panel.view, spot(full, 3, 2), modifier=SHIFT)
    full.session.choose(selection=frozenset({ref(full, 2, 2), ref(full, 3, 2)}))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Two", True))
    press(panel, "Arrangement…")
    take(open_menu(), "Learn the arrangement")
    (learnt,) = full.session.document.project.arrangements
    press(panel, "Arrangement…")
    take(open_menu(), learnt.name)
    hand.click(panel.view, spot(full, 5, 4))
    labels = full.session.join_set.labels
    assert labels[ref(full, 5, 4)] == labels[ref(full, 2, 2)] == (1, 0, 0, 0, 1, 0, 0, 0)
    assert labels[ref(full, 6, 4)] == (1,) * 8


def test_five_chosen_tiles_make_the_other_42(full, hand, monkeypatch):
    panel = full.panels["joins"]
    places = {row: place for place, row in truth().items()}
    five = [(0,) * 8, (0, 0, 0, 0, 0, 1, 0, 1), (0, 0, 0, 0, 1, 0, 1, 0), (0, 0, 0, 0, 1, 1, 1, 1), (1,) * 8]
    label_tiles(full.session.document, "patches", {ref(full, *places[row]): row for row in five if any(row)}, "label")
    full.session.choose(selection=frozenset(ref(full, *places[row]) for row in five))
    shown = []

    def accept(dialog) -> None:
        assert isinstance(dialog, MadeDialog)
        shown.append(len(dialog.chosen))
        dialog.list.item(0).setSelected(False)
        dialog.list.setFocus()
        QTest.keyClick(dialog.list, Qt.Key.Key_Down)
        QTest.keyClick(dialog.list, Qt.Key.Key_Return)

    in_dialog(accept)
    panel.make_missing()
    assert shown == [42]
    session = full.session
    coverage = session.derived.coverage(session.join_set)
    assert (coverage.lacking, session.document.project.sheets[-1].made) == (1, True)
    assert "until one is drawn" in says(panel)
    full.undo()
    assert len(session.document.project.sheets) == 1


def test_areas_and_runs_are_painted_on_a_full_layer(full, hand):
    session = full.session
    label_tiles(
        session.document, "patches", {ref(full, *place): row for place, row in truth().items() if any(row)}, "label"
    )
    made = add_ground(session.document, "Field", 20, 15, (SIDE, SIDE))
    add_layer(session.document, made, "Patches", "patches")
    session.set_stage("ground")
    full.ground.view.set_zoom(1)
    full.ground.view.centre_on(160, 120)
    hand.on_ground((3.5, 3.5), (3.5, 9.5))
    hand.key(full.ground, "w")
    assert session.choices.runs
    hand.on_ground((10, 3), (10, 12), (5, 12))

    def painted():
        return {name: np.asarray(plane) for name, plane in session.document.state.planes[made]["patches"].items()}

    planes = painted()
    assert (planes["corners"][4, 4:11] == 1).all()
    assert (planes["along"][10, 4:13] == 1).all()
    assert all(is_formed(row) for row in labels_of(doubled(planes), "full").reshape(-1, 8).tolist())
    codes = session.derived.knitted(made).codes("patches", full.ground.view.cells_in_view())
    assert (codes >= 0).all()
    assert (codes[10, 3:13] > 0).all()
    hand.on_ground((10, 6), button=RIGHT)
    assert not painted()["along"][10, 6:8].any()
    hand.key(full.ground, "f")
    hand.on_ground((10, 3))
    full.undo()


def test_turning_is_a_choice_of_the_set(full):
    panel = full.panels["joins"]
    label_tiles(full.session.document, "patches", {ref(full, 1, 0): (0, 0, 0, 0, 1, 0, 0, 0)}, "label")
    assert full.session.derived.coverage(full.session.join_set).present == 1
    press(panel, "Lay tiles in quarter turns")
    found = full.session.derived.coverage(full.session.join_set)
    assert (found.present, found.turned) == (4, 3)
    assert len(panel.findChild(CoverageChart).groups["turned"]) == 3
    press(panel, "Lay tiles in quarter turns")
    press(panel, "Lay tiles mirrored top to bottom")
    assert full.session.derived.coverage(full.session.join_set).present == 2


def test_the_large_tile_is_painted_like_the_sheet(full, hand):
    panel = full.panels["joins"]
    full.session.choose(tile=ref(full, 1, 0))
    marks = panel.findChild(TileMarks)
    hand.click(marks, QPointF(58, 8))
    assert full.session.join_set.labels[ref(full, 1, 0)] == (0, 0, 0, 0, 1, 0, 0, 0)
    hand.click(marks, QPointF(8, 8))
    hand.click(marks, QPointF(58, 8), button=RIGHT)
    assert full.session.join_set.labels[ref(full, 1, 0)] == (1, 0, 0, 0, 0, 0, 0, 0)


def test_a_pin_stays_where_it_is_put_until_it_is_taken_out(working, hand):
    session = working.session
    session.choose(layer_id="areas", tile=tile(9, 3), radius=0)
    hand.key(working.ground, "n")
    hand.on_ground((4, 4), (4, 7))
    code = session.document.palette.code(tile(9, 3))

    def pins():
        return np.asarray(session.document.state.planes["ground"]["areas"][PINS])

    assert (pins()[4, 4:8] == code).all()
    hand.key(working.ground, "d")
    session.choose(terrain=2, radius=4)
    hand.on_ground((4, 4), (4, 7))
    seen = session.derived.knitted("ground").codes("areas", working.ground.view.cells_in_view())
    assert (seen == code).sum() == 4
    hand.key(working.ground, "n")
    session.choose(radius=0)
    hand.on_ground((4, 4), button=RIGHT)
    assert (pins() > 0).sum() == 3
    working.undo()
    assert (pins() > 0).sum() == 4
    session.choose(layer_id="things")
    said = []
    session.said.connect(lambda sentence, problem: said.append(sentence))
    hand.on_ground((4, 4))
    assert "knit or stitched" in said[-1]


def test_a_layer_is_pinned_baked_and_read_back_by_its_menu(working):
    session = working.session
    take(menu_of(layer_button(working, "Areas")), "Pin what is in view")
    pins = np.asarray(session.document.state.planes["ground"]["areas"][PINS])
    assert (pins > 0).any()
    take(menu_of(layer_button(working, "Areas")), "Take all pins out")
    assert not np.asarray(session.document.state.planes["ground"]["areas"][PINS]).any()
    take(menu_of(layer_button(working, "Areas")), "Bake")
    baked = session.ground.layer("areas")
    assert isinstance(baked, TileLayer)
    take(menu_of(layer_button(working, "Areas")), "Read back what “Areas”")
    assert isinstance(session.layer, TerrainLayer)
    assert (np.asarray(session.document.state.planes["ground"][session.choices.layer_id]["corners"]) == 1).all()


def test_a_stroke_goes_on_beyond_the_border_of_a_ground_that_goes_round(working, hand):
    session = working.session
    session.set_stage("ground")
    session.choose(layer_id="areas", terrain=2, radius=1)
    for border in ("Goes round sideways", "Goes round up and down"):
        press(working.panels["ground"], border)
    assert (session.ground.wraps_x, session.ground.wraps_y) == (True, True)
    working.ground.view.centre_on(0, 0)
    hand.on_ground((-0.5, -0.5))
    corners = session.document.state.planes["ground"]["areas"]["corners"]
    assert corners[0, 0] == corners[14, 0] == corners[0, 19] == 2
    codes = session.derived.knitted("ground").codes("areas", working.ground.view.cells_in_view()._replace(
        top=0, left=0, height=15, width=20
    ))  # fmt: skip
    assert codes[14, 19] == session.document.palette.code(tile(15, 0))


def test_a_terrain_is_taken_out_with_its_labels_and_a_set_only_when_nothing_is_knit_from_it(working):
    session = working.session
    document: Document = session.document
    poke(document, "areas", "corners", np.s_[3:6, 3:6], 2)
    before = len(session.join_set.labels)
    session.set_stage("joins")
    take(menu_of(named(working.panels["joins"], TerrainButton, "Terrain B")), "Remove")
    assert len(session.join_set.terrains) == 1
    assert all(max(row) <= 1 for row in session.join_set.labels.values())
    assert (np.asarray(document.state.planes["ground"]["areas"]["corners"]) == 1).all()
    said = []
    session.said.connect(lambda sentence, problem: said.append(sentence))
    take(menu_of(named(working.panels["joins"], TerrainButton, "Terrain A")), "Remove")
    assert "needs a terrain" in said[-1]
    working.undo()
    assert len(session.join_set.labels) == before
    from knitground.core.edits.removing import remove_join_set
    from knitground.core.errors import BadRequest

    with pytest.raises(BadRequest, match="knit from this set"):
        remove_join_set(document, "areas")
    remove_layer(document, "ground", "areas")
    remove_join_set(document, "areas")
    assert [one.id for one in document.project.join_sets] == ["lines"]


def test_a_sheet_a_little_too_wide_for_its_pane_is_shown_smaller_and_whole(window, tmp_path):
    window.resize(1280, 800)
    name = tmp_path / "dunes.png"
    name.write_bytes(png(sheet_of_tiles(8, 3, 18, 5, 3)))
    bring(window, name)
    window.session.set_stage("joins")
    QApplication.processEvents()
    view = window.panels["joins"].view
    width = view.content_size()[0] * view.zoom
    assert (view.origin.x() >= 0, view.origin.x() + width <= view.width()) == (True, True)
    assert 18 * view.zoom >= 24, "the tiles can still be hit"


def test_sets_that_are_still_looked_for_when_the_window_goes_are_told_to_nobody(working, qtbot):
    working.session.set_stage("joins")
    working.commands.action("Find sets on this sheet").trigger()
    assert are_running()
    working.panels["joins"].deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    wait_for_jobs()
    qtbot.waitUntil(lambda: not are_running(), timeout=5000)
