import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QPushButton, QSlider

from knitground.core.edits.grounds import resize_ground
from knitground.core.edits.layers import remove_layer
from knitground.core.edits.selecting import boxed
from knitground.core.grow.mix import Mix, MixPart
from making import tile
from window.finding import named, press, says

CONTROL = Qt.KeyboardModifier.ControlModifier


def corners(window) -> np.ndarray:
    return np.asarray(window.session.document.state.planes["ground"]["areas"]["corners"])


@pytest.fixture
def growing(working):
    working.session.put_mix(
        Mix("m", "M", (MixPart(tile(2, 3), 1), MixPart(tile(5, 3), 1), MixPart(None, 2))), "add mix"
    )
    working.session.set_stage("grow")
    return working


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
        card.try_it()
    qtbot.waitUntil(lambda: not jobs[0].running, timeout=20_000)
    qtbot.waitUntil(lambda: not np.array_equal(corners(growing), before), timeout=5000)
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
