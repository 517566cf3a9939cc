import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, QRectF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QPushButton, QSpinBox

from knitground.app.first_guess import LEAVE_WRITING_OUT, LOOSE
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import png, sheet_of_tiles
from window.choosing import bring, wait_until_read
from window.finding import open_menu, press, says, take


@pytest.fixture
def strange(tmp_path):
    """A sheet nobody has seen: margin 3, spacing 2, a key-coloured gutter."""
    pixels = sheet_of_tiles(7, 5, 16, 3, 2)
    pixels[pixels[..., 3] == 0] = (255, 0, 255, 255)
    path = tmp_path / "strange sheet.png"
    path.write_bytes(png(pixels))
    return path


def drop(window, *paths) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    at, none = QPointF(300, 400), Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(at.toPoint(), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, none)
    QApplication.sendEvent(window, enter)
    assert enter.isAccepted()
    event = QDropEvent(at, Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, none)
    QApplication.sendEvent(window, event)
    wait_until_read(len(paths))


def cut_of(window):
    return window.session.document.project.sheets[0].cuts[0]


def numbers(window) -> dict[str, QSpinBox]:
    return {box.accessibleName(): box for box in window.panels["sheet"].findChildren(QSpinBox)}


def test_an_empty_project_says_what_to_do_first(window):
    texts = [label.text() for label in window.panels["sheet"].findChildren(QLabel) if label.isVisible()]
    assert any(text.startswith("Drop a sprite sheet here, or a folder") for text in texts)
    assert window.session.choices.stage == "sheet"


def test_a_dropped_sheet_is_shown_cut_and_counted(window, strange):
    drop(window, strange)
    cut = cut_of(window)
    assert (cut.tile_width, cut.margin_x, cut.spacing_x) == (16, 3, 2)
    view = window.panels["sheet"].view
    assert view.isVisible()
    assert view.content_size() == (130, 94)
    assert numbers(window)["tile width"].value() == 16


def test_typed_numbers_change_the_cut_and_can_be_undone(window, strange):
    drop(window, strange)
    before = cut_of(window)
    box = numbers(window)["spacing x"]
    box.setFocus()
    box.lineEdit().selectAll()
    QTest.keyClicks(box, "5")
    QTest.keyClick(box, Qt.Key.Key_Return)
    assert cut_of(window).spacing_x == 5
    window.undo()
    assert cut_of(window) == before
    assert box.value() == 2


def test_a_number_that_does_not_fit_is_refused_in_a_sentence(window, strange):
    drop(window, strange)
    said = []
    window.session.said.connect(lambda sentence, problem: said.append((sentence, problem)))
    numbers(window)["tile width"].setValue(2000)
    assert cut_of(window).tile_width == 16
    assert numbers(window)["tile width"].value() == 16
    assert "does not fit" in said[-1][0]
    assert said[-1][1]


@pytest.mark.parametrize(
    ("handle", "field", "change"),
    [
        ("margin", ("margin_x", "margin_y"), (2, 1)),
        ("size", ("tile_width", "tile_height"), (-3, 4)),
        ("spacing", ("spacing_x", "spacing_y"), (3, 1)),
    ],
)
def test_handles_drag_the_numbers(window, hand, strange, handle, field, change):
    drop(window, strange)
    view = window.panels["sheet"].view
    before = cut_of(window)
    start = view.mode.handles(view)[handle]
    end = start + QPointF(change[0] * view.zoom, change[1] * view.zoom)
    hand.drag(view, start, (start + end) / 2, end)
    after = cut_of(window)
    assert tuple(getattr(after, name) - getattr(before, name) for name in field) == change
    assert [box.value() for name, box in numbers(window).items() if name.replace(" ", "_") in field] == [
        getattr(after, name) for name in field
    ]
    window.undo()
    assert cut_of(window) == before


def test_a_handle_cannot_be_dragged_off_the_picture(window, hand, strange):
    drop(window, strange)
    view = window.panels["sheet"].view
    for handle in ("margin", "size", "spacing"):
        start = view.mode.handles(view)[handle]
        hand.drag(view, start, start + QPointF(4000, 4000))
        hand.drag(view, view.mode.handles(view)["size"], QPointF(-4000, -4000))
        assert view.grid is not None
    assert not view.grab().isNull()


