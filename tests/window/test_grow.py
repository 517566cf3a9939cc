from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QInputDialog, QPushButton, QSlider

from knitground.app.grow import trial
from knitground.app.grow.quality_card import QualityCard
from knitground.app.grow.throws import Throws
from knitground.core.edits.grounds import resize_ground
from knitground.core.edits.layers import remove_layer
from knitground.core.edits.selecting import boxed
from knitground.core.grow.warm import is_warm, warm_up
from knitground.core.tiles.tile import MIRRORED, turned_further
from making import poke, tile
from window.finding import named, open_menu, press, says, take

CONTROL = Qt.KeyboardModifier.ControlModifier


def corners(window) -> np.ndarray:
    return np.asarray(window.session.document.state.planes["ground"]["areas"]["corners"])


def test_borders_of_the_bar_are_dragged_to_weigh(growing, hand):
    bar = growing.panels["grow"].bar
    start = QPointF(bar.width() * 0.25, 20)
    hand.drag(bar, start, QPointF(bar.width() * 0.3, 20), QPointF(bar.width() * 0.4, 20))
    weights = [part.weight for part in growing.session.mix.parts]
    assert weights[0] / sum(weights) == pytest.approx(0.4, abs=0.01)
    assert weights[1] / sum(weights) == pytest.approx(0.1, abs=0.01)
    assert weights[2] == 2
    growing.undo()
    assert [part.weight for part in growing.session.mix.parts] == [1, 1, 2]


def test_a_border_stops_at_its_neighbours(growing, hand):
    bar = growing.panels["grow"].bar
    hand.drag(bar, QPointF(bar.width() * 0.25, 20), QPointF(bar.width() * 3, 20))
    weights = [part.weight for part in growing.session.mix.parts]
    assert all(weight > 0 for weight in weights)
    assert sum(weights) == pytest.approx(4, abs=0.05)


def test_the_keyboard_weighs_and_takes_out(growing):
    bar = growing.panels["grow"].bar
    bar.setFocus()
    QTest.keyClick(bar, Qt.Key.Key_Right)
    QTest.keyClick(bar, Qt.Key.Key_Up)
    assert growing.session.mix.parts[1].weight == pytest.approx(1.1)
    QTest.keyClick(bar, Qt.Key.Key_Delete)
    assert [part.tile for part in growing.session.mix.parts] == [tile(2, 3), None]


def test_tiles_of_a_mix_are_turned_and_mirrored_and_laid_so(growing):
    bar = growing.panels["grow"].bar
    bar.setFocus()
    QTest.keyClick(bar, Qt.Key.Key_T)
    assert growing.session.mix.parts[0].orientation == 1
    QTest.keyClick(bar, Qt.Key.Key_M)
    turned = growing.session.mix.parts[0].orientation
    assert turned == turned_further(1, MIRRORED)
    growing.session.choose(layer_id="things")
    add(growing, "Mix:")
    planes = growing.session.document.state.planes["ground"]["things"]["cells"]
    assert growing.session.document.palette.code(tile(2, 3), turned) in np.asarray(planes)


def test_clicks_on_the_sheet_put_tiles_in_once(growing, hand):
    view = growing.panels["grow"].view
    for column in (6, 6, 7):
        hand.click(view, view.tile_on_widget(column, 1).center())
    assert [part.tile for part in growing.session.mix.parts] == [tile(2, 3), tile(5, 3), None, tile(6, 1), tile(7, 1)]


def test_a_first_click_makes_the_first_mix(working, hand):
    working.session.set_stage("grow")
    view = working.panels["grow"].view
    hand.click(view, view.tile_on_widget(3, 0).center())
    assert [part.tile for part in working.session.mix.parts] == [tile(3, 0)]


