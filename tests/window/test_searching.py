"""Finding sets on a sheet, in the window."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLineEdit, QPushButton

from knitground.app.joins.made_dialog import MadeDialog
from knitground.app.widgets import Tick
from knitground.core.edits.cuts import set_parts
from knitground.core.edits.sheets import read_picture, set_cut
from knitground.core.edits.things import put
from knitground.core.grid.rect import CellRect
from knitground.core.joins.words import in_words
from knitground.core.project.proofing import LAYER
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.tiles.tile import NUMBER_MASK
from making import DEMO, add_sheet, block, corner_set, edge_set, ground_art, png, sheet_of_tiles
from test_joining import moor
from test_moving import laid, sheet_of, shore
from window.finding import named, press, says


@pytest.fixture
def trims(window, qtbot):
    """The joins stage on a sheet with two sets of edges, which have been found."""
    document = window.session.document
    add_sheet(document, "trims.png", (DEMO / "sheets" / "trims.png").read_bytes())
    set_cut(document, "trims", Cut(document.project.sheets[0].cuts[0].id, 16, 16))
    window.session.set_stage("joins")
    press(window.panels["joins"], "Find sets")
    qtbot.waitUntil(lambda: "2 sets found" in says(window.panels["joins"]), timeout=20_000)
    return window


def names(window) -> list[str]:
    return [one.name for one in window.session.document.project.join_sets]


def test_the_set_at_the_pointer_shows_its_proof_and_a_click_takes_it(trims, hand):
    view = trims.panels["joins"].view
    assert view.rect().contains(view.tile_on_widget(7, 7).toRect())
    assert trims.ground.view.shows_proof
    first = trims.ground.view.knitted.ground.name
    hand.move(view, view.tile_on_widget(3, 2).center())
    second = trims.ground.view.knitted.ground.name
    assert second != first
    assert names(trims) == []
    hand.click(view, view.tile_on_widget(3, 2).center())
    assert names(trims) == [second]
    assert "1 set found" in says(trims.panels["joins"])
    trims.undo()
    assert names(trims) == []


def test_who_takes_all_has_the_set_at_hand_that_was_pointed_at(trims, hand):
    panel = trims.panels["joins"]
    hand.move(panel.view, panel.view.tile_on_widget(3, 2).center())
    pointed = trims.ground.view.knitted.ground.name
    press(panel, "Take all")
    assert len(names(trims)) == 2
    assert (trims.session.join_set.name, names(trims)[0] != pointed) == (pointed, True)


def test_a_proof_shows_tiles_with_something_on_top_as_seldom_as_they_will_come(window, qtbot):
    plain = read_picture("trims.png", (DEMO / "sheets" / "trims.png").read_bytes()).pixels
    decked = plain.copy()
    for x, y in np.ndindex(plain.shape[1] // 16, plain.shape[0] // 16):
        tile = decked[y * 16 : y * 16 + 16, x * 16 : x * 16 + 16]
        if tile[6:10, 6:10, 3].all():
            tile[6:10, 6:10] = (214, 60, 240, 255)
    add_sheet(window.session.document, "trims.png", png(np.vstack([plain, decked])))
    set_cut(window.session.document, "trims", Cut(window.session.document.project.sheets[0].cuts[0].id, 16, 16))
    window.session.set_stage("joins")
    searching = window.panels["joins"].searching
    press(window.panels["joins"], "Find sets")
    qtbot.waitUntil(lambda: bool(searching.proposed), timeout=20_000)
    found = next(one for one in searching.proposed if one.rare)
    searching.point_at(found)
    knitted = window.ground.view.knitted
    codes = knitted.codes(LAYER, CellRect(0, 0, knitted.ground.width, knitted.ground.height))
    laid = [window.session.document.palette.ref(code) for code in (codes[codes > 0] & NUMBER_MASK).tolist()]
    rare = sum(ref in found.rare for ref in laid)
    assert len(found.rare) >= len(found.join_set.labels) / 3
    assert len(laid) > 0
    assert rare < 0.3 * len(laid)


def test_the_sheet_moves_only_as_far_as_needed_to_show_what_was_found(trims, qtbot):
    panel = trims.panels["joins"]
    view = panel.view
    refs = [ref for one in panel.searching.proposed for ref in one.join_set.labels]
    for zoom, stays in ((1, True), (8, False)):
        press(panel, "Drop")
        view.set_zoom(zoom)
        view.centre_on(64, 64)
        press(panel, "Find sets")
        qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)
        assert (view.zoom == zoom) == stays
        assert all(view.rect().contains(rect.toRect()) for rect in view.rects_of(refs).values())


def test_where_one_painted_labels_is_seen_again_unless_one_has_looked_elsewhere(trims, qtbot):
    panel = trims.panels["joins"]
    view = panel.view
    for moved in (False, True):
        press(panel, "Drop")
        view.set_zoom(12)
        view.centre_on(20, 30)
        before = view.place
        press(panel, "Find sets")
        qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)
        assert view.zoom < 12
        if moved:
            view.set_zoom(view.zoom + 1)
        press(panel, "Drop")
        assert view.is_at(before) != moved
        press(panel, "Find sets")
        qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)


def test_a_set_that_comes_to_hand_is_seen_where_it_lies_and_nothing_moves_for_one_that_is(trims, qtbot):
    panel = trims.panels["joins"]
    view = panel.view
    press(panel, "Drop")
    view.set_zoom(12)
    view.centre_on(20, 500)
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)
    press(panel, "Take all")

    def seen() -> float:
        labels = trims.session.join_set.labels
        return len(view.rects_of(labels, in_view=True)) / len(labels)

    assert seen() == 1
    first, second = trims.session.document.project.join_sets
    other = second if trims.session.join_set is first else first
    view.set_zoom(12)
    view.show_tiles([next(iter(trims.session.join_set.labels))])
    trims.session.choose(join_set_id=other.id)
    assert seen() > 0.5
    there = view.place
    trims.session.choose(terrain=1)
    trims.session.choose(join_set_id=other.id)
    assert view.place == there


def test_a_found_set_is_renamed_and_all_are_taken_as_one_step(trims):
    panel = trims.panels["joins"]
    name = named(panel, QLineEdit, "Name of the set at the pointer")
    name.setText("Gutters of copper")
    QTest.keyClick(name, Qt.Key.Key_Return)
    press(panel, "Take all")
    assert "Gutters of copper" in names(trims)
    assert len(names(trims)) == 2
    assert all(one.kind == "edge" and one.bare for one in trims.session.document.project.join_sets)
    assert trims.session.join_set.name == "Gutters of copper"
    trims.undo()
    assert names(trims) == []
    press(panel, "New join set")


def test_escape_or_drop_leaves_everything_as_it_was(trims, hand):
    panel = trims.panels["joins"]
    hand.key(panel.view, Qt.Key.Key_Escape)
    assert "sets found" not in says(panel)
    assert not trims.ground.view.shows_proof
    assert trims.session.document.undo_label != "take found sets"


def test_where_there_is_nothing_to_look_at_it_says_so(window, qtbot):
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    add_sheet(window.session.document, "one.png", png(sheet_of_tiles(1, 1, seed=1)))
    window.commands.action("Find sets on this sheet").trigger()
    assert "no grid of tiles" in said[-1]


def test_colours_are_called_what_one_would_call_them_and_no_two_alike():
    words = in_words([np.array(colour) for colour in ((216, 192, 142), (98, 150, 60), (99, 151, 61), (20, 20, 28))])
    assert words == ["sandy", "leafy green", "leafy green 2", "night dark"]


def test_return_takes_all_that_was_found(trims, hand):
    hand.key(trims.panels["joins"].view, Qt.Key.Key_Return)
    assert len(names(trims)) == 2


def test_variants_elsewhere_on_the_sheet_are_outlined_counted_and_taken_with_their_set(window, hand, qtbot):
    trims = read_picture("trims.png", (DEMO / "sheets" / "trims.png").read_bytes()).pixels
    darker = trims.copy()
    darker[..., :3] = darker[..., :3] * 0.92
    document = window.session.document
    add_sheet(document, "twice.png", png(np.vstack([trims, np.zeros_like(trims[:16]), darker])))
    set_cut(document, "twice", Cut(document.project.sheets[0].cuts[0].id, 16, 16))
    window.session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)
    assert "15 tiles and 15 variants" in says(panel)
    below = panel.view.tile_on_widget(3, 2 + len(trims) // 16 + 1).center()
    hand.move(panel.view, below)
    assert "14 tiles and 14 variants" in says(panel)
    hand.click(panel.view, below)
    (taken,) = document.project.join_sets
    assert len(taken.labels) == 28


@pytest.mark.parametrize("terrains", [2, 1])
def test_the_first_stroke_with_a_set_shows_whatever_the_ground_is_covered_with(window, hand, terrains):
    session = window.session
    made = corner_set() if terrains == 2 else edge_set()
    document = session.document
    add_sheet(document, "art.png", png(sheet_of_tiles(16, 4)))
    set_cut(document, "art", Cut("tiles", 8, 8))
    put(document, "set", "join_sets", made)
    session.set_stage("joins")
    session.choose(join_set_id=made.id)
    press(window.panels["joins"], "Paint with it")
    view = window.ground.view
    before = view.grab().toImage()
    hand.drag(view, view.rect_on_widget(24, 24, 0, 0).center(), view.rect_on_widget(80, 24, 0, 0).center())
    window.session.choose(tile=None)
    assert view.grab().toImage() != before
    assert document.undo_label == "draw"


def test_a_tile_that_the_layer_at_hand_cannot_hold_leads_to_one_that_can(window, hand):
    session, document = window.session, window.session.document
    add_sheet(document, "art.png", png(sheet_of_tiles(16, 4)))
    set_cut(document, "art", Cut("tiles", 8, 8))
    put(document, "set", "join_sets", corner_set())
    session.choose(join_set_id="areas")
    session.set_stage("joins")
    press(window.panels["joins"], "Paint with it")
    led = []
    session.led.connect(led.append)
    for times in (1, 2):
        session.choose(layer_id="areas")
        view = window.panels["ground"].view
        hand.click(view, view.tile_on_widget(2, 3).center())
        (title,) = led[-1]
        window.commands.action(title).trigger()
        # The second time the layer is there already.
        assert [layer.name for layer in session.ground.layers] == ["Areas", "Tiles"]
        hand.on_ground((4 + times, 4), (4 + times, 4))
        assert document.undo_label == "draw"
        assert session.layer.name == "Tiles"


@pytest.mark.parametrize("at_hand", ["tiles", "part 2"])
def test_sets_are_found_on_all_parts_of_a_sheet_whichever_is_in_hand(window, qtbot, at_hand):
    trims = read_picture("trims.png", (DEMO / "sheets" / "trims.png").read_bytes()).pixels
    high, wide = trims.shape[:2]
    small = sheet_of_tiles(6, 3, 8, 0, 2, seed=4)
    picture = np.zeros((high + 60, wide, 4), np.uint8)
    picture[:high] = trims
    picture[high + 20 :][: small.shape[0], : small.shape[1]] = small
    document = window.session.document
    add_sheet(document, "both.png", png(picture))
    cuts = (
        Cut("tiles", 16, 16, region=Rect(0, 0, wide, high)),
        Cut("part 2", 8, 8, 0, 0, 2, 2, Rect(0, high + 20, 58, 28)),
    )
    set_parts(document, "both", cuts)
    window.session.choose(cut_id=at_hand)
    window.session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)
    proposed = panel.searching.proposed
    assert len({one.join_set.id for one in proposed}) == 2
    assert {ref.cut for one in proposed for ref in one.join_set.labels} == {"tiles"}


def test_a_block_with_moss_is_found_and_painted_with_what_hangs_from_its_rim(window, hand, qtbot):
    tiles = np.stack(block(7, 4, 5)).reshape(5, 4, 24, 24, 4)
    document, session = window.session.document, window.session
    add_sheet(document, "bank.png", png(tiles.swapaxes(1, 2).reshape(120, 96, 4)))
    set_cut(document, "bank", Cut("tiles", 24, 24))
    session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    assert "Stitches lay 4 more that hang from its rim." in says(panel)
    press(panel, "Take all")
    assert "with stitches for what lies below its rim" in says(window.ledger)
    press(panel, "Paint with it")
    assert [layer.name for layer in session.ground.layers] == [names(window)[0], f"Below {names(window)[0]}"]
    assert session.layer.name == names(window)[0], "what is painted on is in hand"
    window.ground.choose_tool("area")
    hand.on_ground((2, 2), (8, 8))
    below = session.derived.knitted(session.ground.id).codes(session.ground.layers[1].id, CellRect(0, 0, 12, 12))
    assert np.argwhere(below).tolist() == [[3, column] for column in range(2, 9)]
    session.set_stage("stitches")
    session.choose(stitch_set_id=document.project.stitch_sets[0].id, stitch_id="s1")
    page = window.panels["stitches"].chart
    shown = named(page, QComboBox, "Layer that the chart looks at").currentData()
    assert shown == names(window)[0], "its chart shows, not the empty plan"


def test_a_block_beside_a_hole_is_found_and_what_it_lacks_is_made_of_it(window, qtbot, monkeypatch):
    cells, ring = np.zeros((5, 5), bool), np.ones((5, 5), bool)
    cells[1:4, 1:4], ring[2, 2] = True, False
    art = np.zeros((5 * 24, 6 * 24, 4), np.uint8)
    for one, begins in ((cells, 0), (ring, 1)):
        art[begins * 24 :][: 3 * 24, begins * 72 :][:, :72] = ground_art(one)[24:-24, 24:-24]
    document = window.session.document
    set_cut(document, add_sheet(document, "ledges.png", png(art)), Cut("tiles", 24, 24))
    window.session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    press(panel, "Take all")
    monkeypatch.setattr(MadeDialog, "exec", lambda dialog: dialog.accept() or 1)
    window.ledger._timer.timeout.emit()  # What is offered goes now, as soon as anything is done.
    press(window.ledger, "Make missing tiles…")
    assert "47 of 47 present" in says(panel)
    assert not [one for one in window.session.findings if one.kind == "missing join"]
    assert named(window.ledger, QPushButton, "Paint with this join set").isVisible()


@pytest.mark.parametrize("then", ["cut anew", "undone"])
def test_what_was_found_is_put_away_when_its_cells_are_gone(trims, then):
    panel = trims.panels["joins"]
    if then == "cut anew":
        set_cut(trims.session.document, "trims", Cut("tiles", 8, 8))
    else:
        while trims.session.document.project.sheets:
            trims.undo()
    assert "sets found" not in says(panel)
    assert not any(one.isVisible() for one in panel.findChildren(QPushButton) if one.text() == "Take all")
    assert names(trims) == []


def test_sets_that_are_found_on_a_sheet_that_was_cut_anew_meanwhile_are_not_shown(trims, qtbot):
    panel, said = trims.panels["joins"], []
    trims.session.said.connect(lambda sentence, _: said.append(sentence))
    press(panel, "Drop")
    press(panel, "Find sets")
    set_cut(trims.session.document, "trims", Cut("tiles", 8, 8))
    qtbot.waitUntil(lambda: any("cut anew meanwhile" in one for one in said), timeout=20_000)
    assert "sets found" not in says(panel)


def test_blocks_that_repeat_a_set_are_frames_or_variants_as_one_says(window, qtbot, hand):
    document = window.session.document
    add_sheet(document, "shore.png", png(sheet_of(laid(shore(3, "waves"), "beside"))))
    set_cut(document, "shore", Cut(document.project.sheets[0].cuts[0].id, 16, 16))
    window.session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    tick = named(panel, Tick, "Frames")
    assert tick.isChecked()
    assert "joins of 16 tiles; " in says(panel)
    assert "Its tiles play 3 frames." in says(panel)
    hand.click(tick, QPointF(tick.rect().center()))
    assert "joins of 16 tiles and 32 variants; " in says(panel)
    hand.click(tick, QPointF(tick.rect().center()))
    press(panel, "Take all")
    (join_set,) = document.project.join_sets
    assert len(join_set.labels) == 16
    assert all(len(document.project.tiles[ref].frames) == 3 for ref in join_set.labels)


def test_sets_that_share_a_terrain_are_one_or_several_as_one_says(window, qtbot, hand):
    document = window.session.document
    tiles = moor()
    add_sheet(document, "moor.png", png(tiles.swapaxes(1, 2).reshape(64, 192, 4)))
    set_cut(document, "moor", Cut(document.project.sheets[0].cuts[0].id, 16, 16))
    window.session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    tick = named(panel, Tick, "As one")
    assert tick.isChecked()
    assert "It is 3 sets that share a terrain." in says(panel)
    hand.click(tick, QPointF(tick.rect().center()))
    assert "3 sets found" in says(panel)
    assert not tick.isChecked()
    hand.click(tick, QPointF(tick.rect().center()))
    assert "1 set found" in says(panel)
    hand.click(tick, QPointF(tick.rect().center()))
    hand.click(panel.view, panel.view.rect_of(next(iter(panel.searching.proposed[1].join_set.labels))).center())
    assert "2 sets found" in says(panel)
    assert not tick.isVisible(), "one of them is taken"
    press(panel, "Drop")
    document.undo()
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    press(panel, "Take all")
    (join_set,) = document.project.join_sets
    assert (len(join_set.labels), len(join_set.terrains)) == (48, 4)
    assert "never meet" in says(panel)
    press(panel, "Paint with it")
    (layer,) = document.project.grounds[0].layers
    assert layer.set_id == join_set.id
