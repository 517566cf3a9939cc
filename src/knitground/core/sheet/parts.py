"""Several grids on one sheet: where each lies, and how it is cut."""

from collections.abc import Callable
from dataclasses import replace
from functools import reduce
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.bared import bared, without_glow
from knitground.core.sheet.below_title import astray, below_title
from knitground.core.sheet.blocks_apart import blocks_apart, goes_on_over
from knitground.core.sheet.cut import Cut, Rect, grid_of, tile_rect
from knitground.core.sheet.edge_lines import grid_of_edges
from knitground.core.sheet.enlarged import enlarged
from knitground.core.sheet.footed import footed_cut
from knitground.core.sheet.grids_among import with_grids_among
from knitground.core.sheet.guess import Guess, drawn_once, guess_cuts, guess_part
from knitground.core.sheet.laid import Side
from knitground.core.sheet.loose import FEWEST, MOST, SURE, fits_hardly, lie_crowded, things_on
from knitground.core.sheet.part import Part, in_one_manner, pitch_of
from knitground.core.sheet.parting import MOST_LOOKS, Parting
from knitground.core.sheet.plausible import Hints, Sizes
from knitground.core.sheet.profile import SMALLEST_TILE, art_of
from knitground.core.sheet.repeated import without_repeats
from knitground.core.sheet.ruled import Ruled, ruled_grids
from knitground.core.sheet.settled import settled
from knitground.core.sheet.things_in_row import row_of_things
from knitground.core.sheet.titled import titled_bands
from knitground.core.sheet.uneven import without_uneven_ground

_MOST_PIXELS = 2**24
_FIRST, _LAST = 0.2, 0.95
"""What share of the work guessing one grid is, and when all parts are looked at."""
_OPAQUE, _FOOTED, _EDGES = 128, 0.97, 0.99
"""What is less opaque is a shadow; and how sure a guess by the feet of tiles is, and by edges that are repeated."""
_DOUBTFUL, _MUCH, _STRIP, _PLAIN = 0.4, 0.1, 0.5, 0.9
"""How sure a guess is at which it is hardly more than one of several; how much surer another has to be; and how sure
one row of tiles is to be left alone, or a grid not to be taken for several where less is looked at."""


class Overview(NamedTuple):
    """What is guessed of a sheet: cuts by one grid, best first, and cuts of several grids on parts if those show."""

    guesses: list[Guess]
    parts: list[Cut]


def look_over(
    picture: NDArray[np.uint8], report: Callable[[float], None] = lambda share: None, known: Sizes = ()
) -> Overview:
    """All that is guessed of a sheet; writing on it is known as such.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    report : callable
        Is told the share that is done, from 0 to 1; may raise to stop.
    known : collection of (width, height)
        Sizes that tiles are likely to have: what other sheets of a project are cut in.

    Returns
    -------
    overview : Overview
        Its parts have regions and no ids, from above and from the left. There are none where one grid will do, or
        where the picture is too large to tell.

    Raises
    ------
    BadSheet
        As `guess_cuts`.
    """
    picture = bared(picture)
    art = enlarged(picture)
    if art.times > 1:
        guesses, parts = look_over(art.shrunk(picture), report, art.known(known))
        return Overview([art.guess(one) for one in guesses], [art.cut(part) for part in parts])
    edges = grid_of_edges(picture)
    if edges is not None:
        first = _as_guess(edges, Rect(0, 0, picture.shape[1], picture.shape[0]), _EDGES, "lines are as the next")
        others = guess_cuts(settled(picture), hints=Hints(known))
        return Overview(drawn_once(picture, _with_first(first, others)), [])
    guesses, parts = list[Guess](), list[Cut]()
    looks = _looks(settled(picture))
    for number, look in enumerate(looks):
        seen = _seen_on(look, _one_of(report, number, len(looks)), known)
        several = bool(seen.parts) and _sure(guesses) < _PLAIN
        if not number or several or _sure(seen.guesses) > _sure(guesses):
            guesses, parts = seen
    return Overview(drawn_once(picture, guesses), [without_repeats(picture, part) for part in with_grids_among(parts)])


