"""What takes the window away from somebody with a large old project, and for how long.

A platform game of ten grounds: one of 2048 x 2048 cells with eight layers and 5,000 things, a set of 400 stitches,
recipes of 60 steps in all. While each thing is done in the window, a clock asks every five milliseconds to be let in;
told is the longest that it had to wait.

.venv/bin/python bench/old_project.py
"""

import os
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()

import numpy as np
from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication, QLineEdit

import measure
from knitground.app.finder import Finder
from knitground.app.main import make_application, open_window
from knitground.app.session import STAGES
from knitground.core.edits.grounds import add_ground, resize_ground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.painting import Hand, stroke
from knitground.core.edits.things import put
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps.noise import NoiseStep
from knitground.core.joins.sets import Terrain
from knitground.core.layers.stitched import PLAN
from knitground.core.layers.thing import Thing
from knitground.core.project.delivery import Delivery
from knitground.core.project.document import Document
from knitground.core.tiles.notes import Property
from knitground.core.walk.side import VIEW
from making import make_document, one_course, png, poke, sheet_of_tiles, tile
from stitch_cases import drawn_stitch

SIDE, STITCHES, THINGS, GROUNDS, STEPS = 2048, 400, 5_000, 10, 60


def aged_project() -> Document:
    """The project, as it might lie on the disk of somebody who has worked on it for years."""
    random = np.random.Generator(np.random.PCG64(11))
    document = make_document(SIDE, SIDE)
    marks = tuple(Terrain(f"Mark {n}", "ABCDEFGH"[n], "#808080") for n in range(8))
    stitches = [drawn_stitch(random, number, 3, 8) for number in range(STITCHES)]
    drawn = [
        replace(one, pieces=(replace(one.pieces[0], tile=tile(n % 16, n // 16 % 4)),)) for n, one in enumerate(stitches)
    ]
    many = one_course("many", "Many", marks, *drawn)
    project = replace(document.project, stitch_sets=(*document.project.stitch_sets, many))
    document.define("many", project)
    for name, set_id, kind in (
        ("Many", "many", None),
        ("Back", None, None),
        ("Front", None, None),
        ("People", None, "props"),
    ):
        add_layer(document, "ground", name, set_id, kind)
    poke(document, "areas", "corners", np.s_[:], measure.patches(SIDE + 1, SIDE + 1, 2, 40))
    poke(document, "many", PLAN, np.s_[:], measure.patches(SIDE, SIDE, 9, 30) - 1)
    codes = np.array([document.palette.code(tile(n, 3)) for n in range(16)], dtype=np.int32)
    for layer, share in (("things", 0.1), ("back", 0.3), ("front", 0.05)):
        cells = np.where(random.random((SIDE, SIDE)) < share, codes[random.integers(0, 16, (SIDE, SIDE))], 0)
        poke(document, layer, "cells", np.s_[:], cells)
    spots = random.integers(0, SIDE * 8, (THINGS, 2))
    things = tuple(Thing(str(n), float(x), float(y), tile=tile(n % 16, 3)) for n, (x, y) in enumerate(spots.tolist()))
    for number in range(1, GROUNDS):
        name = add_ground(document, f"Ground {number}", 64, 64, (8, 8))
        add_layer(document, name, "Areas", "areas")
    ground, *others = document.project.grounds
    layers = tuple(replace(one, things=things) if one.id == "people" else one for one in ground.layers)
    said = {VIEW: Property("text", "side")}
    each = STEPS // GROUNDS
    recipes = tuple(
        Recipe(f"r{n}", f"Recipe {n}", one.id, steps=tuple(NoiseStep("areas", 1 + step % 2) for step in range(each)))
        for n, one in enumerate((ground, *others))
    )
    grounds = (replace(ground, layers=layers, properties=said), *others)
    handed = (Delivery("game", "Game", "json"), Delivery("rows", "Rows", "csv", ("ground",)))
    document.define("grounds", replace(document.project, grounds=grounds, recipes=recipes, deliveries=handed))
    return document


class Clock:
    """How long the window was away at a time."""

    def __init__(self) -> None:
        self._timer = QTimer(interval=5)
        self._timer.timeout.connect(self._tick)
        self._last, self.longest = time.perf_counter(), 0.0
        self._timer.start()

    def _tick(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, now - self._last)
        self._last = now

    def over(
        self, act: Callable[[], object], until: Callable[[], bool] = lambda: True, settle: float = 0.4
    ) -> tuple[float, float]:
        """The longest wait, and the whole time until it is done; in milliseconds."""
        self._last, self.longest = time.perf_counter(), 0.0
        began, loop, done = self._last, QEventLoop(), 0.0
        QTimer.singleShot(0, act)
        poll = QTimer(interval=20)

        def look() -> None:
            nonlocal done
            if until():
                done = done or time.perf_counter()
                if time.perf_counter() - done > settle:
                    loop.quit()

        poll.timeout.connect(look)
        poll.start()
        loop.exec()
        self._tick()
        return self.longest * 1e3, (done - began) * 1e3


def main() -> None:
    """Prints the longest wait for each thing that is done."""
    folder = Path(tempfile.mkdtemp()) / "old"
    aged_project().save(folder)
    size = sum(path.stat().st_size for path in folder.rglob("*") if path.is_file())
    print(f"{SIDE} x {SIDE}, {STITCHES} stitches, {THINGS} things, {STEPS} steps: {size / 2**20:.1f} MB")
    window = open_window(make_application(), None)
    window.resize(1280, 800)
    session, clock = window.session, Clock()

    def tell(title: str, *how: object) -> None:
        longest, whole = clock.over(*how)
        print(f"{title}: away {longest:.0f} ms at most, done after {whole:.0f} ms", flush=True)

    tell("come up", lambda: None, lambda: True, 1.0)
    tell("open", lambda: window.keeper.open_path(folder), lambda: bool(session.document.project.grounds))
    view = window.ground.view
    for stage in STAGES:
        tell(f"stage {stage}", lambda stage=stage: session.set_stage(stage))
        if stage == "stitches":
            tell("the set of 400 stitches", lambda: session.choose(stitch_set_id="many"))
    tell("zoom in", lambda: view.set_zoom(2))
    tell("go elsewhere", lambda: view.centre_on(9000, 9000))
    tell("see the whole", lambda: window.commands.action("See the whole ground").trigger())
    tell("all checks", lambda: None, lambda: True, 6.0)

    def paint() -> None:
        stroke(session.document, "ground", "areas", Hand(terrain=2, radius=4), (1000, 1000), (1000, 1010))

    tell("a stroke of terrain", paint)
    tell(
        "a stroke of stitches",
        lambda: stroke(session.document, "ground", "many", Hand(terrain=2, radius=4), (1000, 1000), (1000, 1010)),
    )
    tell("undo", session.document.undo)

    def relabel() -> None:
        joins = session.document.project.join_sets[0]
        labels = dict(joins.labels)
        labels[tile(3, 0)] = (2, 2, 2, 2)
        put(session.document, "label", "join_sets", replace(joins, labels=labels))

    tell("change a label", relabel)
    session.set_stage("sheet")
    window.panels["sheet"].show_work("Tiles")
    tell("choose all tiles", lambda: session.choose(selection=frozenset(window.panels["sheet"].view.tiles())))
    session.set_stage("ground")
    tell("select all", lambda: window.commands.action("Select all").trigger())
    session.choose(layer_id="people")
    tell("choose the layer of things", lambda: None)
    tell("show what blocks", lambda: window.commands.action("Show or hide what blocks").trigger(), lambda: True, 2.0)
    tell("the next ground", lambda: window.commands.action("The next ground").trigger())
    tell("the ground before", lambda: window.commands.action("The ground before").trigger())
    grown, trial = window.panels["grow"].recipe, window.trial
    session.set_stage("grow")
    idle = [lambda: trial.running and bool(trial.after), lambda: not trial.running]
    tell("six steps tried on all of 2048 x 2048", grown.try_it, idle[0], 2.0)
    tell("look at what the third step lays", lambda: trial.look_at(2), lambda: True, 1.0)
    tell("keep what is tried", trial.keep, idle[1], 4.0)
    tell("take it back", session.document.undo, lambda: True, 4.0)
    tell("do it again", session.document.redo, lambda: True, 4.0)
    tell("take it back once more", session.document.undo, lambda: True, 4.0)
    session.set_stage("ground")
    tell("open the finder", lambda: window.commands.action("Find a command or a name").trigger())
    finder = window.findChild(Finder)
    tell("find something by name", lambda: finder.findChild(QLineEdit).setText("ground 7"))
    finder.close()
    art = folder / "sheets" / "art.png"
    redrawn = png(sheet_of_tiles(16, 4, seed=9))
    tell("redraw the sheet beside it", lambda: art.write_bytes(redrawn), lambda: True, 3.0)
    skin, sheets = folder.parent / "skin.png", window.panels["sheet"]
    skin.write_bytes(png(sheet_of_tiles(16, 4, 8, 1, 2, seed=10)))
    session.set_stage("sheet")
    asked = QApplication.activeModalWidget
    tell(
        "another sheet in its place: show what goes where",
        lambda: sheets.exchange_for(skin),
        lambda: asked() is not None,
    )
    tell("another sheet in its place: take it", lambda: asked().take.click(), lambda: asked() is None, 4.0)
    session.set_stage("ground")
    tell("take the sheet back", session.document.undo, lambda: True, 4.0)
    tell("take it again", session.document.redo, lambda: True, 4.0)
    tell("a larger ground", lambda: resize_ground(session.document, "ground", SIDE + 2, SIDE + 2), lambda: True, 2.0)
    tell("save", window.keeper.save, lambda: not session.document.changed)
    runs = window.panels["deliver"].runs
    tell(
        "deliver all",
        lambda: runs.run("game", "rows"),
        lambda: not (runs.is_running("game") or runs.is_running("rows")),
    )
    os._exit(0)


if __name__ == "__main__":
    main()
