"""Seams of the ledger, shown on the card of the joins."""

from knitground.core.check.check import Finding
from knitground.core.tiles.tile import TileRef
from making import make_document
from window.finding import press, says


def test_a_seam_of_the_ledger_is_shown_enlarged(window, qtbot):
    window.session.open(make_document())
    qtbot.waitUntil(lambda: any(one.kind == "seam" for one in window.session.findings), timeout=8000)
    finding = next(one for one in window.session.findings if one.kind == "seam" and one.tiles)
    window.session.go_to.emit(finding)
    panel = window.panels["joins"]
    second = TileRef.parse(finding.tiles[1])
    named = f"{second.sheet} {second.column}, {second.row}"  # as all else names it
    assert window.session.choices.stage == "joins"
    assert str(window.session.choices.tile) == finding.tiles[0]
    assert named in says(panel)
    press(panel, "Done")
    assert named not in says(panel)
    # Its first tile is at hand now.
    window.session.go_to.emit(finding)
    assert named in says(panel)


def test_seams_that_are_only_counted_lead_to_their_set(window):
    window.session.open(make_document())
    (join_set, *_) = window.session.document.project.join_sets
    window.session.go_to.emit(Finding("seam", "joins", "5 more seams", join_set.id, count=5))
    assert window.session.choices.stage == "joins"
    assert window.session.join_set.id == join_set.id
