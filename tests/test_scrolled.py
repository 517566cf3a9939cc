"""Parallax and the screen of the game: what is shown where, as somebody walks."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.screen import set_screen
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.shade import ShadeLayer
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.document import Document
from knitground.core.render.scrolled import scrolled, scrolls, strips
from knitground.core.walk.camera import Screen, camera, screen_of
from knitground.core.walk.motion import Spot
from making import make_document

NEAR, FAR = TileLayer("near", "Near"), TileLayer("far", "Far", parallax_x=0.5, parallax_y=0.25)


def test_a_slow_layer_is_left_behind_by_what_it_lacks_in_speed():
    moved = scrolled(FAR, 100, 40)
    assert (moved.offset_x, moved.offset_y) == (50, 30)
    assert scrolled(replace(FAR, offset_x=-7), 100, 40).offset_x == 43
    assert scrolled(NEAR, 100, 40) is NEAR
    assert scrolled(replace(FAR, parallax_x=2.0), 100, 0).offset_x == -100
    assert scrolls([NEAR, FAR])
    assert not scrolls([NEAR])


def test_layers_that_move_alike_are_drawn_together_and_shades_alone():
    shade = ShadeLayer("shade", "Shade")
    layers = [FAR, replace(FAR, id="other"), NEAR, shade, replace(shade, id="more"), replace(NEAR, id="top")]
    assert [[layer.id for layer in strip] for strip in strips(layers)] == [
        ["far", "other"], ["near"], ["shade"], ["more"], ["top"],
    ]  # fmt: skip


@given(x=st.floats(0, 1000), y=st.floats(0, 500), width=st.integers(16, 1200), height=st.integers(16, 700))
def test_a_screen_stays_on_the_ground_with_the_figure_on_it(x, y, width, height):
    shown = camera(Spot(x, y), (1000, 500), width, height)
    assert (shown.width, shown.height) == (width, height)
    for begin, part, whole, at in ((shown.x, width, 1000, x), (shown.y, height, 500, y)):
        if part <= whole:
            assert 0 <= begin <= whole - part
            assert begin - 1 <= at <= begin + part + 1
        else:
            assert begin == pytest.approx((whole - part) / 2, abs=0.5)


def test_in_the_middle_of_a_ground_the_figure_is_in_the_middle_of_the_screen():
    assert camera(Spot(500, 250), (1000, 500), 320, 180) == PixelRect(340, 160, 320, 180)


@pytest.mark.parametrize(("text", "size"), [("320 x 180", (320, 180)), ("640×360", (640, 360)), ("  ", None)])
def test_a_screen_is_written_as_one_would(text, size):
    assert screen_of(text) == (None if size is None else Screen(*size))


@pytest.mark.parametrize(("text", "says"), [("wide", "no size"), ("8 x 8", "out of range"), ("320 x 99999", "range"),
                                            ("320 x -4", "no size"), ("999999x1", "no size")])  # fmt: skip
def test_what_is_no_screen_is_told(text, says):
    with pytest.raises(BadRequest, match=says):
        screen_of(text)


def test_the_screen_is_kept_and_taken_back(tmp_path):
    document = make_document()
    set_screen(document, Screen(320, 180))
    document.save(tmp_path / "kept")
    assert Document.load(tmp_path / "kept").project.screen == Screen(320, 180)
    document.undo()
    assert document.project.screen is None
