"""A sheet of the project packed anew, and the project's move over to it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.merging import joined, moved_in, moved_on_maps, why_not
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, Project, replaced
from knitground.core.project.naming import named_as_drawn
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.picture import LARGEST_SIDE, MOST_PIXELS, Sheet, encode_png
from knitground.core.sheet.repack import Gaps, check_gaps, repack, repacked_cut
from knitground.core.sheet.shelves import shelved
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.alike import twins
from knitground.core.tiles.tile import TileRef

Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Packed:
    """A sheet packed anew: its picture, its cuts on it, and which tiles changed their place."""

    sheet: Sheet
    pixels: Pixels
    project: Project
    moves: Mapping[TileRef, tuple[TileRef, int]]
    gone: int = 0


def pack_anew(document: Document, sheet_id: str, gaps: Gaps, *, unique: bool = False, turned: bool = False) -> Packed:
    """A sheet with other gaps.

    Every tile keeps its column and row. With `unique`, tiles that look the same as an earlier one of their cut are
    left away, except where something tells them apart, and those behind move up. With `turned`, so are those that look
    the same when turned or mirrored, except where something names them that can't turn them.

    Raises
    ------
    BadRequest
        If a number is out of range, or the picture would be too large.
    """
    check_gaps(gaps)
    project = document.project
    sheet = by_id(project.sheets, sheet_id)
    seen = document.state.pictures[sheet_id].cleared(sheet)
    blocks: list[Pixels] = []
    cuts: list[Cut] = []
    moves: dict[TileRef, tuple[TileRef, int]] = {}
    gone = 0
    loose = bool(sheet.images) or any(cut.pieces for cut in sheet.cuts)
    for cut in sheet.cuts:
        slices = Slices(seen, cut, sheet.parts_over(cut))
        if cut.pieces:
            block, new = _pieces_block(slices, gaps)
        elif unique and not sheet.images:
            project, tiles, moved, merged = _unique(project, sheet_id, slices, turned)
            block, new = repack(tiles, gaps), replace(repacked_cut(cut, gaps), left_out=(), taken_in=())
            moves |= moved
            gone += merged
        else:
            tiles = _all_cells(slices)
            block, new = repack(tiles, gaps), repacked_cut(cut, gaps)
        blocks.append(block)
        cuts.append(new)
    pixels, cuts = _together(blocks, cuts, always=loose)
    if gaps.power_of_two:
        pixels = _to_powers_of_two(pixels)
    shown = replace(sheet, keys=(), tolerance=0, clear_below=0, soft_edges=False)
    packed = replace(shown, cuts=tuple(cuts), images=(), file=f"sheets/{sheet_id}.png")
    return Packed(packed, pixels, project, moves, gone)


def move_over(document: Document, packed: Packed) -> None:
    """Lets the project use a sheet that was packed anew, as one step; nothing shifts on any map."""
    project = moved_in(packed.project, packed.moves) if packed.moves else packed.project
    document.define(
        "pack sheet anew",
        replace(project, sheets=replaced(project.sheets, packed.sheet)),
        pictures={
            **document.state.pictures, packed.sheet.id: Picture(encode_png(packed.pixels), packed.pixels)
        },
        planes=moved_on_maps(document, packed.moves) if packed.moves else None,
    )  # fmt: skip


def _all_cells(slices: Slices) -> Pixels:
    """All cells of a grid, those that are no tiles empty: (rows, columns, h, w, 4)."""
    cut, grid = slices.cut, slices.grid
    tiles = np.zeros((grid.rows, grid.columns, cut.tile_height, cut.tile_width, 4), dtype=np.uint8)
    for column, row in slices.cells():
        tiles[row, column] = slices.cell(column, row)
    return tiles


def _unique(
    project: Project, sheet_id: str, slices: Slices, turned: bool
) -> tuple[Project, Pixels, dict[TileRef, tuple[TileRef, int]], int]:
    """The tiles of a cut without copies, in as many columns as before, and where each is now."""
    cut = slices.cut
    refs = [TileRef(sheet_id, cut.id, *cell) for cell in slices.cells()]
    drawn = {ref: slices.cell(ref.column, ref.row) for ref in refs}
    stands_for: dict[TileRef, tuple[TileRef, int]] = {}
    named = named_as_drawn(project)
    for group in twins(drawn, turned=turned):
        for twin in group[1:]:
            if not why_not(project, group[0].ref, twin, named):
                stands_for[twin.ref] = group[0].ref, twin.orientation
                project = joined(project, group[0].ref, twin)
    kept = [ref for ref in refs if ref not in stands_for]
    columns = max(1, slices.grid.columns)
    tiles = np.zeros((-(-max(1, len(kept)) // columns), columns, cut.tile_height, cut.tile_width, 4), dtype=np.uint8)
    places = {}
    for number, ref in enumerate(kept):
        row, column = divmod(number, columns)
        tiles[row, column] = drawn[ref]
        places[ref] = ref._replace(column=column, row=row)
    stand = {ref: stands_for.get(ref, (ref, 0)) for ref in refs}
    moves = {ref: (places[other], orientation) for ref, (other, orientation) in stand.items()}
    return project, tiles, {ref: to for ref, to in moves.items() if to[0] != ref}, len(stands_for)


def _pieces_block(slices: Slices, gaps: Gaps) -> tuple[Pixels, Cut]:
    """Loose pieces in rows, each with its border repeated outwards."""
    pieces = slices.cut.pieces
    around = 2 * gaps.extrude
    places, (width, height) = shelved([(p.width + around, p.height + around) for p in pieces], apart=gaps.spacing)
    block = np.zeros((height + 2 * gaps.margin, width + 2 * gaps.margin, 4), dtype=np.uint8)
    new = []
    for number, (piece, place) in enumerate(zip(pieces, places, strict=True)):
        x, y = place.x + gaps.margin, place.y + gaps.margin
        edge = (gaps.extrude, gaps.extrude)
        if slices.holds(number, 0):
            tile = np.pad(slices.cell(number, 0), (edge, edge, (0, 0)), mode="edge")
            block[y : y + tile.shape[0], x : x + tile.shape[1]] = tile
        new.append(Rect(x + gaps.extrude, y + gaps.extrude, piece.width, piece.height))
    return block, replace(slices.cut, pieces=tuple(new), region=None)


def _together(blocks: list[Pixels], cuts: list[Cut], *, always: bool) -> tuple[Pixels, list[Cut]]:
    """Blocks of several cuts in one picture, each cut on its part of it."""
    if len(blocks) == 1 and not (always and not cuts[0].pieces):
        return blocks[0], [replace(cuts[0], region=None)]
    places, (width, height) = shelved([(block.shape[1], block.shape[0]) for block in blocks])
    if not width or not height:
        raise BadRequest("This sheet has no tiles to pack; cut it first.")
    if max(width, height) > LARGEST_SIDE or width * height > MOST_PIXELS:
        raise BadRequest(f"The sheet would be {width} x {height} pixels, which is too large; give smaller gaps.")
    pixels = np.zeros((height, width, 4), dtype=np.uint8)
    placed = []
    for block, cut, place in zip(blocks, cuts, places, strict=True):
        pixels[place.y : place.y + place.height, place.x : place.x + place.width] = block
        pieces = tuple(piece._replace(x=piece.x + place.x, y=piece.y + place.y) for piece in cut.pieces)
        placed.append(replace(cut, region=place, pieces=pieces))
    return pixels, placed


def _to_powers_of_two(pixels: Pixels) -> Pixels:
    height, width = (1 << (side - 1).bit_length() for side in pixels.shape[:2])
    if max(width, height) > LARGEST_SIDE or width * height > MOST_PIXELS:
        raise BadRequest(f"The sheet would be {width} x {height} pixels, which is too large; give smaller gaps.")
    result = np.zeros((height, width, 4), dtype=np.uint8)
    result[: pixels.shape[0], : pixels.shape[1]] = pixels
    return result
