"""Patches with soft rims that fill a sheet side by side, and what is no set of theirs."""

import sys
from pathlib import Path

import numpy as np
import pytest

from knitground.core.joins.find import find_sets
from knitground.core.joins.look import motley, seen_colours

sys.path.insert(0, str(Path(__file__).parents[1] / "bench"))
from patch_sheets import make_case, told


def _held(tiles):
    return tiles[..., 3].any(axis=(2, 3))


def test_most_patches_are_found_however_they_touch_and_hardly_anything_else_is():
    cases = [make_case(seed) for seed in range(300, 305)]
    blocks, whole, others = np.array([told(made) for made in cases]).sum(axis=0)
    patches = sum(len(made.patches) for made in cases)
    assert blocks >= 0.65 * patches
    assert whole >= 0.42 * patches
    assert others <= 0.08 * patches


def _patch(colour, seed):
    """A block of 4 x 3 tiles with a rough rim."""
    random = np.random.Generator(np.random.PCG64(seed))
    art = np.zeros((3 * 24, 4 * 24, 4), np.uint8)
    art[6:-6, 6:-6, 3] = 255
    rim = random.integers(4, 9, (4, 96))
    for at in range(96):
        art[: rim[0, at], at, 3] = art[72 - rim[1, at] :, at, 3] = 0
        art[min(at, 71), : rim[2, at], 3] = art[min(at, 71), 96 - rim[3, at] :, 3] = 0
    art[..., :3] = np.clip(np.array(colour) + random.normal(0, 6, (72, 96, 1)), 0, 255)
    art[art[..., 3] == 0] = 0
    return art.reshape(3, 24, 4, 24, 4).swapaxes(1, 2)


def test_plain_tiles_of_another_kind_below_a_patch_are_no_part_of_it():
    tiles = np.zeros((6, 4, 24, 24, 4), np.uint8)
    tiles[:3] = _patch((150, 90, 50), 1)
    # What lies right below one of its tiles in the midst goes on to all sides.
    tiles[2, 1] = tiles[1, 1]
    random = np.random.Generator(np.random.PCG64(5))
    plain = np.clip(np.array((90, 160, 200)) + random.normal(0, 6, (3, 2, 24, 24, 1)), 0, 255)
    tiles[3:, 1:3, ..., :3], tiles[3:, 1:3, ..., 3] = plain, 255
    found = find_sets(tiles, _held(tiles))
    assert len(found) == 1
    assert all(row < 3 for _, row in found[0].cells.tolist())


def test_tiles_of_many_colours_on_clear_ground_are_no_set_by_chance():
    one = np.zeros((8, 16, 16, 4), np.uint8)
    one[:, 4:] = (180, 90, 60, 255)
    many = one.copy()
    many[:, 4:, :, :3] = np.random.Generator(np.random.PCG64(2)).integers(20, 230, (8, 1, 1, 3))
    opaque = many.copy()
    opaque[:, :4] = (10, 10, 10, 255)
    assert motley(seen_colours(one, "square")) == pytest.approx(0)
    assert motley(seen_colours(many, "square")) > 0.1
    assert motley(seen_colours(opaque, "square")) == 0
