"""Layers on top of what stands on others."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.lifting import lay_on_top, lift_onto, seen_on_top, stands_inside
from knitground.core.edits.lifting_things import lay_things_on_top, tops_below
from knitground.core.edits.placing import place
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import Thing
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
        return stands_inside(derived, "ground", (5.5, column + 0.5))

    assert lay("things", 0, 5) == "", "walls on the floor"
    assert lay(roofs, 1, 7) == "", "beside the walls"
    assert lay(roofs, 1, 5) == (ground.layer("things").name if told else "")
    change_layer(document, "ground", roofs, "move", offset_y=-40)
    assert lay(roofs, 1, 5) == ""


@pytest.mark.parametrize(("rise", "bush", "told"), [(0.5, False, True), (0.5, True, False), (1.5, False, False)])
def test_what_is_laid_on_a_floor_of_blocks_is_told_to_stand_inside_of_it_until_it_is_lifted(rise, bush, told):
    document = make_document(12, 12, "diamond")
    ground = document.project.grounds[0]
    wide, high = ground.tile_width, ground.tile_height
    out, tall = int(rise * high), 4 * high
    art = np.zeros((tall, 2 * wide, 4), dtype=np.uint8)
    rows, columns = np.indices((tall, wide))
    sideways = abs(columns + 0.5 - wide / 2) / (wide / 2) * high / 2
    narrow = abs(columns + 0.5 - wide / 2) < wide // 6
    art[:, :wide][
        (rows + 0.5 >= tall - high - out + sideways) & (rows + 0.5 <= tall - sideways) & (narrow | (not bush))
    ] = RED
    art[:, wide:][narrow] = BLUE
    name = add_sheet(document, "blocks.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", wide, tall, anchor="bottom"),)))
    derived, upper = Derived(document), add_layer(document, "ground", "Masts")
    block, mast = (document.palette.code(TileRef(name, "tiles", number, 0)) for number in (0, 1))
    poke(document, "things", "cells", np.s_[:], np.full((12, 12), block))
    poke(document, upper, "cells", np.s_[5, 5], mast)
    assert stands_inside(derived, "ground", (5.5, 5.5)) == (ground.layer("things").name if told else "")
    if told:
        assert lift_onto(derived, "ground", upper) == out
        poke(document, upper, "cells", np.s_[6, 5], mast)
        assert stands_inside(derived, "ground", (6.5, 5.5)) == ""


def test_who_points_at_a_wall_on_a_floor_of_blocks_does_not_mean_the_floor():
    document, derived, roofs, slab = _yard("diamond", low=0.75)
    ground = document.project.grounds[0]
    block, wall = (document.palette.code(TileRef(document.project.sheets[-1].id, "tiles", at, 0)) for at in (2, 0))
    walls = add_layer(document, "ground", "Walls", above="things")
    poke(document, "things", "cells", np.s_[:], np.full((12, 12), block))
    poke(document, walls, "cells", np.s_[6, 5], wall)
    rise = lift_onto(derived, "ground", walls)
    assert rise == ground.tile_height * 3 // 4
    x, y = ground.projection.point(6.5, 5.5)
    for at, told in (
        (ground.projection.place(x, y - rise - ground.tile_height * 3 // 2), walls),
        ((2.5, 2.5), "things"),
    ):
        poke(document, roofs, "cells", np.s_[ground.board.cell_at(*at)], slab)
        seen = seen_on_top(derived, "ground", at)
        assert (seen.layer.id if seen is not None else "") == told
        assert stands_inside(derived, "ground", at) == ("" if told == walls else ground.layer("things").name)


def _yard(kind, *, spire=False, low=0.0):
    """A ground with a wall that stands a cell and a half out of cell (6, 5), and a layer for roofs; what is laid.

    If `low` is given, the third tile is a block that stands so far out of its cell.
    """
    document = make_document(12, 12, kind)
    ground = document.project.grounds[0]
    wide, high = ground.tile_width, ground.tile_height
    tall = high + high * 3 // 2
    art = np.zeros((tall, 3 * wide, 4), dtype=np.uint8)
    rows, columns = np.indices((tall, wide))
    sideways = abs(columns + 0.5 - wide / 2) / (wide / 2) * high / 2
    block = (rows + 0.5 >= sideways) & (rows + 0.5 <= tall - sideways)
    art[:, :wide][block & (abs(columns - wide // 2) < 2) if spire else block] = RED
    art[:, 2 * wide :][block & (rows + 0.5 >= (1.5 - low) * high + sideways) & (low > 0)] = RED
    art[tall - high :, wide : 2 * wide][block[:high] & (rows[:high] + 0.5 <= high - sideways[:high])] = BLUE
    name = add_sheet(document, "walls.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", wide, tall, anchor="bottom"),)))
    wall, slab = (document.palette.code(TileRef(name, "tiles", number, 0)) for number in (0, 1))
    roofs = add_layer(document, "ground", "Roofs")
    poke(document, "things", "cells", np.s_[6, 5], wall)
    return document, Derived(document), roofs, slab


@pytest.mark.parametrize(("kind", "up"), [("diamond", 0), ("staggered", 0), ("diamond", 5), ("diamond", -3)])
def test_a_roof_laid_where_the_top_of_a_wall_is_seen_comes_to_lie_on_that_wall(kind, up):
    document, derived, roofs, slab = _yard(kind)
    change_layer(document, "ground", "things", "move", offset_y=-up)
    ground = document.project.grounds[0]
    wide, high, lift = ground.tile_width, ground.tile_height, ground.tile_height * 3 // 2 + up
    left, top = ground.projection.corner(6, 5)
    told = 0

    def laid():
        return np.argwhere(document.state.planes["ground"][roofs]["cells"].read(ground.board.whole)).tolist()

    for down in range(high):
        for right in range(wide):
            at = ground.projection.place(left + right + 0.5, top - lift + down + 0.5)
            cell = ground.board.cell_at(*at)
            poke(document, roofs, "cells", np.s_[cell], slab)
            far = abs(right + 0.5 - wide / 2) / (wide / 2) + abs(down + 0.5 - high / 2) / (high / 2)
            seen = seen_on_top(derived, "ground", at)
            assert (seen is not None) == (far < 1) or far == 1, (down, right)
            if seen is not None:
                assert lay_on_top(derived, "ground", at) == (roofs, lift)
                assert laid() == [[6, 5]]
                assert document.project.grounds[0].layer(roofs).offset_y == -lift
                told += 1
            document.undo()
            assert laid() == [], "it is one step"
    assert told > 10


def test_a_roof_is_not_laid_on_what_is_no_wall():
    document, derived, roofs, slab = _yard("diamond", spire=True)
    ground = document.project.grounds[0]
    left, top = ground.projection.corner(6, 5)
    at = ground.projection.place(left + ground.tile_width // 2, top - ground.tile_height)
    poke(document, roofs, "cells", np.s_[ground.board.cell_at(*at)], slab)
    assert seen_on_top(derived, "ground", at) is None, "nothing lies on a spire"
    before = document.state.planes["ground"][roofs]["cells"]
    with pytest.raises(BadRequest, match="point at the top of a wall"):
        lay_on_top(derived, "ground", at)
    assert document.state.planes["ground"][roofs]["cells"] is before
    document.undo()
    document.undo()
    with pytest.raises(BadRequest, match="no stroke"):
        lay_on_top(derived, "ground", at)


def test_rows_of_a_sheet_that_are_clear_do_not_count_as_height():
    document, derived, roofs, slab = _yard("diamond")
    poke(document, "things", "cells", np.s_[6, 5], 0)
    poke(document, "things", "cells", np.s_[:4, :4], slab)
    with pytest.raises(BadRequest, match="lay walls there first"):
        lift_onto(derived, "ground", roofs)


def test_floors_that_reach_over_their_cells_by_a_pixel_are_nothing_to_lie_on():
    document = make_document(12, 12, "diamond")
    ground = document.project.grounds[0]
    wide, high = ground.tile_width, ground.tile_height
    rise = (2 * high, high // 2, 0)
    tall = high + 1 + max(rise)
    art = np.zeros((tall, 3 * wide, 4), dtype=np.uint8)
    for number, up in enumerate(rise):
        art[tall - high - 1 - up :, number * wide : (number + 1) * wide] = RED
    name = add_sheet(document, "yard.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", wide, tall, anchor="bottom"),)))
    wall, low, slab = (document.palette.code(TileRef(name, "tiles", number, 0)) for number in range(3))
    derived, roofs = Derived(document), add_layer(document, "ground", "Roofs")
    poke(document, "things", "cells", np.s_[:, :], slab)
    poke(document, roofs, "cells", np.s_[5, 5:7], slab)
    with pytest.raises(BadRequest, match="lay walls there first"):
        lift_onto(derived, "ground", roofs)
    poke(document, "things", "cells", np.s_[8:, :], low)
    poke(document, "things", "cells", np.s_[5, 5], wall)
    assert lift_onto(derived, "ground", roofs) == 2 * high, "as high as what it lies on, not as most that stands"


def _seen_at(document):
    """The flat place where the middle of the top of the wall is seen."""
    ground = document.project.grounds[0]
    left, top = ground.projection.corner(6, 5)
    return ground.projection.place(left + ground.tile_width / 2, top - ground.tile_height)


def test_what_else_lies_on_the_layer_stays_where_it_is():
    document, derived, roofs, slab = _yard("diamond")
    ground, lift = document.project.grounds[0], document.project.grounds[0].tile_height * 3 // 2
    poke(document, roofs, "cells", np.s_[1, 1], slab)
    at = _seen_at(document)
    poke(document, roofs, "cells", np.s_[ground.board.cell_at(*at)], slab)
    onto, height = lay_on_top(derived, "ground", at)
    ground, planes = document.project.grounds[0], document.state.planes["ground"]
    assert (ground.layer(roofs).offset_y, ground.layer(onto).offset_y, height) == (0, -lift, lift)
    assert [one.id for one in ground.layers][-2:] == [roofs, onto]
    assert np.argwhere(planes[roofs]["cells"].read(ground.board.whole)).tolist() == [[1, 1]]
    assert np.argwhere(planes[onto]["cells"].read(ground.board.whole)).tolist() == [[6, 5]]
    poke(document, "things", "cells", np.s_[6, 6], document.state.planes["ground"]["things"]["cells"][6, 5])
    at = at[0], at[1] + 1
    poke(document, roofs, "cells", np.s_[ground.board.cell_at(*at)], slab)
    assert lay_on_top(derived, "ground", at)[0] == onto, "the one that lies so high already"
    document.undo()
    document.undo()


@pytest.mark.parametrize("alone", [True, False])
def test_a_thing_placed_where_the_top_of_a_wall_is_seen_comes_to_stand_there(alone):
    document, derived, _, _ = _yard("diamond")
    ground, wall = document.project.grounds[0], document.palette.ref(1)
    lift = ground.tile_height * 3 // 2
    props = add_layer(document, "ground", "Props", kind="props")
    if not alone:
        place(document, "ground", props, [Thing("new", 8.0, 90.0, tile=wall)])
    x, y = map(float, ground.projection.point(*_seen_at(document)))
    lamp, point = Thing("new", x, y + ground.tile_height / 2, tile=wall), Thing("new", x, y, "point")
    ids = place(document, "ground", props, [lamp] if alone else [lamp, point])
    assert [*tops_below(derived, "ground", props, ids)] == ids[:1]
    onto, height, now = lay_things_on_top(derived, "ground", props, ids)
    layer = document.project.grounds[0].layer(onto)
    (stands,) = [one for one in layer.things if one.id in now]
    assert (height, layer.offset_y, onto == props) == (lift, -lift, alone)
    assert (stands.x, stands.y + layer.offset_y) == (lamp.x, lamp.y), "it is seen where it was"
    foot = ground.projection.place(stands.x, stands.y - ground.tile_height / 2)
    assert ground.board.cell_at(*foot) == (6, 5)
    assert len(document.project.grounds[0].layer(props).things) == (1 if alone else 2)
    assert tops_below(derived, "ground", onto, now) == {}
    with pytest.raises(BadRequest, match="Nothing stands below"):
        lay_things_on_top(derived, "ground", onto, now)
    document.undo()
    assert document.project.grounds[0].layer(props).offset_y == 0