def test_a_key_colour_is_picked_off_the_picture_and_given_back(window, hand, strange):
    drop(window, strange)
    panel = window.panels["sheet"]
    assert not panel.view.sheet.keys
    QTest.mouseClick(panel.cut_card.clear.pick, Qt.MouseButton.LeftButton)
    height = panel.view.height()
    hand.click(panel.view, panel.view.to_widget(1, 1))
    assert panel.view.sheet.keys == ("#ff00ff",)
    QApplication.processEvents()
    assert panel.view.height() == height
    assert "#ff00ff is transparent now." in says(window.ledger)
    keyed = window.session.derived.sliced()
    pixels = window.session.document.state.pictures[panel.view.sheet.id].cleared(panel.view.sheet)
    assert (pixels[0] == 0).all()
    assert keyed
    chip = next(one for one in panel.findChildren(QPushButton) if one.text() == "#ff00ff")
    QTest.mouseClick(chip, Qt.MouseButton.LeftButton)
    assert panel.view.sheet.keys == ()


def test_left_over_pixels_are_told_and_shown(window, strange):
    drop(window, strange)
    panel = window.panels["sheet"]
    numbers(window)["tile width"].setValue(17)
    assert "px at the right" in says(panel)
    numbers(window)["tile width"].setValue(16)
    panel.view.grab()
    assert "Nothing is left over" in says(panel)


def test_guessing_again_mends_wrong_numbers(window, qtbot, strange):
    drop(window, strange)
    panel = window.panels["sheet"]
    numbers(window)["tile width"].setValue(21)
    numbers(window)["margin y"].setValue(7)
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    press(panel, "Guess the numbers")
    qtbot.waitUntil(lambda: cut_of(window).tile_width == 16, timeout=5000)
    assert cut_of(window).margin_y == 3
    QApplication.activePopupWidget().close()
    assert any("every" in sentence and "px" in sentence for sentence in said)


def test_what_is_no_image_is_told_and_changes_nothing(window, tmp_path):
    path = tmp_path / "notes.png"
    path.write_text("not a picture")
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    drop(window, path)
    assert window.session.document.project.sheets == ()
    assert "notes.png is not a PNG" in said[-1]


def test_several_sheets_have_tabs(window, hand, strange, tmp_path):
    other = tmp_path / "other.png"
    other.write_bytes(png(sheet_of_tiles(4, 4, 32)))
    drop(window, strange, other)
    panel = window.panels["sheet"]
    assert panel.view.sheet.id == "strange-sheet", "the first of those that came is shown"
    assert says(window.ledger).startswith("2 sheets are in, each cut by a first guess.")
    tab = next(one for one in panel.findChildren(QPushButton) if one.text() == "other")
    QTest.mouseClick(tab, Qt.MouseButton.LeftButton)
    assert panel.view.sheet.id == "other"


def test_a_sheet_is_taken_out_and_brought_back(window, strange):
    drop(window, strange)
    press(window.panels["sheet"], "More to do with this sheet")
    take(open_menu(), "Take this sheet out")
    assert window.session.document.project.sheets == ()
    window.undo()
    assert len(window.session.document.project.sheets) == 1


def test_the_picture_is_drawn_sharp(window, strange):
    drop(window, strange)
    view = window.panels["sheet"].view
    view.set_zoom(4)
    view.mode.paint = lambda painter, view: None
    corner = view.to_widget(3, 3).toPoint()
    image = view.grab().toImage()
    pixels = window.session.document.state.pictures["strange-sheet"].pixels
    for x in range(6):
        for dx in (0, 3):
            colour = image.pixelColor(corner + QPoint(4 * x + dx, 1))
            assert (
                np.abs(np.array([colour.red(), colour.green(), colour.blue()]) - pixels[3, 3 + x, :3].astype(int)).max()
                <= 1
            )


