"""Matching: which stitches of a course fit each cell of a window, as bits.

What is looked at is read once for each layer, as numbers for the kinds of its cells; then each run of cells side by
side costs one look into a table for each 64 ways in which stitches may stand. This is done in strips that stay in the
cache of the processor.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import Step, taken
from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.stitches.compiled import Bits, Look, ReadyCourse

STRIP = 2**15
"""So many cells are looked at together."""

Read = Callable[[CellRect], NDArray[Any]]


class Seen(NamedTuple):
    """A layer as charts look at it.

    Attributes
    ----------
    read : callable
        Gives what lies on a rectangle of cells, (height, width), also beyond the borders of the ground.
    kinds : callable
        Gives the kinds of what was read, (height, width) of unsigned integers.
    """

    read: Read
    kinds: Callable[[NDArray[Any]], NDArray[Any]]


@dataclass(frozen=True)
class _Field:
    """What one look reads for a window: the indices of its tables and what lies there, from a first cell on."""

    look: Look
    runs: NDArray[Any]
    raw: NDArray[Any]
    corner: tuple[int, int]


def fitting(board: Board, course: ReadyCourse, layers: Mapping[int, Seen], window: CellRect) -> Bits:
    """Which ways of stitches fit each cell.

    Parameters
    ----------
    board : Board
    course : ReadyCourse
    layers : mapping of int to Seen
        The plan (-1) and the views that the course looks at.
    window : CellRect

    Returns
    -------
    bits : (words, height, width) uint64
        Bit n of word w for way 64 w + n.
    """
    fields = [_field(board, look, layers[look.view], window) for look in course.looks]
    found = np.empty((course.words, window.height, window.width), dtype=np.uint64)
    if not fields:
        found[:] = course.bits(range(len(course.variants)))[:, None, None]
    high = max(1, STRIP // max(1, window.width))
    scratch = np.empty((high, window.width), dtype=np.uint64)
    for top in range(0, window.height, high):
        strip = CellRect(window.top + top, window.left, min(high, window.height - top), window.width)
        part = found[:, top : top + strip.height]
        for place, field in enumerate(fields):
            _look_in(board, field, strip, part, scratch[: strip.height], first=place == 0)
    return found


def lowest(bits: Bits) -> NDArray[np.uint16]:
    """The number of the lowest bit that is set.

    Parameters
    ----------
    bits : (words, ...) uint64

    Returns
    -------
    numbers : (...) uint16
        64 times the number of words where none is.
    """
    found = np.zeros(bits.shape[1:], dtype=np.uint16)
    for word, here in enumerate(bits):
        below = here - np.uint64(1)
        below &= ~here
        count = np.bitwise_count(below)
        if word:
            # Only where all words before are empty.
            count *= found == 64 * word
        found += count
    return found


def _field(board: Board, look: Look, seen: Seen, window: CellRect) -> _Field:
    steps = [(y, x + more) for (y, x), _ in look.runs for more in range(look.width)]
    steps += [step for step, _ in look.equal] + [(0, 0)]
    offsets = [offset for step in steps for offset in board.offset("cells", step)]
    (top, bottom), (left, right) = ((min(way), max(way)) for way in zip(*offsets, strict=True))
    area = CellRect(window.top + top, window.left + left, window.height + bottom - top, window.width + right - left)
    raw = seen.read(area)
    # Small tables are looked up by small numbers, which are quicker to make.
    all_kinds = look.kinds * (1 + look.off)
    small = np.dtype(np.uint8 if all_kinds**look.width < 256 else np.uint16)
    kinds = seen.kinds(raw).astype(small, copy=look.off)
    if look.off:
        rows, columns = np.mgrid[area.top : area.bottom, area.left : area.right]
        kinds += np.where(board.there("cells", *board.flat("cells", rows, columns)), 0, look.kinds).astype(small)
    runs = kinds
    if board.stagger == (1, 1):
        runs = kinds
        for more in range(1, look.width if look.runs else 1):
            # A run that reaches beyond what was read is never looked at there.
            runs = runs * np.asarray(all_kinds, dtype=small)
            runs[:, : kinds.shape[1] - more] += kinds[:, more:]
    return _Field(look, runs, raw, (area.top, area.left))


def _look_in(
    board: Board, field: _Field, strip: CellRect, part: Bits, scratch: NDArray[np.uint64], *, first: bool
) -> None:
    """Takes away the bits of those that do not fit what a look finds on a strip; the first one writes all bits."""
    for table, place in _places(board, field, strip):
        for word in range(len(part)):
            if first:
                np.take(table[:, word], place, out=part[word], mode="clip")
            else:
                np.take(table[:, word], place, out=scratch, mode="clip")
                part[word] &= scratch
        first = False


def _places(board: Board, field: _Field, strip: CellRect) -> Iterator[tuple[Bits, NDArray[Any]]]:
    """The tables of a look, and where each cell of a strip is to be looked up."""
    for step, table in field.look.runs:
        yield table, _run_at(board, field, step, strip)
    middle = _at(board, field, field.raw, (0, 0), strip)
    for step, table in field.look.equal:
        yield table, (_at(board, field, field.raw, step, strip) == middle).view(np.uint8)


def _run_at(board: Board, field: _Field, step: Step, strip: CellRect) -> NDArray[Any]:
    look = field.look
    if board.stagger == (1, 1):
        return _at(board, field, field.runs, step, strip)
    place = np.zeros((strip.height, strip.width), dtype=np.uint16)
    for more in range(look.width):
        place *= np.uint16(look.kinds * (1 + look.off))
        place += _at(board, field, field.runs, (step[0], step[1] + more), strip)
    return place


def _at(board: Board, field: _Field, values: NDArray[Any], step: Step, strip: CellRect) -> NDArray[Any]:
    return taken(values, board.offset("cells", step), strip, field.corner)