def guess_enlarged(part: NDArray[np.uint8], *, most: int = 8, known: Sizes = ()) -> list[Guess]:
    """Proposed cuts of a part of a sheet, as by `guess_part`; art that was enlarged is looked at at its own size.

    Parameters
    ----------
    part : (H, W, 4) uint8
        RGBA, straight alpha.
    most : int
        How many to return at the most.
    known : collection of (width, height)
        Sizes that tiles are likely to have.
    """
    part = bared(part)
    art = enlarged(part)
    if art.times == 1:
        return max((guess_part(look, most=most, known=known) for look in _looks(part)), key=_sure)
    return [art.guess(one) for one in guess_part(art.shrunk(part), most=most, known=art.known(known))]


def _looks(picture: NDArray[np.uint8]) -> list[NDArray[np.uint8]]:
    """A picture, and what it would be without what may hide a cut.

    What shines through may fill gutters, or be all that fills a tile; what seems ground may be a tile.
    """
    if picture.shape[0] * picture.shape[1] > _MOST_PIXELS:
        return [picture]
    others = (without(picture) for without in (without_glow, without_uneven_ground))
    return [picture, *(other for other in others if other is not picture)]


def _one_of(report: Callable[[float], None], number: int, count: int) -> Callable[[float], None]:
    """What is told the share of one of several looks that is done."""
    return lambda share: report((number + share) / count)


def _sure(guesses: list[Guess]) -> float:
    return guesses[0].confidence if guesses else 0.0


def may_be_things(picture: NDArray[np.uint8], guess: Guess) -> bool:
    """Whether little speaks for a guess of one grid, and separate shapes lie on the sheet that may be in none.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    guess : Guess
        The best for it.
    """
    if guess.confidence >= _PLAIN:
        return False
    height, width = picture.shape[:2]
    art, whole = art_of(settled(bared(picture)).astype(np.int16)), Rect(0, 0, width, height)
    things = things_on(art, whole)
    if not FEWEST < len(things) <= MOST:
        return False
    cut = guess.as_cut("")
    if guess.confidence >= SURE:
        return lie_crowded(things_on(art, whole, in_rows=True), cut)
    return guess.confidence < _DOUBTFUL or fits_hardly(things, cut, guess.confidence)


def _seen_on(picture: NDArray[np.uint8], report: Callable[[float], None], known: Sizes) -> Overview:
    guesses = guess_cuts(picture, hints=Hints(known))
    height, width = picture.shape[:2]
    if not guesses or min(width, height) < 2 * SMALLEST_TILE or width * height > _MOST_PIXELS:
        return Overview(guesses, [])
    look = Parting(picture, report, known)
    guesses = [below_title(guess, look.written, look.art) for guess in guesses]
    look.tell(_FIRST)
    all_of_it = Rect(0, 0, width, height)
    art = look.tight(all_of_it)
    if art is None:
        return Overview(guesses, [])
    side = Side(art, all_of_it)
    lines = ruled_grids(picture.astype(np.int16), look.art)
    if lines:
        return Overview(guesses, _between_lines(look, lines, all_of_it))
    blocks = blocks_apart(picture, (picture[..., 3] > 0) & ~look.written, known)
    if blocks and not all(goes_on_over(guesses[0].as_cut(""), block) for block in blocks):
        return Overview(
            guesses, _with_what_lies_beside(look, blocks, [one.region for one in blocks if one.region], all_of_it)
        )
    opaque = picture[..., 3] >= _OPAQUE
    footed = footed_cut(look.art & opaque)
    if footed is not None:
        alike = [cut for one in guesses if pitch_of(cut := one.as_cut("")) == pitch_of(footed)]
        # The first of those that are alike but for titles between the rows, which are in no tile.
        best = min([*alike[:1], footed], key=lambda cut: astray(cut, look.written, look.art))
        first = _as_guess(best, all_of_it, _FOOTED, "feet of tiles stand")
        return Overview(_with_first(first, guesses), [])
    row = row_of_things(picture, opaque) or row_of_things(picture, look.art & opaque)
    if row is not None:
        return Overview(_with_first(_as_guess(row, all_of_it, _FOOTED, "separate things stand"), guesses), [])
    if _is_strip(guesses[0], width, height):
        return Overview(guesses, [])
    likely = {guess.as_cut(""): guess.confidence for guess in guesses}
    plain = look.plain(side)
    whole = plain or Part(side, guesses[0].as_cut(""), guesses[0].confidence, likely)
    captioned = plain and plain == look.captioned(side)
    bands = [] if captioned else titled_bands(look, whole)
    if bands:
        return Overview(guesses, bands)
    parts = look.parted(whole, (_FIRST, _LAST))
    parts = look.loosened([grid for part in look.rejoined(parts) for grid in look.peeled(part)])
    if len(parts) > 1 and look.looks <= MOST_LOOKS:
        grids, loose = ([part for part in parts if bool(part.cut.pieces) == kind] for kind in (False, True))
        if not grids:
            return Overview(guesses, [])  # it is the whole sheet that may be loose pieces
        cuts = sorted(in_one_manner(grids), key=_place) + [part.cut for part in loose]
        return Overview(guesses, cuts)
    written = bool(plain) or bool(look.written.any())
    alone = look.guessed(side, (_LAST, 1.0)) if written or guesses[0].confidence < _DOUBTFUL else None
    if alone is None or not _better(alone, guesses[0], written=written):
        return Overview(guesses, [])
    return Overview(_with_first(_on_all(alone, look), guesses), [])