def test_where_a_sheet_goes_on_beyond_its_view_the_border_is_shaded(window, tmp_path):
    (tmp_path / "plain.png").write_bytes(png(np.full((64, 2000, 4), 200, dtype=np.uint8)))
    window.keeper.adder.add_sheet_files([tmp_path / "plain.png"])
    wait_until_read(1)
    view = window.panels["sheet"].view

    def dark() -> list[bool]:
        image, middle = view.grab().toImage(), round(view.to_widget(0, 33.5).y())
        plain = image.pixelColor(view.width() // 2, middle).lightness()
        return [image.pixelColor(x, middle).lightness() < plain - 20 for x in (1, view.width() - 2)]

    view.set_zoom(1)
    view.centre_on(view.width() / 2, 32)
    assert dark() == [False, True]
    view.centre_on(1000, 32)
    assert dark() == [True, True]
    view.centre_on(2000 - view.width() / 2, 32)
    assert dark() == [True, False]


def test_more_images_go_into_a_collection(window, tmp_path, monkeypatch, qtbot):
    for name, side in (("one", 8), ("two", 12), ("three", 20)):
        (tmp_path / f"{name}.png").write_bytes(png(np.full((side, side, 4), 200, dtype=np.uint8)))
    window.session.set_stage("sheet")
    window.keeper.adder.add_images([tmp_path / "one.png", tmp_path / "two.png"])
    sheets = lambda: window.session.document.project.sheets  # noqa: E731
    qtbot.waitUntil(lambda: len(sheets()) == 1, timeout=5000)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *args: ([str(tmp_path / "three.png")], ""))
    press(window.panels["sheet"], "Add a sprite sheet")
    take(open_menu(), "More images")
    qtbot.waitUntil(lambda: len(sheets()[0].images) == 3, timeout=5000)
    assert [cut.id for cut in sheets()[0].cuts] == ["one", "two", "three"]


def test_a_damaged_image_keeps_no_other_image_of_its_folder_out(window, tmp_path, qtbot):
    for name in ("one", "two"):
        (tmp_path / f"{name}.png").write_bytes(png(np.full((16, 16, 4), 200, dtype=np.uint8)))
    (tmp_path / "torn.png").write_bytes(b"nothing")
    said = []
    window.session.said.connect(lambda sentence, warns: said.append((sentence, warns)))
    window.keeper.adder.add_images([tmp_path])
    qtbot.waitUntil(lambda: bool(window.session.document.project.sheets), timeout=5000)
    assert [cut.id for cut in window.session.document.project.sheets[0].cuts] == ["one", "two"]
    assert said[-1][0].startswith("2 images are one tileset now")
    assert "Left out: torn.png is not" in said[-1][0]
    assert said[-1][1], "it warns"


def test_of_several_files_those_that_cannot_be_read_are_told_behind_the_others(window, tmp_path):
    for name in ("one", "two"):
        (tmp_path / f"{name}.png").write_bytes(png(np.full((16, 16, 4), 200, dtype=np.uint8)))
    (tmp_path / "torn.png").write_bytes(b"nothing")
    window.keeper.adder.add_sheet_files([tmp_path / f"{name}.png" for name in ("torn", "one", "two")])
    wait_until_read(3)
    assert "Left out: torn.png is not" in says(window.ledger)


def test_an_image_clicked_under_cut_is_what_the_brush_lays(window, hand, tmp_path, qtbot):
    for name, side in (("one", 16), ("two", 16)):
        (tmp_path / f"{name}.png").write_bytes(png(np.full((side, side, 4), 200, dtype=np.uint8)))
    session = window.session
    session.set_stage("sheet")
    window.show()
    window.keeper.adder.add_images([tmp_path])
    qtbot.waitUntil(lambda: len(session.document.project.sheets) == 1, timeout=5000)
    view = window.panels["sheet"].view
    (second,) = [ref for ref in view.tiles() if ref.cut == "two"]
    hand.click(view, view.rect_of(second).center())
    ground_id = add_ground(session.document, "Yard", 6, 6, (16, 16))
    layer_id = add_layer(session.document, ground_id, "Tiles")
    session.choose(ground_id=ground_id, layer_id=layer_id)
    hand.on_ground((2, 2))
    laid = np.asarray(session.document.state.planes[ground_id][layer_id]["cells"])
    assert session.document.palette.code(second) in laid


def test_zooming_out_shows_nothing_bare_while_something_is_hidden(working, hand):
    view = working.panels["joins"].view
    view.set_zoom(8, QPointF(0, 0))
    view.centre_on(0, view.content_size()[1])
    for _ in range(12):
        view.zoom_by(-1, QPointF(view.width() / 2, view.height() / 2))
        shown = view.rect_on_widget(0, 0, *view.content_size())
        room = QRectF(view.rect())
        for ends in (QRectF.left, QRectF.right), (QRectF.top, QRectF.bottom):
            before, behind = (end(shown) - end(room) for end in ends)
            assert before <= 30 or behind <= 1
            assert before >= -1 or behind >= -30


