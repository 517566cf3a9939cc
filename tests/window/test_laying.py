"""Laying by mouse and keyboard: forms, straight strokes, scattering, fills of all that is alike."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QApplication

from knitground.core.edits.layers import change_layer
from making import poke, tile
from window.choosing import choose, plane
from window.finding import named, press, says

SHIFT = Qt.KeyboardModifier.ShiftModifier


def cells(window) -> np.ndarray:
    return plane(window, "things", "cells") > 0


def test_the_form_of_areas_changes_by_button_and_key_and_is_laid(working, hand):
    choose(working, "things", "area", tile=tile(3, 3))
    press(working.ground, "Form: box")
    hand.on_ground((2, 3), (8, 10))
    framed = cells(working)
    assert framed[2, 3:11].all()
    assert framed[3:8, 3].all()
    assert not framed[3:8, 4:10].any()
    hand.key(working.ground.view, "a", SHIFT)
    assert named(working.ground, QAbstractButton, "Form: round")
    hand.on_ground((10, 2), (14, 6))
    assert cells(working)[12, 4]
    assert not cells(working)[10, 2]
    working.undo()
    assert not cells(working)[12, 4]
    assert cells(working)[2, 3]


def test_a_fill_exchanges_all_tiles_alike(working, hand):
    document = working.session.document
    one, other = (document.palette.code(tile(n, 3)) for n in (2, 5))
    poke(document, "things", "cells", np.s_[1, 1], one)
    poke(document, "things", "cells", np.s_[9, 12], one)
    choose(working, "things", "fill", tile=tile(5, 3))
    hand.key(working.ground.view, "f", SHIFT)
    hand.on_ground((1, 1))
    found = plane(working, "things", "cells")
    assert found[1, 1] == found[9, 12] == other
    assert (found > 0).sum() == 2


def test_what_is_scattered_is_seen_before_and_falls_otherwise_next_time(working, hand):
    choose(working, "things", "spray", tile=tile(3, 3), radius=4, density=0.3)
    assert "on Things" in says(working.ground)
    hand.on_ground((7, 9))
    first = cells(working)
    assert 3 < first.sum() < 40
    working.undo()
    hand.on_ground((7, 9))
    assert (cells(working) != first).any()
    hand.on_ground((7, 9), button=Qt.MouseButton.RightButton)
    assert not cells(working)[4:11, 6:13].any()


def test_shift_keeps_a_stroke_level(working, hand, monkeypatch):
    monkeypatch.setattr(QApplication, "keyboardModifiers", staticmethod(lambda: SHIFT))
    choose(working, "things", "draw", tile=tile(3, 3), radius=0)
    hand.on_ground((7, 3), (8, 9), (6, 14))
    assert cells(working)[7, 3:15].all()
    assert cells(working).sum() == 12
    choose(working, "things", "area", form="box")
    hand.on_ground((10, 3), (11, 7))
    assert cells(working)[10:15, 3:8].all()


def test_the_row_tells_of_a_layer_that_is_locked_or_hidden(working):
    choose(working, "things", "draw", tile=tile(3, 3))
    for change, word in (({"visible": False}, "hidden"), ({"locked": True}, "locked")):
        change_layer(working.session.document, "ground", "things", "look", **change)
        assert word in says(working.ground)
