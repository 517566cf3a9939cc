"""Asking for the way between two places, by clicks."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from knitground.core.edits.notes import set_collision
from knitground.core.tiles.notes import Property
from making import plane_of, poke, tile
from window.finding import painted, says

WALL = tile(3, 1)


@pytest.fixture
def asking(working):
    """The window with a wall from the top to the middle of the ground, and clicks taken for a way."""
    document = working.session.document
    set_collision(document, {WALL: "whole"})
    poke(document, "things", "cells", np.s_[:6, 10], document.palette.code(WALL))
    working.session.set_stage("ground")
    working.session.choose(layer_id="things", tile=tile(4, 1))
    working.ground.view.fit()
    working.ground.choose_tool("draw")
    working.commands.action("Find the way between two places").trigger()
    return working


def click(window, x: float, y: float) -> None:
    """Clicks a place of the ground, told in its pixels."""
    at = window.ground.view.to_widget(x, y)
    QTest.mouseClick(window.ground.view, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))


def test_two_clicks_find_the_way_round_and_lay_nothing(asking):
    before = plane_of(asking.session.document, "things", "cells").copy()
    click(asking, 60, 20)
    click(asking, 108, 20)
    finder = asking.wayfinder
    assert max(spot.y for spot in finder.found.spots) > 6 * 8
    assert finder.found.cost > 48 + 30
    assert "A way of" in says(asking)
    assert np.array_equal(plane_of(asking.session.document, "things", "cells"), before)
    QTest.keyClick(asking.ground.view, Qt.Key.Key_Escape)
    assert not finder.asks
    click(asking, 60, 20)
    assert not np.array_equal(plane_of(asking.session.document, "things", "cells"), before), "the tool works again"


def test_the_way_follows_what_is_painted(asking):
    click(asking, 60, 20)
    click(asking, 108, 20)
    document = asking.session.document
    poke(document, "things", "cells", np.s_[:, 10], document.palette.code(WALL))
    assert not asking.wayfinder.found.spots
    assert "No way leads there: it begins in part " in says(asking)
    document.undo()
    assert asking.wayfinder.found.spots
    click(asking, 84, 20)
    click(asking, 108, 20)
    assert "There is no room for a figure where the way begins" in says(asking)


def test_narrow_places_are_shown_and_followed(asking, qtbot):
    document, tightness = asking.session.document, asking.tightness
    poke(document, "things", "cells", np.s_[7:, 10], document.palette.code(WALL))
    asking.commands.action("Show or hide narrow places and dead ends").trigger()
    qtbot.waitUntil(lambda: tightness.shown is not None, timeout=5000)
    assert "1 narrow place, with less than 5 pixels to spare" in says(asking)
    [door] = tightness.shown.narrow
    assert (round(door.spot.x / 8 - 0.5), round(door.spot.y / 8 - 0.5)) == (10, 6)
    plain = painted(asking.ground.view)
    poke(document, "things", "cells", np.s_[6:, 10], 0)
    qtbot.waitUntil(lambda: not tightness.shown.narrow, timeout=5000)
    document.undo()
    qtbot.waitUntil(lambda: len(tightness.shown.narrow) == 1, timeout=5000)
    asking.commands.action("Show or hide narrow places and dead ends").trigger()
    assert not np.array_equal(painted(asking.ground.view), plain)


def test_from_the_side_the_way_is_one_of_runs_and_leaps(asking, qtbot):
    asking.wayfinder.end()
    session = asking.session
    ground = replace(session.ground, properties={"view": Property("text", "side")})
    session.document.define("side", replace(session.document.project, grounds=(ground,)))
    height = ground.projection.size[1]
    poke(session.document, "things", "cells", np.s_[:, :], 0)
    poke(session.document, "things", "cells", np.s_[-2:, 10:], session.document.palette.code(WALL))
    asking.wayfinder.toggle()
    click(asking, 30, height - 9)
    click(asking, 110, height - 30)
    qtbot.waitUntil(lambda: asking.wayfinder.found is not None, timeout=20_000)
    assert "1 leap." in asking.wayfinder.found.says
    assert asking.wayfinder.found.spots[-1].x > 80
    plain = painted(asking.ground.view)
    asking.wayfinder.end()
    assert not np.array_equal(painted(asking.ground.view), plain)
