"""The lookup table that knitting reads: from the terrains round a cell to the tiles that show them.

A combination of four labels is one number in base (terrains + 1). Eight labels are two such numbers, whose
classes (those that some tile shows, all others being one) make one number again, so that a full set of 32
terrains needs no table of 33⁸. Each known combination owns a run of `SLOTS` slots that its variants share by
weight, so that choosing one is a single look at the table.
"""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.apart import stand_together
from knitground.core.joins.sets import PLACES, JoinKind
from knitground.core.tiles.tile import EMPTY, GAP

SLOT_BITS = 10
SLOTS = 1 << SLOT_BITS
_MOST_DENSE = 6**4


@dataclass(frozen=True, eq=False)
class JoinTable:
    """A compiled join set.

    Attributes
    ----------
    kind : JoinKind
    base : int
        Number of terrains + 1.
    starts : (N,) int64
        Where the slots of a combination start; combinations without a tile share the slots of `GAP`.
    slots : (M * SLOTS,) int32
        Cell codes.
    dense : bool
        Whether every combination has slots of its own in order, so that `starts` need not be looked up.
    known : (N,) bool
        Which combinations have a tile; nothing all round has none and needs none, and counts as known.
    classes : (2, base ** 4) uint32, or None
        For full sets: what the four corners and the four edges add to the number of a combination.
    combinations : (C, P) uint8
        The combinations that may be laid, in order, as the labels of the P places.
    complete : bool
        Whether nothing that may be painted lacks a tile.
    searched : dict
        What `search` found for surroundings that it has seen; the same always gives the same.
    """

    kind: JoinKind
    base: int
    starts: NDArray[np.int64]
    slots: NDArray[np.int32]
    dense: bool
    known: NDArray[np.bool_]
    classes: NDArray[np.uint32] | None
    combinations: NDArray[np.uint8]
    complete: bool
    searched: dict[bytes, tuple[NDArray[np.uint8], bool]] = field(default_factory=dict)

    def numbers(self, labels: NDArray[np.integer]) -> NDArray[np.int64]:
        """Numbers of combinations, given as (..., P) labels.

        Parameters
        ----------
        labels : (..., P) int
            From 0 up to the number of terrains.

        Returns
        -------
        numbers : (...) int64
            The labels as digits of one number.
        """
        return self.of_halves(self.halves(labels))

    @property
    def digits(self) -> NDArray[np.int64]:
        """What a label of 1 at each place adds to the halves of a combination, (P, H) int64."""
        count = 1 if self.classes is None else 2
        return np.kron(np.eye(count, dtype=np.int64), self.base ** np.arange(3, -1, -1)[:, None])

    def halves(self, labels: NDArray[np.integer]) -> NDArray[np.int64]:
        """Combinations as one number, or for full sets as two: of the corners and of the edges.

        Each is a sum over the places (see `digits`), so that one label can be exchanged without the others at hand.

        Parameters
        ----------
        labels : (..., P) int

        Returns
        -------
        halves : (..., H) int64
        """
        if self.classes is None:
            return _polynomial(labels, self.base)[..., None]
        return np.stack([_polynomial(labels[..., :4], self.base), _polynomial(labels[..., 4:], self.base)], axis=-1)

    def of_halves(self, halves: NDArray[np.int64]) -> NDArray[np.int64]:
        """Numbers of combinations, given as `halves` gives them.

        Parameters
        ----------
        halves : (..., H) int64

        Returns
        -------
        numbers : (...) int64
        """
        if self.classes is None:
            return np.asarray(halves[..., 0])
        return np.asarray(self.classes[0][halves[..., 0]].astype(np.int64) + self.classes[1][halves[..., 1]])

    def lays(self, labels: NDArray[np.integer]) -> NDArray[np.bool_]:
        """Which combinations, given as (..., P) labels, have a tile or need none.

        Parameters
        ----------
        labels : (..., P) int

        Returns
        -------
        lays : (...) bool
        """
        found: NDArray[np.bool_] = self.known[self.numbers(labels)]
        return found

    def lays_at(self, places: Sequence[NDArray[np.integer]]) -> NDArray[np.bool_]:
        """The same as `lays`, given the labels of each place as an array of its own.

        Parameters
        ----------
        places : sequence of (...) int

        Returns
        -------
        lays : (...) bool
        """
        halves = [
            as_number(places[first : first + 4], self.base, np.empty(places[0].shape, dtype=np.int32))
            for first in range(0, len(places), 4)
        ]
        if self.classes is None:
            return np.asarray(self.known[halves[0]])
        return np.asarray(self.known[self.classes[0][halves[0]] + self.classes[1][halves[1]]])

    def stand_apart(self, places: Sequence[NDArray[np.integer]]) -> NDArray[np.bool_]:
        """Which combinations, given as `lays_at` takes them, hold terrains that are not expected to meet."""
        found = np.zeros(places[0].shape, dtype=bool)
        if not self._together.all():
            for one, other in itertools.combinations(places, 2):
                found |= ~self._together[one, other]
        return found

    @cached_property
    def _together(self) -> NDArray[np.bool_]:
        first = 0 if self.may_be_bare else 1
        together = np.ones((self.base, self.base), dtype=bool)
        rows = [tuple(row) for row in self.combinations.tolist()]
        together[first:, first:] = stand_together(self.kind, rows, range(first, self.base))
        return together

    @property
    def may_be_bare(self) -> bool:
        """Whether nothing all round is a combination too."""
        return bool(len(self.combinations)) and not self.combinations[0].any()


