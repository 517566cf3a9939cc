"""Other frames for a ground: cropped, grown on any side, or shifted so that what leaves comes in at the other side."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.bordering import with_shared
from knitground.core.edits.grounds import check_board, check_size
from knitground.core.errors import BadRequest
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.by_hand import is_hand, with_hands
from knitground.core.project.document import Document
from knitground.core.project.model import replaced


def framed(ground: Ground, width: int, height: int, across: float, down: float) -> CellRect:
    """The frame of another size that keeps a side, a corner or the middle of a ground where it is.

    Parameters
    ----------
    across, down : float
        What stays: 0 the left or upper side, 0.5 the middle, 1 the right or lower side.
    """
    top, left = round((ground.height - height) * down), round((ground.width - width) * across)
    # Where every other row or column is half a cell further, the ground moves by two.
    rows, columns = ground.board.stagger
    return CellRect(top - top % rows, left - left % columns, height, width)


def crop_ground(document: Document, ground_id: str, rect: CellRect) -> None:
    """Leaves only a rectangle of a ground's cells, with all that is painted there; raises as `reframe_ground`."""
    ground = by_id(document.project.grounds, ground_id)
    reframe_ground(document, ground_id, ground.board.clip(rect), "crop ground")


def reframe_ground(document: Document, ground_id: str, rect: CellRect, label: str = "resize ground") -> None:
    """Lets a ground begin and end elsewhere; what is new lies bare or goes on as at the border.

    Parameters
    ----------
    rect : CellRect
        The new frame in rows and columns of the old one; it may reach beyond on any side.

    Raises
    ------
    BadRequest
        If the frame holds no cell or too many, or the ground could not be as it is in it.
    """
    check_size(rect.width, rect.height)
    project = document.project
    ground = by_id(project.grounds, ground_id)
    changed = replace(ground, width=rect.width, height=rect.height)
    check_board(changed)
    rows, columns = ground.board.stagger
    if rect.top % rows or rect.left % columns:
        lines, further = ("row", "a row higher") if rect.top % rows else ("column", "a column further left")
        raise BadRequest(f"Every other {lines} of this ground is half a cell further; begin the selection {further}.")
    (x, y), (was_x, was_y) = changed.projection.corner(0, 0), ground.projection.corner(rect.top, rect.left)
    changed = replace(changed, layers=tuple(layer.moved(x - was_x, y - was_y) for layer in changed.layers))
    planes = {
        name: _framed(layer, held, changed.board, rect, {} if is_hand(name) else layer.blank(changed.board, project))
        for layer, name, held in with_hands(ground.layers, document.state.planes[ground_id])
    }
    grounds = replaced(project.grounds, changed)
    document.define(
        label,
        replace(project, grounds=grounds),
        planes=with_shared(grounds, ground_id, {**document.state.planes, ground_id: planes}),
    )


def lost_places(document: Document, ground_id: str, rect: CellRect) -> int:
    """How many painted places of all layers, and things, lie outside a frame."""
    ground = by_id(document.project.grounds, ground_id)
    lost = 0
    for layer in ground.layers:
        planes = document.state.planes[ground_id][layer.id]
        bare = layer.erased(document.project)
        for name, plane in planes.items():
            spec = layer.specs[name]
            left = bare if spec.goes_on else 0
            window = CellRect(rect.top, rect.left, *_size_in(ground, rect, layer, name)).inside(
                CellRect(0, 0, *plane.shape)
            )
            inside = 0 if window.is_empty else int((plane.read(window) != left).sum())
            lost += int((np.asarray(plane) != left).sum()) - inside
    return lost


def shift_ground(document: Document, ground_id: str, down: int, across: int) -> None:
    """Moves all that lies on a ground so many rows down and columns across; what leaves comes in at the other side.

    Raises
    ------
    BadRequest
        Where rows or columns do not lie in line, and it is an odd number of them.
    """
    project = document.project
    ground = by_id(project.grounds, ground_id)
    rows, columns = ground.board.stagger
    if ground.grid == "staggered":
        raise BadRequest("A ground of staggered rows can't be shifted; select all of it and move that instead.")
    if down % rows or across % columns:
        raise BadRequest("Every other row or column of this ground is half a cell further; shift it by an even number.")
    planes = {
        key: {
            name: Plane.of(_rolled(np.asarray(plane), (down, across), ground.board.shape("cells")))
            for name, plane in held.items()
        }
        for _, key, held in with_hands(ground.layers, document.state.planes[ground_id])
    }
    layers = tuple(layer.round_moved(ground.projection, down, across) for layer in ground.layers)
    document.define(
        "shift ground",
        replace(project, grounds=replaced(project.grounds, replace(ground, layers=layers))),
        planes={**document.state.planes, ground_id: planes},
    )


def _framed(layer: Layer, planes: Planes, board: Board, rect: CellRect, blank: Mapping[str, Plane]) -> dict[str, Plane]:
    """A layer's planes in another frame, laid over others as they are where nothing is painted."""
    kept = dict(blank)
    for name, plane in planes.items():
        spec, (height, width) = layer.specs[name], board.shape(layer.specs[name].on)
        inner = CellRect(rect.top, rect.left, height, width).inside(CellRect(0, 0, *plane.shape))
        if inner.is_empty:
            kept.setdefault(name, Plane.full((height, width), spec.dtype))
            continue
        top, left = inner.top - rect.top, inner.left - rect.left
        pad = ((top, height - top - inner.height), (left, width - left - inner.width))
        kept[name] = Plane.of(np.pad(plane.read(inner), pad, mode="edge" if spec.goes_on else "constant"))
    return kept


def _size_in(ground: Ground, rect: CellRect, layer: Layer, name: str) -> tuple[int, int]:
    """How many places of a plane lie in a frame."""
    return replace(ground, width=rect.width, height=rect.height).board.shape(layer.specs[name].on)


def _rolled(array: NDArray[Any], by: tuple[int, int], cells: tuple[int, int]) -> NDArray[Any]:
    """An array moved round; where it has one row or column more than there are cells, the first stands there again."""
    moved = np.roll(array[: cells[0], : cells[1]], by, axis=(0, 1))
    return np.pad(moved, [(0, array.shape[axis] - cells[axis]) for axis in (0, 1)], mode="wrap")
