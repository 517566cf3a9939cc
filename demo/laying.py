"""Lays the grounds of the demo: what an artist would paint by hand, the recipe, and the throws of the mixes."""

from itertools import pairwise

import numpy as np

from chimneys_ground import lay_chimneys
from comb_ground import lay_comb
from definitions import GRAVEL, GROUND, HIVES, SLATE, SOIL, STEAM, WATER, piece, prop
from glasshouse_ground import lay_glasshouse
from knitground.core.edits.growing import grow
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape, walk
from knitground.core.grid.square import SquareBoard
from knitground.core.ground.ground import by_id
from knitground.core.grow.thrown import throw_of, thrown
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.tile import TileRef
from terrace_ground import lay_terrace
from wall_stitches import GATE, PARAPET, SKYLIGHT

_WIDTH, _HEIGHT = 64, 48
_BOARD = SquareBoard(_HEIGHT, _WIDTH)
_DOORS = {
    (15, 24),
    (16, 24),
    (17, 24),
    (46, 24),
    (47, 24),
    (48, 24),
    (31, 11),
    (31, 12),
    (31, 13),
    (31, 36),
    (31, 37),
    (31, 38),
}
_GATES = [(8, 24), (9, 24), (26, 24), (38, 24), (39, 24), (56, 24), (12, 46), (13, 46), (50, 46), (24, 1)]
_SKYLIGHTS = [(6, 29, 5, 4), (22, 29, 5, 3), (6, 38, 4, 5), (20, 39, 7, 4), (54, 27, 5, 3), (35, 40, 4, 4)]
_YARD = [
    ("tank", 55, 34), ("fig", 48, 28), ("fig", 12, 39), ("trellis", 36, 11), ("barrel", 47, 31), ("mast", 59, 44), ("bench", 26, 20),
    ("crates", 24, 17), ("ladder", 42, 31), ("barrel", 5, 21), ("fig", 43, 12), ("bench", 45, 19), ("tank", 5, 32), ("basket", 20, 16),
]  # fmt: skip
_BASINS = [(38, 51, 41, 54), (38, 48, 38, 50), (38, 46, 39, 47), (41, 57, 41, 57)]
_BEDS = [(36, 5, 8, 4), (50, 5, 9, 4), (36, 14, 8, 5), (50, 14, 9, 5)]


def lay(document: Document) -> None:
    """Paints every layer of all grounds, from bare planes."""
    _cover(document)
    _lines(document)
    _walls(document)
    _props(document)
    _recipe(document)
    _plants(document)
    _air(document)
    _dusk(document)
    _basins(document)
    lay_glasshouse(document)
    lay_comb(document)
    lay_terrace(document)
    lay_chimneys(document)


def _basins(document: Document) -> None:
    """A pool with an island and a rill that leads to a little one."""

    def paint(start: tuple[int, int], end: tuple[int, int], terrain: int = WATER) -> None:
        document.paint("paint", GROUND, "basins", "cells", _BOARD.box("cells", start, end), terrain)

    for top, left, bottom, right in _BASINS:
        paint((top, left), (bottom, right))
    paint((39, 52), (39, 52), 0)


def _cover(document: Document) -> None:
    def paint(shape: Shape, terrain: int) -> None:
        document.paint("paint", GROUND, "cover", "corners", shape, terrain)

    paint(_BOARD.box("corners", (0, 0), (_HEIGHT, _WIDTH)), SLATE)
    for start, end, radius in (((9, 9), (9, 24), 4), ((17, 8), (17, 24), 4), ((12, 7), (14, 26), 4)):
        paint(_BOARD.disc("corners", start, end, radius), GRAVEL)
    for start, end, radius in (((35, 46), (36, 57), 3), ((39, 50), (42, 55), 3), ((36, 47), (30, 47), 2)):
        paint(_BOARD.disc("corners", start, end, radius), GRAVEL)
    for left, top, width, height in _BEDS:
        paint(_BOARD.box("corners", (top, left), (top + height, left + width)), SOIL)
    paint(_BOARD.disc("corners", (33, 35), (33, 37), 1), SOIL)


def _recipe(document: Document) -> None:
    grow(Derived(document), by_id(document.project.recipes, "weathering"))


def _lines(document: Document) -> None:
    gutters = [
        [(2, 33), (2, 61), (22, 61), (22, 33), (2, 33)],
        [(11, 33), (11, 47), (22, 47)], [(2, 47), (11, 47)],
        [(26, 3), (26, 13), (35, 13), (45, 13), (45, 3), (35, 3), (26, 3)], [(35, 3), (35, 13)],
        [(26, 19), (26, 29), (36, 29)],
    ]  # fmt: skip
    walks = [
        [(14, 13), (14, 16), (21, 16), (30, 16), (37, 16), (37, 45)],
        [(14, 6), (14, 13)], [(9, 15), (14, 15)], [(12, 26), (12, 46)], [(14, 16), (12, 26)],
        [(37, 45), (37, 56)], [(37, 47), (20, 47), (12, 47)], [(12, 46), (6, 46), (4, 46)],
    ]  # fmt: skip
    for layer, runs in (("gutters", gutters), ("walks", walks)):
        for run in runs:
            for start, end in pairwise(run):
                for plane, shape in _BOARD.edges(walk(start, end)).items():
                    document.paint("draw", GROUND, layer, plane, shape, 1)


