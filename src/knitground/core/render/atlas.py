"""All tiles that a ground may show, as one array, in full size and reduced for looking from afar.

Pixels are kept with premultiplied alpha, so that laying one over another and averaging are plain arithmetic.
"""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, slice_tiles
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef, orient

_GAP_LINE = np.array([224, 178, 90, 255], dtype=np.uint8)
_GAP_VEIL = np.array([40, 32, 24, 190], dtype=np.uint8)

Pixels = NDArray[np.uint8]


def premultiplied(picture: Pixels) -> Pixels:
    """RGBA with its colours multiplied by alpha, rounded."""
    alpha = picture[..., 3:].astype(np.uint16)
    result = picture.copy()
    result[..., :3] = (picture[..., :3] * alpha + 127) // 255
    return result


def straight(picture: Pixels) -> Pixels:
    """The inverse of `premultiplied`, as far as rounding allows; exact where alpha is 0 or 255."""
    alpha = np.maximum(picture[..., 3:], 1).astype(np.uint32)
    result = picture.copy()
    result[..., :3] = np.minimum((picture[..., :3] * np.uint32(255) + alpha // 2) // alpha, 255)
    return result


def cut_pixels(pictures: Mapping[str, Pixels], cuts: Mapping[tuple[str, str], Cut]) -> dict[tuple[str, str], Pixels]:
    """The sliced tiles of every cut that fits its picture, by (sheet, cut)."""
    sliced = {}
    for (sheet, name), cut in cuts.items():
        if sheet in pictures:
            try:
                sliced[sheet, name] = slice_tiles(pictures[sheet], cut)
            except BadSheet:
                continue  # reported by the checks; its tiles show as nothing
    return sliced


class Atlas:
    """Pixels by cell code.

    Slot 0 is empty, slots 1 to N the palette, slot N + 1 the mark for a gap; turned tiles come behind as they
    are first asked for.
    """

    def __init__(
        self, sliced: Mapping[tuple[str, str], Pixels], refs: Sequence[TileRef], width: int, height: int
    ) -> None:
        self.tile_width, self.tile_height = width, height
        self._turned: dict[int, int] = {}
        self._palette_size = len(refs)
        pixels = np.zeros((len(refs) + 2, height, width, 4), dtype=np.uint8)
        for number, ref in enumerate(refs, start=1):
            tiles = sliced.get((ref.sheet, ref.cut))
            if tiles is not None and ref.row < tiles.shape[0] and ref.column < tiles.shape[1]:
                _place(pixels[number], tiles[ref.row, ref.column])
        pixels = premultiplied(pixels)
        pixels[-1] = _gap_mark(width, height)
        self._levels = {0: pixels}

    def slots(self, codes: NDArray[np.int32]) -> NDArray[np.intp]:
        """Where the pixels of each cell code stand in `pixels`."""
        slots = np.where(codes < 0, self._palette_size + 1, codes).astype(np.intp)
        turned = slots > NUMBER_MASK
        if turned.any():
            for code in np.unique(codes[turned]).tolist():
                if code not in self._turned:
                    self._add_turned(code)
                slots[codes == code] = self._turned[code]
        # A code beyond the palette can only come from a palette that grew since; it shows as nothing until then.
        slots[slots >= len(self._levels[0])] = 0
        return slots

    def pixels(self, level: int) -> Pixels:
        """All tiles at 1 / 2**level of their size but at least one pixel: (slots, h, w, 4) uint8."""
        if level not in self._levels:
            width, height = max(1, self.tile_width >> level), max(1, self.tile_height >> level)
            self._levels[level] = _reduced(self._levels[0], width, height)
        return self._levels[level]

    def _add_turned(self, code: int) -> None:
        number, orientation = code & NUMBER_MASK, code >> ORIENTATION_SHIFT
        tile = np.zeros((1, self.tile_height, self.tile_width, 4), dtype=np.uint8)
        if 0 < number <= self._palette_size:
            _place(tile[0], orient(self._levels[0][number], orientation))
        self._turned[code] = len(self._levels[0])
        self._levels = {0: np.concatenate([self._levels[0], tile])}


def _place(cell: Pixels, tile: Pixels) -> None:
    """Sets a tile of any size into a cell, standing on the cell's bottom left corner."""
    height, width = min(cell.shape[0], tile.shape[0]), min(cell.shape[1], tile.shape[1])
    cell[cell.shape[0] - height :, :width] = tile[tile.shape[0] - height :, :width]


def _gap_mark(width: int, height: int) -> Pixels:
    """Thin slanting lines over a dark veil: no tile looks like it, and it does not shout the art down."""
    rows, columns = np.arange(height)[:, None], np.arange(width)
    spaced = max(4, min(width, height) // 3)
    lines = (rows + columns) % spaced < max(1, spaced // 4)
    mark: Pixels = np.where(lines[..., None], _GAP_LINE, _GAP_VEIL)
    return premultiplied(mark)


def _reduced(pixels: Pixels, width: int, height: int) -> Pixels:
    """Every tile averaged down to a smaller size, without bleeding into its neighbours."""
    rows = np.arange(height + 1) * pixels.shape[1] // height
    columns = np.arange(width + 1) * pixels.shape[2] // width
    sums = np.add.reduceat(pixels, rows[:-1], axis=1, dtype=np.uint32)
    sums = np.add.reduceat(sums, columns[:-1], axis=2)
    area = (np.diff(rows)[:, None] * np.diff(columns))[..., None]
    return np.asarray((sums + area // 2) // area, dtype=np.uint8)
