"""What the plain way of doing each thing costs beside ours, in one run: a loop over cells, a paste for each tile.

The plain ways are written as one would at first, in Python and Pillow, on a part that they can do in a second or two;
what they would take for the whole is told from that, since all of them grow with the number of cells.

.venv/bin/python bench/plain.py
"""

import copy
import json
import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PIL import Image

import measure
from knitground.core.edits.painting import Hand, stroke
from knitground.core.grid.projection import PixelRect
from knitground.core.grow.agreeing import SIDE_STEPS
from knitground.core.grow.fitting import Rules, fill, rect_field
from knitground.core.joins.knit import knit
from knitground.core.joins.lattice import places_round
from knitground.core.joins.table import compile_table
from knitground.core.project.derived import Derived
from making import make_document, poke, sheet_of_tiles, tile


def told(what: str, ours: float, plain: float) -> None:
    """A line: what it is, how long it takes here, how long the plain way."""
    print(f"{what}: {1e3 * ours:.1f} ms, plainly {1e3 * plain:.0f} ms, {plain / ours:.0f} x", flush=True)


def knitting(side: int = 1024, part: int = 256) -> None:
    """Tiles for a painted ground, against a dictionary asked for each cell."""
    rows = {n + 1: (n & 1, n >> 1 & 1, n >> 2 & 1, n >> 3 & 1) for n in range(16)}
    rows = {number: tuple(1 + label for label in labels) for number, labels in rows.items()}
    joins, corners = compile_table(rows, {}, 2), measure.patches(side + 1, side + 1, 2)
    ours = measure.best(lambda: knit(places_round({"corners": corners}, "corner"), joins, seed=1), 5)
    by_labels = {labels: number for number, labels in rows.items()}
    lists = corners[: part + 1, : part + 1].tolist()
    began = time.perf_counter()
    for y in range(part):
        for x in range(part):
            by_labels[lists[y][x], lists[y][x + 1], lists[y + 1][x + 1], lists[y + 1][x]]
    told(f"knit {side} x {side} corners", ours, (time.perf_counter() - began) * (side / part) ** 2)


def drawing() -> None:
    """A window's worth of four layers, against a paste for each tile with Pillow."""
    document = make_document(256, 256)
    random = np.random.Generator(np.random.PCG64(3))
    codes = np.array([document.palette.code(tile(n, 3)) for n in range(16)], dtype=np.int32)
    poke(document, "areas", "corners", np.s_[:], measure.patches(257, 257, 2))
    poke(document, "things", "cells", np.s_[:], codes[random.integers(0, 16, (256, 256))])
    derived = Derived(document)
    area = PixelRect(0, 0, 1280, 800)
    derived.pixels("ground", area)
    ours = measure.best(lambda: derived.pixels("ground", area), 5)
    tiles = [Image.fromarray(sheet_of_tiles(1, 1, seed=n)) for n in range(16)]
    cells = random.integers(0, 16, (100, 160)).tolist()

    def paste() -> None:
        picture = Image.new("RGBA", (1280, 800))
        for _ in range(2):
            for y, row in enumerate(cells):
                for x, number in enumerate(row):
                    picture.alpha_composite(tiles[number], (8 * x, 8 * y))

    told("draw 1280 x 800 pixels of two full layers", ours, measure.best(paste, 3))


def stroking(side: int = 1024) -> None:
    """A stroke that can be undone, against a copy of the whole ground before it."""
    document = make_document(side, side)
    number = iter(range(10_000))

    def paint() -> None:
        spot = 20 + 3 * next(number) % 900
        stroke(document, "ground", "areas", Hand(terrain=1 + spot % 2, radius=4), (spot, 300), (spot, 306))

    lists = {layer: np.zeros((side, side), dtype=np.int32).tolist() for layer in "abcd"}
    told(f"a stroke on {side} x {side} that can be undone", measure.best(paint, 9),
         measure.best(lambda: copy.deepcopy(lists), 1))  # fmt: skip


def filling(side: int = 256, part: int = 24) -> None:
    """Filling to fit with 47 tiles, against looking through all cells for the least open one each time."""
    random = np.random.default_rng(3)
    rows = [tuple(row) for row in random.integers(0, 3, (47, 4)).tolist()]
    from knitground.core.grow.agreeing import allowed

    rules = Rules(allowed("edge", rows), np.ones(47))
    fill(rules, rect_field(8, 8, SIDE_STEPS, wraps=False), None, 1)
    ours = measure.best(lambda: fill(rules, rect_field(side, side, SIDE_STEPS, wraps=False), None, 5), 3)
    beside = [[{b for b in range(47) if rules.allowed[way, a, b]} for a in range(47)] for way in range(4)]
    field = rect_field(part, part, SIDE_STEPS, wraps=False)
    began = time.perf_counter()
    may = [set(range(47)) for _ in range(part * part)]
    while any(len(one) > 1 for one in may):
        least = min((n for n, one in enumerate(may) if len(one) > 1), key=lambda n: len(may[n]))
        may[least] = {min(may[least])}
        asked = [least]
        while asked:
            cell = asked.pop()
            for way in range(4):
                other = field.beside[way, cell]
                if other >= 0:
                    kept = may[other] & set().union(*(beside[way][a] for a in may[cell]))
                    if kept and kept != may[other]:
                        may[other] = kept
                        asked.append(other)
    # Looking through all cells for each makes the plain way grow with the square of their number; told as if it didn't.
    told(f"fill {side} x {side} to fit, 47 tiles", ours, (time.perf_counter() - began) * (side / part) ** 2)


def saving(side: int = 1024) -> None:
    """A ground as text, against a list of all its cells."""
    document = make_document(side, side)
    random = np.random.Generator(np.random.PCG64(3))
    codes = np.array([0, *(document.palette.code(tile(n, 3)) for n in range(16))], dtype=np.int32)
    poke(document, "things", "cells", np.s_[:], codes[random.integers(0, 17, (side, side))])
    from knitground.core.project.file import document_bytes

    ours = measure.best(lambda: document_bytes(document.state, document.palette), 3)
    cells = {layer: random.integers(0, 17, (side, side)).tolist() for layer in "abcd"}
    told(f"write {side} x {side}, four layers", ours, measure.best(lambda: json.dumps(cells, indent=1), 1))


if __name__ == "__main__":
    for group in (knitting, drawing, stroking, filling, saving):
        group()
