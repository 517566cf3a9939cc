"""Filling what hangs together, seen under the pointer before it is laid."""

from collections.abc import Callable
from contextlib import suppress

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QPainter

from knitground.app.jobs import Job
from knitground.app.session import AnyLayer
from knitground.app.theme.colours import theme
from knitground.app.tools import Pointer, Tool
from knitground.app.tools.laying import is_full, lays_runs, plane_of, size_of, spot_at, values
from knitground.app.tools.preview import draw_cover, draw_tiles
from knitground.core.errors import BadRequest, KnitGroundError
from knitground.core.ground.full import full_patches
from knitground.core.ground.layers import TileLayer
from knitground.core.ground.runs import connected_run
from knitground.core.ground.shapes import Shape, flood
from knitground.core.ground.window import Window

_AT_ONCE = 1 << 20
_SEEN = 400
"""How far from the pointer the region is shown, in cells; further off a click reaches, but the eye does not."""

Filling = dict[str, tuple[Shape, NDArray[np.generic] | int]]


class Fill(Tool):
    """Lays on all cells of one kind that hang together with the one under the pointer."""

    name, title, icon, key = "fill", "Fill", "fill", "F"
    tip = "Fill: click to lay what you see; R throws a mix again"

    def __init__(self, session) -> None:
        super().__init__(session)
        self._at: Pointer | None = None
        self._region: dict[str, Shape] = {}
        self._found_for: tuple | None = None
        session.changed.connect(lambda change: self._forget())

    def press(self, at: Pointer, *, erase: bool = False) -> None:
        session, layer = self.session, self.session.layer
        if layer is None:
            raise BadRequest("This ground has no layer yet; add one with the plus at the right.")
        if not self._is_on(layer, at):
            return
        ground = session.ground.id

        def work(progress: Callable[[float], None]) -> Filling:
            region = self._region_at(layer, at, None)
            if is_full(layer):
                terrain = int(values(session, layer, Window(0, 0, 1, 1), erase=erase))
                return dict(full_patches(session.document.state.planes[ground][layer.id], region, terrain))
            return {name: (shape, values(session, layer, shape.window, erase=erase)) for name, shape in region.items()}

        def lay(filling: Filling) -> None:
            session.document.begin("erase region" if erase else "fill")
            for plane, (shape, what) in filling.items():
                session.document.paint("fill", ground, layer.id, plane, shape, what)
            session.document.commit()

        if np.prod(size_of(session, layer)) <= _AT_ONCE:
            lay(work(lambda share: None))
        else:
            session.run(Job("Filling", work), lay)

    def hover(self, at: Pointer | None) -> None:
        self._at = at
        if at is not None:
            self._find(at)

    def leave(self) -> None:
        self._at = None
        self._forget()

    def paint(self, painter: QPainter, view) -> None:
        layer = self.session.layer
        if self._at is None or layer is None:
            return
        self._find(self._at)
        if isinstance(layer, TileLayer):
            for shape in self._region.values():
                # Where nothing is chosen to lay, that is said on the click.
                with suppress(KnitGroundError):
                    draw_tiles(
                        painter, view, self.session, shape, lambda w: values(self.session, layer, w, erase=False)
                    )
            return
        terrains = self.session.terrains_of(layer)
        colour = (
            QColor(terrains[min(self.session.terrain, len(terrains)) - 1].colour)
            if terrains
            else theme().colour("line")
        )
        for shape in self._region.values():
            on_points = plane_of(layer) == "corners" and not lays_runs(self.session, layer)
            draw_cover(painter, view, shape, colour, -0.5 if on_points else 0)

    def _find(self, at: Pointer) -> None:
        """Works out what is seen of the region, unless it is the one that is known already."""
        session, layer = self.session, self.session.layer
        if layer is None or not self._is_on(layer, at):
            self._forget()
            return
        row, column = spot_at(layer, at)
        if self._found_for == (session.ground.id, layer.id) and self._inside(layer, row, column):
            return
        self._found_for = (session.ground.id, layer.id)
        near = Window(row - _SEEN, column - _SEEN, 2 * _SEEN + 1, 2 * _SEEN + 1)
        self._region = self._region_at(layer, at, near)

    def _region_at(self, layer: AnyLayer, at: Pointer, within: Window | None) -> dict[str, Shape]:
        planes = self.session.document.state.planes[self.session.ground.id][layer.id]
        if lays_runs(self.session, layer):
            return connected_run(planes["across"], planes["along"], at.row, at.column)
        return {plane_of(layer): flood(planes[plane_of(layer)], *spot_at(layer, at), within)}

    def _is_on(self, layer: AnyLayer, at: Pointer) -> bool:
        ground = self.session.ground
        if lays_runs(self.session, layer):
            return Window(0, 0, ground.height, ground.width).holds(at.row, at.column)
        return Window(0, 0, *size_of(self.session, layer)).holds(*spot_at(layer, at))

    def _inside(self, layer, row: int, column: int) -> bool:
        shape = None if lays_runs(self.session, layer) else self._region.get(plane_of(layer))
        return bool(
            shape and shape.window.holds(row, column) and shape.mask[row - shape.window.top, column - shape.window.left]
        )

    def _forget(self) -> None:
        self._region, self._found_for = {}, None
