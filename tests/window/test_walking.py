"""Walking in the window: by keys, past what blocks, while somebody paints."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QPushButton

from knitground.app.walk.rules_dialog import RulesDialog
from knitground.app.widgets import Tick
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.notes import animate, set_collision, set_property
from knitground.core.edits.placing import place
from knitground.core.edits.sheets import set_cut
from knitground.core.layers.thing import Thing
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.notes import Frame, Point, Property, TileNotes
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.camera import Screen
from knitground.core.walk.dressed import Dress, dress_of
from knitground.core.walk.motion import Spot
from knitground.core.walk.room import USUAL_FOOT, Foot
from making import add_sheet, plane_of, png, poke, tile
from window.finding import named, open_menu, painted, says, take

WALL = tile(3, 1)


@pytest.fixture
def walking(working):
    """The window with a wall down the ground and somebody who walks at its left."""
    document = working.session.document
    set_collision(document, {WALL: "whole"})
    poke(document, "things", "cells", np.s_[:, 10], document.palette.code(WALL))
    working.session.set_stage("ground")
    working.session.choose(layer_id="things")
    working.walker.begin(Spot(20.0, 40.0))
    working.walker._timer.stop()
    return working


def hold(window, key: Qt.Key, ticks: int) -> None:
    """Holds a key for so many steps, whatever the clock says."""
    view = window.ground.view
    QTest.keyPress(view, key)
    window.walker.walk(ticks)
    QTest.keyRelease(view, key)


def test_keys_walk_and_what_blocks_is_told(walking):
    walker = walking.walker
    hold(walking, Qt.Key.Key_Right, 400)
    assert walker.spot.x == pytest.approx(10 * 8 - 5, abs=0.01)
    assert "locked by art 3, 1 on “Things”" in says(walking)
    hold(walking, Qt.Key.Key_S, 60)
    assert walker.spot.y > 45
    assert walker.spot.x == pytest.approx(75, abs=0.01)
    before = walker.spot
    walker.walk(60)
    assert walker.spot == before, "no key is held"
    QTest.keyClick(walking.ground.view, Qt.Key.Key_Escape)
    assert "locked by" not in says(walking)
    QTest.keyClick(walking.ground.view, Qt.Key.Key_Escape)
    assert not walker.walks


def test_letters_are_no_tools_while_one_walks_and_are_again_after(walking):
    view = walking.ground.view
    walking.ground.choose_tool("fill")
    for key in (Qt.Key.Key_D, Qt.Key.Key_A, Qt.Key.Key_S):
        event = QKeyEvent(QEvent.Type.ShortcutOverride, key, Qt.KeyboardModifier.NoModifier)
        event.ignore()
        QApplication.sendEvent(view, event)
        assert event.isAccepted()
    walking.walker.end()
    event = QKeyEvent(QEvent.Type.ShortcutOverride, Qt.Key.Key_D, Qt.KeyboardModifier.NoModifier)
    event.ignore()
    QApplication.sendEvent(view, event)
    assert not event.isAccepted()


def test_one_can_go_on_painting_and_the_ground_changes_under_the_figure(walking, hand):
    walker, session = walking.walker, walking.session
    walking.ground.choose_tool("erase")
    hand.on_ground((5, 10), (5, 10))
    assert plane_of(session.document, "things", "cells")[5, 10] == 0
    hold(walking, Qt.Key.Key_Right, 500)
    assert walker.spot.x > 11 * 8, "through the hole that was rubbed"
    session.choose(tile=WALL)
    walking.ground.choose_tool("draw")
    row, column = int(walker.spot.y // 8), int(walker.spot.x // 8)
    hand.on_ground((row, column), (row, column))
    assert walker.figure.mover.fits(walker.spot), "it steps aside"
    walking.undo()
    assert plane_of(session.document, "things", "cells")[row, column] == 0


def test_the_figure_begins_at_its_spawn_point_and_tells_zones(walking):
    session, walker = walking.session, walking.walker
    add_layer(session.document, "ground", "Props", kind="props")
    place(session.document, "ground", "props", [
        Thing("new", 36.0, 60.0, "point", name="Gate", tags=("spawn",)),
        Thing("new", 44.0, 90.0, "box", width=40.0, height=30.0, name="Meadow"),
    ])  # fmt: skip
    walker.end()
    QTest.keyClick(walking, Qt.Key.Key_F5)
    walker._timer.stop()
    assert (walker.spot.x, walker.spot.y) == (36.0, 60.0)
    hold(walking, Qt.Key.Key_Down, 90)
    assert "Entered “Meadow”" in says(walking)


def test_the_figure_shows_and_stands_behind_what_is_over_it(walking):
    view, session, walker = walking.ground.view, walking.session, walking.walker
    seen = painted(view).copy()
    walker.end()
    bare = painted(view).copy()
    assert not np.array_equal(seen, bare)
    poke(session.document, "things", "cells", np.s_[:, 0:8], session.document.palette.code(WALL))
    shown = {}
    for stands in ("over", "under"):
        change_layer(session.document, "ground", "things", "stands", stands=stands, solid="none")
        empty = painted(view).copy()
        walker.begin(Spot(20.0, 40.0))
        walker._timer.stop()
        shown[stands] = (painted(view) != empty).mean()
        walker.end()
    assert shown["over"] < shown["under"]


def test_a_ground_seen_from_the_side_is_run_and_jumped_on(walking):
    session, walker = walking.session, walking.walker
    walker.end()
    ground = replace(session.ground, properties={"view": Property("text", "side")})
    session.document.define("side", replace(session.document.project, grounds=(ground,)))
    poke(session.document, "things", "cells", np.s_[12, :], session.document.palette.code(WALL))
    walker.begin(Spot(30.0, 70.0))
    walker._timer.stop()
    assert "up jumps" in says(walking)
    walker.walk(60)
    floor = walker.spot.y
    assert floor == pytest.approx(12 * 8 - 7, abs=0.02)
    hold(walking, Qt.Key.Key_Up, 20)
    assert walker.spot.y < floor - 8
    walker.walk(150)
    assert walker.spot.y == pytest.approx(floor, abs=0.01)
    hold(walking, Qt.Key.Key_Left, 30)
    assert walker.spot.x < 30


def test_a_ground_that_is_seen_from_the_side_from_now_on_is_gone_on_with_as_such(walking):
    session, walker = walking.session, walking.walker
    ground = replace(session.ground, properties={"view": Property("text", "side")})
    session.document.define("side", replace(session.document.project, grounds=(ground,)))
    assert "up jumps" in says(walking)
    high = walker.spot.y
    walker.walk(30)
    assert walker.spot.y > high, "it falls"
    walking.undo()
    low = walker.spot.y
    walker.walk(30)
    assert walker.spot.y == low


def test_what_blocks_and_what_hangs_together_are_shown_and_ruled(walking):
    view, session = walking.ground.view, walking.session
    walking.walker.end()
    plain = painted(view).copy()
    walking.commands.action("Show or hide what blocks").trigger()
    shapes = painted(view).copy()
    assert not np.array_equal(shapes, plain)
    walking.commands.action("Show or hide what hangs together").trigger()
    assert not np.array_equal(painted(view), shapes)
    survey = walking.blocked.survey
    assert len(survey.reach.sizes) == 2
    poke(session.document, "things", "cells", np.s_[3:6, 10], 0)
    painted(view)
    assert len(walking.blocked.survey.reach.sizes) == 1
    walking.commands.action("What blocks…").trigger()
    dialog = walking.findChild(RulesDialog)
    name = session.document.project.join_sets[0].terrains[0].name
    named(dialog, Tick, f"{name} blocks").click()
    assert len(session.document.project.blocks.terrains) == 1
    dialog.accept()
    walking.undo()
    assert session.document.project.blocks.terrains == ()


@pytest.mark.parametrize("large", [False, True])
def test_who_walks_through_walls_is_told_that_nothing_blocks_and_lets_them_block_at_a_click(
    walking, qtbot, monkeypatch, large
):
    if large:
        monkeypatch.setattr("knitground.app.walk.blocked._AT_ONCE", 1)
    document, walker, spot = walking.session.document, walking.walker, Spot(20.0, 40.0)
    walker.end()
    high = lay_wall(walking, 3)
    set_collision(document, {WALL: "none"})
    walker.begin(spot)
    walker._timer.stop()
    hold(walking, Qt.Key.Key_Right, 400)
    assert walker.spot.x > 11 * 8, "it went through"
    walker.end()
    walker.begin(spot)
    assert "nothing blocks yet" in says(walking)
    named(walking, QPushButton, "Let what stands on the ground block").click()
    qtbot.waitUntil(lambda: "1 tile blocks now" in says(walking))
    assert document.project.tiles[high].collision == "whole"
    walker._timer.stop()
    hold(walking, Qt.Key.Key_Right, 400)
    assert walker.spot.x == pytest.approx(10 * 8 - 5, abs=0.01)
    walker.end()
    walker.begin(spot)
    assert "nothing blocks" not in says(walking)


def lay_wall(window, cells: int) -> TileRef:
    """Lays a wall as high as some cells down the ground in place of what lies there."""
    document = window.session.document
    name = add_sheet(document, "wall.png", png(np.full((cells * 8, 8, 4), 200, np.uint8)))
    set_cut(document, name, Cut("tiles", 8, cells * 8, anchor="bottom"))
    ref = TileRef(name, "tiles", 0, 0)
    poke(document, "things", "cells", np.s_[:, 10], document.palette.code(ref))
    return ref


def test_what_is_shown_of_what_blocks_follows_every_change(walking, qtbot):
    view, document = walking.ground.view, walking.session.document
    walking.walker.end()
    view.hovered(None)
    show = walking.commands.action("Show or hide what blocks")
    poke(document, "things", "cells", np.s_[3:6, 10], 0)
    show.trigger()
    open_there = painted(view)
    show.trigger()
    document.undo()
    painted(view)
    show.trigger()
    closed = painted(view)
    assert not np.array_equal(closed, open_there)
    poke(document, "things", "cells", np.s_[3:6, 10], 0)
    qtbot.waitUntil(lambda: np.array_equal(painted(view), open_there))
    document.undo()
    qtbot.waitUntil(lambda: np.array_equal(painted(view), closed))


def test_tiles_of_which_something_is_said_block_one_value_of_each_property(walking):
    session = walking.session
    high, low = Property("text", "high"), Property("text", "low")
    for ref, value in ((tile(4, 1), high), (tile(5, 1), low)):
        set_property(session.document, [ref], "wall", value)
    walking.blocked.choose_rules()
    dialog = walking.findChild(RulesDialog)
    named(dialog, Tick, "wall: high blocks").click()
    assert session.document.project.blocks.properties == {"wall": high}
    poke(session.document, "things", "cells", np.s_[:, 5], session.document.palette.code(tile(4, 1)))
    walking.walker.begin(Spot(20.0, 40.0))
    walking.walker._timer.stop()
    hold(walking, Qt.Key.Key_Right, 400)
    assert walking.walker.spot.x == pytest.approx(5 * 8 - 5, abs=0.01)
    named(dialog, Tick, "wall: low blocks").click()
    assert session.document.project.blocks.properties == {"wall": low}
    assert not named(dialog, Tick, "wall: high blocks").isChecked()
    named(dialog, Tick, "wall: low blocks").click()
    assert not session.document.project.blocks.properties


def test_a_route_is_recorded_kept_and_walked_again(walking, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **more: ("Along the wall", True))
    walker, session = walking.walker, walking.session
    record = walking.commands.action("Record a route, or keep it")
    record.trigger()
    hold(walking, Qt.Key.Key_Right, 300)
    hold(walking, Qt.Key.Key_Down, 40)
    record.trigger()
    [kept] = session.document.project.routes
    end = walker.spot
    assert (kept.name, kept.end_x, kept.end_y) == ("Along the wall", round(end.x, 3), round(end.y, 3))
    assert [leg.way for leg in kept.route.legs if leg.way] == ["E", "S"]
    walker.play(kept.route)
    walker._timer.stop()
    assert (walker.spot.x, walker.spot.y) == (20.0, 40.0)
    walker.walk(341)
    assert walker.spot == end
    walking.commands.action("Walk a route again…").trigger()
    take(open_menu(), "Remove “Along the wall”")
    assert session.document.project.routes == ()
    walking.undo()
    assert session.document.project.routes == (kept,)


def test_any_tile_walks_with_the_shape_that_blocks_of_it_and_plays_its_frames(walking):
    walker, session = walking.walker, walking.session
    document, wanted = session.document, tile(5, 1)
    set_collision(document, {wanted: ((Point(2, 4), Point(6, 4), Point(6, 8), Point(2, 8)),)})
    animate(document, {wanted: [Frame(wanted, 100), Frame(tile(6, 1), 100)]})
    session.choose(tile=wanted)
    before = painted(walking.ground.view)
    walking.commands.action("Walk as the tile in hand, or as the beekeeper").trigger()
    walker._timer.stop()
    assert "walks" in says(walking)
    first = painted(walking.ground.view)
    assert not np.array_equal(before, first)
    hold(walking, Qt.Key.Key_Right, 400)
    assert walker.spot.x == pytest.approx(10 * 8 - 2, abs=0.01), "the foot is four pixels wide"
    look = walker.costume.look(walker.figure, "S", 0.0, 150)
    assert np.array_equal(look.pixels, session.derived.tile(tile(6, 1)))
    assert (look.x, look.y) == (4, 6)
    walking.commands.action("Walk as the tile in hand, or as the beekeeper").trigger()
    walker._timer.stop()
    assert "The beekeeper walks" in says(walking)
    assert walker.figure.foot == USUAL_FOOT


def test_a_tile_that_blocks_nowhere_walks_on_a_small_foot():
    assert dress_of(None, (16, 24)) == Dress(USUAL_FOOT, 8, 24 - USUAL_FOOT.height / 2)
    assert dress_of(None, (4, 3)).foot == Foot(4, 3)
    assert dress_of(TileNotes(collision="whole"), (8, 6)) == Dress(Foot(8, 6), 4, 3)


def test_from_the_side_the_jumps_are_shown_and_tried_anew_after_a_change(walking, qtbot):
    session, blocked = walking.session, walking.blocked
    ground = replace(session.ground, properties={"view": Property("text", "side")})
    session.document.define("side", replace(session.document.project, grounds=(ground,)))
    blocked.toggle_parts()
    walking.ground.view.grab()
    qtbot.waitUntil(lambda: blocked.leaping.leaps is not None, timeout=20_000)
    before = blocked.leaping.leaps
    shown = painted(walking.ground.view)
    poke(session.document, "things", "cells", np.s_[:, 10], 0)
    walking.ground.view.grab()
    qtbot.waitUntil(lambda: blocked.leaping.leaps is not before, timeout=20_000)
    assert len(blocked.leaping.leaps.platforms) < len(before.platforms)
    assert not np.array_equal(painted(walking.ground.view), shown)
    blocked.toggle_parts()
    walking.ground.view.grab()


def test_layers_scroll_at_their_own_speed_on_the_screen_of_the_game(walking, monkeypatch):
    session, view = walking.session, walking.ground.view
    view.set_zoom(4)
    shade = add_layer(session.document, "ground", "Dusk", kind="shade")
    poke(session.document, shade, "corners", np.s_[:, :8], 2)
    walking.walker.begin(Spot(20.0, 40.0))
    walking.walker._timer.stop()
    plain = painted(view)
    change_layer(session.document, "ground", "areas", "parallax", parallax_x=0.999)
    assert np.abs(painted(view).astype(int) - plain).max() <= 2, "strip by strip it looks as drawn at once"
    change_layer(session.document, "ground", "areas", "parallax", parallax_x=0.25)
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: ("48 x 32", True))
    walking.walker.choose_screen()
    assert session.document.project.screen == Screen(48, 32)
    first = walking.walker.camera()
    assert (first.width, first.height) == (48, 32)
    framed = painted(view)
    assert not np.array_equal(framed, plain)
    hold(walking, Qt.Key.Key_Right, 90)
    assert walking.walker.camera().x > first.x
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: ("huge", True))
    walking.walker.choose_screen()
    assert "no size" in says(walking)
    assert session.document.project.screen == Screen(48, 32)


def test_who_stops_the_trying_of_jumps_gets_it_again_after_a_change(walking, qtbot):
    session, leaping = walking.session, walking.blocked.leaping
    ground = replace(session.ground, properties={"view": Property("text", "side")})
    session.document.define("side", replace(session.document.project, grounds=(ground,)))
    walking.blocked.toggle_parts()
    assert leaping.look() is None
    leaping._job.cancel()
    qtbot.waitUntil(lambda: leaping._job is None, timeout=20_000)
    if leaping.leaps is None:
        assert leaping.look() is None
    poke(session.document, "things", "cells", np.s_[:, 10], 0)
    qtbot.waitUntil(lambda: leaping.look() is not None, timeout=20_000)
