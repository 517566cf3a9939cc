"""What several sheets that come together have in common: a size that most of them are likely to be cut in."""

from collections.abc import Sequence

import numpy as np

from knitground.core.sheet.guess import Guess

_LEAST = 0.002
"""What share of the likelihood a size must have on a sheet to be one of those that it may have."""
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
        for guess in guesses:
            size = guess.tile_width, guess.tile_height
            shares.setdefault(size, [0.0] * len(sheets))[number] += guess.confidence
    scores, most = {}, max(2, len(sheets) // 2 + 1)
    for size, each in shares.items():
        may_be = [sheet for (_, sheet), share in zip(sheets, each, strict=True) if share >= _LEAST]
        if len(may_be) >= most:
            even = all(side % (2 * part) == 0 for sheet in may_be for side, part in zip(sheet, size, strict=True))
            scores[size] = float(np.log(np.array(each) + _ELSE).sum()) - _EVEN * len(may_be) * even
    return max(scores, key=lambda size: (scores[size], size), default=None)