def test_a_mix_is_made_by_name_and_taken_in_hand(growing, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Pebbles", True))
    panel = growing.panels["grow"]
    press(panel, "New mix")
    assert growing.session.mix.name == "Pebbles"
    growing.session.choose(mix_id="m")
    press(panel, "Fill with it")
    assert growing.session.choices.lays_mix
    assert growing.session.choices.layer_id == "things"
    assert growing.ground.view.tool.name == "fill"


def test_a_recipe_is_seen_before_it_is_kept(growing):
    before, panel = corners(growing).copy(), growing.panels["grow"]
    press(panel, "Try it")
    assert growing.trial.running
    assert not np.array_equal(corners(growing), before)
    press(panel, "Drop")
    assert np.array_equal(corners(growing), before)
    assert growing.session.document.undo_label == "add mix"
    press(panel, "Try it")
    shown = corners(growing).copy()
    press(panel, "Keep")
    assert not growing.trial.running
    assert np.array_equal(corners(growing), shown)
    growing.undo()
    assert np.array_equal(corners(growing), before)
    growing.redo()
    assert np.array_equal(corners(growing), shown)


def test_throwing_again_shows_another_and_starts_from_the_same_ground(growing):
    before, view = corners(growing).copy(), growing.ground.view
    card = growing.panels["grow"].recipe
    card.try_it()
    first = corners(growing).copy()
    view.setFocus()
    QTest.keyClick(view, "r")
    second = corners(growing).copy()
    assert not np.array_equal(first, second)
    assert abs(int((first == 2).sum()) - int((second == 2).sum())) < first.size * 0.1
    QTest.keyClick(view, Qt.Key.Key_Backspace, CONTROL)
    assert np.array_equal(corners(growing), before)


def test_sliders_show_at_once_what_they_would_do(growing):
    slider = named(growing.panels["grow"], QSlider, "Share")
    slider.setValue(80)
    much = int((corners(growing) == 2).sum())
    slider.setValue(10)
    little = int((corners(growing) == 2).sum())
    assert much > corners(growing).size * 0.7
    assert 0 < little < corners(growing).size * 0.2
    growing.trial.keep()
    assert growing.session.document.project.recipes[0].steps[0].amount == pytest.approx(0.1)


def test_escape_on_the_ground_drops_and_return_keeps(growing):
    before, view, card = corners(growing).copy(), growing.ground.view, growing.panels["grow"].recipe
    view.setFocus()
    card.try_it()
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert np.array_equal(corners(growing), before)
    card.try_it()
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert not growing.trial.running
    assert not np.array_equal(corners(growing), before)


def test_undo_during_a_trial_only_drops_the_trial(growing):
    before = corners(growing).copy()
    growing.panels["grow"].recipe.try_it()
    growing.undo()
    assert np.array_equal(corners(growing), before)
    assert growing.session.document.undo_label == "add mix"


def test_painting_during_a_trial_accepts_it(growing, hand):
    growing.panels["grow"].recipe.try_it()
    growing.session.choose(layer_id="areas", terrain=2, radius=2)
    growing.ground.choose_tool("draw")
    assert growing.trial.running
    hand.on_ground((3, 3), (9, 9))
    assert not growing.trial.running
    growing.trial.drop()
    growing.undo()
    assert growing.session.document.undo_label.startswith("grow")


def test_without_a_derived_layer_the_recipe_says_what_is_missing(growing):
    for layer in list(growing.session.ground.layers):
        if layer.kind != "tiles":
            remove_layer(growing.session.document, "ground", layer.id)
    panel = growing.panels["grow"]
    assert not named(panel, QPushButton, "Try it").isEnabled()
    assert "add a terrain or stitched layer" in says(panel)


def test_a_large_ground_grows_beside_the_window_and_can_be_stopped(growing, qtbot):
    resize_ground(growing.session.document, "ground", 700, 600)
    before, card = corners(growing).copy(), growing.panels["grow"].recipe
    jobs = []
    growing.session.job_started.connect(jobs.append)
    with qtbot.waitSignal(growing.session.job_started, timeout=5000):
        press(card, "Try it")
    assert "It grows beside the window" in says(card)
    assert not named(card, QPushButton, "Keep").isEnabled()
    assert named(card, QPushButton, "Throw again").hasFocus()
    assert card.strip.pictured() == []
    qtbot.waitUntil(lambda: not jobs[0].running, timeout=20_000)
    qtbot.waitUntil(lambda: not np.array_equal(corners(growing), before), timeout=5000)
    assert named(card, QPushButton, "Keep").isEnabled()
    qtbot.waitUntil(lambda: card.strip.pictured() == [0], timeout=10_000)
    growing.trial.drop()
    card.try_it()
    growing.trial.drop()
    qtbot.waitUntil(lambda: not any(job.running for job in jobs), timeout=20_000)
    assert np.array_equal(corners(growing), before)


def test_a_recipe_grows_only_in_what_is_selected_unless_told_otherwise(growing):
    session, panel = growing.session, growing.panels["grow"]
    before = corners(growing).copy()
    session.select(boxed(session.ground.board, (3.5, 4.5), (8.5, 11.5)))
    press(panel, "Try it")
    changed = np.argwhere(corners(growing) != before)
    assert len(changed)
    assert changed.min(axis=0).tolist() >= [3, 4]
    assert changed.max(axis=0).tolist() <= [9, 12]
    press(panel, "Only in what is selected")
    assert (corners(growing) != before)[12:].any()
    press(panel, "Keep")
    growing.undo()
    assert np.array_equal(corners(growing), before)


def steps(window) -> list[str]:
    draft = window.trial.recipe or window.session.document.project.recipes[0]
    return [step.kind for step in draft.steps]


def add(window, title: str) -> None:
    """Adds a step by the menu, behind those that are tried or kept."""
    card = window.panels["grow"].recipe
    if not window.trial.running and card.form.isVisible() and not window.session.document.project.recipes:
        card.try_it()
    press(window.panels["grow"].recipe, "Add a step")
    take(open_menu(), title)


def test_the_first_step_that_is_asked_for_begins_the_list(growing):
    growing.session.choose(layer_id="areas")
    press(growing.panels["grow"].recipe, "Add a step")
    take(open_menu(), "Island:")
    assert steps(growing) == ["island"]
    step = growing.trial.recipe.steps[0]
    assert (step.layer, step.terrain, step.elsewhere) == ("areas", 2, 1)
    laid = corners(growing)
    assert (laid[0] == 1).all()
    assert 0.3 < (laid == 2).mean() < 0.7


def test_steps_are_added_moved_switched_and_taken_out_by_keys(growing):
    strip = growing.panels["grow"].recipe.strip
    add(growing, "Caves:")
    add(growing, "Tidy:")
    assert steps(growing) == ["noise", "caves", "tidy"]
    strip.setFocus()
    QTest.keyClick(strip, Qt.Key.Key_Left, CONTROL)
    assert steps(growing) == ["noise", "tidy", "caves"]
    QTest.keyClick(strip, Qt.Key.Key_Space)
    assert [step.on for step in growing.trial.recipe.steps] == [True, False, True]
    QTest.keyClick(strip, Qt.Key.Key_Delete)
    assert steps(growing) == ["noise", "caves"]
    press(growing.panels["grow"], "Copy it")
    assert steps(growing) == ["noise", "noise", "caves"]
    press(growing.panels["grow"], "Keep")
    assert steps(growing) == ["noise", "noise", "caves"]
    growing.undo()
    assert growing.session.document.project.recipes == ()


def test_a_step_is_dragged_to_another_place(growing, hand):
    add(growing, "Caves:")
    strip = growing.panels["grow"].recipe.strip
    hand.drag(strip, strip.place_of(1).center(), strip.place_of(0).center() + QPointF(9, 0), strip.place_of(0).center())
    assert steps(growing) == ["caves", "noise"]


def test_choosing_a_step_shows_the_ground_as_of_there_and_keep_keeps_all(growing):
    add(growing, "Caves:")
    last = corners(growing).copy()
    strip = growing.panels["grow"].recipe.strip
    strip.setFocus()
    QTest.keyClick(strip, Qt.Key.Key_Left)
    assert not np.array_equal(corners(growing), last)
    assert "as of step 1" in says(growing.panels["grow"])
    press(growing.panels["grow"], "Keep")
    assert np.array_equal(corners(growing), last)
    assert len(growing.session.document.project.recipes[0].steps) == 2


def test_the_form_shows_what_a_kind_asks_for_and_changes_show_at_once(growing):
    add(growing, "Caves:")
    before = corners(growing).copy()
    named(growing.panels["grow"], QSlider, "Open").setValue(40)
    assert growing.trial.recipe.steps[1].open_share == pytest.approx(0.4)
    assert not np.array_equal(corners(growing), before)
    box = named(growing.panels["grow"], QComboBox, "Only where")
    box.setCurrentIndex(box.findData("walls"))
    box.activated.emit(box.currentIndex())
    assert growing.trial.recipe.steps[1].where.layer == "walls"


def test_one_step_is_thrown_again_and_the_others_stay(growing):
    growing.session.choose(layer_id="things")
    add(growing, "Scatter:")
    layer = growing.trial.recipe.steps[1].layer
    assert layer == "things"
    planes = growing.session.document.state.planes["ground"]
    first, before = corners(growing).copy(), np.asarray(planes[layer]["cells"]).copy()
    press(growing.panels["grow"], "Throw it again")
    assert np.array_equal(corners(growing), first)
    assert not np.array_equal(np.asarray(growing.session.document.state.planes["ground"][layer]["cells"]), before)


def test_pictures_of_the_steps_appear_and_nine_throws_lie_side_by_side(growing, qtbot):
    card = growing.panels["grow"].recipe
    add(growing, "Caves:")
    qtbot.waitUntil(lambda: set(card.strip.pictured()) == {0, 1}, timeout=10_000)
    press(card, "Nine throws")
    dialog = growing.findChild(Throws)
    qtbot.waitUntil(lambda: len(dialog.seeds) == 9, timeout=10_000)
    assert len(set(dialog.seeds)) == 9
    seed = dialog.seeds[4]
    QTest.keyClick(dialog, "5")
    assert growing.trial.recipe.seed == seed


def test_a_step_that_cannot_be_is_told_and_left_out(growing):
    growing.session.document.define("no mix", replace(growing.session.document.project, mixes=()))
    said = []
    growing.session.said.connect(lambda text, wrong: said.append(text))
    add(growing, "Mix:")
    assert "click tiles on the sheet to make one" in said[-1]
    assert steps(growing) == ["noise"]


def test_recipes_are_made_chosen_and_removed(growing, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Flood", True))
    press(growing.panels["grow"], "New recipe")
    assert [recipe.name for recipe in growing.session.document.project.recipes] == ["Flood"]
    press(growing.panels["grow"].recipe, "Remove")
    assert growing.session.document.project.recipes == ()


def test_a_weight_is_typed_and_told_in_cells(growing):
    panel = growing.panels["grow"]
    panel.weight.setValue(6)
    assert [part.weight for part in growing.session.mix.parts] == [6, 1, 2]
    assert "67% of cells, some 200 on this ground" in says(panel)
    growing.undo()
    assert panel.weight.value() == 1


def test_the_ground_is_measured_in_a_card(growing, qtbot):
    growing.commands.action("How good is this ground?").trigger()
    card = growing.findChild(QualityCard)
    qtbot.waitUntil(lambda: "walk:" in card.text.text(), timeout=10_000)
    card.reject()


def test_what_is_compiled_gets_ready_beside_the_window_the_first_time(growing, qtbot, monkeypatch):
    monkeypatch.setattr(trial, "is_warm", lambda: False)
    jobs = []
    growing.session.job_started.connect(jobs.append)
    before = corners(growing).copy()
    growing.session.choose(layer_id="areas")
    add(growing, "Fill to fit:")
    assert [job.title for job in jobs] == ["Getting ready to fill, once"]
    qtbot.waitUntil(lambda: not np.array_equal(corners(growing), before), timeout=60_000)
    assert is_warm()


def test_more_is_made_of_what_is_selected(growing):
    warm_up()
    session = growing.session
    session.choose(layer_id="walls")
    poke(session.document, "walls", "plan", np.s_[3:9, 4:12], np.indices((6, 8)).sum(axis=0) % 2 + 1)
    session.select(boxed(session.ground.board, (3.5, 4.5), (8.5, 11.5)))
    session.choose(confined=False)
    add(growing, "More of a piece:")
    strip = growing.panels["grow"].recipe.strip
    strip.setFocus()
    QTest.keyClick(strip, Qt.Key.Key_Left)
    QTest.keyClick(strip, Qt.Key.Key_Delete)
    step = growing.trial.recipe.steps[0]
    assert (step.top, step.left, step.rows, step.columns) == (3, 4, 6, 8)
    plan = np.asarray(session.document.state.planes["ground"]["walls"]["plan"])
    assert (plan[:, :-1] != plan[:, 1:]).all()
    assert set(np.unique(plan).tolist()) == {1, 2}


def test_a_mix_becomes_a_layer_that_follows_the_terrain_in_hand(growing):
    session = growing.session
    session.choose(layer_id="walls", terrain=1)
    poke(session.document, "walls", "plan", np.s_[3:9, 4:12], 1)
    press(growing.panels["grow"], "Living layer")
    layer = session.layer
    assert (layer.kind, layer.on, layer.terrain) == ("mix", "walls", 1)
    codes = session.derived.knitted("ground").codes(layer.id, session.ground.board.whole)
    assert codes[3:9, 4:12].any()
    assert not codes[10:].any()
    growing.commands.action("Throw the living mix again").trigger()
    again = session.derived.knitted("ground").codes(layer.id, session.ground.board.whole)
    assert not np.array_equal(codes, again)
