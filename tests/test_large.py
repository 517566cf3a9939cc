"""Tiles much larger than their cells, where a pixel stands for several cells."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.things import put
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.render.compositor import render
from knitground.core.render.scale import Scale, pixels_per, smallest_level
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, make_document, png, poke

WIDE, HIGH = 24, 30


def planted(document, seed, count):
    """A document with trees of three by four cells, partly clear, on its things; and the colour of each tree."""
    random = np.random.default_rng(seed)
    art = np.full((HIGH, 3 * WIDE, 4), 255, dtype=np.uint8)
    art[..., :3] = np.repeat(random.integers(30, 220, (1, 3, 3)), WIDE, axis=1)
    art[:8, :, 3] = art[:, :4, 3] = 0
    name = add_sheet(document, "trees.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", WIDE, HIGH),)))
    trees = [TileRef(name, "tiles", number, 0) for number in range(3)]
    ground = document.project.grounds[0]
    codes = np.zeros((ground.height, ground.width), dtype=np.int32)
    at = random.integers(8, ground.height - 6, count), random.integers(6, ground.width - 6, count)
    codes[at] = random.choice([document.palette.code(tree) for tree in trees], count)
    poke(document, "things", "cells", np.s_[:], codes)
    return document, Derived(document), {tree: tuple(art[-1, (n + 1) * WIDE - 1, :3]) for n, tree in enumerate(trees)}


def woods(grid, seed, **header):
    """The scene of a ground with trees, and all of it in full size."""
    _, derived, _ = planted(make_document(40, 36, grid), seed, 40)
    knitted = derived.knitted("ground")
    scene = derived.scene(knitted, [replace(knitted.ground.layer("things"), **header)])
    return scene, render(scene, PixelRect(0, 0, *scene.projection.size)).astype(float)


@pytest.mark.parametrize("cells", [2, 4])
@pytest.mark.parametrize("grid", list(GRIDS))
def test_woods_are_as_dense_from_afar_as_near_by_and_stand_where_they_stand(grid, cells):
    scene, full = woods(grid, 3)
    scale = Scale(smallest_level(scene.projection), cells)
    across, down = pixels_per(scene.projection, scale)
    height, width = (int(np.ceil(side / by)) for side, by in zip(full.shape, (down, across), strict=False))
    far = render(scene, PixelRect(0, 0, width, height), scale).astype(float)
    assert far.sum(axis=(0, 1)) * across * down == pytest.approx(full.sum(axis=(0, 1)), rel=0.2)
    begin_y, begin_x = ((np.arange(count) * by).astype(int) for count, by in ((height, down), (width, across)))
    covered = np.add.reduceat(np.add.reduceat(full[..., 3], begin_y, axis=0), begin_x, axis=1)
    assert np.corrcoef(far[..., 3].ravel(), covered.ravel())[0, 1] > 0.85


def test_what_a_layer_does_to_its_tiles_goes_for_large_ones_too():
    plain, half, moved = (woods("square", 4, **header)[0] for header in ({}, {"opacity": 0.5}, {"offset_x": 64}))
    scale, area = Scale(3, 2), PixelRect(0, 0, 20, 18)
    assert np.abs(render(plain, area, scale) * 0.5 - render(half, area, scale)).max() <= 4
    assert np.array_equal(render(plain, area, scale)[:, :-4], render(moved, area, scale)[:, 4:])
    for cells in (2, 4):
        part, scale = PixelRect(4, 3, 5, 6), Scale(3, cells)
        assert np.array_equal(render(plain, part, scale), render(plain, area, scale)[3:9, 4:9])
