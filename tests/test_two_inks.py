"""Guessing the numbers of sheets in two inks, whose first tile may be filled with the ink itself."""

import numpy as np
import pytest

from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.profile import art_of

INK, PAPER, ACCENT = (236, 226, 190, 255), (16, 14, 30, 255), (200, 60, 60, 255)


def sheet_in_ink(side: int, spacing: int, paper: tuple[int, ...], accents: float = 0.0) -> np.ndarray:
    """A solid tile first, some half filled ones, then creatures that are drawn at random, the same left and right."""
    random = np.random.default_rng([side, spacing])
    rows, columns, pitch = 8, 12, side + spacing
    inked = np.zeros((rows * pitch - spacing, columns * pitch - spacing), bool)
    for row, column in np.ndindex(rows, columns):
        tile = np.zeros((side, side), bool)
        if row == 0:
            tile[: side // (1 + column % 3)] = True
        elif random.random() < 0.85:
            wide, high = (int(random.integers(side // 2, side)) for _ in range(2))
            half = random.random((high, -(-wide // 2))) < 0.5
            left = (side - wide) // 2
            tile[side - high :, left : left + wide] = np.concatenate([half, half[:, ::-1][:, wide % 2 :]], axis=1)
        inked[row * pitch : row * pitch + side, column * pitch : column * pitch + side] = tile
    sheet = np.where(inked[..., None], INK, paper).astype(np.uint8)
    sheet[inked & (random.random(inked.shape) < accents)] = ACCENT
    return sheet


@pytest.mark.parametrize("accents", [0.0, 0.02])
@pytest.mark.parametrize("paper", [PAPER, (0, 0, 0, 0)])
@pytest.mark.parametrize(("side", "spacing"), [(16, 0), (12, 0), (16, 1), (10, 2)])
def test_the_ink_of_the_first_tile_is_no_ground(side, spacing, paper, accents):
    sheet = sheet_in_ink(side, spacing, paper, accents)
    assert art_of(sheet.astype(np.int16))[0, 0]
    best = guess_cuts(sheet)[0]
    assert (best.tile_width, best.tile_height, best.spacing_x, best.spacing_y) == (side, side, spacing, spacing)


def test_a_second_ground_on_which_little_lies_is_one_still():
    sheet = np.zeros((96, 192, 4), np.uint8)
    sheet[:, :96] = PAPER
    sheet[:, 96:] = (60, 90, 60, 255)
    sheet[8:80:2, 8:180:6] = INK
    art = art_of(sheet.astype(np.int16))
    assert (art == (sheet == INK).all(axis=2)).all()
