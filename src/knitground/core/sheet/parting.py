"""Parting a sheet along clear bands, as long as the numbers guessed on a side fit it better than those of the whole.

The art is parted along clear bands, as pages are by recursive cuts along x and y (Nagy and Seth, 1984), but only where
that tells something: a band must be wider than those between tiles, and the numbers guessed on one side must fit what
lies there much better than those of the whole.
"""

from collections.abc import Callable, Iterator
from itertools import permutations, product

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.bands import FEW_BANDS, Band, Gap, are_even, beside_a_block
from knitground.core.sheet.captioned import captioned_cut
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.even import even_bands, even_cut
from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.laid import Side, continued, laid_on
from knitground.core.sheet.loose import AGAINST, FEWEST, MOST
from knitground.core.sheet.lying import Lying
from knitground.core.sheet.part import Part, one_grid, pitch_of
from knitground.core.sheet.plausible import Hints, Sizes
from knitground.core.sheet.profile import SMALLEST_TILE, art_of
from knitground.core.sheet.shown import FAR_APART, Shown
from knitground.core.sheet.writing import ground_of, writing_of

MOST_LOOKS = 22
_MOST_DEEP, _MOST_BANDS, _MOST_GUESSES = 3, 3, 40
_NARROWEST_BAND, _WIDER, _OF_TILE = 4, 2.0, 0.6
_ROUND, _CERTAIN, _PLAIN = (2, 4), 0.95, 0.99
_SURE, _HALFWAY, _FITS = 0.6, 0.3, 0.6
_DOUBTED = 3.0
"""Odds of the grid beside things at which these are no grid where the sheet is parted anyway."""
_FEW_THINGS = 12
_BESIDE = 2
"""Lines that hold so many times as much art as writing are lines of tiles."""


