"""A key colour in smoothed edges and soft shadows: taken out where it is mixed in, and nowhere else."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from knitground.core.edits.cuts import set_clearing, set_parts
from knitground.core.edits.repacking import pack_anew
from knitground.core.project.document import Document
from knitground.core.sheet.colour import parse_colour
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.keys import key_on
from knitground.core.sheet.picture import Clearing, cleared
from knitground.core.sheet.repack import Gaps
from knitground.core.sheet.unmixed import is_smoothed, unmix
from making import add_sheet, png

VIVID = ("#ff00ff", "#00ff00", "#c8a2f0", "#3060ff")
GROUNDS = ((60, 110, 50), (170, 140, 100), (40, 40, 64))


def over(pixels, ground):
    share = pixels[..., 3:] / 255
    return pixels[..., :3] * share + np.array(ground) * (1 - share)


def flat_on(art, key):
    """What a paint program writes that knows no transparency: the art on a colour."""
    return np.dstack([np.rint(over(art, parse_colour(key))), np.full(art.shape[:2], 255)]).astype(np.uint8)


def pebbles(seed, side=72, *, smooth=True):
    """Round shapes of speckled colours, their edges as smooth as covering a pixel in part makes them."""
    rng = np.random.default_rng(seed)
    fine = 8
    y, x = np.mgrid[: side * fine, : side * fine] / fine
    shape, colour = np.zeros((side * fine, side * fine)), np.zeros((side, side, 3))
    for across, down in ((18, 20), (52, 22), (34, 52)):
        wide, high = rng.uniform(9, 15, 2)
        inside = ((x - across) / wide) ** 2 + ((y - down) / high) ** 2 < 1
        shape[inside] = 1
        near = ndimage.binary_dilation(inside[::fine, ::fine], iterations=3)
        colour[near] = rng.uniform(20, 200, 3)
    share = shape.reshape(side, fine, side, fine).mean(axis=(1, 3))
    if not smooth:
        share = np.round(share)
    colour += rng.integers(-6, 7, (side, side, 1))
    return np.dstack([np.clip(colour, 0, 255), share * 255]).round().astype(np.uint8)


def with_shadows(art, dark=0.45, blur=2.5):
    below = np.roll(ndimage.gaussian_filter(art[..., 3] / 255.0, blur) * dark, (4, 3), axis=(0, 1))
    share = art[..., 3:] / 255
    alpha = share[..., 0] + (1 - share[..., 0]) * below
    colour = art[..., :3] * share / np.maximum(alpha, 1e-6)[..., None]
    return np.dstack([np.clip(colour, 0, 255), alpha * 255]).round().astype(np.uint8)


def wrong(seen, art):
    """How far a cleared sheet lies from the art on grounds of other colours, where it has any, 0 to 255."""
    rim = (art[..., 3] > 0) & (art[..., 3] < 255)
    return np.mean([np.abs(over(seen, ground) - over(art, ground))[rim].mean() for ground in GROUNDS])


@pytest.mark.parametrize("key", VIVID)
def test_smoothed_edges_show_what_lies_behind_them_in_place_of_the_key(key):
    art = pebbles(3)
    sheet = flat_on(art, key)
    before, after = (wrong(cleared(sheet, Clearing((key,), soft_edges=soft)), art) for soft in (False, True))
    assert before > 25
    assert after < before / 4


@pytest.mark.parametrize("key", ["#ff00ff", "#c8a2f0", "#ffffff"])
def test_soft_shadows_on_the_key_stay_shadows_on_any_ground(key):
    art = with_shadows(pebbles(4))
    sheet = flat_on(art, key)
    hard, soft = (cleared(sheet, Clearing((key,), soft_edges=soft)) for soft in (False, True))
    shadow = (art[..., 3] > 20) & (art[..., 3] < 100)
    assert (hard[shadow, 3] == 255).all()
    assert np.abs(soft[shadow, 3].astype(int) - art[shadow, 3]).mean() < 12
    assert wrong(soft, art) < wrong(hard, art) / 3


@given(seed=st.integers(0, 2**32 - 1), key=st.sampled_from((*VIVID, "#ffffff", "#000000")), shadows=st.booleans())
@settings(max_examples=25, deadline=None)
def test_over_the_key_itself_a_sheet_looks_as_before(seed, key, shadows):
    art = pebbles(seed)
    sheet = flat_on(with_shadows(art) if shadows else art, key)
    seen = cleared(sheet, Clearing((key,), soft_edges=True))
    # Shadows may be of a slightly other hue; all else comes back but for rounding.
    assert np.abs(over(seen, parse_colour(key)) - sheet[..., :3]).max() <= (20 if shadows else 4)


@given(seed=st.integers(0, 2**32 - 1), key=st.sampled_from(VIVID))
@settings(max_examples=25, deadline=None)
def test_hard_edges_stay_as_they_are(seed, key):
    art = pebbles(seed, smooth=False)
    sheet = flat_on(art, key)
    keyed = key_on(sheet, key, 0).area
    assert not is_smoothed(sheet, parse_colour(key), keyed)
    changed = (unmix(sheet, parse_colour(key), keyed) != sheet).any(axis=-1)
    assert changed.sum() <= 0.04 * (art[..., 3] > 0).sum()


def test_smoothed_sheets_are_told_from_hard_ones():
    for key in (*VIVID, "#ffffff"):
        sheet = flat_on(pebbles(5), key)
        assert is_smoothed(sheet, parse_colour(key), key_on(sheet, key, 0).area)
    black = flat_on(pebbles(5), "#000000")
    assert not is_smoothed(black, parse_colour("#000000"), key_on(black, "#000000", 0).area)


def test_something_grey_on_white_is_no_shadow():
    art = pebbles(6)
    art[..., :3] = 205 + np.random.default_rng(6).integers(-4, 5, (*art.shape[:2], 1))
    seen = cleared(flat_on(art, "#ffffff"), Clearing(("#ffffff",), soft_edges=True))
    inside = ndimage.binary_erosion(art[..., 3] == 255, iterations=2)
    assert (seen[inside, 3] == 255).all()


def test_a_grey_rock_keeps_its_whole_inside_beside_its_own_shadow_on_white():
    rock = pebbles(6)
    rock[..., :3] = (108, 104, 110)
    seen = cleared(flat_on(with_shadows(rock, 0.6), "#ffffff"), Clearing(("#ffffff",), soft_edges=True))
    inside = ndimage.binary_erosion(rock[..., 3] == 255, iterations=2)
    assert (seen[inside, 3] == 255).mean() > 0.99
    assert ((seen[..., 3] > 20) & (seen[..., 3] < 120)).sum() > 100, "the shadow is one still"


@pytest.mark.parametrize("key", VIVID)
def test_a_shadow_that_art_cuts_off_from_the_key_is_one_too(key):
    y, x = np.mgrid[:48, :48] - 23.5
    away = np.hypot(x, y)
    ring = np.zeros((48, 48, 4), np.uint8)
    ring[(away > 4) & (away < 7)] = (60, 130, 70, 255)
    art = with_shadows(ring)
    hole = away < 3
    assert not key_on(flat_on(art, key), key, 0).area[hole].any(), "no key shows inside of it"
    seen = cleared(flat_on(art, key), Clearing((key,), soft_edges=True))
    assert np.abs(seen[hole, 3].astype(int) - art[hole, 3]).max() < 12


@pytest.mark.parametrize("key", [*VIVID, "#ffffff"])
def test_tiles_stay_whole_on_a_sheet_whose_things_have_soft_edges(key):
    sheet = flat_on(with_shadows(pebbles(10)), key)
    random = np.random.default_rng(10)
    tiles = random.integers(215, 250, (3, 20, 20, 1)) - random.integers(0, 7, (3, 20, 20, 3))
    page = np.full((24, 72, 4), (*parse_colour(key), 255), np.uint8)
    for number, tile in enumerate(tiles):
        page[2:22, 2 + number * 23 : 22 + number * 23, :3] = tile
    seen = cleared(np.vstack([page, sheet]), Clearing((key,), soft_edges=True))
    for number in range(3):
        assert (seen[2:22, 2 + number * 23 : 22 + number * 23, 3] == 255).mean() > 0.99


def test_each_of_several_keys_is_taken_out_of_its_own_edges():
    left, right = pebbles(7), pebbles(8)
    sheet = np.hstack([flat_on(left, "#ff00ff"), flat_on(right, "#00ff00")])
    seen = cleared(sheet, Clearing(("#ff00ff", "#00ff00"), soft_edges=True))
    assert max(wrong(seen[:, :72], left), wrong(seen[:, 72:], right)) < 10


def test_what_is_clear_already_is_left_alone():
    art = pebbles(9)
    assert np.array_equal(cleared(art, Clearing(("#fe01fe",), soft_edges=True)), art)


@pytest.mark.parametrize("size", [(1, 1), (1, 40), (40, 1), (2, 3)])
def test_the_smallest_pictures_are_freed_too(size):
    sheet = np.full((*size, 4), 255, np.uint8)
    sheet[0, 0] = (200, 100, 200, 255)
    sheet[-1, -1] = (255, 0, 255, 255)
    for key in ("#ff00ff", "#ffffff", "#c86432"):
        assert cleared(sheet, Clearing((key,), soft_edges=True)).shape == (*size, 4)


def test_a_sheet_packed_anew_keeps_what_shines_through_and_needs_no_key_any_more():
    art = with_shadows(pebbles(3))
    document = Document()
    name = add_sheet(document, "pebbles.png", png(flat_on(art, "#ff00ff")))
    set_parts(document, name, (Cut("all", 24, 24),))
    set_clearing(document, name, Clearing(("#ff00ff",), soft_edges=True))
    before = document.state.pictures[name].cleared(document.project.sheets[0])
    packed = pack_anew(document, name, Gaps(0, 0, 0))
    assert packed.sheet.clearing == Clearing()
    kept, made = (np.bincount(one[..., 3].ravel(), minlength=256)[1:] for one in (before, packed.pixels))
    assert np.array_equal(kept, made)
    assert kept[20:200].sum() > 100
