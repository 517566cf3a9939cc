"""What of a tile's picture blocks where all of it does: the cell that it stands on, not what rises above that."""

from knitground.core.grid import GRIDS, Outline
from knitground.core.sheet.cut import Cut, stands_at


def border_of(cell: tuple[int, int], outline: Outline) -> list[tuple[float, float]]:
    """The corners of a cell of a width and height, x and y in pixels from the upper left of its box."""
    kind = next(kind for kind in GRIDS.values() if kind.outline == outline)
    return [(float(x), float(y)) for x, y in kind.projection(kind.board(1, 1), *cell).outline(0, 0, 1, 1)]


def whole_of(cut: Cut, size: tuple[int, int], cell: tuple[int, int], outline: Outline) -> list[tuple[float, float]]:
    """The cell that a tile stands on, in the pixels of its picture.

    Parameters
    ----------
    cut : Cut
        That of the tile; it says how it stands.
    size, cell : (int, int)
        Width and height of the tile and of the cell in pixels.
    outline : Outline
        Of the cell.

    Returns
    -------
    corners : list of (float, float)
        x and y from the upper left of the picture. A tile that does not cover its cell is a thing that stands
        somewhere on it: its own lowest part then, as high as a cell at most.
    """
    (wide, high), (left, top) = size, stands_at(cut, size, cell)
    if left <= 0 <= left + wide - cell[0] and top <= 0 <= top + high - cell[1]:
        return [(x - left, y - top) for x, y in border_of(cell, outline)]
    low = max(0, high - cell[1])
    return [(0.0, float(low)), (float(wide), float(low)), (float(wide), float(high)), (0.0, float(high))]
