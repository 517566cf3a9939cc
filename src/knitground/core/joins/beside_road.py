"""The ground of a road of which no tile shows it alone: put together of what its tiles show beside the road."""

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.palettes import Palette
from knitground.core.joins.tile_places import Places
from knitground.core.joins.under_lines import no_specks

_CORNER = 1 / 6
"""What part of a tile's side is looked at in each corner, where no road leads."""
_ENOUGH = 0.25
"""What share of a tile has to be seen beside the road of some tile."""
_RING, _SEEN, _MOST, _SOME = 2, 0.3, 32, 256
"""How many pixels round what is hidden tell what suits it, what share of them has to be seen where that lies, and over
how many places along each side of a tile it is looked for, with how many pixels of either."""
_UNKNOWN = 765
"""How unlike is what lies nowhere, of 765."""


def ground_beside(tiles: NDArray[np.uint8], places: Places) -> NDArray[np.uint8] | None:
    """The ground of tiles with a road, or None if they don't show it in all their corners.

    What the road hides on all of them is filled with what lies elsewhere on it and suits what is seen round it best.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    places : Places
        Of their pixels.

    Returns
    -------
    ground : (h, w, 4) uint8 or None
    """
    inside = places.inside
    corners = inside & ((places.at < _CORNER) | (places.at > 1 - _CORNER)).all(axis=0)
    shown = tiles[:, corners]
    if not shown.size or (shown[..., 3] < 255).any():
        return None
    drawn = no_specks(Palette(shown).lacks(tiles) & inside)
    # A rim that was drawn smoothly shows the ground's colours, nearly.
    near_road = scipy.ndimage.binary_dilation(drawn, np.ones((1, 3, 3), bool))
    ground, hidden = np.zeros_like(tiles[0]), inside.copy()
    for number in np.argsort(near_road.sum(axis=(1, 2)), kind="stable").tolist():
        taken = hidden & ~near_road[number]
        ground[taken] = tiles[number][taken]
        hidden &= ~taken
    if hidden.sum() > (1 - _ENOUGH) * inside.sum():
        return None
    return _filled(ground, hidden, places) if hidden.any() else ground


def _filled(ground: NDArray[np.uint8], hidden: NDArray[np.bool_], places: Places) -> NDArray[np.uint8]:
    """A ground with what is hidden of it from where that suits what is seen round it."""
    known = places.inside & ~hidden
    ring = known & scipy.ndimage.binary_dilation(hidden, np.ones((3, 3), bool), iterations=_RING)
    best = _best_shift(ground, known, _some(hidden), _some(ring), places)
    there = places.pixels((places.at[:, hidden] + best[:, None]) % 1)
    rows, columns = scipy.ndimage.distance_transform_edt(~known, return_distances=False, return_indices=True)
    filled = ground.copy()
    filled[hidden] = ground[rows[there], columns[there]]
    return filled


def _some(mask: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Rows and columns of pixels, evenly chosen where they are many, (2, k)."""
    spots = np.argwhere(mask).T
    return spots[:, :: max(1, spots.shape[1] // _SOME)]


def _best_shift(
    ground: NDArray[np.uint8],
    known: NDArray[np.bool_],
    hidden: NDArray[np.intp],
    ring: NDArray[np.intp],
    places: Places,
) -> NDArray[np.float64]:
    """How far down and across the tile, up to 1, that lies which suits what is hidden best, (2,)."""
    high, wide = (min(_MOST, side) for side in ground.shape[:2])
    shifts = np.stack([one.ravel() for one in np.mgrid[:high, :wide]]) / [[high], [wide]]
    (at_hidden, at_ring) = (
        places.pixels((places.at[:, None, spots[0], spots[1]] + shifts[..., None]) % 1) for spots in (hidden, ring)
    )
    shown = known[at_ring]
    off = np.abs(ground[at_ring].astype(np.int16) - ground[ring[0], ring[1]]).sum(axis=-1) * shown
    unlike = off.sum(axis=1) / np.maximum(shown.sum(axis=1), 1) + _UNKNOWN * (~known[at_hidden]).mean(axis=1)
    return np.asarray(shifts[:, np.where(shown.mean(axis=1) < _SEEN, np.inf, unlike).argmin()])
