"""What tools lay: on each kind of layer, which plane a gesture falls on and what values it sets."""

import math
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from knitground.app.session import AnyLayer, Session
from knitground.app.tools import Pointer
from knitground.core.errors import BadRequest
from knitground.core.ground.full import full_patches
from knitground.core.ground.layers import StitchedLayer, TerrainLayer, TileLayer, plane_shapes
from knitground.core.ground.shapes import Shape, edge_run, edge_shapes, rectangle, swept_disc
from knitground.core.ground.window import Window
from knitground.core.grow.mix import throw_mix
from knitground.core.project.operations import erasing_value

Spot = tuple[int, int]


def plane_of(layer: AnyLayer) -> str:
    """The plane that areas are painted on (edge layers have two, and are painted by runs)."""
    if isinstance(layer, TileLayer):
        return "cells"
    if isinstance(layer, StitchedLayer):
        return "plan"
    return "across" if layer.joins == "edge" else "corners"


def is_full(layer: AnyLayer | None) -> bool:
    """Whether a layer takes both areas and runs."""
    return isinstance(layer, TerrainLayer) and layer.joins == "full"


def lays_runs(session: Session, layer: AnyLayer) -> bool:
    """Whether a layer is painted in runs along its edges."""
    return (isinstance(layer, TerrainLayer) and layer.joins == "edge") or (is_full(layer) and session.runs)


def spot_at(layer: AnyLayer, at: Pointer) -> Spot:
    """The entry of the plane that lies nearest: the lattice point for corners, else the cell."""
    if plane_of(layer) == "corners":
        return math.floor(at.y + 0.5), math.floor(at.x + 0.5)
    return at.row, at.column


def size_of(session: Session, layer: AnyLayer) -> tuple[int, int]:
    """Rows and columns of a layer's plane."""
    ground = session.ground
    return plane_shapes(layer, ground.height, ground.width)[plane_of(layer)]


def strokes(session: Session, layer: AnyLayer, start: Pointer, end: Pointer) -> dict[str, Shape]:
    """What a stroke from one place to another covers, by plane."""
    ground = session.ground
    if lays_runs(session, layer):
        run = edge_run((start.row, start.column), (end.row, end.column))
        return edge_shapes(run, plane_shapes(layer, ground.height, ground.width))
    radius = session.radius
    return {plane_of(layer): swept_disc(size_of(session, layer), spot_at(layer, start), spot_at(layer, end), radius)}


def areas(session: Session, layer: AnyLayer, start: Pointer, end: Pointer) -> dict[str, Shape]:
    """What a rectangle between two places covers; on an edge layer it is a run once round."""
    ground = session.ground
    if lays_runs(session, layer):
        top, left, bottom, right = start.row, start.column, end.row, end.column
        ring = [(top, left), (top, right), (bottom, right), (bottom, left), (top, left)]
        run = [edge for one, other in pairwise(ring) for edge in edge_run(one, other)]
        return edge_shapes(run, plane_shapes(layer, ground.height, ground.width))
    return {plane_of(layer): rectangle(size_of(session, layer), spot_at(layer, start), spot_at(layer, end))}


def values(session: Session, layer: AnyLayer, window: Window, *, erase: bool) -> NDArray[np.generic] | int:
    """What is laid on a window: tiles or a throw of the mix, a terrain, a mark; or what erasing leaves.

    Raises
    ------
    BadRequest
        If nothing is chosen to lay.
    """
    if erase:
        return erasing_value(session.document, layer)
    if isinstance(layer, TileLayer):
        return _tiles(session, window)
    count = len(session.terrains_of(layer))
    if not count:
        raise BadRequest("This layer's set has no terrain to paint with; add one in its stage.")
    return min(session.terrain, count)


def lay(session: Session, layer: AnyLayer, shapes: dict[str, Shape], label: str, *, erase: bool) -> None:
    """Sets what some shapes cover."""
    document, ground = session.document, session.ground.id
    if is_full(layer):
        terrain = int(values(session, layer, Window(0, 0, 1, 1), erase=erase))
        for plane, (shape, what) in full_patches(document.state.planes[ground][layer.id], shapes, terrain).items():
            document.paint(label, ground, layer.id, plane, shape, what)
        return
    for plane, shape in shapes.items():
        if not shape.window.is_empty:
            what = values(session, layer, shape.window, erase=erase)
            document.paint(label, ground, layer.id, plane, shape, what)


def rounds(session: Session, *spots: Pointer) -> list[tuple[Pointer, ...]]:
    """The same places once more beyond each border at which the ground wraps, so that strokes go on there."""
    ground = session.ground
    downs = (0, -ground.height, ground.height) if ground.wraps_y else (0,)
    acrosses = (0, -ground.width, ground.width) if ground.wraps_x else (0,)
    return [tuple(Pointer(at.y + down, at.x + across) for at in spots) for down in downs for across in acrosses]


def _tiles(session: Session, window: Window) -> NDArray[np.int32] | int:
    palette = session.document.palette
    if session.lays_mix and session.mix:
        parts = session.mix.parts
        codes = [palette.code(part.tile) for part in parts]
        return throw_mix(codes, [part.weight for part in parts], session.throw, window)
    if session.tile is None:
        raise BadRequest("No tile is chosen; click one on the sheet at the left.")
    return palette.code(session.tile)
