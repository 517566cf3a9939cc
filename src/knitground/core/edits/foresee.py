"""What a gesture would change, before it is made: worked out on planes that are thrown away, seen by nobody else."""

from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.painting import Covered, patched
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.layer import Planes, Values


class Foreseen(NamedTuple):
    """A rectangle of cells as it would be.

    Attributes
    ----------
    cells : CellRect
    codes : (H, W) int32
        What would lie there.
    changed : (H, W) bool
        Where that is something else than lies there now.
    """

    cells: CellRect
    codes: NDArray[np.int32]
    changed: NDArray[np.bool_]


def foresee(
    knitted: Knitted, layer_id: str, gestures: Iterable[Covered], values: Callable[[int], Values], within: CellRect
) -> Foreseen | None:
    """What would lie on a layer after gestures; None where nothing in sight would change.

    Parameters
    ----------
    knitted : Knitted
        The ground as it is; it stays so.
    gestures : iterable of Covered
        What is covered, one after another, as where a ground goes round.
    values : callable
        What is set there, given how tiles are turned.
    within : CellRect
        Cells beyond are left out; what lies there is still looked at.
    """
    ground, layer, planes = knitted.ground, knitted.ground.layer(layer_id), dict(knitted.planes[layer_id])
    table, parts = knitted.tables.get(layer_id), []
    for shapes, turn in gestures:
        after = patched(planes, layer.patches(ground.board, planes, shapes, values(turn)))
        for name, plane in after.items():
            parts += [layer.reach(ground.board, table, change.rect) for change in plane.changes_from(planes[name])]
        planes |= after
    seen = [part for reach in parts for one in ground.board.parts(reach) if not (part := one.inside(within)).is_empty]
    if not seen:
        return None
    cells = _round_all(seen)
    codes = layer.lay(ground.board, knitted.seen(layer_id, planes), table, knitted.seed, cells).codes
    changed = codes != knitted.codes(layer_id, cells)
    rows, columns = np.flatnonzero(changed.any(axis=1)), np.flatnonzero(changed.any(axis=0))
    if not rows.size:
        return None
    # No more than what changes, as what lies round it is drawn already.
    inner = CellRect(int(rows[0]), int(columns[0]), int(np.ptp(rows)) + 1, int(np.ptp(columns)) + 1)
    seen_cells = inner._replace(top=inner.top + cells.top, left=inner.left + cells.left)
    return Foreseen(seen_cells, codes[inner.rows, inner.columns], changed[inner.rows, inner.columns])


class After:
    """A ground as it would be with other planes, to be drawn; what does not change is taken from it as it is."""

    def __init__(
        self, knitted: Knitted, changed: Mapping[str, Mapping[str, Plane]], ground: Ground | None = None
    ) -> None:
        self.ground, self._knitted = ground or knitted.ground, knitted
        self.planes: Mapping[str, Planes] = {
            name: {**planes, **changed.get(name, {})} for name, planes in knitted.planes.items()
        }

    def codes(self, layer_id: str, rect: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle of a layer, (height, width) int32.

        Parameters
        ----------
        layer_id : str
        rect : CellRect
            Inside the ground.
        """
        knitted, layer = self._knitted, self.ground.layer(layer_id)
        if all(plane is knitted.planes[layer_id].get(name) for name, plane in self.planes[layer_id].items()):
            return knitted.codes(layer_id, rect)
        table = knitted.tables.get(layer_id)
        planes = knitted.seen(layer_id, self.planes[layer_id])
        return layer.lay(self.ground.board, planes, table, knitted.seed, rect).codes


def _round_all(rects: list[CellRect]) -> CellRect:
    top, left = min(rect.top for rect in rects), min(rect.left for rect in rects)
    return CellRect(top, left, max(rect.bottom for rect in rects) - top, max(rect.right for rect in rects) - left)
