"""Tiles that were not drawn, made of those that were: turned, put together from quarters or from the arms of straight
roads, or one terrain laid over another.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import islice
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.joins.arms import Arms
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.quarters import Quarters, of_five
from knitground.core.joins.sets import MIDDLE, JoinKind, JoinSet, Labels, finished
from knitground.core.joins.turning import MIRROR_X, MIRROR_Y, turned_labels
from knitground.core.tiles.tile import TileRef, orient

Pixels = NDArray[np.uint8]
_MOST_TRIED = 2**16
Way = Literal["turned", "quarters", "straight ones", "laid over"]


class MadeTile(NamedTuple):
    """A tile that may be added: what it shows, its pixels (h, w, 4) uint8, and how it was made."""

    labels: Labels
    pixels: Pixels
    way: Way


def make_missing(
    join_set: JoinSet,
    coverage: Coverage,
    drawn: Mapping[TileRef, Pixels],
    five: Sequence[Pixels] = (),
    most: int = 512,
    *,
    isometric: bool = False,
) -> list[MadeTile]:
    """Tiles for the combinations that a set lacks, as far as they can be made; if none, of terrains that never meet.

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
    isometric : bool
        Whether the tiles are diamonds: they have no quarters, and no quarter turns.

    Raises
    ------
    BadRequest
        If the base tiles differ in size. Of the drawn ones those count that are as large, or of the usual size.
    """
    if len({pixels.shape for pixels in five}) > 1:
        raise BadRequest("These base tiles are not all of one size; choose others.")
    drawn = _of_one_size(drawn, five)
    turned = _turned(join_set, drawn, isometric=isometric)
    quarters = Quarters([] if isometric else of_five(five) if five else _shown(join_set, drawn))
    plain: dict[int, Pixels] = {}
    for ref, labels in join_set.labels.items():
        if ref in drawn and len(set(labels)) == 1:
            plain.setdefault(labels[0], drawn[ref])
    masks = _masks(join_set, drawn, plain) if join_set.kind == "corner" else {}
    arms = _arms(join_set, drawn, isometric=isometric)
    made: list[MadeTile] = []
    for labels in coverage.missing() if coverage.lacking else islice(coverage.rest(), _MOST_TRIED):
        if len(made) == most:
            break
        if _of_one(labels) and (pixels := quarters.tile(_eight(labels))) is not None:
            made.append(MadeTile(labels, pixels, "quarters"))
        elif labels in turned:
            made.append(MadeTile(labels, turned[labels], "turned"))
        elif arms is not None and (pixels := arms.tile(labels)) is not None:
            made.append(MadeTile(labels, pixels, "straight ones"))
        elif (pixels := _laid_over(join_set.kind, labels, plain, masks)) is not None:
            made.append(MadeTile(labels, pixels, "laid over"))
    return made


def _of_one_size(drawn: Mapping[TileRef, Pixels], like: Sequence[Pixels]) -> Mapping[TileRef, Pixels]:
    """Those of some tiles that are of the most usual size, or as large as given ones."""
    sizes = Counter(pixels.shape for pixels in like or drawn.values())
    usual = max(sizes, key=lambda size: sizes[size], default=())
    return {ref: pixels for ref, pixels in drawn.items() if pixels.shape == usual}


def _shown(join_set: JoinSet, drawn: Mapping[TileRef, Pixels]) -> list[tuple[Labels, Pixels]]:
    """What lies inside round the middle of each tile of a set, where it has one inside and one outside."""
    if join_set.kind not in ("full", "cell") or len(join_set.terrains) > (1 if join_set.bare else 2):
        return []
    inside = len(join_set.terrains)
    found = [
        (tuple(int(label == inside) for label in labels[:8]), drawn[ref])
        for ref, labels in _rows(join_set).items()
        if ref in drawn
    ]
    # Where nothing lies inside of a full tile, no patch of one cell is drawn.
    return [(labels, pixels) for labels, pixels in found if join_set.kind == "cell" or any(labels)]


def _of_one(labels: Labels) -> bool:
    """Whether a combination holds no more than an inside and an outside."""
    return len(labels) >= 8 and len({*labels[:8], *labels[MIDDLE:]}) <= 2


def _eight(labels: Labels) -> Labels:
    """What lies inside round a combination; of a cell set what is as its middle is."""
    return tuple(int(label == labels[MIDDLE]) for label in labels[:MIDDLE]) if len(labels) > MIDDLE else labels


def _rows(join_set: JoinSet) -> Mapping[TileRef, Labels]:
    """The labels of a set's tiles in the form in which its combinations are."""
    return finished(join_set) if join_set.kind == "cell" else join_set.labels


def _turned(join_set: JoinSet, drawn: Mapping[TileRef, Pixels], *, isometric: bool) -> dict[Labels, Pixels]:
    """What every tile shows when it is turned and mirrored, whether or not the set allows it when knitting.

    What stands up from a diamond is not put on its head.
    """
    found: dict[Labels, Pixels] = {}
    tall = isometric and _is_tall(drawn)
    for orientation in (MIRROR_X,) if tall else (2, MIRROR_X, MIRROR_Y) if isometric else range(1, 8):
        for ref, labels in _rows(join_set).items():
            if ref in drawn and (orientation % 2 == 0 or drawn[ref].shape[0] == drawn[ref].shape[1]):
                row = turned_labels(labels, join_set.kind, orientation, isometric=isometric)
                found.setdefault(row, np.ascontiguousarray(orient(drawn[ref], orientation)))
    return found


def _arms(join_set: JoinSet, drawn: Mapping[TileRef, Pixels], *, isometric: bool) -> Arms | None:
    """The arms of what goes on over the sides of tiles; what stands up has none, as it hides what is behind it."""
    rows: dict[Labels, list[Pixels]] = {}
    for ref, labels in join_set.labels.items():
        if ref in drawn:
            rows.setdefault(labels, []).append(drawn[ref])
    if join_set.kind != "edge" or not rows or (isometric and _is_tall(drawn)):
        return None
    return Arms(rows, isometric=isometric)


def _is_tall(diamonds: Mapping[TileRef, Pixels]) -> bool:
    """Whether anything stands up from diamonds."""
    return any(2 * pixels.shape[0] > pixels.shape[1] + 2 for pixels in diamonds.values())


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
