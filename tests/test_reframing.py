"""Grounds in other frames: what stays, what falls away, what goes round."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.deliver import EXPORTERS
from knitground.core.edits.grounds import add_ground, move_ground, set_wraps
from knitground.core.edits.layers import add_layer
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.edits.placing import place
from knitground.core.edits.reframing import framed, lost_places, reframe_ground, shift_ground
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.scale import Scale
from knitground.core.sheet.picture import decode_picture
from making import SIDE, make_document, plane_of, tile

ANCHORS = [(across, down) for across in (0, 0.5, 1) for down in (0, 0.5, 1)]


def painted(grid: str = "square", *, areas: bool = True) -> Document:
    document = make_document(grid=grid)
    board = document.project.grounds[0].board
    y, x = board.flat("cells", 7, 9)
    if areas:
        area(document, "ground", "areas", Hand(terrain=2), (y - 2, x - 2), (y + 1, x + 1))
    for row, column in ((0, 0), (7, 9), (14, 19)):
        at = tuple(place + 0.5 for place in board.flat("cells", row, column))
        stroke(document, "ground", "things", Hand(tile(3, 3)), at, at)
    return document


@pytest.mark.parametrize("grid", list(GRIDS))
@given(width=st.integers(1, 40), height=st.integers(2, 30), anchor=st.sampled_from(ANCHORS))
@settings(deadline=None, max_examples=20)
def test_what_stays_in_the_frame_stays_and_what_falls_away_is_counted(grid, width, height, anchor):
    document = painted(grid, areas=False)
    ground = document.project.grounds[0]
    before = plane_of(document, "things", "cells").copy()
    frame = framed(ground, width, height, *anchor)
    lost = lost_places(document, "ground", frame)
    reframe_ground(document, "ground", frame)
    after = plane_of(document, "things", "cells")
    assert after.shape == (height, width)
    for row, column in np.argwhere(before).tolist():
        inside = frame.holds(row, column)
        assert not inside or after[row - frame.top, column - frame.left] == before[row, column]
    assert lost == (before > 0).sum() - (after > 0).sum()
    if frame != ground.board.whole:
        document.undo()
    assert np.array_equal(plane_of(document, "things", "cells"), before)


def test_nothing_falls_away_where_a_ground_grows():
    document = painted()
    ground = document.project.grounds[0]
    for anchor in ANCHORS:
        assert lost_places(document, "ground", framed(ground, 31, 25, *anchor)) == 0
    assert lost_places(document, "ground", framed(ground, 19, 15, 0, 0)) > 0


@given(down=st.integers(-40, 40), across=st.integers(-40, 40))
@settings(deadline=None, max_examples=25)
def test_a_shift_goes_round_and_comes_back(down, across):
    document = painted()
    set_wraps(document, "ground", x=True, y=True)
    layer = add_layer(document, "ground", "Props", kind="props")
    place(document, "ground", layer, [Thing("n", 44.0, 60.0, tile=tile(1, 1))])
    before = {name: plane_of(document, *name).copy() for name in (("things", "cells"), ("areas", "corners"))}
    codes = Derived(document).knitted("ground").codes("things", CellRect(0, 0, 15, 20)).copy()
    shift_ground(document, "ground", down, across)
    assert np.array_equal(plane_of(document, "things", "cells"), np.roll(codes, (down, across), (0, 1)))
    thing = document.project.grounds[0].layer(layer).things[0]
    assert (thing.x - 44 - across * SIDE) % (20 * SIDE) == 0
    assert (thing.y - 60 - down * SIDE) % (15 * SIDE) == 0
    shift_ground(document, "ground", -down, -across)
    for name, plane in before.items():
        assert np.array_equal(plane_of(document, *name)[:15, :20], plane[:15, :20])


def test_staggered_rows_are_not_shifted():
    with pytest.raises(BadRequest, match="staggered"):
        shift_ground(painted("staggered"), "ground", 1, 1)


@pytest.mark.parametrize("size", [(0, 5), (5, 0), (5000, 5)])
def test_a_frame_out_of_range_is_refused(size):
    document = painted()
    with pytest.raises(BadRequest, match="out of range"):
        reframe_ground(document, "ground", framed(document.project.grounds[0], *size, 0, 0))


def test_grounds_are_moved_in_their_list():
    document = painted()
    for name in ("Second", "Third"):
        add_ground(document, name, 4, 4, (8, 8))
    move_ground(document, "third", -1)
    assert [ground.id for ground in document.project.grounds] == ["ground", "third", "second"]
    move_ground(document, "ground", 9)
    assert [ground.id for ground in document.project.grounds] == ["third", "second", "ground"]


def test_a_background_lies_below_all_layers_and_is_delivered(tmp_path):
    document = make_document()
    ground = document.project.grounds[0]
    bare = tuple(replace(layer, visible=layer.id == "things") for layer in ground.layers)
    put(document, "background", "grounds", replace(ground, background="#336699", layers=bare, tags=("roof",)))
    stroke(document, "ground", "things", Hand(tile(3, 3)), (2.5, 2.5), (2.5, 2.5))
    derived = Derived(document)
    seen = (
        (Scale(), PixelRect(-4, -4, 60, 60)), (Scale(level=1), PixelRect(-2, -2, 30, 30)),
        (Scale(cells=2), PixelRect(-1, -1, 6, 6)),
    )  # fmt: skip
    for scale, part in seen:
        pixels = derived.pixels("ground", part, scale)
        assert not pixels[0, 0].any()
        assert pixels[-1, -1].tolist() == [0x33, 0x66, 0x99, 255]
    EXPORTERS["png"].write(derived, "ground", tmp_path / "map.png")
    picture = decode_picture((tmp_path / "map.png").read_bytes(), "map.png")
    assert picture[0, 0].tolist() == [0x33, 0x66, 0x99, 255]
    assert picture[2 * SIDE + 1, 2 * SIDE + 1].tolist() != [0x33, 0x66, 0x99, 255]
    EXPORTERS["json"].write(derived, "ground", tmp_path / "map.json")
    content = json.loads((tmp_path / "map.json").read_text())
    assert (content["background"], content["tags"]) == ("#336699", ["roof"])
