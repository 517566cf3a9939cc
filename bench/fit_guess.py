"""Fits the weights by which cuts are guessed, on made-up sheets, and prints them for `core/sheet/plausible.py`.

With --only the others stay as they are.

.venv/bin/python bench/fit_guess.py [EACH [FIRST]] [--only SIGN,SIGN...]
"""

import sys
from collections.abc import Callable
from multiprocessing import Pool
from typing import NamedTuple

import numpy as np
from scipy.optimize import minimize

from guess_cases import MAKERS, is_cut
from knitground.core.sheet.guess import looks_at
from knitground.core.sheet.plausible import AXIS_WEIGHTS, PAIR_WEIGHTS

HELD_SMALL = 1.0
HARDEST, ANY = 400, 200
SHARES = {"unkind": 3, "kind": 2, "headed": 2, "small": 3}
"""How many sheets there are of each kind, against one of the others."""
Maker = Callable[[int], tuple[np.ndarray, tuple[int, ...], str]]
NAMES = [*AXIS_WEIGHTS, *PAIR_WEIGHTS]
NOW = np.array([*AXIS_WEIGHTS.values(), *PAIR_WEIGHTS.values()])


class Case(NamedTuple):
    """The signs of some cuts of a sheet, (N, len(NAMES)), and which of them is the true one, (N,) bool."""

    signs: np.ndarray
    true: np.ndarray


def case_of(which: tuple[Maker, int]) -> Case | None:
    """A sheet's cuts: the true one, those that now seem best, and some others; None if the true one is not weighed."""
    make, seed = which
    picture, truth, _ = make(seed)
    random, parts = np.random.default_rng(seed), []
    for look in looks_at(picture):
        n, m = len(look.xs), len(look.ys)
        each = look.across[:, None] + look.down[None]
        signs = np.concatenate([each, look.both], axis=2).reshape(n * m, -1)
        true = np.array([
            is_cut((x.tile, y.tile, x.margin, y.margin, x.spacing, y.spacing), truth, picture)
            for x, y in (look.pair(x, y) for x in range(n) for y in range(m))
        ])  # fmt: skip
        seems = signs @ NOW if NOW.any() else signs[:, 0] + 2 * signs[:, 1]
        some = random.choice(n * m, min(n * m, ANY), replace=False)
        kept = np.unique(np.concatenate([np.argsort(-seems)[:HARDEST], some, np.flatnonzero(true)]))
        parts.append(Case(signs[kept].astype(np.float32), true[kept]))
    found = Case(np.concatenate([part.signs for part in parts]), np.concatenate([part.true for part in parts]))
    return found if found.true.any() else None


def fitted(cases: list[Case], free: np.ndarray) -> np.ndarray:
    """The weights that make the true cuts likeliest, (N,), where only those that are free, (N,) bool, may change."""
    scale = np.concatenate([case.signs for case in cases]).std(axis=0) + 1e-6

    fixed = np.where(free, 0.0, NOW * scale)

    def surprise(weights: np.ndarray) -> tuple[float, np.ndarray]:
        total, slope = HELD_SMALL * float(weights @ weights) / 2, HELD_SMALL * weights
        for signs, true in ((case.signs / scale, case.true) for case in cases):
            scores = signs @ (weights + fixed)
            likely = np.exp(scores - scores.max())
            wanted = likely * true
            total -= float(np.log(wanted.sum() / likely.sum()))
            slope = slope + free * (signs.T @ (likely / likely.sum() - wanted / wanted.sum()))
        return total, slope

    found = minimize(surprise, np.zeros(len(scale)), jac=True, method="L-BFGS-B", options={"maxiter": 300})
    return (found.x + fixed) / scale


def main() -> None:
    """Gathers cases and prints the weights."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    each, first = (*numbers, *(100, 40_000)[len(numbers) :])
    only = sys.argv[sys.argv.index("--only") + 1].split(",") if "--only" in sys.argv else NAMES
    seeds = [(make, first + n) for name, make in MAKERS.items() for n in range(SHARES.get(name, 1) * each)]
    with Pool() as pool:
        cases = [case for case in pool.map(case_of, seeds, chunksize=4) if case is not None]
    print(f"{len(seeds) - len(cases)} of {len(seeds)} sheets whose true cut is not weighed")
    for name, weight in zip(NAMES, fitted(cases, np.isin(NAMES, only)), strict=True):
        print(f'    "{name}": {weight:.3f},')


if __name__ == "__main__":
    main()
