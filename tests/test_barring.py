"""Letting what stands on a ground block, where nobody has said what does."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.barring import let_block, standing_on, stands_unsaid
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.notes import set_collision
from knitground.core.edits.placing import place
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.notes import Property
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.solid import Solids
from making import add_sheet, make_document, png, poke

FLOOR, WALL, ROOF, STEP = range(4)


def village(kind: str = "diamond") -> tuple[Document, list[TileRef], str]:
    """A ground with a floor, a wall, a step and, on a layer that was moved up, a roof; the tiles and the props."""
    document = make_document(12, 12, kind)
    ground = document.project.grounds[0]
    wide, high = ground.tile_width, ground.tile_height
    tall = 3 * high
    art = np.zeros((tall, 4 * wide, 4), dtype=np.uint8)
    for number, height in enumerate((high, tall, tall, high + high // 4)):
        art[tall - height :, number * wide : (number + 1) * wide] = (60 * number + 40, 90, 90, 255)
    name = add_sheet(document, "village.png", png(art))
    sheet = next(one for one in document.project.sheets if one.id == name)
    put(document, "cut", "sheets", replace(sheet, cuts=(Cut("tiles", wide, tall, anchor="bottom"),)))
    refs = [TileRef(name, "tiles", number, 0) for number in range(4)]
    codes = [document.palette.code(ref) for ref in refs]
    roofs = add_layer(document, "ground", "Roofs")
    change_layer(document, "ground", roofs, "move", offset_y=-2 * high)
    poke(document, "things", "cells", np.s_[:], codes[FLOOR])
    poke(document, "things", "cells", np.s_[5, 2:9], codes[WALL])
    poke(document, "things", "cells", np.s_[8, 5], codes[STEP])
    poke(document, roofs, "cells", np.s_[6, 2:9], codes[ROOF])
    return document, refs, add_layer(document, "ground", "Props", kind="props")


def everywhere(derived: Derived) -> PixelRect:
    """All of the ground in pixels."""
    return PixelRect(0, 0, *derived.knitted("ground").ground.projection.size)


@pytest.mark.parametrize("kind", ["diamond", "square"])
def test_walls_block_and_floors_steps_and_roofs_do_not(kind):
    document, refs, _ = village(kind)
    derived = Derived(document)
    assert standing_on(derived, "ground") == [refs[WALL]]
    assert let_block(document, standing_on(derived, "ground")) == 1
    solids, whole = Solids(derived, "ground"), everywhere(derived)
    assert len(solids.pieces(whole)) == 7
    with pytest.raises(BadRequest, match="Nothing higher"):
        let_block(document, standing_on(derived, "ground"))
    document.undo()
    assert not Solids(derived, "ground").pieces(whole)


def test_a_lamp_blocks_by_its_foot():
    document, refs, props = village()
    derived = Derived(document)
    poke(document, "things", "cells", np.s_[:], 0)
    place(document, "ground", props, [Thing("lamp", 40.0, 50.0, form="sprite", tile=refs[WALL])])
    assert let_block(document, standing_on(derived, "ground")) == 1
    (piece,) = Solids(derived, "ground").pieces(everywhere(derived))
    left, top, right, bottom = piece.shape.bounds
    ground = document.project.grounds[0]
    assert (right - left, bottom - top) == (ground.tile_width, ground.tile_height)
    assert bottom == 50.0


@pytest.mark.parametrize("said", ["shape", "tag", "walk layer", "layer", "thing"])
def test_nothing_is_told_once_anything_is_said_to_block(said):
    document, refs, props = village()
    derived = Derived(document)
    x, y = derived.knitted("ground").ground.projection.corner(5, 5)
    assert stands_unsaid(derived, "ground", x, y)
    if said == "shape":
        set_collision(document, {refs[STEP]: "whole"})
    elif said == "tag":
        blocks = replace(document.project.blocks, tags=("hedge",))
        document.define("rule", replace(document.project, blocks=blocks))
    elif said == "walk layer":
        add_layer(document, "ground", "Paths", kind="walk")
    elif said == "layer":
        change_layer(document, "ground", "things", "block", solid="whole")
    else:
        thing = Thing("pit", 9.0, 9.0, form="box", width=8.0, height=8.0, properties={"blocks": Property("bool", True)})
        place(document, "ground", props, [thing])
    assert not stands_unsaid(derived, "ground", x, y)


def test_of_a_large_ground_only_what_stands_round_the_place_is_looked_at():
    document, refs, _ = village()
    derived = Derived(document)
    ground = document.project.grounds[0]
    assert not stands_unsaid(derived, "ground", 100.0 * ground.tile_width, 0.0)
    poke(document, "things", "cells", np.s_[:], document.palette.code(refs[FLOOR]))
    assert not stands_unsaid(derived, "ground", 0.0, 0.0)
