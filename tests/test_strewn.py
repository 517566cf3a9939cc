"""Things on the plain ground of a set: a few are variants of it, many are letters, tools and creatures."""

from itertools import product

import numpy as np
import pytest

from knitground.core.joins.find import find_sets

SIDE, PAPER, INK = 8, (22, 28, 60, 255), (236, 226, 196, 255)


def inked_sheet(away: int, beside: int = 0) -> np.ndarray:
    """Sixteen tiles of coast in two inks, some marks in the column beside them and others rows below."""
    random = np.random.Generator(np.random.PCG64(12))
    sheet = np.full((11, 10, SIDE, SIDE, 4), PAPER, np.uint8)
    sheet[..., 3] = 0
    down, across = np.mgrid[:SIDE, :SIDE] // (SIDE // 2)
    for number, labels in enumerate(product((0, 1), repeat=4)):
        inside = np.array([[labels[0], labels[1]], [labels[3], labels[2]]])[down, across].astype(bool)
        sheet[divmod(number, 4)] = np.where(inside[..., None], INK, PAPER)
    places = [(row, 4) for row in range(beside)] + [(7 + n // 10, n % 10) for n in range(away)]
    for place in places:
        tile = np.full((SIDE, SIDE, 4), PAPER, np.uint8)
        for corner in product((1, 4), repeat=2):  # a pixel in each quarter; hardly two tiles have the same
            tile[tuple(corner + random.integers(0, 3, 2))] = INK
        sheet[place] = tile
    return sheet


def taken_of(sheet: np.ndarray) -> set[tuple[int, int]]:
    (found,) = find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    return {(row, column) for column, row in found.cells.tolist()}


@pytest.mark.parametrize(("away", "beside"), [(4, 0), (20, 0), (20, 3), (0, 4)])
def test_things_on_plain_ground_are_variants_where_they_are_few_or_lie_beside_the_set(away: int, beside: int):
    taken = taken_of(inked_sheet(away, beside))
    assert {(row, column) for row in range(4) for column in range(4)} <= taken
    assert {(row, 4) for row in range(beside)} <= taken
    assert sum(row >= 7 for row, _ in taken) == (away if away < 9 else 0)


def test_what_is_plainer_than_the_plain_tile_of_a_set_is_no_thing_on_it():
    sheet = inked_sheet(20)
    sheet[0, 0, 3:5, 3:5] = INK
    sheet[10, 4] = PAPER
    taken = taken_of(sheet)
    assert (10, 4) in taken
    assert len(taken) <= 18, "a mark may be much like its dot"
