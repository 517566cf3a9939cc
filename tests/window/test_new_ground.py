"""A ground that was just made: what is seen of it, and what the bar says can be done first."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt

from knitground.app.ground.new_ground import GroundDialog
from knitground.core.edits.first_on_ground import told_of_new_ground
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.project.document import Document
from making import png, tile
from window.choosing import choose, wait_until_read
from window.finding import painted, press, says

FLOOR = Mix("floor", "Floor", (MixPart(tile(2, 3), 1), MixPart(tile(5, 3), 2)))
TUFTS = Mix("tufts", "Tufts", (MixPart(tile(2, 3), 1), MixPart(None, 2)))


def with_mixes(document: Document, *mixes: Mix) -> Document:
    document.define("mixes", replace(document.project, mixes=mixes))
    return document


@pytest.fixture
def made(working, monkeypatch):
    """Makes a new ground where a window is."""

    def make(*mixes: Mix) -> None:
        with_mixes(working.session.document, *mixes)
        monkeypatch.setattr(GroundDialog, "exec", lambda dialog: True)
        working.commands.action("New ground…").trigger()

    return make


def settled(view) -> np.ndarray:
    """What a view shows when nothing is drawn on any more."""
    before = painted(view)
    while not np.array_equal(before, again := painted(view)):
        before = again
    return before


def test_a_new_ground_leads_to_the_mix_that_can_fill_it(working, made):
    made(FLOOR, TUFTS)
    assert "fill it with “Floor”, or paint it." in says(working.ledger)
    press(working.ledger, "Mix “Floor”")
    assert working.session.choices.stage == "grow"
    assert working.session.choices.mix_id == "floor"


def test_a_new_ground_made_elsewhere_leads_to_where_it_is_painted(working, made):
    working.session.set_stage("deliver")
    made(TUFTS)
    press(working.ledger, "Stage Ground")
    assert working.session.choices.stage == "ground"


def test_mixes_are_told_where_each_of_their_tiles_fills_a_cell_and_none_leaves_it_bare(document):
    ground = document.project.grounds[0]
    nested = Mix("both", "Both", (MixPart(None, mix="floor"), MixPart(tile(1, 1), 1)))
    document = with_mixes(document, FLOOR, TUFTS, nested, Mix("none", "None"))
    assert told_of_new_ground(document, ground, "sheet", "art") == (
        "A new ground: fill it with “Floor” or “Both”, or paint it in the Ground stage.",
        False,
    )
    assert told_of_new_ground(document, replace(ground, tile_width=16), "ground", "art") == ("", False)
    assert "Floor" not in told_of_new_ground(document, replace(ground, grid="staggered"), "sheet", "")[0]


def test_a_new_ground_leads_to_mixing_what_is_numbered(window, monkeypatch, tmp_path):
    random = np.random.default_rng(3)
    for number in (1, 2, 3):
        pixels = np.full((16, 16, 4), (90, 140, 60, 255), dtype=np.uint8)
        pixels[..., :3] += random.integers(0, 12, (16, 16, 1), dtype=np.uint8)
        (tmp_path / f"moss {number}.png").write_bytes(png(pixels))
    window.keeper.adder.add_folder(tmp_path)
    wait_until_read(1)
    monkeypatch.setattr(GroundDialog, "exec", lambda dialog: True)
    window.commands.action("New ground…").trigger()
    assert "may be mixed to fill it" in says(window.ledger)
    press(window.ledger, "Mix what is numbered")
    assert [mix.name for mix in window.session.document.project.mixes] == ["moss"]
    window.commands.action("New ground…").trigger()
    assert "fill it with “moss”" in says(window.ledger)


def test_the_cells_of_a_ground_are_seen_until_something_lies_on_it(working, hand):
    working.session.document.define(
        "tiles alone",
        replace(
            working.session.document.project,
            grounds=(replace(working.session.ground, layers=working.session.ground.layers[-1:]),),
        ),
    )
    choose(working, "things", tile=tile(2, 3))
    view = working.ground.view
    view.set_zoom(4)
    hand.move(view, hand.cell(0, 0))
    bare = settled(view)
    corner = (
        slice(int(hand.cell(9, 9).y()), int(hand.cell(12, 12).y())),
        slice(int(hand.cell(9, 9).x()), int(hand.cell(12, 12).x())),
    )
    hand.on_ground((2, 2))
    without = settled(view)
    assert (bare[corner] != without[corner]).any()
    hand.key(view, Qt.Key.Key_G)
    assert np.array_equal(settled(view)[corner], bare[corner])
    hand.key(view, Qt.Key.Key_G)
    working.undo()
    assert np.array_equal(settled(view)[corner], bare[corner])


def test_a_layer_that_covers_the_ground_by_itself_shows_no_cells(working, hand):
    view = working.ground.view
    view.set_zoom(4)
    before = settled(view)
    hand.key(view, Qt.Key.Key_G)
    assert (settled(view) != before).any()
