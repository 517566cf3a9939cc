"""Blocks that are taken off a sheet instead of a ground."""

from collections.abc import Collection, Iterable
from itertools import groupby

import numpy as np

from knitground.core.edits.blocks import Block, Piece, taking
from knitground.core.edits.layers import tile_layer
from knitground.core.ground.ground import by_id
from knitground.core.layers.tiles import CELLS
from knitground.core.project.document import Document
from knitground.core.project.model import Palette
from knitground.core.tiles.tile import NUMBER_MASK, TileRef


def block_of_tiles(refs: Collection[TileRef], palette: Palette, name: str = CELLS) -> Block:
    """Tiles as a block, arranged as they are on their sheet; cells of no tile between them stay bare.

    Those of several cuts, single images above all, come one beside the other by the names of these.

    Parameters
    ----------
    refs : collection of TileRef
        At least one.
    palette : Palette
    name : str
        The plane of a layer that takes them.
    """
    placed = side_by_side(refs)
    rows, columns = np.array(list(placed), dtype=np.intp).T
    cells = np.zeros((rows.max() + 1, columns.max() + 1), dtype=bool)
    codes = np.zeros(cells.shape, dtype=np.int32)
    cells[rows, columns] = True
    codes[rows, columns] = [palette.code(ref) for ref in placed.values()]
    return Block(cells, (Piece("", {name: ("cells", codes, cells)}),))


def is_off_a_sheet(block: Block) -> bool:
    """Whether a block is one of tiles that were taken off a sheet."""
    return bool(block.pieces) and not any(piece.layer for piece in block.pieces)


def layer_for(document: Document, ground_id: str, block: Block, layer_id: str) -> str:
    """The layer that a block is laid on: that at hand; for tiles that it can't hold, the uppermost layer of such.

    Where there is none one is made.
    """
    ground = by_id(document.project.grounds, ground_id)
    if not is_off_a_sheet(block) or all(taking(ground, piece, layer_id) for piece in block.pieces):
        return layer_id
    return tile_layer(document, ground_id)


def side_by_side(refs: Iterable[TileRef]) -> dict[tuple[int, int], TileRef]:
    """The row and column of each tile in a block of them, from 0; cut after cut, and row after row."""
    placed: dict[tuple[int, int], TileRef] = {}
    begins = 0
    for _, group in groupby(sorted(refs), key=lambda ref: ref[:2]):
        mine = sorted(group, key=lambda ref: (ref.row, ref.column))
        top, left = mine[0].row, min(ref.column for ref in mine)
        placed |= {(ref.row - top, ref.column - left + begins): ref for ref in mine}
        begins += max(ref.column for ref in mine) - left + 1
    return placed


def tiles_of_block(block: Block, palette: Palette) -> set[TileRef]:
    """The tiles of a block that was taken off a sheet, however they are turned; none of one off a ground."""
    planes = [plane for piece in block.pieces if not piece.layer for plane in piece.planes.values()]
    numbers = {int(code) & NUMBER_MASK for _, codes, there in planes for code in np.unique(codes[there])}
    return {palette.ref(number) for number in numbers if number}
