"""Floors of isometric grounds that leave lines bare between their cells."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.check.diamonds import OPEN, open_pixels
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.sheets import set_cut
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, poke

sizes = st.integers(4, 40).map(lambda quarter: (4 * quarter, 2 * quarter))


def closed(width: int, height: int) -> np.ndarray:
    """A diamond each row of which is, with the one half the height further down, as wide as the tile."""
    pixels = np.zeros((height, width, 4), np.uint8)
    for row in range(height // 2):
        wide = min(width - 2, 2 + row * 2 * width // height // 2 * 2)
        left = (width - wide) // 2
        pixels[row, left : left + wide] = (150, 90, 60, 255)
        pixels[row + height // 2, wide // 2 : width - wide // 2] = (150, 90, 60, 255)
    return pixels


@given(sizes, st.data())
def test_a_closed_diamond_is_fine_and_every_pixel_that_its_sides_lack_is_counted(size, data):
    width, height = size
    pixels = closed(width, height)
    assert open_pixels(pixels) == 0
    row = data.draw(st.integers(0, height - 1))
    there = np.flatnonzero(pixels[row, :, 3])
    pixels[row, there[data.draw(st.sampled_from([0, -1]))]] = 0
    assert open_pixels(pixels) == 1


@pytest.mark.parametrize("change", ["tall", "odd", "hole", "corner", "thing"])
def test_what_is_no_floor_or_bare_on_purpose_is_left_alone(change):
    pixels = closed(64, 32)
    pixels[10, np.flatnonzero(pixels[10, :, 3])[0]] = 0
    assert open_pixels(pixels) == 1
    if change == "tall":
        pixels = np.concatenate([np.zeros((20, 64, 4), np.uint8), pixels])
    elif change == "odd":
        pixels = pixels[:-1]
    elif change == "hole":
        pixels[14:18, 28:36] = 0
    elif change == "corner":
        pixels[:12] = 0
    else:
        pixels[:, :40] = 0
    assert open_pixels(pixels) == 0


def test_the_finding_counts_what_is_bare_on_the_ground_and_goes_when_the_floor_is_closed():
    document = Document()
    thin = closed(32, 16)
    for row in range(16):
        thin[row, np.flatnonzero(thin[row, :, 3])[0]] = 0
    add_sheet(document, "floor.png", png(np.concatenate([thin, closed(32, 16)], axis=1)))
    set_cut(document, "floor", Cut(document.project.sheets[0].cuts[0].id, 32, 16, shape="isometric"))
    floor = TileRef("floor", document.project.sheets[0].cuts[0].id, 0, 0)
    (finding,) = [one for one in all_findings(Derived(document)) if one.kind == OPEN]
    assert finding.tiles == (str(floor),)
    ground = add_ground(document, "Yard", 12, 12, (32, 16), "diamond")
    layer = add_layer(document, ground, "Floor")
    poke(document, layer, "cells", np.s_[:], document.palette.code(floor), ground)
    # A box as large as a tile, in the middle of the ground, shows as much as two cells.
    drawn = Derived(document).pixels(ground, PixelRect(12 * 16, 6 * 16, 32, 16))
    bare = int((drawn[..., 3] == 0).sum()) // 2
    assert f"leaves {bare} pixels bare" in finding.sentence
    pixels = np.concatenate([closed(32, 16), closed(32, 16)], axis=1)
    document.redrawn(document.project.sheets[0], Picture(png(pixels), pixels))
    assert OPEN not in [one.kind for one in all_findings(Derived(document))]
