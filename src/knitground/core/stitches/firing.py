"""Firing: which stitches of a course win the cells, and what they lay there; blocks only where all of one is free."""

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.chance import chance, chance_bits, choose, seed_for
from knitground.core.stitches.cloth import Cloth
from knitground.core.stitches.compiled import Bits, Laying, ReadyCourse
from knitground.core.stitches.match import STRIP, lowest
from knitground.core.stitches.rules import EVERYWHERE, Stitch
from knitground.core.stitches.window import BEYOND, Indices, Mask

_UNTOUCHED = np.int32(-(2**31))


def leave_to_chance(cloth: Cloth, course: ReadyCourse, bits: Bits) -> None:
    """Takes away the bits of stitches where their chance or places do not let them fire.

    Parameters
    ----------
    cloth : Cloth
    course : ReadyCourse
    bits : (words, cells) uint64
        Which ways of stitches fit each cell; written to.
    """
    for place, stitch in enumerate(course.stitches):
        if stitch.chance >= 100 and stitch.places == EVERYWHERE:
            continue
        own = course.bits(course.of_stitches(range(place, place + 1)))
        words = np.flatnonzero(own)
        here = np.flatnonzero((bits[words] & own[words, None]).any(axis=0))
        rows, columns = cloth.places(here)
        fires = may_fire(stitch, cloth.seed, rows, columns)
        for word in words:
            bits[word, here[~fires]] &= ~own[word]


