"""Groups of tiles off the grid of all others: grids of their own, and no loose pieces."""

import numpy as np
import pytest

from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.grids_among import with_grids_among
from knitground.core.sheet.parts import look_over
from making import sheet_of_tiles, things_below

MAIN = Cut("", 20, 20, spacing_x=2, spacing_y=2, region=Rect(0, 0, 108, 64))


def loose(*pieces: Rect) -> Cut:
    return Cut("", 20, 20, region=Rect(0, 80, 200, 120), pieces=pieces, gap=1, anchor="bottom")


def block(left: int, top: int, columns: int, rows: int, side: int = 20, step: int = 22) -> list[Rect]:
    return [Rect(left + x * step, top + y * step, side, side) for y in range(rows) for x in range(columns)]


TREE, BUSH = Rect(10, 160, 31, 38), Rect(60, 170, 20, 20)


def test_a_block_of_pieces_as_large_and_as_far_apart_as_tiles_is_a_grid():
    ragged = block(3, 80, 3, 2)[:-1]
    grid, other, ragged_one, rest = with_grids_among([MAIN, loose(*ragged, *block(90, 85, 2, 1), TREE, BUSH)])
    assert grid == MAIN
    assert (other.region, ragged_one.region) == (Rect(3, 80, 64, 42), Rect(90, 85, 42, 20))
    assert {other.pitch_x, other.pitch_y, ragged_one.pitch_x, ragged_one.tile_height} == {22, 20}
    assert not other.pieces
    assert rest.pieces == (TREE, BUSH)
    assert rest.region == Rect(10, 160, 70, 38)


@pytest.mark.parametrize(
    "pieces",
    [
        [TREE, BUSH],
        block(3, 80, 3, 2, side=19),
        block(3, 80, 3, 2, step=24),
        [*block(3, 80, 2, 2), Rect(20, 95, 8, 8)],  # something lies over two of them
        [*block(30, 100, 2, 2), TREE, Rect(10, 90, 12, 9)],  # the others lie all round
    ],
)
def test_what_may_be_no_tiles_or_cannot_be_parted_stays_loose(pieces):
    parts = [MAIN, loose(*pieces)]
    assert with_grids_among(parts) == parts


def test_where_all_pieces_are_tiles_none_is_left():
    assert [part.region for part in with_grids_among([MAIN, loose(*block(3, 80, 3, 2))])] == [
        MAIN.region, Rect(3, 80, 64, 42),
    ]  # fmt: skip


def test_two_tiles_off_the_main_grid_above_things_are_a_grid_on_a_sheet():
    ground = sheet_of_tiles(9, 4, 20, spacing=2, seed=3)
    picture, things = things_below(ground, (0, 0, 0, 0), seed=2)
    group, top = sheet_of_tiles(1, 2, 20, spacing=2, seed=4), len(ground)
    sheet = np.zeros((len(picture) + len(group) + 12, picture.shape[1], 4), np.uint8)
    sheet[:top] = picture[:top]
    sheet[top + 6 : top + 6 + len(group), 9:29] = group
    sheet[top + 12 + len(group) :] = picture[top:]
    parts = look_over(sheet).parts
    grids = [part for part in parts if not part.pieces]
    assert [part.region for part in grids] == [Rect(0, 0, 196, 86), Rect(9, 92, 20, 42)]
    assert {(part.tile_width, part.pitch_x) for part in grids} == {(20, 22)}
    assert sum(len(part.pieces) for part in parts) == len(things)
