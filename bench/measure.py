"""What knitting, painting and looking cost, as ratios within one run.

.venv/bin/python bench/measure.py            all figures
.venv/bin/python bench/measure.py knit       one group: knit, full, cells, stitches, brush, stroke, frames, moving,
                                             changes, check or start
"""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from itertools import product
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests"))

from dataclasses import replace

import numpy as np

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.square import SquareBoard
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.joins.cells import STEPS, combinations, compile_cells, knit_cells
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.knit import knit
from knitground.core.joins.lattice import places_round
from knitground.core.joins.table import compile_table
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import make_document, png, poke, sheet_of_tiles, tile, with_labels_removed
from stitch_cases import measure_stitches

SIDE = 4096
DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"


def best(act: Callable[[], object], times: int = 7) -> float:
    """The shortest of several runs, in seconds."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        found.append(time.perf_counter() - began)
    return min(found)


def patches(height: int, width: int, terrains: int, size: int = 24) -> np.ndarray:
    """A lattice as people paint it: patches of terrain."""
    random = np.random.Generator(np.random.PCG64(5))
    small = random.integers(1, terrains + 1, (height // size + 2, width // size + 2)).astype(np.uint8)
    return np.repeat(np.repeat(small, size, axis=0), size, axis=1)[:height, :width]


def table(terrains: int, variants: int):
    """A complete corner set with variants of every combination."""
    labels = {}
    for number in range(terrains**4):
        row = tuple(number // terrains**place % terrains + 1 for place in range(4))
        for variant in range(variants):
            labels[1 + number * variants + variant] = row
    return compile_table(labels, {}, terrains)


def measure_knit() -> None:
    """Knitting 4096 x 4096 against one take of a lookup table by an index array of that shape."""
    random = np.random.Generator(np.random.PCG64(1))
    for title, lattice in (
        ("patches", patches(SIDE + 1, SIDE + 1, 4)),
        ("noise", random.integers(1, 5, (SIDE + 1, SIDE + 1)).astype(np.uint8)),
    ):
        joins = table(4, 2)
        lookup = np.arange(5**4, dtype=np.int32)
        index = np.zeros((SIDE, SIDE), dtype=np.intp)
        for place in (lattice[:-1, :-1], lattice[:-1, 1:], lattice[1:, 1:], lattice[1:, :-1]):
            index = index * 5 + place
        ratios = []
        for _ in range(5):
            take = best(lambda i=index, t=lookup: np.take(t, i), 3)
            knitting = best(lambda c=lattice, j=joins: knit(places_round({"corners": c}, "corner"), j, seed=1), 3)
            ratios.append(knitting / take)
        print(
            f"knit {SIDE} x {SIDE} corners, {title}: {statistics.median(ratios):.2f} x "
            f"one take ({take * 1e3:.0f} ms); goal 2"
        )


def measure_full() -> None:
    """Knitting 4096 x 4096 of a full set against one take of a lookup table by an index array of that shape."""
    labels = dict(enumerate(Coverage("full", {}, range(3)).combinations(), start=1))
    joins = compile_table(labels, {}, 2, kind="full", bare=True)
    corners = patches(SIDE + 1, SIDE + 1, 2)
    planes = {
        "corners": corners,
        "across": np.maximum(corners[:, :-1], corners[:, 1:]),
        "along": np.maximum(corners[:-1], corners[1:]),
    }
    lookup = np.arange(len(joins.starts), dtype=np.int32)
    index = np.random.Generator(np.random.PCG64(1)).integers(0, len(lookup), (SIDE, SIDE))
    ratios = []
    for _ in range(5):
        take = best(lambda: np.take(lookup, index), 3)
        ratios.append(best(lambda: knit(places_round(planes, "full"), joins, seed=1), 3) / take)
    print(
        f"knit {SIDE} x {SIDE} full joins of two terrains and nothing: {statistics.median(ratios):.2f} x one take "
        f"({take * 1e3:.0f} ms); goal 3"
    )


def measure_cells() -> None:
    """Knitting 4096 x 4096 painted by the cell against one take of a lookup table by an index array of that shape."""
    lone, full = (0,) * 8 + (1,), (1,) * 9
    labels = dict(enumerate(combinations([lone, full], 0), start=1))
    joins = compile_cells(labels, {}, 1)
    painted = np.pad(patches(SIDE, SIDE, 2) - 1, 1)
    cells = [painted[1 + down : 1 + down + SIDE, 1 + right : 1 + right + SIDE] for down, right in STEPS]
    lookup = np.arange(512, dtype=np.int32)
    index = np.random.Generator(np.random.PCG64(1)).integers(0, len(lookup), (SIDE, SIDE))
    ratios = []
    for _ in range(5):
        take = best(lambda: np.take(lookup, index), 3)
        ratios.append(best(lambda: knit_cells(cells, joins, seed=1), 3) / take)
    print(f"knit {SIDE} x {SIDE} cells: {statistics.median(ratios):.2f} x one take ({take * 1e3:.0f} ms); goal 3")


def measure_brush() -> None:
    """A stroke of a brush of 100 x 100 on three join layers: of a complete set, an incomplete and a random one."""
    random = np.random.Generator(np.random.PCG64(2))
    every = list(product((1, 2, 3), repeat=4))
    sets = {
        "complete": every,
        "a chain of terrains": [row for row in every if not {1, 3} <= set(row)],
        "half of all at random": [row for row in every if len(set(row)) == 1 or random.random() < 0.5],
    }
    for name, rows in sets.items():
        layers = tuple(TerrainLayer(f"{name} {number}", name, name, "corner") for number in range(3))
        tables = {layer.id: compile_table(dict(enumerate(rows, start=1)), {}, 3) for layer in layers}
        ground = Ground("g", "G", 1024, 1024, 16, 16, layers)
        planes = {layer.id: {"corners": Plane.of(patches(1025, 1025, 3, 90))} for layer in layers}
        knitted = Knitted(ground, planes, tables, 1)
        for layer in layers:
            knitted.codes(layer.id, CellRect(0, 0, 1024, 1024))
        times = []
        for number in range(12):
            spot = 200 + 50 * number
            rect, mask = ground.board.disc("corners", (spot, 400), (spot, 400), 50)
            began = time.perf_counter()
            for layer in layers:
                old = planes[layer.id]["corners"]
                new = old.written(rect, np.where(mask, 1 + 2 * (number % 2), old.read(rect)))
                planes[layer.id] = {"corners": new}
                knitted.touched(layer.id, "corners", rect, planes[layer.id])
            times.append((time.perf_counter() - began) * 1e3)
        print(
            f"brush of 100 x 100 on three join layers, {name}: median {statistics.median(times):.0f} ms, "
            f"worst {max(times):.0f} ms; goal 50"
        )


def measure_stroke() -> None:
    """A brush stroke of radius 4 on a small and on a large ground, with all that follows it."""
    from PySide6.QtWidgets import QApplication

    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.main import make_application
    from knitground.app.session import Session

    make_application()
    found = {}
    for side in (256, SIDE):
        session = Session()
        session.open(make_document(side, side))
        session.wait_for_checks()
        view = GroundView(session)
        view.resize(640, 620)
        view.show()
        view.set_zoom(1)
        view.centre_on(side * 4, side * 4)
        QApplication.processEvents()
        view.grab()
        document, middle, times = session.document, side // 2, []
        for number in range(60):
            start = (middle - 20 + number % 40, middle - 20 + number * 7 % 40)
            shape = SquareBoard(side, side).disc("corners", start, (start[0], start[1] + 6), 4)
            began = time.perf_counter()
            document.begin("stroke")
            document.paint("draw", "ground", "areas", "corners", shape, 1 + (number + 1) % 2)
            document.commit()
            view.repaint()
            QApplication.processEvents()
            times.append(time.perf_counter() - began)
            session.wait_for_checks()
        found[side] = statistics.median(times)
        session.wait_for_checks()
        view.deleteLater()
    print(
        f"stroke of radius 4, knit and repainted: {found[256] * 1e3:.1f} ms on 256 x 256, "
        f"{found[SIDE] * 1e3:.1f} ms on {SIDE} x {SIDE}: {found[SIDE] / found[256]:.2f} x; goal 1"
    )


def isometric_art(document) -> None:
    """Lets the test project have diamonds of 32 x 16, and tiles that stand twice as high."""
    pixels = np.repeat(np.repeat(sheet_of_tiles(16, 4), 2, axis=0), 4, axis=1)
    rows, columns = np.mgrid[0:16, 0:32]
    inside = np.abs(2 * rows - 15) / 16 + np.abs(2 * columns - 31) / 32 <= 1
    pixels[:, :, 3] *= np.tile(inside, (4, 16))
    cuts = Cut("tiles", 32, 16), Cut("tall", 32, 32, anchor="bottom")
    sheet = replace(document.project.sheets[0], cuts=cuts)
    ground = replace(document.project.grounds[0], tile_width=32, tile_height=16)
    document.define(
        "art",
        replace(document.project, sheets=(sheet,), grounds=(ground,)),
        pictures={"art": Picture(png(pixels), pixels)},
    )


def eight_layers(grid: str, side: int = 1024):
    """A painted ground with eight layers, two of them half transparent, one a shade."""
    document = make_document(side, side, grid)
    first = "tiles"
    if grid != "square":
        first = "tall"
        isometric_art(document)
    for name, set_id, kind in (
        ("More areas", "areas", None), ("More walls", "walls", None), ("More things", None, None),
        ("Shade", None, "shade"),
    ):  # fmt: skip
        add_layer(document, "ground", name, set_id, kind)
    for layer, changes in (("more-areas", {"opacity": 0.5}), ("more-things", {"opacity": 0.5, "tint": "#ffd0a0"})):
        change_layer(document, "ground", layer, "look", **changes)
    random = np.random.Generator(np.random.PCG64(2))
    board = document.project.grounds[0].board
    things = [TileRef("art", first, n, 1 if first == "tall" else 3) for n in range(16)]
    codes = np.array([document.palette.code(ref) for ref in things], dtype=np.int32)
    for layer in document.project.grounds[0].layers:
        planes = {}
        for name, spec in layer.specs.items():
            shape = board.shape(spec.on)
            if spec.later:
                continue
            if spec.codes:
                values = np.where(random.random(shape) < 0.2, codes[random.integers(0, 16, shape)], 0)
            elif spec.on == "corners":
                values = patches(*shape, 3) - (layer.kind == "shade") if layer.kind == "shade" else patches(*shape, 2)
            else:
                values = (random.random(shape) < 0.1).astype(np.uint8)
            planes[name] = Plane.of(values.astype(spec.dtype))
        document.put_planes("paint", "ground", {layer.id: planes})
    return document


def measure_frames() -> None:
    """Panning and zooming grounds of eight layers, two of them half transparent, in a window of 1280 x 800.

    A frame is due 60 times a second. Told is how long it takes, and how long after it was due it is done, in which
    work between frames counts where it is in the way.
    """
    from PySide6.QtCore import QPointF
    from PySide6.QtWidgets import QApplication

    from knitground.app.main import make_application, open_window

    window = open_window(make_application(), None)
    window.resize(1280, 800)

    def frames(move: Callable[[int], None], count: int) -> tuple[list[float], list[float]]:
        times, late, due = [], [], time.perf_counter()
        for number in range(count):
            while time.perf_counter() < due:
                QApplication.processEvents()
            began = time.perf_counter()
            move(number)
            view.repaint()
            done = time.perf_counter()
            times.append((done - began) * 1e3)
            late.append((done - due) * 1e3)
            due = max(due + 1 / 60, done)
        return times, late

    def pan(number: int) -> None:
        view._move_to(view.origin - QPointF(23, 11))

    def zoom_out(number: int) -> None:
        if number % 6 == 0:
            window.ground.view.zoom_by(-1)

    def tell(title: str, found: tuple[list[float], list[float]]) -> None:
        times, late = found
        print(
            f"{title}: median {statistics.median(times):.1f} ms, worst of {len(times)} {max(times):.1f} ms; goal 16; "
            f"done {statistics.median(late):.1f} ms after it was due, at worst {max(late):.1f}"
        )

    for grid in ("square", "diamond", "staggered"):
        document = eight_layers(grid)
        window.session.open(document)
        window.session.wait_for_checks()
        view = window.ground.view
        width, height = view.content_size()
        view.set_zoom(1)
        view.centre_on(width / 2, height / 2)
        QApplication.processEvents()
        tell(f"frame, {grid}, eight layers, panning at 100 %", frames(pan, 240))
        view.set_zoom(2)
        tell(f"frame, {grid}, panning at 200 %", frames(pan, 120))
        out = frames(zoom_out, 72)
        tell(f"frame, {grid}, zooming out to the whole", out)
        tell(f"frame, {grid}, panning the whole", frames(pan, 60))
        document.discard_changes()
    window.close()


def measure_changes() -> None:
    """What a snapshot, a step back and a record of the journal cost, on small and large grounds."""
    from knitground.core.project.journal import Journal

    for side in (256, SIDE):
        document = make_document(side, side)
        with tempfile.TemporaryDirectory() as folder:
            journal = Journal(Path(folder) / "journal")
            journal.begin(document.state, list(document.palette.refs), None, None)
            journal.add(document.state, document.palette)
            sizes = []
            for number in range(20):
                spot = side // 4 + 3 * number
                stroke(
                    document, "ground", "areas", Hand(terrain=1 + number % 2, radius=4), (spot, spot), (spot, spot + 6)
                )
                sizes.append(journal.add(document.state, document.palette))
            journal.forget()
        snapshot = best(lambda d=document: d.state, 50)
        print(f"snapshot of {side} x {side}: {snapshot * 1e6:.1f} us; goal 1000")
        print(f"journal of {side} x {side}: {statistics.median(sizes):.0f} bytes for a stroke of radius 4")
    for behind in (10, 3000):
        document = make_document(1024, 1024)
        for number in range(behind):
            spot = 20 + number % 900
            stroke(document, "ground", "areas", Hand(terrain=1 + number % 2, radius=4), (spot, 300), (spot, 306))
        times = []
        for _ in range(9):
            began = time.perf_counter()
            document.undo()
            document.redo()
            times.append((time.perf_counter() - began) / 2)
        print(f"undo or redo with {behind} steps behind: {statistics.median(times) * 1e3:.2f} ms")
    document = make_document(1024, 1024)
    for number in range(200):
        area(document, "ground", "things", Hand(tile(number % 16, 3)), (0, 0), (500, 500))
    print(
        f"200 fills of 500 x 500: {document.history.nbytes / 2**20:.1f} MB of history, {document.history.dropped} lost"
    )


def measure_check() -> None:
    """The ledger after a stroke on a ground of 1024 x 1024 with an incomplete set."""
    from knitground.core.project.derived import Derived
    from knitground.core.project.ledger import Ledger

    document = make_document(1024, 1024)
    with_labels_removed(document, 5)
    poke(document, "areas", "corners", np.s_[:], patches(1025, 1025, 2, 40))
    derived = Derived(document)
    ledger = Ledger(derived)
    began = time.perf_counter()
    ledger.take(ledger.job()(lambda share: None))
    first = time.perf_counter() - began
    # What the window shows has been knit.
    derived.knitted("ground").codes("areas", CellRect(0, 0, 1024, 1024))
    times, strokes = [], []
    for number in range(12):
        spot = 100 + 60 * number
        began = time.perf_counter()
        stroke(document, "ground", "areas", Hand(terrain=1 + number % 2, radius=6), (spot, 400), (spot + 4, 420))
        strokes.append((time.perf_counter() - began) * 1e3)
        began = time.perf_counter()
        ledger.reach(derived.reached)
        assert ledger.look()
        found = ledger.findings
        times.append((time.perf_counter() - began) * 1e3)
    assert found
    print(
        f"check after a stroke on 1024 x 1024, incomplete set: median {statistics.median(times):.1f} ms, "
        f"worst {max(times):.1f} ms (the stroke itself {statistics.median(strokes):.0f} ms); goal 50"
    )
    print(f"first check of it, beside the window: {first:.1f} s")


def measure_moving() -> None:
    """The demo at 100 %, with all that moves: a frame at which animations change, and one at which they don't."""
    from knitground.app.main import make_application, open_window

    app = make_application()
    window = open_window(app, DEMO)
    window.resize(1280, 800)
    view = window.ground.view
    view.set_zoom(1)
    view.centre_on(512, 384)
    app.processEvents()
    clock = window.session.clock
    clock.pause(True)
    view.repaint()
    times: dict[bool, list[float]] = {True: [], False: []}
    for number in range(240):
        before = clock.playing.moment(clock.ms)
        clock._held = 45 * number
        began = time.perf_counter()
        view.repaint()
        times[clock.playing.moment(clock.ms) != before].append((time.perf_counter() - began) * 1e3)
    for changes, title in ((True, "frame at which animations change"), (False, "frame between")):
        print(f"{title}: median {statistics.median(times[changes]):.1f} ms, worst {max(times[changes]):.1f}; goal 16")
    window.close()


