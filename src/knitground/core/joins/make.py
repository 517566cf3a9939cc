"""Tiles that were not drawn, made of those that were: turned, put together from quarters, or one terrain laid over
another.
"""

from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import MIDDLE, JoinKind, JoinSet, Labels, finished
from knitground.core.joins.turning import turned_labels
from knitground.core.tiles.tile import TileRef, orient

Pixels = NDArray[np.uint8]
Way = Literal["turned", "quarters", "laid over"]
LONE, LEVEL, UPRIGHT, CROSSING, WHOLE = range(5)
"""The five tiles that quarters are taken from: a patch of one cell, a run level and upright, crossing runs, and the
middle of a patch."""


class MadeTile(NamedTuple):
    """A tile that may be added: what it shows, its pixels (h, w, 4) uint8, and how it was made."""

    labels: Labels
    pixels: Pixels
    way: Way


def make_missing(
    join_set: JoinSet, coverage: Coverage, drawn: Mapping[TileRef, Pixels], five: Sequence[Pixels] = (), most: int = 512
) -> list[MadeTile]:
    """Tiles for the combinations that a set lacks, as far as they can be made.

    Parameters
    ----------
    join_set, coverage
        The set and what it covers.
    drawn : mapping of TileRef to (h, w, 4) uint8
        Pixels of its tiles.
    five : sequence of (h, w, 4) uint8, optional
        The base tiles of a full or cell set (see `LONE` and so on); else they are looked for among the labelled ones.
    most : int
        How many to make at the most.
    """
    turned = _turned(join_set, drawn)
    base = list(five) or _five_of(join_set, drawn)
    plain: dict[int, Pixels] = {}
    for ref, labels in join_set.labels.items():
        if ref in drawn and len(set(labels)) == 1:
            plain.setdefault(labels[0], drawn[ref])
    masks = _masks(join_set, drawn, plain) if join_set.kind == "corner" else {}
    made: list[MadeTile] = []
    for labels in coverage.missing():
        if len(made) == most:
            break
        if labels in turned:
            made.append(MadeTile(labels, turned[labels], "turned"))
        elif base and _of_one(labels):
            made.append(MadeTile(labels, from_quarters(base, _eight(labels)), "quarters"))
        elif (pixels := _laid_over(join_set.kind, labels, plain, masks)) is not None:
            made.append(MadeTile(labels, pixels, "laid over"))
    return made


