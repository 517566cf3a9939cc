"""Selecting cells of a ground: boxes, lassos, all that is alike, wider, narrower, all others."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.painting import Hand, Spot, area_shapes, region_shapes
from knitground.core.errors import BadRequest
from knitground.core.grid.board import ROUND, Board, On
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape, cropped
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer, Planes
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.derived import Derived
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.tile import NUMBER_MASK

NOTHING = Shape(CellRect(0, 0, 0, 0), np.zeros((0, 0), dtype=bool))
_CELLS = TileLayer("cells", "cells")


@dataclass(frozen=True, eq=False)
class Selected:
    """Cells of a ground that are selected."""

    ground: str
    shape: Shape

    @property
    def count(self) -> int:
        """How many they are."""
        return int(self.shape.mask.sum())


def boxed(board: Board, start: Spot, end: Spot) -> Shape:
    """The cells between two places."""
    return _union(board, [one.shapes[_CELLS.area_plane] for one in area_shapes(board, _CELLS, Hand(), start, end)])


def lassoed(board: Board, way: Sequence[Spot]) -> Shape:
    """The cells whose middles lie inside a closed line, by the even-odd rule.

    Parameters
    ----------
    way : sequence of flat places
        Its corners.
    """
    if len(way) < 3:
        return boxed(board, way[0], way[-1]) if way else NOTHING
    return board.round_about(way)


def alike(ground: Ground, layer: Layer, planes: Planes, hand: Hand, at: Spot, *, everywhere: bool) -> Shape:
    """The cells that hold what was painted at a place of a layer: those that hang together with it, or all.

    Raises
    ------
    BadRequest
        If nothing was ever painted on the layer itself.
    """
    if layer.area_plane not in planes:
        raise BadRequest(
            f"Nothing is painted on “{layer.name}” itself; select by a box or a lasso, or what shares a tag."
        )
    shapes = region_shapes(ground.board, layer, planes, replace(hand, alike=everywhere), at)
    return _union(
        ground.board, [_cells_at(ground.board, layer.specs[name].on, shape) for name, shape in shapes.items()]
    )


def tagged(derived: Derived, ground_id: str, layer_id: str, at: Spot) -> Shape:
    """The cells of a layer whose tiles share a tag with the one at a place, laid or derived.

    Raises
    ------
    BadRequest
        If no tile lies there, or it has no tag.
    """
    document = derived.document
    ground = by_id(document.project.grounds, ground_id)
    layer, cell = ground.layer(layer_id), ground.board.cell_at(*at)
    if not (layer.holds_tiles or layer.knits):
        raise BadRequest(f"“{layer.name}” holds no tiles, so there are no tags; choose another layer.")
    codes = np.maximum(derived.knitted(ground_id).codes(layer_id, ground.board.whole), 0) & NUMBER_MASK

    def tags(number: int) -> frozenset[str]:
        ref = document.palette.ref(number) if number else None
        return frozenset() if ref is None else frozenset(document.project.tiles.get(ref, PLAIN).tags)

    wanted = frozenset[str]() if cell is None else tags(int(codes[cell]))
    if not wanted:
        raise BadRequest("No tile with a tag lies there; tags are given in the Sheet stage, under Tiles.")
    alike = [number for number in np.unique(codes).tolist() if tags(number) & wanted]
    return _of(ground.board, np.isin(codes, alike))


def added(board: Board, one: Shape, other: Shape) -> Shape:
    """The cells of either."""
    return _union(board, [one, other])


def without(board: Board, one: Shape, other: Shape) -> Shape:
    """The cells of one that are not among those of another."""
    return _of(board, _mask(board, one) & ~_mask(board, other))


def shifted(board: Board, shape: Shape, by: tuple[int, int]) -> Shape:
    """The cells that lie some flat rows and columns further; off the ground there are none."""
    ys, xs, inside = board.flat_window(shape.window)
    rows, columns = board.stored("cells", *np.broadcast_arrays(ys[:, None], xs))
    inside[inside] = shape.mask[rows[inside] - shape.window.top, columns[inside] - shape.window.left]
    at = int(ys[0]) + by[0], int(xs[0]) + by[1]
    return cropped(board.from_flat("cells", at, inside, inside)[0])


def inverted(board: Board, shape: Shape) -> Shape:
    """All other cells."""
    return _of(board, ~_mask(board, shape))


def grown(board: Board, shape: Shape, steps: int) -> Shape:
    """The cells and those round them; with a negative number only those whose neighbours are all selected."""
    mask = _mask(board, shape) ^ (steps < 0)
    for _ in range(abs(steps)):
        mask = board.wider(mask)
    return _of(board, mask ^ (steps < 0))


def _cells_at(board: Board, on: On, shape: Shape) -> Shape:
    """The cells of which all corners are covered, or some edge, or they themselves."""
    if on == "cells":
        return shape
    covered = np.zeros(board.shape(on), dtype=bool)
    covered[shape.window.rows, shape.window.columns] = shape.mask
    places = np.stack(board.around(covered, on, ROUND[on], board.whole))
    return _of(board, np.asarray(places.all(axis=0) if on == "corners" else places.any(axis=0)))


def _mask(board: Board, shape: Shape) -> NDArray[np.bool_]:
    found = np.zeros((board.height, board.width), dtype=bool)
    if not shape.window.is_empty:
        found[shape.window.rows, shape.window.columns] = shape.mask
    return found


def _of(board: Board, mask: NDArray[np.bool_]) -> Shape:
    return cropped(Shape(board.whole, mask))


def _union(board: Board, shapes: Sequence[Shape]) -> Shape:
    mask = np.zeros((board.height, board.width), dtype=bool)
    for shape in shapes:
        if not shape.window.is_empty:
            mask[shape.window.rows, shape.window.columns] |= shape.mask
    return _of(board, mask)
