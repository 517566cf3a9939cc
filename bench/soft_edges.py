"""How long a key colour takes to clear, alone and out of soft edges: a sheet full of round things with shadows."""

import argparse
import time
from collections.abc import Callable

import numpy as np
from scipy import ndimage

from knitground.core.sheet.picture import Clearing, cleared

KEY = (255, 0, 255)


def sheet(side: int) -> np.ndarray:
    """Pebbles with smoothed edges and soft shadows, 40 px apart, on a key colour, (side, side, 4) uint8."""
    y, x = np.mgrid[:40, :40] - 18.0
    pebble = np.clip(12.5 - np.hypot(x, y * 1.2), 0, 1)
    shade = np.roll(ndimage.gaussian_filter(pebble, 2.5) * 0.45, (3, 4), axis=(0, 1))
    many = -(-side // 40)
    pebble, shade = (np.tile(one, (many, many))[:side, :side, None] for one in (pebble, shade))
    art = np.random.default_rng(1).integers(90, 130, (side, side, 3))
    colours = art * pebble + np.array(KEY) * (1 - shade) * (1 - pebble)
    return np.dstack([np.rint(colours), np.full((side, side), 255)]).astype(np.uint8)


def seconds(work: Callable[[], object]) -> float:
    """The best of three times."""
    found = []
    for _ in range(3):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def main() -> None:
    """Tells both times and how often the one goes into the other."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--side", type=int, default=2048, help="pixels across and down (%(default)s)")
    picture = sheet(parser.parse_args().side)
    key = "#{:02x}{:02x}{:02x}".format(*KEY)
    alone = seconds(lambda: cleared(picture, Clearing((key,))))
    soft = seconds(lambda: cleared(picture, Clearing((key,), soft_edges=True)))
    print(f"the colour alone {alone * 1000:.0f} ms, out of soft edges too {soft * 1000:.0f} ms, {soft / alone:.0f} x")


if __name__ == "__main__":
    main()
