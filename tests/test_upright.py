"""Walls on the layer of the floor, which hide nothing of what stands behind them on other layers."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.check.upright import KNIT, TILES
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.mending import mend, mend_of
from knitground.core.edits.placing import place
from knitground.core.edits.sheets import set_cut
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, poke
from test_feet import POST, yard


def told(document: Document) -> list:
    return [one for one in all_findings(Derived(document)) if one.kind in (TILES, KNIT)]


def posts(document: Document, ground: str) -> int:
    width, height = document.project.grounds[0].projection.size
    return int((Derived(document).pixels(ground, PixelRect(0, 0, width, height)) == POST).all(axis=2).sum())


def walled(behind: str, cell: tuple[int, int]) -> tuple[Document, str, str]:
    """A yard with a wall in (6, 6) on its floor, and a post elsewhere on a layer above; ids of ground and floor."""
    document, ground, (_, wall, post) = yard()
    floor = document.project.grounds[0].layers[0].id
    poke(document, floor, "cells", np.s_[6, 6], document.palette.code(wall), ground)
    above = add_layer(document, ground, "Posts", kind="props" if behind == "thing" else None)
    if behind == "thing":
        place(document, ground, above, [Thing("a", *document.project.grounds[0].projection.point(*cell), tile=post)])
    else:
        poke(document, above, "cells", cell, document.palette.code(post), ground)
    return document, ground, floor


@pytest.mark.parametrize(
    ("behind", "cell", "wrong"),
    [("tile", (5, 5), True), ("tile", (5, 6), True), ("tile", (7, 7), False), ("tile", (6, 6), False),
     ("tile", (5, 7), False), ("tile", (3, 3), False), ("thing", (5.5, 5.5), True), ("thing", (7.5, 7.5), False),
     ("thing", (6.2, 5.4), True)],
)  # fmt: skip
def test_a_wall_on_the_floor_is_told_where_something_is_drawn_over_it_from_behind(behind, cell, wrong):
    document, ground, _ = walled(behind, cell)
    shown, before = posts(document, ground), document.state
    found = told(document)
    assert [(one.kind, one.row, one.column, one.count) for one in found] == [(TILES, 6, 6, 1)] * wrong
    for finding in found:
        assert mend_of(finding) is not None
        assert mend(document, finding) == 1
        assert posts(document, ground) < shown, "the wall hides a part of it"
        assert told(document) == []
        assert [one.name for one in document.project.grounds[0].layers] == ["Floor", "Floor upright", "Posts"]
        with pytest.raises(BadRequest, match="is to be moved"):
            mend(document, finding)
        document.undo()
        assert document.state == before


@pytest.mark.parametrize(
    ("rise", "cell", "wrong"),
    [(16, (3, 3), False), (56, (3, 3), True), (56, (3, 4), True), (56, (1, 1), False)],
)
def test_high_walls_hide_more_of_what_is_behind(rise, cell, wrong):
    document, ground, _ = walled("tile", cell)
    art = np.zeros((16 + rise, 32, 4), np.uint8)
    art[:] = (90, 90, 90, 255)
    name = add_sheet(document, "tower.png", png(art))
    set_cut(document, name, Cut("tiles", 32, 16 + rise, shape="isometric"))
    floor = document.project.grounds[0].layers[0].id
    poke(document, floor, "cells", np.s_[6, 6], document.palette.code(TileRef(name, "tiles", 0, 0)), ground)
    assert [(one.row, one.column) for one in told(document)] == [(6, 6)] * wrong


def test_a_floor_that_is_drawn_a_pixel_over_its_cells_hides_no_feet():
    document, ground, floor = walled("thing", (2.5, 2.5))
    art = np.zeros((17, 32, 4), np.uint8)
    art[:] = (90, 90, 90, 255)
    name = add_sheet(document, "floor.png", png(art))
    set_cut(document, name, Cut("tiles", 32, 17, shape="isometric"))
    flat = document.palette.code(TileRef(name, "tiles", 0, 0))
    poke(document, floor, "cells", np.s_[:5, :5], flat, ground)
    layer = document.project.grounds[0].layers[-1].id
    thing = document.project.grounds[0].layers[-1].things[0]
    for corner in ((3, 3), (3.4, 3), (3, 3.6)):
        x, y = document.project.grounds[0].projection.point(*corner)
        place(document, ground, layer, [replace(thing, x=float(x), y=float(y))])
    assert told(document) == []


@pytest.mark.parametrize("behind", ["tile", "thing"])
@pytest.mark.parametrize(("under", "before", "wrong"), [(10, 10, False), (10, 6, False), (6, 10, True), (20, 20, True)])
def test_what_is_laid_on_a_block_of_a_floor_stands_on_it(behind, under, before, wrong):
    document, ground, floor = walled(behind, (5.4, 5.4) if behind == "thing" else (5, 5))
    art = np.zeros((16 + max(under, before), 64, 4), np.uint8)
    art[-16 - under :, :32] = art[-16 - before :, 32:] = (90, 90, 90, 255)
    name = add_sheet(document, "blocks.png", png(art))
    set_cut(document, name, Cut("tiles", 32, len(art), shape="isometric"))
    codes = [document.palette.code(TileRef(name, "tiles", column, 0)) for column in (0, 1)]
    poke(document, floor, "cells", np.s_[:, :], codes[1], ground)
    poke(document, floor, "cells", np.s_[5, 5], codes[0], ground)
    assert bool(told(document)) == wrong


def test_what_lies_higher_or_is_drawn_as_a_whole_is_as_it_should_be():
    document, ground, floor = walled("tile", (5, 5))
    posts_id = document.project.grounds[0].layers[1].id
    for changes in ({"offset_y": -16}, {"stacking": "whole"}, {"visible": False}):
        change_layer(document, ground, posts_id, "change", **changes)
        assert told(document) == []
        document.undo()
    change_layer(document, ground, floor, "change", stacking="depth")
    assert told(document) == []


def test_a_locked_floor_is_not_parted():
    document, ground, floor = walled("tile", (5, 5))
    change_layer(document, ground, floor, "lock", locked=True)
    (finding,) = told(document)
    with pytest.raises(BadRequest, match="locked"):
        mend(document, finding)


def test_walls_that_a_set_knits_on_the_floor_are_told_but_stay_where_they_are():
    document, ground, (_, wall, post) = yard()
    terrain = Terrain("Wall", "W", "#808080")
    put(document, "add set", "join_sets", JoinSet("walls", "Walls", "corner", (terrain,), True, {wall: (1, 1, 1, 1)}))
    knit = add_layer(document, ground, "Knit", "walls")
    poke(document, knit, "corners", np.s_[6:8, 6:8], 1, ground)
    above = add_layer(document, ground, "Posts")
    poke(document, above, "cells", (4, 4), document.palette.code(post), ground)
    (finding,) = told(document)
    assert (finding.kind, finding.layer, finding.row, finding.column) == (KNIT, knit, 5, 5)
    assert mend_of(finding) is None
    assert "“Knit” be stacked by depth" in finding.mend
    change_layer(document, ground, knit, "as it says", stacking="depth")
    assert told(document) == []
