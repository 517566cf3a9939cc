"""How fast filling to fit is, and how it grows with the field; also on sets that are hard to lay.

.venv/bin/python bench/fill_cases.py
"""

import time
from itertools import product

import numpy as np

from knitground.core.grow.agreeing import SIDE_STEPS, allowed, steps_of
from knitground.core.grow.fitting import CannotAgree, Field, Rules, fill, rect_field
from knitground.core.joins.cells import combinations

SIDES = (64, 256, 1024)


def sets() -> dict[str, tuple[Rules, tuple[tuple[int, int], ...]]]:
    """Rules by name, and the neighbours of which they tell."""
    corners, edges = list(product((1, 2), repeat=4)), list(product((0, 1), repeat=4))
    cells = [(0,) * 9, *combinations([(1, 1, 1, 1, 1, 1, 1, 1, 1)], 0)]
    random = np.random.default_rng(3)
    hard = [tuple(row) for row in random.integers(0, 3, (47, 4)).tolist()]
    found = {"corner": ("corner", corners), "edge": ("edge", edges), "cell": ("cell", cells), "random": ("edge", hard)}
    made = {
        name: (Rules(allowed(kind, rows), np.ones(len(rows))), steps_of(kind)) for name, (kind, rows) in found.items()
    }
    made["all allowed"] = Rules(np.ones((4, 47, 47), dtype=bool), np.arange(1.0, 48.0)), SIDE_STEPS
    return made


def timed(rules: Rules, field: Field) -> float:
    """The seconds that the best of a few runs takes."""
    best = np.inf
    for _ in range(2):
        began = time.perf_counter()
        fill(rules, field, None, 5)
        best = min(best, time.perf_counter() - began)
    return best


def main() -> None:
    """Prints cells a second, and how much longer each cell takes on a larger field."""
    for name, (rules, steps) in sets().items():
        fill(rules, rect_field(8, 8, steps, wraps=False), None, 1)
        each = []
        for side in SIDES:
            try:
                each.append(timed(rules, rect_field(side, side, steps, wraps=False)) / side**2)
            except CannotAgree as problem:
                print(f"{name} {side}: {problem}")
        speeds = ", ".join(f"{side}: {1e-6 / one:.2f} M/s" for side, one in zip(SIDES, each, strict=False))
        print(f"{name:12} {len(rules.weights):3} tiles  {speeds}  largest against smallest: {each[-1] / each[0]:.2f} x")


if __name__ == "__main__":
    main()
