"""Pictures of what stitches lay."""

import numpy as np
from numpy.typing import NDArray

from knitground.app.session import Session
from knitground.core.stitches.rules import Piece
from knitground.core.tiles.tile import orient


def picture_of(session: Session, piece: Piece) -> NDArray[np.uint8] | None:
    """What a piece lays; of a mix, the tile that comes most often; None where that is nothing.

    Returns
    -------
    pixels : (H, W, 4) uint8
        Straight alpha.
    """
    cells = piece.cells
    if piece.mix:
        mix = next((one for one in session.document.project.mixes if one.id == piece.mix), None)
        parts = sorted(mix.parts, key=lambda part: -part.weight) if mix else []
        tile = next((part.tile for part in parts if part.tile is not None), None)
        cells = dict.fromkeys(cells, (tile, piece.orientation))
    drawn = {}
    for step, (ref, orientation) in cells.items():
        pixels = session.derived.tile(ref) if ref is not None else None
        if pixels is not None:
            drawn[step] = orient(np.asarray(pixels), orientation)
    if not drawn:
        return None
    top, left = min(y for y, _ in cells), min(x for _, x in cells)
    high, wide = max(p.shape[0] for p in drawn.values()), max(p.shape[1] for p in drawn.values())
    rows, columns = max(y for y, _ in cells) - top + 1, max(x for _, x in cells) - left + 1
    picture = np.zeros((rows * high, columns * wide, 4), dtype=np.uint8)
    for (y, x), pixels in drawn.items():
        # Sprites that are smaller than others stand on the lower border of their cell.
        at = (y - top + 1) * high - pixels.shape[0], (x - left) * wide
        picture[at[0] : at[0] + pixels.shape[0], at[1] : at[1] + pixels.shape[1]] = pixels
    return picture


def told(session: Session, piece: Piece) -> str:
    """What a piece lays, in words."""
    if piece.mix:
        name = next((one.name for one in session.document.project.mixes if one.id == piece.mix), piece.mix)
        return f"mix {name}"
    if piece.rows:
        return f"block {len(piece.rows[0].split())} x {len(piece.rows)}"
    return session.derived.called(piece.tile) if piece.tile else "clears"
