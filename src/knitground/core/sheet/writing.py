"""What on a sheet is writing: captions, names and sizes that stand beside the tiles and are none."""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

_BETWEEN_GLYPHS, _MOST_SHAPES, _OFTEN = 9, 2**14, 4
"""How far letters are apart at most, how many shapes are looked at, and how often pixels are, on average."""
_LOWEST, _HIGHEST, _NARROWEST, _LONG = 3, 24, 10, 1.5
_HIGHEST_TITLE, _FEWEST_GLYPHS, _UNEVEN = 96, 3, 0.12
"""Titles may be higher than captions; their letters are not as far from one another as tiles would be."""
_ONE_INK, _ALMOST_ALL, _DENSEST = 24.0, 0.95, 0.6
_BOLD, _WORDS_APART, _STROKE, _STROKES = 0.72, 2.0, 0.12, 1.8
"""How dense bold letters are at most, how far apart words of a line, how much ink a dash has, by their height, and how
many strokes of a word that shows no letters lie beside one another on average."""
_THICK, _THICKEST = 7.0, 0.5
"""How thick most such strokes are, in pixels, or by their height where that is more; shapes are thicker."""

_TALL, _MOST_TALL = 0.4, 0.5
"""How high letters are by the height of their line, and the share of a word's shapes that are as high: others are
dots and commas."""
_WORDS_OF_A_LINE, _OFF_LINE, _AS_HIGH, _SHORT = 2, 3, 1.3, 6.0
"""How many words tell a line, how far off it letters stand, how much higher they may be, how long by their height."""
_WORDS_OF_A_HAND = 3
"""Where so many words of one ink are told on a sheet, one tells the line that it stands in."""
_THING = 2
"""How much higher than writing beside it a thing is."""
_HIGHEST_CAPTION, _UNLIKE = 14, 3
"""Words without letters that show are told by standing in a line, where they are as low and not all as long."""

_Word = tuple[tuple[slice, ...], NDArray[np.bool_]]
"""Where something lies, and which pixels there are of it."""


def writing_of(colour: NDArray[np.int16], art: NDArray[np.bool_], *, lettered: bool = False) -> NDArray[np.bool_]:
    """Which pixels are of writing, (H, W) bool: low, long, thin, and of one ink on the ground, smoothed or not.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        What is not ground.
    lettered : bool
        Only what shows several letters, and what stands in a line with that; else also what is just as low and long.
    """
    ground = ground_of(colour, art)[:3]
    found, titles = np.zeros_like(art), np.zeros_like(art)
    words: list[_Word] = []
    bold: list[_Word] = []
    bits: list[_Word] = []
    for box, inked in _shapes_and_beside_things(art):
        if box[0].stop - box[0].start > _HIGHEST_TITLE:
            continue
        if not _is_line(inked):
            bits.append((box, inked))
        elif _is_one_ink(colour[box][inked][:, :3] - ground):
            (bold if _density(inked) > _DENSEST else words).append((box, inked))
    lines = words + bold
    told = _lettered(lines)
    told += _but(_in_rows([line for line in lines if _has_strokes(line[1])], colour, ground), told)
    words = told + _but([] if lettered else [word for word in words if _has_strokes(word[1])], told)
    short = [bit for bit in bits if bit[1].shape[0] <= _HIGHEST and bit[1].shape[1] <= _SHORT * bit[1].shape[0]]
    words += _in_lines(told, _but([*lines, *short], words), colour, ground)
    for box, inked in words:
        if len(inked) <= _HIGHEST:
            found[box] |= inked
        elif _has_letters(inked):
            titles[box] |= inked
    for box, inked in _strokes_beside([word for word in words if len(word[1]) <= _HIGHEST], bits):
        if _is_one_ink(colour[box][inked][:, :3] - ground):
            found[box] |= inked
    return found | _alone(titles, art & ~found)


