"""What is drawn over a figure that stands on a ground."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.placing import place
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.atlas import Atlas
from knitground.core.render.before import before
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef, cell_code
from making import add_sheet, png, poke, scene_of_codes

FLOOR, WALL, ROOMY = cell_code(1), cell_code(2), cell_code(3)
LAYERS = (("Floor", None), ("Walls", None), ("Props", "props"))
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
    refs = [TileRef("s", name, 0, 0) for name in ("floor", "wall", "roomy")]
    # The same floor in a picture as high as a wall's.
    roomy = np.concatenate([np.zeros((HIGH - 16, 32, 4), np.uint8), diamond()])
    slices = {
        ("s", "floor"): Slices(diamond(), Cut("floor", 32, 16, shape="isometric")),
        ("s", "wall"): Slices(diamond(HIGH), Cut("wall", 32, HIGH, shape="isometric", anchor="bottom")),
        ("s", "roomy"): Slices(roomy, Cut("roomy", 32, HIGH, shape="isometric", anchor="bottom")),
    }
    atlas = Atlas(32, 16, outline="diamond")
    atlas.follow(slices, refs)
    scene = scene_of_codes(codes, atlas, "diamond", stacking="depth", **look)
    left, top = scene.projection.corner(row, column)
    foot = top + 8
    drawn = before(scene, PixelRect(int(left) + 13, int(foot) - 12, 6, 12), foot)
    return float((drawn[..., 3] > 0).mean())


@pytest.mark.parametrize("floor", [FLOOR, ROOMY])
def test_the_floor_on_which_a_figure_stands_is_under_it_though_its_cell_reaches_further_down(floor):
    codes = np.full((5, 5), floor)
    assert hidden(codes, 2, 2) == 0
    # A floor that is moved up is a ceiling.
    assert hidden(codes, 2, 2, offset_y=-8) > 0


@pytest.mark.parametrize(("row", "column", "covers"), [(3, 3, True), (2, 3, True), (1, 1, False), (2, 1, False)])
def test_a_wall_hides_a_figure_behind_it_and_none_before_it(row, column, covers):
    codes = np.full((5, 5), FLOOR)
    codes[row, column] = WALL
    assert (hidden(codes, 2, 2) > 0) == covers


def test_what_stands_on_the_lowest_layer_shows_its_feet_and_is_hidden_by_walls_on_the_next():
    document = Document()
    floor = np.pad(diamond(), ((HIGH - 16, 0), (0, 0), (0, 0)))
    thing = diamond(HIGH) * np.array([0, 1, 2, 1], np.uint8)
    add_sheet(document, "yard.png", png(np.concatenate([diamond(HIGH), floor, thing], axis=1)))
    sheet = document.project.sheets[0]
    cuts = tuple(
        Cut(name, 32, high, shape="isometric", anchor="bottom", region=Rect(32 * number, HIGH - high, 32, high))
        for number, (name, high) in enumerate((("wall", HIGH), ("floor", 16), ("thing", HIGH)))
    )
    document.define("cuts", replace(document.project, sheets=(replace(sheet, cuts=cuts),)))
    ground = add_ground(document, "Yard", 6, 6, (32, 16), "diamond")
    lowest, walls, props = (add_layer(document, ground, name, kind=kind) for name, kind in LAYERS)
    refs = {name: TileRef(sheet.id, name, 0, 0) for name in ("floor", "wall", "thing")}
    poke(document, lowest, "cells", np.s_[:], document.palette.code(refs["floor"]), ground)
    poke(document, walls, "cells", np.s_[4, 4], document.palette.code(refs["wall"]), ground)
    projection = Derived(document).knitted(ground).ground.projection

    def seen_of_a_thing(row: int, column: int) -> float:
        """How much of a thing in the middle of a cell shows, against one of the same size on bare ground."""
        left, top = projection.corner(row, column)
        area = PixelRect(int(left) - 16, int(top) - HIGH, 64, HIGH + 32)
        before = Derived(document).pixels(ground, area)
        place(document, ground, props, [Thing("new", left + 16.0, top + 8.0, "sprite", refs["thing"], scale=0.25)])
        changed = (Derived(document).pixels(ground, area) != before).any(axis=2).sum()
        document.undo()
        return float(changed / ((diamond(HIGH)[..., 3] > 0).sum() / 16))

    assert seen_of_a_thing(2, 2) > 0.9
    assert seen_of_a_thing(5, 5) > 0.9
    assert seen_of_a_thing(3, 3) < 0.4
