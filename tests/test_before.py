"""What is drawn over a figure that stands on a ground."""

import numpy as np
import pytest

from knitground.core.grid.projection import PixelRect
from knitground.core.render.atlas import Atlas
from knitground.core.render.before import before
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef, cell_code
from making import scene_of_codes

FLOOR, WALL = cell_code(1), cell_code(2)
HIGH = 40
"""How high the walls are in cells of 32 x 16 pixels."""


def diamond(high: int = 16) -> np.ndarray:
    """A block that stands on a diamond of 32 x 16 pixels, (high, 32, 4)."""
    down, across = np.abs(np.arange(16) - 7.5) / 8, np.abs(np.arange(32) - 15.5) / 16
    inside = down[:, None] + across <= 1
    pixels = np.zeros((high, 32, 4), np.uint8)
    for top in range(high - 15):
        pixels[top : top + 16][inside] = (200, 120, 60, 255)
    return pixels


def hidden(codes: np.ndarray, row: int, column: int, **look) -> float:
    """How much of a small figure that stands in the middle of a cell is drawn over."""
    refs = [TileRef("s", "floor", 0, 0), TileRef("s", "wall", 0, 0)]
    slices = {
        ("s", "floor"): Slices(diamond(), Cut("floor", 32, 16, shape="isometric")),
        ("s", "wall"): Slices(diamond(HIGH), Cut("wall", 32, HIGH, shape="isometric", anchor="bottom")),
    }
    atlas = Atlas(32, 16, outline="diamond")
    atlas.follow(slices, refs)
    scene = scene_of_codes(codes, atlas, "diamond", stacking="depth", **look)
    left, top = scene.projection.corner(row, column)
    foot = top + 8
    drawn = before(scene, PixelRect(int(left) + 13, int(foot) - 12, 6, 12), foot)
    return float((drawn[..., 3] > 0).mean())


def test_the_floor_on_which_a_figure_stands_is_under_it_though_its_cell_reaches_further_down():
    codes = np.full((5, 5), FLOOR)
    assert hidden(codes, 2, 2) == 0
    # A floor that is moved up is a ceiling.
    assert hidden(codes, 2, 2, offset_y=-8) > 0


@pytest.mark.parametrize(("row", "column", "covers"), [(3, 3, True), (2, 3, True), (1, 1, False), (2, 1, False)])
def test_a_wall_hides_a_figure_behind_it_and_none_before_it(row, column, covers):
    codes = np.full((5, 5), FLOOR)
    codes[row, column] = WALL
    assert (hidden(codes, 2, 2) > 0) == covers
