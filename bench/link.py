"""How large deliveries are and how soon a reader knows of an edit: .venv/bin/python bench/link.py [SIDE]

On a ground of terrain, edges and tiles, 1024 x 1024 cells if not said otherwise; times in milliseconds.
"""

import json
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from websockets.sync.client import connect

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests"))
from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.hub import Hub
from knitground.core.deliver.link import Link
from knitground.core.edits.grounds import resize_ground
from knitground.core.project.derived import Derived
from making import make_document, poke, tile

EDITS = 60


def grown(side: int):
    """A large ground with something on each of its layers."""
    document = make_document()
    resize_ground(document, "ground", side, side)
    rng = np.random.default_rng(1)
    poke(document, "areas", "corners", np.s_[:, :], rng.integers(1, 4, (side + 1, side + 1)))
    code = document.palette.code(tile(6, 3))
    poke(document, "things", "cells", np.s_[:, :], code * (rng.random((side, side)) < 0.2))
    return document


def sizes() -> None:
    """What a map of 512 x 512 with its layers weighs as JSON."""
    derived = Derived(grown(512))
    for options in ({}, {"packed": True}):
        with tempfile.TemporaryDirectory() as folder:
            start = time.perf_counter()
            EXPORTERS["json"].write(derived, "ground", Path(folder) / "map.json", options=options)
            took = time.perf_counter() - start
            size = (Path(folder) / "map.json").stat().st_size
        print(f"json of 512 x 512 {options or 'plain'}: {size / 1e6:.2f} MB in {took * 1000:.0f} ms")


def latency(side: int) -> None:
    """How long it takes from an edit to its message at a reader."""
    document = grown(side)
    derived = Derived(document)
    derived.knitted("ground")
    hub = Hub(derived)
    took: dict[str, list[float]] = {"knitting": [], "telling": [], "all": []}
    document.listeners.append(lambda change: at.append(time.perf_counter()))
    document.listeners.append(hub.update)
    at: list[float] = []
    board = document.project.grounds[0].board
    link = Link(hub, hub.follow, lambda said: None, lambda: None)
    link.start()
    with connect(link.socket_address, max_size=2**28) as game:
        start = time.perf_counter()
        whole = [game.recv(timeout=60) for _ in range(2)][1]
        print(f"{side} x {side}: whole {len(whole) / 1e6:.1f} MB after {(time.perf_counter() - start) * 1000:.0f} ms")
        rng = np.random.default_rng(2)
        length = 0
        for _ in range(EDITS):
            y, x = rng.integers(4, side - 8, 2)
            at.clear()
            start = time.perf_counter()
            shape = board.disc("corners", (y, x), (y + 3, x + 3), 2.0)
            document.paint("edit", "ground", "areas", "corners", shape, int(rng.integers(1, 4)))
            done = time.perf_counter()
            message = game.recv(timeout=10)
            there = time.perf_counter()
            while json.loads(message)["type"] != "cells":
                message = game.recv(timeout=10)
                there = time.perf_counter()
            length = max(length, len(message))
            took["knitting"].append(at[0] - start)
            took["telling"].append(done - at[0])
            took["all"].append(there - start)
            # Whatever else follows of this edit.
            time.sleep(0.02)
            while True:
                try:
                    game.recv(timeout=0)
                except TimeoutError:
                    break
    link.stop()
    for name, times in took.items():
        ms = np.array(times) * 1000
        print(f"  {name}: median {np.median(ms):.1f}, 95 % {np.percentile(ms, 95):.1f}, most {ms.max():.1f}")
    print(f"  largest message {length} bytes")


if __name__ == "__main__":
    sizes()
    latency(int(sys.argv[1]) if len(sys.argv) > 1 else 1024)