def _between_lines(look: Parting, drawn: list[Ruled], all_of_it: Rect) -> list[Cut]:
    """The grids that lines draw, with what lies beside all of them; none where one is all that there is."""
    cuts = [grid.cut for grid in drawn]
    found = _with_what_lies_beside(look, cuts, [grid.within for grid in drawn], all_of_it)
    return found if len(found) > 1 else []


def _with_what_lies_beside(look: Parting, cuts: list[Cut], within: list[Rect], all_of_it: Rect) -> list[Cut]:
    """Grids that lie in rectangles, from above and from the left, then the pieces of what lies beside all of them."""
    held = reduce(Rect.with_other, within)
    above, rest = all_of_it.parted(held.y, down=True)
    rest, below = rest.parted(held.y + held.height - rest.y, down=True)
    before, rest = rest.parted(held.x, down=False)
    behind = rest.parted(held.x + held.width - rest.x, down=False)[1]
    beside = [part for strip in (above, below, before, behind) if (part := look.beside(strip, cuts[0])) is not None]
    grids = [part.cut for part in beside if not part.cut.pieces]
    return [*sorted(cuts + grids, key=_place), *(part.cut for part in beside if part.cut.pieces)]


def _is_strip(guess: Guess, width: int, height: int) -> bool:
    """Whether a guess is one row or column of tiles that is all of a picture: gaps between them part nothing."""
    fills = guess.columns * guess.tile_width == width and guess.rows * guess.tile_height == height
    return fills and min(guess.columns, guess.rows) == 1 and guess.confidence >= _STRIP


def _better(alone: Part, guess: Guess, *, written: bool) -> bool:
    """Whether the numbers of the art alone are to be gone by.

    Where nothing is written they have to be much surer; of the same pitch, only writing may hide how that is split.
    """
    surer = alone.confidence - guess.confidence
    if pitch_of(alone.cut) != pitch_of(guess.as_cut("")):
        return surer > (0.0 if written else _MUCH)
    return written and surer > _MUCH


def _with_first(first: Guess, guesses: list[Guess]) -> list[Guess]:
    """Guesses behind another, which is among them once."""
    return [first, *(one for one in guesses if one.as_cut("") != first.as_cut(""))]


def _on_all(part: Part, look: Parting) -> Guess:
    """What was guessed of the art without writing, on the whole picture."""
    first = tile_rect(part.cut, 0, 0)
    left = look.begins(first.x, part.cut.pitch_x, 0)
    top = look.begins(first.y, part.cut.pitch_y, 1)
    cut = replace(part.cut, region=None, margin_x=left, margin_y=top)
    return _as_guess(cut, part.side.room, part.confidence, "the art besides what is written repeats")


def _as_guess(cut: Cut, room: Rect, confidence: float, what: str) -> Guess:
    """A cut as a guess of how sure one is, and of what speaks for it."""
    grid = grid_of(cut, room.width, room.height)
    return Guess(
        cut.tile_width,
        cut.tile_height,
        cut.margin_x,
        cut.margin_y,
        cut.spacing_x,
        cut.spacing_y,
        grid.columns,
        grid.rows,
        round(confidence, 4),
        f"{what} every {cut.pitch_x} x {cut.pitch_y} px",
    )


def _place(cut: Cut) -> tuple[int, int]:
    assert cut.region is not None
    return cut.region.y, cut.region.x
