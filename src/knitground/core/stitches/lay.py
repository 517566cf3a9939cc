"""Laying: courses one after another, in each of which the first stitch that fits fires, and blocks never tear.

Whether a block is laid depends on those that lie before it, and these on others. So a rectangle is laid together with
what lies round it, and it is noted which cells might be otherwise for what lies further off; as long as one of these is
asked for, more is looked at. What comes out is the same as if the whole ground were laid at once.
"""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.stitches.cloth import Cloth, Owner, owned_by
from knitground.core.stitches.compiled import ReadySet
from knitground.core.stitches.firing import lay_far, lay_plain, leave_to_chance, thrown
from knitground.core.stitches.match import Read, Seen, fitting
from knitground.core.stitches.window import Mask, Window
from knitground.core.tiles.tile import GAP, NUMBER_MASK

MOST_CELLS = 2**20
"""So many cells are laid at a time."""


class Sewn(NamedTuple):
    """What a set lays on a rectangle of cells.

    Attributes
    ----------
    codes : (parts, H, W) int32
        Cell codes on the stitched layer itself and on each further part; GAP where a mark has no tile.
    unmet : (H, W) bool
        Cells with a mark at which nothing fires.
    fired : (courses, H, W) int32
        The variant of the course that fired, from 1; 0 for none.
    fits : (H, W) bool, optional
        Where the stitch that was asked about fits, whether or not it fires.
    owner, begun : (parts, H, W) int32, optional
        What laid each tile, and where it fired; see `owner_of`.
    """

    codes: NDArray[np.int32]
    unmet: Mask
    fired: NDArray[np.int32]
    fits: Mask | None = None
    owner: NDArray[np.int32] | None = None
    begun: NDArray[np.int32] | None = None

    def owner_of(self, part: int, row: int, column: int) -> Owner | None:
        """What laid the tile in a cell of the rectangle on a part; None where nothing did, or nobody noted it."""
        if self.owner is None or self.begun is None:
            return None
        return owned_by(int(self.owner[part, row, column]), int(self.begun[part, row, column]))


class Firing(NamedTuple):
    """Where a stitch fires, and where it would.

    Attributes
    ----------
    fires : (H, W) bool
    kept_out : (H, W) bool
        Where it fits and does not fire.
    by : (H, W) int32
        There, the stitch that fires instead, by its place in the set from 0; -1 where none does.
    """

    fires: Mask
    kept_out: Mask
    by: NDArray[np.int32]


def firing(sewn: Sewn, ready: ReadySet, number: int) -> Firing:
    """Where a stitch fires on what was laid with it in view (`of`), by its place in the set from 0."""
    fires = np.zeros(sewn.unmet.shape, dtype=bool)
    by = np.full(fires.shape, -1, dtype=np.int32)
    for course, fired in zip(ready.courses, sewn.fired, strict=True):
        if number in course.numbers:
            of = np.array([-1, *(course.numbers[variant.stitch] for variant in course.variants)], dtype=np.int32)
            by = of[fired]
            fires = by == number
    kept_out = np.zeros_like(fires) if sewn.fits is None else sewn.fits & ~fires
    return Firing(fires, kept_out, np.where(kept_out, by, -1).astype(np.int32))


