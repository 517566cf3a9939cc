"""Sheets that were scaled or saved with loss, so that the colour between tiles runs into their edges."""

import io

import numpy as np
import pytest
from PIL import Image

from knitground.core.check.bled import KIND
from knitground.core.edits.sheets import set_cut
from knitground.core.project.derived import Derived
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from making import add_sheet, make_document, png, sheet_of_tiles

PINK, BLACK = (244, 60, 190), (0, 0, 0)
SIDE, GAP = 16, 2


def sheet(between: tuple[int, int, int]) -> np.ndarray:
    """Tiles of many colours and some grain, with a colour between and round them."""
    tiles = sheet_of_tiles(8, 5, SIDE, GAP, GAP, seed=11)
    tiles[tiles[..., 3] == 0] = *between, 255
    return tiles


def slabs() -> np.ndarray:
    """Slabs of several greys with the same dark joint at all sides, on black."""
    found = sheet(BLACK)
    random = np.random.default_rng(5)
    for row, column in np.ndindex(5, 8):
        top, left = GAP + row * (SIDE + GAP), GAP + column * (SIDE + GAP)
        found[top : top + SIDE, left : left + SIDE, :3] = 84
        inner = found[top + 1 : top + SIDE - 1, left + 1 : left + SIDE - 1, :3]
        inner[:] = random.integers(110, 170) + random.integers(-6, 7, (*inner.shape[:2], 1))
    return found


def lossy(picture: np.ndarray, quality: int = 90) -> np.ndarray:
    kept = io.BytesIO()
    Image.fromarray(picture[..., :3]).save(kept, "JPEG", quality=quality)
    return np.asarray(Image.open(kept).convert("RGBA"))


def enlarged(picture: np.ndarray) -> np.ndarray:
    size = 2 * picture.shape[1], 2 * picture.shape[0]
    return np.asarray(Image.fromarray(picture).resize(size, Image.Resampling.BICUBIC))


def told(picture: np.ndarray, times: int = 1) -> list:
    document = make_document()
    name = add_sheet(document, "art.png", png(picture))
    side, gap = SIDE * times, GAP * times
    set_cut(document, name, Cut(document.project.sheets[-1].cuts[0].id, side, side, gap, gap, gap, gap))
    return [one for one in all_findings(Derived(document)) if one.kind == KIND]


@pytest.mark.parametrize(("picture", "times"), [(lossy(sheet(PINK)), 1), (lossy(sheet(PINK), 75), 1),
                                                (enlarged(sheet(PINK)), 2), (enlarged(sheet(BLACK)), 2)])  # fmt: skip
def test_a_colour_that_runs_into_the_edges_of_tiles_is_told_with_the_tiles(picture, times):
    (found,) = told(picture, times)
    assert "runs into their edges" in found.sentence
    assert found.count == len(found.tiles) >= 16
    assert "without loss" in found.mend


@pytest.mark.parametrize("picture", [sheet(PINK), sheet(BLACK), slabs(), sheet_of_tiles(8, 5, SIDE, GAP, GAP)])
def test_nothing_is_told_of_a_sheet_as_it_was_drawn(picture):
    assert told(picture) == []