def compile_table(
    labels: Mapping[int, Sequence[int]],
    weights: Mapping[int, float],
    terrain_count: int,
    *,
    kind: JoinKind = "corner",
    bare: bool = False,
) -> JoinTable:
    """The table of a join set.

    Parameters
    ----------
    labels : mapping of cell code to four or, for full sets, eight terrain numbers
    weights : mapping of cell code to weight
        A code without a weight weighs 1. Variants share to 1/1024; a positive weight never rounds to nothing.
    terrain_count : int
    bare : bool
        Whether tiles may border on nothing.
    """
    base = terrain_count + 1
    variants: dict[tuple[int, ...], list[int]] = {}
    for code, row in labels.items():
        if any(row) and max(row) <= terrain_count:
            variants.setdefault(tuple(row), []).append(code)
    places = len(PLACES[kind])
    rows = np.array(sorted(variants), dtype=np.uint8).reshape(-1, places)
    classes, size = _classes(rows, base) if kind == "full" else (None, base**4)
    starts = np.full(size, SLOTS, dtype=np.int64)
    runs = [np.full(SLOTS, EMPTY, dtype=np.int32), np.full(SLOTS, GAP, dtype=np.int32)]
    numbers = _polynomial(rows[:, :4], base)
    nothing = 0
    if classes is not None:
        numbers = classes[0][numbers].astype(np.int64) + classes[1][_polynomial(rows[:, 4:], base)]
        nothing = int(classes[0][0] + classes[1][0])
    starts[nothing] = 0
    for number, row in zip(numbers.tolist(), sorted(variants), strict=True):
        starts[number] = len(runs) * SLOTS
        runs.append(share_slots(variants[row], [weights.get(code, 1.0) for code in variants[row]]))
    slots, known = np.concatenate(runs), starts != SLOTS
    if dense := size <= _MOST_DENSE:
        slots = slots.reshape(-1, SLOTS)[starts // SLOTS].ravel()
        starts = np.arange(size, dtype=np.int64) * SLOTS
    wanted = base**places - 1 if bare else terrain_count**places
    if bare:
        rows = np.concatenate([np.zeros((1, places), dtype=np.uint8), rows])
    return JoinTable(kind, base, starts, slots, dense, known, classes, rows, len(variants) == wanted)


def _classes(rows: NDArray[np.uint8], base: int) -> tuple[NDArray[np.uint32], int]:
    """What the corners and the edges of eight labels add to a number, and how many numbers there are.

    Class 0 is of all corners, or all edges, that no tile shows; nothing all round always has a class.
    """
    classes = np.zeros((2, base**4), dtype=np.uint32)
    counts = []
    for half in (0, 1):
        shown = np.unique(np.append(_polynomial(rows[:, 4 * half : 4 * half + 4], base), 0))
        classes[half][shown] = np.arange(1, len(shown) + 1)
        counts.append(len(shown) + 1)
    classes[0] *= np.uint32(counts[1])
    return classes, counts[0] * counts[1]


def _polynomial(labels: NDArray[np.integer], base: int) -> NDArray[np.int64]:
    """One number for four labels, in the last axis."""
    # A product of small floats is exact and runs in one go; the largest number is below 2 ** 24.
    digits = np.array([base**3, base**2, base, 1], dtype=np.float32)
    return np.asarray(labels.astype(np.float32) @ digits).astype(np.int64)


def as_number(places: Sequence[NDArray[np.integer]], base: int, out: NDArray[Any]) -> NDArray[Any]:
    """One number for four labels of each cell, given the labels of each place as an array of its own.

    Parameters
    ----------
    places : sequence of four (...) int
    base : int
    out : (...) int
        Takes the numbers, and is given back.
    """
    np.multiply(places[0], base, out=out, dtype=out.dtype)
    for following in places[1:3]:
        out += following
        out *= base
    out += places[3]
    return out


def share_slots(codes: Sequence[int], weights: Sequence[float]) -> NDArray[np.int32]:
    """`SLOTS` slots shared among codes by weight, each positive weight getting at least one.

    If all weights are zero, the codes share evenly: a tile that is the only one for its place is never lost.
    With more positive weights than slots, the heaviest are kept.

    Parameters
    ----------
    codes : sequence of int
        Cell codes.
    weights : sequence of float
        One for each code, 0 or more.

    Returns
    -------
    slots : (SLOTS,) int32
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
