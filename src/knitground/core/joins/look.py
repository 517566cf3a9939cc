"""What a tile looks like near its corners and edges: colours and grain, as numbers that can be compared."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.cut import TileShape

Floats = NDArray[np.float64]
_WITHIN = 0.92
"""What share of a diamond is looked at."""
_ALPHA = 0.6
_MOST = 70
"""So many of a hundred tiles have nearly the same colours in a set of one terrain."""
_LEAST_ART, _LEAST_CLEAR = 0.05, 0.1
"""How much of a tile has to be art for its colour, and how much of tiles clear for them to stand on clear ground."""
_CHROMA = 1.5
_COLOURS = 12
_SAMPLED = 4000
SAME_COLOUR, AS_ROUGH, UNSEEN = 0.032, 1.6, 0.005
"""How far apart in mean colour tiles of one terrain are at the most, and how many times as rough; what no eye sees."""
_HEAP = 1.6
"""How much further from the middle colours of one heap lie than those of either half from its own."""
# Spreads of the windows through which a place is seen, as shares of the tile's side.
_MIDDLE = 0.13
_CORNER, _CORNER_OF_FULL, _EDGE_DEEP, _EDGE_LONG, _EDGE_WIDE = 0.13, 0.08, 0.08, 0.07, 0.18
_PARTS = np.arange(256) / 255.0
_LINEAR = np.where(_PARTS <= 0.04045, _PARTS / 12.92, ((_PARTS + 0.055) / 1.055) ** 2.4)
"""How much light each number of sRGB stands for."""
_TO_CONE = np.array(
    [[0.4122214708, 0.5363325363, 0.0514459929], [0.2119034982, 0.6806995451, 0.1073969566],
     [0.0883024619, 0.2817188376, 0.6299787005]]
)  # fmt: skip
_TO_LAB = np.array(
    [[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099],
     [0.0259040371, 0.7827717662, -0.8086757660]]
)  # fmt: skip


def seen_colours(tiles: NDArray[np.uint8], shape: TileShape) -> Floats:
    """Tiles in colours whose distance is what an eye sees, (n, h, w, 4): OKLab times alpha, and alpha.

    Isometric tiles, diamonds that fill their rectangle, are laid flat into squares first: their north-west corner is
    the one on top.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    shape : TileShape

    Returns
    -------
    colours : (n, h, w, 4) float64

    References
    ----------
    B. Ottosson, "A perceptual color space for image processing" (2020).
    """
    tiles = laid_flat(tiles, shape)
    lab = np.cbrt(_LINEAR[tiles[..., :3]] @ _TO_CONE.T) @ _TO_LAB.T
    alpha = tiles[..., 3:] / 255.0
    lab[..., 1:] *= _CHROMA
    return np.concatenate([lab * alpha, alpha * _ALPHA], axis=-1)


def full_alpha(colours: Floats) -> Floats:
    """The alpha of colours that are seen.

    Parameters
    ----------
    colours : (..., 4) float64
        As `seen_colours` gives them.

    Returns
    -------
    alpha : (...) float64
        From 0 to 1.
    """
    alpha: Floats = colours[..., 3] / _ALPHA
    return alpha


def place_windows(kind: JoinKind, height: int, width: int, times: float = 1.0) -> Floats:
    """How much each pixel counts for each place of a join kind, (P, h, w); each window adds up to one.

    Parameters
    ----------
    kind : JoinKind
    height, width : int
        Of a tile, in pixels.
    times : float
        How much wider windows are than those through which places are usually seen.

    Returns
    -------
    windows : (P, h, w) float64
    """

    def bump(at: Floats, centre: float, spread: float) -> Floats:
        return _bump(at, centre, spread * times)

    y, x = (np.arange(height) + 0.5) / height, (np.arange(width) + 0.5) / width
    windows = []
    if kind != "edge":
        spread = _CORNER if kind == "corner" else _CORNER_OF_FULL
        windows += [
            np.outer(bump(y, down, spread), bump(x, across, spread))
            for down, across in ((0, 0), (0, 1), (1, 1), (1, 0))
        ]
    if kind != "corner":
        for down, across in ((0, 0.5), (0.5, 1), (1, 0.5), (0.5, 0)):
            near, wide = (
                np.outer(
                    bump(y, down, _EDGE_DEEP if down != 0.5 else along),
                    bump(x, across, _EDGE_DEEP if across != 0.5 else along),
                )
                for along in (_EDGE_LONG, _EDGE_WIDE)
            )
            # A line need not cross the very middle of the edge.
            share = 0.4 if kind == "edge" else 0.0
            windows.append((1 - share) * near / near.sum() + share * wide / wide.sum())
    if kind == "cell":
        windows.append(np.outer(bump(y, 0.5, _MIDDLE), bump(x, 0.5, _MIDDLE)))
    every = np.stack(windows)
    scaled: Floats = every / every.sum(axis=(1, 2), keepdims=True)
    return scaled


def place_features(colours: Floats, windows: Floats) -> Floats:
    """The mean colour of each place and how often each of a few colours of the sheet shows there.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    windows : (P, h, w) float64
        As `place_windows` gives them.

    Returns
    -------
    features : (n * P, F) float64
        The places of the first tile first.
    """
    from scipy.cluster import vq

    pixels = colours.reshape(-1, colours.shape[-1])
    some = _in_order(pixels[:: max(1, len(pixels) // _SAMPLED)])
    book = some
    if len(some) > _COLOURS:
        # Beginning with colours spread over the order of lightness makes the result the same every time.
        start = some[np.linspace(0, len(some) - 1, _COLOURS).astype(np.intp)]
        book, _ = vq.kmeans(some, start)
    codes = vq.vq(pixels, book)[0].reshape(colours.shape[:3])
    means = np.einsum("pyx,nyxc->npc", windows, colours)
    shares = [np.einsum("pyx,nyx->np", windows, codes == colour) for colour in range(len(book))]
    features = np.concatenate([means, 0.3 * np.sqrt(np.stack(shares, axis=-1))], axis=-1)
    return features.reshape(-1, features.shape[-1])


def _in_order(rows: Floats) -> Floats:
    """The distinct rows in ascending order, as `numpy.unique` gives them, in a tenth of the time."""
    ordered = rows[np.lexsort(rows.T[::-1])]
    first: Floats = ordered[np.concatenate([[True], (ordered[1:] != ordered[:-1]).any(axis=1)])]
    return first


def pixel_distances(colours: Floats, windows: Floats) -> Floats:
    """How far the same place of any two tiles differs, pixel by pixel.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
    windows : (P, h, w) float64

    Returns
    -------
    distances : (P, n, n) float64
        Infinite from a tile to itself.
    """
    from scipy.spatial.distance import cdist

    count = len(colours)
    distances = np.empty((len(windows), count, count))
    for place, window in enumerate(windows):
        seen = window > window.max() * 0.05
        share = window[seen] / window[seen].sum()
        patches = (colours[:, seen] * share[:, None]).reshape(count, -1)
        distances[place] = cdist(patches, patches, "cityblock")
        np.fill_diagonal(distances[place], np.inf)
    return distances


def terrains_mixed(kind: JoinKind, labels: NDArray[np.intp], colours: Floats) -> float:
    """How far two halves of what is labelled as one terrain are apart in colour, by how far terrains are.

    Of the terrain for which that is most; near 0 where its places are strewn about one colour, however far.

    Parameters
    ----------
    kind : JoinKind
    labels : (n, P) intp
        A number from 0 for the terrain at each place.
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    """
    places = np.einsum("phw,nhwc->npc", place_windows(kind, *colours.shape[1:3]), colours, optimize=True)
    terrains = np.unique(labels)
    if len(terrains) < 2:
        return 0.0
    middles = np.stack([np.median(places[labels == terrain], axis=0) for terrain in terrains])
    far = np.abs(middles[:, None] - middles).sum(axis=-1)[np.triu_indices(len(terrains), 1)].mean()
    # Art that is the same in all tiles differs from place to place.
    for terrain in terrains:
        for place in range(labels.shape[1]):
            here = labels[:, place] == terrain
            if here.any():
                places[here, place] -= np.median(places[here, place], axis=0)
    return max(_halved(places[labels == terrain]) for terrain in terrains) / max(float(far), 1e-9)


def motley(colours: Floats) -> float:
    """How far the mean colours of what tiles show on clear ground lie apart, but for a few; 0 where little is clear.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    """
    art = full_alpha(colours).mean(axis=(1, 2))
    shown = art > _LEAST_ART
    if (colours[..., 3] == 0).mean() < _LEAST_CLEAR or not shown.any():
        return 0.0
    means = colours[shown, ..., :3].mean(axis=(1, 2)) / art[shown, None]
    return float(np.percentile(np.linalg.norm(means - np.median(means, axis=0), axis=1), _MOST))


def _halved(some: Floats) -> float:
    """How much nearer colours, (n, 4), lie to the middle of their half than one would expect of a single heap."""
    off = some - some.mean(axis=0)
    upper = off @ np.linalg.svd(off, full_matrices=False)[2][0] > 0
    if upper.all() or not upper.any():
        return 0.0
    halves = [np.abs(half - np.median(half, axis=0)).sum(axis=-1) for half in (some[upper], some[~upper])]
    whole = np.abs(some - np.median(some, axis=0)).sum(axis=-1).mean()
    return max(0.0, float(whole - _HEAP * np.concatenate(halves).mean()))


def laid_flat(tiles: NDArray[np.uint8], shape: TileShape, *, rim: float | None = None) -> NDArray[np.uint8]:
    """Isometric tiles as squares, their north-west corner being the one on top; others as they are.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        What stands higher than the diamond is not seen.
    shape : TileShape
    rim : float, optional
        How many rows of the diamond to leave out at its sides; else a share of it.

    Returns
    -------
    tiles : (n, h, w, 4) uint8
    """
    if shape == "square":
        return tiles
    width = tiles.shape[2]
    height = diamond_height(*tiles.shape[1:3])
    tiles = tiles[:, tiles.shape[1] - height :]
    # A little inside, as the pixels along the border of a diamond are half outside.
    within = _WITHIN if rim is None else 1 - rim / height
    at = ((np.arange(height) + 0.5) / height - 0.5) * within + 0.5
    south, east = at[:, None], at[None, :]
    columns = np.clip(((east - south) / 2 + 0.5) * width, 0, width - 1).astype(np.intp)
    rows = np.clip((east + south) / 2 * height, 0, height - 1).astype(np.intp)
    return tiles[:, rows, columns]


def diamond_height(height: int, width: int) -> int:
    """Rows of the diamond at the bottom of an isometric tile: all, or half the width where art stands up from it."""
    return height if height <= 0.55 * width else max(1, width // 2)


def _bump(at: Floats, centre: float, spread: float) -> Floats:
    return np.exp(-0.5 * ((at - centre) / spread) ** 2)


def looks_of(tiles: NDArray[np.uint8]) -> NDArray[np.intp]:
    """A number for each tile that those have in common whose pixels are all the same, (n,)."""
    rows = np.ascontiguousarray(tiles).reshape(len(tiles), -1)
    found: NDArray[np.intp] = np.unique(rows.view(f"V{rows.shape[1]}").ravel(), return_inverse=True)[1].astype(np.intp)
    return found