def _walls(document: Document) -> None:
    plan = np.zeros((_HEIGHT, _WIDTH), dtype=np.uint8)
    plan[[1, 24, 46], 1:63] = PARAPET
    plan[1:47, [1, 31, 62]] = PARAPET
    for x, y in _DOORS:
        plan[y, x] = 0
    for x, y in _GATES:
        plan[y, x] = GATE
    for left, top, width, height in _SKYLIGHTS:
        plan[top : top + height, left : left + width] = SKYLIGHT
    document.paint("draw", GROUND, "walls", "plan", Shape(CellRect(0, 0, *plan.shape), plan > 0), plan)


def _props(document: Document) -> None:
    hives = by_id(document.project.mixes, "hives")
    throw = throw_of(hives, document.project, document.palette.code)
    for y, x in HIVES:
        laid = thrown(throw, 5, _BOARD, CellRect(y, x, 1, 1))
        document.paint("mix", GROUND, "props", "cells", _BOARD.box("cells", (y, x), (y, x)), laid)
    tall = [
        (4, 14, 0),
        (26, 8, 0),
        (13, 33, 1),
        (4, 35, 1),
        (28, 40, 1),
        (34, 27, 1),
        (59, 32, 1),
        (41, 31, 1),
        (57, 43, 1),
    ]
    for x, y, column in tall:
        _put(document, x, y - 1, prop(column, 0))
        _put(document, x, y, prop(column, 1))
    singles = {
        (8, 13): (5, 0), (20, 13): (6, 1), (22, 13): (6, 1), (5, 12): (5, 2), (12, 9): (6, 2), (23, 9): (5, 2), (18, 16): (6, 2),
        (33, 10): (6, 0), (33, 14): (7, 0), (45, 9): (6, 0), (49, 9): (7, 0), (45, 14): (5, 1), (60, 12): (6, 0), (29, 10): (7, 0),
        (29, 14): (6, 0), (14, 22): (6, 0), (18, 22): (7, 0), (10, 35): (7, 1), (17, 31): (7, 1), (28, 33): (7, 1), (52, 31): (7, 1),
        (50, 39): (6, 1), (55, 40): (5, 1), (45, 35): (7, 0), (58, 36): (6, 0), (38, 33): (7, 1), (17, 42): (7, 1), (40, 26): (7, 1),
    }  # fmt: skip
    for (x, y), (column, row) in singles.items():
        _put(document, x, y, prop(column, row))
    for y, left, right in ((42, 45, 53), (20, 35, 42)):
        _put(document, left, y, prop(2, 1))
        for x in range(left + 1, right):
            _put(document, x, y, prop(3, 1))
        _put(document, right, y, prop(4, 1))


def _plants(document: Document) -> None:
    """Rows of vegetables in the beds, which no recipe sows."""
    planes = document.state.planes[GROUND]
    corners = np.asarray(planes["cover"]["corners"])
    squares = np.stack([corners[:-1, :-1], corners[:-1, 1:], corners[1:, 1:], corners[1:, :-1]])
    across, along = np.asarray(planes["walks"]["across"]), np.asarray(planes["walks"]["along"])
    pipes = np.asarray(planes["gutters"]["across"]), np.asarray(planes["gutters"]["along"])
    taken = (np.asarray(planes["walls"]["plan"]) > 0) | (np.asarray(planes["props"]["cells"]) > 0)
    for level, upright in ((across, along), pipes):
        taken |= (level[:-1] > 0) | (level[1:] > 0) | (upright[:, :-1] > 0) | (upright[:, 1:] > 0)
    window = CellRect(0, 0, _HEIGHT, _WIDTH)
    rows = (squares == SOIL).all(axis=0) & ~taken & (np.arange(_WIDTH) % 3 == 0)
    document.paint("draw", GROUND, "plants", "cells", Shape(window, rows), document.palette.code(prop(7, 2)))


def _air(document: Document) -> None:
    """Steam over every vent, and the large things that stand about."""
    for name, x, y in _YARD:
        _put(document, x, y, piece(name))
    vents = np.asarray(document.state.planes[GROUND]["props"]["cells"]) == document.palette.code(prop(7, 1))
    for y, x in np.argwhere(vents).tolist():
        _put(document, x, y, STEAM, "air")


def _dusk(document: Document) -> None:
    """The walls throw a soft shadow to the south and east."""
    plan = np.asarray(document.state.planes[GROUND]["walls"]["plan"]) == PARAPET
    below = np.zeros((_HEIGHT + 1, _WIDTH + 1), dtype=bool)
    below[1:, 1:] = plan
    shape = Shape(CellRect(0, 0, *below.shape), below)
    document.paint("shade", GROUND, "dusk", "corners", shape, 1)


def _put(document: Document, x: int, y: int, ref: TileRef, layer: str = "props") -> None:
    cell = _BOARD.box("cells", (y, x), (y, x))
    document.paint("draw", GROUND, layer, "cells", cell, document.palette.code(ref))
