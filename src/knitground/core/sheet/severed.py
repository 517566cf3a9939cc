"""How many shapes the borders of a cut run through, and whether other numbers near them would cut fewer.

A border runs through a shape where the art goes on across it: pixels on both sides can be seen and are alike. Each
run of such pixels along the border of a tile counts as one shape.
"""

from collections.abc import Callable
from dataclasses import replace
from itertools import product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, grid_of, region_of
from knitground.core.sheet.repeated import without_repeats

_ALIKE = 14
_FEWEST = 6
_SHARE = 0.6
_NUMBERS = (("spacing", "spacing"), ("tile", "tile size"), ("margin", "margin"))
_AXES = (("x", "across"), ("y", "down"))


class Better(NamedTuple):
    """Another cut near the one at hand that runs through fewer shapes, or leaves out what repeats edges."""

    cut: Cut
    fewer: int
    sentence: str


class Severing:
    """Counts for cuts of one picture, (H, W, 4) uint8."""

    def __init__(self, picture: NDArray[np.uint8]) -> None:
        self._picture, self._size = picture, (picture.shape[1], picture.shape[0])
        # One axis at a time, with the borders as columns: (2, lines along, places across).
        self._goes_on = [_goes_on(picture), _goes_on(picture.swapaxes(0, 1))]

    def count(self, cut: Cut) -> int:
        """How many shapes the borders of a cut run through; raises BadSheet where it does not fit."""
        return sum(self._along(cut, axis) for axis in (0, 1))

    def better(self, cut: Cut, progress: Callable[[float], None] = lambda share: None) -> Better | None:
        """The cut without edges that the sheet repeats, or with one number changed by a pixel or two, so that it runs
        through far fewer shapes, if there is one.

        `progress` is told the share done; it may raise to stop.
        """
        if cut.pieces:
            return None
        try:
            now, grid = self.count(cut), grid_of(cut, *self._size)
        except BadSheet:
            return None
        once = without_repeats(self._picture, cut)
        if once != cut:
            wide = once.margin_x - cut.margin_x
            return Better(once, 0, f"{wide} px less at every side leaves out repeated edges")
        best: Better | None = None
        neighbours = _neighbours(cut)
        for number, (changed, says) in enumerate(neighbours):
            progress(number / len(neighbours))
            try:
                other = grid_of(changed, *self._size)
                # Fewer tiles have fewer borders, so what counts is how often a border runs through something.
                share = (grid.columns * grid.rows) / (other.columns * other.rows)
                fewer = now - round(self.count(changed) * share)
            except BadSheet:
                continue
            if fewer >= max(_FEWEST, (1 - _SHARE) * now) and (best is None or fewer > best.fewer):
                best = Better(changed, fewer, f"{says} cuts {fewer} fewer shapes")
        return best

    def _along(self, cut: Cut, axis: int) -> int:
        goes_on, (starts, ends) = self._goes_on[axis], self._spans(cut, axis)
        lines = np.unique(np.concatenate([starts, ends]))
        lines = lines[(lines > 0) & (lines < goes_on.shape[1])]
        other_starts, other_ends = self._spans(cut, 1 - axis)
        inside = np.zeros(goes_on.shape[0], dtype=bool)
        for first, last in zip(other_starts.tolist(), other_ends.tolist(), strict=True):
            inside[first:last] = True
        crossed = goes_on[:, lines] & inside[:, None]
        begins = crossed.copy()
        begins[1:] &= ~crossed[:-1]
        # Where two tiles touch, a run that goes on from one to the next is cut at both.
        touching = np.intersect1d(other_starts, other_ends)
        return int(begins.sum() + (crossed[touching] & ~begins[touching]).sum())

    def _spans(self, cut: Cut, axis: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Where the tiles begin and end along an axis."""
        grid, region = grid_of(cut, *self._size), region_of(cut, *self._size)
        count, start, pitch, tile = (
            (grid.columns, region.x + cut.margin_x, cut.pitch_x, cut.tile_width),
            (grid.rows, region.y + cut.margin_y, cut.pitch_y, cut.tile_height),
        )[axis]
        starts = start + np.arange(count) * pitch
        return starts, starts + tile


def _goes_on(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Whether each pixel goes on from the one at its left, (H, W) bool."""
    seen = picture[..., 3] > 0
    apart = np.abs(np.diff(picture[..., :3].astype(np.int16), axis=1)).max(axis=2)
    result = np.zeros(seen.shape, dtype=bool)
    result[:, 1:] = seen[:, 1:] & seen[:, :-1] & (apart <= _ALIKE)
    return result


def _neighbours(cut: Cut) -> list[tuple[Cut, str]]:
    """Cuts with one number changed by a pixel or two, along one axis or both, and what is changed in words."""
    found = []
    for (number, title), (axes, where), by in product(
        _NUMBERS, [*[((axis,), f" {says}") for axis, says in _AXES], (("x", "y"), "")], (-2, -1, 1, 2)
    ):
        names = [_field(number, axis) for axis in axes]
        values = {name: getattr(cut, name) + by for name in names}
        if all(value >= (1 if number == "tile" else 0) for value in values.values()):
            word = "more" if by > 0 else "less"
            found.append((replace(cut, **values), f"{abs(by)} px {word} {title}{where}"))
    return found


def _field(number: str, axis: str) -> str:
    if number == "tile":
        return "tile_width" if axis == "x" else "tile_height"
    return f"{number}_{axis}"
