"""Sheets that come out of formats which keep colours only nearly."""

import io

import numpy as np
import pytest
from PIL import Image

from knitground.core.edits.cuts import guess_in, set_clearing, with_key
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.gutters import gutter_key
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.settled import settled, tolerance_of
from making import add_sheet, png

KEY = (250, 90, 200, 255)
SIDE, APART, MARGIN = 20, 3, 7


def shells(margin: int = MARGIN, apart: int = APART) -> np.ndarray:
    """A sheet of 8 x 5 rounds of two colours, some of them whole tiles, on a key colour."""
    random, pitch = np.random.default_rng(3), SIDE + apart
    sheet = np.empty((2 * margin + 5 * pitch - apart, 2 * margin + 8 * pitch - apart, 4), np.uint8)
    sheet[:] = KEY
    ys, xs = np.mgrid[:SIDE, :SIDE] - (SIDE - 1) / 2
    for row in range(5):
        for column in range(8):
            part = sheet[margin + row * pitch :, margin + column * pitch :][:SIDE, :SIDE]
            within = np.hypot(ys, xs) < random.uniform(8, 18)
            part[within] = (*random.integers(20, 120, 3), 255)
            part[within & (ys > 2)] = (230, 220, 190, 255)
    return sheet


def kept(sheet: np.ndarray, kind: str, quality: int) -> np.ndarray:
    """A sheet as it is read again from a file of some kind."""
    out = io.BytesIO()
    Image.fromarray(sheet if kind == "WEBP" else sheet[..., :3]).save(out, kind, quality=quality)
    return np.array(Image.open(out).convert("RGBA"))


@pytest.mark.parametrize(("kind", "quality"), [("WEBP", 90), ("WEBP", 75), ("JPEG", 92), ("JPEG", 85)])
def test_the_cut_is_found_though_colours_were_kept_only_nearly(kind, quality):
    guess = look_over(kept(shells(), kind, quality)).guesses[0]
    assert (guess.tile_width, guess.tile_height, guess.margin_x, guess.margin_y) == (SIDE, SIDE, MARGIN, MARGIN)
    assert (guess.spacing_x, guess.spacing_y) == (APART, APART)


@pytest.mark.parametrize("clear", [False, True])
def test_colours_that_were_kept_are_left_alone(clear):
    sheet = shells()
    if clear:
        sheet[(sheet == KEY).all(axis=-1)] = 0
    assert settled(sheet) is sheet
    assert tolerance_of(sheet, "#fa5ac8") == 0


def test_the_ground_is_of_one_colour_again_and_art_is_not_of_it():
    sheet, art = kept(shells(), "WEBP", 85), (shells() != KEY).any(axis=-1)
    found = settled(sheet)
    ground = (found == found[0, 0]).all(axis=-1)
    assert ground[~art].mean() > 0.97
    assert ground[art].mean() < 0.03


def test_a_key_colour_is_cleared_with_what_is_near_it():
    sheet = kept(shells(), "WEBP", 85)
    cut = Cut("tiles", SIDE, SIDE, MARGIN, MARGIN, APART, APART)
    key = gutter_key(sheet, [cut])
    assert key is not None
    document = Document()
    name = add_sheet(document, "shells.png", png(sheet))
    keyed, sentence = with_key(document.project.sheets[0], sheet, key)
    assert sentence == f"{key} is transparent now.", "tiles end at straight borders"
    set_clearing(document, name, keyed.clearing)
    one = document.project.sheets[0]
    clear = document.state.pictures[name].cleared(one)[..., 3] == 0
    art = (shells() != KEY).any(axis=-1)
    assert clear[~art].mean() > 0.9
    assert clear[art].mean() < 0.05
    best, _, _ = guess_in(sheet, one, one.cuts[0]).cuts[0]
    assert (best.tile_width, best.margin_x, best.spacing_x) == (SIDE, MARGIN, APART), "what is left of it hides nothing"
    document.undo()
    assert (document.project.sheets[0].keys, document.project.sheets[0].tolerance) == ((), 0)
