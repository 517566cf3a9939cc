"""Tiles of two inks: terrains differ in what pattern is drawn, hardly in colour, and lines show where they meet."""

import numpy as np

PATTERNS = ("bare", "specks", "hatch", "checker", "dots", "bricks", "solid", "noise")


def pattern(random: np.random.Generator, name: str, side: int, count: int) -> np.ndarray:
    """Which pixels of tiles are inked, (count, side, side) bool; what is strewn is the same in all or not."""
    y, x = np.mgrid[0:side, 0:side]
    if name in ("specks", "noise"):
        share = random.uniform(0.01, 0.04) if name == "specks" else random.uniform(0.08, 0.3)
        many = count if random.random() < 0.6 else 1
        return np.broadcast_to(random.random((many, side, side)) < share, (count, side, side))
    step = int(random.choice([2, 3, 4, 5, 6, 7]))
    slant = int(random.choice([1, 2, 3]))
    if name == "hatch":
        one = (x * slant + y * int(random.choice([-1, 1, 2]))) % (step + 1) == 0
    elif name == "dots":
        one = (x % step == step // 2) & (y % step == step // 2)
    elif name == "bricks":
        one = (y % (step + 1) == 0) | ((x + (y // (step + 1) % 2) * step) % (2 * step) == 0)
    else:
        one = (x + y) % 2 == 0 if name == "checker" else np.full((side, side), name == "solid")
    return np.broadcast_to(one, (count, side, side))


def inked(random: np.random.Generator, winners: np.ndarray) -> np.ndarray:
    """Tiles of what terrain shows where, drawn in two inks.

    Parameters
    ----------
    winners : (n, side, side) int

    Returns
    -------
    tiles : (n, side, side, 4) uint8
    """
    count, side = winners.shape[:2]
    names = random.permutation(PATTERNS)[: int(winners.max()) + 1]
    if random.random() < 0.5:
        names[0] = "bare"
        names[1:] = [name if name != "bare" else "hatch" for name in names[1:]]
    patterns = np.stack([pattern(random, str(name), side, count) for name in names])
    drawn = np.take_along_axis(patterns, winners[None], axis=0)[0].copy()
    border = np.zeros(winners.shape, bool)
    border[:, :, 1:] |= winners[:, :, 1:] > winners[:, :, :-1]
    border[:, :, :-1] |= winners[:, :, :-1] > winners[:, :, 1:]
    border[:, 1:] |= winners[:, 1:] > winners[:, :-1]
    border[:, :-1] |= winners[:, :-1] > winners[:, 1:]
    lines = random.random()
    if lines < 0.6:
        drawn[border] = True
    elif lines < 0.8:
        drawn[border] = False
    paper, ink = random.permutation(np.array([[16, 14, 30, 255], [236, 226, 190, 255]])).astype(np.uint8)
    if random.random() < 0.3:
        paper = np.zeros(4, np.uint8)
    return np.where(drawn[..., None], ink, paper)
