"""What kinds of layers share in laying: pins over tiles, bare cells, what is painted on a cell as bits."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grid.board import ROUND, Board
from knitground.core.grid.live import LivePlane
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.layers.layer import PINS, Follows, Laid, Layer, Others, Place, Planes
from knitground.core.layers.source import Source


def painted_bits(layer: Layer, board: Board, planes: Planes, rect: CellRect) -> NDArray[np.uint64]:
    """What is painted on the places of each cell of a rectangle, as a bit for each number, the lowest for none.

    Parameters
    ----------
    layer : Layer
    board : Board
    planes : mapping of name to Plane
    rect : CellRect
        Inside the ground.

    Returns
    -------
    bits : (height, width) uint64
        0 on layers on which nothing is painted in numbers.
    """
    found = np.zeros((rect.height, rect.width), dtype=np.uint64)
    for name, spec in layer.specs.items():
        if not spec.codes and name in planes:
            for part in board.around(planes[name], spec.on, ROUND[spec.on], rect):
                found |= np.uint64(1) << part.astype(np.uint64)
    return found


def pinned_over(laid: Laid, planes: Planes, rect: CellRect) -> Laid:
    """Tiles with pins laid over them; what is pinned is as it should be."""
    if PINS not in planes:
        return laid
    pins = planes[PINS].read(rect)
    held = pins != 0
    return laid._replace(codes=np.where(held, pins, laid.codes), unmet=np.where(held, 0, laid.unmet).astype(np.uint8))


def is_pinned(place: Place) -> bool:
    """Whether the tile of a cell is held by hand."""
    return PINS in place.planes and bool(place.planes[PINS][place.row, place.column])


def pin_said(place: Place, source: Source) -> str:
    """Why a tile lies where it is held by hand."""
    return f"{source.tile_name(place.code)}, pinned by hand"


def pinned(layer: Layer, planes: Planes, board: Board, shape: Shape, codes: NDArray[np.int32] | int) -> Plane | None:
    """The plane of pins with tiles held in some cells; None where nothing changes. Code 0 takes pins out.

    Parameters
    ----------
    layer : Layer
        One that can be pinned.
    planes : mapping of name to Plane
    board : Board
    shape : Shape
    codes : (H, W) int32, or int
        As large as the shape's rectangle; or one for all.
    """
    if not layer.pinnable:
        raise BadRequest(f"“{layer.name}” holds single tiles: there is nothing to pin.")
    before = planes.get(PINS)
    if before is None and isinstance(codes, int) and codes == 0:
        return None
    pins = before or Plane.full(board.shape("cells"), np.int32)
    old = pins.read(shape.window)
    after = pins.written(shape.window, np.where(shape.mask, codes, old))
    return None if after is before else after


def seen_live(others: Others, follows: Follows) -> LivePlane:
    """What another layer reads of one that it follows: the codes of its tiles, or what is painted on it as bits."""
    shape = others.board.shape("cells")

    def codes(rect: CellRect) -> NDArray[np.int32]:
        """The tiles of a rectangle.

        Parameters
        ----------
        rect : CellRect

        Returns
        -------
        codes : (height, width) int32
        """
        return others.laid(follows.layer, rect).codes

    def bits(rect: CellRect) -> NDArray[np.uint64]:
        """What is painted on a rectangle.

        Parameters
        ----------
        rect : CellRect

        Returns
        -------
        bits : (height, width) uint64
        """
        layer = others.layer(follows.layer)
        return painted_bits(layer, others.board, others.planes_of(follows.layer), rect)

    return LivePlane(shape, np.int32, codes) if follows.tiles else LivePlane(shape, np.uint64, bits)
