"""A drawn map, a picture made of tiles, as a project: its tiles found, doubles merged, turned ones known."""

import math
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.sheets import insert_sheet
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import LARGEST_GROUND
from knitground.core.project.document import Document
from knitground.core.project.model import UNTITLED, Picture
from knitground.core.sheet.cut import LARGEST_TILE, Cut
from knitground.core.sheet.picture import encode_png
from knitground.core.tiles.alike import different, twins
from knitground.core.tiles.tile import TileRef

_CUT = "tiles"
_MOST_DIFFERENT = 1 << 14


class Found(NamedTuple):
    """The tiles of a drawn map.

    Attributes
    ----------
    tiles : (n, h, w, 4) uint8
        Each once, in the order in which they first come, reading row by row.
    numbers : (H, W) intp
        Which of them lies in each cell, from 1; 0 where nothing is to be seen.
    orientations : (H, W) intp
        How it is turned there.
    """

    tiles: NDArray[np.uint8]
    numbers: NDArray[np.intp]
    orientations: NDArray[np.intp]


def find_tiles(picture: NDArray[np.uint8], width: int, height: int) -> Found:
    """The different tiles of a drawn map, and where they lie.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        Straight alpha.
    width, height : int
        Of a tile, in pixels.

    Raises
    ------
    BadRequest
        If the picture is no whole number of tiles, too large for a ground, or no map made of tiles.
    """
    rows, columns = picture.shape[0] // height, picture.shape[1] // width
    if not rows or not columns or (rows * height, columns * width) != picture.shape[:2]:
        raise BadRequest(
            f"The picture is {picture.shape[1]} x {picture.shape[0]} pixels, which is no whole number of tiles of "
            f"{width} x {height}; give the tile size that it was drawn with."
        )
    if max(rows, columns) > LARGEST_GROUND:
        raise BadRequest(f"The map would be {columns} x {rows} cells; a ground has up to {LARGEST_GROUND} a side.")
    tiles, which = different(picture, width, height)
    if len(tiles) > _MOST_DIFFERENT:
        raise BadRequest(
            f"{len(tiles)} different tiles of {width} x {height} are too many for a map made of tiles; give the tile "
            "size that it was drawn with."
        )
    return _merged(tiles, which)


def _merged(tiles: NDArray[np.uint8], which: NDArray[np.intp]) -> Found:
    """Tiles that are alike when turned as one.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
    which : (H, W) intp
    """
    refs = {TileRef("map", _CUT, number, 0): tile for number, tile in enumerate(tiles)}
    stands_for = np.arange(len(tiles))
    turned = np.zeros(len(tiles), dtype=np.intp)
    for group in twins(refs):
        for twin in group:
            stands_for[twin.ref.column], turned[twin.ref.column] = group[0].ref.column, twin.orientation
    shown = tiles[..., 3].any(axis=(1, 2))
    kept = np.flatnonzero((stands_for == np.arange(len(tiles))) & shown)
    number = np.zeros(len(tiles), dtype=np.intp)
    number[kept] = np.arange(1, len(kept) + 1)
    numbers = np.where(shown, number[stands_for], 0)
    return Found(tiles[kept], numbers[which], np.where(shown, turned, 0)[which])


def project_of(name: str, picture: NDArray[np.uint8], width: int, height: int) -> Document:
    """A new document: one sheet with the tiles of a drawn map, and one ground that renders to the picture.

    Parameters
    ----------
    name : str
        Of the project, the ground and the sheet.
    picture : (H, W, 4) uint8
        Straight alpha.
    width, height : int
        Of a tile, in pixels.

    Raises
    ------
    BadRequest
        As `find_tiles` and `add_drawn`.
    """
    found = find_tiles(picture, width, height)
    document = Document()
    document.define("name", replace(document.project, name=name[:80] or UNTITLED))
    add_drawn(document, name, found)
    return document


def add_drawn(document: Document, name: str, found: Found) -> str:
    """Adds a sheet of a drawn map's tiles and a ground that renders to it, as one step; returns the ground's id.

    Parameters
    ----------
    document : Document
    name : str
        Of the ground and the sheet.
    found : Found

    Raises
    ------
    BadRequest
        If nothing is to be seen.
    """
    if not len(found.tiles):
        raise BadRequest("Nothing is to be seen on the picture; choose one that is not wholly transparent.")
    height, width = found.tiles.shape[1:3]
    sheet = _sheet(found.tiles, _columns(found.tiles))
    rows, across = found.numbers.shape
    with document.step("add a drawn map"):
        sheet_id = insert_sheet(document, f"{name}.png", Picture(encode_png(sheet), sheet), Cut(_CUT, width, height))
        ground = add_ground(document, name[:80] or "Map", across, rows, (width, height))
        layer = add_layer(document, ground, "Tiles")
        put_drawn(document, ground, layer, sheet_id, found)
    return ground


def put_drawn(document: Document, ground_id: str, layer_id: str, sheet_id: str, found: Found) -> None:
    """Lays what was found on a drawn map on a tile layer, by the sheet that `add_drawn` made of its tiles."""
    columns = _columns(found.tiles)
    refs = [TileRef(sheet_id, _CUT, number % columns, number // columns) for number in range(len(found.tiles))]
    codes = [0, *(document.palette.code(ref) for ref in refs)]
    turned = np.array([document.palette.code(refs[0], way) for way in range(8)])
    laid = np.array(codes, dtype=np.int32)[found.numbers]
    laid |= np.where(found.numbers > 0, (turned - turned[0])[found.orientations], 0).astype(np.int32)
    document.put_planes("lay the map", ground_id, {layer_id: {"cells": Plane.of(laid)}})


def _columns(tiles: NDArray[np.uint8]) -> int:
    """How many (n, h, w, 4) tiles stand side by side on their sheet."""
    width = int(tiles.shape[2])
    return min(len(tiles), max(1, min(math.isqrt(4 * len(tiles)), LARGEST_TILE // width)))


def _sheet(tiles: NDArray[np.uint8], columns: int) -> NDArray[np.uint8]:
    count, height, width = tiles.shape[:3]
    rows = -(-count // columns)
    cells = np.zeros((rows * columns, height, width, 4), dtype=np.uint8)
    cells[:count] = tiles
    return np.ascontiguousarray(
        cells.reshape(rows, columns, height, width, 4).swapaxes(1, 2).reshape(rows * height, columns * width, 4)
    )
