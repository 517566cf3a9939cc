"""How good a map is in numbers: whether a lattice shows, whether shares are as wanted."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance

_SHUFFLES, _PART, _KINDS = 40, 256, 11
_LEAST, _FARTHEST = 16, 64


class Repetition(NamedTuple):
    """How alike a layer is to itself moved by some cells, against a fair shuffle of the same tiles.

    Attributes
    ----------
    peak : float
        How much more cells agree at the strongest move than they would by chance, in standard errors.
    fair : float
        The 99th percentile of the same for shuffles.
    down, across : int
        The strongest move.
    """

    peak: float
    fair: float
    down: int
    across: int

    @property
    def shows(self) -> bool:
        """Whether the lattice stands out more than in 99 of 100 shuffles."""
        return self.peak > self.fair


def repetition(codes: NDArray[np.int32], among: NDArray[np.bool_] | None = None, *, seed: int = 1) -> Repetition | None:
    """Whether tiles repeat at a distance more than chance would have it.

    The autocorrelation of each code's indicator, summed over all codes, is measured at every move up to half of the
    field, without those to the next two cells, where tiles hang together anyway. Shuffles of the same codes over the
    same cells tell what is usual.

    Parameters
    ----------
    codes : (H, W) int32
    among : (H, W) bool, optional
        The cells that count; all if not given.
    seed : int
        Of the shuffles.

    Returns
    -------
    repetition : Repetition or None
        None where there are too few cells, or fewer than two codes.

    References
    ----------
    N. Wiener, "Generalized harmonic analysis", Acta Mathematica 55 (1930): the autocorrelation by way of the spectrum.
    """
    mask = np.ones(codes.shape, dtype=bool) if among is None else among
    # A lattice shows in a part of a large field as well as in all of it.
    part = tuple(slice((size - min(size, _PART)) // 2, (size + min(size, _PART)) // 2) for size in codes.shape)
    mask, codes = mask[part], codes[part]
    kinds, numbers, counts = np.unique(codes[mask], return_inverse=True, return_counts=True)
    if mask.sum() < _LEAST or len(kinds) < 2:
        return None
    # Codes that come seldom are told together: one by one they say little.
    rank = np.argsort(np.argsort(-counts, kind="stable"), kind="stable")
    numbers = np.minimum(rank[numbers], _KINDS)
    peak, down, across = _strongest(numbers, mask)
    if not down and not across:
        return None
    fair = []
    for shuffle in range(_SHUFFLES):
        order = np.argsort(chance(seed, np.array([[shuffle]]), np.arange(len(numbers))[None])[0], kind="stable")
        fair.append(_strongest(numbers[order], mask)[0])
    # With a few shuffles the percentile is told by their mean and spread.
    return Repetition(peak, float(np.mean(fair) + 2.33 * max(float(np.std(fair)), 1e-9)), down, across)


def _strongest(numbers: NDArray[np.intp], mask: NDArray[np.bool_]) -> tuple[float, int, int]:
    """The strongest agreement of a field with itself moved, in standard errors, and the move.

    Parameters
    ----------
    numbers : (N,) intp
        Codes of the cells of the mask, counted from 0.
    mask : (H, W) bool
    """
    height, width = mask.shape
    size = 2 * height, 2 * width
    shares = np.bincount(numbers) / len(numbers)
    pairs = _correlation(mask.astype(np.float64), size)
    agreeing = np.zeros(size)
    for number in range(len(shares)):
        field = np.zeros(mask.shape)
        field[mask] = numbers == number
        agreeing += _correlation(field, size)
    alike = float(np.square(shares).sum())
    # The moves up to half of the field, each told once.
    most_down, most_across = min(height // 2, _FARTHEST), min(width // 2, _FARTHEST)
    downs, acrosses = np.mgrid[0 : most_down + 1, -most_across : most_across + 1]
    count = pairs[downs % size[0], acrosses % size[1]].round()
    seen = (np.maximum(np.abs(downs), np.abs(acrosses)) > 2) & (count >= _LEAST) & ((downs > 0) | (acrosses > 0))
    if not seen.any():
        return 0.0, 0, 0
    more = agreeing[downs % size[0], acrosses % size[1]] - count * alike
    error = np.where(seen, more / np.sqrt(np.maximum(count * alike * (1 - alike), 1e-9)), -np.inf)
    best = np.unravel_index(int(error.argmax()), error.shape)
    return float(error[best]), int(downs[best]), int(acrosses[best])


def _correlation(field: NDArray[np.float64], size: tuple[int, int]) -> NDArray[np.float64]:
    """The autocorrelation of a field at all moves, without going round: an array of twice its size.

    Parameters
    ----------
    field : (H, W) float64
    """
    spectrum = np.fft.rfft2(field, size)
    return np.asarray(np.fft.irfft2(spectrum * spectrum.conj(), size))
