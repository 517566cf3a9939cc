"""Turned and mirrored tiles: what their labels become, and the combinations that they add to a set."""

from collections.abc import Collection, Mapping
from typing import NamedTuple, Protocol

from knitground.core.joins.sets import JoinKind, JoinSet, Labels, finished
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef

MIRROR_X, MIRROR_Y = 4, 6
_MIRRORED = {"corner": (1, 0, 3, 2), "edge": (0, 3, 2, 1)}
_MIRRORED_DIAMOND = {"corner": (0, 3, 2, 1), "edge": (3, 2, 1, 0)}
"""Which place comes to lie at each when a tile is mirrored left to right; a diamond has its north-west on top."""


class Turning(Protocol):
    """What may be laid in quarter turns, and mirrored left to right or top to bottom."""

    @property
    def turns(self) -> bool: ...

    @property
    def mirrors_x(self) -> bool: ...

    @property
    def mirrors_y(self) -> bool: ...


class LaidTile(NamedTuple):
    """A tile and the orientation in which it is laid (see `orient`)."""

    ref: TileRef
    orientation: int = 0


def is_isometric(join_set: JoinSet, cuts: Mapping[tuple[str, str], Cut]) -> bool:
    """Whether the tiles of a set are isometric, as its first is."""
    first = next(iter(join_set.labels), None)
    cut = cuts.get((first.sheet, first.cut)) if first is not None else None
    return cut is not None and cut.shape == "isometric"


def turned_labels(labels: Labels, kind: JoinKind, orientation: int, *, isometric: bool = False) -> Labels:
    """The labels of a tile laid in one of the eight symmetries of the square, or of the four of a diamond.

    Parameters
    ----------
    labels : Labels
    kind : JoinKind
    orientation : int
        See `orient`; even on diamonds.
    isometric : bool
        Whether the tile is a diamond.
    """
    if kind in ("full", "cell"):
        corners, edges = (
            turned_labels(labels[:4], "corner", orientation, isometric=isometric),
            turned_labels(labels[4:8], "edge", orientation, isometric=isometric),
        )
        return corners + edges + labels[8:]
    row = list(labels)
    if orientation & 4:
        row = [row[place] for place in (_MIRRORED_DIAMOND if isometric else _MIRRORED)[kind]]
    turns = orientation & 3
    return tuple(row[-turns:] + row[:-turns]) if turns else tuple(row)


def orientations(of: Turning, *, square: bool = True) -> tuple[int, ...]:
    """The orientations that something allows, as drawn first; tiles that are not square take no quarter turns."""
    mirrors = {MIRROR_X} if of.mirrors_x else set()
    mirrors |= {MIRROR_Y} if of.mirrors_y else set()
    if of.turns and square:
        return tuple(range(8)) if mirrors else (0, 1, 2, 3)
    if len(mirrors) == 2 or (of.turns and mirrors):
        return 0, 2, MIRROR_X, MIRROR_Y
    return (0, 2) if of.turns else (0, *mirrors)


def laid_tiles(
    join_set: JoinSet,
    usable: Collection[TileRef] | None = None,
    *,
    square: bool = True,
    isometric: bool = False,
    made: Collection[str] = (),
) -> dict[Labels, tuple[LaidTile, ...]]:
    """The tiles for each combination: those drawn for it, else those made for it, else turned or mirrored ones.

    Parameters
    ----------
    join_set : JoinSet
    usable : collection of TileRef, optional
        The tiles that their sheets really hold; labels of others do not count.
    square : bool
        Whether tiles are square.
    isometric : bool
        Whether tiles are diamonds.
    made : collection of str
        Sheets whose tiles were made by the program; they stand in only until one is drawn.
    """
    known = {
        ref: labels
        for ref, labels in finished(join_set).items()
        if max(labels) <= len(join_set.terrains) and (usable is None or ref in usable)
    }
    drawn: dict[Labels, list[LaidTile]] = {}
    for ref, labels in known.items():
        drawn.setdefault(labels, []).append(LaidTile(ref))
    for labels, tiles in drawn.items():
        by_hand = [tile for tile in tiles if tile.ref.sheet not in made]
        drawn[labels] = by_hand or tiles
    turned: dict[Labels, dict[LaidTile, None]] = {}
    for orientation in orientations(join_set, square=square and not isometric)[1:]:
        for ref, labels in known.items():
            row = turned_labels(labels, join_set.kind, orientation, isometric=isometric)
            if row not in drawn and all(one.ref != ref for one in turned.get(row, ())):
                turned.setdefault(row, {})[LaidTile(ref, orientation)] = None
    return {row: tuple(tiles) for row, tiles in {**drawn, **turned}.items()}
