"""Checkerboards that are drawn into sheets as if something were clear there."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.captions import look_written
from knitground.core.edits.cuts import guess_in, set_clearing, with_key
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.bared import bared
from knitground.core.sheet.checkered import CHECKER, checker_on
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.gutters import gutter_key
from knitground.core.sheet.keys import key_at, key_on, parse_key
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.picture import Clearing, cleared
from knitground.core.sheet.pieces import find_pieces
from making import add_sheet, on_checker, png
from test_settled import KEY, MARGIN, SIDE, kept, shells

GREYS = [(255, 204), (102, 153), (239, 255), (128, 192)]


def clear_shells(**numbers: int) -> np.ndarray:
    """The rounds of a made-up sheet on nothing."""
    sheet = shells(**numbers)
    sheet[(sheet == KEY).all(axis=-1)] = 0
    return sheet


@given(
    side=st.integers(4, 20),
    greys=st.sampled_from(GREYS),
    at=st.tuples(st.integers(0, 40), st.integers(0, 40)),
    apart=st.integers(2, 9),
)
def test_it_is_clear_where_it_was_drawn_and_nowhere_else(side, greys, at, apart):
    sheet = clear_shells(apart=apart)
    flat = on_checker(sheet, side, greys, at)
    shown, plate = key_on(flat, CHECKER, 0)
    clear = sheet[..., 3] == 0
    assert not shown[~clear].any()
    assert shown[clear].mean() > 0.99
    assert (plate[clear] == flat[clear][:, :3]).all()


@pytest.mark.parametrize("side", [8, 16])
def test_a_sheet_is_cut_as_if_it_were_clear(side):
    for sheet in (clear_shells(), clear_shells(apart=0, margin=0)):
        flat = on_checker(sheet, side)
        guess, true = look_over(flat).guesses[0], look_over(sheet).guesses[0]
        assert replace(guess, confidence=true.confidence) == true
    assert len(find_pieces(on_checker(clear_shells(), side))) == 40
    assert look_written(flat, []) == []


def test_what_lies_a_square_apart_in_white_alone_stays_art():
    sheet = clear_shells()
    sheet[60:90, 60:90] = (90, 20, 20, 255)
    sheet[70:74, 70:74] = (255, 255, 255, 255)
    flat = on_checker(sheet)
    assert checker_on(flat).plate(*flat.shape[:2])[71, 71, 0] == 255
    assert cleared(flat, Clearing((CHECKER,)))[70:74, 70:74, 3].all()
    assert (key_at(flat, 71, 71), key_at(flat, 0, 0), key_at(flat, 61, 61)) == ("#ffffff", CHECKER, "#5a1414")


def test_soft_edges_look_as_they_did_on_another_ground():
    ys, xs = np.mgrid[:90, :150]
    sheet, true = np.zeros((90, 150, 4), np.uint8), (40, 60, 40)
    for middle, colour in zip((25, 75, 125), ((200, 60, 70), (70, 110, 190), (90, 160, 90)), strict=True):
        alpha = np.clip(18.5 - np.hypot(ys - 40, xs - middle), 0, 1)
        sheet[alpha > 0, :3], sheet[..., 3] = colour, np.maximum(sheet[..., 3], np.rint(alpha * 255))
    document = Document()
    name = add_sheet(document, "bulbs.png", png(on_checker(sheet)))
    keyed, sentence = with_key(document.project.sheets[0], document.state.pictures[name].pixels, CHECKER)
    assert sentence == "The checker is transparent now, and taken out of soft edges."

    def over(picture: np.ndarray) -> np.ndarray:
        alpha = picture[..., 3:] / 255
        return picture[..., :3] * alpha + np.array(true) * (1 - alpha)

    away = np.abs(over(document.state.pictures[name].cleared(keyed)) - over(sheet)).max(axis=-1)
    edge = (sheet[..., 3] > 0) & (sheet[..., 3] < 255)
    assert away[~edge].max() <= 2
    assert (away[edge] <= 12).mean() > 0.8


def test_floors_noise_and_what_is_clear_already_are_none():
    random, ys, xs = np.random.default_rng(2), *np.mgrid[:160, :200]
    squares = ((xs // 8 + ys // 8) % 2)[..., None]
    opaque = np.full((160, 200, 1), 255)
    for one, other in (((0, 0, 0), (255, 255, 255)), ((200, 60, 60), (240, 120, 120))):
        floor = np.dstack([np.where(squares, one, other), opaque]).astype(np.uint8)
        assert checker_on(floor) is None, "of strong contrast, or coloured"
        assert bared(floor) is floor
    noise = np.dstack([np.repeat(random.integers(180, 256, (160, 200, 1)), 3, axis=-1), opaque]).astype(np.uint8)
    tile = noise.copy()
    tile[32:64, 32:64] = on_checker(np.zeros((32, 32, 4), np.uint8))
    half = on_checker(clear_shells())
    half[:, :40] = 0
    for sheet in (noise, tile, half, clear_shells(), np.zeros((1, 1, 4), np.uint8), noise[:3, :3]):
        assert checker_on(sheet) is None
    shown = key_on(noise, CHECKER, 0)
    assert not shown.area.any(), "a key that shows nowhere clears nothing"
    assert cleared(noise, Clearing((CHECKER,), soft_edges=True))[..., 3].all()


@pytest.mark.parametrize(("kind", "quality"), [("WEBP", 90), ("JPEG", 92)])
def test_it_is_known_where_colours_were_kept_only_nearly(kind, quality):
    sheet = clear_shells()
    flat = kept(on_checker(sheet, 12), kind, quality)
    document = Document()
    add_sheet(document, "shells.png", png(flat))
    keyed, _ = with_key(document.project.sheets[0], flat, CHECKER)
    clear, art = cleared(flat, keyed.clearing)[..., 3] == 0, sheet[..., 3] > 0
    assert keyed.tolerance > 0
    assert clear[~art].mean() > 0.9
    assert clear[art].mean() < 0.05
    best, _, _ = guess_in(flat, keyed, keyed.cuts[0]).cuts[0]
    assert (best.tile_width, best.margin_x) == (SIDE, MARGIN)


def test_lines_in_art_that_losses_make_grey_stay():
    sheet, grain = np.zeros((120, 200, 4), np.uint8), np.random.default_rng(1)
    sheet[10:66, 10:150] = (110, 150, 160, 255)
    sheet[10:66, 10:150, :3] += grain.integers(0, 12, (56, 140, 1), np.uint8)
    sheet[10:66, 10:150:14] = sheet[10:66:14, 10:150] = (200, 110, 110, 255)
    flat = kept(on_checker(sheet, 10, (153, 102), (3, 5)), "WEBP", 88)
    document = Document()
    add_sheet(document, "tiles.png", png(flat))
    keyed, _ = with_key(document.project.sheets[0], flat, CHECKER)
    clear = cleared(flat, keyed.clearing)[..., 3] == 0
    assert clear[80:, :].mean() > 0.99
    assert clear[12:64, 12:148].mean() < 0.02


def test_it_is_told_until_it_is_cleared_and_the_file_keeps_that(tmp_path):
    document = Document()
    name = add_sheet(document, "shells.png", png(on_checker(clear_shells())))
    assert gutter_key(document.state.pictures[name].pixels, [Cut("x", 7, 7)]) == CHECKER
    (told,) = [one for one in all_findings(Derived(document)) if one.kind == "checker drawn in"]
    assert (told.stage, told.subject) == ("sheet", name)
    keyed, sentence = with_key(document.project.sheets[0], document.state.pictures[name].pixels, CHECKER)
    assert sentence == "The checker is transparent now.", "nothing is mixed with it"
    set_clearing(document, name, keyed.clearing)
    assert "checker drawn in" not in [one.kind for one in all_findings(Derived(document))]
    document.save(tmp_path)
    again = Document.load(tmp_path)
    assert again.project.sheets[0].keys == (CHECKER,)
    assert (again.state.pictures[name].cleared(again.project.sheets[0])[0, 0] == 0).all()
    document.undo()
    assert document.project.sheets[0].keys == ()


def test_keys_are_named_on_the_command_line_as_files_hold_them():
    assert [parse_key(text) for text in ("FF00ff", "#0a0B0c", "checker")] == ["#ff00ff", "#0a0b0c", CHECKER]
