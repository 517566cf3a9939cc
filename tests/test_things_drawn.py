"""What is drawn of things: where they stand, turned and scaled, among tiles."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.layers import change_layer
from knitground.core.edits.painting import Hand, stroke
from knitground.core.edits.placing import (
    place,
    remove,
)
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import LARGEST_SCALE
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.scale import Scale
from making import SIDE, tile
from placed import AREA, SPRITE, drawn, furnished


def art(document: Document, ref=SPRITE.tile) -> np.ndarray:
    return Derived(document).tile(ref)


def test_a_sprite_stands_with_the_middle_of_its_lower_border_where_it_lies():
    document, layer = furnished()
    place(document, "ground", layer, [SPRITE])
    picture = drawn(document)
    assert np.array_equal(picture[48 - SIDE : 48, 40 - SIDE // 2 : 40 + SIDE // 2], art(document))
    picture[48 - SIDE : 48, 40 - SIDE // 2 : 40 + SIDE // 2] = 0
    assert not picture.any()


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
@pytest.mark.parametrize("mirrored", [False, True])
def test_quarter_turns_and_mirroring_keep_every_pixel(turn, mirrored):
    document, layer = furnished()
    place(document, "ground", layer, [replace(SPRITE, turn=turn, mirrored=mirrored)])
    picture = drawn(document)
    wanted = art(document)[:, ::-1] if mirrored else art(document)
    wanted = np.rot90(wanted, -turn // 90)
    rows, columns = np.nonzero(picture[..., 3])
    found = picture[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1]
    assert np.array_equal(found, wanted)


def test_a_doubled_sprite_shows_each_pixel_four_times():
    document, layer = furnished()
    place(document, "ground", layer, [replace(SPRITE, scale=2)])
    found = drawn(document)[48 - 2 * SIDE : 48, 40 - SIDE : 40 + SIDE]
    assert np.array_equal(found, art(document).repeat(2, axis=0).repeat(2, axis=1))


@given(
    x=st.floats(-20, 200), y=st.floats(-20, 150), turn=st.floats(0, 359), scale=st.floats(0.05, LARGEST_SCALE),
    mirrored=st.booleans(), cut=st.integers(0, 150),
)  # fmt: skip
@settings(deadline=None, max_examples=30)
def test_what_is_drawn_in_parts_is_what_is_drawn_whole(x, y, turn, scale, mirrored, cut):
    document, layer = furnished()
    place(document, "ground", layer, [replace(SPRITE, x=x, y=y, turn=turn, scale=scale, mirrored=mirrored)])
    derived = Derived(document)
    whole = derived.pixels("ground", AREA)
    parts = [
        derived.pixels("ground", PixelRect(0, 0, cut, AREA.height)),
        derived.pixels("ground", PixelRect(cut, 0, AREA.width - cut, AREA.height)),
    ]
    assert np.array_equal(np.concatenate(parts, axis=1), whole)
    for scale_out in (Scale(level=1), Scale(cells=4)):
        derived.pixels("ground", PixelRect(0, 0, 20, 20), scale_out)


@pytest.mark.parametrize("grid", list(GRIDS))
def test_a_thing_stands_behind_tiles_further_down_and_before_those_further_up(grid):
    document, layer = furnished(grid)
    change_layer(document, "ground", "things", "depth", stacking="depth")
    ground = document.project.grounds[0]
    y, x = ground.board.flat("cells", 7, 9)
    stroke(document, "ground", "things", Hand(tile(3, 3)), (y + 0.5, x + 0.5), (y + 0.5, x + 0.5))
    box = ground.projection.box(7, 9)
    middle = box.y + SIDE // 2, box.x + SIDE // 2
    colours = {}
    for foot in (box.bottom - 2, box.bottom + 2):
        [made] = place(document, "ground", layer, [replace(SPRITE, x=box.x + SIDE / 2, y=foot)])
        colours[foot] = drawn(document, PixelRect(0, 0, *ground.projection.size))[middle].tolist()
        remove(document, "ground", layer, [made])
    tile_colour = art(document, tile(3, 3))[SIDE // 2, SIDE // 2].tolist()
    assert colours[box.bottom - 2] == tile_colour
    assert colours[box.bottom + 2] != tile_colour
