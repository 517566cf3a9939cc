"""Strokes that went to the wrong layer, took the ground away, or are turned by chance."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.painting import Hand, area, fill, stroke
from knitground.core.edits.relaying import lay_above, move_last_stroke, taken_away
from knitground.core.edits.sheets import set_cut
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.render.cell_outline import beside
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef
from making import SIDE, add_sheet, make_document, plane_of, png, sheet_of_tiles, tile

CLEAR, WHOLE = tile(1, 0), tile(2, 0)


@pytest.fixture
def document() -> Document:
    """A ground of whole tiles on the layer of single ones, and a sheet of which one tile has clear edges."""
    document = make_document()
    pixels = sheet_of_tiles(16, 4)
    pixels[:2, SIDE : 2 * SIDE] = 0
    data = png(pixels)
    document.define("draw", document.project, pictures={"art": Picture.decode(data, "art.png")})
    fill(document, "ground", "things", Hand(WHOLE), (3.5, 3.5))
    return document


def laid(document: Document, layer: str = "things") -> np.ndarray:
    return plane_of(document, layer, "cells")


def test_a_tile_with_clear_edges_that_took_the_ground_away_is_noticed(document):
    derived = Derived(document)
    assert taken_away(derived, "ground") is None
    stroke(document, "ground", "things", Hand(tile(5, 2)), (2.5, 2.5), (2.5, 4.5))
    assert taken_away(derived, "ground") is None
    stroke(document, "ground", "things", Hand(CLEAR), (5.5, 2.5), (5.5, 4.5))
    assert taken_away(derived, "ground") == "ground"


@pytest.mark.parametrize("kind", ["square", "diamond", "staggered", "hex-pointed", "hex-flat"])
@pytest.mark.parametrize("told", ["pillar", "wall"])
def test_what_covers_its_cell_as_a_floor_does_takes_no_ground_away(kind, told):
    document = make_document(12, 12, kind)
    ground = document.project.grounds[0]
    wide, high = ground.tile_width, ground.tile_height
    within = ~beside(ground.outline, high, wide)
    floor = np.zeros((3 * high, wide, 4), dtype=np.uint8)
    floor[2 * high :][within] = (120, 90, 60, 255)
    wall, pillar = floor.copy(), np.zeros_like(floor)
    wall[high : 2 * high][within] = (90, 60, 40, 255)
    pillar[high:, wide // 2 - 1 : wide // 2 + 2] = (20, 90, 40, 255)
    name = add_sheet(document, "yard.png", png(np.concatenate([floor, wall, pillar], axis=1)))
    set_cut(document, name, Cut("tiles", wide, 3 * high, anchor="bottom"))
    floor_tile, laid_tile = TileRef(name, "tiles", 0, 0), TileRef(name, "tiles", 1 if told == "wall" else 2, 0)
    derived = Derived(document)
    middle = ground.board.flat("cells", np.array([5]), np.array([5]))
    at = float(middle[0][0]) + 0.5, float(middle[1][0]) + 0.5
    fill(document, "ground", "things", Hand(floor_tile), at)
    stroke(document, "ground", "things", Hand(laid_tile), at, at)
    assert taken_away(derived, "ground") == ("ground" if told == "pillar" else None)


@pytest.mark.parametrize(("second", "loss"), [("right", "beside"), ("window", None), ("post", None)])
def test_a_thin_wall_that_took_the_one_on_the_other_side_of_its_cell_away_is_noticed(second, loss):
    document = make_document(12, 12, "diamond")
    ground = document.project.grounds[0]
    wide, high = ground.tile_width, ground.tile_height
    walls = {name: np.zeros((3 * high, wide, 4), dtype=np.uint8) for name in ("left", "right", "window", "post")}
    for column in range(wide):
        foot = 2 * high + abs(2 * column + 1 - wide) * high // (2 * wide)
        name = "left" if column < wide // 2 else "right"
        walls[name][foot - high - 4 : foot, column] = (90, 60, 40, 255)
    walls["right"][:, wide // 2 - 1] = walls["left"][:, wide // 2 - 1]  # both draw the post where they meet
    walls["window"][walls["left"] > 0] = 140
    walls["post"][2 * high - 8 : 2 * high, wide // 4 : wide // 2] = 200
    name = add_sheet(document, "walls.png", png(np.concatenate(list(walls.values()), axis=1)))
    set_cut(document, name, Cut("tiles", wide, 3 * high, anchor="bottom"))
    derived = Derived(document)
    middle = ground.board.flat("cells", np.array([5]), np.array([5]))
    at = float(middle[0][0]) + 0.5, float(middle[1][0]) + 0.5
    stroke(document, "ground", "things", Hand(TileRef(name, "tiles", 0, 0)), at, at)
    assert taken_away(derived, "ground") is None
    stroke(document, "ground", "things", Hand(TileRef(name, "tiles", list(walls).index(second), 0)), at, at)
    assert taken_away(derived, "ground") == loss


def test_it_is_laid_above_on_a_layer_that_is_made_or_there_already(document):
    before = laid(document).copy()
    stroke(document, "ground", "things", Hand(CLEAR), (5.5, 2.5), (5.5, 4.5))
    made = lay_above(document, "ground")
    layers = [layer.id for layer in document.project.grounds[0].layers]
    assert layers.index(made) == layers.index("things") + 1
    assert np.array_equal(laid(document), before)
    code = document.palette.code(CLEAR)
    assert np.argwhere(laid(document, made) == code).tolist() == [[5, 2], [5, 3], [5, 4]]
    assert (laid(document, made) > 0).sum() == 3
    document.undo()
    assert [layer.id for layer in document.project.grounds[0].layers] == [one for one in layers if one != made]
    document.redo()
    stroke(document, "ground", "things", Hand(CLEAR), (8.5, 2.5), (8.5, 2.5))
    assert lay_above(document, "ground") == made
    assert laid(document, made)[8, 2] == code


def test_what_is_no_stroke_on_single_tiles_is_not_laid_above(document):
    stroke(document, "ground", "areas", Hand(terrain=2), (5.5, 2.5), (5.5, 4.5))
    with pytest.raises(BadRequest, match="no single tiles"):
        lay_above(document, "ground")
    change_layer(document, "ground", "things", "name", name="Other")
    with pytest.raises(BadRequest, match="no stroke"):
        lay_above(document, "ground")


def test_things_take_no_stroke(document):
    props = add_layer(document, "ground", "Props", kind="props")
    stroke(document, "ground", "things", Hand(CLEAR), (5.5, 2.5), (5.5, 4.5))
    with pytest.raises(BadRequest, match="another kind"):
        move_last_stroke(document, "ground", props)


@pytest.mark.parametrize(("turning", "ways"), [("as it is", {1}), ("mirrored", {1, 7}), ("turned", set(range(8)))])
def test_tiles_are_turned_by_chance_place_by_place(document, turning, ways):
    hand = Hand(tile(5, 2), orientation=1, turning=turning)
    area(document, "ground", "things", hand, (0.5, 0.5), (14.5, 19.5))
    codes = laid(document).copy()
    assert set(np.unique(codes & NUMBER_MASK)) == {document.palette.number(tile(5, 2))}
    found = set(np.unique(codes >> ORIENTATION_SHIFT).tolist())
    assert len(found) == len(ways)
    assert 1 in found or turning == "turned"
    # Going over a part of it again changes nothing; another throw does.
    area(document, "ground", "things", hand, (3.5, 3.5), (9.5, 9.5))
    assert np.array_equal(laid(document), codes)
    area(document, "ground", "things", replace(hand, throw=2), (0.5, 0.5), (14.5, 19.5))
    assert np.array_equal(laid(document), codes) == (turning == "as it is")
