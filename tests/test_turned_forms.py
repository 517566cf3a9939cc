"""Blocks that are turned use the tiles that were drawn for the other way, where a sheet has them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.blocks import Block, lift, turned
from knitground.core.edits.turned_forms import TurnedForms
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.joins.turning import turned_labels
from knitground.core.project.derived import Derived
from knitground.core.project.model import Picture
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, orient
from making import SIDE, make_document, png, poke, tile


def lifted(document, codes: np.ndarray) -> Block:
    """A block of single tiles."""
    poke(document, "things", "cells", np.s_[2 : 2 + codes.shape[0], 2 : 2 + codes.shape[1]], codes)
    ground = document.project.grounds[0]
    shape = Shape(CellRect(2, 2, *codes.shape), np.ones(codes.shape, dtype=bool))
    return lift(ground, document.state.planes[ground.id], ["things"], shape)[0]


def codes_of(block: Block) -> np.ndarray:
    return block.pieces[0].planes["cells"][1]


@given(places=st.lists(st.integers(0, 15), min_size=6, max_size=6), orientation=st.integers(0, 7))
def test_labelled_tiles_are_exchanged_for_those_whose_labels_are_turned(places, orientation):
    document = make_document(12, 12)
    labels = document.project.join_sets[0].labels
    before = np.array([document.palette.code(tile(n, 0)) for n in places]).reshape(2, 3)
    block = lifted(document, before)
    found = codes_of(turned(block, orientation, TurnedForms(Derived(document))))
    plain = codes_of(turned(block, orientation))
    assert not (found >> ORIENTATION_SHIFT).any()
    for new, old in zip(found.ravel().tolist(), plain.ravel().tolist(), strict=True):
        was = labels[document.palette.ref(old & NUMBER_MASK)]
        assert labels[document.palette.ref(new)] == turned_labels(was, "corner", orientation)


def test_variants_keep_forms_of_their_own_and_turning_on_comes_back():
    document = make_document(12, 12)
    areas = document.project.join_sets[0]
    twice = {tile(n, 3): row for n, row in enumerate(areas.labels.values())}
    varied = replace(areas, labels={**areas.labels, **twice})
    document.define("variants", replace(document.project, join_sets=(varied,)))
    block = lifted(document, np.array([[document.palette.code(tile(1, 0)), document.palette.code(tile(1, 3))]]))
    forms = TurnedForms(Derived(document))
    quarter = turned(block, 1, forms)
    rows = [document.palette.ref(code).row for code in codes_of(quarter).ravel().tolist()]
    assert rows == [0, 3]
    for _ in range(3):
        quarter = turned(quarter, 1, forms)
    assert np.array_equal(codes_of(quarter), codes_of(block))


@pytest.mark.parametrize("orientation", [1, 2, 4, 7])
def test_tiles_without_labels_are_exchanged_for_those_that_were_drawn_turned(orientation):
    document = make_document(12, 12)
    pixels = document.state.pictures["art"].pixels.copy()
    first = pixels[3 * SIDE : 4 * SIDE, :SIDE].copy()
    pixels[3 * SIDE : 4 * SIDE, SIDE : 2 * SIDE] = orient(first, orientation)
    document.redrawn(document.project.sheets[0], Picture(png(pixels), pixels))
    block = lifted(document, np.array([[document.palette.code(tile(0, 3)), document.palette.code(tile(5, 3)), 0]]))
    found = codes_of(turned(block, orientation, TurnedForms(Derived(document))))
    assert sorted(found.ravel().tolist()) == sorted(
        [0, document.palette.code(tile(1, 3)), document.palette.code(tile(5, 3), orientation)]
    )
    gone = document.palette.code(tile(40, 40))
    lost = lifted(document, np.array([[gone]]))
    assert codes_of(turned(lost, 1, TurnedForms(Derived(document)))).ravel().tolist() == [
        document.palette.code(tile(40, 40), 1)
    ]
