"""Recipes in the window: where a step may lay something, and recipes of other grounds."""

from dataclasses import replace
from threading import Event

import numpy as np
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QSlider
from shiboken6 import isValid

from knitground.app.grow.pairs_dialog import PairsDialog
from knitground.app.grow.throws import Throws
from knitground.app.jobs import Job, wait_for_jobs
from knitground.core.edits.grounds import duplicate_ground
from knitground.core.edits.selecting import added, boxed
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps import FitStep, FloodStep, NoiseStep, PathStep
from knitground.core.grow.warm import warm_up
from knitground.core.tiles.notes import TileNotes
from making import plane_of, poke, tile
from window.finding import named, pick, press, says


def with_recipe(window, *steps, ground: str = "ground") -> None:
    window.session.put_recipe(Recipe("r", "Roofs", ground, 5, steps))


def things(window, ground: str = "ground") -> np.ndarray:
    return plane_of(window.session.document, "things", "cells", ground)


def test_a_step_is_kept_within_what_was_selected_for_it(growing):
    session, card = growing.session, growing.panels["grow"].recipe
    with_recipe(growing, FloodStep("things", mix=session.mix.id))
    session.select(boxed(session.ground.board, (3.5, 4.5), (8.5, 11.5)))
    box = named(card, QComboBox, "Within")
    pick(box, "what is selected now")
    session.select(None)
    assert box.currentText() == "48 cells selected for it"
    laid = things(growing) > 0
    assert laid[3:9, 4:12].any()
    laid[3:9, 4:12] = False
    assert not laid.any()
    pick(box, "the ground")
    assert (things(growing) > 0)[12:].any()


def test_a_step_asks_for_tags_and_for_what_is_bare(growing):
    session, card = growing.session, growing.panels["grow"].recipe
    notes = {tile(column, row): TileNotes(tags=("wet",)) for column in range(8) for row in (0, 1)}
    session.document.define("tags", replace(session.document.project, tiles=notes))
    with_recipe(growing, NoiseStep("areas", 2, elsewhere=1), FloodStep("things", mix=session.mix.id))
    card.strip.setFocus()
    card.strip.chosen.emit(1)
    pick(named(card, QComboBox, "Only where"), "on “Areas”")
    box = named(card, QComboBox, "there is")
    pick(box, "a tile tagged “wet”")
    assert growing.trial.recipe.steps[1].where.tag == "wet"
    pick(box, "not a tile tagged “wet”")
    where = growing.trial.recipe.steps[1].where
    assert (where.tag, where.outside) == ("wet", True)
    pick(named(card, QComboBox, "Over"), "what is bare")
    assert growing.trial.recipe.steps[1].over == 0


def test_a_recipe_of_another_ground_is_taken_over(growing):
    session, card = growing.session, growing.panels["grow"].recipe
    with_recipe(growing, NoiseStep("areas", 2, elsewhere=1))
    other = duplicate_ground(session.document, "ground")
    session.choose(ground_id=other)
    pick(named(card, QComboBox, "Recipe"), "Roofs, as on “Ground”")
    assert [one.ground for one in session.document.project.recipes] == ["ground", other]
    before = plane_of(session.document, "areas", "corners", other).copy()
    press(card, "Try it")
    assert "not kept yet" in says(card)
    assert not np.array_equal(plane_of(session.document, "areas", "corners", other), before)


def test_a_way_goes_between_places_that_are_selected(growing):
    session, card = growing.session, growing.panels["grow"].recipe
    with_recipe(growing, PathStep("walls", 2))
    spots = [(2.5, 3.5), (9.5, 15.5)]
    first, second = (boxed(session.ground.board, spot, spot) for spot in spots)
    session.select(added(session.ground.board, first, second))
    pick(named(card, QComboBox, "Between"), "what is selected now")
    assert growing.trial.recipe.steps[0].spots == ((2, 3), (9, 15))
    assert named(card, QComboBox, "Between").currentText() == "2 places of the ground"
    plan = plane_of(session.document, "walls", "plan")
    assert all(plan[int(y), int(x)] == 2 for y, x in spots)
    assert not plan[:, -1].any()