def shapes_of(art: NDArray[np.bool_], between: int = _BETWEEN_GLYPHS) -> Iterator[_Word]:
    """What hangs together once the gaps between letters are closed; none where so much is there that it is noise.

    Where high shapes lie one round another, not all of them are looked at.

    Parameters
    ----------
    art : (H, W) bool
        What is not ground.
    between : int
        How far letters are apart at most, in pixels; odd.

    Yields
    ------
    shape : (rows and columns, (h, w) bool)
        Where each lies, wider by half of what is closed to either side, and which pixels there are of it.
    """
    near = scipy.ndimage.binary_dilation(art, np.ones((1, between), dtype=bool))
    labels, count = scipy.ndimage.label(near, np.ones((3, 3)))
    if count > _MOST_SHAPES:
        return  # so many are noise, and to look at each would take too long
    left = _OFTEN * art.size
    for number, box in enumerate(scipy.ndimage.find_objects(labels), 1):
        high, wide = (span.stop - span.start for span in box)
        left -= high * wide if high > _HIGHEST_TITLE else 0
        if high <= _HIGHEST_TITLE or left >= 0:
            yield box, (labels[box] == number) & art[box]


def _shapes_and_beside_things(art: NDArray[np.bool_]) -> Iterator[_Word]:
    """Shapes, and what is as low as writing in one that something higher is part of, left or right of that.

    A title may end as near to a thing as its letters are to one another.
    """
    for box, inked in shapes_of(art):
        yield box, inked
        if len(inked) > _HIGHEST:
            for (rows, columns), word in _beside_things(inked):
                yield (_moved(rows, box[0].start), _moved(columns, box[1].start)), word


def _beside_things(inked: NDArray[np.bool_]) -> Iterator[_Word]:
    labels, _ = scipy.ndimage.label(inked, np.ones((3, 3)))
    pieces = scipy.ndimage.find_objects(labels)
    heights = np.array([0, *(rows.stop - rows.start for rows, _ in pieces)])
    high = np.flatnonzero(heights > _HIGHEST)
    if not len(high) or len(pieces) - len(high) < _FEWEST_GLYPHS:
        return
    things = np.isin(labels, high)
    for (rows, columns), word in shapes_of(inked & ~things):
        if len(word) * _THING > heights[high].min():
            continue  # large letters, some of which are higher than others
        own, beside = columns.start + np.flatnonzero(word.any(axis=0)), np.flatnonzero(things[rows].any(axis=0))
        if (beside > own[-1]).all() or (beside < own[0]).all():
            yield (rows, columns), word


def _moved(span: slice, by: int) -> slice:
    return slice(span.start + by, span.stop + by)