def measure_start() -> None:
    """From the command to the window with the demo in it, and the command line alone."""
    code = (
        "import os; from pathlib import Path; from knitground.app.main import make_application, open_window; "
        f"app = make_application(); window = open_window(app, Path({str(DEMO)!r})); app.processEvents(); "
        "window.ground.view.repaint(); os._exit(0)"
    )
    times = []
    for _ in range(4):
        began = time.perf_counter()
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)
        times.append(time.perf_counter() - began)
    alone = best(lambda: subprocess.run([sys.executable, "-c", "import knitground.cli"], check=True), 4)
    bare = best(lambda: subprocess.run([sys.executable, "-c", "pass"], check=True), 4)
    print(f"window up with the demo: {min(times[1:]):.2f} s from the second start on; goal 2")
    print(f"command line imported: {alone * 1e3:.0f} ms, {alone / bare:.1f} x an empty Python")


GROUPS = {
    "knit": measure_knit,
    "full": measure_full,
    "cells": measure_cells,
    "stitches": lambda: measure_stitches(best, patches),
    "brush": measure_brush,
    "stroke": measure_stroke,
    "frames": measure_frames,
    "moving": measure_moving,
    "changes": measure_changes,
    "check": measure_check,
    "start": measure_start,
}

if __name__ == "__main__":
    for wanted in sys.argv[1:] or GROUPS:
        GROUPS[wanted]()
