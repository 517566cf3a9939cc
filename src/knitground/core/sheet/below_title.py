"""Rows of a grid in which nothing but a title stands: one that is as high as a row of tiles, right above these."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, grid_of
from knitground.core.sheet.guess import Guess


def below_title(guess: Guess, written: NDArray[np.bool_], art: NDArray[np.bool_]) -> Guess:
    """The same cut from the first row on in which there is art.

    Letters that lie in one tile each are a row of tiles, as those of an alphabet; the words of a title run on from one
    cell to the next.

    Parameters
    ----------
    guess : Guess
    written : (H, W) bool
        Where there is writing.
    art : (H, W) bool
        Where there is art that is not written.
    """
    filled = np.flatnonzero(art.any(axis=1))
    pitch = guess.tile_height + guess.spacing_y
    rows = (int(filled[0]) - guess.margin_y) // pitch if len(filled) else 0
    above = written[: guess.margin_y + rows * pitch]
    if not 0 < rows < guess.rows or written[len(above) :].sum() >= art.sum() or not _runs_on(above, guess):
        return guess
    return replace(guess, margin_y=guess.margin_y + rows * pitch, rows=guess.rows - rows)


def _runs_on(written: NDArray[np.bool_], guess: Guess) -> bool:
    """Whether ink lies in the gutters of a grid, or on both sides of a border that has none."""
    pitch = guess.tile_width + guess.spacing_x
    ends = np.arange(guess.margin_x + guess.tile_width, written.shape[1], pitch)
    if guess.spacing_x:
        within = (ends[:, None] + np.arange(guess.spacing_x)).ravel()
        return bool(written[:, within[within < written.shape[1]]].any())
    return bool((written[:, ends - 1] & written[:, ends]).any())


def astray(cut: Cut, written: NDArray[np.bool_], art: NDArray[np.bool_]) -> int:
    """How many pixels of art lie outside of all tiles of a grid, and how many of writing in them.

    Parameters
    ----------
    cut : Cut
        Of all of the sheet.
    written, art : (H, W) bool
        As of `below_title`.
    """
    height, width = art.shape
    grid = grid_of(cut, width, height)
    within = []
    axes = (height, cut.margin_y, cut.pitch_y, cut.tile_height, grid.rows), (
        width, cut.margin_x, cut.pitch_x, cut.tile_width, grid.columns
    )  # fmt: skip
    for length, margin, pitch, tile, count in axes:
        number, place = np.divmod(np.arange(length) - margin, pitch)
        within.append((number >= 0) & (number < count) & (place < tile))
    tiles = within[0][:, None] & within[1]
    return int(np.count_nonzero(art & ~tiles) + np.count_nonzero(written & tiles))
