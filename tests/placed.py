"""A project with a prop layer, for tests of things."""

import numpy as np

from knitground.core.edits.layers import add_layer
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.compositor import render
from knitground.core.render.pixels import straight
from making import SIDE, make_document, tile

SPRITE = Thing("new", 40.0, 48.0, tile=tile(2, 1))
AREA = PixelRect(0, 0, 20 * SIDE, 15 * SIDE)


def furnished(grid: str = "square") -> tuple[Document, str]:
    document = make_document(grid=grid)
    return document, add_layer(document, "ground", "Props", kind="props")


def props(document: Document):
    return document.project.grounds[0].layer("props")


def drawn(document: Document, area: PixelRect = AREA) -> np.ndarray:
    """The layers of single tiles and of things alone."""
    derived = Derived(document)
    layers = [one for one in document.project.grounds[0].layers if one.id in ("things", "props")]
    return straight(render(derived.scene(derived.knitted("ground"), layers), area))
