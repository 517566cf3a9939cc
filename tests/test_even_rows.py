"""Icons and coins that lie a pixel apart in even rows: each is a loose piece, and what only hangs together is one."""

import sys
from functools import reduce
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.project.collecting import laid_out
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.parts import look_over, may_be_things
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.pieces import find_pieces
from making import png

sys.path.append(str(Path(__file__).resolve().parents[1] / "bench"))
from coin_sheets import case, cuts_of, whole


def drawn(*boxes: Rect, size: tuple[int, int] = (120, 160)) -> np.ndarray:
    """Boxes of one colour on nothing."""
    picture = np.zeros((*size, 4), np.uint8)
    for box in boxes:
        picture[box.slices()] = (200, 160, 40, 255)
    return picture


def block(columns: int, rows: int, wide: int, high: int, left: int = 5, top: int = 7) -> list[Rect]:
    """Boxes in even rows, a pixel apart."""
    return [
        Rect(left + column * (wide + 1), top + row * (high + 1), wide, high)
        for row in range(rows)
        for column in range(columns)
    ]


@given(columns=st.integers(1, 7), rows=st.integers(1, 5), wide=st.integers(6, 14), high=st.integers(6, 14))
def test_of_a_block_of_four_and_more_each_is_a_piece(columns, rows, wide, high):
    boxes = block(columns, rows, wide, high)
    if len(boxes) >= 4:
        assert find_pieces(drawn(*boxes), gap=1) == boxes
        # Whoever asks for more than a pixel wants them together.
        assert len(find_pieces(drawn(*boxes), gap=2)) == 1


def test_a_block_with_some_places_empty_is_still_one_of_icons_and_with_most_of_them_it_is_not():
    boxes = block(4, 3, 9, 9)
    assert find_pieces(drawn(*boxes[:-2]), gap=1) == boxes[:-2]
    along_two_sides = [*boxes[:4], *boxes[4::4]]
    assert len(find_pieces(drawn(*along_two_sides), gap=1)) == 1


@pytest.mark.parametrize("as_one", [False, True])
def test_a_sheet_that_is_drawn_anew_keeps_its_pieces_as_they_were_cut(as_one):
    boxes = block(3, 2, 9, 9)
    pieces = (reduce(Rect.with_other, boxes),) if as_one else tuple(boxes)
    sheet = Sheet("coins", "coins.png", cuts=(Cut("loose", 9, 9, pieces=pieces, gap=1),))
    moved = [box._replace(x=box.x + 3) for box in boxes]
    found = laid_out(sheet, Picture.decode(png(drawn(*moved)), "coins.png")).cuts[0].pieces
    assert found == tuple(piece._replace(x=piece.x + 3) for piece in pieces)


@pytest.mark.parametrize(
    "parts",
    [
        [Rect(10, 10, 8, 8), Rect(10, 19, 8, 20)],  # a head above a body
        block(9, 2, 4, 5),  # letters
        [Rect(10, 10 + row * 5, 30, 4) for row in range(6)],  # the rungs of a ladder
        [*block(3, 1, 8, 8), Rect(32, 7, 20, 8)],  # three of a size, and another
    ],
)
def test_what_lies_a_pixel_apart_otherwise_is_one_thing(parts):
    assert len(find_pieces(drawn(*parts), gap=1)) == 1


def test_a_sheet_that_is_cut_far_too_large_for_all_its_things_may_be_loose_pieces():
    sheet, icons, things = case(13)
    (guess, *_), parts = look_over(sheet)
    assert not parts
    assert guess.confidence > 0.6
    assert may_be_things(sheet, guess)
    assert whole(sheet[..., 3] > 0, [*icons, *things], cuts_of(sheet)) > 0.8 * len([*icons, *things])


def test_most_icons_among_loose_things_are_tiles_of_their_own():
    told = np.zeros(2, np.int64)
    for seed in (60, 64, 67, 69, 71):
        sheet, icons, _ = case(seed)
        told += whole(sheet[..., 3] > 0, icons, cuts_of(sheet)), len(icons)
    assert told[0] > 0.7 * told[1]


def test_things_that_lie_anyhow_are_no_grid_because_blocks_of_icons_part_the_sheet():
    found = of = 0
    for seed in (39325, 39331, 39332, 39336):
        sheet, icons, things = case(seed)
        places, cuts = icons + things, cuts_of(sheet)
        assert not [cut for cut in cuts if not cut.pieces and max(cut.tile_width, cut.tile_height) > 40]
        found += whole(sheet[..., 3] > 0, places, cuts)
        of += len(places)
    assert found > of * 0.6
