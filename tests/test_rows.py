"""Layers as CSV: out, edited as a table, and in again."""

import csv
import io

import numpy as np
import pytest

from knitground.core.edits.layers import add_layer
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.edits.rows import paint_rows, rows_of
from knitground.core.errors import BadRequest
from making import CORNERED, make_document, plane_of, tile


def painted(grid: str):
    document = make_document(grid=grid)
    y, x = document.project.grounds[0].board.flat("cells", 7, 9)
    area(document, "ground", "areas", Hand(terrain=2), (y - 2, x - 2), (y + 1, x + 1))
    area(document, "ground", "walls", Hand(terrain=1), (y - 2, x - 2), (y + 1, x + 1))
    stroke(document, "ground", "things", Hand(tile(3, 3), orientation=5, radius=1), (y, x), (y, x))
    return document


@pytest.mark.parametrize("grid", CORNERED)
@pytest.mark.parametrize(("layer", "plane"), [("areas", "corners"), ("walls", "plan"), ("things", "cells")])
def test_what_is_written_paints_the_same_again(grid, layer, plane):
    document = painted(grid)
    before = plane_of(document, layer, plane).copy()
    text = rows_of(document, "ground", layer)
    lines = list(csv.reader(io.StringIO(text)))
    assert (len(lines), len(lines[0])) == before.shape
    assert paint_rows(document, "ground", layer, text) == 0
    height, width = before.shape
    empty = "\n".join([",".join([""] * width)] * height)
    assert paint_rows(document, "ground", layer, empty) == (before != 0).sum()
    assert not plane_of(document, layer, plane).any()
    assert paint_rows(document, "ground", layer, text) == (before != 0).sum()
    assert np.array_equal(plane_of(document, layer, plane), before)


def test_numbers_and_names_in_any_case_are_taken_and_it_is_one_step():
    document = make_document()
    terrain = document.project.join_sets[0].terrains[1].name
    words = [["1"] * 21 for _ in range(16)]
    words[3][4], words[5][6], words[7][8] = "2", terrain.upper(), "-1"
    paint_rows(document, "ground", "areas", "\n".join(map(",".join, words)))
    corners = plane_of(document, "areas", "corners")
    assert (corners[3, 4], corners[5, 6], corners[7, 8], corners[0, 0]) == (2, 2, 0, 1)
    assert document.undo() == "paint from rows"


@pytest.mark.parametrize(
    ("layer", "change", "says"),
    [
        ("things", lambda lines: lines[:-1], "14 rows"),
        ("things", lambda lines: [lines[0] + ",", *lines[1:]], "15 rows of up to 21"),
        ("things", lambda lines: ["mud" + lines[0], *lines[1:]], "names the tile"),
        ("things", lambda lines: ["7" + lines[0], *lines[1:]], "names the tile"),
        ("things", lambda lines: ['"' + lines[0], *lines[1:]], "no CSV"),
        ("walls", lambda lines: ["Mud" + lines[0], *lines[1:]], "has no “Mud”"),
        ("walls", lambda lines: ["99" + lines[0], *lines[1:]], "has no “99”"),
        ("lines", lambda lines: lines, "runs along edges"),
    ],
)
def test_what_does_not_fit_is_told_and_nothing_is_painted(layer, change, says):
    document = make_document()
    before = document.state
    lines = [",".join([""] * 20)] * 15
    with pytest.raises(BadRequest, match=says):
        paint_rows(document, "ground", layer, "\n".join(change(lines)))
    assert document.state is before


def test_things_are_in_no_rows():
    document = make_document()
    props = add_layer(document, "ground", "Props", kind="props")
    for act in (lambda: rows_of(document, "ground", props), lambda: paint_rows(document, "ground", props, "")):
        with pytest.raises(BadRequest, match="holds things"):
            act()
