"""The layers of a paint program's file as a drawn map with as many layers."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from knitground.core.edits.drawn import Found, add_drawn, find_tiles, put_drawn
from knitground.core.edits.layers import add_layer, put_layer
from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.sheet.openraster import PaintedLayer


def layers_shown(layers: Sequence[PaintedLayer]) -> list[PaintedLayer]:
    """Those that show something; raises BadRequest if none does."""
    shown = [one for one in layers if one.pixels[..., 3].any()]
    if not shown:
        raise BadRequest("No layer of the file shows anything; paint on one, and save it again.")
    return shown


def add_as_map(document: Document, name: str, layers: Sequence[PaintedLayer], width: int, height: int) -> str:
    """Adds a ground on which each layer is one of tiles, and a sheet with each of their tiles once; returns its id.

    Parameters
    ----------
    name : str
        Of the ground and the sheet.
    width, height : int
        Of a tile, in pixels.

    Raises
    ------
    BadRequest
        As `find_tiles`, or if no layer shows anything.
    """
    shown = layers_shown(layers)
    # Under one another they are one picture, whose tiles are found together.
    found = find_tiles(np.concatenate([one.pixels for one in shown]), width, height)
    rows = shown[0].pixels.shape[0] // height
    parts = [
        Found(found.tiles, *(part[place * rows : (place + 1) * rows] for part in (found.numbers, found.orientations)))
        for place in range(len(shown))
    ]
    with document.step("add a painted map"):
        ground_id = add_drawn(document, name, parts[0])
        first = next(one for one in document.project.grounds if one.id == ground_id).layers[0]
        sheet = document.project.sheets[-1].id
        ids = [first.id, *(add_layer(document, ground_id, one.name[:80] or "Layer") for one in shown[1:])]
        for layer_id, part in zip(ids[1:], parts[1:], strict=True):
            put_drawn(document, ground_id, layer_id, sheet, part)
        for layer_id, one in zip(ids, shown, strict=True):
            ground = next(one for one in document.project.grounds if one.id == ground_id)
            *groups, last = one.name.split("/")
            said = replace(
                ground.layer(layer_id), name=last[:80] or "Layer", group="/".join(groups)[:400], visible=one.visible,
                opacity=one.opacity,
            )  # fmt: skip
            put_layer(document, ground_id, "name painted layer", said)
    return ground_id
