"""Mixes in the window: several parts at once, what else they hold, and throwing again what lies there."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDoubleSpinBox, QInputDialog

from knitground.app.joins.variant_bar import VariantBar
from knitground.core.edits.blocks import lift
from knitground.core.edits.keeping import keep_block
from knitground.core.edits.painting import Hand, area
from knitground.core.edits.selecting import boxed
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.project.model import replaced
from making import plane_of, poke, tile
from window.finding import entry, named, open_menu, press, says, take

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def weights(window) -> list[float]:
    return [part.weight for part in window.session.mix.parts]


def middle(bar, share: float) -> QPointF:
    return QPointF(bar.width() * share, 20)


def test_several_parts_are_chosen_and_weighed_together(growing, hand):
    panel, bar = growing.panels["grow"], growing.panels["grow"].bar
    hand.click(bar, middle(bar, 0.1))
    hand.click(bar, middle(bar, 0.8), modifier=CONTROL)
    assert bar.chosen == {0, 2}
    assert "2 parts are chosen" in says(panel)
    named(panel, QDoubleSpinBox, "Weight").setValue(5)
    assert weights(growing) == [5, 1, 5]
    bar.setFocus()
    QTest.keyClick(bar, Qt.Key.Key_Up)
    assert weights(growing) == pytest.approx([5.5, 1, 5.5])
    growing.undo()
    assert weights(growing) == [5, 1, 5], "one step for both"
    QTest.keyClick(bar, Qt.Key.Key_A, CONTROL)
    press(panel, "More…")
    take(open_menu(), "Make the parts even")
    assert weights(growing) == pytest.approx([11 / 3] * 3, abs=0.01)
    QTest.keyClick(bar, Qt.Key.Key_Left)
    QTest.keyClick(bar, Qt.Key.Key_Right, SHIFT)
    assert len(bar.chosen) == 2
    QTest.keyClick(bar, Qt.Key.Key_Delete)
    assert len(weights(growing)) == 1


def test_blocks_and_other_mixes_are_put_in_and_laid(growing):
    session, panel = growing.session, growing.panels["grow"]
    document, mix = session.document, session.mix
    poke(document, "things", "cells", np.s_[0:2, 0:2], document.palette.code(tile(1, 1)))
    block, _ = lift(
        session.ground, document.state.planes["ground"], ["things"], boxed(session.ground.board, (0, 0), (1, 1))
    )
    keep_block(document, block, "Crates")
    poke(document, "things", "cells", np.s_[:], 0)
    session.put_mix(Mix("weeds", "Weeds", (MixPart(tile(6, 1)),)), "add mix")
    session.choose(mix_id=mix.id)
    for text in ("Mix “Weeds”", "“Crates” of the tray"):
        press(panel, "Add…")
        take(open_menu(), text)
    assert [(part.mix, part.swatch) for part in session.mix.parts[-2:]] == [("weeds", ""), ("", "crates")]
    assert [part.says for part in panel.bar.parts()[-2:]] == ["Weeds", "Crates"]
    assert all(part.pictures for part in panel.bar.parts()[-2:])
    area(document, "ground", "things", Hand(mix=session.mix), (0.5, 0.5), (14.5, 18.5))
    laid = plane_of(document, "things", "cells")
    assert (laid == document.palette.code(tile(1, 1))).sum() % 4 == 0
    assert {document.palette.code(tile(1, 1)), document.palette.code(tile(6, 1))} <= set(np.unique(laid).tolist())
    # A circle is refused in a sentence, and what is used can't be taken out.
    session.choose(mix_id="weeds")
    press(panel, "Add…")
    take(open_menu(), f"Mix “{mix.name}”")
    assert len(session.mix.parts) == 1
    press(panel, "More…")
    take(open_menu(), "Remove the mix")
    assert "weeds" in [one.id for one in document.project.mixes]


def test_a_mix_is_thrown_again_where_it_lies_and_what_is_selected_is_held(growing):
    session, panel = growing.session, growing.panels["grow"]
    document, board = session.document, session.ground.board
    session.choose(layer_id="things")
    area(document, "ground", "things", Hand(mix=session.mix, throw=9), (0.5, 0.5), (14.5, 18.5))
    before = plane_of(document, "things", "cells").copy()
    session.select(boxed(board, (2.5, 2.5), (8.5, 9.5)))
    press(panel, "More…")
    take(open_menu(), "hold what is selected")
    after = plane_of(document, "things", "cells").copy()
    assert np.array_equal(after[2:9, 2:10], before[2:9, 2:10])
    assert not np.array_equal(after, before)
    press(panel, "More…")
    take(open_menu(), "Throw again where it lies")
    last = plane_of(document, "things", "cells").copy()
    assert not np.array_equal(last[2:9, 2:10], after[2:9, 2:10])
    last[2:9, 2:10] = after[2:9, 2:10]
    assert np.array_equal(last, after)


def test_a_mix_is_renamed_and_removed(growing, monkeypatch):
    panel = growing.panels["grow"]
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **more: ("Clover", True))
    press(panel, "More…")
    take(open_menu(), "Rename the mix")
    assert growing.session.mix.name == "Clover"
    press(panel, "More…")
    assert entry(open_menu(), "Remove the mix").isEnabled()
    take(open_menu(), "Remove the mix")
    assert growing.session.document.project.mixes == ()
    growing.undo()
    assert growing.session.document.project.mixes[0].name == "Clover"


def test_variants_of_a_join_set_are_weighed_on_the_same_bar(working, hand):
    session = working.session
    session.set_stage("joins")
    join_set = session.join_set
    one, other = list(join_set.labels)[:2]
    labels = {**join_set.labels, other: join_set.labels[one]}
    sets = replaced(session.document.project.join_sets, replace(join_set, labels=labels))
    session.document.define("variants", replace(session.document.project, join_sets=sets))
    session.choose(tile=one)
    bar = named(working.panels["joins"], VariantBar, "Variants")
    assert bar.isVisible()
    hand.drag(bar, middle(bar, 0.5), middle(bar, 0.6), middle(bar, 0.75))
    notes = session.document.project.tiles
    assert notes[one].weight == pytest.approx(3 * notes[other].weight, rel=0.05)
    hand.click(bar, middle(bar, 0.9))
    assert session.choices.tile == other
