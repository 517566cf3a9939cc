"""A tile chosen beside a layer that lays terrains is offered a place, until something else is in hand."""

import pytest
from PySide6.QtCore import QPointF
from PySide6.QtWidgets import QApplication, QPushButton

from knitground.app.terrain_list import TerrainButton
from knitground.core.edits.cuts import set_parts
from knitground.core.edits.sheets import remove_sheet
from knitground.core.sheet.cut import Cut, Rect
from making import add_sheet, png, sheet_of_tiles
from window.choosing import choose
from window.finding import press, says

STANDS, LIES = "Let the tile in hand stand as a thing", "Lay the tile in hand on a layer of tiles"


def offered(window) -> list[str]:
    QApplication.processEvents()
    return [lead.text() for lead in window.ledger.findChildren(QPushButton) if lead.isVisible()]


@pytest.mark.parametrize(("wide", "high", "free"), [(36, 38, True), (12, 12, True), (8, 8, False), (16, 24, False)])
def test_a_tile_that_fits_no_cells_is_offered_to_stand_as_a_thing(working, hand, wide, high, free):
    choose(working, "areas", "draw", terrain=2)
    document, view = working.session.document, working.panels["ground"].view
    yard = add_sheet(document, "yard", png(sheet_of_tiles(4, 3, wide, 0, 4)))
    set_parts(document, yard, [Cut("wares", wide, high, spacing_x=4, spacing_y=4)])
    working.session.choose(sheet_id=yard, cut_id="wares")
    hand.click(view, view.to_widget(5, 5))
    assert ("can stand where you like" in says(working.ledger)) == free
    press(working.ledger, STANDS if free else LIES)
    assert working.session.layer.places_things == free


def test_a_loose_piece_in_hand_is_offered_to_stand_as_a_thing_and_its_sheet_stays_where_it_is(working, hand):
    choose(working, "areas", "draw", terrain=2)
    document, view = working.session.document, working.panels["ground"].view
    yard = add_sheet(document, "yard", png(sheet_of_tiles(15, 10, 36, 0, 4)))
    grid = Cut("floor", 36, 36, spacing_x=4, spacing_y=4, region=Rect(0, 0, 200, 200))
    set_parts(document, yard, [grid, Cut("loose", 36, 36, pieces=(Rect(300, 80, 76, 36),), anchor="bottom")])
    working.session.choose(sheet_id=yard, cut_id="floor")
    hand.click(view, view.to_widget(310, 90))
    assert "this piece can stand where you like" in says(working.ledger)
    before = view.height(), view.zoom, view.origin
    press(working.ledger, "Let the tile in hand stand as a thing")
    assert working.session.layer.places_things
    hand.on_ground((4, 4))
    assert [thing.tile.cut for thing in working.session.layer.things] == ["loose"]
    assert view.height() < before[0], "there is a card for the thing now"
    assert (view.zoom, view.origin) == before[1:]
    layers = len(working.session.ground.layers)
    working.session.choose(layer_id="areas")
    working.commands.action("Let the tile in hand stand as a thing").trigger()
    assert len(working.session.ground.layers) == layers, "the layer that is there already holds the next"


def test_what_was_offered_for_a_tile_is_told_after_a_stroke_and_after_taking_that_back(working, hand):
    choose(working, "areas", "draw", terrain=2)
    yard = add_sheet(working.session.document, "yard", png(sheet_of_tiles(4, 3, 36, 0, 4)))
    set_parts(working.session.document, yard, [Cut("wares", 36, 36, spacing_x=4, spacing_y=4)])
    working.session.choose(sheet_id=yard, cut_id="wares")
    view, ledger = working.panels["ground"].view, working.ledger
    hand.click(view, view.to_widget(5, 5))
    working.session.say("Something else was said.")
    hand.on_ground((4, 4))
    assert "lays terrains" in says(ledger), "the stroke laid the terrain"
    working.session.say("Something else was said.")
    hand.on_ground((8, 8))
    assert "lays terrains" not in says(ledger), "it is told once"
    working.undo()
    assert "Undid" in says(ledger)
    press(ledger, STANDS)
    assert working.session.layer.places_things
    hand.on_ground((4, 4))
    assert [thing.tile.cut for thing in working.session.layer.things] == ["wares"]


def test_nothing_is_offered_any_more_once_a_terrain_was_taken_in_hand(working, hand):
    choose(working, "areas", "draw", terrain=2)
    panel = working.panels["ground"]
    hand.click(panel.view, panel.view.tile_on_widget(1, 1).center())
    assert LIES in offered(working)
    again = panel.findChildren(TerrainButton)[working.session.choices.terrain - 1]
    hand.click(again, QPointF(again.rect().center()))
    working.session.say("Something else was said.")
    hand.on_ground((4, 4))
    assert "lays terrains" not in says(working.ledger)
    working.undo()
    assert LIES not in offered(working)


def test_a_tile_whose_sheet_is_removed_is_no_longer_in_hand(working, hand):
    choose(working, "areas", "draw", terrain=2)
    document, view = working.session.document, working.panels["ground"].view
    yard = add_sheet(document, "yard", png(sheet_of_tiles(4, 3, 36, 0, 4)))
    set_parts(document, yard, [Cut("wares", 36, 36, spacing_x=4, spacing_y=4)])
    working.session.choose(sheet_id=yard, cut_id="wares")
    hand.click(view, view.to_widget(5, 5))
    assert STANDS in offered(working)
    remove_sheet(document, yard)
    working.session.say("Something else was said.")
    hand.on_ground((4, 4), (6, 4))
    working.commands.action("Undo").trigger()
    assert STANDS not in offered(working)
    assert working.session.choices.tile is None
