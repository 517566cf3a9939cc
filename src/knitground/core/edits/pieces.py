"""Blocks for stitches, off the sheet or off a ground."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from knitground.core.edits.block_tiles import side_by_side
from knitground.core.edits.selecting import Selected
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.stitches.compiled import turned_piece
from knitground.core.stitches.rules import LARGEST_BLOCK, Piece, Stitch
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef


def block_of_refs(refs: Sequence[TileRef], piece: Piece) -> Piece:
    """A piece of tiles as they lie on their sheet, laid where another piece was.

    Raises
    ------
    BadRequest
        If it would be too large.
    """
    cells = {place: (ref, 0) for place, ref in side_by_side(refs).items()}
    return replace(_written(cells), onto=piece.onto, down=piece.down, across=piece.across)


def block_of_selection(derived: Derived, selected: Selected | None, layer_id: str) -> Piece:
    """A piece of the tiles that lie in the selected cells of a layer.

    Raises
    ------
    BadRequest
        If nothing is selected, or nothing lies there, or too much.
    """
    if selected is None:
        raise BadRequest("Select cells on the ground first (S), on the layer whose tiles are to be laid.")
    knitted = derived.knitted(selected.ground)
    window = selected.shape.window
    codes = np.where(selected.shape.mask, np.maximum(knitted.codes(layer_id, window), 0), 0)
    palette = derived.document.palette
    cells = {
        (row, column): (
            palette.ref(int(codes[row, column]) & NUMBER_MASK),
            int(codes[row, column]) >> ORIENTATION_SHIFT,
        )
        for row, column in np.argwhere(codes > 0).tolist()
    }
    if not cells:
        raise BadRequest(f"No tile lies in the selected cells of “{knitted.ground.layer(layer_id).name}”.")
    return _written(cells)


def pieces_in(stitch: Stitch, orientation: int) -> tuple[Piece, ...]:
    """What a stitch lays in an orientation: what is named for it, or else its pieces turned."""
    if orientation == 0:
        return stitch.pieces
    named = stitch.forms.get(orientation)
    return named if named is not None else tuple(_turned(one, orientation, stitch.as_drawn) for one in stitch.pieces)


def with_pieces_in(stitch: Stitch, orientation: int, pieces: tuple[Piece, ...] | None) -> Stitch:
    """The stitch with other pieces in an orientation; None lets it lay its own there, turned."""
    if orientation == 0:
        return replace(stitch, pieces=pieces or ())
    forms = {key: some for key, some in stitch.forms.items() if key != orientation}
    return replace(stitch, forms=forms if pieces is None else {**forms, orientation: pieces})


def _turned(piece: Piece, orientation: int, as_drawn: bool) -> Piece:
    cells = turned_piece(piece, orientation, as_drawn)
    if piece.rows:
        held = {step: (ref, own) for step, (ref, own) in cells.items() if ref is not None}
        made = _written(held)
        return replace(made, onto=piece.onto, down=min(y for y, _ in held), across=min(x for _, x in held))
    (((down, across), (ref, own)),) = cells.items()
    return replace(piece, tile=ref, orientation=own, down=down, across=across)


def _written(cells: dict[tuple[int, int], tuple[TileRef, int]]) -> Piece:
    top, left = min(row for row, _ in cells), min(column for _, column in cells)
    height, width = max(row for row, _ in cells) - top + 1, max(column for _, column in cells) - left + 1
    if max(height, width) > LARGEST_BLOCK:
        raise BadRequest(f"A block of a stitch is at most {LARGEST_BLOCK} x {LARGEST_BLOCK} cells; take fewer.")
    tiles = tuple(dict.fromkeys(ref for ref, _ in cells.values()))
    if len(cells) == 1:
        ((ref, orientation),) = cells.values()
        return Piece(ref, orientation)

    def word(row: int, column: int) -> str:
        held = cells.get((row + top, column + left))
        if held is None:
            return "-"
        return f"{tiles.index(held[0]) + 1}" + (f".{held[1]}" if held[1] else "")

    return Piece(
        tiles=tiles, rows=tuple(" ".join(word(row, column) for column in range(width)) for row in range(height))
    )
