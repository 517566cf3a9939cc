"""Tiles with a caption each: the captions stand in even lines, which tells the distances whatever the tiles are like.

Things that differ in size hardly show how far apart their cells are; their captions do, as each is centred on a cell
or begins where that does. Where the tiles lie and how large they are is told by the art once the distances are known.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut
from knitground.core.sheet.profile import SMALLEST_TILE
from knitground.core.sheet.writing import shapes_of

_BETWEEN_LETTERS, _LEAST = 5, (3, 5)
"""How far letters of a caption are from one another at most, and how high and wide one is at least."""
_OFF, _FITTING, _FEWEST, _FEWEST_COLUMNS, _MOST, _MOST_STEPS = 2, 0.7, 4, 3, 2**13, 24
"""How far off its place a caption may be, what share has to fit, how many tell, and how many are looked at."""
_CAPTIONED, _LOWER, _MOST_MISSING = 0.3, 3, 2
"""What share of the cells with art has a caption that is told, how much lower than others letters reach, and how many
lines in between two may have none that is told."""
_LITTLE = 2
"""How many times as much as there is art may be written; what is nearly all written are masks or letters."""
_JOINED, _ASTRAY = 0.05, 0.1
"""What share of the columns may have art in a line of captions that goes on above or below, and what share of the words
may lie on tiles, as a word of a thing that was drawn into one does."""
_LINED_UP, _OFF_COUNTS = 20.0, 12.0
"""How many pixels of a tile it is worth that lines lie on one another as well as they can, and each by which columns
are off on average."""


class _Words(NamedTuple):
    """Captions: where each begins and ends down and across the sheet, from above."""

    top: NDArray[np.intp]
    bottom: NDArray[np.intp]
    low: NDArray[np.intp]
    high: NDArray[np.intp]

    def some(self, which: NDArray[np.bool_]) -> "_Words":
        """Those of a mask, (N,) bool.

        Parameters
        ----------
        which : (N,) bool
        """
        return _Words(*(of[which] for of in self))

    def lines(self) -> NDArray[np.intp]:
        """Which line each stands in, counted from above."""
        apart = np.diff((self.top + self.bottom) / 2) > np.median(self.bottom - self.top) / 2
        return np.concatenate([[0], np.cumsum(apart)]).astype(np.intp)


class _Bands(NamedTuple):
    """Where captions stand down a sheet, and how far apart; 0 where there is one line."""

    pitch: int
    spans: list[tuple[int, int]]


class _Fit(NamedTuple):
    """Which captions stand at one distance apart, and how far off their places these are on average."""

    on: NDArray[np.bool_]
    off: float


class _Run(NamedTuple):
    """Where tiles begin in their cells along an axis, how long they are, and how far apart and how many."""

    first: int
    length: int
    pitch: int
    many: int


def captioned_cut(art: NDArray[np.bool_], written: NDArray[np.bool_]) -> Cut | None:
    """The cut of tiles that have a caption each; none where captions don't stand at even distances.

    Parameters
    ----------
    art : (H, W) bool
        Where there is art that is not written.
    written : (H, W) bool
        Where there is writing.
    """
    words = _words_of(written)
    pitches = _pitches_across(words) if words else {}
    if words is None or not pitches or art.sum() * _LITTLE < written.sum():
        return None
    # Titles stand in no column, or alone in their line.
    most = words.some(max(pitches.values(), key=lambda fit: fit.on.sum()).on)
    together = most.some(np.bincount(most.lines())[most.lines()] > 1)
    found: list[tuple[float, Cut]] = []
    for captions in (most, together) if 0 < len(together.low) < len(most.low) else (most,):
        for rows, cost in _bands_of(captions, written):
            bare = art & ~_letters_in(art, rows)
            across = _across(np.asarray(bare.any(axis=0)), pitches)
            filled = np.asarray(bare.any(axis=1))
            down = _run(filled, rows.pitch) if rows.pitch else _whole(filled)
            if across and down and _are_captioned(bare, words, captions, (across, down)):
                found.append((cost + down.length + across.length, _cut_of(across, down, one_line=not rows.pitch)))
    best = min(found, key=lambda one: one[0])[1] if found else None
    return None if best and _holds_groups(art, best) else best


def _cut_of(across: _Run, down: _Run, *, one_line: bool) -> Cut:
    """The cut of tiles; one line of them tells only how far they are apart along it."""
    spacing = across.pitch - across.length
    spacing_y = spacing if one_line else down.pitch - down.length
    return Cut("", across.length, down.length, across.first, down.first, spacing, spacing_y)


def _words_of(written: NDArray[np.bool_]) -> _Words | None:
    """What may be captions; none where they are too few to tell anything."""
    if not written.any():
        return None
    boxes = [
        (box[0].start, box[0].stop, int(own[0]) + box[1].start, int(own[-1]) + box[1].start + 1)
        for box, inked in shapes_of(written, _BETWEEN_LETTERS)
        for own in [np.flatnonzero(inked.any(axis=0))]
        if len(inked) >= _LEAST[0] and len(own) >= _LEAST[1]
    ]
    if not _FEWEST <= len(boxes) <= _MOST:
        return None
    return _Words(*np.array(sorted(boxes, key=lambda box: box[0] + box[1])).T)


def _bands_of(words: _Words, written: NDArray[np.bool_]) -> Iterator[tuple[_Bands, float]]:
    """Where captions may stand all down the sheet, and how far from alike the lines are that are told.

    In between there may be lines of which no caption was told.
    """
    lines = words.lines()
    tops = np.array([words.top[lines == line].min() for line in range(lines[-1] + 1)])
    bottoms = np.array([words.bottom[lines == line].max() for line in range(lines[-1] + 1)])
    first, last = int(tops[0]), int(bottoms[0])
    if len(tops) == 1:
        yield _Bands(0, [(first, last)]), 0.0
        return
    ends = np.stack([tops, bottoms])
    middles = ends.mean(axis=0)
    ink = np.pad(written.sum(axis=1).astype(np.float64), (0, 4 * _LOWER))
    for parts in range(1, _MOST_MISSING + 2):
        place = np.rint((middles - middles[0]) / np.diff(middles).min() * parts)
        apart = (ends[:, -1] - ends[:, 0]) / place[-1]
        for pitch in range(int(np.floor(apart.min())) - 1, int(np.ceil(apart.max())) + 2):
            off = np.abs(ends - ends[:, :1] - place * pitch)
            if pitch > SMALLEST_TILE and (off <= _LOWER).all():
                # Letters reach high or low in some lines only.
                begin, end = int((tops - place * pitch).min()), int((bottoms - place * pitch).max())
                spans = [(top, top + end - begin) for top in range(begin % pitch - pitch, len(written), pitch)]
                yield _Bands(pitch, spans), _unlike(ink, (first, last), place * pitch)


def _unlike(ink: NDArray[np.float64], span: tuple[int, int], shifts: NDArray[np.float64]) -> float:
    """How unlike lines of writing are, laid on one another: most letters end on one line, and many are as high."""
    rows = np.arange(max(0, span[0] - _LOWER), span[1] + _LOWER)
    laid = ink[np.minimum(rows + shifts.astype(np.intp)[:, None], len(ink) - 1)]
    laid /= np.maximum(np.linalg.norm(laid, axis=1, keepdims=True), 1.0)
    return _LINED_UP * (1.0 - float(np.linalg.norm(laid.mean(axis=0))))


def _letters_in(art: NDArray[np.bool_], rows: _Bands) -> NDArray[np.bool_]:
    """Which art is as low as captions and in their lines, or is little there: letters that were not told by themselves.

    One that reaches low may be joined to a tile.
    """
    found = np.zeros_like(art)
    for top, bottom in rows.spans:
        reach = slice(max(0, top - _LOWER), max(0, bottom + _LOWER))
        labels, _ = scipy.ndimage.label(art[reach], np.ones((3, 3)))
        if labels.size:
            ends = np.unique(np.concatenate([labels[0], labels[-1]]))
            found[reach] = (labels > 0) & ~np.isin(labels, ends[ends > 0])
        line = slice(max(0, top), max(0, bottom))
        left = art[line] & ~found[line]
        if left.any(axis=0).sum() <= _JOINED * art.any(axis=0).sum():
            found[line] |= left
    return found


def _pitches_across(words: _Words) -> dict[int, _Fit]:
    """How far columns may be apart by the middles of captions or by where they begin, and how well these fit that."""
    found: dict[int, _Fit] = {}
    lines = words.lines()
    for places in ((words.low + words.high) / 2, words.low.astype(np.float64)):
        steps = np.concatenate([np.diff(np.sort(places[lines == line])) for line in np.unique(lines)])
        known, often = np.unique(np.rint(steps).astype(np.intp), return_counts=True)
        usual = known[np.argsort(-often, kind="stable")[:_MOST_STEPS]].tolist()
        for pitch in {step + off for step in usual for off in (-1, 0, 1)}:
            fit = _fit_of(places, pitch) if pitch > SMALLEST_TILE else None
            if fit is not None and (pitch not in found or fit.on.sum() > found[pitch].on.sum()):
                found[pitch] = fit
    return found


def _fit_of(places: NDArray[np.float64], pitch: int) -> _Fit | None:
    """How well some places lie at one distance apart; none if too few do."""
    halves = np.bincount((2 * places).astype(np.intp) % (2 * pitch), minlength=2 * pitch)
    near = np.convolve(np.concatenate([halves, halves[: 4 * _OFF]]), np.ones(4 * _OFF + 1, dtype=np.intp), "valid")
    middle = int(near.argmax()) / 2 + _OFF
    for _ in range(2):  # the second time round what most of them agree on
        away = (places - middle + pitch / 2) % pitch - pitch / 2
        middle += float(np.median(away[np.abs(away) <= _OFF]))
    away = (places - middle + pitch / 2) % pitch - pitch / 2
    on = np.abs(away) <= _OFF
    columns = np.unique(np.floor((places[on] - middle + pitch / 2) / pitch))
    if on.sum() < _FEWEST or len(columns) < _FEWEST_COLUMNS or on.mean() < _FITTING:
        return None
    return _Fit(on, float(np.abs(away[on]).mean()))


def _across(filled: NDArray[np.bool_], pitches: dict[int, _Fit]) -> _Run | None:
    """How tiles lie across: the distance that most tells of and at which they are shortest."""
    runs = {pitch: run for pitch in pitches if (run := _run(filled, pitch)) is not None}
    if not runs:
        return None
    usual = max(runs, key=lambda pitch: pitches[pitch].on.sum() * pitch / runs[pitch].length)
    near = [pitch for pitch in runs if abs(pitch - usual) <= _OFF]
    return runs[min(near, key=lambda pitch: _OFF_COUNTS * pitches[pitch].off + runs[pitch].length)]


def _whole(filled: NDArray[np.bool_]) -> _Run | None:
    places = np.flatnonzero(filled)
    return _Run(int(places[0]), int(np.ptp(places)) + 1, int(np.ptp(places)) + 1, 1) if len(places) else None


def _run(filled: NDArray[np.bool_], pitch: int) -> _Run | None:
    """The tiles that hold all filled lines of cells so far apart; none if nothing is clear between them."""
    places = np.flatnonzero(_folded(filled, 0, pitch))
    if not len(places):
        return None
    gaps = np.diff(np.concatenate([places, [places[0] + pitch]])) - 1
    widest = int(gaps.argmax())
    if not gaps[widest]:
        return None
    first = int(places[(widest + 1) % len(places)])
    # The first tile is the one that the first art lies in, which may begin before what is known of it.
    begin = int(np.flatnonzero(filled)[0])
    first += (begin - first) // pitch * pitch
    last = int(np.flatnonzero(filled)[-1])
    return _Run(first, pitch - int(gaps[widest]), pitch, (last - first) // pitch + 1)


def _folded(filled: NDArray[np.bool_], begin: int, pitch: int) -> NDArray[np.bool_]:
    """Where something lies in any of the cells that are so far apart, (pitch,), counted from where one begins."""
    there = np.zeros(pitch, dtype=bool)
    there[(np.flatnonzero(filled) - begin) % pitch] = True
    return there


def _holds_groups(art: NDArray[np.bool_], cut: Cut) -> bool:
    """Whether what lies in the tiles of a cut lies apart in pieces of one length: these are titles of groups."""
    for filled, begin, pitch in (
        (np.asarray(art.any(axis=0)), cut.margin_x, cut.pitch_x),
        (np.asarray(art.any(axis=1)), cut.margin_y, cut.pitch_y),
    ):
        ends = np.flatnonzero(np.diff(np.pad(_folded(filled, begin, pitch), 1).astype(np.int8)))
        long = ends[1::2] - ends[::2]
        if len(long) > 1 and long.min() >= SMALLEST_TILE and np.ptp(long) <= _OFF:
            return True
    return False


def _are_captioned(art: NDArray[np.bool_], words: _Words, captions: _Words, runs: tuple[_Run, _Run]) -> bool:
    """Whether most cells with art have a caption, and none of the captions lies on a tile, nor many other words."""
    across, down = runs
    if min(across.length, down.length) < SMALLEST_TILE:
        return False
    if _on_tiles(captions, down).any() or _on_tiles(words, down).sum() > _ASTRAY * len(words.top):
        return False
    rows, columns = (
        (np.arange(size) - run.first) // run.pitch for size, run in zip(art.shape, (down, across), strict=True)
    )
    filled = np.zeros((rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1), dtype=bool)
    for row in range(rows[0], rows[-1] + 1):
        filled[row - rows[0], columns[art[rows == row].any(axis=0)] - columns[0]] = True
    return len(captions.low) >= _CAPTIONED * int(filled.sum())


def _on_tiles(words: _Words, down: _Run) -> NDArray[np.bool_]:
    """Which words lie on rows of tiles, (N,) bool."""
    first, last = words.top - down.first, words.bottom - 1 - down.first
    here = (
        (first % down.pitch < down.length)
        | (last % down.pitch < down.length)
        | (first // down.pitch < last // down.pitch)
    )
    return np.asarray(here & (last >= 0) & (first < down.many * down.pitch))
