"""Tiles that look the same, as they are or turned and mirrored."""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.tiles.tile import TileRef, orient, orientations_of, turned_further


class Twin(NamedTuple):
    """A tile that looks like the first of its group in an orientation (see `orient`)."""

    ref: TileRef
    orientation: int


def different(picture: NDArray[np.uint8], width: int, height: int) -> tuple[NDArray[np.uint8], NDArray[np.intp]]:
    """The different tiles of a picture in the order in which they first come, and which of them lies in each cell.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        Straight alpha, a whole number of tiles wide and high. Colours of pixels that cannot be seen do not count.
    width, height : int
        Of a tile, in pixels.

    Returns
    -------
    tiles : (n, height, width, 4) uint8
    which : (rows, columns) intp
        From 0.
    """
    rows, columns = picture.shape[0] // height, picture.shape[1] // width
    cells = _plain(picture).reshape(rows, height, columns, width, 4).swapaxes(1, 2).reshape(rows * columns, -1)
    as_one = np.ascontiguousarray(cells).view(np.dtype((np.void, cells.shape[1])))[:, 0]
    _, first, which = np.unique(as_one, return_index=True, return_inverse=True)
    order = np.argsort(first)
    place = np.empty(len(first), dtype=np.intp)
    place[order] = np.arange(len(first))
    return cells[first[order]].reshape(-1, height, width, 4), place[which.ravel()].reshape(rows, columns)


def twins(tiles: Mapping[TileRef, NDArray[np.uint8]], *, turned: bool = True) -> list[list[Twin]]:
    """Groups of two tiles or more that look the same, the first of each as it is.

    Parameters
    ----------
    tiles : mapping to (h, w, 4) uint8
        In the order in which they are to come. Colours of pixels that cannot be seen do not count.
    turned : bool
        Whether tiles that are the same only when mirrored or turned count too.
    """
    groups: dict[bytes, list[tuple[TileRef, int, bytes]]] = {}
    for ref, pixels in tiles.items():
        plain = _plain(pixels)
        looks = {way: _look(orient(plain, way)) for way in _ways(plain, turned)}
        # The least of all its looks stands for a tile and for all that are like it.
        way = min(looks, key=lambda one: (looks[one], one))
        groups.setdefault(looks[way], []).append((ref, way, looks[0]))
    return [_as_twins(group) for group in groups.values() if len(group) > 1]


def like(tiles: Mapping[TileRef, NDArray[np.uint8]], wanted: TileRef) -> list[TileRef]:
    """The tiles that look like one of them, itself included; flipped and turned ones too.

    Parameters
    ----------
    tiles : mapping of TileRef to (h, w, 4) uint8
        Straight alpha.
    wanted : TileRef
        One of them.
    """
    sought = _plain(tiles[wanted])
    looks = {_look(orient(sought, way)) for way in _ways(sought, turned=True)}
    # What turning does not change tells most others apart at once.
    sizes, total = {sought.shape, sought.swapaxes(0, 1).shape}, int(sought.sum())
    found = []
    for ref, pixels in tiles.items():
        if pixels.shape in sizes:
            plain = _plain(pixels)
            if int(plain.sum()) == total and _look(plain) in looks:
                found.append(ref)
    return found


def inverse(orientation: int) -> int:
    """The orientation that undoes one."""
    return orientation if orientation & 4 else -orientation & 3


def _plain(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A tile with the colours of pixels that cannot be seen taken out."""
    return np.where(pixels[..., 3:] > 0, pixels, 0).astype(np.uint8)


def _as_twins(group: list[tuple[TileRef, int, bytes]]) -> list[Twin]:
    _, first, look = group[0]
    return [
        Twin(ref, 0 if own == look else turned_further(first, inverse(way)))
        for ref, way, own in group
    ]  # fmt: skip


def _ways(pixels: NDArray[np.uint8], turned: bool) -> tuple[int, ...]:
    return orientations_of(pixels.shape[1], pixels.shape[0]) if turned else (0,)


def _look(pixels: NDArray[np.uint8]) -> bytes:
    height, width = pixels.shape[:2]
    return b"%d %d " % (width, height) + pixels.tobytes()
