"""Stitches from what was laid by hand: one for each way in which marks stand, said as plainly as the example allows."""

from collections import Counter, defaultdict
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from knitground.core.edits.selecting import Selected
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.joins.sets import MIDDLE, JoinSet, finished
from knitground.core.project.derived import Derived
from knitground.core.stitches.charts import ANY, OTHER, SAME, chart_of, read_sign
from knitground.core.stitches.neighbourhoods import STEPS
from knitground.core.stitches.rules import Piece, Stitch
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef

_ORDER = (0, 2, 6, 8, 1, 3, 5, 7)
"""The places of a neighbourhood in which signs are dropped: corners first, as sides tell more."""
_DIAGONAL = {0: (0, 3, 1), 1: (2, 1, 5), 2: (8, 5, 7), 3: (6, 7, 3)}
"""By corner, from the north-west: the place of its neighbour, and of the two beside it."""

Words = tuple[str, ...]
Laid = tuple[TileRef | None, int]


class Proposal(NamedTuple):
    """A stitch that an example asks for, and the cells of the example that it comes from."""

    stitch: Stitch
    cells: tuple[tuple[int, int], ...]


def stitches_from(
    derived: Derived, selected: Selected | None, plan_layer: str, tile_layer: str, taken: Sequence[str] = ()
) -> list[Proposal]:
    """The stitches that would lay what lies in the selected cells of a layer, by the plan on another one.

    Parameters
    ----------
    plan_layer, tile_layer : str
        A stitched layer, and the one on which tiles were laid by hand.
    taken : sequence of str
        Ids that new stitches may not have.

    Raises
    ------
    BadRequest
        If nothing is selected, or no cell of it bears a mark.
    """
    if selected is None:
        raise BadRequest("Select a piece of the ground that was laid by hand first (S).")
    examples = _examples(derived, selected, plan_layer, tile_layer)
    if not examples:
        raise BadRequest("None of the selected cells bears a mark of the plan; paint the plan below the example first.")
    laid: dict[tuple[int, ...], Counter[Laid]] = defaultdict(Counter)
    cells: dict[tuple[int, ...], list[tuple[int, int]]] = defaultdict(list)
    for cell, marks, tile in examples:
        laid[marks][tile] += 1
        cells[marks].append(cell)
    wanted = {marks: counts.most_common(1)[0][0] for marks, counts in laid.items()}
    found, number = [], 0
    for tile, words, members in _generalised(wanted):
        number += 1
        while f"e{number}" in taken:
            number += 1
        chart = chart_of([words[at : at + 3] for at in (0, 3, 6)])
        piece = () if tile[0] is None else (Piece(tile[0], tile[1]),)
        mine = tuple(cell for marks in members for cell in cells[marks])
        found.append(Proposal(Stitch(f"e{number}", (chart,), piece), mine))
    return sorted(found, key=lambda one: -len(one.stitch.charts[0].signs))


def stitches_of_joins(join_set: JoinSet, mark: int, terrain: int, taken: Sequence[str] = ()) -> list[Stitch]:
    """The tiles of a join set that show a terrain, as stitches for a mark; those that show the most of it first.

    Parameters
    ----------
    mark : int
        Of the plan.
    terrain : int
        Of the join set, from 1.
    """
    charts: dict[Words, TileRef] = {}
    shown: dict[Words, int] = {}
    for ref, labels in finished(join_set).items():
        inside = [label == terrain for label in labels]
        if any(label not in (0, terrain) for label in labels) and join_set.kind != "corner":
            continue
        if not any(inside) or (join_set.kind == "cell" and not inside[MIDDLE]):
            continue
        words = _words_of(join_set.kind, inside, mark)
        if words not in charts:
            charts[words], shown[words] = ref, sum(word == SAME for word in words)
    ordered = sorted(charts, key=lambda words: -shown[words])
    ids = (name for name in (f"j{number}" for number in range(1, 10_000)) if name not in taken)
    return [
        Stitch(name, (chart_of([words[at : at + 3] for at in (0, 3, 6)]),), (Piece(charts[words]),))
        for name, words in zip(ids, ordered, strict=False)
    ]


