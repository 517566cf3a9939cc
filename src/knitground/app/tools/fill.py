"""Filling what hangs together, seen under the pointer before it is laid."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QPainter

from knitground.app.theme.colours import theme
from knitground.app.tools import Pointer, Tool
from knitground.app.tools.laying import is_edges, lay, plane_of, size_of, spot_at, values
from knitground.app.tools.preview import draw_cover, draw_tiles
from knitground.core.errors import BadRequest, KnitGroundError
from knitground.core.ground.layers import TileLayer
from knitground.core.ground.runs import connected_run
from knitground.core.ground.shapes import Shape, flood


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
        layer = self.session.layer
        if layer is None:
            raise BadRequest("This ground has no layer yet; add one with the plus at the right.")
        self._find(at)
        region = dict(self._region)
        self.session.document.begin("erase region" if erase else "fill")
        try:
            lay(self.session, layer, region, "fill", erase=erase)
        finally:
            self.session.document.commit()

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
                try:
                    what = values(self.session, layer, shape.window, erase=False)
                except KnitGroundError:
                    return  # nothing is chosen to lay: said on the click
                draw_tiles(painter, view, self.session, shape, what)
            return
        terrains = self.session.terrains_of(layer)
        colour = (
            QColor(terrains[min(self.session.terrain, len(terrains)) - 1].colour)
            if terrains
            else theme().colour("line")
        )
        for shape in self._region.values():
            draw_cover(painter, view, shape, colour, -0.5 if plane_of(layer) == "corners" else 0)

    def _find(self, at: Pointer) -> None:
        """Works the region out, unless it is the one that is known already."""
        session, layer = self.session, self.session.layer
        if layer is None:
            return
        row, column = spot_at(layer, at)
        height, width = size_of(session, layer)
        if not (0 <= row < height and 0 <= column < width):
            self._region, self._found_for = {}, None
            return
        if self._found_for == (session.ground.id, layer.id) and self._inside(layer, row, column):
            return
        planes = session.document.state.planes[session.ground.id][layer.id]
        self._found_for = (session.ground.id, layer.id)
        if is_edges(layer):
            self._region = connected_run(np.asarray(planes["across"]), np.asarray(planes["along"]), row, column)
        else:
            self._region = {plane_of(layer): flood(_array(planes[plane_of(layer)]), row, column)}

    def _inside(self, layer, row: int, column: int) -> bool:
        shape = None if is_edges(layer) else self._region.get(plane_of(layer))
        return bool(
            shape and shape.window.holds(row, column) and shape.mask[row - shape.window.top, column - shape.window.left]
        )

    def _forget(self) -> None:
        self._region, self._found_for = {}, None


def _array(plane: NDArray[np.generic]) -> NDArray[np.generic]:
    return np.asarray(plane)
