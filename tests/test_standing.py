"""How tiles of other sizes stand on their cells: several at once, and by where their foot is."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.standing import by_foot, cuts_of, move_standing, stand, stand_by_foot
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut, stands_at
from knitground.core.tiles.tile import TileRef
from making import DEMO, make_document, tile

PANE, PALM = TileRef("glasshouse", "parts", 3, 0), TileRef("yard", "pieces", 1, 0)


def figure(width: int, height: int, left: int, foot: int, clear: int, tall: int = 3) -> np.ndarray:
    """A wide crown over a foot of so many pixels that begins at `left`, with clear rows below."""
    art = np.zeros((height, width, 4), np.uint8)
    art[: height - clear - tall, :] = 255
    art[height - clear - tall : height - clear, left : left + foot] = 255
    art[height - clear :, :, :3] = 9
    return art


@given(
    width=st.integers(4, 40), height=st.integers(12, 60), data=st.data(),
    cell=st.tuples(st.integers(4, 48), st.integers(4, 48)), clear=st.integers(0, 5),
)  # fmt: skip
def test_the_middle_of_the_foot_comes_to_the_middle_of_the_cell_and_its_lowest_row_to_the_border(
    width, height, data, cell, clear
):
    foot = data.draw(st.integers(1, width))
    left = data.draw(st.integers(0, width - foot))
    art = figure(width, height, left, foot, clear)
    offset = by_foot(art, cell, "box")
    assert offset is not None
    x, y = stands_at(Cut("c", 8, 8, anchor="bottom", offset_x=offset[0], offset_y=offset[1]), (width, height), cell)
    assert y + height - clear == cell[1]
    # The rows just above the foot count to it where a tile is tall.
    if height - clear < 24:
        assert abs(x + left + foot / 2 - cell[0] / 2) <= 1


def test_what_is_narrow_stands_inside_a_diamond_and_what_is_wide_fills_it():
    cell = 32, 16
    assert by_foot(figure(32, 48, 12, 8, 0, tall=20), cell, "diamond") == (0, -4)
    assert by_foot(figure(32, 48, 0, 32, 0), cell, "diamond") == (0, 0)
    # A block whose lower end is the corner of a diamond.
    block = np.zeros((32, 32, 4), np.uint8)
    for row in range(16):
        block[16 + row, row : 32 - row] = 255
    block[:16] = 255
    assert by_foot(block, cell, "diamond") == (0, 0)
    assert by_foot(np.zeros((9, 9, 4), np.uint8), (8, 8), "box") is None


@pytest.mark.parametrize("mirrored", [False, True])
def test_what_lies_on_the_ground_stands_by_its_middle_and_what_hangs_over_it_by_its_foot(mirrored: bool):
    cell, wide = (64, 32), 40
    down, across = np.mgrid[:36, :wide]
    lying = (down >= 6) & (down < 30 - across * 0.4)  # a beam that goes away to the right, on a block at its near end
    lying |= (across < 8) & (down >= 20)
    flag = (across < 3) | (down < 14)
    for solid, middle in ((lying, wide / 2), (flag, 1.5)):
        art = np.repeat(np.where(solid, 255, 0).astype(np.uint8)[..., None], 4, axis=2)
        x, _ = by_foot(art[:, ::-1] if mirrored else art, cell, "diamond") or (0, 0)
        stands = (cell[0] - wide) // 2 + x + (wide - middle if mirrored else middle)
        assert abs(stands - cell[0] / 2) <= 1


def test_several_cuts_are_changed_as_one_step():
    document = Document.load(DEMO)
    refs = [PANE, PALM, PALM, PALM._replace(column=2), TileRef("gone", "gone", 0, 0)]
    cuts = cuts_of(document, refs)
    assert cuts == [("glasshouse", "parts"), ("yard", "pieces")]
    before = document.project
    stand(document, cuts, anchor="top", offset_x=3)
    move_standing(document, cuts, 2, -5)
    changed = [document.project.cuts[one] for one in cuts]
    assert [(cut.anchor, cut.offset_x, cut.offset_y) for cut in changed] == [("top", 5, -5)] * 2
    document.undo()
    document.undo()
    assert document.project == before
    move_standing(document, cuts, 10**6, 0)
    assert document.project.cuts[cuts[0]].offset_x == 4096


def test_art_without_a_foot_is_told():
    document = make_document()
    with pytest.raises(BadRequest, match="shows anything"):
        stand_by_foot(Derived(document), [tile(40, 40)], (8, 8), "box")
    stand_by_foot(Derived(document), [tile(0, 0), tile(1, 0)], (8, 8), "box")
    assert document.project.sheets[0].cuts[0].anchor == "bottom"
