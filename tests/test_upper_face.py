"""How high a figure stands on an isometric ground, and what hides it there."""

import numpy as np
import pytest

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.lifting import stands_inside
from knitground.core.edits.sheets import set_cut
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.facts import ProjectFacts
from knitground.core.render.before import before
from knitground.core.render.upper_face import height_at, seen_at, tops
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, make_document, png, poke, tile
from test_before import diamond

RISE = 20
TALL = 16 + 2 * RISE
FLOOR, QUAY, TOWER, WALL, BARE = range(5)


class Yard:
    """A ground of floors, with a layer of what stands on it, and one that lies as high as a quay."""

    def __init__(self) -> None:
        art = np.zeros((TALL, 4 * 32, 4), np.uint8)
        for number, high in enumerate((16, 16 + RISE, TALL)):
            art[TALL - high :, 32 * number : 32 * (number + 1)] = diamond(high)
        art[:TALL, 3 * 32 : 3 * 32 + 8] = diamond(TALL)[:, :8]
        self.document = Document()
        self.sheet = add_sheet(self.document, "yard.png", png(art))
        set_cut(self.document, self.sheet, Cut("tiles", 32, TALL, shape="isometric", anchor="bottom"))
        self.ground = add_ground(self.document, "Yard", 12, 12, (32, 16), "diamond")
        self.layers = [add_layer(self.document, self.ground, name) for name in ("Floor", "Walls", "Lifted")]
        change_layer(self.document, self.ground, self.layers[2], "lift", offset_y=-RISE)
        self.lay(0, np.s_[:], FLOOR)

    def lay(self, layer: int, cells: object, tile: int) -> None:
        code = 0 if tile == BARE else self.document.palette.code(TileRef(self.sheet, "tiles", tile, 0))
        poke(self.document, self.layers[layer], "cells", cells, code, self.ground)

    @property
    def seen(self):
        derived = Derived(self.document)
        knitted = derived.knitted(self.ground)
        return knitted, derived.atlas(knitted.ground)

    def middle(self, row: int, column: int) -> tuple[float, float]:
        left, top = self.seen[0].ground.projection.corner(row, column)
        return float(left) + 16, float(top) + 8

    def height(self, row: int, column: int) -> int:
        return height_at(*self.seen, *self.middle(row, column))


def test_one_stands_on_what_is_flat_on_top_and_on_what_lies_on_it_but_not_on_what_is_overhead():
    yard = Yard()
    yard.lay(1, np.s_[4, 4:8], QUAY)
    assert [yard.height(4, column) for column in (3, 4, 5)] == [0, RISE, RISE]
    yard.lay(2, np.s_[4, 4], FLOOR)
    yard.lay(2, np.s_[4, 5], QUAY)
    yard.lay(2, np.s_[4, 6], WALL)
    yard.lay(2, np.s_[6, 6], FLOOR)
    assert [yard.height(4, column) for column in (4, 5, 6, 7)] == [RISE, 2 * RISE, RISE, RISE]
    assert yard.height(6, 6) == 0, "a ceiling"
    yard.lay(1, np.s_[4, 7], WALL)
    assert yard.height(4, 7) == 0, "nobody stands on a thin wall"
    change_layer(yard.document, yard.ground, yard.layers[1], "hide", visible=False)
    assert yard.height(4, 5) == 0
    assert height_at(*yard.seen, -50.0, -50.0) == 0


def test_what_is_pointed_at_is_the_foremost_top_that_is_seen_there():
    yard = Yard()
    yard.lay(1, np.s_[5, 5], QUAY)
    x, y = yard.middle(5, 5)
    assert seen_at(*yard.seen, x, y - RISE) == RISE
    assert seen_at(*yard.seen, x, y - RISE - 7) == RISE
    assert seen_at(*yard.seen, x, y - RISE - 10) == 0
    yard.lay(1, np.s_[7, 7], TOWER)
    x, y = yard.middle(7, 7)
    assert seen_at(*yard.seen, x, y - 2 * RISE) == 2 * RISE
    assert seen_at(*yard.seen, *yard.middle(3, 3)) == 0


@pytest.mark.parametrize(
    ("tile", "cell", "hides"),
    [(QUAY, (5, 5), False), (QUAY, (5, 6), False), (QUAY, (6, 6), False), (TOWER, (6, 6), True), (TOWER, (4, 4), False),
     (WALL, (5, 6), True)],
)  # fmt: skip
def test_who_stands_on_a_quay_is_hidden_by_what_is_higher_before_it_only(tile, cell, hides):
    yard = Yard()
    yard.lay(1, np.s_[4:7, 4:7], QUAY)
    yard.lay(1, cell, tile)
    knitted, _ = yard.seen
    scene = Derived(yard.document).scene(knitted)
    x, y = yard.middle(5, 5)
    area = PixelRect(int(x) - 12, int(y) - RISE - 14, 24, 16)
    assert (before(scene, area, y, RISE)[..., 3].any()) == hides
    assert before(scene, PixelRect(int(x) - 3, int(y) - 12, 6, 12), y)[..., 3].any(), "who stands below is inside of it"


def test_what_stands_how_high_is_known_of_more_tiles_than_were_drawn_yet():
    document = make_document(8, 5, "diamond")
    ground = document.project.grounds[0]
    codes = np.array([document.palette.code(tile(number % 16, number // 16)) for number in range(40)], dtype=np.int32)
    flat = ProjectFacts(Derived(document)).lies_flat(ground, codes.reshape(5, 8))
    assert flat.shape == (5, 8)
    assert len(np.unique(flat)) == 1
    assert len(np.unique(tops(Derived(document).atlas(ground), codes.reshape(5, 8)))) == 1, "they are all alike"
    for layer in ("things", add_layer(document, ground.id, "Roofs")):
        poke(document, layer, "cells", np.s_[:], codes.reshape(5, 8))
    assert stands_inside(Derived(document), ground.id, (2.5, 2.5)) == ""
