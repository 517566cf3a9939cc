"""Chance that depends on place alone.

A choice at cell (x, y) is a pure function of (seed, x, y): repainting one corner of a ground never
reshuffles another, and any window can be worked out without its surroundings.
"""

import zlib

import numpy as np
from numpy.typing import ArrayLike, NDArray

_MULTIPLIERS = np.array([0x7FEB352D, 0x846CA68B], dtype=np.uint32)
_STRIDES = np.array([0x9E3779B1, 0x85EBCA77], dtype=np.uint32)


def chance_bits(seed: int, ys: ArrayLike, xs: ArrayLike) -> NDArray[np.uint32]:
    """32 random bits per cell.

    Parameters
    ----------
    seed : int
        Any integer; its low 32 bits count.
    ys, xs : array_like of int, broadcastable to (H, W)
        Cell coordinates; negative ones are fine.

    Returns
    -------
    bits : (H, W) uint32

    References
    ----------
    Integer mixing after C. Wellons, "Prospecting for hash functions" (2018), two-round xorshift-multiply.
    """
    row = np.asarray(ys).astype(np.uint32) * _STRIDES[0]
    column = np.asarray(xs).astype(np.uint32) * _STRIDES[1]
    mixed = _mixed(row ^ np.uint32(seed & 0xFFFFFFFF)) ^ column
    return _mixed(mixed)


def fill_chance_bits(
    seed: int,
    rows: NDArray[np.int64],
    columns: NDArray[np.int64],
    out: NDArray[np.uint32],
    scratch: NDArray[np.uint32],
) -> None:
    """`chance_bits` of a window, written into a buffer.

    Parameters
    ----------
    rows : (H,) int64
    columns : (W,) int64
    out, scratch : (H, W) uint32
        The result, and room to work in.
    """
    row = _mixed(rows.astype(np.uint32) * _STRIDES[0] ^ np.uint32(seed & 0xFFFFFFFF))
    np.bitwise_xor(row[:, None], columns.astype(np.uint32) * _STRIDES[1], out=out)
    _mix(out, scratch)


def chance(seed: int, ys: ArrayLike, xs: ArrayLike) -> NDArray[np.float64]:
    """Uniform numbers in [0, 1), one per cell.

    Parameters
    ----------
    seed : int
        From 0 to 2**32 - 1.
    ys, xs : array_like of int
        Rows and columns of cells; they broadcast to (H, W).

    Returns
    -------
    numbers : (H, W) float64
    """
    return chance_bits(seed, ys, xs) / 2.0**32


def choose(weights: ArrayLike, numbers: NDArray[np.float64]) -> NDArray[np.intp]:
    """Index of the weighted option that each number falls on.

    Parameters
    ----------
    weights : (N,) array_like of float
        At least one positive, none negative or NaN; they need not sum to one.
    numbers : array of float in [0, 1)

    Returns
    -------
    options : array of intp, shaped like `numbers`

    Raises
    ------
    ValueError
        If no option can be chosen.
    """
    share = np.asarray(weights, dtype=np.float64)
    if not (share.size and np.isfinite(share).all() and (share >= 0).all() and share.sum() > 0):
        raise ValueError("weights need at least one positive number and no negative ones")
    bounds = np.cumsum(share) / share.sum()
    return np.searchsorted(bounds[:-1], numbers, side="right")


def seed_for(seed: int, name: str) -> int:
    """A seed of its own for each named layer or step, so that layers never repeat one another's pattern."""
    return (seed & 0xFFFFFFFF) ^ zlib.crc32(name.encode())


def _mixed(value: NDArray[np.uint32]) -> NDArray[np.uint32]:
    value = np.array(value)
    _mix(value, np.empty_like(value))
    return value


def _mix(value: NDArray[np.uint32], scratch: NDArray[np.uint32]) -> None:
    for shift, multiplier in ((16, _MULTIPLIERS[0]), (15, _MULTIPLIERS[1])):
        np.right_shift(value, np.uint32(shift), out=scratch)
        value ^= scratch
        value *= multiplier
    np.right_shift(value, np.uint32(16), out=scratch)
    value ^= scratch
