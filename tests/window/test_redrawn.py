"""Pictures that another program draws anew while the project is open."""

import os
import shutil

import numpy as np
import pytest

from knitground.app.sheet.exchange_dialog import ExchangeDialog
from knitground.core.edits.exchange import exchange, same_layout
from knitground.core.grid.rect import CellRect
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.project.naming import named_tiles
from knitground.core.tiles.tile import TileRef
from making import cell_pixels, make_document, png, sheet_of_tiles
from window.choosing import bring
from window.finding import says


@pytest.fixture
def on_disk(window, tmp_path):
    """The window on a project that lies in a folder."""
    folder = tmp_path / "project"
    made = make_document()
    made.save(folder)
    window.session.open(Document.load(folder))
    return folder / "sheets" / "art.png"


def drawn(window) -> np.ndarray:
    """What the first cells of the ground look like."""
    return cell_pixels(window.session.derived, CellRect(0, 0, 2, 2))


def redrawn(seed: int, rows: int = 4) -> bytes:
    return png(sheet_of_tiles(16, rows, seed=seed))


def test_a_file_written_in_place_shows_on_the_ground_and_is_no_step_to_undo(window, qtbot, on_disk):
    before = drawn(window)
    on_disk.write_bytes(redrawn(5))
    qtbot.waitUntil(lambda: not np.array_equal(drawn(window), before), timeout=3000)
    assert window.session.document.undo_label is None
    assert not window.session.document.changed
    assert "drawn anew" in says(window.ledger)


def test_a_file_that_is_written_beside_and_renamed_shows_too(window, qtbot, on_disk):
    for seed in (6, 7):
        before = drawn(window)
        beside = on_disk.with_name("~art.tmp")
        beside.write_bytes(redrawn(seed))
        os.replace(beside, on_disk)
        qtbot.waitUntil(lambda before=before: not np.array_equal(drawn(window), before), timeout=3000)