def shape_of(proposal: Proposal) -> Shape:
    """The cells that a proposal comes from."""
    rows, columns = np.array(proposal.cells).T
    window = CellRect(int(rows.min()), int(columns.min()), int(np.ptp(rows)) + 1, int(np.ptp(columns)) + 1)
    mask = np.zeros((window.height, window.width), dtype=bool)
    mask[rows - window.top, columns - window.left] = True
    return Shape(window, mask)


def _words_of(kind: str, inside: Sequence[bool], mark: int) -> Words:
    """The signs for a tile that shows a terrain at some of its places."""
    words = [ANY] * 9
    words[4] = str(mark)
    sides = {0: 1, 1: 5, 2: 7, 3: 3}
    corners = inside[:4] if kind != "edge" else ()
    edges = inside[:4] if kind == "edge" else inside[4:8]
    for side, on in enumerate(edges):
        words[sides[side]] = SAME if on else OTHER
    for corner, on in enumerate(corners):
        diagonal, one, other = _DIAGONAL[corner]
        if kind == "corner":
            # A corner shows the terrain where all four cells at it do; the first that fits is the one that shows most.
            for place in (diagonal, one, other) if on else ():
                words[place] = SAME
        elif words[one] == words[other] == SAME:
            words[diagonal] = SAME if on else OTHER
    return tuple(words)


def _examples(
    derived: Derived, selected: Selected, plan_layer: str, tile_layer: str
) -> list[tuple[tuple[int, int], tuple[int, ...], Laid]]:
    """The selected cells with a mark: where each lies, the marks round it, and the tile that lies there."""
    knitted, palette = derived.knitted(selected.ground), derived.document.palette
    board, window = knitted.ground.board, selected.shape.window
    plan = knitted.planes[plan_layer]["plan"]
    marks = np.stack(board.around(plan, "cells", STEPS, window))
    codes = np.maximum(knitted.codes(tile_layer, window), 0)
    found: list[tuple[tuple[int, int], tuple[int, ...], Laid]] = []
    for row, column in np.argwhere(selected.shape.mask & (marks[4] > 0)).tolist():
        code = int(codes[row, column])
        tile: Laid = (palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT) if code else (None, 0)
        here = row + window.top, column + window.left
        found.append((here, tuple(marks[:, row, column].tolist()), tile))
    return found


def _generalised(wanted: dict[tuple[int, ...], Laid]) -> list[tuple[Laid, Words, list[tuple[int, ...]]]]:
    """Charts that tell the examples apart with as few signs as possible, and the examples that each comes from."""
    found: list[tuple[Laid, Words, list[tuple[int, ...]]]] = []
    left = dict(wanted)
    while left:
        marks, tile = next(iter(left.items()))
        others = [one for one, lays in wanted.items() if lays != tile]
        words = list(_words(marks))
        for place in _ORDER:
            # A sign is dropped, or else said less exactly, where no other example fits then.
            for plainer in (ANY, OTHER):
                if plainer == OTHER and words[place] in (SAME, ANY):
                    continue
                tried = [*words[:place], plainer, *words[place + 1 :]]
                if not any(_fits(tried, one) for one in others):
                    words = tried
                    break
        mine = [one for one, lays in left.items() if lays == tile and _fits(words, one)]
        found.append((tile, tuple(words), mine))
        for one in mine:
            del left[one]
    return found


def _words(marks: tuple[int, ...]) -> Words:
    own = marks[4]
    return tuple(str(own) if place == 4 else SAME if mark == own else str(mark) for place, mark in enumerate(marks))


def _fits(words: Sequence[str], marks: tuple[int, ...]) -> bool:
    own = int(words[4])
    if marks[4] != own:
        return False
    for place, word in enumerate(words):
        sign = read_sign(word)
        same = marks[place] == own
        fits = word == ANY or (same if word == SAME else not same if word == OTHER else marks[place] in sign.numbers)
        if not fits:
            return False
    return True
