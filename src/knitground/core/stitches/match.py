"""Matching: which stitches of a course fit each cell of a window, as bits.

What is looked at is read once for each layer, as numbers for the kinds of its cells; then each run of cells side by
side costs one look into a table for each 64 ways in which stitches may stand. This is done in strips that stay in the
cache of the processor.
"""

from collections.abc import Callable, Mapping
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
    runs: NDArray[np.uint16]
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
    found[:] = course.bits(range(len(course.variants)))[:, None, None]
    high = max(1, STRIP // max(1, window.width))
    scratch = np.empty((high, window.width), dtype=np.uint64)
    for top in range(0, window.height, high):
        strip = CellRect(window.top + top, window.left, min(high, window.height - top), window.width)
        part = found[:, top : top + strip.height]
        for field in fields:
            _look_in(board, field, strip, part, scratch[: strip.height])
    return found


def lowest(bits: Bits) -> NDArray[np.int32]:
    """The number of the lowest bit that is set.

    Parameters
    ----------
    bits : (words, H, W) uint64

    Returns
    -------
    numbers : (H, W) int32
        -1 where none is.
    """
    found = np.full(bits.shape[1:], -1, dtype=np.int32)
    for word in reversed(range(len(bits))):
        here = bits[word]
        below = np.bitwise_count(~here & (here - np.uint64(1)))
        np.copyto(found, below.astype(np.int32) + np.int32(64 * word), where=below < 64)
    return found


def _field(board: Board, look: Look, seen: Seen, window: CellRect) -> _Field:
    steps = [(y, x + more) for (y, x), _ in look.runs for more in range(look.width)]
    steps += [step for step, _ in look.equal] + [(0, 0)]
    offsets = [offset for step in steps for offset in board.offset("cells", step)]
    (top, bottom), (left, right) = ((min(way), max(way)) for way in zip(*offsets, strict=True))
    area = CellRect(window.top + top, window.left + left, window.height + bottom - top, window.width + right - left)
    raw = seen.read(area)
    kinds = seen.kinds(raw).astype(np.uint16)
    if look.off:
        rows, columns = np.mgrid[area.top : area.bottom, area.left : area.right]
        kinds += np.where(board.there("cells", *board.flat("cells", rows, columns)), 0, look.kinds).astype(np.uint16)
    runs = kinds
    if board.stagger == (1, 1):
        all_kinds = np.uint16(look.kinds * (1 + look.off))
        runs = np.zeros_like(kinds)
        for more in range(look.width):
            # A run that reaches beyond what was read is never looked at there.
            runs *= all_kinds
            runs[:, : kinds.shape[1] - more] += kinds[:, more:]
    return _Field(look, runs, raw, (area.top, area.left))


def _look_in(board: Board, field: _Field, strip: CellRect, part: Bits, scratch: NDArray[np.uint64]) -> None:
    """Takes away the bits of those that do not fit what a look finds on a strip."""
    look = field.look
    for step, table in look.runs:
        place = _run_at(board, field, step, strip)
        for word in range(len(part)):
            np.take(table[:, word], place, out=scratch, mode="clip")
            part[word] &= scratch
    if look.equal:
        middle = _at(board, field, field.raw, (0, 0), strip)
        for step, table in look.equal:
            same = (_at(board, field, field.raw, step, strip) == middle).astype(np.uint8)
            for word in range(len(part)):
                np.take(table[:, word], same, out=scratch, mode="clip")
                part[word] &= scratch


def _run_at(board: Board, field: _Field, step: Step, strip: CellRect) -> NDArray[np.uint16]:
    look = field.look
    if board.stagger == (1, 1):
        found: NDArray[np.uint16] = _at(board, field, field.runs, step, strip)
        return found
    place = np.zeros((strip.height, strip.width), dtype=np.uint16)
    for more in range(look.width):
        place *= np.uint16(look.kinds * (1 + look.off))
        place += _at(board, field, field.runs, (step[0], step[1] + more), strip)
    return place


def _at(board: Board, field: _Field, values: NDArray[Any], step: Step, strip: CellRect) -> NDArray[Any]:
    return taken(values, board.offset("cells", step), strip, field.corner)