class Parting:
    """All that is looked at of one picture: its art without writing, and how far pixels go on from one to the next."""

    def __init__(self, picture: NDArray[np.uint8], report: Callable[[float], None], known: Sizes) -> None:
        self._report, self._share, self._hints = report, 0.0, Hints(known, whole=False)
        self._guessed: dict[Side, Part | None] = {}
        self.looks = 0
        """How often numbers were guessed; where several grids are plain to see it is seldom."""
        colour = picture.astype(np.int16)
        art = art_of(colour)
        self.written = writing_of(colour, art)
        self._ground = ground_of(colour, art)
        self.art = art & ~self.written
        self._picture = picture.copy()
        self._picture[self.written] = self._ground
        self.shown = Shown(colour, self.art)
        self._lying = Lying(self.art, self.shown)

    def parted(self, part: Part, share: tuple[float, float], deep: int = _MOST_DEEP) -> list[Part]:
        """A part, or the parts that it is better cut in; what it is of all work lies between two shares."""
        begin, end = share
        parts = deep and not part.cut.pieces and self.looks <= MOST_LOOKS
        bands = self._bands(part.side) if parts else []
        each = (end - begin) / (len(bands) + 1)
        for number, band in enumerate(bands):
            if self.looks > MOST_LOOKS:
                break
            now = begin + each * number
            sides = None if self._fits_both(part, band) else self._sides(part, band, (now, now + each))
            if sides is not None:
                middle = (now + each + end) / 2
                first, second = (now + each, middle), (middle, end)
                one, other = sides
                found = self._parted_on(one, other, deep, first)
                if all(part.cut.pieces for part in found):  # the grid in which it does not lie
                    return found + self.parted(other, second, deep - 1)
                return found + self._parted_on(other, one, deep, second)
        ahead = self._ahead(part, (begin + each * len(bands), end)) if bands and deep == _MOST_DEEP else None
        self.tell(end)
        return ahead or [part]

    def _ahead(self, whole: Part, share: tuple[float, float]) -> list[Part] | None:
        """Both sides of the widest band, parted further, where that tells what the band alone does not; or none.

        A side that holds several grids itself shows none of them.
        """
        gap = max(self._gaps(whole.side.art), key=lambda gap: gap.width)
        band = self._band(whole.side, gap)
        if band is None or whole.confidence >= _SURE or self.looks > MOST_LOOKS:
            return None
        # What was seen of bands in vain says nothing of this one.
        before, self.looks = self.looks, 0
        sides = [self.guessed(side, share) for side in band.sides]
        found = [self.parted(side, share, _MOST_DEEP - 1) for side in sides if side is not None]
        parts = [part for one in found for part in one]
        several = len(found) == len(sides) < len(parts) and any(part.can_be_gone_by for part in parts)
        loose = several and any(self._may_be_loose(part, other) for part, other in permutations(parts, 2))
        if not loose and not (several and self.shown.worth_it(whole.cut, parts, band)):
            self.looks += before
            return None
        return parts

    def _parted_on(self, part: Part, beside: Part, deep: int, share: tuple[float, float]) -> list[Part]:
        """A side parted further; as loose pieces if it may be such and not all that comes of it are grids."""
        if not self._may_be_loose(part, beside):
            return self.parted(part, share, deep - 1)
        looks = self.looks
        found = self.parted(part, share, min(deep - 1, 1))
        if not any(self._lying.fits_hardly(one) for one in found):
            return found
        # Many bands lie between things; what was seen of those says nothing of the rest.
        self.looks = looks
        grids = [one for one in found if self.shown.is_plain(one) or self.shown.is_sure(one)]
        if grids:
            return [one if one in grids else self._lying.as_loose(one.side, beside.cut) for one in found]
        return [self._lying.as_loose(part.side, beside.cut)]

    def peeled(self, part: Part) -> list[Part]:
        """A sure grid without what lies outside it, behind a clear band, and not in its tiles; that as loose pieces."""
        if part.cut.pieces or not part.can_be_gone_by:
            return [part]
        for gap in sorted(self._gaps(part.side.art), key=lambda gap: -gap.width):
            band = self._band(part.side, gap)
            for side, rest in (band.sides, band.sides[::-1]) if band else ():
                if len(self._lying.things(side)) > _FEW_THINGS or not self._lying.fits_not(side, part.cut):
                    continue
                own, cut = self.looked_at(side), continued(part.cut, rest)
                if cut is not None and (own is None or self._lying.fits_hardly(own)):
                    grid = Part(rest, cut, part.confidence, {cut: part.confidence})
                    # What lies elsewhere may have hidden how its pitch is split.
                    alone = self.looked_at(rest)
                    if alone is not None and alone.can_be_gone_by:
                        grid = self.shown.better(grid, alone)
                    return [*self.peeled(grid), self._lying.as_loose(side, cut)]
        return [part]

    def beside(self, strip: Rect, grid: Cut) -> Part | None:
        """What lies on a strip beside a certain grid: another sure one, or loose pieces; None where nothing does."""
        art = self.tight(strip)
        if art is None or min(art.width, art.height) < SMALLEST_TILE:
            return None
        side = Side(art, strip)
        guess = self.looked_at(side)
        if guess is not None and self.shown.is_sure(guess) and not self._lying.fits_hardly(guess):
            return guess
        return self._lying.as_loose(side, grid) if len(self._lying.things(side)) <= MOST else None

    def tell(self, share: float) -> None:
        """Reports the share that is done."""
        self._share = share
        self._report(share)

    def looked_at(self, side: Side) -> Part | None:
        """What is guessed of one side where it is known that there are several."""
        looks = self.looks
        guessed = self.guessed(side, (self._share, self._share))
        self.looks = looks
        return guessed

    def rejoined(self, parts: list[Part]) -> list[Part]:
        """Parts, those as one of which one's numbers go on over another and tell as much there as its own.

        By itself a block with ragged sides may show other numbers.
        """
        for one, other in permutations((part for part in parts if not part.cut.pieces), 2):
            side = one.side.with_other(other.side)
            cut = continued(one.cut, side)
            rest = [part for part in parts if part not in (one, other)]
            if cut is None or any(side.art.touches(part.side.art) for part in rest):
                continue
            there, share = self.shown.of(cut, other.side)
            if share >= _FITS and there >= self.shown.of(other.cut, other.side)[0]:
                return self.rejoined([*rest, Part(side, cut, one.confidence, {cut: 1.0})])
        return parts

    def tight(self, region: Rect) -> Rect | None:
        """A region drawn in to its art; none where there is none."""
        art = self.art[region.slices()]
        rows, columns = np.flatnonzero(art.any(axis=1)), np.flatnonzero(art.any(axis=0))
        if not len(rows):
            return None
        left, top = region.x + int(columns[0]), region.y + int(rows[0])
        return Rect(left, top, int(np.ptp(columns)) + 1, int(np.ptp(rows)) + 1)

    def begins(self, first: int, pitch: int, axis: int) -> int:
        """Where tiles begin along an axis, if one is known: as far before it as there are no lines of writing."""
        written, art = self.written.sum(axis=axis), self.art.sum(axis=axis)
        while first >= pitch:
            before = slice(first - pitch, first)
            # What is written beside the art stands in lines with it.
            if written[:first].sum() * _BESIDE > art[before].sum():
                break
            first -= pitch
        return first

    def _bands(self, side: Side) -> list[Band]:
        """The bands along which it is worth trying to part a side, the widest against the usual ones first."""
        gaps = sorted(self._gaps(side.art), key=lambda gap: (-gap.wider, -gap.width))[:_MOST_BANDS]
        return [band for gap in gaps if (band := self._band(side, gap)) is not None]

    def _gaps(self, region: Rect) -> Iterator[Gap]:
        """What is clear all through a region, across or down, and wide enough to part it; not what parts one grid."""
        for down in (True, False):
            filled = np.flatnonzero(self.art[region.slices()].any(axis=int(down)))
            widths = np.diff(filled) - 1
            clear = np.flatnonzero(widths > 0)
            few = len(clear) < FEW_BANDS
            usual = 1.0 if few else float(np.quantile(widths[clear], 0.25))
            far = few | (widths[clear] >= _WIDER * usual) | beside_a_block(clear, len(filled))
            wide = clear[(widths[clear] >= _NARROWEST_BAND) & far]
            if are_even(filled[wide], widths[wide]):
                continue
            for place in wide.tolist():
                width = int(widths[place])
                yield Gap(1.0 if few else width / usual, width, int(filled[place]) + 1, down, few)

    def _band(self, side: Side, gap: Gap) -> Band | None:
        first, second = side.art.parted(gap.at, down=gap.down)
        before, behind, room = self.tight(first), self.tight(second), side.room
        if before is None or behind is None:
            return None
        # The tiles of either side may reach as far as the art of the other.
        ends = behind.y - room.y if gap.down else behind.x - room.x
        begins = before.y + before.height - room.y if gap.down else before.x + before.width - room.x
        near, far = room.parted(ends, down=gap.down)[0], room.parted(begins, down=gap.down)[1]
        return Band(gap, (Side(before, near), Side(behind, far)))

    def _fits_both(self, whole: Part, band: Band) -> bool:
        """Whether the numbers of the whole are as good on both sides, so that there is nothing to part."""
        if self._plainer_alone(whole, band):
            return False
        # Few borders, of tiles guessed far too large, may all lie in gaps by chance.
        sure = whole.can_be_gone_by and (whole.confidence >= _SURE or band.gap.wider < FAR_APART)
        return sure and all(
            self.shown.of(whole.cut, side)[1] >= _FITS and not self._lying.fits_not(side, whole.cut)
            for side in band.sides
        )

    def _plainer_alone(self, whole: Part, band: Band) -> bool:
        """Whether few things lie to one side of a band, and without them the other is plainly cut otherwise."""
        if whole.confidence >= _CERTAIN:
            return False
        for few, side in permutations(band.sides):
            if len(self._lying.things(few)) <= _FEW_THINGS < len(self._lying.things(side)):
                alone = self.looked_at(side)
                if alone and alone.confidence >= _CERTAIN and pitch_of(alone.cut) != pitch_of(whole.cut):
                    return self.shown.is_plain(alone)
        return False

    def _sides(self, whole: Part, band: Band, share: tuple[float, float]) -> list[Part] | None:
        """Both sides of a band as parts; none if nothing is won by that."""
        begin, end = share
        middle = (begin + end) / 2
        first, second = (
            self.guessed(side, its) for side, its in zip(band.sides, ((begin, middle), (middle, end)), strict=True)
        )
        if first is None or second is None:
            return self._one_without(first, second, band)
        if any(self.shown.hides_the_whole(whole, part) for part in (first, second)):
            return None
        own = first, second
        first, second = (self.shown.as_the_whole(whole, part) for part in own)
        if (first, second) != own and one_grid(first.cut, second.cut):
            return None
        apart = self._may_be_loose(first, second) or self._may_be_loose(second, first)
        apart &= whole.confidence < _SURE or any(self._lying.fits_not(side, whole.cut) for side in band.sides)
        both = permutations((first, second))
        apart |= whole.confidence < _HALFWAY and any(one.can_be_gone_by and self._few_things(two) for one, two in both)
        apart |= self.shown.plainly_two(whole, first, second) or self._plainer_alone(whole, band)
        apart |= any(self.shown.is_plainer(whole, part) for part in (first, second))
        # With few bands there is no usual one to go by, but tiles are hardly ever nearly as far apart as they are wide.
        tiles = [part for part in (first, second) if not self._few_things(part)] or [first, second]
        largest = max(max(part.cut.tile_width, part.cut.tile_height) for part in tiles)
        close = band.gap.alone and band.gap.width < _OF_TILE * largest
        if not apart and close and not any(self.shown.shows_alone(whole.cut, part) for part in (first, second)):
            return None
        if not apart and not (
            self.shown.may_be_beside(whole, [first, second]) and self.shown.worth_it(whole.cut, [first, second], band)
        ):
            return None
        return [self.shown.better(whole, part) for part in (first, second)]

    def _few_things(self, part: Part) -> bool:
        """Whether a part is nothing but few things that show no grid."""
        return len(self._lying.things(part.side)) <= _FEW_THINGS and self._lying.fits_hardly(part)

    def _one_without(self, first: Part | None, second: Part | None, band: Band) -> list[Part] | None:
        """Both sides of a band of which one shows no numbers at all: as loose pieces, if those don't fit."""
        grid, side = (first, band.sides[1]) if first else (second, band.sides[0])
        things = self._lying.things(side)
        # Many may be in several grids, none of which shows by itself.
        if (
            grid is None
            or not grid.can_be_gone_by
            or len(things) > _FEW_THINGS
            or not self._lying.fits_not(side, grid.cut)
        ):
            return None
        return [grid, self._lying.as_loose(side, grid.cut)]

    def _may_be_loose(self, part: Part, beside: Part, least: float = AGAINST) -> bool:
        """Whether what lies in a part is in no grid: hardly in its own, and not in a sure one beside it."""
        if beside.cut.pieces or not beside.can_be_gone_by or not self._lying.fits_not(part.side, beside.cut, least):
            return False
        return self._lying.fits_hardly(part) and not self._lying.fits_not(beside.side, beside.cut)

    def loosened(self, parts: list[Part]) -> list[Part]:
        """Parts, those as loose pieces of which nothing is in a grid; such that lie together are one."""
        grids = [part for part in parts if not part.cut.pieces]
        for part, other in product(grids, repeat=2):
            if self._lying.lie_anyhow(part) if part is other else self._may_be_loose(part, other, _DOUBTED):
                loose = self._lying.as_loose(part.side, other.cut)
                return self.loosened([loose if one is part else one for one in parts])
        for one, other in permutations(parts, 2):
            few = len(self._lying.things(other.side)) < FEWEST and self._lying.fits_hardly(other)
            if one.cut.pieces and (other.cut.pieces or few):
                both = one.side.with_other(other.side)
                rest = [part for part in parts if part not in (one, other)]
                grid = any(not part.cut.pieces for part in rest)
                if grid and not any(both.art.touches(part.side.art) for part in rest):
                    return self.loosened([*rest, self._lying.as_loose(both, one.cut)])
        return parts

    def guessed(self, side: Side, share: tuple[float, float]) -> Part | None:
        """The likeliest numbers for one side.

        Art that does not fill its tiles begins inside them, so looks differ in how much of what is clear round it they
        take in; the pitch that they agree on most is taken first, and then the numbers.
        """
        if side not in self._guessed:
            guess = self.plain(side) or self._guess(side, share)
            self._guessed[side] = guess if guess and guess.confidence >= _SURE else self._spaced(side, guess)
        return self._guessed[side]

    def plain(self, side: Side) -> Part | None:
        """A side where full tiles lie apart at even distances, or their captions do; none where it is not as plain."""
        return self._even(side, even_cut(self.art[side.art.slices()]), _PLAIN) or self.captioned(side)

    def captioned(self, side: Side) -> Part | None:
        """What captions tell of a side, if tiles have such."""
        # Captions stand below the last of the art, too.
        room = side.room.slices()
        return self._even(side, captioned_cut(self.art[room], self.written[room]), _PLAIN, side.room)

    def _spaced(self, side: Side, guess: Part | None) -> Part | None:
        """What was guessed of a side; with the distances at which its art stands in rows and columns, if it does."""
        even = self._even(side, even_bands(self.art[side.art.slices()]), _SURE)
        if guess is None or even is None or pitch_of(guess.cut) == pitch_of(even.cut):
            return guess or even
        alike = [cut for cut in guess.likely if pitch_of(cut) == pitch_of(even.cut)]
        best = max(alike, key=lambda cut: guess.likely[cut], default=even.cut)
        return even._replace(cut=best, likely={best: _SURE})

    def _even(self, side: Side, even: Cut | None, sure: float, within: Rect | None = None) -> Part | None:
        left, top = (within or side.art)[:2]
        cut = even and laid_on(even, side, left + even.margin_x, top + even.margin_y)
        return Part(side, cut, sure, {cut: sure}) if cut else None

    def _guess(self, side: Side, share: tuple[float, float]) -> Part | None:
        likely: dict[Cut, float] = {}
        pitches: dict[tuple[int, int], float] = {}
        if min(side.art.width, side.art.height) < SMALLEST_TILE:
            return None
        for looks, round_it in enumerate(_ROUND, 1):
            self.tell(share[0] + (share[1] - share[0]) * (looks - 1) / len(_ROUND))
            self.looks += 1
            for guess in guess_cuts(self._with_room(side.art, round_it), most=_MOST_GUESSES, hints=self._hints):
                left, top = (begin - round_it for begin in side.art[:2])
                cut = laid_on(guess.as_cut(""), side, left + guess.margin_x, top + guess.margin_y)
                if cut is not None:
                    likely[cut] = likely.get(cut, 0.0) + guess.confidence
                    pitches[pitch_of(cut)] = pitches.get(pitch_of(cut), 0.0) + guess.confidence
            if max(likely.values(), default=0.0) >= _CERTAIN * looks:
                break
        if not likely:
            return None
        usual = max(pitches, key=lambda pitch: pitches[pitch])
        best = max((cut for cut in likely if pitch_of(cut) == usual), key=lambda cut: likely[cut])
        return Part(side, best, likely[best] / looks, likely)

    def _with_room(self, art: Rect, round_it: int) -> NDArray[np.uint8]:
        """The pixels of a rectangle and of what is clear round it, also beyond the picture."""
        wide, high = art.width + 2 * round_it, art.height + 2 * round_it
        pixels = np.empty((high, wide, 4), dtype=np.uint8)
        pixels[:] = self._ground
        pixels[round_it : round_it + art.height, round_it : round_it + art.width] = self._picture[art.slices()]
        return pixels
