"""Things placed, chosen, moved and described by mouse and keyboard."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from knitground.app.ground.figure_page import FigurePage
from knitground.app.ground.light_page import LightPage
from knitground.app.widgets import Tick
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.thing_notes import set_kind_property
from knitground.core.layers.light import Light
from knitground.core.render.lights import STEP_MS, lamps_of, strength
from knitground.core.tiles.notes import Property
from knitground.core.walk.goals import spawn_of
from knitground.core.walk.side import edges_of, seen_from_side
from making import SIDE, poke, tile
from window.finding import named, painted, press, says

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def placing(working):
    """A prop layer at hand, with a tile in hand."""
    layer = add_layer(working.session.document, "ground", "Props", kind="props")
    working.session.set_stage("ground")
    working.session.choose(layer_id=layer, tile=tile(2, 1))
    working.ground.view.set_zoom(4)
    working.ground.view.centre_on(80, 60)
    return working


def at(window, x: float, y: float) -> QPointF:
    return window.ground.view.to_widget(x, y)


def key(window, code: Qt.Key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    window.ground.view.setFocus()
    QTest.keyClick(window.ground.view, code, modifier)


def things(window):
    return window.session.props.things


def test_a_click_places_the_tile_in_hand_and_undo_takes_it_back(placing, hand):
    view = placing.ground.view
    hand.click(view, at(placing, 60, 50))
    key(placing, Qt.Key.Key_T)
    key(placing, Qt.Key.Key_M)
    hand.click(view, at(placing, 90, 50))
    assert [(one.tile, one.turn, one.mirrored) for one in things(placing)] == [
        (tile(2, 1), 0.0, False),
        (tile(2, 1), 90.0, True),
    ]
    assert all((one.x - SIDE / 2) % SIDE == 0 and one.y % SIDE == 0 for one in things(placing))
    hand.click(view, at(placing, 60, 46), RIGHT)
    assert len(things(placing)) == 1
    placing.undo()
    placing.undo()
    placing.undo()
    assert things(placing) == ()


def test_chosen_things_are_moved_by_drag_and_by_arrows_and_removed(placing, hand):
    view = placing.ground.view
    for x in (40, 64, 88):
        hand.click(view, at(placing, x, 44))
    key(placing, Qt.Key.Key_S)
    placing.session.choose(snap="pixel")
    before = things(placing)
    hand.drag(view, at(placing, 25, 25), at(placing, 60, 60), at(placing, 75, 60))
    assert placing.session.choices.things == {before[0].id, before[1].id}
    hand.drag(view, at(placing, 64, 44), at(placing, 68, 48), at(placing, 74, 57))
    assert [(one.x - old.x, one.y - old.y) for one, old in zip(things(placing), before, strict=True)] == [
        (10, 13), (10, 13), (0, 0),
    ]  # fmt: skip
    key(placing, Qt.Key.Key_Left)
    key(placing, Qt.Key.Key_Down, SHIFT)
    assert (things(placing)[0].x - before[0].x, things(placing)[0].y - before[0].y) == (9, 13 + SIDE)
    hand.click(view, at(placing, 88, 44), modifier=SHIFT)
    assert len(placing.session.choices.things) == 3
    hand.click(view, at(placing, 88, 44), modifier=CONTROL)
    assert len(placing.session.choices.things) == 2
    key(placing, Qt.Key.Key_Delete)
    assert [one.id for one in things(placing)] == [before[2].id]
    key(placing, Qt.Key.Key_Escape)
    assert not placing.session.choices.things


def test_things_are_copied_pasted_and_duplicated_by_keys(placing, hand):
    hand.click(placing.ground.view, at(placing, 60, 44))
    key(placing, Qt.Key.Key_S)
    key(placing, Qt.Key.Key_A, CONTROL)
    key(placing, Qt.Key.Key_C, CONTROL)
    key(placing, Qt.Key.Key_V, CONTROL)
    key(placing, Qt.Key.Key_D, CONTROL)
    assert [one.x for one in things(placing)] == [60, 60 + SIDE, 60 + 2 * SIDE]
    QApplication.clipboard().setText("no things at all")
    key(placing, Qt.Key.Key_V, CONTROL)
    assert "clipboard holds no things" in says(placing.ledger)
    assert len(things(placing)) == 3


def test_shapes_are_dragged_and_their_knobs_turn_and_scale_them(placing, hand):
    view = placing.ground.view
    key(placing, Qt.Key.Key_A)
    hand.drag(view, at(placing, 40, 40), at(placing, 70, 50), at(placing, 80, 64))
    placing.session.choose(form="frame")
    hand.drag(view, *(at(placing, *spot) for spot in ((96, 40), (120, 40), (120, 64), (96, 64), (97, 44))))
    box, patch = things(placing)
    assert (box.form, box.width, box.height, box.x, box.y) == ("box", 40, 24, 60, 52)
    assert (patch.form, len(patch.points) >= 4) == ("polygon", True)
    key(placing, Qt.Key.Key_S)
    hand.click(view, at(placing, 44, 44))
    assert placing.session.choices.things == {box.id}
    view.grab()
    hand.drag(view, at(placing, 80, 64), at(placing, 90, 70), at(placing, 100, 76))
    assert things(placing)[0].scale == pytest.approx(2, abs=0.05)
    placing.undo()
    top = at(placing, 60, 40) - QPointF(0, 18)
    hand.drag(view, top, at(placing, 80, 30), at(placing, 90, 52))
    assert things(placing)[0].turn == pytest.approx(90, abs=2)


def test_the_card_says_what_things_are_and_kinds_hold_for_all(placing, hand, monkeypatch):
    card = placing.panels["ground"].things
    placing.session.choose(things=frozenset())
    assert card.numbers["scale"].text() == "100.0%"
    hand.click(placing.ground.view, at(placing, 60, 44))
    assert card.isVisible()
    card.name.setText("Old smoker")
    card.name.setModified(True)
    QTest.keyClick(card.name, Qt.Key.Key_Return)
    card.numbers["turn"].setValue(30)
    card.numbers["scale"].setValue(150)
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: ("Spawn point", True))
    card.kind.setCurrentIndex(card.kind.findText("New kind…"))
    card.kind.activated.emit(card.kind.currentIndex())
    [kind] = placing.session.document.project.thing_kinds
    thing = things(placing)[0]
    assert (thing.name, thing.turn, thing.scale, thing.kind) == ("Old smoker", 30, 1.5, kind.id)
    set_kind_property(placing.session.document, kind.id, "bees", Property("whole", 12))
    card.pages.show_page("Notes")
    assert "12, from the kind" in says(card)
    press(card, "Set")
    assert things(placing)[0].properties["bees"].value == 12
    card.said.new_tag.setText("lost")
    card.said.new_tag.setModified(True)
    QTest.keyClick(card.said.new_tag, Qt.Key.Key_Return)
    assert things(placing)[0].tags == ("lost",)
    placing.session.choose(layer_id="things")
    assert not card.isVisible()


def test_tools_for_cells_say_that_they_have_nothing_to_do_and_come_back_on_other_layers(placing, hand):
    key(placing, Qt.Key.Key_F)
    hand.click(placing.ground.view, at(placing, 60, 44))
    assert "prop layer" in says(placing.ledger)
    assert things(placing) == ()
    placing.session.choose(layer_id="things")
    hand.click(placing.ground.view, at(placing, 60, 44))
    assert placing.session.document.undo_label == "fill"


def test_a_locked_prop_layer_is_left_alone(placing, hand):
    hand.click(placing.ground.view, at(placing, 60, 44))

    change_layer(placing.session.document, "ground", "props", "lock", locked=True)
    before = things(placing)
    for letter in (Qt.Key.Key_D, Qt.Key.Key_X, Qt.Key.Key_A, Qt.Key.Key_S):
        key(placing, letter)
        hand.drag(placing.ground.view, at(placing, 60, 42), at(placing, 80, 60))
        assert "locked" in says(placing.ledger)
    assert things(placing) == before


def test_things_are_strewn_over_a_stroke_and_each_stroke_falls_otherwise(placing, hand):
    view = placing.ground.view
    key(placing, Qt.Key.Key_Y)
    placing.session.choose(radius=2, density=0.5)
    counts, places = [], []
    for _ in range(2):
        hand.drag(view, at(placing, 60, 44), at(placing, 70, 50), at(placing, 90, 60))
        counts.append(len(things(placing)) - sum(counts))
        places.append({(one.x, one.y) for one in things(placing)[-counts[-1] :]})
    assert all(8 < count < 40 for count in counts)
    assert places[0] != places[1]
    placing.undo()
    assert len(things(placing)) == counts[0]
    hand.move(view, at(placing, 60, 44))
    view.grab()
    placing.session.choose(density=1.0)
    hand.click(view, at(placing, 2, 2))
    assert len(things(placing)) > counts[0]
    before = len(things(placing))
    placing.session.choose(radius=0)
    hand.drag(view, at(placing, 52, 84), at(placing, 108, 84))
    assert len(things(placing)) - before == 8, "one in each cell, also where a quick pointer leapt over them"


def test_the_ground_never_goes_bare_while_definitions_change(demo):
    view = demo.ground.view
    view.set_zoom(1)
    view.centre_on(400, 300)
    for _ in range(60):
        before = painted(view)
    change_layer(demo.session.document, "long-roof", "cover", "fade", opacity=0.99)
    first = np.asarray(painted(view), dtype=int)
    assert (np.abs(first - before).max(axis=2) > 12).mean() < 0.05


def test_a_light_is_placed_chosen_and_changed(placing, hand):
    session, view = placing.session, placing.ground.view
    add_layer(session.document, "ground", "Night", kind="shade")
    press(placing.panels["ground"], "Light")
    page = placing.panels["ground"].findChild(LightPage)
    press(page, "New light")
    hand.click(view, at(placing, 60, 50))
    hand.click(view, at(placing, 100, 50))
    assert [(one.form, one.light) for one in things(placing)] == [("point", Light())] * 2
    session.choose(things=frozenset({things(placing)[0].id}))
    page.reach.setValue(40)
    page.flicker.setValue(30)
    press(page, "Throws shadows")
    assert [one.light for one in things(placing)] == [Light(reach=40, flicker=0.3, shadows=False), Light()]
    for _ in range(2):
        view.grab()
    assert session.clock.runs
    press(page, "Shines")
    assert things(placing)[0].light is None
    assert not page.reach.isEnabled()
    placing.undo()
    assert things(placing)[0].light == Light(reach=40, flicker=0.3, shadows=False)


def test_dragging_a_slider_of_a_light_is_one_step(placing, hand):
    press(placing.panels["ground"], "Light")
    page = placing.panels["ground"].findChild(LightPage)
    press(page, "New light")
    hand.click(placing.ground.view, at(placing, 60, 50))
    page.softness.sliderPressed.emit()
    for value in (70, 50, 20):
        page.softness.setValue(value)
    page.softness.sliderReleased.emit()
    assert things(placing)[0].light.softness == 0.2
    placing.undo()
    assert things(placing)[0].light == Light()


def test_who_clicks_with_a_tile_in_hand_while_shapes_are_drawn_is_led_to_placing_it(placing, hand):
    before = len(things(placing))
    placing.ground.choose_tool("area")
    placing.session.choose(form="box")
    hand.click(placing.ground.view, at(placing, 60, 50))
    assert "a click alone draws nothing." in says(placing.ledger)
    press(placing.ledger, "Draw")
    hand.click(placing.ground.view, at(placing, 60, 50))
    assert len(things(placing)) == before + 1


def test_what_a_thing_is_to_a_figure_is_said_in_plain_words(placing, hand):
    session, view = placing.session, placing.ground.view
    hand.click(view, at(placing, 60, 50))
    placing.ground.choose_tool("area")
    session.choose(form="line", snap="free")
    hand.drag(view, at(placing, 20, 80), at(placing, 40, 80), at(placing, 60, 80))
    press(placing.panels["ground"], "Figure")
    page = placing.panels["ground"].findChild(FigurePage)
    assert page.holds.isEnabled()
    assert not page.blocks.isEnabled()
    press(page, "Holds from above")
    assert edges_of(session.ground, ()) != []
    sprite = things(placing)[0].id
    session.choose(things=frozenset({sprite}))
    page.role.activated.emit(1)
    assert page.role.currentText() == "where it comes in"
    assert spawn_of(session.ground, ()) is not None
    press(page, "Blocks")
    page.role.activated.emit(0)
    assert {name: one.value for name, one in things(placing)[0].properties.items()} == {"blocks": True}
    press(page, "Blocks")
    assert things(placing)[0].properties == {}


def test_a_ground_is_seen_from_the_side_by_a_tick(placing):
    press(placing.panels["ground"], "Seen from the side")
    assert seen_from_side(placing.session.ground)
    placing.undo()
    assert not seen_from_side(placing.session.ground)
    assert not named(placing.panels["ground"], Tick, "Seen from the side").isChecked()


def test_a_light_that_flickers_grows_and_fades_as_much_as_it_says(placing, hand):
    session, view = placing.session, placing.ground.view
    props = session.props.id
    shade = add_layer(session.document, "ground", "Night", kind="shade")
    poke(session.document, shade, "corners", np.s_[:], 2)
    session.choose(layer_id=props)
    press(placing.panels["ground"], "Light")
    press(placing.panels["ground"], "New light")
    hand.click(view, at(placing, 60, 50))
    placing.panels["ground"].findChild(LightPage).reach.setValue(50)
    painted(view)
    steady = painted(view).astype(int)
    placing.panels["ground"].findChild(LightPage).flicker.setValue(60)
    session.clock.pause(True)
    painted(view)
    shown = []
    for step in range(12):
        session.clock._held = step * STEP_MS
        shown.append(painted(view).astype(int))
    ground = session.ground
    (one,) = lamps_of(ground.layers)
    spot = view.to_widget(64, 54).toPoint()
    bright = [int(picture[spot.y(), spot.x(), 0]) for picture in shown]
    levels = [strength(one, step * STEP_MS) for step in range(12)]
    full = int(steady[spot.y(), spot.x(), 0])
    dark = (np.array(bright) - full) / (np.array(levels) - 1)
    assert dark == pytest.approx(np.median(dark), rel=0.1, abs=2)
    assert max(bright) <= full + 1
    assert max(bright) - min(bright) > 10
    far = view.to_widget(60, 50 + 60).toPoint()
    assert all((picture[far.y(), far.x()] == steady[far.y(), far.x()]).all() for picture in shown)
