"""Layers of sets above one another: each leaves its ground to what lies below."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.finding import take_sets
from knitground.core.edits.grounds import furnish_ground, paint_with
from knitground.core.edits.hiding import hidden_by, hides_below, lay_above_hiding, lay_below_hidden
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.painting import Hand, filled, stroke
from knitground.core.edits.sheets import set_cut
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, cell_pixels, png, poke
from test_beneath import painted_with, plain, sheet
from test_joining import HEATH, ROSE, SAGE, SIDE, SLATE, found_on, meeting

WHOLE = CellRect(0, 0, 8, 8)


@pytest.fixture
def moor() -> Document:
    """A ground with the layers of two sets, slate on heath below sage on rose."""
    document = Document()
    for name, tiles in (("slate", meeting(HEATH, SLATE, 1)), ("sage", meeting(ROSE, SAGE, 2))):
        sheet_id = add_sheet(document, f"{name}.png", png(np.concatenate(tiles, axis=1)))
        set_cut(document, sheet_id, Cut("tiles", SIDE, SIDE))
        take_sets(document, found_on(np.stack(tiles)[None], TileRef(sheet_id, "tiles", 0, 0)))
    below, above = document.project.join_sets
    ground, _, _ = paint_with(document, None, below.id, "join_sets")
    paint_with(document, ground, above.id, "join_sets")
    return document


def layers(document: Document) -> tuple[Layer, ...]:
    return document.project.grounds[0].layers


def codes(document: Document, layer: Layer) -> np.ndarray:
    return Derived(document).knitted(document.project.grounds[0].id).laid(layer.id, WHOLE).codes


def test_the_lowest_covers_the_ground_and_one_above_lays_only_what_is_painted(moor):
    below, above = layers(moor)
    assert (codes(moor, below) > 0).all()
    assert not codes(moor, above).any()
    poke(moor, above.id, "corners", (slice(3, 5), slice(3, 5)), 2, moor.project.grounds[0].id)
    laid = codes(moor, above) > 0
    assert laid[2:5, 2:5].all()
    assert laid.sum() == 9
    shown = cell_pixels(Derived(moor), WHOLE, moor.project.grounds[0].id)[..., :3].astype(float)
    assert np.abs(shown[: 2 * SIDE].mean(axis=(0, 1)) - HEATH).sum() < 12
    assert np.abs(shown[3 * SIDE : 4 * SIDE, 3 * SIDE : 4 * SIDE].mean(axis=(0, 1)) - SAGE).sum() < 12


def test_a_layer_covers_again_what_is_below_when_one_says_so(moor):
    _, above = layers(moor)
    change_layer(moor, moor.project.grounds[0].id, above.id, "cover", leaves_ground=False)
    assert (codes(moor, above) > 0).all()
    moor.undo()
    assert not codes(moor, above).any()


def test_what_is_left_out_is_told_where_one_points(moor):
    _, above = layers(moor)
    ground = moor.project.grounds[0].id
    assert "left to what lies below" in Derived(moor).why(ground, above.id, 1, 1)


def test_a_ground_that_is_furnished_with_all_sets_shows_them_all(moor):
    ground = moor.project.grounds[0]
    moor.define("bare", replace(moor.project, grounds=(replace(ground, layers=()),)), planes={ground.id: {}})
    furnish_ground(moor, ground.id)
    first, second, *_ = layers(moor)
    assert (codes(moor, first) > 0).all()
    assert not codes(moor, second).any()


def test_lines_on_bare_ground_are_laid_as_before():
    document = painted_with(sheet((7, 1, plain((214, 190, 150), 40))))
    (layer,) = document.project.grounds[0].layers
    assert not layer.leaves_ground
    assert (codes(document, layer) > 0).all()
    set_id = document.project.join_sets[0].id
    second = paint_with(document, document.project.grounds[0].id, set_id, "join_sets")[1]
    assert second == layer.id, "the layer that there is"


def test_a_saved_project_keeps_what_is_left_out(moor, tmp_path):
    moor.save(tmp_path / "moor")
    loaded = Document.load(tmp_path / "moor")
    assert [layer.leaves_ground for layer in by_id(loaded.project.grounds, "ground-1").layers] == [False, True]


@pytest.fixture
def tops(moor) -> tuple[Document, str]:
    """A ground on which blocks were painted with a set on clear ground, and the set of the moor that covers all."""
    document, cover = moor, moor.project.join_sets[0]
    block = replace(cover, id="block", name="Block", bare=True)
    ground = moor.project.grounds[0]
    project = replace(moor.project, join_sets=(cover, block), grounds=(replace(ground, layers=()),))
    document.define("only blocks", project, planes={ground.id: {}})
    return document, cover.id


def test_what_would_hide_all_that_is_painted_is_laid_below_it(tops):
    document, cover = tops
    ground = document.project.grounds[0].id
    top = paint_with(document, ground, "block", "join_sets")[1]
    poke(document, top, "corners", (slice(3, 5), slice(3, 5)), 1, ground)
    made = paint_with(document, ground, cover, "join_sets")[1]
    assert [one.id for one in layers(document)] == [made, top]
    assert (codes(document, layers(document)[0]) > 0).all()


def test_what_is_painted_nearly_everywhere_is_left_to_show_round_a_set(tops):
    document, cover = tops
    ground = document.project.grounds[0].id
    floor = add_layer(document, ground, "Floor")
    poke(
        document,
        floor,
        "cells",
        np.s_[:],
        document.palette.code(next(iter(document.project.join_sets[0].labels))),
        ground,
    )
    made = paint_with(document, ground, cover, "join_sets")[1]
    assert [one.id for one in layers(document)] == [floor, made]
    assert not codes(document, layers(document)[1]).any()


def test_a_floor_that_is_filled_last_can_be_laid_below_what_it_hides(tops):
    document, _ = tops
    ground = document.project.grounds[0].id
    top = paint_with(document, ground, "block", "join_sets")[1]
    floor = add_layer(document, ground, "Floor")
    derived, ref = Derived(document), next(iter(document.project.join_sets[0].labels))

    def fill(layer: str) -> None:
        document.put_planes("fill", ground, {layer: filled(
            document.state, document.palette, ground, layer, Hand(tile=ref), (20.0, 20.0)
        )})  # fmt: skip

    fill(floor)
    assert not hides_below(derived, ground), "there is nothing yet"
    document.undo()
    poke(document, top, "corners", (slice(3, 5), slice(3, 5)), 1, ground)
    assert not hides_below(derived, ground), "this is what is hidden"
    change_layer(document, ground, top, "hide", visible=False)
    fill(floor)
    assert not hides_below(derived, ground), "nothing that could be seen"
    document.undo()
    document.undo()
    fill(floor)
    assert hides_below(derived, ground)
    lay_below_hidden(derived, ground, floor)
    assert [one.id for one in layers(document)] == [floor, top]
    with pytest.raises(BadRequest, match="hides nothing that is painted"):
        lay_below_hidden(derived, ground, floor)


def test_a_tile_that_a_layer_above_hides_is_told_and_can_be_laid_on_top(tops):
    document, _ = tops
    ground = document.project.grounds[0].id
    low = add_layer(document, ground, "Low")
    top = paint_with(document, ground, "block", "join_sets")[1]
    poke(document, top, "corners", (slice(3, 6), slice(3, 6)), 1, ground)
    derived, ref = Derived(document), next(iter(document.project.join_sets[0].labels))
    hidden = next(row for row in np.argwhere(codes(document, layers(document)[1])).tolist())
    spots = {at: (at[0] + 0.5, at[1] + 0.5) for at in (tuple(hidden), (1, 1))}
    for at, spot in spots.items():
        stroke(document, ground, low, Hand(tile=ref), spot, spot)
        hider = hidden_by(derived, ground)
        assert (hider.id if hider else None) == (top if at == tuple(hidden) else None)
        if hider is None:
            with pytest.raises(BadRequest, match="Nothing hides"):
                lay_above_hiding(derived, ground)
        else:
            document.undo()
            change_layer(document, ground, top, "raise", offset_y=-SIDE // 2)
            stroke(document, ground, low, Hand(tile=ref), spot, spot)
            assert hidden_by(derived, ground) is None, "half of it shows now"
            document.undo()
            document.undo()
            stroke(document, ground, low, Hand(tile=ref), spot, spot)
            made = lay_above_hiding(derived, ground)
            assert [one.id for one in layers(document)] == [low, top, made]
            assert np.argwhere(codes(document, layers(document)[2])).tolist() == [list(at)]
            assert hidden_by(derived, ground) is None
