"""Floors that are drawn over the feet of what stands on them."""

import numpy as np
import pytest

from knitground.core.check.feet import FLOOR, HIDDEN
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.mending import mend, mend_of
from knitground.core.edits.placing import place
from knitground.core.edits.sheets import set_cut
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import Ledger, all_findings
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, poke

POST = (20, 200, 40, 255)


def yard() -> tuple[Document, str, list[TileRef]]:
    """An isometric ground with a floor that is drawn as a whole, and three tiles: a diamond, a wall and a post."""
    document = Document()
    diamond, wall, post = (np.zeros((32, 32, 4), np.uint8) for _ in range(3))
    for row in range(8):
        for place_ in (16 + row, 31 - row):
            diamond[place_, 14 - 2 * row : 18 + 2 * row] = (150, 90, 60, 255)
    wall[:] = (90, 90, 90, 255)
    post[12:, 12:20] = POST
    add_sheet(document, "yard.png", png(np.concatenate([diamond, wall, post], axis=1)))
    cut = document.project.sheets[0].cuts[0].id
    set_cut(document, "yard", Cut(cut, 32, 32, shape="isometric"))
    ground = add_ground(document, "Yard", 12, 12, (32, 16), "diamond")
    floor = add_layer(document, ground, "Floor")
    poke(document, floor, "cells", np.s_[:], document.palette.code(TileRef("yard", cut, 0, 0)), ground)
    return document, ground, [TileRef("yard", cut, column, 0) for column in range(3)]


def with_a_post_on_a_path(document: Document, ground: str, flat: TileRef, post: TileRef) -> str:
    """Two layers more: one of paths, of which one hides the foot of a post on the other; the id of the first."""
    paths, props = (add_layer(document, ground, name, kind=kind) for name, kind in (("Paths", None), ("P", "props")))
    middle = document.project.grounds[0].projection.point(5.5, 6.5)
    place(document, ground, props, [Thing("a", *middle, tile=post)])
    poke(document, paths, "cells", np.s_[5, 6], document.palette.code(flat), ground)
    return paths


def findings(document: Document) -> list:
    return [one for one in all_findings(Derived(document)) if one.kind in (FLOOR, HIDDEN)]


def post_pixels(document: Document, ground: str) -> int:
    width, height = Derived(document).document.project.grounds[0].projection.size
    return int((Derived(document).pixels(ground, PixelRect(0, 0, width, height)) == POST).all(axis=2).sum())


@pytest.mark.parametrize("moved", [(0, 0), (7, 0), (-9, 3), (0, 6), (0, -7)])
def test_flat_tiles_over_feet_are_told_where_they_hide_something_and_nowhere_else(moved):
    document, ground, (flat, _, post) = yard()
    paths, props = (add_layer(document, ground, name, kind=kind) for name, kind in (("Paths", None), ("P", "props")))
    projection = document.project.grounds[0].projection
    middle = projection.point(5.5, 6.5)
    place(document, ground, props, [Thing("a", middle[0] + moved[0], middle[1] + moved[1], tile=post)])
    whole = post_pixels(document, ground)
    assert whole == 8 * 20
    assert findings(document) == []
    poke(document, paths, "cells", np.s_[5, 6], document.palette.code(flat), ground)
    hidden = post_pixels(document, ground) < whole
    assert [one.count for one in findings(document)] == [1] * hidden
    change_layer(document, ground, paths, "draw as a whole", stacking="whole")
    assert post_pixels(document, ground) == whole
    assert findings(document) == []


def test_a_wall_before_a_thing_is_as_it_should_be():
    document, ground, (_, wall, post) = yard()
    walls, props = (add_layer(document, ground, name, kind=kind) for name, kind in (("Walls", None), ("P", "props")))
    middle = document.project.grounds[0].projection.point(5.5, 6.5)
    place(document, ground, props, [Thing("a", *middle, tile=post)])
    poke(document, walls, "cells", np.s_[5, 6], document.palette.code(wall), ground)
    assert post_pixels(document, ground) < 8 * 20
    assert findings(document) == []


def test_a_floor_that_is_redrawn_upright_is_looked_at_anew():
    document, ground, (flat, _, post) = yard()
    with_a_post_on_a_path(document, ground, flat, post)
    ledger = Ledger(Derived(document))

    def told() -> list[str]:
        ledger.take(ledger.job()(lambda share: None))
        return [one.kind for one in ledger.findings if one.kind in (FLOOR, HIDDEN)]

    assert told() == [FLOOR]
    sheet = document.project.sheets[0]
    pixels = document.state.pictures[sheet.id].pixels.copy()
    pixels[:, :32] = (90, 90, 90, 255)
    document.redrawn(sheet, Picture(png(pixels), pixels))
    assert told() == []


@pytest.mark.parametrize("order", [("P", "Hidden", "Paths", "Walls"), ("Walls", "Paths", "P", "Hidden")])
def test_a_floor_is_laid_below_all_that_stands_with_it_as_one_step(order):
    document, ground, (flat, wall, post) = yard()
    layers = {name: add_layer(document, ground, name, kind="props" if name == "P" else None) for name in order}
    change_layer(document, ground, layers["Hidden"], "hide", visible=False)
    middle = document.project.grounds[0].projection.point(5.5, 6.5)
    place(document, ground, layers["P"], [Thing("a", *middle, tile=post)])
    poke(document, layers["Paths"], "cells", np.s_[5, 4:7], document.palette.code(flat), ground)
    poke(document, layers["Walls"], "cells", np.s_[3, 3], document.palette.code(wall), ground)
    before = document.state
    (finding,) = findings(document)
    assert finding.kind == FLOOR
    assert mend(document, finding) == 1
    assert findings(document) == []
    assert post_pixels(document, ground) == 8 * 20
    assert [one.name for one in document.project.grounds[0].shown()][:2] == ["Floor", "Paths"]
    with pytest.raises(BadRequest, match="Nothing is left"):
        mend(document, finding)
    document.undo()
    assert document.state == before


def test_a_layer_that_holds_walls_too_is_not_laid_below_by_itself():
    document, ground, (flat, wall, post) = yard()
    paths = with_a_post_on_a_path(document, ground, flat, post)
    poke(document, paths, "cells", np.s_[11, 11], document.palette.code(wall), ground)
    (finding,) = findings(document)
    assert mend_of(finding) is None
    assert "a layer of its own" in finding.mend
