"""Things go along with the cells that they stand in: lifted, laid, turned, kept, copied to other projects."""

import numpy as np
import pytest

from knitground.core.edits.block_things import things_laid
from knitground.core.edits.blocks import Move, lay_block, lift, turned
from knitground.core.edits.clipping import as_text, from_text
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.keeping import block_on, keep_block, swatch_picture
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.merging import moved_in
from knitground.core.edits.placing import place
from knitground.core.edits.selecting import boxed
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Corner, Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import CORNERED, SIDE, make_document, poke, tile


def furnished(grid: str = "square") -> tuple[Document, str]:
    """A sprite in cell (6, 7), a point in cell (7, 8), and one far off."""
    document = make_document(grid=grid)
    layer = add_layer(document, "ground", "Props", kind="props")
    projection = document.project.grounds[0].projection
    box, other, far = (projection.box(*cell) for cell in ((6, 7), (7, 8), (12, 15)))
    place(document, "ground", layer, [
        Thing("n", box.x + SIDE / 2, float(box.bottom), tile=tile(1, 1), name="hive"),
        Thing("n", other.x + SIDE / 2, other.y + SIDE / 2, "point", name="door", kind="nowhere"),
        Thing("n", far.x + SIDE / 2, float(far.bottom), tile=tile(2, 1), name="far"),
    ])  # fmt: skip
    return document, layer


def things(document: Document, layer: str, ground: str = "ground") -> dict[str, Thing]:
    props = as_props(next(one for one in document.project.grounds if one.id == ground).layer(layer))
    assert props is not None
    return {f"{one.name} {number}": one for number, one in enumerate(props.things)}


def lifted(document: Document, layer: str):
    board = document.project.grounds[0].board
    (y0, x0), (y1, x1) = board.flat("cells", 6, 7), board.flat("cells", 7, 8)
    shape = boxed(board, (min(y0, y1) + 0.5, min(x0, x1) + 0.5), (max(y0, y1) + 0.5, max(x0, x1) + 0.5))
    return lift(document.project.grounds[0], document.state.planes["ground"], ["things", layer], shape)


@pytest.mark.parametrize("grid", CORNERED)
def test_things_are_laid_in_the_cells_in_which_they_stood(grid):
    document, layer = furnished(grid)
    block, at = lifted(document, layer)
    assert [one.thing.name for one in block.things] == ["hive", "door"]
    poke(document, "things", "cells", np.s_[0, 0], document.palette.code(tile(3, 3)))
    lay_block(document, "ground", block, (at[0] + 2, at[1] + 2))
    found = list(things(document, layer).values())
    assert [one.name for one in found] == ["hive", "door", "far", "hive", "door"]
    assert len({one.id for one in found}) == 5
    projection, board = document.project.grounds[0].projection, document.project.grounds[0].board
    y, x = board.flat("cells", 6, 7)
    box = projection.box(*(int(n) for n in board.stored("cells", y + 2, x + 2)))
    assert (found[3].x, found[3].y) == (box.x + SIDE / 2, box.bottom)
    document.undo()
    assert len(things(document, layer)) == 3


def test_a_preview_of_a_move_shows_things_where_they_come_to_lie():
    document, layer = furnished()
    ground = document.project.grounds[0]
    shape = boxed(ground.board, (6.5, 7.5), (7.5, 8.5))
    move = Move(document.project, ground, document.state.planes["ground"], ["things", layer], shape)
    after = as_props(move.ground_after((1, 3)).layer(layer))
    before = as_props(ground.layer(layer))
    moved = [(b.x - a.x, b.y - a.y) for a, b in zip(before.things, after.things, strict=True)]
    assert moved == [(3 * SIDE, SIDE), (3 * SIDE, SIDE), (0, 0)]
    only = Move(document.project, ground, document.state.planes["ground"], ["things"], shape)
    assert only.ground_after((1, 3)) is ground


@pytest.mark.parametrize("orientation", range(8))
def test_turned_blocks_carry_things_to_the_turned_cell(orientation):
    document, layer = furnished()
    block, _ = lifted(document, layer)
    # A tile in the cell of the sprite shows where that cell comes to lie.
    poke(document, "things", "cells", np.s_[6, 7], document.palette.code(tile(3, 3)))
    block, _ = lifted(document, layer)
    made = turned(block, orientation)
    ((_, values, _),) = [piece.planes["cells"] for piece in made.pieces if piece.layer == "things"]
    ((row, column),) = np.argwhere(values > 0).tolist()
    hive = made.things[0]
    assert (int(hive.down), int(hive.across)) == (row, column)
    assert hive.thing.mirrored == bool(orientation & 4)
    assert hive.thing.turn == 0
    line = Thing("n", 60.0, 52.0, "line", points=(Corner(0, 0), Corner(5, 0)))
    place(document, "ground", layer, [line])
    block, _ = lifted(document, layer)
    assert turned(block, orientation).things[-1].thing.turn == 90.0 * (orientation & 3)


def test_things_survive_clipboard_and_tray_and_another_project_takes_them():
    document, layer = furnished()
    block, _ = lifted(document, layer)
    text = as_text(block, document.palette)
    again = from_text(text, document.palette, ["art"])
    assert again.things == block.things
    other = make_document()
    there = add_layer(other, "ground", "Else", kind="props")
    lay_block(other, "ground", from_text(text, other.palette, ["art"]), (2, 3))
    found = list(things(other, there).values())
    assert [(one.name, one.kind) for one in found] == [("hive", ""), ("door", "")]
    swatch_id = keep_block(document, block, "corner")
    swatch = document.project.swatches[0]
    assert swatch.id == swatch_id
    assert tile(1, 1) in swatch.tiles
    assert block_on(document, swatch).things == block.things
    picture = swatch_picture(Derived(document), swatch)
    assert picture is not None
    assert picture[:SIDE, :SIDE, 3].any()
    document.define("merge", moved_in(document.project, {tile(1, 1): (tile(9, 3), 0)}))
    assert document.project.swatches[0].clip.things[0].thing.tile == tile(9, 3)


def test_cells_of_another_size_carry_things_to_the_same_cells():
    document, layer = furnished()
    block, _ = lifted(document, layer)
    large = add_ground(document, "Large", 9, 9, (2 * SIDE, 3 * SIDE))
    ground = document.project.grounds[-1]
    assert things_laid(ground, block.things, (2, 3)) == {}
    there = add_layer(document, large, "Props", kind="props")
    hive, door = things_laid(document.project.grounds[-1], block.things, (2, 3))[there]
    assert (hive.x, hive.y) == (3.5 * 2 * SIDE, 3 * 3 * SIDE)
    assert (door.x, door.y) == (4.5 * 2 * SIDE, 3.5 * 3 * SIDE)
    change_layer(document, large, there, "lock", locked=True)
    assert things_laid(document.project.grounds[-1], block.things, (2, 3)) == {}
