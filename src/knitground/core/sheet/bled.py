"""Whether the colour between tiles runs into their edges, as it does on sheets that were scaled or saved with loss.

The colour comes into all sides of all tiles alike, whatever is drawn there; a rim that is drawn is on some of them, or
is of a colour of its own. Files saved with loss keep brightness more exactly than colour (in JPEG files the latter is
kept for every second pixel only), so the two are looked at one by one.
"""

from collections.abc import Collection, Iterator

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.colour import parse_colour
from knitground.core.sheet.cut import tile_rect
from knitground.core.sheet.slices import Slices

_BRIGHTNESS = np.array([0.299, 0.587, 0.114])
_MOST, _SMALLEST, _WITHIN = 400, 8, slice(3, 6)
"""How many tiles are looked at, how large they are at least, and which lines of pixels within are held against those at
the edges."""
_OPAQUE, _APART = 0.75, 40.0
"""What share of a side is to be opaque, and how far what lies within is from the colour between, of 256 levels."""
_EDGES, _OF_SIDE, _NEARLY_ALL = 12, 3, 0.9
_LEAST, _MOST_MIXED, _EVENLY = 0.06, 0.45, 0.7
"""What share of the colour there is in edges, and how far apart the quarters of edges with more and less of it are."""
_VARIED, _OF_WITHIN = 12.0, 0.2
"""How far brightness within tiles has to vary, and how much less of that edges may show than is left of it there."""


def bled(slices: Slices, between: NDArray[np.uint8]) -> list[tuple[int, int]]:
    """Columns and rows of tiles into which a colour runs that lies between them; none if not into nearly all.

    Of very many tiles some are looked at. A tile of about that colour shows nothing.

    Parameters
    ----------
    slices : Slices
        A grid.
    between : (3,) uint8
    """
    cells = list(slices.cells())
    cells = cells[:: max(1, len(cells) // _MOST)]
    if min(slices.cut.tile_width, slices.cut.tile_height) < _SMALLEST or len(cells) * 4 < _EDGES:
        return []
    mixed = np.stack([_mixed(slices, cell, between.astype(np.float64)) for cell in cells])
    shows = np.zeros(len(cells), dtype=bool)
    for part in range(2):
        shares = mixed[:, :, part]
        if _runs_in(shares) and (part == 1 or _follows(shares, mixed[:, :, 2], float(between @ _BRIGHTNESS))):
            usual = np.nanmedian(shares)
            shows |= np.isfinite(shares).any(axis=1) & (np.nan_to_num(shares, nan=usual).mean(axis=1) >= usual / 2)
    return [cells[number] for number in np.flatnonzero(shows).tolist()]


def colours_between(slices: Slices, keys: Collection[str]) -> Iterator[NDArray[np.uint8]]:
    """The colours that may lie between the tiles of a cut, (3,) uint8 each; none where they touch or are loose pieces.

    Parameters
    ----------
    slices : Slices
    keys : collection of str
        What counts as transparent on the sheet.
    """
    cut = slices.cut
    if cut.pieces or not (cut.spacing_x or cut.spacing_y) or not slices.held.any():
        return
    for key in keys:
        if key.startswith("#"):
            yield np.array(parse_colour(key)[:3], dtype=np.uint8)
    first = tile_rect(cut, 0, 0)
    rows = [first.y + row * cut.pitch_y + cut.tile_height for row in range(slices.grid.rows - 1)] * bool(cut.spacing_y)
    columns = [
        first.x + column * cut.pitch_x + cut.tile_width for column in range(slices.grid.columns - 1)
    ] * bool(cut.spacing_x)  # fmt: skip
    lines = [slices.picture[rows, first.x :], slices.picture[first.y :, columns]]
    pixels = np.concatenate([line.reshape(-1, 4) for line in lines])
    opaque = np.ascontiguousarray(pixels[pixels[:, 3] == 255]).view(np.uint32)
    if len(opaque) * 2 > len(pixels):
        values, counts = np.unique(opaque, return_counts=True)
        yield np.array([values[counts.argmax()]]).view(np.uint8)[:3]


def _runs_in(shares: NDArray[np.float64]) -> bool:
    """Whether a colour is in nearly all edges, and in all of them about as much.

    Parameters
    ----------
    shares : (N, 4) float64
        Its share in each side of some tiles; nan where that can't be told.
    """
    told = np.isfinite(shares)
    if told.sum() < _EDGES or told.sum(axis=0).min() < _OF_SIDE:
        return False
    there = (np.where(told, shares, 0.0) > _LEAST / 2).sum(axis=0) / told.sum(axis=0)
    less, usual, more = np.nanquantile(shares, (0.25, 0.5, 0.75))
    return bool(there.min() >= _NEARLY_ALL and _LEAST <= usual <= _MOST_MIXED and more - less <= _EVENLY * usual)


def _follows(shares: NDArray[np.float64], within: NDArray[np.float64], between: float) -> bool:
    """Whether edges are brighter where the tiles are, as they are where these show through; a drawn rim is not.

    Parameters
    ----------
    shares, within : (N, 4) float64
        How much of the brightness between tiles is in each side, and that of what lies within.
    between : float
    """
    told = np.isfinite(shares)
    shares, within = shares[told], within[told]
    if within.std() < _VARIED:
        return False
    edges = within + shares * (between - within)
    return bool(np.polyfit(within, edges, 1)[0] >= 1 - np.median(shares) - _OF_WITHIN)


def _mixed(slices: Slices, cell: tuple[int, int], between: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much of a colour is in each side of a tile, by brightness and by colour, and how bright it is within, (4, 3).

    It is nan where none can be told.

    Parameters
    ----------
    slices : Slices
    cell : (int, int)
    between : (3,) float64
    """
    found = np.full((4, 3), np.nan)
    x, y, width, height = tile_rect(slices.cut, *cell)
    around = slices.picture[max(0, y - 1) : y + height + 1, max(0, x - 1) : x + width + 1]
    # At the border of the picture nothing lies between.
    bare = y < 1, x + width >= slices.picture.shape[1], y + height >= slices.picture.shape[0], x < 1
    tile = np.pad(around, ((bare[0], bare[2]), (bare[3], bare[1]), (0, 0)))
    for side in range(4):
        beside, edge, *_ = lines = np.rot90(tile, side)[:, 1:-1].astype(np.float64)
        within = lines[_WITHIN]
        full = (edge[:, 3] == 255) & (within[..., 3] == 255).all(axis=0)
        clear = (beside[:, 3] == 0) | (np.abs(beside[:, :3] - between).max(axis=1) <= _APART)
        if bare[side] or full.mean() < _OPAQUE or clear.mean() < _OPAQUE:
            continue
        usual = within[:, full, :3].mean(axis=(0, 1))
        more, whole = edge[full, :3].mean(axis=0) - usual, between - usual
        found[side, 2] = usual @ _BRIGHTNESS
        brighter, all_brighter = more @ _BRIGHTNESS, whole @ _BRIGHTNESS
        for part, (one, other) in enumerate(
            ((np.array([brighter]), np.array([all_brighter])), (more - brighter, whole - all_brighter))
        ):
            length = np.linalg.norm(other)
            if length >= _APART:
                found[side, part] = one @ other / length**2
    return found
