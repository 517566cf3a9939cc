"""The lookup table that knitting reads: from four terrains to the tiles that show them.

A combination of four labels is one number in base (terrains + 1). Each known combination owns a run of
`SLOTS` slots that its variants share by weight, so that choosing one is a single look at the table.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from knitground.core.tiles.tile import EMPTY, GAP

SLOT_BITS = 10
SLOTS = 1 << SLOT_BITS
_MOST_DENSE = 6**4


@dataclass(frozen=True)
class JoinTable:
    """A compiled join set.

    Attributes
    ----------
    base : int
        Number of terrains + 1.
    starts : (base ** 4,) int64
        Where the slots of a combination start; combinations without a tile share the slots of `GAP`.
    slots : (N * SLOTS,) int32
        Cell codes.
    dense : bool
        Whether every combination has slots of its own in order, so that `starts` need not be looked up.
    """

    base: int
    starts: NDArray[np.int64]
    slots: NDArray[np.int32]
    dense: bool


def compile_table(labels: Mapping[int, Sequence[int]], weights: Mapping[int, float], terrain_count: int) -> JoinTable:
    """The table of a join set.

    Parameters
    ----------
    labels : mapping of cell code to four terrain numbers
    weights : mapping of cell code to weight
        A code without a weight weighs 1. Variants share to 1/1024; a positive weight never rounds to nothing.
    terrain_count : int
    """
    base = terrain_count + 1
    variants: dict[int, list[int]] = {}
    for code, row in labels.items():
        if any(row) and max(row) <= terrain_count:
            variants.setdefault(combination(row, base), []).append(code)
    starts = np.full(base**4, SLOTS, dtype=np.int64)
    starts[0] = 0
    runs = [np.full(SLOTS, EMPTY, dtype=np.int32), np.full(SLOTS, GAP, dtype=np.int32)]
    for number, codes in sorted(variants.items()):
        starts[number] = len(runs) * SLOTS
        runs.append(share_slots(codes, [weights.get(code, 1.0) for code in codes]))
    slots = np.concatenate(runs)
    if base**4 > _MOST_DENSE:
        return JoinTable(base, starts, slots, dense=False)
    every = slots.reshape(-1, SLOTS)[starts // SLOTS].ravel()
    return JoinTable(base, np.arange(base**4, dtype=np.int64) * SLOTS, every, dense=True)


def combination(labels: Sequence[int], base: int) -> int:
    """One number for four labels."""
    first, second, third, fourth = labels
    return ((first * base + second) * base + third) * base + fourth


def share_slots(codes: Sequence[int], weights: Sequence[float]) -> NDArray[np.int32]:
    """`SLOTS` slots shared among codes by weight, each positive weight getting at least one.

    If all weights are zero, the codes share evenly: a tile that is the only one for its place is never lost.
    With more positive weights than slots, the heaviest are kept.
    """
    share = np.asarray(weights, dtype=np.float64)
    if share.sum() <= 0:
        share = np.ones(len(codes))
    order = np.argsort(-share, kind="stable")[:SLOTS]
    kept = share[order]
    exact = kept / kept.sum() * SLOTS
    counts = np.where(kept > 0, np.maximum(np.floor(exact), 1), 0).astype(np.int64)
    while counts.sum() > SLOTS:
        counts[int(np.argmax(np.where(counts > 1, counts - exact, -np.inf)))] -= 1
    spare = SLOTS - int(counts.sum())
    counts[np.argsort(counts - exact, kind="stable")[:spare]] += 1
    # Slots follow the order of the codes, not of the weights, so that changing one weight moves few choices.
    place = np.argsort(order, kind="stable")
    return np.repeat(np.asarray(codes, dtype=np.int32)[order][place], counts[place])
