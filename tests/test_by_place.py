"""Reading labels off art of two inks, in whose colours terrains hardly differ."""

from itertools import product

import numpy as np
import pytest

from knitground.core.joins.coverage import is_formed
from knitground.core.joins.infer import infer_labels

SIDE = 16
INK, PAPER = (236, 226, 190, 255), (16, 14, 30, 255)
Y, X = np.mgrid[0:SIDE, 0:SIDE]
PATTERNS = {
    "bare": np.zeros((SIDE, SIDE), bool),
    "hatch": (X + Y) % 4 == 0,
    "dots": (X % 4 == 2) & (Y % 4 == 2),
    "specks": np.random.default_rng(5).random((SIDE, SIDE)) < 0.06,
    "checks": (X + Y) % 2 == 0,
    "bricks": (Y % 5 == 0) | ((X + Y // 5 % 2 * 4) % 8 == 0),
}


def drawn(inside: np.ndarray, below: str, above: str) -> np.ndarray:
    """A tile of two patterns, with a line round the one above."""
    ring = np.zeros_like(inside)
    for axis, shift in product((0, 1), (1, -1)):
        beside = np.roll(inside, shift, axis=axis)
        edge = np.arange(SIDE) == (0 if shift > 0 else SIDE - 1)
        ring |= inside & ~beside & ~(edge[:, None] if axis == 0 else edge[None])
    inked = np.where(inside, PATTERNS[above], PATTERNS[below]) | ring
    return np.where(inked[..., None], INK, PAPER).astype(np.uint8)


def area(corners: tuple[int, ...]) -> np.ndarray:
    """Where the corners that have the upper terrain reach."""
    down, across = (Y + 0.5) / SIDE, (X + 0.5) / SIDE
    north_west, north_east, south_east, south_west = corners
    above = north_west * (1 - across) + north_east * across
    below = south_west * (1 - across) + south_east * across
    return above * (1 - down) + below * down >= 0.5


def patch(labels: tuple[int, ...]) -> np.ndarray:
    """A patch that reaches the edges and corners that have the upper terrain."""
    near, far = 4, SIDE - 4
    first, middle, last = slice(0, near), slice(near, far), slice(far, SIDE)
    inside = np.zeros((SIDE, SIDE), bool)
    inside[middle, middle] = True
    north_west, north_east, south_east, south_west, north, east, south, west = map(bool, labels)
    inside[first, first], inside[first, middle], inside[first, last] = north_west, north, north_east
    inside[middle, first], inside[middle, last] = west, east
    inside[last, first], inside[last, middle], inside[last, last] = south_west, south, south_east
    return inside


def as_read(tiles: list[np.ndarray], kind: str, truth: list[tuple[int, ...]]) -> tuple[float, np.ndarray]:
    """The share of tiles that are read right, whichever terrain is named first, and how sure each is."""
    found = infer_labels(np.stack(tiles), kind, terrains=2)
    hits = [(found.labels == np.abs(np.array(truth) - swap)).all(axis=1) for swap in (0, 1)]
    return float(max(one.mean() for one in hits)), found.confidence


PAIRS = [
    ("specks", "hatch"), ("specks", "dots"), ("bare", "dots"), ("bare", "bricks"), ("hatch", "bare"), ("dots", "hatch"),
    ("checks", "dots"),
]  # fmt: skip


@pytest.mark.parametrize(("below", "above"), PAIRS)
def test_areas_of_two_inks_are_read_right(below, above):
    truth = list(product((0, 1), repeat=4))
    right, _ = as_read([drawn(area(one), below, above) for one in truth], "corner", truth)
    assert right == 1.0


@pytest.mark.parametrize(("below", "above"), [("bare", "bricks"), ("hatch", "bare"), ("bare", "hatch")])
def test_patches_of_two_inks_are_read_right(below, above):
    truth = [one for one in product((0, 1), repeat=8) if is_formed(one)]
    right, _ = as_read([drawn(patch(one), below, above) for one in truth], "full", truth)
    assert right == 1.0


@pytest.mark.parametrize("corner", [0, 2])
def test_tiles_that_are_all_alike_are_read_alike_in_two_inks(corner):
    tiles = np.where(np.random.default_rng(3).random((16, SIDE, SIDE, 1)) < 0.02, INK, PAPER).astype(np.uint8)
    part = slice(0, 5) if corner == 0 else slice(-5, None)
    tiles[:, part, part] = INK
    found = infer_labels(tiles, "corner", terrains=2)
    assert (found.labels == found.labels[0]).all()
    assert found.labels[0, corner] != found.labels[0, 1] == found.labels[0, 3]


def test_tiles_that_are_all_alike_are_read_alike_in_many_colours():
    random = np.random.default_rng(6)
    tiles = np.full((6, SIDE, SIDE, 4), 255, np.uint8)
    tiles[:, :8, :, :3] = np.array((90, 150, 220)) + random.integers(-12, 13, (6, 8, SIDE, 3))
    tiles[:, 8:, :, :3] = np.array((110, 80, 50)) + random.integers(-12, 13, (6, 8, SIDE, 3))
    found = infer_labels(tiles, "corner", terrains=2)
    assert found.labels.tolist() == [[0, 0, 1, 1]] * 6
    assert found.confidence.min() > 0.5


def test_a_terrain_that_lies_at_some_corners_only_is_not_told_to_be_sure():
    tiles = np.full((16, SIDE, SIDE, 4), PAPER, np.uint8)
    tiles[::2, :5, :5], tiles[:8, :5, -5:] = INK, INK
    tiles[np.arange(16), 8, np.arange(16)] = INK
    assert infer_labels(tiles, "corner", terrains=2).confidence.max() < 0.6
