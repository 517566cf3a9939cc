"""The ground of a road of which no tile shows it alone: put together of what its tiles show beside the road."""

from itertools import product

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
_RING, _SEEN, _MOST = 2, 0.3, 32
"""How many pixels round what is hidden tell what suits it, what share of them has to be seen where that lies, and over
how many places along each side of a tile it is looked for."""
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
    looked_at = hidden | ring
    round_it, around = ring[looked_at], ground[looked_at].astype(np.int32)

    def unlike(shift: tuple[float, float]) -> float:
        there = places.pixels((places.at[:, looked_at] + np.array(shift)[:, None]) % 1)
        held = known[there]
        shown = held & round_it
        if shown.sum() < _SEEN * round_it.sum():
            return np.inf
        off = np.abs(ground[there][shown] - around[shown]).sum(axis=-1).mean()
        return float(off + _UNKNOWN * (~held)[~round_it].mean())

    high, wide = (min(_MOST, side) for side in ground.shape[:2])
    best = np.array(min(product(np.arange(high) / high, np.arange(wide) / wide), key=unlike))
    there = places.pixels((places.at[:, hidden] + best[:, None]) % 1)
    rows, columns = scipy.ndimage.distance_transform_edt(~known, return_distances=False, return_indices=True)
    filled = ground.copy()
    filled[hidden] = ground[rows[there], columns[there]]
    return filled