def test_a_collection_has_no_grid_to_set_or_guess_and_is_seen_whole(window, tmp_path, qtbot):
    for name, size in (("low", (28, 56)), ("high", (90, 56)), ("wide", (40, 100))):
        (tmp_path / f"{name}.png").write_bytes(png(np.full((*size, 4), 200, dtype=np.uint8)))
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    window.session.set_stage("sheet")
    window.show()
    window.keeper.adder.add_images([tmp_path])
    document = window.session.document
    qtbot.waitUntil(lambda: len(document.project.sheets) == 1, timeout=5000)
    panel, before = window.panels["sheet"], document.project
    shown = [one.text() for one in panel.findChildren(QPushButton) if one.isVisible()]
    assert "Standing" in shown
    assert not {"Grid", "Part", "Guess the numbers"} & set(shown)
    window.commands.action("Guess the numbers of the cut").trigger()
    assert "taken as they are" in said[-1]
    for name in (LOOSE, LEAVE_WRITING_OUT, "Cut a part of the sheet by numbers of its own"):
        window.commands.action(name).trigger()
        assert "taken as they are" in window.commands.action(name).toolTip()
    assert document.project == before
    whole = panel.view.rects_of(panel.view.tiles()).values()
    assert all(panel.view.rect().contains(rect.toRect()) for rect in whole)


@pytest.mark.parametrize("row", [0, 19])
def test_tiles_that_are_brought_into_view_leave_nothing_bare_beside_what_is_hidden(window, tmp_path, row):
    (tmp_path / "wide.png").write_bytes(png(sheet_of_tiles(45, 30)))
    drop(window, tmp_path / "wide.png")
    view = window.panels["sheet"].view
    view.set_zoom(8)
    refs = [TileRef("wide", cut_of(window).id, column, row) for column in range(14)]
    view.show_tiles(refs)
    wide, high = view.content_size()
    first, last = view.to_widget(0, 0), view.to_widget(wide, high)
    for begin, end, room in ((first.x(), last.x(), view.width()), (first.y(), last.y(), view.height())):
        assert not (begin > 1 and end > room + 1)
        assert not (end < room - 1 and begin < -1)
    assert all(view.rect().contains(rect.toRect()) for rect in view.rects_of(refs).values())


def test_files_that_are_read_one_by_one_come_in_order_and_stop_when_told_to(window, tmp_path):
    paths = [tmp_path / f"{name}.png" for name in ("three", "one", "two")]
    for number, path in enumerate(paths):
        path.write_bytes(png(sheet_of_tiles(9 - 3 * number, 3)) if number != 1 else b"broken")
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    drop(window, *paths)
    sheets = lambda: [sheet.id for sheet in window.session.document.project.sheets]  # noqa: E731
    assert sheets() == ["three", "two"]
    assert any("one.png" in sentence for sentence in said), "the one that cannot be read is told"
    jobs = []
    window.session.job_started.connect(jobs.append)
    window.keeper.adder.add_sheet_files([paths[0], paths[2]])
    jobs[0].cancel()
    wait_until_read(3)
    assert sheets() == ["three", "two"]


def test_other_sheets_follow_the_size_that_was_set_right_on_one(window, tmp_path, qtbot):
    paths = [tmp_path / f"{name}.png" for name in ("one", "two", "three")]
    for number, path in enumerate(paths):
        path.write_bytes(png(np.full((24 * (3 + 2 * number), 120, 4), 200, dtype=np.uint8)))
    bring(window, *paths)
    document = window.session.document
    for path in paths:
        set_cut(document, path.stem, Cut("tiles", 12, 12))
    window.session.choose(sheet_id="two")
    page = window.panels["sheet"].cut_card.grid
    assert not page.likewise.isVisible(), "all are cut alike"
    assert "cut in this size" in page.no_others()
    for name in ("tile width", "tile height"):
        numbers(window)[name].setValue(24)
    assert page.likewise.isVisible()
    assert page.likewise.text() == "Cut 2 others so, too"
    assert "in tiles of 24 x 24" in page.likewise.toolTip()
    assert page.likewise.toolTip().endswith("one, three")
    QTest.mouseClick(page.likewise, Qt.MouseButton.LeftButton)
    wait_until_read(1)
    assert [sheet.cuts[0].tile_height for sheet in document.project.sheets] == [24, 24, 24]
    assert says(window.ledger).startswith("one, three are cut in such tiles now.")
    assert not page.likewise.isVisible()
    document.undo()
    assert page.likewise.isVisible()
