"""A mix laid so that no two alike lie side by side: one pass, compiled."""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[Any]


@njit(cache=True)
def unlike(sides: Array, weights: Array, numbers: Array) -> Array:
    """An option for each place by weight, none like its neighbour's, as far as there are enough: (N,) int32.

    Places are gone through in rows, so that of three options one is always left but where a ground goes round.

    Parameters
    ----------
    sides : (S, N) int32
        The neighbours of each place, -1 for none.
    weights : (K,) float64
    numbers : (N,) float64
        Chance, in [0, 1).
    """
    chosen = np.full(numbers.shape[0], -1, dtype=np.int32)
    free = np.empty(weights.shape[0], dtype=np.bool_)
    for place in range(numbers.shape[0]):
        free[:] = True
        for way in range(sides.shape[0]):
            other = sides[way, place]
            if other >= 0 and chosen[other] >= 0:
                free[chosen[other]] = False
        total = 0.0
        for option in range(weights.shape[0]):
            total += weights[option] * free[option]
        if total <= 0.0:
            free[:] = True
            total = weights.sum()
        wanted = numbers[place] * total
        for option in range(weights.shape[0]):
            if free[option]:
                chosen[place] = option
                wanted -= weights[option]
                if wanted < 0.0:
                    break
    return chosen
