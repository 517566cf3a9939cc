"""Joining sets of several sheets in the window."""

import numpy as np

from knitground.app.joins.joining import JOIN_SHARING
from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import Cut
from making import add_sheet, png
from test_joining import HEATH, ROSE, SAGE, SIDE, SLATE, meeting
from window.finding import open_menu, press, says, take


def take_sets_of(window, qtbot, name: str, tiles: list[np.ndarray]) -> None:
    """Adds a sheet of one set, and takes that."""
    document = window.session.document
    sheet_id = add_sheet(document, f"{name}.png", png(np.concatenate(tiles, axis=1)))
    set_cut(document, sheet_id, Cut("tiles", SIDE, SIDE))
    window.session.choose(sheet_id=sheet_id)
    press(window.panels["joins"], "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(window.panels["joins"]), timeout=20_000)
    press(window.panels["joins"], "Take all")


def test_who_takes_a_set_of_another_sheet_on_the_same_ground_is_offered_to_join_them(window, qtbot):
    session, panel = window.session, window.panels["joins"]
    session.set_stage("joins")
    take_sets_of(window, qtbot, "slate", meeting(HEATH, SLATE, 1))
    assert JOIN_SHARING not in says(window.ledger)
    take_sets_of(window, qtbot, "rose", meeting(ROSE, HEATH, 2))
    press(window.ledger, JOIN_SHARING)
    (joined,) = session.document.project.join_sets
    assert (session.join_set, len(joined.terrains), len(joined.labels)) == (joined, 3, 32)
    assert "never meet" in says(panel)
    proof = window.ground.view
    width, height = proof.content_size()
    assert proof.shows_proof
    assert width * proof.zoom <= proof.width(), "all of it is in view"
    assert proof.origin.x() >= 0
    assert proof.origin.x() + width * proof.zoom <= proof.width()
    assert proof.origin.y() + height * proof.zoom <= proof.height()
    window.undo()
    assert len(session.document.project.join_sets) == 2
    take_sets_of(window, qtbot, "far", meeting(SAGE, (20, 90, 200), 3))
    assert JOIN_SHARING not in says(window.ledger)
    panel.offer_new()
    take(open_menu(), JOIN_SHARING)
    assert "No other set shares a terrain" in says(window.ledger)
