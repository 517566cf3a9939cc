"""Blocks as text for the clipboard: JSON that names tiles, so that other projects with the same sheets can take it."""

import json
from collections.abc import Collection
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from knitground.core.edits.blocks import Block, Piece, size_on
from knitground.core.errors import BadRequest
from knitground.core.grid.board import On
from knitground.core.ground.swatch import Clip, ClipPiece, ClipPlane, tile_word
from knitground.core.project.model import Palette
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef

_NOT_A_BLOCK = "The clipboard holds no block of a ground; select cells and copy them first."
_FORMAT, _VERSION = "knitground block", 1
_CLIP = TypeAdapter(Clip)


def as_text(block: Block, palette: Palette) -> str:
    """A block as JSON: a row of cells on each line, a dash where nothing belongs to it, tiles by their names."""
    held = _CLIP.dump_python(clip_of(block, palette), mode="json")
    return json.dumps({"format": _FORMAT, "version": _VERSION, **held}, indent=1)


def from_text(text: str, palette: Palette, sheets: Collection[str]) -> Block:
    """The block that a text holds.

    Parameters
    ----------
    text : str
    palette : Palette
    sheets : collection of str
        The sheets that there are.

    Raises
    ------
    BadRequest
        If it holds none, or tiles of a sheet that there is not.
    """
    try:
        held = json.loads(text)
        if not isinstance(held, dict) or (held.pop("format", ""), held.pop("version", 0)) != (_FORMAT, _VERSION):
            raise ValueError
        return block_of(_CLIP.validate_python(held), palette, sheets)
    except (ValidationError, ValueError, IndexError, OverflowError, RecursionError):
        raise BadRequest(_NOT_A_BLOCK) from None


def clip_of(block: Block, palette: Palette) -> Clip:
    """A block as it is written, tiles by their names."""
    tiles: dict[TileRef, int] = {}

    def word(value: int, there: bool, codes: bool) -> str:
        if not there:
            return "-"
        if not codes or value <= 0:
            return str(max(value, 0))
        number = tiles.setdefault(palette.ref(value & NUMBER_MASK), len(tiles) + 1)
        turn = value >> ORIENTATION_SHIFT
        return f"{number}.{turn}" if turn else str(number)

    def plane(on: On, values: NDArray[Any], there: NDArray[np.bool_]) -> ClipPlane:
        """A plane as lines of words.

        Parameters
        ----------
        on : On
        values : (h, w) int32 for cell codes, or uint8
        there : (h, w) bool
        """
        codes = values.dtype == np.int32
        rows = zip(values.tolist(), there.tolist(), strict=True)
        lines = (" ".join(word(v, t, codes) for v, t in zip(*row, strict=True)) for row in rows)
        return ClipPlane(on=on, codes=codes, rows=tuple(lines))

    pieces = tuple(
        ClipPiece(layer=piece.layer, planes={name: plane(*held) for name, held in piece.planes.items()})
        for piece in block.pieces
    )
    cells = tuple("".join("x" if one else "-" for one in row) for row in block.cells.tolist())
    return Clip(cells, tuple(tiles), pieces, block.things)


def block_of(clip: Clip, palette: Palette, sheets: Collection[str]) -> Block:
    """The block that was written so; raises as `from_text`, and ValueError where it does not fit together."""
    cells = np.array([[one == "x" for one in row] for row in clip.cells], dtype=bool)
    if cells.ndim != 2 or not cells.any():
        raise ValueError(cells.shape)
    shown = {one.thing.tile.sheet for one in clip.things if one.thing.tile is not None}
    unknown = sorted(({ref.sheet for ref in clip.tiles} | shown) - set(sheets))
    if unknown:
        raise BadRequest(f"The block has tiles of the sheet “{unknown[0]}”; add that sheet to this project first.")
    codes = [0, *(palette.code(ref) for ref in clip.tiles)]
    pieces = [
        Piece(piece.layer, {name: _plane(held, codes, cells.shape) for name, held in piece.planes.items()})
        for piece in clip.pieces
    ]
    return Block(cells, tuple(pieces), clip.things)


def _plane(held: ClipPlane, codes: list[int], cells: tuple[int, ...]) -> tuple[On, NDArray[Any], NDArray[np.bool_]]:
    words = [line.split(" ") for line in held.rows]
    if (len(words), *{len(line) for line in words}) != size_on(held.on, (cells[0], cells[1])):
        raise ValueError(held.on)
    there = np.array([[word != "-" for word in line] for line in words], dtype=bool)
    values = np.array([[_value(word, codes if held.codes else None) for word in line] for line in words])
    return held.on, values.astype(np.int32 if held.codes else np.uint8), there


def _value(word: str, codes: list[int] | None) -> int:
    if word == "-":
        return 0
    if codes is None:
        value = int(word)
        if not 0 <= value <= 255:
            raise ValueError(word)
        return value
    number, turned = tile_word(word)
    return codes[number] | (turned << ORIENTATION_SHIFT if number else 0)
