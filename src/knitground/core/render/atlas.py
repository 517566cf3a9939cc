"""All tiles that a ground may show, as one array, in full size and reduced for looking from afar.

Pixels are kept with premultiplied alpha, so that laying one over another and averaging are plain arithmetic.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, stands_at
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
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


def slices_of(pictures: Mapping[str, Pixels], sheets: Iterable[Sheet]) -> dict[tuple[str, str], Slices]:
    """The tiles of every cut that fits its picture, by (sheet, cut)."""
    sliced = {}
    for sheet in sheets:
        for cut in sheet.cuts:
            try:
                sliced[sheet.id, cut.id] = Slices(pictures[sheet.id], cut, sheet.parts_over(cut))
            except BadSheet:
                continue  # reported by the checks; its tiles show as nothing
    return sliced


class Reach(NamedTuple):
    """How many cells tiles reach beyond their own."""

    left: int
    top: int
    right: int
    bottom: int


class Atlas:
    """Pixels by cell code.

    Slot 0 is empty, slots 1 to N the palette, slot N + 1 the mark for a gap; turned tiles, and larger ones in pieces
    of a cell each, come behind as they are first asked for.
    """

    def __init__(
        self, sliced: Mapping[tuple[str, str], Slices], refs: Sequence[TileRef], width: int, height: int
    ) -> None:
        self.tile_width, self.tile_height = width, height
        self._turned: dict[int, int] = {}
        self._palette_size = len(refs)
        self._large: dict[int, tuple[Cut, Pixels]] = {}
        self._pieces: dict[tuple[int, int, int], int] = {}
        self._in_pieces: set[int] = set()
        pixels = np.zeros((len(refs) + 2, height, width, 4), dtype=np.uint8)
        for number, ref in enumerate(refs, start=1):
            slices = sliced.get((ref.sheet, ref.cut))
            tile = slices.tile(ref.column, ref.row) if slices else None
            if slices is not None and tile is not None:
                self._add(pixels[number], number, slices.cut, tile)
        pixels = premultiplied(pixels)
        pixels[-1] = _gap_mark(width, height)
        self._levels = {0: pixels}
        self.large = np.array(sorted(self._large), dtype=np.int32)
        """Palette numbers of tiles that reach beyond their cell."""
        self.reach = self._farthest()

    def pieces(self, codes: NDArray[np.int32]) -> Iterator[tuple[int, int, NDArray[np.intp]]]:
        """Tiles that reach beyond their cells, in pieces of a cell each.

        Parameters
        ----------
        codes : (H, W) int32
            Cell codes of such tiles, 0 elsewhere.

        Yields
        ------
        down, right : int
            How many cells away from its tile's cell a piece lies. What is to be drawn later comes later.
        slots : (H, W) intp
            That piece of each tile, at the cell of its tile.
        """
        unique, inverse = np.unique(codes, return_inverse=True)
        known = unique.tolist()
        self._add_pieces([code for code in known if code > 0 and code not in self._in_pieces])
        # A cell shows pieces of several tiles; the tile of a row further up, or further left, is drawn first.
        for down in range(self.reach.bottom, -self.reach.top - 1, -1):
            for right in range(self.reach.right, -self.reach.left - 1, -1):
                slots = np.array([self._pieces.get((code, down, right), 0) for code in known], dtype=np.intp)
                if slots.any():
                    yield down, right, slots[inverse].reshape(codes.shape)

    def _add_pieces(self, codes: list[int]) -> None:
        height, width = self.tile_height, self.tile_width
        added: list[Pixels] = []
        first = len(self._levels[0])
        for code in codes:
            left, top, tile = self._whole(code)
            self._in_pieces.add(code)
            for down in range(top // height, (top + tile.shape[0] - 1) // height + 1):
                for right in range(left // width, (left + tile.shape[1] - 1) // width + 1):
                    cell = np.zeros((height, width, 4), dtype=np.uint8)
                    _place(cell, tile, left - right * width, top - down * height)
                    if cell[..., 3].any():
                        self._pieces[code, down, right] = first + len(added)
                        added.append(cell)
        if added:
            self._levels = {0: np.concatenate([self._levels[0], np.stack(added)])}

    def _whole(self, code: int) -> tuple[int, int, Pixels]:
        """A larger tile as it is laid: where its left top pixel lies, seen from its cell's, and its pixels."""
        cut, tile = self._large[code & NUMBER_MASK]
        turned = orient(tile, code >> ORIENTATION_SHIFT)
        left, top = stands_at(cut, (turned.shape[1], turned.shape[0]), (self.tile_width, self.tile_height))
        return left, top, premultiplied(turned)

    def _add(self, cell: Pixels, number: int, cut: Cut, tile: Pixels) -> None:
        """Sets a tile into its cell, and remembers the whole of it if it reaches beyond."""
        left, top = stands_at(cut, (tile.shape[1], tile.shape[0]), (self.tile_width, self.tile_height))
        _place(cell, tile, left, top)
        inside = left >= 0 and top >= 0 and left + tile.shape[1] <= self.tile_width
        if not inside or top + tile.shape[0] > self.tile_height:
            self._large[number] = cut, tile

    def _farthest(self) -> "Reach":
        """How many cells the largest tiles reach, whichever way they are turned."""
        far = [0, 0, 0, 0]
        sides = (self.tile_width, self.tile_height) * 2
        for cut, tile in self._large.values():
            for high, wide in (tile.shape[:2], tile.shape[1::-1]):
                left, top = stands_at(cut, (wide, high), (self.tile_width, self.tile_height))
                over = (-left, -top, left + wide - self.tile_width, top + high - self.tile_height)
                far = [max(known, -(-out // side)) for known, out, side in zip(far, over, sides, strict=True)]
        return Reach(*far)

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
        if number in self._large:
            left, top, pixels = self._whole(code)
            _place(tile[0], pixels, left, top)
        elif 0 < number <= self._palette_size:
            turned = orient(self._levels[0][number], orientation)
            _place(tile[0], turned, 0, self.tile_height - turned.shape[0])
        self._turned[code] = len(self._levels[0])
        self._levels = {0: np.concatenate([self._levels[0], tile])}


def _place(cell: Pixels, tile: Pixels, left: int, top: int) -> None:
    """Sets what it can of a tile of any size into a cell, the tile's left top pixel at a place of the cell."""
    right, bottom = min(cell.shape[1], left + tile.shape[1]), min(cell.shape[0], top + tile.shape[0])
    if right > max(0, left) and bottom > max(0, top):
        part = tile[max(0, -top) : bottom - top, max(0, -left) : right - left]
        cell[max(0, top) : bottom, max(0, left) : right] = part


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
