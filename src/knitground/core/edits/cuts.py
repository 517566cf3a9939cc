"""Cuts of a project's sheets: adding, removing, loose pieces, cells in and out, what is transparent."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.sheets import named_parts, set_cut
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest, BadSheet
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id, replaced
from knitground.core.sheet.bared import bared
from knitground.core.sheet.cut import Cell, Cut, Rect, grid_of, tile_rect
from knitground.core.sheet.footing import with_shape
from knitground.core.sheet.isometric import without_ground
from knitground.core.sheet.keys import key_named, key_on, key_tolerance
from knitground.core.sheet.parts import guess_enlarged, look_over, may_be_things
from knitground.core.sheet.picture import Clearing, Sheet, cleared
from knitground.core.sheet.pieces import kept_in_place
from knitground.core.sheet.plausible import Sizes
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.settled import settled
from knitground.core.sheet.slices import Slices
from knitground.core.sheet.uneven import GROUND
from knitground.core.sheet.unmixed import is_smoothed
from knitground.core.tiles.tile import TileRef

_SMALLEST_PART = 4


def add_cut(document: Document, sheet_id: str, region: Rect) -> str:
    """Adds a cut on a part of a sheet, by the best guess there; returns its id; raises as `cut_of_part`."""
    sheet = by_id(document.project.sheets, sheet_id)
    picture = seen_for_guess(document.state.pictures[sheet_id].pixels, sheet)
    return add_part(document, sheet_id, cut_of_part(sheet, picture, region).cut)


class PartCut(NamedTuple):
    """A cut of a part, and whether little speaks for it, so that what lies there may be things in no grid."""

    cut: Cut
    doubted: bool


def cut_of_part(sheet: Sheet, picture: NDArray[np.uint8], region: Rect) -> PartCut:
    """The best guess of a cut on a part of a sheet, without an id; may be worked out beside other work.

    Parameters
    ----------
    sheet : Sheet
    picture : (H, W, 4) uint8
        Of the sheet, with what is to be clear cleared.
    region : Rect
        The part, as it was drawn by hand.

    Raises
    ------
    BadRequest
        If the part is too small, or the sheet is a collection.
    """
    _refuse_collection(sheet)
    if min(region.width, region.height) < _SMALLEST_PART:
        raise BadRequest(f"A part of {region.width} x {region.height} pixels is too small; draw a larger rectangle.")
    part = _part(picture, region)
    guess = next(iter(guess_enlarged(part, most=1)), None)
    near = sheet.cuts[-1] if sheet.cuts else Cut("", 16, 16)
    plain = Cut("", min(near.tile_width, region.width), min(near.tile_height, region.height))
    cut = _tightened(replace(guess.as_cut("") if guess else plain, region=region), part)
    return PartCut(cut, guess is not None and may_be_things(part, guess))


def add_part(document: Document, sheet_id: str, cut: Cut) -> str:
    """Adds a cut of a part to a sheet; returns the id that it got."""
    sheet = by_id(document.project.sheets, sheet_id)
    name = fresh_id(f"part {len(sheet.cuts) + 1}", sheet.cuts)
    put(document, "add part", "sheets", replace(sheet, cuts=(*sheet.cuts, replace(cut, id=name))))
    return name


def remove_cut(document: Document, sheet_id: str, cut_id: str) -> None:
    """Takes a cut off a sheet; BadRequest if it is the only one."""
    sheet = by_id(document.project.sheets, sheet_id)
    _refuse_collection(sheet)
    if len(sheet.cuts) < 2:
        raise BadRequest("A sheet keeps one cut; take the whole sheet out instead.")
    put(document, "remove part", "sheets", replace(sheet, cuts=tuple(cut for cut in sheet.cuts if cut.id != cut_id)))


class Guessed(NamedTuple):
    """Cuts for one in hand, each with a reason and a confidence, and those of several grids on parts if these show."""

    cuts: list[tuple[Cut, str, float]]
    parts: tuple[Cut, ...]


def guess_in(
    picture: NDArray[np.uint8],
    sheet: Sheet,
    cut: Cut,
    report: Callable[[float], None] = lambda share: None,
    known: Sizes = (),
) -> Guessed:
    """What is guessed on the part of a sheet where a cut lies; what is said of the cut beyond its numbers stays.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet as its file holds it, straight alpha.
    sheet : Sheet
        One with several parts already is not cut in others.
    cut : Cut
        Its region is looked at.
    report : callable
        Is told the share that is done; may raise to stop.
    known : collection of (width, height)
        Sizes that tiles are likely to have.
    """
    picture = seen_for_guess(picture, sheet)
    if cut.region:
        guesses, parts = guess_enlarged(_part(picture, cut.region), known=known), list[Cut]()
    else:
        guesses, parts = look_over(picture, report, known)
    found, seen = [], without_ground(picture)
    for guess in guesses:
        new = guess.as_cut(cut.id)
        numbers = {
            name: getattr(new, name)
            for name in ("tile_width", "tile_height", "margin_x", "margin_y", "spacing_x", "spacing_y")
        }
        changed = with_shape(seen, replace(cut, pieces=(), gap=0, shape="square", foot=None, **numbers))
        found.append((changed, guess.reason, guess.sureness))
    if len(sheet.cuts) > 1:
        return Guessed(found, ())
    named = [
        replace(part, anchor=cut.anchor or part.anchor, offset_x=cut.offset_x, offset_y=cut.offset_y)
        for part in named_parts(parts, cut.id)
    ]
    return Guessed(found, tuple(with_shape(seen, part) for part in named))


def set_parts(document: Document, sheet_id: str, cuts: Sequence[Cut]) -> None:
    """Cuts a sheet anew, in several parts, as one step."""
    sheet = by_id(document.project.sheets, sheet_id)
    _refuse_collection(sheet)
    put(document, "cut in parts", "sheets", replace(sheet, cuts=tuple(cuts)))


def take_loose(document: Document, sheet_id: str, cut_id: str, gap: int, found: Sequence[Rect]) -> int:
    """Makes a cut one of the loose pieces that were found with a gap; those known keep their number."""
    sheet = by_id(document.project.sheets, sheet_id)
    _refuse_collection(sheet)
    cut = by_id(sheet.cuts, cut_id)
    # Under another gap what was one piece may be several, so numbers are only kept for as long as it stays.
    pieces = tuple(kept_in_place(cut.pieces, found) if cut.pieces and gap == cut.gap else found)
    loose = replace(cut, pieces=pieces, gap=gap, anchor=cut.anchor or "bottom", left_out=(), taken_in=())
    put(document, "loose pieces", "sheets", replace(sheet, cuts=replaced(sheet.cuts, loose)))
    return len(pieces)


def as_grid(document: Document, sheet_id: str, cut_id: str) -> None:
    """Makes a cut of loose pieces a grid again."""
    cut = by_id(by_id(document.project.sheets, sheet_id).cuts, cut_id)
    set_cut(document, sheet_id, replace(cut, pieces=(), gap=0, left_out=(), taken_in=()))


def toggle_cell(document: Document, ref: TileRef) -> bool:
    """Leaves a cell out, or takes it in; returns whether it is a tile now."""
    sheet = by_id(document.project.sheets, ref.sheet)
    cut, cell = by_id(sheet.cuts, ref.cut), Cell(ref.column, ref.row)
    slices = Slices(_seen(document, sheet), cut, sheet.parts_over(cut))
    held, filled = slices.holds(*cell), bool(slices.filled[ref.row, ref.column])
    left_out = tuple(one for one in cut.left_out if one != cell) + ((cell,) if held and filled else ())
    taken_in = tuple(one for one in cut.taken_in if one != cell) + ((cell,) if not held and not filled else ())
    changed = replace(cut, left_out=tuple(sorted(left_out)), taken_in=tuple(sorted(taken_in)))
    label = "leave cell out" if held else "take cell in"
    put(document, label, "sheets", replace(sheet, cuts=replaced(sheet.cuts, changed)))
    return not held


def with_clearing(
    sheet: Sheet,
    *,
    keys: Iterable[str] | None = None,
    tolerance: int | None = None,
    clear_below: int | None = None,
    soft_edges: bool | None = None,
) -> Sheet:
    """A sheet of which other things count as transparent; what is not given stays.

    Raises
    ------
    BadSheet
        If a number is out of range.
    """
    for name, value in (("tolerance", tolerance), ("alpha threshold", clear_below)):
        if value is not None and not 0 <= value <= 255:
            raise BadSheet(f"The {name} is {value}; give a number from 0 to 255.")
    return replace(
        sheet,
        keys=sheet.keys if keys is None else tuple(dict.fromkeys(keys)),
        tolerance=sheet.tolerance if tolerance is None else tolerance,
        clear_below=sheet.clear_below if clear_below is None else clear_below,
        soft_edges=sheet.soft_edges if soft_edges is None else soft_edges,
    )


def with_key(sheet: Sheet, picture: NDArray[np.uint8], key: str) -> tuple[Sheet, str]:
    """A sheet of which one more key counts as transparent, and a sentence about what that does.

    So does what is near it, if colours were kept nearly; where edges are mixed with it, it is taken out of them.

    Parameters
    ----------
    sheet : Sheet
    picture : (H, W, 4) uint8
        As its file holds it, straight alpha.
    key : str
        As ``#rrggbb``, ``checker`` or ``ground``.
    """
    tolerance = max(sheet.tolerance, key_tolerance(picture, key))
    area, plate = key_on(picture, key, tolerance)
    soft = is_smoothed(picture, plate, area)
    keyed = with_clearing(sheet, keys=(*sheet.keys, key), tolerance=tolerance, soft_edges=soft or sheet.soft_edges)
    name = key_named(key)
    return keyed, f"{name[0].upper()}{name[1:]} is transparent now{', and taken out of soft edges' if soft else ''}."


def set_clearing(document: Document, sheet_id: str, clearing: Clearing) -> None:
    """Changes what of a sheet counts as transparent."""
    sheet = by_id(document.project.sheets, sheet_id)
    put(document, "transparent colours", "sheets", with_clearing(sheet, **clearing._asdict()))


def seen_for_guess(picture: NDArray[np.uint8], sheet: Sheet) -> NDArray[np.uint8]:
    """A sheet with what is transparent made so; before that a ground of which colours were kept nearly is made even.
    A checkerboard is never art.

    What is cleared by a tolerance leaves a fringe round the art, which would hide where that begins.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        As its file holds it, straight alpha.
    sheet : Sheet
        What it is a picture of.
    """
    seen = bared(picture)
    if GROUND in sheet.keys:
        # Made even, it would no longer be told by how it changes.
        seen = cleared(seen, Clearing((GROUND,)))
    return cleared(settled(seen), sheet.clearing._replace(soft_edges=False))


def _tightened(cut: Cut, part: NDArray[np.uint8]) -> Cut:
    """A cut on a part that was drawn by hand, drawn in to where its tiles lie if there is nothing beyond them."""
    assert cut.region is not None
    grid = grid_of(cut, cut.region.x + cut.region.width, cut.region.y + cut.region.height)
    left, top, _, _ = tile_rect(cut, 0, 0)
    wide, high = grid.columns * cut.pitch_x - cut.spacing_x, grid.rows * cut.pitch_y - cut.spacing_y
    beyond = art_of(settled(part).astype(np.int16))
    x, y = left - cut.region.x, top - cut.region.y
    beyond[y : y + high, x : x + wide] = False
    return cut if beyond.any() else replace(cut, margin_x=0, margin_y=0, region=Rect(left, top, wide, high))


def _seen(document: Document, sheet: Sheet) -> NDArray[np.uint8]:
    return document.state.pictures[sheet.id].cleared(sheet)


def _part(picture: NDArray[np.uint8], region: Rect) -> NDArray[np.uint8]:
    x, y, width, height = region
    return np.ascontiguousarray(picture[y : y + height, x : x + width])


def _refuse_collection(sheet: Sheet) -> None:
    if sheet.images:
        raise BadRequest(f"{sheet.id} is a collection: each image is a tile of its own, there is nothing to cut.")
