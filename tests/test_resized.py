"""Sheets that were resized, so that no cut in whole pixels sits on all their tiles."""

import numpy as np
import pytest
from PIL import Image

from calling import knitground
from knitground.core.edits.cuts import take_loose
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.pieces import find_pieces
from knitground.core.sheet.resized import resized
from making import add_sheet, png, sheet_of_tiles

PITCH = 17
ANY = [Cut("tiles", 8, 8)]


def bricks(ground: tuple[int, int, int, int] = (0, 0, 0, 0), columns: int = 15) -> np.ndarray:
    """Tiles of 15 px with 2 between, on a ground."""
    sheet = sheet_of_tiles(columns, 12, PITCH - 2, 3, 2)
    sheet[sheet[..., 3] == 0] = ground
    return sheet


def scaled(sheet: np.ndarray, times: float, how: Image.Resampling = Image.Resampling.NEAREST) -> np.ndarray:
    """A sheet at another size."""
    height, width = sheet.shape[:2]
    return np.asarray(Image.fromarray(sheet).resize((round(width * times), round(height * times)), how))


@pytest.mark.parametrize("how", [Image.Resampling.NEAREST, Image.Resampling.BICUBIC])
@pytest.mark.parametrize("times", [1.5, 1.1, 0.9])
def test_the_distance_between_tiles_is_told(how, times):
    grounds = [(0, 0, 0, 0), (250, 0, 250, 255)]
    for sheet in map(bricks, grounds if how is Image.Resampling.NEAREST else grounds[:1]):
        found = resized(scaled(sheet, times, how), ANY)
        assert found is not None
        assert found == pytest.approx((PITCH * times, PITCH * times), abs=0.1)


@pytest.mark.parametrize("times", [1, 2, 3, 18 / 17])
def test_sheets_whose_tiles_lie_whole_pixels_apart_are_none(times):
    for sheet in (bricks(), bricks((9, 9, 9, 255)), bricks(columns=3), sheet_of_tiles(9, 9, 16)):
        assert resized(scaled(sheet, times), ANY) is None


def test_a_size_is_named_at_which_it_would_be_cut_right():
    sheet = scaled(bricks(), 1.1)
    found = resized(sheet, ANY)
    wide, high = found.whole(sheet.shape[1], sheet.shape[0])
    better = np.asarray(Image.fromarray(sheet).resize((wide, high), Image.Resampling.NEAREST))
    assert resized(better, ANY) is None
    assert abs(wide / sheet.shape[1] - 1) < 0.03


def test_it_is_told_while_a_grid_lies_on_it():
    document = Document()
    name = add_sheet(document, "shells.png", png(scaled(bricks(), 1.1)))
    (told,) = [one for one in all_findings(Derived(document)) if one.kind == "resized"]
    assert "its tiles repeat every 18.7 x 18.7 px, so it was resized, and no cut sits on all" in told.sentence
    assert "or scale it to" in told.mend
    pieces = find_pieces(document.state.pictures[name].pixels)
    for cut in document.project.sheets[0].cuts:
        take_loose(document, name, cut.id, 0, pieces)
    assert "resized" not in [one.kind for one in all_findings(Derived(document))]


def test_the_command_line_tells_it_beside_the_guesses(tmp_path):
    (tmp_path / "bricks.png").write_bytes(png(scaled(bricks(), 1.1)))
    told = knitground("guess", tmp_path / "bricks.png")
    assert told.returncode == 0
    assert "bricks.png: its tiles repeat every 18.7 x 18.7 px" in told.stderr
    assert not knitground("guess", tmp_path / "bricks.png", "--json").stderr, "programs read that"
    (tmp_path / "whole.png").write_bytes(png(bricks()))
    assert not knitground("guess", tmp_path / "whole.png").stderr
