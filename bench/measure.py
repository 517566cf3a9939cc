"""What knitting, painting and looking cost, as ratios within one run.

.venv/bin/python bench/measure.py            all figures
.venv/bin/python bench/measure.py knit       one group: knit, full, brush, stroke, frames, moving, start
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

import numpy as np

from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import swept_disc
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.knit import knit
from knitground.core.joins.table import compile_table
from knitground.core.layers.terrain import TerrainLayer
from making import make_document, tile

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
            knitting = best(lambda c=lattice, j=joins: knit({"corners": c}, j, seed=1), 3)
            ratios.append(knitting / take)
        print(
            f"knit {SIDE} x {SIDE} corners, {title}: {statistics.median(ratios):.2f} x "
            f"one take ({take * 1e3:.0f} ms); goal 3"
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
        ratios.append(best(lambda: knit(planes, joins, seed=1), 3) / take)
    print(
        f"knit {SIDE} x {SIDE} full joins of two terrains and nothing: {statistics.median(ratios):.2f} x one take "
        f"({take * 1e3:.0f} ms); goal 4"
    )


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
        planes = {layer.id: {"corners": patches(1025, 1025, 3, 90)} for layer in layers}
        knitted = Knitted(ground, planes, tables, 1)
        for layer in layers:
            knitted.codes(layer.id, CellRect(0, 0, 1024, 1024))
        times = []
        for number in range(12):
            spot = 200 + 50 * number
            shape = swept_disc((1025, 1025), (spot, 400), (spot, 400), 50)
            began = time.perf_counter()
            for layer in layers:
                part = planes[layer.id]["corners"][shape.window.rows, shape.window.columns]
                part[shape.mask] = 1 + 2 * (number % 2)
                knitted.touched(layer.id, shape.window)
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
            shape = swept_disc((side + 1, side + 1), start, (start[0], start[1] + 6), 4)
            began = time.perf_counter()
            document.begin("stroke")
            document.paint("draw", "ground", "areas", "corners", shape, 1 + (number + 1) % 2)
            document.commit()
            view.repaint()
            QApplication.processEvents()
            times.append(time.perf_counter() - began)
            session._settle.stop()
        found[side] = statistics.median(times)
        session.wait_for_checks()
        view.deleteLater()
    print(
        f"stroke of radius 4, knit and repainted: {found[256] * 1e3:.1f} ms on 256 x 256, "
        f"{found[SIDE] * 1e3:.1f} ms on {SIDE} x {SIDE}: {found[SIDE] / found[256]:.2f} x; goal 1"
    )


def measure_frames() -> None:
    """Panning and zooming a large ground with three layers in a window of 1280 x 800."""
    from PySide6.QtCore import QPointF
    from PySide6.QtWidgets import QApplication

    from knitground.app.main import make_application

    make_application()
    window = CellRect()
    window.resize(1280, 800)
    window.show()
    document = make_document(SIDE, SIDE)
    planes = document.state.planes["ground"]
    planes["areas"]["corners"][:] = patches(SIDE + 1, SIDE + 1, 2)
    planes["lines"]["along"][::9] = 1
    random = np.random.Generator(np.random.PCG64(2))
    scattered = random.random((SIDE, SIDE)) < 0.1
    planes["things"]["cells"][scattered] = document.palette.code(tile(3, 3))
    window.session.open(document)
    window.session.wait_for_checks()
    view = window.ground.view
    view.set_zoom(1)
    view.centre_on(SIDE * 4, SIDE * 4)
    QApplication.processEvents()

    def frames(move: Callable[[int], None], count: int) -> list[float]:
        times = []
        for number in range(count):
            began = time.perf_counter()
            move(number)
            view.repaint()
            times.append((time.perf_counter() - began) * 1e3)
            QApplication.processEvents()
        return times

    def pan(number: int) -> None:
        view._move_to(view.origin - QPointF(23, 11))

    def tell(title: str, times: list[float]) -> None:
        print(f"{title}: median {statistics.median(times):.1f} ms, worst of {len(times)} {max(times):.1f} ms; goal 16")

    tell("frame, panning at 100 %", frames(pan, 240))
    view.set_zoom(2)
    tell("frame, panning at 200 %", frames(pan, 120))
    out = frames(lambda number: view.zoom_by(-1) if number % 6 == 0 else None, 72)
    tell("frame, zooming out to the whole", out)
    tell("frame, panning the whole", frames(pan, 60))
    window.session.document.mark_saved(Path(tempfile.gettempdir()), window.session.document.last_edit)
    window.close()


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
    times: dict[bool, list[float]] = {True: [], False: []}
    for number in range(120):
        if number % 2 == 0:
            view._moving.forget()
        began = time.perf_counter()
        view.repaint()
        times[number % 2 == 0].append((time.perf_counter() - began) * 1e3)
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
    "brush": measure_brush,
    "stroke": measure_stroke,
    "frames": measure_frames,
    "moving": measure_moving,
    "start": measure_start,
}

if __name__ == "__main__":
    for wanted in sys.argv[1:] or GROUPS:
        GROUPS[wanted]()