def may_fire(stitch: Stitch, seed: int, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> Mask:
    """Where chance and place let a stitch fire.

    Parameters
    ----------
    seed : int
        Of the layer.
    rows, columns : (n,) int64
        Cells of the ground.

    Returns
    -------
    fires : (n,) bool
    """
    places = stitch.places
    down, right = rows - places.first_row, columns - places.first_column
    fires: Mask = (down % places.rows == 0) & (right % places.columns == 0)
    if places.chequered:
        fires &= (down // places.rows + right // places.columns) % 2 == 0
    if stitch.chance < 100:
        fires &= chance(seed_for(seed, stitch.id), rows, columns) * 100 < stitch.chance
    return fires


class _Plain(NamedTuple):
    """What stitches that lay single tiles where they fire lay on one part.

    Attributes
    ----------
    part : int
    codes : (64 words + 1,) int32
        By variant; _UNTOUCHED for those that lay nothing here, and for none.
    mixes : list of (variant, place of the piece, Laying)
    sparing : (64 words + 1,) bool
        Those that lay nothing on blocks.
    bare : (64 words + 1,) int32
        The codes with nothing in place of _UNTOUCHED.
    simple : bool
        Whether each of them lays the same tile everywhere, and nobody asks what laid it.
    """

    part: int
    codes: NDArray[np.int32]
    mixes: list[tuple[int, int, Laying]]
    sparing: Mask
    bare: NDArray[np.int32]
    simple: bool


def lay_plain(cloth: Cloth, course: ReadyCourse, bits: Bits, places: range) -> None:
    """Stitches that lay single tiles where they fire; in strips that stay in the cache of the processor.

    Parameters
    ----------
    cloth : Cloth
    course : ReadyCourse
    bits : (words, cells) uint64
        Which ways of stitches fit each cell.
    places : range
        Their places in the course.
    """
    variants = course.of_stitches(places)
    own = None if len(variants) == len(course.variants) else course.bits(variants)[:, None]
    none = np.uint16(64 * course.words)
    lays = [one for part in range(len(cloth.codes)) if (one := _plain_on(cloth, course, variants, part)) is not None]
    for first in range(0, cloth.done.size, STRIP):
        at = slice(first, first + STRIP)
        won = lowest(bits[:, at] if own is None else bits[:, at] & own)
        if cloth.done[at].any():
            np.putmask(won, cloth.done[at], none)
        fires = won < none
        for one in lays:
            if cloth.number == 1 and one.simple and not cloth.taken[one.part, at].any():
                # Nothing lies here yet, so that what nobody lays may be written as bare.
                np.take(one.bare, won, out=cloth.codes[one.part, at], mode="clip")
                cloth.taken[one.part, at] = fires
            else:
                _lay_plain_on(cloth, course, one, won, at)
        cloth.done[at] |= fires
        cloth.met[at] |= fires
        cloth.fired[at] += (won + np.uint16(1)) * fires


def _plain_on(cloth: Cloth, course: ReadyCourse, variants: list[int], part: int) -> _Plain | None:
    codes = np.full(64 * course.words + 1, _UNTOUCHED, dtype=np.int32)
    sparing, mixes = np.zeros(len(codes), dtype=bool), list[tuple[int, int, Laying]]()
    for number in variants:
        variant = course.variants[number]
        for place, laying in enumerate(variant.layings):
            if laying.part == part and codes[number] == _UNTOUCHED:
                codes[number] = laying.codes[0]
                if laying.weights:
                    mixes.append((number, place, laying))
                sparing[number] = course.stitches[variant.stitch].spares_blocks
    laid = codes != _UNTOUCHED
    if not laid.any():
        return None
    simple = bool(laid[variants].all()) and not mixes and not sparing.any() and not cloth.traced
    return _Plain(part, codes, mixes, sparing, np.where(laid, codes, 0), simple)


def _lay_plain_on(cloth: Cloth, course: ReadyCourse, lays: _Plain, won: NDArray[np.uint16], at: slice) -> None:
    """What stitches that won lay on one part, on a strip of the cells at which they fire."""
    codes = np.take(lays.codes, won)
    laid = codes != _UNTOUCHED
    for number, place, laying in lays.mixes:
        here = np.flatnonzero(won == number)
        codes[here] = thrown(cloth, laying, _stream(course, number, place), here + at.start)[:, 0]
    taken = cloth.taken[lays.part, at]
    if taken.any():
        laid &= ~taken
    if lays.sparing.any():
        laid &= ~(cloth.held[lays.part, at] & lays.sparing[won])
    np.copyto(cloth.codes[lays.part, at], codes, where=laid)
    taken |= laid
    if cloth.traced:
        here = np.flatnonzero(laid)
        cloth.note(lays.part, here + at.start, won[here], here + at.start)


def _stream(course: ReadyCourse, variant: int, place: int) -> str:
    """What the chance is called by which a mix is thrown: by the stitch and the place of the piece in it."""
    return f"{course.stitches[course.variants[variant].stitch].id} mix {place}"


def thrown(cloth: Cloth, laying: Laying, stream: str, cells: Indices) -> NDArray[np.int32]:
    """The codes that a piece lays where it fires at some cells, (n, steps) int32.

    Parameters
    ----------
    cloth : Cloth
    laying : Laying
        What the piece lays, by chance where its codes have weights.
    stream : str
        Another throws otherwise.
    cells : (n,) int
        Numbers of the cells.
    """
    if not laying.weights:
        return np.broadcast_to(laying.codes, (len(cells), len(laying.codes)))
    numbers = chance(seed_for(cloth.seed, stream), *cloth.places(cells))
    return laying.codes[choose(laying.weights, numbers)][:, None]


def lay_far(cloth: Cloth, course: ReadyCourse, bits: Bits, places: range) -> None:
    """A stitch that lays blocks, or tiles elsewhere than where it fires, or keeps apart from others like it.

    Parameters
    ----------
    cloth : Cloth
    course : ReadyCourse
    bits : (words, cells) uint64
        Which ways of stitches fit each cell.
    places : range
        Its place in the course.
    """
    stitch = course.stitches[places.start]
    variants = course.of_stitches(places)
    own = course.bits(variants)
    fits = np.zeros(cloth.done.shape, dtype=bool)
    for word in np.flatnonzero(own):
        fits |= (bits[word] & own[word]) != 0
    # Where something fired already, but for what lies beyond might not have.
    maybe = np.flatnonzero(fits & cloth.done & cloth.unsure)
    if stitch.apart:
        _doubt_near(cloth, fits, stitch.apart)
    fits &= ~cloth.done
    if stitch.apart:
        fits = _thinned(cloth, fits, stitch)
    for cells, fires in ((maybe, False), (np.flatnonzero(fits), True)):
        stands = lowest(bits[:, cells] & own[:, None])
        for number in variants:
            mine = cells[stands == number]
            if fires:
                _lay_variant(cloth, course, number, mine)
            else:
                for laying in course.variants[number].layings:
                    _mark_unsure(cloth, _covered(cloth, laying, mine))


def _covered(cloth: Cloth, laying: Laying, cells: Indices) -> Indices:
    """What a piece covers where it fires at some cells, (n, steps) intp."""
    return cloth.window.covered(cells, laying.steps)


def _mark_unsure(cloth: Cloth, places: Indices) -> None:
    cloth.unsure[places[places >= 0]] = True


def _doubt_near(cloth: Cloth, fits: Mask, apart: int) -> None:
    """Where others that may be there or not would come too near, it is doubtful what is laid."""
    doubtful = fits & cloth.unsure
    if doubtful.any():
        near = scipy.ndimage.maximum_filter(doubtful.reshape(cloth.window.shape), 2 * apart + 1, mode="constant")
        cloth.unsure |= near.reshape(-1) & fits


def _thinned(cloth: Cloth, fits: Mask, stitch: Stitch) -> Mask:
    """The cells that no other one within reach comes before, by chance.

    References
    ----------
    B. Matérn, "Spatial variation" (1960): the second of his hard-core processes.
    """
    window = cloth.window
    cells = np.flatnonzero(fits)
    rows, columns = cloth.places(cells)
    bits = chance_bits(seed_for(cloth.seed, f"{stitch.id} apart"), rows, columns)
    # The filter works in floating point, which holds ranks exactly.
    order = np.full(fits.shape, np.inf)
    order[cells[np.lexsort((columns, rows, bits))]] = np.arange(len(cells))
    board, grid = window.board, order.reshape(window.shape)
    for axis, round_about in ((0, board.wraps_y and window.rect.height == board.height),
                              (1, board.wraps_x and window.rect.width == board.width)):  # fmt: skip
        grid = scipy.ndimage.minimum_filter1d(
            grid, 2 * stitch.apart + 1, axis, mode="wrap" if round_about else "constant",
            cval=np.inf,
        )  # fmt: skip
    kept: Mask = fits & (order == grid.reshape(-1))
    return kept


def _lay_variant(cloth: Cloth, course: ReadyCourse, number: int, cells: Indices) -> None:
    """Lays one way of a stitch at some cells: its blocks where they are free, then its single tiles."""
    variant = course.variants[number]
    blocks = [laying for laying in variant.layings if laying.is_block]
    if blocks:
        cells = np.concatenate(
            [_lay_blocks(cloth, number, blocks, some) for some in _in_order(cloth, blocks, cells)] or [cells[:0]]
        )
    cloth.done[cells] = cloth.met[cells] = True
    cloth.fired[cells] = number + 1
    for place, laying in enumerate(variant.layings):
        if not laying.is_block:
            spares = course.stitches[variant.stitch].spares_blocks
            _lay_single(cloth, number, laying, _stream(course, number, place), cells, spares)


def _in_order(cloth: Cloth, blocks: list[Laying], cells: Indices) -> list[Indices]:
    """Cells in the order in which blocks are begun there; those of one part can't overlap but over a border."""
    if not len(cells):
        return []
    ys, xs = np.array([step for laying in blocks for step in laying.steps]).T
    high, wide = int(np.ptp(ys)) + 1, int(np.ptp(xs)) + 1
    y, x = cloth.window.board.flat("cells", *cloth.places(cells))
    phase = y % high * wide + x % wide
    order = np.argsort(phase, kind="stable")
    return np.split(cells[order], np.flatnonzero(np.diff(phase[order])) + 1)


def _lay_blocks(cloth: Cloth, variant: int, blocks: list[Laying], cells: Indices) -> Indices:
    """Begins blocks at cells where all that they cover is free; returns these cells."""
    size = cloth.met.size
    covers = [(laying, _covered(cloth, laying, cells)) for laying in blocks]
    free, blocked, doubtful = np.ones(len(cells), dtype=bool), np.zeros(len(cells), dtype=bool), cloth.unsure[cells]
    for laying, places in covers:
        taken = (cloth.taken[laying.part] | cloth.held[laying.part])[places] & (places >= 0)
        unsure = cloth.unsure[places] & (places >= 0)
        free &= ~taken.any(axis=1)
        blocked |= (taken & ~unsure).any(axis=1)
        doubtful = doubtful | (unsure | (places == BEYOND)).any(axis=1)
    doubtful = doubtful & ~blocked
    for _, places in covers:
        _mark_unsure(cloth, places[doubtful])
    cloth.unsure[cells[doubtful]] = True
    claims = np.concatenate([np.where(places >= 0, places + laying.part * size, -1) for laying, places in covers], 1)
    free = _apart(claims, free, cloth.places(cells))
    for laying, places in covers:
        for step, code in enumerate(laying.codes):
            inside = places[free, step] >= 0
            to = places[free, step][inside]
            cloth.lay(laying.part, to, int(code), variant, cells[free][inside])
            cloth.held[laying.part, to] = True
    return cells[free]


def _apart(claims: Indices, free: Mask, at: tuple[NDArray[np.int64], NDArray[np.int64]]) -> Mask:
    """Those of some blocks that are free and claim no cell that an earlier one claims, row by row.

    Only where a ground goes round over a border that cuts the order of blocks can two of them meet here.
    """
    claimed = claims[free]
    claimed = np.sort(claimed[claimed >= 0])
    if not (claimed[1:] == claimed[:-1]).any():
        return free
    found, seen = np.zeros_like(free), set[int]()
    for index in np.lexsort((at[1], at[0])):
        mine = {int(one) for one in claims[index] if one >= 0}
        if free[index] and not mine & seen:
            seen |= mine
            found[index] = True
    return found


def _lay_single(cloth: Cloth, variant: int, laying: Laying, stream: str, cells: Indices, spares: bool) -> None:
    """Lays one tile for each of some cells, where no other one of the course lies."""
    codes = thrown(cloth, laying, stream, cells)[:, 0]
    places = _covered(cloth, laying, cells)[:, 0]
    inside = places >= 0
    cells, places, codes = cells[inside], places[inside], codes[inside]
    _mark_unsure(cloth, places[cloth.unsure[cells]])
    taken = cloth.taken[laying.part]
    free = ~(taken | cloth.held[laying.part] if spares else taken)[places]
    places = places[free]
    cloth.lay(laying.part, places, codes[free], variant, cells[free])
