"""Labels of art that repeats nowhere: woods on clear diamonds, leaves over ground that is the same in all tiles."""

from itertools import product

import numpy as np
import pytest

from knitground.core.joins.infer import infer_labels

FAMILY = np.array(list(product((0, 1), repeat=4)))
SIDES = ((-1, 0), (0, 1), (1, 0), (0, -1))


def overgrown(random: np.random.Generator, labels: np.ndarray, half: float) -> list[tuple[float, float]]:
    """Places down and across (-0.5 to 0.5) where something grows: round the middle and out to the sides labelled 1."""
    spots = random.uniform(-0.5, 0.5, (500, 2))
    grows = np.hypot(*spots.T) < half
    for (down, across), label in zip(SIDES, labels, strict=True):
        along, beside = spots @ (down, across), np.abs(spots @ (across, -down))
        grows |= bool(label) & (along > 0) & (beside < half)
    return [(float(v), float(u)) for v, u in sorted(spots[grows].tolist(), key=sum)]


def wood(random: np.random.Generator, labels: np.ndarray, head: int) -> np.ndarray:
    """A clear tile 64 wide, its diamond at the bottom, with trees that stand up from where they grow."""
    tile = np.zeros((32 + head, 64, 4), dtype=np.uint8)
    y, x = np.mgrid[0 : 32 + head, 0:64]
    for v, u in overgrown(random, labels, 0.26)[::6]:
        row, column = head + 16 + (u + v) * 16, 32 + (u - v) * 32
        crown = ((y - row + 5) / 5) ** 2 + ((x - column) / 4) ** 2 < 1
        tile[crown] = (30, 90 + int(random.integers(40)), 40, 255)
        tile[(y > row - 3) & (y <= row) & (np.abs(x - column) < 1)] = (80, 50, 30, 255)
    return tile


def leaves(random: np.random.Generator, labels: np.ndarray, ground: np.ndarray) -> np.ndarray:
    """A square tile of leaves over ground."""
    tile = np.dstack([ground, np.full(ground.shape[:2], 255, dtype=np.uint8)])
    y, x = np.mgrid[0:24, 0:24]
    for v, u in overgrown(random, labels, 0.33):
        on = np.hypot(y - 12 - v * 24, x - 12 - u * 24) < 1.8
        tile[on] = (20, 50 + int(random.integers(50)), 30, 255)
    return tile


def right(found: np.ndarray, truth: np.ndarray) -> np.ndarray:
    return max((found == truth).all(axis=1), (1 - found == truth).all(axis=1), key=np.sum)


@pytest.mark.parametrize("head", [0, 8, 32])
@pytest.mark.parametrize("told", [2, None])
def test_woods_on_clear_diamonds_are_read_by_how_far_they_reach(head, told):
    random = np.random.default_rng(head)
    truth = random.permutation(FAMILY)
    tiles = np.stack([wood(random, labels, head) for labels in truth])
    found = infer_labels(tiles, "edge", shape="isometric", terrains=told)
    hits = right(found.labels, truth)
    assert hits.sum() >= 15
    assert hits[found.confidence > 0.9].all()
    assert found.confidence.min() >= 0
    assert found.confidence.max() <= 1


def test_leaves_that_hang_over_a_border_which_repeats_are_read():
    random = np.random.default_rng(5)
    ground = (np.array([150, 180, 90]) + random.normal(0, 6, (24, 24, 1))).astype(np.uint8)
    truth = random.permutation(np.concatenate([FAMILY, FAMILY]))
    tiles = np.stack([leaves(random, labels, ground) for labels in truth])
    found = infer_labels(tiles, "edge", terrains=2)
    assert right(found.labels, truth).mean() >= 0.95


def test_tiles_higher_than_their_diamond_are_read_at_the_bottom():
    random = np.random.default_rng(9)
    flat = np.zeros((16, 32, 64, 4), dtype=np.uint8)
    y, x = np.mgrid[0:32, 0:64]
    inside = np.abs((y - 15.5) / 32) + np.abs((x - 31.5) / 64) <= 0.5
    north = (x >= 32) & (y < 16)
    for tile, labels in zip(flat, FAMILY, strict=True):
        for label, part in zip(
            labels, (north, (x >= 32) & (y >= 16), (x < 32) & (y >= 16), (x < 32) & (y < 16)), strict=True
        ):
            tile[inside & part] = (200, 60, 60, 255) if label else (60, 60, 200, 255)
    tall = np.concatenate([np.zeros((16, 20, 64, 4), dtype=np.uint8), flat], axis=1)
    tall[:, 4:14, 20:40] = random.integers(0, 255, (16, 10, 20, 1), dtype=np.uint8)
    for tiles in (flat, tall):
        assert right(infer_labels(tiles, "edge", shape="isometric", terrains=2).labels, FAMILY).all()
