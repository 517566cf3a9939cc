"""Layers on top of what stands on others."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.lifting import lift_onto, stands_inside
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.render.compositor import render
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, make_document, png, poke

RED, BLUE = (200, 30, 30, 255), (30, 30, 200, 255)


def test_a_roof_lies_right_on_top_of_the_walls_wherever_those_are_moved():
    document = make_document(12, 12, "diamond")
    ground = document.project.grounds[0]
    wide, high, tall = ground.tile_width, ground.tile_height, ground.tile_height + 17
    art = np.zeros((tall, 2 * wide, 4), dtype=np.uint8)
    art[:, :wide] = RED
    art[tall - high :, wide:] = BLUE
    name = add_sheet(document, "walls.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", wide, tall, anchor="bottom"),)))
    wall, slab = (document.palette.code(TileRef(name, "tiles", number, 0)) for number in (0, 1))
    derived = Derived(document)
    roofs = add_layer(document, "ground", "Roofs")
    with pytest.raises(BadRequest, match="lay walls there first"):
        lift_onto(derived, "ground", roofs)
    poke(document, "things", "cells", np.s_[5, 5], wall)
    poke(document, roofs, "cells", np.s_[5, 5], slab)
    change_layer(document, "ground", "things", "move", offset_x=3, offset_y=-2)
    assert lift_onto(derived, "ground", roofs) == 17
    knitted = derived.knitted("ground")
    seen = render(derived.scene(knitted), PixelRect(0, 0, *knitted.ground.projection.size))
    red, blue = (np.argwhere((seen == colour).all(axis=-1)) for colour in (RED, BLUE))
    assert blue[:, 0].max() + 1 == red[:, 0].min(), "the wall looks out right below it"
    assert len(red) == 17 * wide
    assert (blue[:, 1].min(), blue[:, 1].max()) == (red[:, 1].min(), red[:, 1].max())
    document.undo()
    assert document.project.grounds[0].layer(roofs).offset_y == 0


@pytest.mark.parametrize(
    ("kind", "drawn", "told"), [("diamond", "low", True), ("diamond", "high", False), ("square", "low", False)]
)
def test_a_roof_that_stands_inside_of_walls_is_told_unless_it_is_drawn_where_it_belongs(kind, drawn, told):
    document = make_document(12, 12, kind)
    ground = document.project.grounds[0]
    wide, high, tall = ground.tile_width, ground.tile_height, ground.tile_height + 40
    art = np.zeros((tall, 2 * wide, 4), dtype=np.uint8)
    art[:, :wide] = RED
    art[tall - high : tall] = BLUE
    if drawn == "high":
        art[:, wide:] = np.roll(art[:, wide:], -40, axis=0)
    name = add_sheet(document, "walls.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", wide, tall, anchor="bottom"),)))
    derived, roofs = Derived(document), add_layer(document, "ground", "Roofs")

    def lay(layer, number, column):
        poke(document, layer, "cells", np.s_[5, column], document.palette.code(TileRef(name, "tiles", number, 0)))
        return stands_inside(derived, "ground")

    assert lay("things", 0, 5) == "", "walls on the floor"
    assert lay(roofs, 1, 7) == "", "beside the walls"
    assert lay(roofs, 1, 5) == (ground.layer("things").name if told else "")
    change_layer(document, "ground", roofs, "move", offset_y=-40)
    assert lay(roofs, 1, 5) == ""
