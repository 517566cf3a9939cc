"""What lies beneath the lines of an edge set, and the tiles of a sheet that show one terrain of a set alone.

Sets of roads, pipes or fences are often drawn without a tile that no line crosses, islands without the sea round them:
the ground is drawn elsewhere, once for all sets. Without it nothing could lie where nothing else was painted.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.art import terrain_colours
from knitground.core.joins.blocks import covered_share
from knitground.core.joins.found import FoundSet
from knitground.core.joins.look import AS_ROUGH, SAME_COLOUR, UNSEEN, Floats, full_alpha, laid_flat
from knitground.core.joins.sets import JoinKind
from knitground.core.joins.variants import in_squares
from knitground.core.sheet.cut import TileShape

_CORNER = 6
"""One side of what is looked at in each corner of a tile is this part of the tile's."""
_CLEARLY = 2.0
"""How many times nearer one terrain has to be than any other."""
_COVERED, _HALF = 0.98, 0.5


def lies_beneath(kind: JoinKind, labels: NDArray[np.intp], tiles: NDArray[np.uint8]) -> int | None:
    """The terrain on which the others lie as lines: what tiles show in their corners, where no line ends.

    Parameters
    ----------
    kind : JoinKind
    labels : (n, P) intp
        A number from 0 for the terrain at each place.
    tiles : (n, h, w, 4) uint8
        Straight alpha; isometric ones laid flat.

    Returns
    -------
    terrain : int or None
        None for kinds other than edges, and where no terrain is that of the corners clearly.
    """
    if kind != "edge":
        return None
    colours, clear = terrain_colours(kind, labels, tiles)
    corners = _corners(tiles)
    covered = corners[..., 3] > 127
    if covered.mean() < _HALF or len(colours) < 2:
        return None
    seen = np.median(corners[covered][:, :3], axis=0)
    far = np.array([np.abs(colour - seen).sum() for colour in colours])
    nearest, next_best = np.argsort(far, kind="stable")[:2]
    return int(nearest) if far[nearest] * _CLEARLY <= far[next_best] and not clear[nearest] else None


def ground_first(labels: NDArray[np.intp], beneath: int | None) -> list[int]:
    """All terrains in the order in which they are best numbered, as a ground is covered with the first.

    That is what lies beneath, then those that some tile shows alone.

    Parameters
    ----------
    labels : (n, P) intp
        A number from 0 for the terrain at each place.
    beneath : int, optional
        As `lies_beneath` tells it.
    """
    plain = {row[0] for row in labels.tolist() if len(set(row)) == 1}
    return sorted(np.unique(labels).tolist(), key=lambda group: (group != beneath, group not in plain, group))


def with_plain(
    found: FoundSet, tiles: NDArray[np.uint8], colours: Floats, number: NDArray[np.intp], shape: TileShape
) -> FoundSet:
    """A set without a tile that shows a terrain alone, with those that do wherever they lie on the sheet.

    Of an edge set that is what lies beneath its lines; of others each terrain.

    Parameters
    ----------
    found : FoundSet
    tiles : (n, h, w, 4) uint8
        All of the sheet; straight alpha.
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which of them each cell holds.
    shape : TileShape
    """
    if found.kind == "cell":
        return found
    terrains = np.unique(found.labels).tolist()
    if found.kind == "edge":
        mine = number[found.cells[:, 1], found.cells[:, 0]]
        beneath = lies_beneath(found.kind, found.labels, laid_flat(tiles[mine], shape))
        terrains = [] if beneath is None else [beneath]
    for terrain in terrains:
        alone = (found.labels == terrain).all(axis=1)
        if found.kind == "edge" or not alone.any():
            found = _with_plain_of(found, terrain, alone, colours, number)
    return found


def _with_plain_of(
    found: FoundSet, terrain: int, alone: NDArray[np.bool_], colours: Floats, number: NDArray[np.intp]
) -> FoundSet:
    """A set without those of its tiles that show a terrain alone in another colour, and with others if none is left."""
    mine = number[found.cells[:, 1], found.cells[:, 0]]
    at = np.ones((len(mine), 4), dtype=bool) if found.kind == "edge" else found.labels[:, :4] == terrain
    at &= ~alone[:, None]
    squares, _, wide = in_squares(colours, (found.kind,))
    others = np.setdiff1d(np.arange(len(colours)), mine[~alone])
    if not at.any() or not len(others):
        return found
    shows, other_colour = _shows_only(_corner_squares(squares[mine], wide)[at], squares[others])
    if not shows.any():
        return found
    kept = ~np.isin(mine, others[other_colour])
    # A set that has the tile has its variants too, and leaves those of other sets to them.
    plain = others[:0] if (alone & kept).any() else np.setdiff1d(others[shows], mine)
    spots = np.argwhere(number >= 0)[:, ::-1]
    labels = np.concatenate([found.labels[kept], np.full((len(plain), found.labels.shape[1]), terrain)])
    return replace(
        found,
        cells=np.concatenate([found.cells[kept], spots[plain]]),
        labels=labels,
        sure=np.concatenate([found.sure[kept], np.full(len(plain), found.sure.mean())]),
        covered=covered_share(labels, found.kind, int(labels.max()) + 1),
    )


def _shows_only(corners: Floats, others: Floats) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which tiles, (m, S, 4), look all over as some squares, (k, 4), do; and which do so but for their colour."""
    ground, own_mean = corners.mean(axis=0), others.mean(axis=1)
    off = np.abs(own_mean - ground).sum(axis=-1)
    grain = float(np.abs(corners - ground).sum(axis=-1).mean())
    grains = np.abs(others - own_mean[:, None]).sum(axis=-1).mean(axis=1)
    alike = (grains <= grain * AS_ROUGH + UNSEEN) & (full_alpha(others).min(axis=1) >= _COVERED)
    nearest = float(off[alike].min(initial=SAME_COLOUR))
    near = off <= min(SAME_COLOUR, nearest * 2 + UNSEEN)
    return alike & near, alike & ~near


def _corner_squares(squares: Floats, wide: int) -> Floats:
    """Of tiles, (n, S, 4), with so many squares in a row those in their corners, clockwise, (n, 4, 4)."""
    last = squares.shape[1] - 1
    return squares[:, [0, wide - 1, last, last - wide + 1]]


def _corners(tiles: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The pixels in the four corners of tiles, (4, n, y, x, 4)."""
    down, across = (max(1, side // _CORNER) for side in tiles.shape[1:3])
    sides = [(slice(None, down), slice(-down, None)), (slice(None, across), slice(-across, None))]
    return np.stack([tiles[:, rows, columns] for rows in sides[0] for columns in sides[1]])
