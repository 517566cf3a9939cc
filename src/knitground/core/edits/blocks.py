"""Blocks: pieces of a ground of any shape, lifted off some layers, to be laid again elsewhere.

A block holds what was painted, not the tiles that came of it, so that joins heal where it is laid and where it was.
It is kept in flat places (see `knitground.core.grid`): planes on corners and edges hold what lies round its cells.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.block_things import lifted_things, things_laid, turned_things, with_moved
from knitground.core.edits.painting import check_unlocked, patched
from knitground.core.edits.pattern import Pattern
from knitground.core.edits.placing import place, standing_in
from knitground.core.edits.turned_forms import TurnedForms
from knitground.core.errors import BadRequest
from knitground.core.grid.board import Board, On
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape, cropped
from knitground.core.ground.ground import Ground, by_id
from knitground.core.ground.swatch import ClipThing
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.document import Document
from knitground.core.project.model import Project
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, turned_further

Mask = NDArray[np.bool_]
_FURTHER: Mapping[On, tuple[int, int]] = {"cells": (0, 0), "corners": (1, 1), "across": (1, 0), "along": (0, 1)}
"""How many more rows and columns of places there are than cells."""
_SEEN_ROUND = 16
"""How far beyond what is seen a move is worked out: farther than joins reach."""


@dataclass(frozen=True, eq=False)
class Piece:
    """What a block holds of one layer: values and which of them count, by plane; (h, w) or one row or column more."""

    layer: str
    planes: Mapping[str, tuple[On, NDArray[Any], Mask]]


@dataclass(frozen=True, eq=False)
class Block:
    """Cells of a ground with what lies there.

    Attributes
    ----------
    cells : (h, w) bool
        Which flat cells belong to it.
    pieces : tuple of Piece
        The lowest layer first.
    things : tuple of ClipThing
        What stands in its cells.
    """

    cells: Mask
    pieces: tuple[Piece, ...]
    things: tuple[ClipThing, ...] = ()


def lift(
    ground: Ground, planes: Mapping[str, Planes], layers: Iterable[str], shape: Shape
) -> tuple[Block, tuple[int, int]]:
    """What lies in some cells on some layers, and the flat place of the block's first row and column.

    Parameters
    ----------
    ground : Ground
    planes : mapping of layer id to planes
    layers : iterable of str
    shape : Shape
        Stored cells.

    Raises
    ------
    BadRequest
        If no cell is selected.
    """
    _check_any(shape)
    board = ground.board
    ys, xs, inside = board.flat_window(shape.window)
    if inside.all() and board.stagger == (1, 1) and inside.shape == shape.mask.shape:
        mine = shape.mask  # rows and columns are what they are stored as; looking each cell up would be felt
    else:
        rows, columns = board.stored("cells", *np.broadcast_arrays(ys[:, None], xs))
        mine = np.zeros(inside.shape, dtype=bool)
        mine[inside] = shape.mask[rows[inside] - shape.window.top, columns[inside] - shape.window.left]
    # A rectangle of rows and columns may reach farther in flat places than what is lifted.
    window, mine = cropped(Shape(CellRect(0, 0, len(ys), len(xs)), mine))
    ys, xs = ys[window.rows], xs[window.columns]
    wanted = set(layers)
    pieces = [
        _lifted(board, layer, planes[layer.id], ys, xs, mine)
        for layer in ground.layers
        if layer.id in wanted and layer.specs
    ]
    at = int(ys[0]), int(xs[0])
    return Block(mine, tuple(pieces), lifted_things(ground, wanted, shape, at)), at


def lay(
    ground: Ground, planes: Mapping[str, Planes], block: Block, at: tuple[int, int], onto: str | None = None
) -> dict[str, dict[str, Plane]]:
    """The planes that laying a block changes, by layer.

    Bare cells of tile layers cover nothing.

    Parameters
    ----------
    at : (int, int)
        Flat place of the block's first row and column.
    onto : str, optional
        The layer that takes a block of one piece; if not given, each piece goes to the layer that it was lifted off.

    Raises
    ------
    BadRequest
        If no layer of the ground can take it.
    """
    found: dict[str, dict[str, Plane]] = {}
    for piece in block.pieces:
        layer = taking(ground, piece, onto if len(block.pieces) == 1 else None)
        if layer is None:
            continue
        check_unlocked(layer)
        before = {**planes[layer.id], **found.get(layer.id, {})}
        found[layer.id] = found.get(layer.id, {}) | _laid(ground, layer, before, piece, at)
    if not found and not things_laid(ground, block.things, at):
        raise BadRequest(
            "No layer of this ground can take the block; choose a layer of the kind that it was lifted off."
        )
    return found


def lay_known(
    project: Project,
    ground: Ground,
    planes: Mapping[str, Planes],
    block: Block,
    at: tuple[int, int],
    onto: str | None = None,
) -> dict[str, dict[str, Plane]]:
    """The planes that laying a block changes, as `lay`; raises BadRequest too where a layer lacks what it holds."""
    changed = lay(ground, planes, block, at, onto)
    for layer_id, after in changed.items():
        layer, before = ground.layer(layer_id), planes[layer_id]
        most = len(layer.terrains(project))
        for name, plane in after.items():
            if name in before and not layer.specs[name].codes:
                parts = [change.after for change in plane.changes_from(before[name])]
                if any(int(part.max()) > most for part in parts if part.size):
                    raise BadRequest(f"The block holds terrains that “{layer.name}” lacks; lay it on another layer.")
    return changed


def cleared(
    project: Project, ground: Ground, planes: Mapping[str, Planes], layers: Iterable[str], shape: Shape
) -> dict[str, dict[str, Plane]]:
    """The planes that emptying some cells changes, by layer; raises BadRequest if there is no cell."""
    _check_any(shape)
    wanted, found = set(layers), {}
    for layer in ground.layers:
        if layer.id in wanted and layer.specs:
            specs = {name: layer.specs[name] for name in planes[layer.id]}
            patches = {
                name: (ground.board.round_cells(spec.on, shape), 0 if spec.codes else layer.erased(project))
                for name, spec in specs.items()
            }
            found[layer.id] = patched(planes[layer.id], patches)
    return found


def _check_any(shape: Shape) -> None:
    if shape.window.is_empty or not shape.mask.any():
        raise BadRequest("No cell is selected; drag over the ground with Select first.")


class Move:
    """Some cells on their way elsewhere: lifted and emptied once, laid wherever they are wanted."""

    def __init__(
        self, project: Project, ground: Ground, planes: Mapping[str, Planes], layers: Iterable[str], shape: Shape
    ) -> None:
        layers = list(layers)
        self._ground = ground
        self._block, self._at = lift(ground, planes, layers, shape)
        self._emptied = cleared(project, ground, planes, layers, shape)
        self._between = {name: {**planes[name], **self._emptied.get(name, {})} for name in planes}
        self._things = {name: standing_in(ground, ground.layer(name), shape) for name in layers}

    def ground_after(self, by: tuple[int, int]) -> Ground:
        """The ground with what stands in the cells moved along, to be looked at."""
        return with_moved(self._ground, self._things, by)

    def to(self, by: tuple[int, int], within: CellRect | None = None) -> dict[str, dict[str, Plane]]:
        """The planes that change if the cells are laid some flat rows and columns further.

        Parameters
        ----------
        by : (int, int)
        within : CellRect, optional
            Stored cells; what would lie farther off may be left out.
        """
        at = self._at[0] + by[0], self._at[1] + by[1]
        block = self._block
        if within is not None and not (self._ground.wraps_x or self._ground.wraps_y):
            block, at = _part_of(block, at, self._ground.board.flat_bounds(within).grown(_SEEN_ROUND))
        laid = lay(self._ground, self._between, block, at) if block.cells.size else {}
        return {name: self._emptied.get(name, {}) | laid.get(name, {}) for name in {*self._emptied, *laid}}


def lay_block(document: Document, ground_id: str, block: Block, at: tuple[int, int], onto: str | None = None) -> None:
    """Lays a block with all that stands in it, as one step; raises as `lay`."""
    ground = by_id(document.project.grounds, ground_id)
    changed = lay_known(document.project, ground, document.state.planes[ground_id], block, at, onto)
    with document.step("lay block"):
        put(document, "lay block", ground_id, changed)
        kinds = {kind.id for kind in document.project.thing_kinds}
        for layer_id, things in things_laid(ground, block.things, at).items():
            # A block of another project may know kinds that this one does not.
            known = [one if one.kind in kinds else replace(one, kind="") for one in things]
            place(document, ground_id, layer_id, known)


def put(document: Document, label: str, ground_id: str, changed: Mapping[str, Mapping[str, Plane]]) -> None:
    """Takes changed planes over as one step; those of locked layers stay.

    Raises
    ------
    BadRequest
        If one of the layers is locked.
    """
    ground = by_id(document.project.grounds, ground_id)
    for name in changed:
        check_unlocked(ground.layer(name))
    document.put_planes(label, ground_id, changed)


def turned(block: Block, orientation: int, forms: TurnedForms | None = None) -> Block:
    """A block in one of the eight symmetries of the square (see `orient`), its tiles turned with it.

    With `forms` tiles that were drawn for the other way stand for turned ones.
    """
    return Block(
        _turned(block.cells, orientation),
        tuple(
            replace(
                piece,
                planes=dict(_turned_plane(name, plane, orientation, forms) for name, plane in piece.planes.items()),
            )
            for piece in block.pieces
        ),
        turned_things(block.things, block.cells.shape, orientation),
    )


def pattern_of(block: Block, layer: Layer, board: Board) -> Pattern | None:
    """What a block repeats on a layer of single tiles of a ground; None if it holds no tiles."""
    found = np.full(block.cells.shape, -1, dtype=np.int32)
    for piece in block.pieces:
        _, values, there = piece.planes.get(layer.area_plane, ("cells", found, block.cells))
        if values.dtype == np.int32 and values.shape == found.shape:
            found = np.where(there & (values > 0), values, found)
    return None if (found < 0).all() else Pattern(found, board)


def size_on(on: On, cells: tuple[int, int]) -> tuple[int, int]:
    """How many rows and columns of places of a kind lie round a block of cells."""
    return cells[0] + _FURTHER[on][0], cells[1] + _FURTHER[on][1]


def _part_of(block: Block, at: tuple[int, int], wanted: CellRect) -> tuple[Block, tuple[int, int]]:
    """The part of a block, laid at a flat place, that lies in a flat rectangle, and where that part begins."""
    inner = CellRect(*at, *block.cells.shape).inside(wanted)
    top, left = inner.top - at[0], inner.left - at[1]

    def part(on: On, values: NDArray[Any]) -> NDArray[Any]:
        """The same part of what lies on places of a kind.

        Parameters
        ----------
        on : On
        values : (h, w) array
            A row or column longer than the cells where places lie round them.
        """
        height, width = size_on(on, (inner.height, inner.width))
        return values[top : top + height, left : left + width]

    pieces = tuple(
        Piece(piece.layer, {name: (on, part(on, v), part(on, there)) for name, (on, v, there) in piece.planes.items()})
        for piece in block.pieces
    )
    return Block(part("cells", block.cells), pieces), (inner.top, inner.left)


def _lifted(board: Board, layer: Layer, planes: Planes, ys: NDArray[Any], xs: NDArray[Any], cells: Mask) -> Piece:
    held = {}
    for name, plane in planes.items():
        on = layer.specs[name].on
        down, across = _FURTHER[on]
        values, there = board.flat_patch(
            plane, on, np.append(ys, ys[-1] + 1)[: len(ys) + down], np.append(xs, xs[-1] + 1)[: len(xs) + across]
        )
        held[name] = (on, values, there & _round_cells(cells, on))
    return Piece(layer.id, held)


def _round_cells(cells: Mask, on: On) -> Mask:
    """The places of a kind that lie at some cells."""
    down, across = _FURTHER[on]
    found = np.zeros((cells.shape[0] + down, cells.shape[1] + across), dtype=bool)
    for y in range(down + 1):
        for x in range(across + 1):
            found[y : y + cells.shape[0], x : x + cells.shape[1]] |= cells
    return found


def taking(ground: Ground, piece: Piece, onto: str | None) -> Layer | None:
    """The layer that takes a piece: one that has its planes."""
    for layer in ground.layers:
        if layer.id == (onto or piece.layer):
            specs = layer.specs
            fits = (
                name in specs and specs[name].on == on and specs[name].codes == (values.dtype == np.int32)
                for name, (on, values, _) in piece.planes.items()
            )  # fmt: skip
            return layer if all(fits) else None
    return None


def _laid(ground: Ground, layer: Layer, planes: Planes, piece: Piece, at: tuple[int, int]) -> dict[str, Plane]:
    board, changed = ground.board, dict[str, Plane]()
    for down, across in _rounds(board):
        for name, (on, values, there) in piece.planes.items():
            known = {**planes, **changed}
            if name not in known:
                known[name] = Plane.full(board.shape(on), layer.specs[name].dtype)
            shows = there & (values != 0) if layer.specs[name].codes else there
            shape, found = board.from_flat(on, (at[0] + down, at[1] + across), values, shows)
            changed |= patched(known, {name: (shape, found)})
    return changed


def _rounds(board: Board) -> list[tuple[int, int]]:
    """How far a block is laid again where the ground goes round."""
    return [(int(y), int(x)) for ((y, x),) in board.rounds((0.0, 0.0))]


def _turned(values: NDArray[Any], orientation: int) -> NDArray[Any]:
    mirrored = values[:, ::-1] if orientation & 4 else values
    return np.rot90(mirrored, -(orientation & 3))


def _turned_plane(
    name: str, plane: tuple[On, NDArray[Any], Mask], orientation: int, forms: TurnedForms | None
) -> tuple[str, tuple[On, NDArray[Any], Mask]]:
    on, values, there = plane
    if values.dtype == np.int32:
        further = np.array([turned_further(one, orientation) for one in range(8)], dtype=np.int32)
        values = np.where(
            values > 0, (values & NUMBER_MASK) | further[(values >> ORIENTATION_SHIFT) & 7] << ORIENTATION_SHIFT, values
        )
        values = values if forms is None else forms.exchanged(values)
    if orientation & 1 and on in ("across", "along"):
        other: On = "along" if on == "across" else "across"
        name = other if name == on else name
        on = other
    return name, (on, _turned(values, orientation), _turned(there, orientation))
