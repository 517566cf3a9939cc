"""Symmetry while drawing, on every grid: images of cells are cells, and what is laid there is turned with them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.edits.symmetry import WAYS, Symmetry
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.render.pixels import straight
from making import SIDE, make_document, plane_of, tile


def on(grid: str, width: int, height: int, way: str) -> Symmetry:
    kind = GRIDS[grid]
    return Symmetry(way, kind.projection(kind.board(height, width), 8, 8))


@pytest.mark.parametrize("way", [way for way in WAYS if way != "wrapping"])
@pytest.mark.parametrize("grid", list(GRIDS))
@given(width=st.integers(2, 14), height=st.integers(2, 14), data=st.data())
@settings(deadline=None, max_examples=25)
def test_images_of_a_cell_are_cells_and_have_the_same_images(grid, way, width, height, data):
    symmetry = on(grid, width, height, way)
    board = symmetry.projection.board
    row, column = data.draw(st.integers(0, height - 1)), data.draw(st.integers(0, width - 1))
    y, x = board.flat("cells", row, column)
    images = [spots[0] for _, spots in symmetry.images((y + 0.5, x + 0.5))]
    assert images[0] == (y + 0.5, x + 0.5)
    for image in images:
        assert all(abs(place % 1 - 0.5) < 1e-6 for place in image)
        again = {tuple(np.round(spots[0], 3)) for _, spots in symmetry.images(image)}
        assert again == {tuple(np.round(one, 3)) for one in images}


@pytest.mark.parametrize(
    ("way", "flip"),
    [
        ("across", lambda picture: picture[:, ::-1]),
        ("down", lambda picture: picture[::-1]),
        ("both", lambda picture: picture[::-1, ::-1]),
        ("turned", np.rot90),
    ],
)
def test_what_is_drawn_with_symmetry_is_its_own_image(way, flip):
    document = make_document(16, 16)
    ground = document.project.grounds[0]
    hand = Hand(tile(3, 2), orientation=1, symmetry=Symmetry(way, ground.projection), radius=1)
    stroke(document, "ground", "things", hand, (3.5, 2.5), (6.5, 4.5))
    area(document, "ground", "things", replace(hand, form="line"), (1.5, 9.5), (2.5, 12.5))
    derived = Derived(document)
    layers = [ground.layer("things")]
    from knitground.core.render.compositor import render

    side = 16 * SIDE
    picture = straight(render(derived.scene(derived.knitted("ground"), layers), PixelRect(0, 0, side, side)))
    assert picture.any()
    assert np.array_equal(picture, flip(picture))


@given(row=st.integers(0, 14), column=st.integers(0, 19), radius=st.integers(0, 4))
@settings(deadline=None, max_examples=25)
def test_terrain_painted_with_symmetry_is_its_own_image(row, column, radius):
    document = make_document()
    ground = document.project.grounds[0]
    hand = Hand(terrain=2, radius=radius, symmetry=Symmetry("both", ground.projection))
    stroke(document, "ground", "areas", hand, (row + 0.2, column + 0.3), (row + 0.2, column + 0.3))
    corners = plane_of(document, "areas", "corners")
    assert np.array_equal(corners, corners[::-1])
    assert np.array_equal(corners, corners[:, ::-1])


@pytest.mark.parametrize("grid", list(GRIDS))
def test_wrapping_lets_a_stroke_come_in_at_the_other_side(grid):
    document = make_document(12, 12, grid=grid)
    ground = document.project.grounds[0]
    y, x = ground.board.flat("cells", 5, 0)
    hand = Hand(tile(3, 2), radius=2, symmetry=Symmetry("wrapping", ground.projection))
    stroke(document, "ground", "things", hand, (y + 0.5, x + 0.5), (y + 0.5, x + 0.5))
    cells = plane_of(document, "things", "cells")
    assert cells[5, 0]
    assert cells[:, -2:].any()


def test_a_gesture_with_its_images_is_one_step():
    document = make_document()
    ground = document.project.grounds[0]
    before = plane_of(document, "things", "cells").copy()
    hand = Hand(tile(3, 2), symmetry=Symmetry("turned", ground.projection))
    area(document, "ground", "things", hand, (1.5, 1.5), (3.5, 3.5))
    assert (plane_of(document, "things", "cells") != before).sum() > 9
    document.undo()
    assert np.array_equal(plane_of(document, "things", "cells"), before)
