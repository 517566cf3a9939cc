"""Forms of areas, fills of all that is alike, and scattering."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from knitground.core.edits.forms import FORMS, held_straight
from knitground.core.edits.painting import Hand, area, fill, held, stroke
from knitground.core.grid import GRIDS
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import swept_disc_mask
from making import make_document, plane_of, poke, tile

WIDE = 9
places = st.tuples(st.integers(-30, 60), st.integers(-30, 60))


def covered(name: str, start, end, radius: int, within: CellRect):
    """What a form covers; of a line what the brush does on its way."""
    covers = FORMS[name].covers
    return swept_disc_mask(start, end, radius, within) if covers is None else covers(start, end, radius, within)


@given(start=places, end=places, radius=st.integers(0, 3), name=st.sampled_from(list(FORMS)))
def test_a_form_lies_between_its_places_and_is_whole(start, end, radius, name):
    within = CellRect(-100, -100, 300, 300)
    rect, mask = covered(name, start, end, radius, within)
    assert mask.shape == (rect.height, rect.width)
    assert mask.any()
    ys, xs = np.nonzero(mask)
    grown = radius if name == "line" else 0
    for rows, axis in ((ys + rect.top, 0), (xs + rect.left, 1)):
        assert rows.min() >= min(start[axis], end[axis]) - grown
        assert rows.max() <= max(start[axis], end[axis]) + grown
    if name in ("box", "round"):
        assert ndimage.label(mask)[1] == 1
    if name in ("frame", "ring"):
        solid = covered("box" if name == "frame" else "round", start, end, radius, within)[1]
        assert (mask <= solid).all()
        holes = ndimage.label(solid & ~mask, np.ones((3, 3)))[1]
        assert holes <= 1


@given(start=places, end=places)
def test_a_held_line_is_level_upright_or_slanted_evenly(start, end):
    down, across = np.subtract(held_straight(start, end), start)
    assert down == 0 or across == 0 or abs(down) == abs(across)


@pytest.mark.parametrize("grid", list(GRIDS))
def test_held_areas_are_squares_on_every_grid(grid):
    document = make_document(grid=grid)
    ground = document.project.grounds[0]
    board, layer, hand = ground.board, ground.layer("things"), Hand(tile(3, 3))
    start, end = board.flat("cells", 4, 4), board.flat("cells", 6, 11) if board.in_rows else board.flat("cells", 4, 4)
    if not board.in_rows:
        end = end[0] + 2, end[1] + 7
    y, x = held(board, layer, hand, (start[0] + 0.5, start[1] + 0.5), (end[0] + 0.5, end[1] + 0.5))
    last = board.stored("cells", int(y // 1), int(x // 1)) if board.in_rows else (int(y // 1), int(x // 1))
    first = (4, 4) if board.in_rows else start
    assert (last[0] - first[0], last[1] - first[1]) == (7, 7)


@pytest.mark.parametrize("name", list(FORMS))
def test_each_form_is_laid_as_one_step_and_taken_back(name):
    document = make_document()
    area(document, "ground", "things", Hand(tile(3, 3), form=name, radius=0), (2.5, 3.5), (2.5 + WIDE, 3.5 + WIDE))
    laid = plane_of(document, "things", "cells") > 0
    assert laid.any()
    assert laid[7, 8] == (name in ("box", "round", "line"))
    assert laid[2, 3] == (name in ("box", "frame", "line"))
    document.undo()
    assert not plane_of(document, "things", "cells").any()


def test_a_fill_of_all_that_is_alike_exchanges_a_tile_wherever_it_lies():
    document = make_document()
    one, other, third = (document.palette.code(tile(n, 3)) for n in (2, 3, 5))
    poke(document, "things", "cells", np.s_[1:3, 1:3], one)
    poke(document, "things", "cells", np.s_[9, 12], one)
    poke(document, "things", "cells", np.s_[5, 5], other)
    hand = Hand(tile(5, 3), alike=True)
    fill(document, "ground", "things", hand, (1.5, 1.5))
    cells = plane_of(document, "things", "cells")
    assert not (cells == one).any()
    assert (cells == third).sum() == 5
    assert cells[5, 5] == other
    fill(document, "ground", "things", replace(hand, alike=False), (9.5, 12.5), erase=True)
    assert plane_of(document, "things", "cells")[9, 12] == 0
    assert (plane_of(document, "things", "cells") == third).sum() == 4


def test_scattering_lays_its_share_and_the_same_on_the_same_throw():
    document = make_document(200, 100)
    hand = Hand(tile(3, 3), radius=80, density=0.2)
    laid = []
    for throw in (1, 1, 2):
        document.begin("scatter")
        stroke(document, "ground", "things", replace(hand, throw=throw), (50, 100), (50, 100))
        document.commit()
        laid.append(plane_of(document, "things", "cells") > 0)
        document.undo()
    assert (laid[0] == laid[1]).all()
    assert (laid[0] != laid[2]).any()
    ys, xs = np.mgrid[0:100, 0:200]
    inside = np.hypot(ys - 50, xs - 100) < 79
    assert 0.17 < laid[0][inside].mean() < 0.23
    assert not laid[0][~(np.hypot(ys - 50, xs - 100) <= 81.5)].any()