def test_pairs_are_clicked_and_read_off_a_layer_and_filled_with(growing, hand):
    session, card = growing.session, growing.panels["grow"].recipe
    document = session.document
    codes = [document.palette.code(tile(column, 1)) for column in (1, 2)]
    poke(document, "things", "cells", np.s_[2:6, 2:6], np.array([codes * 2] * 4))
    session.choose(layer_id="things", tile=tile(5, 3))
    card.show_pairs()
    dialog = card.findChild(PairsDialog)
    press(dialog, "Read off “Things”")
    assert "3 tiles" in says(dialog)
    press(dialog, "Tile in hand")
    pair_set = document.project.pair_sets[0]
    assert [one.tile for one in pair_set.tiles[-1:]] == [tile(5, 3)]
    first = [one.tile for one in pair_set.tiles].index(tile(1, 1))
    hand.click(dialog.tiles, dialog.tiles.place_of(first).center())
    press(dialog, "South")
    last = len(pair_set.tiles) - 1
    hand.click(dialog.beside, dialog.beside.place_of(last).center())
    assert document.project.pair_sets[0].allowed[2][first, last]
    QTest.keyClick(dialog.beside, Qt.Key.Key_Space)
    assert not document.project.pair_sets[0].allowed[2][first, last]
    QTest.keyClick(dialog, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert document.project.pair_sets[0].allowed[2][first, last]
    hand.click(dialog.tiles, dialog.tiles.place_of(last).center())
    QTest.keyClick(dialog.tiles, Qt.Key.Key_Delete)
    assert len(document.project.pair_sets[0].tiles) == last
    press(dialog, "Close")
    with_recipe(growing, FitStep("things", join_set="areas"))
    warm_up()
    pick(named(card, QComboBox, "With"), "pairs “Things”")
    assert growing.trial.recipe.steps[0].join_set == pair_set.id
    refs = {one.tile for one in document.project.pair_sets[0].tiles}
    laid = things(growing)
    assert {document.palette.code(ref) for ref in refs} >= set(np.unique(laid).tolist())
    pick(named(card, QComboBox, "With"), "pairs of tiles…")
    assert any(one.isVisible() for one in card.findChildren(PairsDialog))


def test_a_recipe_stays_alive_and_what_is_painted_stays_on_top(growing, hand):
    session, card = growing.session, growing.panels["grow"].recipe
    with_recipe(growing, NoiseStep("walls", 1, scale=6.0, amount=0.5, elsewhere=0))
    plan = lambda: plane_of(session.document, "walls", "plan").copy()  # noqa: E731
    press(card, "Stays alive")
    press(card, "Keep")
    grown = plan()
    session.choose(layer_id="walls", radius=2)
    growing.ground.choose_tool("erase")
    hand.on_ground((3, 3), (9, 9))
    painted = plan()
    by_hand = painted != grown
    assert by_hand.any()
    assert f"by hand at {by_hand.sum()} place" in says(card)
    named(card, QSlider, "Share").setValue(90)
    assert not plan()[by_hand].any()
    assert plan()[~by_hand].mean() > 0.75
    press(card, "Keep")
    press(card, "Grow here again")
    assert plan()[by_hand].any()
    growing.undo()
    assert not plan()[by_hand].any()
    press(card, "Stays alive")
    assert not session.document.project.recipes[0].alive
    assert not plan()[by_hand].any()


def test_the_window_still_fits_a_small_screen(growing):
    session, card = growing.session, growing.panels["grow"].recipe
    with_recipe(growing, NoiseStep("areas", 2, elsewhere=1), FloodStep("things", mix=session.mix.id))
    session.select(boxed(session.ground.board, (3.5, 4.5), (8.5, 11.5)))
    press(card, "Stays alive")
    press(card, "Keep")
    growing.resize(1280, 800)
    hint = growing.minimumSizeHint()
    assert (hint.width() <= 1280, hint.height() <= 800) == (True, True)


def test_throws_that_are_closed_at_the_moment_one_is_made_end_quietly(growing, qtbot, monkeypatch, caplog):
    made, go_on, report = Event(), Event(), Job._report

    def held(job, share):
        report(job, share)
        if job.title == "Throwing":
            made.set()
            go_on.wait(5)

    with_recipe(growing, NoiseStep("areas", 2, elsewhere=1))
    monkeypatch.setattr(Job, "_report", held)
    press(growing.panels["grow"].recipe, "Nine throws")
    dialog = growing.findChild(Throws)
    qtbot.waitUntil(lambda: made.is_set() and dialog.isVisible(), timeout=10_000)
    dialog.reject()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    go_on.set()
    wait_for_jobs()
    assert not isValid(dialog)
    assert not caplog.records