def sew(
    ready: ReadySet,
    board: Board,
    plan: Read,
    views: Mapping[int, Seen],
    seed: int,
    rect: CellRect,
    *,
    traced: bool = False,
    of: int = -1,
) -> Sewn:
    """What a set lays on a rectangle.

    Parameters
    ----------
    ready : ReadySet
    board : Board
    plan : callable
        Gives the marks of a rectangle, (height, width) uint8, also beyond the borders.
    views : mapping of int to Seen
        The layers that charts look at, by the number of the view; those that look at what is laid are not asked.
    seed : int
        Of chance.
    rect : CellRect
        Inside the ground.
    traced : bool
        Whether to note what laid each tile.
    of : int
        A stitch, by its place in the set, of which to note where it fits.
    """
    margin = ready.spread
    # Large rectangles are laid in bands, which needs less memory.
    high = max(64, MOST_CELLS // max(1, rect.width))
    if rect.height > high:
        bands = [
            sew(ready, board, plan, views, seed, rect._replace(top=top, height=min(high, rect.bottom - top)))
            for top in range(rect.top, rect.bottom, high)
        ]
        return Sewn(*(np.concatenate([band[n] for band in bands], axis=-2) for n in range(3)))
    while True:
        window = Window.round(board, rect, margin)
        sewn, unsure = _sew_window(ready, window, plan, views, seed, traced, of)
        part = window.part(rect)
        if window.is_whole or not unsure[part].any():
            noted = [None if one is None else one[:, *part] for one in (sewn.owner, sewn.begun)]
            fits = None if sewn.fits is None else sewn.fits[part]
            return Sewn(sewn.codes[:, *part], sewn.unmet[part], sewn.fired[:, *part], fits, *noted)
        margin = 2 * margin + 8


def _sew_window(
    ready: ReadySet, window: Window, plan: Read, views: Mapping[int, Seen], seed: int, traced: bool, of: int
) -> tuple[Sewn, Mask]:
    cells = window.shape[0] * window.shape[1]
    parts = np.zeros((ready.parts, cells), dtype=np.int32)
    none = np.zeros(cells, dtype=bool)
    cloth = Cloth(window, seed, parts, parts != 0, none, none.copy(), traced)
    marks = Seen(plan, lambda values: values)
    fired, fits = [], None
    for course in ready.courses:
        cloth.begin()
        _doubt(cloth, course.far + ready.looks_back(course), ready.looks_back(course))
        layers = {-1: marks, **{number: _seen(ready, cloth, number, views) for number in range(len(ready.classes))}}
        bits = fitting(window.board, course, layers, window.rect).reshape(course.words, cells)
        leave_to_chance(cloth, course, bits)
        if of in course.numbers:
            at = course.numbers.index(of)
            mine = course.bits(course.of_stitches(range(at, at + 1)))
            fits = np.asarray((bits & mine[:, None]).any(axis=0), dtype=np.bool_).reshape(window.shape)
        for plain, places in course.segments:
            (lay_plain if plain else lay_far)(cloth, course, bits, places)
        fired.append(cloth.fired.reshape(window.shape))
    own = plan(window.rect).reshape(-1)
    unmet = (own > 0) & ~cloth.met
    for mark, laying in ready.otherwise.items():
        here = np.flatnonzero(unmet & (own == mark))
        cloth.codes[0, here] = thrown(cloth, laying, f"otherwise {mark}", here)[:, 0]
        unmet[here] = False
    np.putmask(cloth.codes[0], unmet, GAP)
    shape = -1, *window.shape
    noted = (cloth.owner.reshape(shape), cloth.begun.reshape(shape)) if traced else ()
    all_fired = np.stack(fired) if len(fired) > 1 else np.reshape(fired, shape).astype(np.int32, copy=False)
    return Sewn(cloth.codes.reshape(shape), unmet.reshape(window.shape), all_fired, fits, *noted), cloth.unsure.reshape(
        window.shape
    )


def _seen(ready: ReadySet, cloth: Cloth, number: int, views: Mapping[int, Seen]) -> Seen:
    """A view as charts look at it; what was laid so far is read from the window itself."""
    view = ready.owner.views[number]
    if view.sees != "laid":
        return views[number]
    part = ready.owner.parts.index(view.of) + 1 if view.of in ready.owner.parts else 0
    numbers = np.maximum(cloth.codes[part], 0).reshape(cloth.window.shape) & NUMBER_MASK
    by_number = ready.classes[number].by_number
    assert by_number is not None
    return Seen(
        lambda area: cloth.window.gathered(numbers, area), lambda values: np.take(by_number, values, mode="clip")
    )


def _doubt(cloth: Cloth, far: int, back: int) -> None:
    """Notes what may be otherwise for what lies beyond the window, or for what is doubtful already."""
    if not far or cloth.window.is_whole:
        return
    unsure = cloth.unsure.reshape(cloth.window.shape)
    if back and unsure.any():
        back = back * max(cloth.window.board.stagger) + max(cloth.window.board.stagger) - 1
        unsure = scipy.ndimage.maximum_filter(unsure, 2 * back + 1, mode="constant")
    cloth.unsure = (unsure | cloth.window.rim(far)).reshape(-1)
