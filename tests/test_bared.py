"""Sheets that only seem not to be clear: a haze, a frame, glows in the gutters, a ground that is not of one colour."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from knitground.core.edits.clear_offers import clear_offer
from knitground.core.edits.cuts import cut_of_part, set_clearing
from knitground.core.project.document import Document
from knitground.core.sheet.bared import HAZE, bared, is_hazy, without_glow
from knitground.core.sheet.cut import Rect
from knitground.core.sheet.keys import key_on
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.pieces import find_pieces
from knitground.core.sheet.slices import Slices
from knitground.core.sheet.uneven import without_uneven_ground
from making import add_sheet, png
from test_checkered import clear_shells
from test_settled import APART, MARGIN, SIDE, shells


def hazy_shells(share: float = 0.4) -> np.ndarray:
    """The rounds on nothing but what can't be seen."""
    random, sheet = np.random.default_rng(4), clear_shells()
    hazy = (sheet[..., 3] == 0) & (random.random(sheet.shape[:2]) < share)
    sheet[hazy] = random.integers(0, 256, (hazy.sum(), 4))
    sheet[hazy, 3] = random.integers(1, HAZE + 1, hazy.sum())
    return sheet


def glowing_shells() -> np.ndarray:
    """The rounds with a soft shadow round each, which fills the gutters."""
    sheet = clear_shells().astype(float)
    alpha = sheet[..., 3] / 255
    shade = np.clip(ndimage.gaussian_filter(alpha, 2) * 1.2, 0, 0.7) * (1 - alpha)
    sheet[..., 3] = np.rint((alpha + shade) * 255)
    return sheet.astype(np.uint8)


def shells_on(ground: np.ndarray) -> np.ndarray:
    """The rounds on a ground, (H, W, 3)."""
    sheet = clear_shells()
    return np.dstack([np.where(sheet[..., 3:] > 0, sheet[..., :3], ground), np.full(sheet.shape[:2], 255)]).astype(
        np.uint8
    )


def growing(seed: int, steep: float) -> np.ndarray:
    """A ground that is lighter at one end."""
    height, width = shells().shape[:2]
    y, x = np.mgrid[:height, :width]
    way = np.random.default_rng(seed).uniform(-1, 1, 2)
    slope = (way[0] * y / height + way[1] * x / width)[..., None]
    return np.clip(np.array([150, 120, 190]) + steep * slope, 0, 255)


def is_right(sheet: np.ndarray) -> bool:
    """Whether the first guess is that of the rounds."""
    guess, parts = look_over(sheet).guesses[0], look_over(sheet).parts
    numbers = (guess.tile_width, guess.tile_height, guess.margin_x, guess.margin_y, guess.spacing_x, guess.spacing_y)
    return numbers == (SIDE, SIDE, MARGIN, MARGIN, APART, APART) and not parts


@pytest.mark.parametrize("share", [0.05, 0.4, 1.0])
def test_a_haze_hides_no_cut_and_no_piece(share):
    sheet = hazy_shells(share)
    assert is_hazy(sheet)
    assert is_right(sheet)
    assert len(find_pieces(sheet)) == 40
    assert (bared(sheet) == clear_shells()).all()


def test_a_haze_is_cleared_at_a_click_and_cells_with_nothing_else_are_empty():
    document, sheet = Document(), hazy_shells()
    sheet[-(MARGIN + SIDE) :] = sheet[:7].repeat(4, axis=0)[: MARGIN + SIDE]
    name = add_sheet(document, "shells.png", png(sheet))
    made, cuts = document.project.sheets[0], document.project.sheets[0].cuts
    offer = clear_offer(sheet, cuts)
    assert (offer.title, offer.taken(made)) == ("Clear haze", False)
    changed, _ = offer.change(made, sheet)
    assert offer.taken(changed)
    full = [Slices(document.state.pictures[name].cleared(one), cuts[0], ()).filled[-1].any() for one in (made, changed)]
    assert full == [True, False]


def test_soft_edges_and_what_is_clear_are_no_haze():
    for sheet in (clear_shells(), glowing_shells(), shells(), np.zeros((4, 4, 4), np.uint8)):
        assert not is_hazy(sheet)
        assert clear_offer(sheet, []) is None or sheet[0, 0, 3]


