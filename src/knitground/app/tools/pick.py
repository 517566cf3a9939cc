"""Picking what lies on the ground, to lay it again."""

import numpy as np

from knitground.app.tools import Pointer, Tool
from knitground.app.tools.laying import lays_runs, plane_of, size_of, spot_at
from knitground.core.ground.layers import TileLayer
from knitground.core.ground.window import Window
from knitground.core.tiles.tile import NUMBER_MASK


class Pick(Tool):
    """Takes the tile or terrain under the pointer into the hand."""

    name, title, icon, key = "pick", "Pick", "pick", "K"
    tip = "Pick: click to take what lies there"

    def press(self, at: Pointer, *, erase: bool = False) -> None:
        self._pick(at)

    def drag(self, at: Pointer) -> None:
        self._pick(at)

    def _pick(self, at: Pointer) -> None:
        session, ground = self.session, self.session.ground
        if not Window(0, 0, ground.height, ground.width).holds(at.row, at.column):
            return
        layer = session.layer
        if layer is None:
            return
        if isinstance(layer, TileLayer):
            self._pick_tile(at)
            return
        planes = session.document.state.planes[ground.id][layer.id]
        row, column = spot_at(layer, at)
        height, width = size_of(session, layer)
        value = int(planes[plane_of(layer)][min(row, height - 1), min(column, width - 1)])
        if lays_runs(session, layer):
            around = np.concatenate(
                [np.ravel(planes["across"][row : row + 2, column]), np.ravel(planes["along"][row, column : column + 2])]
            )
            value = int(around.max())
        if value:
            session.choose(terrain=value)

    def _pick_tile(self, at: Pointer) -> None:
        """The uppermost tile of the tile layers; the layer is chosen along with it."""
        session, ground = self.session, self.session.ground
        mine = [session.layer] + [
            layer for layer in reversed(ground.layers) if isinstance(layer, TileLayer) and layer.visible
        ]
        for layer in mine:
            code = int(session.document.state.planes[ground.id][layer.id]["cells"][at.row, at.column])
            if code:
                session.choose(tile=session.document.palette.ref(code & NUMBER_MASK), lays_mix=False, layer_id=layer.id)
                return
