"""Tiles of another size than the cells."""

from dataclasses import replace

import pytest

from knitground.core.edits.fitting import fit_cells, fit_tile, misfit
from knitground.core.edits.layers import add_layer
from knitground.core.edits.placing import place
from knitground.core.edits.things import put
from knitground.core.grid import GRIDS
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import SIDE, make_document, tile


def narrow(grid: str = "square") -> Document:
    """A ground whose cells are half as high as the tiles."""
    document = make_document(grid=grid)
    ground = document.project.grounds[0]
    put(document, "cells", "grounds", replace(ground, tile_height=SIDE // 2))
    return document


def test_a_tile_of_another_size_is_noticed_and_one_that_fits_is_not():
    assert misfit(make_document().project, make_document().project.grounds[0], tile(1, 1)) is None
    document = narrow()
    assert misfit(document.project, document.project.grounds[0], tile(1, 1)) == (SIDE, SIDE)


@pytest.mark.parametrize("grid", list(GRIDS))
def test_cells_take_the_size_of_the_tile_and_things_keep_their_cells(grid):
    document = narrow(grid)
    layer = add_layer(document, "ground", "Props", kind="props")
    box = document.project.grounds[0].projection.box(6, 7)
    place(document, "ground", layer, [Thing("n", box.x + SIDE / 2, float(box.bottom), tile=tile(1, 1))])
    fit_cells(document, "ground", tile(1, 1))
    ground = document.project.grounds[0]
    assert (ground.tile_width, ground.tile_height) == (SIDE, SIDE)
    box = ground.projection.box(6, 7)
    thing = ground.layer(layer).things[0]
    assert (thing.x, thing.y) == (box.x + SIDE / 2, box.bottom)
    assert misfit(document.project, ground, tile(1, 1)) is None
    document.undo()
    assert document.project.grounds[0].tile_height == SIDE // 2


def test_tiles_are_let_stand_on_their_cells():
    document = narrow()
    fit_tile(document, tile(1, 1))
    assert misfit(document.project, document.project.grounds[0], tile(1, 1)) is None
    code = document.palette.code(tile(1, 1))
    sprite, left, top = Derived(document).atlas(document.project.grounds[0]).sprite(code)
    assert (sprite.shape[0], left, top) == (SIDE, 0, -SIDE // 2)