def test_a_half_written_picture_is_waited_for(window, qtbot, on_disk):
    before, new = drawn(window), redrawn(8)
    on_disk.write_bytes(new[: len(new) // 2])
    pending = window.keeper._watcher._pending
    qtbot.waitUntil(lambda: pending.get((on_disk,), ((), 0))[1] >= 2, timeout=3000)
    assert np.array_equal(drawn(window), before)
    on_disk.write_bytes(new)
    qtbot.waitUntil(lambda: not np.array_equal(drawn(window), before), timeout=3000)


def test_work_in_hand_is_kept_and_undo_never_brings_the_old_drawing_back(window, hand, qtbot, on_disk):
    window.session.set_stage("ground")
    window.session.choose(layer_id="areas", terrain=2)
    window.ground.view.set_zoom(3)
    window.ground.view.centre_on(80, 60)
    hand.on_ground((4, 4), (4, 8))
    painted = np.asarray(window.session.document.state.planes["ground"]["areas"]["corners"]).copy()
    on_disk.write_bytes(redrawn(9))
    new = window.session.document.state.pictures["art"]
    qtbot.waitUntil(lambda: window.session.document.state.pictures["art"] is not new, timeout=3000)
    new = window.session.document.state.pictures["art"]
    assert np.array_equal(window.session.document.state.planes["ground"]["areas"]["corners"], painted)
    window.undo()
    assert window.session.document.state.pictures["art"] is new
    window.keeper.save()
    assert on_disk.read_bytes() == new.files[0]


def test_saving_does_not_overwrite_what_was_drawn_meanwhile(window, on_disk):
    newer = redrawn(10)
    on_disk.write_bytes(newer)
    assert window.keeper.save()
    assert on_disk.read_bytes() == newer


def test_a_smaller_picture_tells_which_tiles_fell_away_and_where_they_are_used(window, qtbot, on_disk):
    on_disk.write_bytes(redrawn(11, rows=2))
    qtbot.waitUntil(lambda: any(f.kind == "fell away" for f in window.session.findings), timeout=3000)
    finding = next(one for one in window.session.findings if one.kind == "fell away")
    assert finding.stage == "sheet"
    assert "Walls" in finding.sentence
    on_disk.write_bytes(redrawn(11))
    qtbot.waitUntil(lambda: not any(f.kind == "fell away" for f in window.session.findings), timeout=3000)


def test_the_file_that_a_sheet_was_added_from_is_followed(window, qtbot, tmp_path):
    path = tmp_path / "fresh.png"
    path.write_bytes(redrawn(12))
    bring(window, path)
    before = window.session.document.state.pictures["fresh"]
    path.write_bytes(redrawn(13))
    qtbot.waitUntil(lambda: window.session.document.state.pictures["fresh"] is not before, timeout=3000)


def test_a_vanished_folder_does_no_harm(window, qtbot, on_disk):
    before = drawn(window)
    shutil.rmtree(on_disk.parent)
    qtbot.waitUntil(lambda: (on_disk,) in window.keeper._watcher._pending, timeout=3000)
    assert np.array_equal(drawn(window), before)


def test_a_picture_that_was_exchanged_here_is_kept_and_the_conflict_told(window, qtbot, on_disk):
    document = window.session.document
    new = Picture(redrawn(21), sheet_of_tiles(16, 4, seed=21))
    exchange(document, same_layout(document.project.sheets[0], document.state.pictures["art"], new))
    on_disk.write_bytes(redrawn(22))
    qtbot.waitUntil(lambda: "exchanged here" in says(window.ledger), timeout=3000)
    assert document.state.pictures["art"] is new


def test_a_drawing_taken_over_from_outside_the_project_is_to_be_saved(window, qtbot, on_disk, tmp_path):
    path = tmp_path / "fresh.png"
    path.write_bytes(redrawn(12))
    bring(window, path)
    assert window.keeper.save()
    document = window.session.document
    assert not document.changed
    before, new = document.state.pictures["fresh"], redrawn(14)
    path.write_bytes(new)
    qtbot.waitUntil(lambda: document.state.pictures["fresh"] is not before, timeout=3000)
    assert document.changed
    assert window.windowTitle().startswith("Test •")
    assert window.keeper.save()
    named = next(sheet.file for sheet in document.project.sheets if sheet.id == "fresh")
    assert (on_disk.parents[1] / named).read_bytes() == new
    assert not document.changed


def test_a_single_pair_of_an_exchange_is_chosen_by_hand(working, hand, qtbot):
    document = working.session.document
    before = document.state.pictures["art"]
    pixels = sheet_of_tiles(16, 4, seed=8)
    new = Picture(png(pixels), pixels)
    dialog = ExchangeDialog(
        working, working.session, document.project.sheets[0], new, document.project.sheets[0].cuts[0]
    )
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.list.setCurrentRow(0)
    assert "In place of 0, 0:" in says(dialog)
    hand.click(dialog.new, dialog.new.place_of(1 + 16 + 3).center())  # after "none": the fourth of the second row
    assert dialog.list.item(0).text() == "0, 0 → 3, 1, by hand"
    hand.click(dialog.new, dialog.new.place_of(1 + 16 + 3).center())
    dialog.list.setCurrentRow(1)
    hand.click(dialog.new, dialog.new.place_of(0).center())
    assert dialog.list.item(1).text() == "1, 0 → none, by hand"
    assert "63 of 64" in says(dialog)
    dialog.grab()
    dialog.take.click()
    qtbot.waitUntil(lambda: not dialog.isVisible(), timeout=5000)
    (cut,) = document.project.sheets[0].cuts
    taken = TileRef("art", cut.id, 3, 1)
    assert np.array_equal(working.session.derived.tile(taken), pixels[8:16, 24:32])
    assert taken in named_tiles(document.project), "what named the first names the chosen one now"
    working.undo()
    assert document.state.pictures["art"] is before
