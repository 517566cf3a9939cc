"""What on a sheet is writing: captions, names and sizes that stand beside the tiles and are none."""

import numpy as np
import scipy
from numpy.typing import NDArray

_BETWEEN_GLYPHS, _MOST_SHAPES = 9, 2**14
_LOWEST, _HIGHEST, _NARROWEST, _LONG = 3, 24, 10, 1.5
_HIGHEST_TITLE, _FEWEST_GLYPHS, _UNEVEN = 96, 3, 0.12
"""Titles may be higher than captions; their letters are not as far from one another as tiles would be."""
_ONE_INK, _ALMOST_ALL, _DENSEST = 24.0, 0.95, 0.6


def writing_of(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which pixels are of writing, (H, W) bool: low, long, thin, and of one ink on the ground, smoothed or not.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        What is not ground.
    """
    ground = ground_of(colour, art)[:3]
    labels, count = scipy.ndimage.label(
        scipy.ndimage.binary_dilation(art, np.ones((1, _BETWEEN_GLYPHS), dtype=bool)), np.ones((3, 3))
    )
    found = np.zeros_like(art)
    if count > _MOST_SHAPES:
        return found  # so many are noise, and to look at each would take too long
    titles = np.zeros_like(art)
    for number, box in enumerate(scipy.ndimage.find_objects(labels), 1):
        high = box[0].stop - box[0].start
        if high > _HIGHEST_TITLE:
            continue
        inked = (labels[box] == number) & art[box]
        if _is_line(inked) and _is_one_ink(colour[box][inked][:, :3] - ground):
            if high <= _HIGHEST:
                found[box] |= inked
            elif _has_letters(inked):
                titles[box] |= inked
    return found | _alone(titles, art & ~found)


def ground_of(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> NDArray[np.int16]:
    """The colour that most of what is no art has, (4,) int16; clear where there is none, or where it cannot be seen.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        What is not ground.
    """
    packed = np.ascontiguousarray(colour[~art].astype(np.uint8)).view(np.uint32)
    if not packed.size:
        return np.zeros(4, dtype=np.int16)
    values, counts = np.unique(packed, return_counts=True)
    ground = np.array([values[counts.argmax()]]).view(np.uint8).astype(np.int16)
    return ground if ground[3] else np.zeros(4, dtype=np.int16)


def _is_line(inked: NDArray[np.bool_]) -> bool:
    """Whether pixels are as low, long and thin as a line of writing."""
    rows, columns = np.flatnonzero(inked.any(axis=1)), np.flatnonzero(inked.any(axis=0))
    if not len(rows):
        return False
    high, wide = int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1
    size = _LOWEST <= high <= _HIGHEST_TITLE and wide >= max(_NARROWEST, _LONG * high)
    return size and inked.sum() <= _DENSEST * high * wide


def _has_letters(inked: NDArray[np.bool_]) -> bool:
    """Whether pixels are several shapes in a row that lie at uneven distances, as letters do and tiles do not."""
    glyphs = scipy.ndimage.find_objects(scipy.ndimage.label(inked, np.ones((3, 3)))[0])
    steps = np.diff(sorted(across.start for _, across in glyphs))
    return len(glyphs) >= _FEWEST_GLYPHS and float(steps.std()) > _UNEVEN * float(steps.mean())


def _alone(titles: NDArray[np.bool_], art: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Those of what may be titles beside which there is no other art."""
    labels, _ = scipy.ndimage.label(titles.any(axis=1))
    shared = np.unique(labels[(art & ~titles).any(axis=1)])
    return np.asarray(titles & ~np.isin(labels, shared[shared > 0])[:, None])


def _is_one_ink(from_ground: NDArray[np.int16]) -> bool:
    """Whether colours, as differences from the ground, all lie between it and one ink, (N, 3) int16."""
    away = from_ground.astype(np.float64)
    far = np.linalg.norm(away, axis=1)
    ink = away[far >= np.quantile(far, 0.8)].mean(axis=0)
    towards = ink / max(1.0, float(np.linalg.norm(ink)))
    beside = np.linalg.norm(away - (away @ towards)[:, None] * towards, axis=1)
    return bool((beside <= _ONE_INK).mean() >= _ALMOST_ALL)
