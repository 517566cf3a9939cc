"""Noise that wraps: its right edge goes on at its left, its bottom at its top.

References
----------
K. Perlin, "Improving noise", ACM Transactions on Graphics 21 (2002): gradient noise with the quintic fade. The
gradients come from positional chance, taken modulo the number of lattice cells, which makes it wrap.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance, seed_for

_BAND = 256

Progress = Callable[[float], None]
"""Told the share that is done, in [0, 1]; may raise `Cancelled` to stop."""


def wrapping_noise(
    height: int,
    width: int,
    *,
    scale: float | tuple[float, float],
    octaves: int,
    seed: int,
    progress: Progress = lambda share: None,
) -> NDArray[np.float32]:
    """Fractal gradient noise over a torus.

    Parameters
    ----------
    height, width : int
        In cells.
    scale : float, or (float, float)
        Size of the largest features, in rows and columns; rounded so that a whole number fits each way.
    octaves : int
        Layers of detail, each half as large and half as strong as the one before.
    seed : int
    progress : callable, optional

    Returns
    -------
    noise : (height, width) float32
        Around 0, roughly within ±1.
    """
    noise = np.zeros((height, width), dtype=np.float32)
    scale_y, scale_x = scale if isinstance(scale, tuple) else (scale, scale)
    for octave in range(octaves):
        down = max(1, round(height / scale_y * 2**octave))
        across = max(1, round(width / scale_x * 2**octave))
        if down > height or across > width:
            break
        gradients = _gradients(down, across, seed_for(seed, f"octave {octave}"))
        for top in range(0, height, _BAND):
            rows = np.arange(top, min(top + _BAND, height))
            noise[rows] += _octave(gradients, rows, height, width) * np.float32(0.5**octave)
            progress((octave + rows[-1] / height) / octaves)
    return noise


def _gradients(down: int, across: int, seed: int) -> NDArray[np.float32]:
    """Unit vectors at the lattice points, closed at the far edges: (down + 1, across + 1, 2)."""
    angle = 2 * np.pi * chance(seed, np.arange(down)[:, None], np.arange(across))
    vectors = np.stack([np.sin(angle), np.cos(angle)], axis=-1).astype(np.float32)
    return np.pad(vectors, ((0, 1), (0, 1), (0, 0)), mode="wrap")


def _octave(gradients: NDArray[np.float32], rows: NDArray[np.int64], height: int, width: int) -> NDArray[np.float32]:
    """One octave for some rows of the noise."""
    y, cell_y = _split(rows, height, gradients.shape[0] - 1)
    x, cell_x = _split(np.arange(width), width, gradients.shape[1] - 1)
    fade_y, fade_x = _fade(y)[:, None], _fade(x)

    def slope(down: int, right: int) -> NDArray[np.float32]:
        """What the gradient at one corner of the lattice's cells gives.

        Parameters
        ----------
        down, right : int
            Which corner, 0 or 1.

        Returns
        -------
        slope : (height, width) float32
        """
        vector = gradients[cell_y[:, None] + down, cell_x + right]
        result: NDArray[np.float32] = vector[..., 0] * (y[:, None] - down) + vector[..., 1] * (x - right)
        return result

    upper = slope(0, 0) * (1 - fade_x) + slope(0, 1) * fade_x
    lower = slope(1, 0) * (1 - fade_x) + slope(1, 1) * fade_x
    return np.asarray(upper * (1 - fade_y) + lower * fade_y, dtype=np.float32)


def _split(places: NDArray[np.int64], size: int, cells: int) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
    """Position inside the lattice cell, and its number, for places along one axis."""
    position = places * (cells / size)
    number = np.minimum(np.floor(position).astype(np.int64), cells - 1)
    return (position - number).astype(np.float32), number


def _fade(t: NDArray[np.float32]) -> NDArray[np.float32]:
    return t * t * t * (t * (t * 6 - 15) + 10)