@given(colour=st.tuples(*[st.integers(0, 255)] * 3), wide=st.integers(1, 20))
def test_a_frame_round_a_sheet_is_no_tile(colour, wide):
    sheet = np.pad(clear_shells(), ((wide, wide), (wide, wide), (0, 0)))
    plain = sheet.copy()
    for line in range(wide):
        sheet[[line, -1 - line]] = sheet[:, [line, -1 - line]] = (*colour, 255)
    assert (bared(sheet) == plain).all()
    assert not bared(sheet)[0].any()


def test_a_frame_with_nothing_in_it_is_what_is_drawn():
    sheet = np.full((60, 80, 4), 255, np.uint8)
    sheet[3:-3, 3:-3] = 0
    assert bared(sheet) is sheet


def test_lines_between_tiles_are_no_frame_nor_is_the_margin_of_a_ground():
    sheet = np.zeros((6 * 18 + 1, 8 * 18 + 1, 4), np.uint8)
    sheet[2::6, 3::7] = (90, 160, 90, 255)
    sheet[::18] = sheet[:, ::18] = (40, 0, 40, 255)
    assert bared(sheet) is sheet
    assert bared(shells(margin=2)) is not None
    assert (bared(shells(margin=2)) == shells(margin=2)).all()


def test_glows_that_fill_gutters_hide_no_cut():
    sheet = glowing_shells()
    assert is_right(sheet)
    assert (without_glow(sheet)[..., 3] == 0).mean() > (sheet[..., 3] == 0).mean()
    made = Document()
    add_sheet(made, "shells.png", png(sheet))
    part, _ = cut_of_part(made.project.sheets[0], sheet, Rect(2, 2, sheet.shape[1] - 4, sheet.shape[0] - 4))
    assert (part.tile_width, part.spacing_x) == (SIDE, APART)
    glass = clear_shells()
    glass[..., 3] //= 2
    assert without_glow(glass) is glass, "nothing would be left"


@pytest.mark.parametrize(("seed", "steep"), [(1, 60), (2, 90), (3, 30)])
def test_a_ground_that_grows_lighter_hides_no_cut(seed, steep):
    assert is_right(shells_on(growing(seed, steep)))


def test_a_grained_ground_hides_no_cut():
    height, width = shells().shape[:2]
    grain = ndimage.gaussian_filter(np.random.default_rng(6).normal(size=(height, width, 1)), (1, 1, 0))
    sheet = shells_on(np.clip(np.array([170, 200, 225]) + 4 * grain / grain.std(), 0, 255))
    assert is_right(sheet)
    clear, art = without_uneven_ground(sheet)[..., 3] == 0, clear_shells()[..., 3] > 0
    assert clear[~art].mean() > 0.99
    assert clear[art].mean() < 0.2


@pytest.mark.parametrize("grain", [0, 8])
def test_an_uneven_ground_is_cleared_at_a_click_and_art_of_its_colours_is_not(grain):
    ground = growing(1, 60) + grain * np.random.default_rng(2).normal(size=(*shells().shape[:2], 1))
    sheet, art = shells_on(np.clip(ground, 0, 255)), clear_shells()[..., 3] > 0
    middle = 7 + 23 * 3 + 10
    sheet[60:64, middle : middle + 4, :3] = growing(1, 60)[60:64, middle : middle + 4]
    document = Document()
    name = add_sheet(document, "shells.png", png(sheet))
    made = document.project.sheets[0]
    offer = clear_offer(sheet, made.cuts)
    assert (offer.title, offer.taken(made)) == ("Clear ground", False)
    changed, sentence = offer.change(made, sheet)
    assert sentence.startswith("The ground is transparent now")
    assert offer.taken(changed)
    set_clearing(document, name, changed.clearing)
    clear = document.state.pictures[name].cleared(document.project.sheets[0])[..., 3] == 0
    assert clear[~art].mean() > 0.99
    assert clear[art].mean() < 0.01
    assert clear_offer(shells(), made.cuts).title != "Clear ground"
    assert not key_on(shells(), "ground", 0).area.any(), "there is none"


def test_tiles_without_any_ground_are_left_as_they_are():
    noise = np.random.default_rng(1).integers(0, 256, (96, 128, 4)).astype(np.uint8)
    noise[..., 3] = 255
    assert without_uneven_ground(noise) is noise
    assert without_uneven_ground(clear_shells())[..., 3].any()
