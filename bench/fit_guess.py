"""Fits the weights by which cuts are guessed, on made-up sheets, and prints them for `core/sheet/plausible.py`.

.venv/bin/python bench/fit_guess.py [UNKIND [KIND [HEADED [FIRST]]]]
"""

import sys
from collections.abc import Callable
from multiprocessing import Pool
from typing import NamedTuple

import numpy as np
from scipy.optimize import minimize

from guess_cases import headed_case, make_case
from knitground.core.sheet.guess import looks_at
from knitground.core.sheet.plausible import AXIS_WEIGHTS, PAIR_WEIGHTS
from unkind_sheets import unkind_case

HELD_SMALL = 1.0
HARDEST, ANY = 400, 200
Maker = Callable[[int], tuple[np.ndarray, tuple[int, ...], str]]
NAMES = [*AXIS_WEIGHTS, *PAIR_WEIGHTS]


class Case(NamedTuple):
    """The signs of some cuts of a sheet, (N, len(NAMES)), and which of them is the true one, (N,) bool."""

    signs: np.ndarray
    true: np.ndarray


def case_of(which: tuple[Maker, int]) -> Case | None:
    """A sheet's cuts: the true one, those that now seem best, and some others; None if the true one is not weighed."""
    make, seed = which
    picture, truth, _ = make(seed)
    random, parts = np.random.default_rng(seed), []
    now = np.array([*AXIS_WEIGHTS.values(), *PAIR_WEIGHTS.values()])
    for look in looks_at(picture):
        n, m = len(look.xs), len(look.ys)
        each = look.across[:, None] + look.down[None]
        signs = np.concatenate([each, look.both], axis=2).reshape(n * m, -1)
        true = np.array([
            (x.tile, y.tile, x.margin, y.margin, x.spacing, y.spacing) == truth
            for x, y in (look.pair(x, y) for x in range(n) for y in range(m))
        ])  # fmt: skip
        seems = signs @ now if now.any() else signs[:, 0] + 2 * signs[:, 1]
        some = random.choice(n * m, min(n * m, ANY), replace=False)
        kept = np.unique(np.concatenate([np.argsort(-seems)[:HARDEST], some, np.flatnonzero(true)]))
        parts.append(Case(signs[kept].astype(np.float32), true[kept]))
    found = Case(np.concatenate([part.signs for part in parts]), np.concatenate([part.true for part in parts]))
    return found if found.true.any() else None


def fitted(cases: list[Case]) -> np.ndarray:
    """The weights that make the true cuts likeliest."""
    scale = np.concatenate([case.signs for case in cases]).std(axis=0) + 1e-6

    def surprise(weights: np.ndarray) -> tuple[float, np.ndarray]:
        total, slope = HELD_SMALL * float(weights @ weights) / 2, HELD_SMALL * weights
        for signs, true in ((case.signs / scale, case.true) for case in cases):
            scores = signs @ weights
            likely = np.exp(scores - scores.max())
            wanted = likely * true
            total -= float(np.log(wanted.sum() / likely.sum()))
            slope = slope + signs.T @ (likely / likely.sum() - wanted / wanted.sum())
        return total, slope

    found = minimize(surprise, np.zeros(len(scale)), jac=True, method="L-BFGS-B", options={"maxiter": 300})
    return found.x / scale


def main() -> None:
    """Gathers cases and prints the weights."""
    numbers = [int(argument) for argument in sys.argv[1:]]
    *counts, first = (*numbers, *(400, 200, 200, 40_000)[len(numbers) :])
    makers = unkind_case, make_case, headed_case
    seeds = [(make, first + n) for make, count in zip(makers, counts, strict=True) for n in range(count)]
    with Pool() as pool:
        cases = [case for case in pool.map(case_of, seeds, chunksize=4) if case is not None]
    print(f"{len(seeds) - len(cases)} of {len(seeds)} sheets whose true cut is not weighed")
    for name, weight in zip(NAMES, fitted(cases), strict=True):
        print(f'    "{name}": {weight:.3f},')


if __name__ == "__main__":
    main()
