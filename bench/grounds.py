"""What lies where sheets mean to be clear: a checkerboard drawn in, a haze, glows, a frame, grounds of many colours."""

import numpy as np
from scipy import ndimage

Random = np.random.Generator


def on_ground(name: str, sheet: np.ndarray, seed: int) -> np.ndarray:
    """A sheet with something where it is clear."""
    return GROUNDS[name](sheet, np.random.Generator(np.random.PCG64([seed, 6])))


def _flat(sheet: np.ndarray, ground: np.ndarray) -> np.ndarray:
    alpha = sheet[..., 3:] / 255
    colour = np.rint(np.clip(sheet[..., :3] * alpha + ground * (1 - alpha), 0, 255))
    return np.dstack([colour, np.full(sheet.shape[:2], 255)]).astype(np.uint8)


def _checker(sheet: np.ndarray, random: Random) -> np.ndarray:
    side = int(random.choice([5, 8, 8, 10, 12, 16]))
    greys = np.array([(255, 204), (102, 153), (255, 239), (192, 128)])[random.integers(4)]
    ys, xs = np.mgrid[: sheet.shape[0], : sheet.shape[1]] + random.integers(0, side, (2, 1, 1))
    return _flat(sheet, greys[(xs // side + ys // side) % 2][..., None])


def _haze(sheet: np.ndarray, random: Random) -> np.ndarray:
    hazy = sheet.copy()
    where = (sheet[..., 3] == 0) & (random.random(sheet.shape[:2]) < random.choice([0.05, 0.3, 1.0]))
    hazy[where] = random.integers(0, 256, (int(where.sum()), 4))
    hazy[where, 3] %= 9
    return hazy


def _glow(sheet: np.ndarray, random: Random) -> np.ndarray:
    """A soft black shadow round everything."""
    alpha = sheet[..., 3] / 255
    shade = np.clip(ndimage.gaussian_filter(alpha, float(random.choice([1, 2, 3]))) * 1.2, 0, 0.75) * (1 - alpha)
    glowing = sheet.astype(float)
    both = alpha + shade
    glowing[..., :3] *= np.divide(alpha, both, out=np.zeros_like(both), where=both > 0)[..., None]
    glowing[..., 3] = both * 255
    return np.rint(glowing).astype(np.uint8)


def _frame(sheet: np.ndarray, random: Random) -> np.ndarray:
    framed = sheet.copy()
    framed[[0, -1]] = framed[:, [0, -1]] = (*random.integers(0, 256, 3), 255)
    return framed


def _gradient(sheet: np.ndarray, random: Random) -> np.ndarray:
    begin = random.integers(40, 216, 3)
    end = np.clip(begin + random.integers(-60, 60, 3), 0, 255)
    height, width = sheet.shape[:2]
    way = np.linspace(0, 1, height)[:, None, None] if random.random() < 0.7 else np.linspace(0, 1, width)[:, None]
    return _flat(sheet, begin * (1 - way) + end * way)


def _grain(sheet: np.ndarray, random: Random) -> np.ndarray:
    grain = ndimage.gaussian_filter(random.normal(size=sheet.shape[:2]), float(random.choice([0.7, 2, 6])))
    return _flat(sheet, random.integers(60, 240, 3) + (grain / grain.std())[..., None] * random.choice([2, 4, 7]))


GROUNDS = {"checker": _checker, "haze": _haze, "glow": _glow, "frame": _frame, "gradient": _gradient, "grain": _grain}