def from_quarters(five: Sequence[Pixels], labels: Labels) -> Pixels:
    """A tile of a full set from the quarters of five.

    Parameters
    ----------
    five : sequence of five (h, w, 4) uint8
        In the order of `LONE`, `LEVEL`, `UPRIGHT`, `CROSSING` and `WHOLE`.
    labels : eight numbers
        What is not 0 counts as inside.
    """
    height, width = five[0].shape[:2]
    tile = np.empty_like(five[0])
    north_west, north_east, south_east, south_west, north, east, south, west = (bool(label) for label in labels)
    for top, left, upright, level, corner in (
        (True, True, north, west, north_west), (True, False, north, east, north_east),
        (False, False, south, east, south_east), (False, True, south, west, south_west),
    ):  # fmt: skip
        rows = slice(0, height // 2) if top else slice(height // 2, height)
        columns = slice(0, width // 2) if left else slice(width // 2, width)
        source = (LONE, LEVEL, UPRIGHT, WHOLE if corner else CROSSING)[level + 2 * upright]
        tile[rows, columns] = five[source][rows, columns]
    return tile


def five_of_block(block: Pixels) -> list[Pixels]:
    """The five base tiles of a block of 2 x 3: crossing at the top right, below a patch of 2 x 2.

    Parameters
    ----------
    block : (3, 2, h, w, 4) uint8
    """
    height, width = block.shape[2:4]
    patch = block[1:]
    crossing: Pixels = block[0, 1]
    halves = [(slice(0, height // 2), slice(height // 2, height)), (slice(0, width // 2), slice(width // 2, width))]

    def assembled(rows: tuple[int, int], columns: tuple[int, int]) -> Pixels:
        """A tile whose upper and lower, left and right halves come from these rows and columns of the patch."""
        tile: Pixels = np.empty_like(patch[0, 0])
        for half_row, row in zip(halves[0], rows, strict=True):
            for half_column, column in zip(halves[1], columns, strict=True):
                tile[half_row, half_column] = patch[row, column][half_row, half_column]
        return tile

    return [
        assembled((0, 1), (0, 1)), assembled((0, 1), (1, 0)), assembled((1, 0), (0, 1)), crossing,
        assembled((1, 0), (1, 0)),
    ]  # fmt: skip


def _five_of(join_set: JoinSet, drawn: Mapping[TileRef, Pixels]) -> list[Pixels]:
    """The base tiles among those labelled; without a lone one, its quarters come from the corners of a patch."""
    if join_set.kind not in ("full", "cell") or len(join_set.terrains) > (1 if join_set.bare else 2):
        return []
    inside = len(join_set.terrains)
    shown: dict[tuple[bool, ...], Pixels] = {}
    for ref, labels in _rows(join_set).items():
        if ref in drawn:
            shown.setdefault(tuple(label == inside for label in labels[:8]), drawn[ref])
    level, upright = (shown.get(_inside(edges=edges)) for edges in ((0, 1, 0, 1), (1, 0, 1, 0)))
    crossing, whole = shown.get(_inside(edges=(1, 1, 1, 1))), shown.get((True,) * 8)
    # The outer corner of a quarter is also that of a patch's corner tile.
    ends = [shown.get(_inside(edges=edges)) for edges in ((0, 1, 1, 0), (0, 0, 1, 1), (1, 0, 0, 1), (1, 1, 0, 0))]
    if level is None or upright is None or crossing is None or whole is None:
        return []
    alone = shown.get((False,) * 8) if join_set.kind == "cell" else None
    if alone is not None:
        return [alone, level, upright, crossing, whole]
    if any(end is None for end in ends):
        return []
    height, width = whole.shape[0] // 2, whole.shape[1] // 2
    lone = np.empty_like(whole)
    spots = ((slice(0, height), slice(0, width)), (slice(0, height), slice(width, None)),
             (slice(height, None), slice(width, None)), (slice(height, None), slice(0, width)))  # fmt: skip
    for spot, end in zip(spots, ends, strict=True):
        assert end is not None  # looked at above
        lone[spot] = end[spot]
    return [lone, level, upright, crossing, whole]


def _inside(*, edges: tuple[int, int, int, int]) -> tuple[bool, ...]:
    return (False,) * 4 + tuple(map(bool, edges))


def _of_one(labels: Labels) -> bool:
    """Whether a combination holds no more than an inside and an outside."""
    return len(labels) >= 8 and len({*labels[:8], *labels[MIDDLE:]}) <= 2


def _eight(labels: Labels) -> Labels:
    """What lies inside round a combination; of a cell set what is as its middle is."""
    return tuple(int(label == labels[MIDDLE]) for label in labels[:MIDDLE]) if len(labels) > MIDDLE else labels


def _rows(join_set: JoinSet) -> Mapping[TileRef, Labels]:
    """The labels of a set's tiles in the form in which its combinations are."""
    return finished(join_set) if join_set.kind == "cell" else join_set.labels


def _turned(join_set: JoinSet, drawn: Mapping[TileRef, Pixels]) -> dict[Labels, Pixels]:
    """What every tile shows when it is turned and mirrored, whether or not the set allows it when knitting."""
    found: dict[Labels, Pixels] = {}
    for orientation in range(1, 8):
        for ref, labels in _rows(join_set).items():
            if ref in drawn and (orientation % 2 == 0 or drawn[ref].shape[0] == drawn[ref].shape[1]):
                row = turned_labels(labels, join_set.kind, orientation)
                found.setdefault(row, np.ascontiguousarray(orient(drawn[ref], orientation)))
    return found


def _masks(
    join_set: JoinSet, drawn: Mapping[TileRef, Pixels], plain: Mapping[int, Pixels]
) -> dict[tuple[bool, ...], NDArray[np.bool_]]:
    """Where the higher of two terrains lies, by the corners that it has: as some drawn tile shows it."""
    masks: dict[tuple[bool, ...], NDArray[np.bool_]] = {}
    for ref, labels in join_set.labels.items():
        numbers = sorted(set(labels))
        if ref in drawn and len(numbers) == 2 and all(number in plain for number in numbers):
            tile = drawn[ref].astype(np.int16)
            below, above = (np.abs(tile - plain[number]).sum(axis=-1) for number in numbers)
            masks.setdefault(tuple(label == numbers[1] for label in labels), above < below)
    return masks


def _laid_over(
    kind: JoinKind,
    labels: Labels,
    plain: Mapping[int, Pixels],
    masks: Mapping[tuple[bool, ...], NDArray[np.bool_]],
) -> Pixels | None:
    """The plain tiles of a combination's corners laid over one another, the highest number on top."""
    numbers = sorted(set(labels))
    present = [number for number in numbers if number in plain]
    if kind != "corner" or not present or any(number not in plain for number in numbers if number):
        return None
    height, width = plain[present[0]].shape[:2]
    tile: Pixels = plain[numbers[0]].copy() if numbers[0] in plain else np.zeros_like(plain[present[0]])
    for number in numbers[1:]:
        corners = tuple(label >= number for label in labels)
        covers = masks[corners] if corners in masks else _rounded(corners, height, width)
        tile[covers] = plain[number][covers]
    return tile


def _rounded(corners: tuple[bool, ...], height: int, width: int) -> NDArray[np.bool_]:
    """Where a terrain with these corners lies if no tile shows it: half way to those that it has not."""
    y, x = (np.arange(height) + 0.5)[:, None] / height, (np.arange(width) + 0.5)[None, :] / width
    shares = ((1 - y) * (1 - x), (1 - y) * x, y * x, y * (1 - x))
    covers: NDArray[np.float64] = np.zeros((height, width))
    for share, corner in zip(shares, corners, strict=True):
        covers += share * corner
    return covers > 0.5
