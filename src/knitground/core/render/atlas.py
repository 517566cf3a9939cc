"""The sprites of tiles, by cell code: each is made when it is first asked for, and kept.

Sprites of one size lie on one page, an array that grows as they come; a new palette entry, or a turned tile, costs
that tile alone. A sprite knows where it stands against the box of its cell. Pixels are premultiplied.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.grid import Outline
from knitground.core.render.cell_outline import beside, lies_flat
from knitground.core.render.pixels import Pixels, premultiplied, reduced
from knitground.core.sheet.cut import stands_at, tile_size
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import GAP, NUMBER_MASK, ORIENTATION_SHIFT, TileRef, orient

_GAP_LINE = np.array([224, 178, 90, 255], dtype=np.uint8)
_GAP_VEIL = np.array([40, 32, 24, 190], dtype=np.uint8)
_PER_CELL: Mapping[Outline, float] = {"box": 1.0, "diamond": 2.0, "pointed": 4 / 3, "lying": 4 / 3}
"""How much larger the box is than the cell."""
_LARGE = 2.5
_NOTHING, _GAP, _UNKNOWN = 0, 1, -1
_FIRST_ROOM = 16
_MOST_TURNED = 2048

Ids = NDArray[np.int32]


def slices_of(pictures: Mapping[str, Pixels], sheets: Sequence[Sheet]) -> dict[tuple[str, str], Slices]:
    """The tiles of every cut that fits its picture, by (sheet, cut).

    Parameters
    ----------
    pictures : mapping of sheet id to (H, W, 4) uint8
        With what counts as transparent made so.
    sheets : sequence of Sheet
    """
    sliced = {}
    for sheet in sheets:
        for cut in sheet.cuts:
            try:
                sliced[sheet.id, cut.id] = Slices(pictures[sheet.id], cut, sheet.parts_over(cut))
            except BadSheet:
                continue  # reported by the checks; its tiles show as nothing
    return sliced


class Stand(NamedTuple):
    """A page, and where its sprites stand against the boxes of their cells."""

    page: int
    left: int
    top: int


class Overhang(NamedTuple):
    """How many pixels sprites reach beyond the boxes of their cells."""

    left: int
    top: int
    right: int
    bottom: int


@dataclass
class _Page:
    """All sprites of one size, in full and reduced."""

    height: int
    width: int
    count: int = 0
    levels: dict[tuple[int, int], tuple[Pixels, int]] = field(default_factory=dict)

    def add(self, sprite: Pixels) -> int:
        """Puts a sprite on the page; returns its number there."""
        full, _ = self.levels.get((self.height, self.width), (_room(0, self.height, self.width), 0))
        if self.count == len(full):
            larger = _room(max(_FIRST_ROOM, 2 * self.count), self.height, self.width)
            larger[: self.count] = full
            full = larger
        full[self.count] = sprite
        self.count += 1
        self.levels[self.height, self.width] = full, self.count
        return self.count - 1

    def at(self, height: int, width: int) -> Pixels:
        """The sprites at a smaller size, (N, height, width, 4); those that came since the last time are added."""
        full = self.levels[self.height, self.width][0]
        if (height, width) == (self.height, self.width):
            return full
        known, count = self.levels.get((height, width), (_room(0, height, width), 0))
        if count < self.count:
            if len(known) < len(full):
                larger = _room(len(full), height, width)
                larger[:count] = known[:count]
                known = larger
            known[count : self.count] = reduced(full[count : self.count], height, width)
            self.levels[height, width] = known, self.count
        return known


class Atlas:
    """The sprites of one palette for cells of one size.

    Sprites are known by ids: 0 is nothing, 1 the mark of a gap. The arrays below go by them.
    """

    def __init__(self, width: int, height: int, *, outline: Outline = "box") -> None:
        self.tile_width, self.tile_height, self.outline = width, height, outline
        self._pages: dict[tuple[int, int], _Page] = {}
        self._sizes: list[tuple[int, int]] = []
        self._ids = np.full((8, 1), _UNKNOWN, dtype=np.int32)
        self._refs: Sequence[TileRef] = ()
        self._sliced: Mapping[tuple[str, str], Slices] = {}
        self._begin()

    def _begin(self) -> None:
        self._pages, self._sizes = {}, []
        self._tiles: dict[tuple[TileRef, int], Pixels | None] = {}
        self._turned: dict[tuple[TileRef | None, tuple[Any, ...]], Any] = {}
        self._kept: dict[Any, list[tuple[object, Any]]] = {}
        self._ids = np.full((8, len(self._refs) + 1), _UNKNOWN, dtype=np.int32)
        self._ids[:, 0] = _NOTHING
        self._count = 0
        self.pages = np.zeros(_FIRST_ROOM, dtype=np.int32)
        """The page of each sprite."""
        self.slots = np.zeros(_FIRST_ROOM, dtype=np.int32)
        """Its number there."""
        self.lefts = np.zeros(_FIRST_ROOM, dtype=np.int32)
        """Its left border, in pixels from that of the box."""
        self.tops = np.zeros(_FIRST_ROOM, dtype=np.int32)
        self.fits = np.ones(_FIRST_ROOM, dtype=bool)
        """Whether it fills the box exactly."""
        self.whole = np.ones(_FIRST_ROOM, dtype=bool)
        """Whether each of its pixels is either clear or opaque."""
        self.flat = np.ones(_FIRST_ROOM, dtype=bool)
        """Whether nothing of it lies beside the cell: in its box, and on other grids in the diamond or hexagon."""
        self.kinds = np.zeros(_FIRST_ROOM, dtype=np.int32)
        """Which of `stands` it is of."""
        self.stands: list[Stand] = []
        """The different sizes of sprites, and how they stand against their boxes."""
        self.means = np.zeros((_FIRST_ROOM, 4), dtype=np.uint8)
        """Its colour from afar."""
        self.overhang = Overhang(0, 0, 0, 0)
        """How far the tiles of the palette reach at the most, whichever way they are turned."""
        self.all_fit = True
        """Whether all tiles of the palette fill their boxes exactly, whichever way they are turned."""
        # One more than there are numbers: codes of gaps come to the last.
        self._large = np.zeros(2, dtype=bool)
        self._any_large = False
        self._measured = 0
        self._add(np.zeros((self.tile_height, self.tile_width, 4), dtype=np.uint8), 0, 0)
        self._add(_gap_mark(self.tile_width, self.tile_height, self.outline), 0, 0)

    def follow(self, sliced: Mapping[tuple[str, str], Slices], refs: Sequence[TileRef]) -> None:
        """Takes over a palette that grew; begins anew if the sheets changed."""
        if sliced is not self._sliced:
            self._sliced, self._refs = sliced, refs
            self._begin()
        self._refs = refs
        self._measure(refs)
        missing = len(refs) + 1 - self._ids.shape[1]
        if missing > 0:
            # Room for more than one, so that tiles that come singly don't copy the table each time.
            self._ids = np.pad(self._ids, ((0, 0), (0, missing + len(refs) // 8)), constant_values=_UNKNOWN)

    def _measure(self, refs: Sequence[TileRef]) -> None:
        box = self.tile_width, self.tile_height
        if len(refs) + 2 > len(self._large):
            self._large = np.pad(self._large, (0, len(refs) + 2 - len(self._large)))
        for number, ref in enumerate(refs[self._measured :], start=self._measured + 1):
            slices = self._sliced.get((ref.sheet, ref.cut))
            if slices is None or not slices.holds(ref.column, ref.row):
                continue
            wide, high = tile_size(slices.cut, ref.column, ref.row)
            self._large[number] = large = wide * high > _LARGE * box[0] * box[1]
            self._any_large = self._any_large or large
            for size, orientation in (((wide, high), 0), ((wide, high), 2), ((high, wide), 0)):
                left, top = stands_at(slices.cut, size, box, orientation)
                over = Overhang(-left, -top, left + size[0] - box[0], top + size[1] - box[1])
                self.overhang = Overhang(*map(max, self.overhang, over))
                self.all_fit = self.all_fit and not any(over)
        self._measured = len(refs)

    def ids(self, codes: NDArray[np.int32]) -> Ids:
        """The sprites of cell codes, (H, W) int32; unknown ones are made. What the palette lacks shows as nothing.

        Parameters
        ----------
        codes : (H, W) int32
            Cell codes; 0 and below show nothing.

        Returns
        -------
        ids : (H, W) int
            Places in the atlas; 0 for nothing.
        """
        gaps = codes == GAP
        numbers, turns = codes & NUMBER_MASK, (codes >> ORIENTATION_SHIFT) & 7
        known = np.minimum(numbers, self._ids.shape[1] - 1) if numbers.size else numbers
        found = self._ids[turns, known]
        if (found == _UNKNOWN).any():
            for code in np.unique(codes[(found == _UNKNOWN) & ~gaps]).tolist():
                self._make(code)
            found = self._ids[turns, known]
        found[gaps] = _GAP
        found[found == _UNKNOWN] = _NOTHING
        return np.asarray(found, dtype=np.int32)

    def page(self, number: int, level_size: tuple[int, int]) -> Pixels:
        """The sprites of a page where boxes are so many pixels (height, width) large, (N, h, w, 4) uint8."""
        height, width = self.sprite_size(number, level_size)
        return self._pages[self._sizes[number]].at(height, width)

    def sprite_size(self, number: int, level_size: tuple[int, int]) -> tuple[int, int]:
        """Height and width of the sprites of a page where boxes are so many pixels large."""
        height, width = self._sizes[number]
        if level_size == (self.tile_height, self.tile_width):
            return height, width
        return (
            max(1, min(height, round(height * level_size[0] / self.tile_height))),
            max(1, min(width, round(width * level_size[1] / self.tile_width))),
        )

    def is_large(self, codes: NDArray[np.int32]) -> NDArray[np.bool_] | None:
        """Of cell codes, those of tiles so much larger than their boxes that a dot would not stand for them.

        Parameters
        ----------
        codes : (H, W) int32

        Returns
        -------
        large : (H, W) bool, or None
            None if there are none.
        """
        if not self._any_large:
            return None
        found = self._large.take(codes & NUMBER_MASK, mode="clip")
        return found if found.any() else None

    def size_of(self, ids: Ids) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Heights and widths of sprites.

        Parameters
        ----------
        ids : (N,) int

        Returns
        -------
        heights, widths : (N,) intp
            In pixels.
        """
        heights, widths = np.array(self._sizes, dtype=np.intp)[self.pages[ids]].T
        return heights, widths

    def part_of(self, ids: Ids, ys: NDArray[np.float64], xs: NDArray[np.float64]) -> Pixels:
        """The colours of sprites at places, each the mean of about as much as a box holds.

        Parameters
        ----------
        ids : (N,) int
        ys, xs : (N,) float64
            In pixels from the left top corner of the box.

        Returns
        -------
        colours : (N, 4) uint8
            Premultiplied alpha; nothing beside the sprite.
        """
        colours = np.zeros((len(ids), 4), dtype=np.uint8)
        down, across = ys - self.tops[ids], xs - self.lefts[ids]
        for page in np.unique(self.pages[ids]).tolist():
            height, width = self._sizes[page]
            inside = (self.pages[ids] == page) & (down >= 0) & (down < height) & (across >= 0) & (across < width)
            parts = self.page(page, (1, 1))
            rows = (down[inside] * parts.shape[1] / height).astype(np.intp)
            columns = (across[inside] * parts.shape[2] / width).astype(np.intp)
            colours[inside] = parts[self.slots[ids[inside]], rows, columns]
        return colours

    def sprite(self, code: int) -> tuple[Pixels, int, int]:
        """One sprite in full, (h, w, 4) uint8, and where its left top pixel lies against the box."""
        number = int(self.ids(np.array([[code]], dtype=np.int32))[0, 0])
        page = self.page(int(self.pages[number]), (self.tile_height, self.tile_width))
        return page[self.slots[number]], int(self.lefts[number]), int(self.tops[number])

    def tile_at(self, ref: TileRef, level: int) -> Pixels | None:
        """A tile as it lies on its sheet at 1 / 2**level of its size, (h, w, 4) uint8; None where there is none.

        Parameters
        ----------
        ref : TileRef
        level : int

        Returns
        -------
        pixels : (h, w, 4) uint8, or None
            Premultiplied alpha.
        """
        key = ref, level
        if key not in self._tiles:
            slices = self._sliced.get((ref.sheet, ref.cut))
            tile = slices.tile(ref.column, ref.row) if slices else None
            found = None if tile is None else premultiplied(np.ascontiguousarray(tile))
            if found is not None and level:
                height, width = found.shape[:2]
                found = reduced(found[None], max(1, height >> level), max(1, width >> level))[0]
            self._tiles[key] = found
        return self._tiles[key]

    def turned(self, ref: TileRef | None, key: tuple[Any, ...], make: Callable[[], Any]) -> Any:
        """A tile that was turned or scaled before, or that is made now; the oldest are let go."""
        if (ref, key) not in self._turned:
            while len(self._turned) >= _MOST_TURNED:
                del self._turned[next(iter(self._turned))]
            self._turned[ref, key] = make()
        return self._turned[ref, key]

    def mean_of(self, ref: TileRef) -> Pixels | None:
        """The colour of a tile from afar, (4,) uint8, premultiplied."""
        tile = self.tile_at(ref, 0)
        return None if tile is None else reduced(tile[None], 1, 1)[0, 0, 0]

    def kept(self, key: Any, made_from: object, make: Callable[[], Any]) -> Any:
        """What was made for the same thing last time, for as long as the sheets stay the same."""
        known = self._kept.get(key, [])
        for known_from, made in known:
            if known_from is made_from:
                return made
        new = make()
        self._kept[key] = [*known[-3:], (made_from, new)]
        return new

    def _make(self, code: int) -> None:
        number, orientation = code & NUMBER_MASK, code >> ORIENTATION_SHIFT
        if not 0 < number <= len(self._refs) or not 0 <= orientation < 8:
            return
        ref = self._refs[number - 1]
        slices = self._sliced.get((ref.sheet, ref.cut))
        tile = slices.tile(ref.column, ref.row) if slices else None
        if slices is None or tile is None:
            self._ids[orientation, number] = _NOTHING
            return
        turned = orient(tile, orientation)
        size = turned.shape[1], turned.shape[0]
        left, top = stands_at(slices.cut, size, (self.tile_width, self.tile_height), orientation)
        self._ids[orientation, number] = self._add(premultiplied(turned), left, top)

    def _add(self, sprite: Pixels, left: int, top: int) -> int:
        height, width = sprite.shape[:2]
        if (height, width) not in self._pages:
            self._pages[height, width] = _Page(height, width)
            self._sizes.append((height, width))
        number = self._count
        self._count += 1
        if number == len(self.pages):
            for name in ("pages", "slots", "lefts", "tops", "fits", "whole", "flat", "kinds", "means"):
                array = getattr(self, name)
                setattr(self, name, np.concatenate([array, np.zeros_like(array)]))
        self.pages[number] = self._sizes.index((height, width))
        self.slots[number] = self._pages[height, width].add(sprite)
        self.lefts[number], self.tops[number] = left, top
        self.fits[number] = (left, top, width, height) == (0, 0, self.tile_width, self.tile_height)
        stand = Stand(int(self.pages[number]), left, top)
        if stand not in self.stands:
            self.stands.append(stand)
        self.kinds[number] = self.stands.index(stand)
        alpha = sprite[..., 3]
        self.flat[number] = lies_flat(alpha, left, top, self.outline, (self.tile_height, self.tile_width))
        self.whole[number] = bool(((alpha == 0) | (alpha == 255)).all())
        self.means[number] = _seen_from_afar(sprite, self.outline)
        return number


def _room(count: int, height: int, width: int) -> Pixels:
    return np.zeros((count, height, width, 4), dtype=np.uint8)


def _seen_from_afar(sprite: Pixels, outline: Outline) -> Pixels:
    """The mean colour of a sprite; a cell may cover only a part of its box, and counts as if it covered all."""
    mean = sprite.reshape(-1, 4).mean(axis=0)
    mean *= min(_PER_CELL[outline], 255 / max(mean[3], 1.0))
    return np.asarray(mean.round(), dtype=np.uint8)


def _gap_mark(width: int, height: int, outline: Outline) -> Pixels:
    """Thin slanting lines over a dark veil: no tile looks like it, and it does not shout the art down."""
    rows, columns = np.arange(height)[:, None], np.arange(width)
    spaced = max(4, min(width, height) // 3)
    lines = (rows + columns) % spaced < max(1, spaced // 4)
    mark: Pixels = np.where(lines[..., None], _GAP_LINE, _GAP_VEIL)
    return premultiplied(np.where(beside(outline, height, width)[..., None], np.uint8(0), mark))
