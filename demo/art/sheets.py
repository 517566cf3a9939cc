"""Puts the tiles together into the sheets of the demo."""

import io
from itertools import product
from pathlib import Path

import numpy as np
from PIL import Image

from art.basins import basins
from art.brush import KEY, SIZE, Tile
from art.comb import comb
from art.fittings import COLUMNS as FITTING_COLUMNS
from art.fittings import fittings
from art.glasshouse import glasshouse
from art.paving import paving
from art.props import all_props
from art.steam import steam
from art.terrains import TERRAINS, meeting, texture
from art.trims import gutter, parapet, planks, skylight
from art.yard import yard

ROOF_COLUMNS = 16
VARIANTS = {"slate": 5, "moss": 4, "gravel": 3, "soil": 4}
SKYLIGHTS = [(n, e, s, w) for n, s in ((0, 1), (1, 1), (1, 0)) for w, e in ((0, 1), (1, 1), (1, 0))]
ARMS = list(product((False, True), repeat=4))


def corner_combinations() -> list[tuple[str, str, str, str]]:
    """All corners of the roofs sheet in reading order."""
    return [(a, b, c, d) for a, b, c, d in product(TERRAINS, repeat=4)]


def roofs() -> np.ndarray:
    """16 x 17 tiles: every meeting of four terrains, and a row of variants."""
    tiles = [meeting(corners) for corners in corner_combinations()]
    for terrain, count in VARIANTS.items():
        for variant in range(1, count):
            tiles.append(np.dstack([texture(terrain, variant), np.full((SIZE, SIZE), 255, np.uint8)]))
    return _sheet(tiles, ROOF_COLUMNS)


def trims() -> np.ndarray:
    """8 columns: gutters, plank walks, parapets, skylights; the crossing of plank walks is not drawn yet."""
    blank = Tile().pixels
    tiles = [gutter(*arms).pixels if any(arms) else blank for arms in ARMS]
    tiles += [planks(*arms).pixels if any(arms) and not all(arms) else blank for arms in ARMS]
    tiles += [parapet(*arms).pixels for arms in ARMS]
    tiles += [skylight(*map(bool, arms)).pixels for arms in SKYLIGHTS]
    return _sheet(tiles, 8)


def props() -> np.ndarray:
    """Margin 3, spacing 2, gutters in a key colour."""
    rows = all_props()
    margin, spacing = 3, 2
    height = 2 * margin + len(rows) * (SIZE + spacing) - spacing
    width = 2 * margin + len(rows[0]) * (SIZE + spacing) - spacing
    sheet = np.zeros((height, width, 4), dtype=np.uint8)
    sheet[:] = (*KEY, 255)
    for row, tiles in enumerate(rows):
        for column, tile in enumerate(tiles):
            top, left = margin + row * (SIZE + spacing), margin + column * (SIZE + spacing)
            sheet[top : top + SIZE, left : left + SIZE] = tile.pixels if tile else 0
    return sheet


def write_sheets(folder: Path) -> None:
    """Draws all sheets into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    drawn = {
        "roofs": roofs(),
        "trims": trims(),
        "props": props(),
        "yard": yard(),
        "glasshouse": glasshouse(),
        "paving": paving(),
        "steam": steam(),
        "basins": _sheet(basins(), 8),
        "comb": comb(),
        "fittings": _sheet([tile.pixels for tile in fittings()], FITTING_COLUMNS),
    }
    for name, pixels in drawn.items():
        buffer = io.BytesIO()
        Image.fromarray(pixels).save(buffer, "PNG", optimize=True)
        (folder / f"{name}.png").write_bytes(buffer.getvalue())


def _sheet(tiles: list[np.ndarray], columns: int) -> np.ndarray:
    rows = -(-len(tiles) // columns)
    sheet = np.zeros((rows * SIZE, columns * SIZE, 4), dtype=np.uint8)
    for number, tile in enumerate(tiles):
        top, left = number // columns * SIZE, number % columns * SIZE
        sheet[top : top + SIZE, left : left + SIZE] = tile
    return sheet
