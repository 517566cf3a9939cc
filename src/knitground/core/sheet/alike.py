"""What several sheets that come together have in common: a size that most of them are likely to be cut in."""

from collections.abc import Sequence

import numpy as np

from knitground.core.sheet.axes import VERY_USUAL
from knitground.core.sheet.guess import Guess

_HELD_BACK = 0.4
"""The power to which shares are taken: what is guessed of a sheet on which little shows is surer than it is right."""
_LEAST = 0.04
"""What share a size must have on a sheet then to be one of those that it may have."""
_GOES_INTO, _SHOWN = 0.05, 0.7
"""What share a size that is not very usual has at least on a sheet that holds a whole number of its tiles, if it has so
much on another."""
_ENOUGH = 0.1
"""How likely a guess of the common size must be on a sheet to be taken; several sheets tell more than its pixels."""
_ELSE = 0.05
"""How likely a size is on a sheet for which it was not guessed at all."""
_EVEN = 1.0
"""What speaks against a size on each sheet that may have it, in logits, where all hold an even number of its tiles."""


def likely_size(sheets: Sequence[tuple[Sequence[Guess], tuple[int, int]]]) -> tuple[int, int] | None:
    """The size of tiles that fits several sheets best.

    Each sheet votes with how likely each size is on it. Where all go into tiles of twice the size, those are likelier:
    of true tiles some sheet would hold an odd number.

    Parameters
    ----------
    sheets : sequence of (guesses, (width, height))
        What is guessed of each by itself, and what each measures in pixels.

    Returns
    -------
    size : (width, height) or None
        None where there are no two sheets, or where more than half of them may not have a size in common.
    """
    shares: dict[tuple[int, int], list[float]] = {}
    for number, (guesses, _) in enumerate(sheets):
        held_back = np.array([guess.confidence for guess in guesses]) ** _HELD_BACK
        for guess, share in zip(guesses, held_back / held_back.sum(), strict=True):
            size = guess.tile_width, guess.tile_height
            shares.setdefault(size, [0.0] * len(sheets))[number] += float(share)
    for (wide, high), each in shares.items():
        if (wide == high and wide in VERY_USUAL) or max(each) < _SHOWN:
            continue  # it is weighed on each sheet that it goes into as it is, or shows nowhere
        for number, (_, (width, height)) in enumerate(sheets):
            if width % wide == 0 == height % high:
                each[number] = max(each[number], _GOES_INTO)
    scores, most = {}, max(2, len(sheets) // 2 + 1)
    for size, each in shares.items():
        may_be = [sheet for (_, sheet), share in zip(sheets, each, strict=True) if share >= _LEAST]
        if len(may_be) >= most:
            even = all(side % (2 * part) == 0 for sheet in may_be for side, part in zip(sheet, size, strict=True))
            scores[size] = float(np.log(np.array(each) + _ELSE).sum()) - _EVEN * len(may_be) * even
    return max(scores, key=lambda size: (scores[size], size), default=None)


def first_of(size: tuple[int, int], guesses: Sequence[Guess], least: float = _ENOUGH) -> list[Guess]:
    """The same guesses, those of a size that other sheets have first if they are likely enough, given that size."""
    return sorted(guesses, key=lambda one: (one.tile_width, one.tile_height) != size or one.confidence < least)
