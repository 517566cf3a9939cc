"""Lays the chimneys: a ground seen from the side, of walls to run on, gutters to jump onto, and chimneys between."""

import numpy as np

from knitground.core.chance import chance
from knitground.core.edits.painting import Hand, stroke
from knitground.core.grid.shapes import walk
from knitground.core.ground.ground import by_id
from knitground.core.layers.thing import Corner, Thing
from knitground.core.project.document import Document
from knitground.core.tiles.notes import Property
from knitground.core.tiles.tile import TileRef

CHIMNEYS = "chimneys"
WIDTH, HEIGHT = 44, 18
GUTTERS = ((12, 5, 9), (10, 10, 13), (12, 24, 29), (9, 31, 35), (7, 25, 28), (5, 20, 23), (11, 34, 36))
"""Row of each, and the columns from which to which it runs."""
_WALLS = ((15, 0, 44), (13, 14, 20), (11, 15, 19), (13, 36, 44), (10, 38, 44), (14, 0, 3))
"""From which row down, and between which columns, there is wall."""
_STACKS = ((14, 10), (14, 23), (10, 17), (9, 41))
_FAR = tuple((14, column) for column in (1, 4, 6, 9, 12, 15, 17, 20, 22, 25, 29, 31, 34, 37, 40, 42))
"""Chimneys on the roofs behind, which pass by at half the speed."""
_ROOF = 16


def ledges() -> tuple[Thing, ...]:
    """The gutters as edges that hold from above, where the keeper begins, and where honey stands."""
    lines = tuple(
        Thing(
            str(number), float(left * _ROOF + 8), float(row * _ROOF + 5), "line",
            points=(Corner(0.0, 0.0), Corner(float((right - left) * _ROOF), 0.0)), kind="gutter",
        )
        for number, (row, left, right) in enumerate(GUTTERS, start=1)
    )  # fmt: skip
    return (
        *lines,
        Thing("30", 24.0, 210.0, "point", name="Hatch", kind="way-in"),
        Thing("31", 21.5 * _ROOF, 5 * _ROOF - 4.0, "point", name="Honey on the top gutter",
              properties={"role": Property("text", "goal"), "sweet": Property("yes-no", True)}),
    )  # fmt: skip


def lay_chimneys(document: Document) -> None:
    """Paints the walls, the gutters and the chimneys."""
    ground = by_id(document.project.grounds, CHIMNEYS)
    solid = np.zeros((HEIGHT, WIDTH), dtype=bool)
    for top, left, right in _WALLS:
        solid[top:, left:right] = True
    # Slate with a little lichen and a crack here and there.
    slates = [document.palette.code(TileRef("roofs", "tops", column, 0)) for column in (0, 0, 0, 1)]
    which = (chance(5, *np.indices((HEIGHT, WIDTH))) * len(slates)).astype(int)
    codes = np.where(solid, np.array(slates)[which], 0)
    shape = ground.board.box("cells", (0, 0), (HEIGHT - 1, WIDTH - 1))
    document.paint("wall", CHIMNEYS, "wall", "cells", shape, codes.astype(np.int32))
    for row, left, right in GUTTERS:
        for plane, run in ground.board.edges(walk((row, left), (row, right))).items():
            document.paint("draw", CHIMNEYS, "gutters", plane, run, 1)
    for layer, stacks in (("chimneys", _STACKS), ("far", _FAR)):
        for row, column in stacks:
            for up, tile in ((0, (1, 1)), (1, (1, 0))):
                spot = row - up + 0.5, column + 0.5
                stroke(document, CHIMNEYS, layer, Hand(TileRef("props", "things", *tile)), spot, spot)