def ground_of(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> NDArray[np.int16]:
    """The colour that most of what is no art has, (4,) int16; clear where there is none, or where it cannot be seen.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        What is not ground.
    """
    packed = np.ascontiguousarray(colour[~art].astype(np.uint8)).view(np.uint32)
    if not packed.size:
        return np.zeros(4, dtype=np.int16)
    values, counts = np.unique(packed, return_counts=True)
    ground = np.array([values[counts.argmax()]]).view(np.uint8).astype(np.int16)
    return ground if ground[3] else np.zeros(4, dtype=np.int16)


def _is_line(inked: NDArray[np.bool_]) -> bool:
    """Whether pixels are as low, long and thin as a line of writing."""
    rows, columns = np.flatnonzero(inked.any(axis=1)), np.flatnonzero(inked.any(axis=0))
    if not len(rows):
        return False
    high, wide = int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1
    size = _LOWEST <= high <= _HIGHEST_TITLE and wide >= max(_NARROWEST, _LONG * high)
    return size and _density(inked) <= _BOLD


def _density(inked: NDArray[np.bool_]) -> float:
    """The share of the rectangle round some pixels that they fill."""
    rows, columns = np.flatnonzero(inked.any(axis=1)), np.flatnonzero(inked.any(axis=0))
    return float(inked.sum()) / ((int(rows[-1] - rows[0]) + 1) * (int(columns[-1] - columns[0]) + 1))


def _lettered(words: list[_Word]) -> list[_Word]:
    """Those of some words that show letters, and those beside them in the same line: a short one may show none."""
    told = [word for word in words if _has_letters(word[1])]
    reached = -1
    while len(told) != reached:
        reached = len(told)
        in_line: dict[tuple[int, int], list[_Word]] = {}
        for one in told:
            in_line.setdefault(_ends(one[0][0]), []).append(one)
        told += [
            word for word in _but(words, told) if any(_beside(word, one) for one in in_line.get(_ends(word[0][0]), ()))
        ]
    return told


def _but(words: list[_Word], others: list[_Word]) -> list[_Word]:
    """Words but for those that are among others."""
    there = {id(one) for one in others}
    return [word for word in words if id(word) not in there]


class _Lines(NamedTuple):
    """Words as they stand in lines: where they begin and end down the sheet, and what their ink is."""

    ends: NDArray[np.int64]
    inks: NDArray[np.float64]

    @classmethod
    def of(cls, words: list[_Word], colour: NDArray[np.int16], ground: NDArray[np.int16]) -> "_Lines":
        """Some words, and what their ink is.

        Parameters
        ----------
        words : list of (slices, (h, w) bool)
            Where each lies, and what of that is inked.
        colour : (H, W, 4) int16
            The sheet.
        ground : (3,) int16
            What it stands on.
        """
        ends = np.array([_ends(box[0]) for box, _ in words], dtype=np.int64).reshape(-1, 2)
        inks = [_ink_of(colour[box][inked][:, :3], ground) for box, inked in words]
        return cls(ends, np.array(inks, dtype=np.float64).reshape(-1, 3))

    def with_one(self, ends: NDArray[np.int64], ink: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Which of them stand in one line with a word, hardly lower than it, and are of its ink, (N,) bool.

        Parameters
        ----------
        ends : (2,) int64
            Where the word begins and ends down the sheet.
        ink : (3,) float64
            Its red, green and blue.
        """
        near = (np.abs(self.ends - ends) <= _OFF_LINE).any(axis=1)
        near &= np.ptp(self.ends, axis=1) * _AS_HIGH + 1 >= np.ptp(ends)
        return np.asarray(near & self.of_ink(ink))

    def of_ink(self, ink: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Which of them are of an ink, (N,) bool.

        Parameters
        ----------
        ink : (3,) float64
            Red, green and blue.
        """
        return np.asarray(np.abs(self.inks - ink).max(axis=1) <= _ONE_INK)


def _in_rows(words: list[_Word], colour: NDArray[np.int16], ground: NDArray[np.int16]) -> list[_Word]:
    """Those of some words that stand in a line of several unlike ones: their smoothed letters may all touch."""
    low = [word for word in words if len(word[1]) <= _HIGHEST_CAPTION]
    lines, wide = _Lines.of(low, colour, ground), np.array([word[1].shape[1] for word in low])
    found = []
    for number, word in enumerate(low):
        near = lines.with_one(lines.ends[number], lines.inks[number])
        if near.sum() > _WORDS_OF_A_LINE and np.ptp(wide[near]) >= _UNLIKE:
            found.append(word)
    return found


def _in_lines(
    words: list[_Word], bits: list[_Word], colour: NDArray[np.int16], ground: NDArray[np.int16]
) -> list[_Word]:
    """Those of some bits that stand in a line with several words and are of their ink: too short to be told alone."""
    if len(words) < _WORDS_OF_A_LINE:
        return []
    lines, found = _Lines.of(words, colour, ground), []
    for box, inked in bits:
        ends = np.array(_ends(box[0]))
        # Most stand in no line, and what ink each is of takes longest to tell.
        if len(inked) < _LOWEST or not (np.abs(lines.ends - ends) <= _OFF_LINE).any():
            continue
        own = colour[box][inked][:, :3]
        ink = _ink_of(own, ground)
        enough = 1 if lines.of_ink(ink).sum() >= _WORDS_OF_A_HAND else _WORDS_OF_A_LINE
        if lines.with_one(ends, ink).sum() >= enough and _is_one_ink(own - ground):
            found.append((box, inked))
    return found


def _ink_of(colours: NDArray[np.int16], ground: NDArray[np.int16]) -> NDArray[np.float64]:
    """The ink of what may be smoothed: the mean of the fifth that is furthest from the ground, (3,) float64."""
    far = np.abs(colours - ground).sum(axis=1)
    return np.asarray(colours[far >= np.quantile(far, 0.8)].mean(axis=0))


def _strokes_beside(words: list[_Word], bits: list[_Word]) -> list[_Word]:
    """Those of some bits that are dots, commas or dashes of a word beside which they are."""
    if not words or not bits:
        return []
    ink = np.array([inked.sum() for _, inked in bits])
    top, bottom, left, right = np.array([(*_ends(box[0]), *_ends(box[1])) for box, _ in bits]).T
    told = np.zeros(len(bits), dtype=np.bool_)
    for (rows, columns), inked in words:
        high = len(inked)
        in_line = (top >= rows.start - high / 2) & (bottom <= rows.stop + high / 2)
        near = (left <= columns.stop + high) & (right >= columns.start - high)
        told |= in_line & near & (ink <= _STROKE * high * high)
    return [bits[number] for number in np.flatnonzero(told).tolist()]


def _ends(span: slice) -> tuple[int, int]:
    return span.start, span.stop


def _beside(one: _Word, other: _Word) -> bool:
    """Whether two words are as high as each other and stand in one line, as far apart as words do."""
    (rows, across), (lines, along) = one[0], other[0]
    apart = max(across.start - along.stop, along.start - across.stop)
    return rows == lines and apart <= _WORDS_APART * len(one[1])


def _has_letters(inked: NDArray[np.bool_]) -> bool:
    """Whether pixels are several shapes in a row that lie at uneven distances, as letters do and tiles do not."""
    glyphs = scipy.ndimage.find_objects(scipy.ndimage.label(inked, np.ones((3, 3)))[0])
    if len(glyphs) < _FEWEST_GLYPHS:
        return False
    steps = np.diff(sorted(across.start for _, across in glyphs))
    high = np.array([down.stop - down.start for down, _ in glyphs])
    # The dots of a pattern lie at uneven distances, too.
    tall = float((high >= _TALL * len(inked)).mean()) >= _MOST_TALL
    return tall and float(steps.std()) > _UNEVEN * float(steps.mean())


def _has_strokes(inked: NDArray[np.bool_]) -> bool:
    """Whether pixels are as many strokes beside one another as letters are, and as thin, though these may all touch."""
    edges = np.diff(np.pad(inked, ((0, 0), (1, 1))).astype(np.int8), axis=1)
    thick = np.nonzero(edges == -1)[1] - np.nonzero(edges == 1)[1]
    return len(thick) >= _STROKES * len(inked) and bool(np.median(thick) <= max(_THICK, _THICKEST * len(inked)))


def _alone(titles: NDArray[np.bool_], art: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Those of what may be titles beside which there is no other art."""
    labels, _ = scipy.ndimage.label(titles.any(axis=1))
    shared = np.unique(labels[(art & ~titles).any(axis=1)])
    return np.asarray(titles & ~np.isin(labels, shared[shared > 0])[:, None])


def _is_one_ink(from_ground: NDArray[np.int16]) -> bool:
    """Whether colours, as differences from the ground, all lie between it and one ink, (N, 3) int16."""
    away = from_ground.astype(np.float64)
    far = np.linalg.norm(away, axis=1)
    ink = away[far >= np.quantile(far, 0.8)].mean(axis=0)
    towards = ink / max(1.0, float(np.linalg.norm(ink)))
    beside = np.linalg.norm(away - (away @ towards)[:, None] * towards, axis=1)
    return bool((beside <= _ONE_INK).mean() >= _ALMOST_ALL)
