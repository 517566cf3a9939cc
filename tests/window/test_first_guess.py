"""What is said of a sheet that was just dropped: how it is cut, and what to do where little speaks for that."""

import re
from threading import Event

from knitground.app.jobs import Job
from knitground.core.edits.cuts import add_part
from knitground.core.sheet.cut import Cut, Rect, tile_rect
from knitground.core.sheet.repack import Gaps, repack
from making import png
from test_captions import among_tiles, captioned, scattered
from test_repeated import drawn
from window.choosing import draw_part
from window.finding import press, says
from window.test_sheet import cut_of, drop


def test_who_drops_a_sheet_that_repeats_its_edges_is_told_they_are_left_out(window, tmp_path):
    for name, extrude in (("plain", 0), ("packed", 2)):
        path = tmp_path / f"{name}.png"
        path.write_bytes(png(repack(drawn(9, 3, 4, 16, 16), Gaps(1, 2, extrude))))
        drop(window, path)
        without = " without the edges that it repeats" if extrude else ""
        assert f"{name}.png is cut by a first guess{without}; drag" in says(window.ledger)


def test_an_empty_project_says_what_it_reads_where_the_sheet_will_show(window, qtbot):
    panel, go_on = window.panels["sheet"], Event()
    assert "Drop a sprite sheet here" in says(panel)
    job = window.session.run(Job("Reading the sheet", lambda report: go_on.wait(5)), lambda found: None)
    assert "Reading the sheet…" in says(panel)
    go_on.set()
    qtbot.waitUntil(lambda: not job.running, timeout=5000)
    assert "Drop a sprite sheet here" in says(panel)


def test_who_drops_things_in_no_grid_is_told_that_little_speaks_for_one_and_has_them_whole_at_once(window, tmp_path):
    path = tmp_path / "shed.png"
    path.write_bytes(png(scattered()))
    drop(window, path)
    assert "shed.png is cut by a first guess that little speaks for; its shapes may be loose pieces" in says(
        window.ledger
    )
    press(window.ledger, "Loose pieces, or a grid")
    assert len(cut_of(window).pieces) == 11
    assert "Found 11 loose pieces" in says(window.ledger)


def test_only_loose_pieces_that_no_other_part_takes_are_counted(window, tmp_path):
    path = tmp_path / "shed.png"
    path.write_bytes(png(scattered()))
    drop(window, path)
    document, sheet = window.session.document, window.session.document.project.sheets[0]
    width, height = document.state.pictures[sheet.id].size
    add_part(document, sheet.id, Cut("", 16, 16, region=Rect(0, 0, width // 2, height)))
    window.session.choose(cut_id=sheet.cuts[0].id)
    window.commands.action("Loose pieces, or a grid").trigger()
    shown = int(re.search(r"(\d+) loose pieces", says(window.panels["sheet"]))[1])
    assert 0 < shown < 11
    assert f"Found {shown} loose piece" in says(window.ledger)


def test_letters_of_captions_among_loose_pieces_are_told_and_left_out_by_a_click(window, tmp_path):
    path = tmp_path / "shed.png"
    picture, places = captioned()
    path.write_bytes(png(picture))
    drop(window, path)
    window.commands.action("Loose pieces, or a grid").trigger()
    assert "of them look like writing" in says(window.ledger)
    press(window.ledger, "Leave writing out of the tiles")
    assert "tiles are left out; a click takes one in again" in says(window.ledger)
    kept = list(window.panels["sheet"].view.tiles())
    assert len(kept) < 1.3 * len(places)
    pieces = cut_of(window).pieces
    assert set(places) <= {pieces[ref.column] for ref in kept}


def test_words_in_cells_of_a_grid_are_told_and_left_out_by_a_click(window, tmp_path):
    path = tmp_path / "pier.png"
    path.write_bytes(png(among_tiles()))
    drop(window, path)
    assert "3 tiles look like writing" in says(window.ledger)
    press(window.ledger, "Leave writing out of the tiles")
    assert "3 tiles are left out; a click takes one in again" in says(window.ledger)
    press(window.ledger, "Clear what lies round the tiles")
    assert "transparent now." in says(window.ledger)
    assert len(list(window.panels["sheet"].view.tiles())) == 55


def test_that_tiles_look_like_writing_stays_to_be_read_beside_the_numbers(window, qtbot, tmp_path):
    path = tmp_path / "pier.png"
    path.write_bytes(png(among_tiles()))
    drop(window, path)
    grid = window.panels["sheet"].cut_card.grid
    qtbot.waitUntil(grid.fix.isVisible)
    assert "3 tiles look like writing." in says(grid)
    press(grid, "Leave out")
    assert "3 tiles are left out; a click takes one in again" in says(window.ledger)
    assert not grid.fix.isVisible()
    window.undo()
    qtbot.waitUntil(grid.fix.isVisible)


def test_who_clears_the_ground_first_is_offered_to_leave_writing_out_then(window, tmp_path):
    path = tmp_path / "pier.png"
    path.write_bytes(png(among_tiles()))
    drop(window, path)
    press(window.ledger, "Clear what lies round the tiles")
    assert "is transparent now; 3 tiles look like writing." in says(window.ledger)
    press(window.ledger, "Leave writing out of the tiles")
    assert len(list(window.panels["sheet"].view.tiles())) == 55


def test_who_draws_a_part_first_is_offered_to_leave_writing_out_then(window, hand, qtbot, tmp_path):
    path = tmp_path / "pier.png"
    path.write_bytes(png(among_tiles()))
    drop(window, path)
    cut = cut_of(window)
    draw_part(window, hand, qtbot, tile_rect(cut, 0, 4).with_other(tile_rect(cut, 9, 5)))
    assert re.search(r"is cut by a first guess: .*; \d tiles look like writing\.", says(window.ledger))
    press(window.ledger, "Leave writing out of the tiles")
    assert "left out; a click takes one in again" in says(window.ledger)


def test_who_draws_a_part_round_things_in_no_grid_has_them_whole_at_a_click(window, hand, qtbot, tmp_path):
    path = tmp_path / "shed.png"
    path.write_bytes(png(scattered()))
    drop(window, path)
    width, height = window.panels["sheet"].view.content_size()
    draw_part(window, hand, qtbot, Rect(0, 0, width, height))
    assert "is cut by a first guess that little speaks for: " in says(window.ledger)
    assert "its shapes may be loose pieces" in says(window.ledger)
    press(window.ledger, "Loose pieces, or a grid")
    assert len(window.session.document.project.sheets[0].cuts[1].pieces) == 11
