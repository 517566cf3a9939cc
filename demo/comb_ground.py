"""Lays the frame of comb: a ground of hexagons with brood in the middle, pollen round it and honey above."""

import numpy as np

from art.comb import COLUMNS, FILLINGS
from knitground.core.chance import chance
from knitground.core.edits.painting import Hand, stroke
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.tiles.tile import TileRef

COMB = "comb"
HEIGHT, WIDTH = 22, 26
_SHADOW = 1
_THROW = 77


def filling(name: str) -> TileRef:
    """A tile of the comb sheet."""
    number = FILLINGS.index(name)
    return TileRef("comb", "cells", number % COLUMNS, number // COLUMNS)


def lay_comb(document: Document) -> None:
    """Paints the layers of the frame, from bare planes."""
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH]
    numbers = chance(_THROW, rows, columns)
    # The nest is an oval that sits low on the frame; rows lie three quarters of a cell apart.
    across, down = (columns + rows % 2 / 2 - WIDTH / 2) / 9.5, (rows - 13.5) / 8.5
    far = np.hypot(across, down) + (numbers - 0.5) * 0.16
    names = np.full((HEIGHT, WIDTH), "capped", dtype=object)
    names[numbers > 0.6] = "capped-pale"
    names[far < 1.45] = "honey"
    names[(far < 1.45) & (numbers > 0.8)] = "nectar"
    names[far < 1.12] = "pollen"
    names[(far < 1.12) & (numbers > 0.62)] = "pollen-rose"
    names[(far < 1.12) & (numbers > 0.86)] = "bare"
    names[far < 0.92] = "brood"
    names[(far < 0.92) & (numbers > 0.5)] = "brood-old"
    names[(far < 0.92) & (numbers > 0.93)] = "bare"
    names[far < 0.45] = "larva"
    names[(far < 0.45) & (numbers > 0.55)] = "egg"
    names[(far < 0.3) & (numbers > 0.3)] = "drawn"
    for rim in (np.s_[0], np.s_[-1], np.s_[:, 0], np.s_[:, -1]):
        names[rim] = np.where(numbers[rim] > 0.9, "wood-knot", "wood")
    codes = np.vectorize(lambda name: document.palette.code(filling(name)))(names)
    plane = document.state.planes[COMB]["cells"]["cells"]
    document.put_planes(
        "fill the comb", COMB, {"cells": {"cells": plane.written(CellRect(0, 0, HEIGHT, WIDTH), codes)}}
    )
    for row, column in ((18, 8), (19, 17)):
        _put(document, "bees", row, column, Hand(filling("queen")))
    for row, column, name in (
        (5, 6, "bee"),
        (8, 18, "bee"),
        (9, 9, "bee"),
        (12, 14, "bee"),
        (14, 6, "drone"),
        (15, 20, "bee"),
        (3, 15, "bee"),
    ):
        _put(document, "bees", row, column, Hand(filling(name)))
    for column in range(1, WIDTH - 1):
        _put(document, "shadow", 1, column, Hand(terrain=_SHADOW))
    for row in range(2, HEIGHT - 1):
        _put(document, "shadow", row, 1, Hand(terrain=_SHADOW))


def _put(document: Document, layer: str, row: int, column: int, hand: Hand) -> None:
    y, x = by_id(document.project.grounds, COMB).board.flat("cells", row, column)
    spot = float(y) + 0.5, float(x) + 0.5
    stroke(document, COMB, layer, hand, spot, spot)
