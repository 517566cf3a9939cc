"""Grain that comes again from tile to tile, and what is cut by it."""

import sys
from pathlib import Path

import numpy as np
import pytest

from knitground.core.sheet.parts import look_over
from knitground.core.sheet.recurring import periods, recurrence

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "bench"))
from platform_sheets import judged, platform_sheet


def field(side: int, seed: int = 1) -> np.ndarray:
    """Five by four tiles of one grain, of which the last column and the last row show something else."""
    random = np.random.default_rng(seed)
    pixels = np.full((4 * side, 5 * side, 4), 255, np.uint8)
    pixels[..., :3] = np.tile(random.integers(90, 120, (side, side, 3)), (4, 5, 1))
    pixels[3 * side :, :, :3] = random.integers(0, 255, (side, 5 * side, 3))
    pixels[:, 4 * side :, :3] = random.integers(0, 255, (4 * side, side, 3))
    return pixels


def distances(pixels: np.ndarray) -> tuple[list[int], list[int]]:
    colour, art = pixels.astype(np.int16), pixels[..., 3] > 0
    across, down = recurrence(colour, art), recurrence(colour.swapaxes(0, 1), art.T)
    return periods(across, 6), periods(down, 6)


@pytest.mark.parametrize("side", [9, 16, 23, 48])
def test_grain_comes_again_a_tile_further_on(side):
    assert distances(field(side)) == ([side], [side])


def test_what_is_flat_runs_on_or_never_comes_again_tells_nothing():
    flat = np.full((96, 120, 4), 200, np.uint8)
    flat[..., 3] = 255
    striped = flat.copy()
    striped[10:14] = striped[:, 50:53] = 40, 60, 80, 255
    noise = np.random.default_rng(3).integers(0, 255, flat.shape).astype(np.uint8)
    noise[..., 3] = 255
    for pixels in (flat, striped, noise, np.zeros_like(flat)):
        assert distances(pixels) == ([], [])


def test_what_lies_beside_the_art_does_not_count():
    pixels = field(16)
    pixels[:, :, 3] = 0
    assert distances(pixels) == ([], [])


def test_terrain_in_blocks_is_cut_by_its_grain_and_things_beside_it_are_whole():
    right = missed = things = 0
    for seed in range(800, 805):
        sheet = platform_sheet(seed)
        guesses, parts = look_over(sheet.pixels)
        wrong, apart = judged(sheet, parts or [guesses[0].as_cut("")])
        right, missed, things = right + (not wrong), missed + apart, things + len(sheet.things)
    assert right >= 4
    assert missed <= things / 4
