"""The two readers that ship as examples draw what is delivered, each from the files alone."""

import ast
import base64
import json
import shutil
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import readers
from browser import Browser, a_browser, served
from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.hub import Hub
from knitground.core.deliver.link import Link
from knitground.core.edits.layers import put_layer
from knitground.core.grid import GRIDS
from knitground.core.grid.plane import Plane
from knitground.core.grid.projection import PixelRect
from knitground.core.joins.sets import Terrain
from knitground.core.layers.light import Light
from knitground.core.layers.props import PropLayer
from knitground.core.layers.shade import ShadeLayer
from knitground.core.layers.thing import Thing
from knitground.core.layers.tiles import TileLayer
from knitground.core.layers.walking import WalkLayer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.playing import playing
from knitground.core.render.compositor import render
from knitground.core.render.scene import scene_of
from knitground.core.render.scrolled import scrolled
from making import CORNERED, SIDE, make_document, poke, tile

TOP = Path(__file__).resolve().parents[1]
GROUNDS = ("long-roof", "glasshouse", "chimneys", "terrace", "comb")
DRAWN = """((area, ms, scrolled) => {
  const { said } = reader.shown.world;
  area ??= { x: 0, y: 0, width: said.picture_width, height: said.picture_height };
  const { data } = reader.draw(reader.shown.world, area, ms, scrolled);
  let text = "";
  for (let at = 0; at < data.length; at += 32768) text += String.fromCharCode(...data.subarray(at, at + 32768));
  return btoa(text);
})"""
WAYS = ({}, {"packed": True, "turned": "flags", "edge": 1, "side": 256})


@cache
def demo() -> Derived:
    return Derived(Document.load(TOP / "demo" / "apiary"))


def unkind(document: Document) -> Derived:
    """Layers that are moved, tinted and half clear, drawn by depth, with things that are turned and scaled."""
    areas, _, walls, things = document.project.grounds[0].layers
    rng = np.random.default_rng(3)
    codes = [document.palette.code(tile(column, 3)) for column in (3, 4, 6, 9)]
    turned = [code | turn << 24 for code in codes for turn in range(8)]
    poke(document, "things", "cells", np.s_[:, :], rng.choice([0, 0, *turned], size=(15, 20)))
    put_layer(document, "ground", "x", replace(areas, opacity=0.7, tint="#ffd0a0"))
    put_layer(document, "ground", "x", replace(things, offset_x=5, offset_y=-3, stacking="depth", opacity=0.6))
    placed = tuple(
        Thing(str(number), float(x), float(y), tile=tile(6, 3), turn=float(turn), scale=float(scale),
              mirrored=bool(number % 2))
        for number, (x, y, turn, scale) in enumerate(
            zip(rng.uniform(-5, 170, 40), rng.uniform(-5, 130, 40), rng.uniform(0, 359, 40) * (rng.random(40) < 0.6),
                rng.choice([1.0, 1.0, 2.5, 0.5], 40), strict=True)
        )
    )  # fmt: skip
    project = document.project
    ground = project.grounds[0]
    props = PropLayer("props", "Props", placed, order="hand", stacking="depth", tint="#a0ffd0", offset_x=-7)
    marks = WalkLayer("marks", "Marks", stacking="depth")
    layers = (*(one for one in ground.layers if one.id != walls.id), marks, props)
    state = document.state
    planes = {layer.id: state.planes["ground"].get(layer.id, {}) for layer in layers}
    planes["marks"] = {"cells": Plane.of(rng.integers(0, 3, (15, 20), dtype=np.uint8))}
    grounds = (replace(ground, layers=layers, background="#203040"),)
    state = state._replace(project=replace(project, grounds=grounds), planes={"ground": planes})
    return Derived(Document(state, document.palette))


def delivered(derived: Derived, ground: str, folder: Path, options: dict) -> np.ndarray:
    """Writes the JSON of a ground, and gives its picture."""
    EXPORTERS["json"].write(derived, ground, folder / "map.json", options=options)
    EXPORTERS["png"].write(derived, ground, folder / "map.png")
    return np.asarray(Image.open(folder / "map.png"))


@pytest.mark.parametrize("options", WAYS, ids=["plain", "packed"])
@pytest.mark.parametrize("ground", GROUNDS)
def test_the_python_reader_draws_the_demo(ground, options, tmp_path):
    expected = delivered(demo(), ground, tmp_path, options)
    assert readers.apart(readers.drawn(tmp_path / "map.json"), expected).max() <= 1


@pytest.mark.parametrize("options", WAYS, ids=["plain", "packed"])
def test_the_python_reader_draws_what_is_moved_tinted_turned_and_deep(options, document, tmp_path):
    expected = delivered(unkind(document), "ground", tmp_path, options)
    assert expected.shape[:2] == (15 * SIDE, 20 * SIDE)
    assert readers.apart(readers.drawn(tmp_path / "map.json"), expected).max() <= 1


@pytest.fixture(scope="module")
def page(tmp_path_factory) -> Iterator[Browser]:
    with a_browser(tmp_path_factory.mktemp("profile")) as browser:
        yield browser


def by_page(page: Browser, folder: Path) -> np.ndarray:
    """What the page draws of a map, as it keeps it before it is shown."""
    shutil.copy(readers.READERS / "knitground_reader.html", folder / "reader.html")
    with served(folder) as address:
        page.open(f"{address}/reader.html?map=map.json")
        page.wait_for("reader.shown.world !== null")
        width, height = page.value("[reader.shown.world.said.picture_width, reader.shown.world.said.picture_height]")
        text = page.value(f"{DRAWN}(null, null, false)")
    return np.frombuffer(base64.b64decode(text), np.uint8).reshape(height, width, 4)


def apart_premultiplied(found: np.ndarray, expected: np.ndarray) -> float:
    """By how many levels premultiplied pixels differ from a picture's."""
    alpha = expected[..., 3:] / 255
    shown = np.concatenate([expected[..., :3] * alpha, expected[..., 3:]], axis=2)
    return float(np.abs(found.astype(float) - shown).max())


@readers.needs("chromium")
@pytest.mark.parametrize("ground", GROUNDS)
def test_the_page_draws_the_demo(ground, page, tmp_path):
    expected = delivered(demo(), ground, tmp_path, WAYS[GROUNDS.index(ground) % 2])
    assert apart_premultiplied(by_page(page, tmp_path), expected) <= 1


@readers.needs("chromium")
@pytest.mark.parametrize("options", WAYS, ids=["plain", "packed"])
def test_the_page_draws_what_is_moved_tinted_turned_and_deep(options, page, document, tmp_path):
    expected = delivered(unkind(document), "ground", tmp_path, options)
    assert apart_premultiplied(by_page(page, tmp_path), expected) <= 1


@readers.needs("chromium")
def test_the_page_says_what_is_missing(page, tmp_path):
    delivered(demo(), "chimneys", tmp_path, {})
    (tmp_path / "map-tileset.png").unlink()
    shutil.copy(readers.READERS / "knitground_reader.html", tmp_path / "reader.html")
    with served(tmp_path) as address:
        page.open(f"{address}/reader.html?map=map.json")
        page.wait_for("document.getElementById('say').textContent.includes('map-tileset.png is missing')")


@readers.needs("chromium")
def test_the_page_begins_in_the_middle_where_the_corners_of_a_ground_are_bare(page, tmp_path):
    derived = Derived(make_document(160, 120, "diamond"))
    delivered(derived, "ground", tmp_path, {})
    by_page(page, tmp_path)
    left, right = page.value("[reader.shown.x, reader.shown.world.said.picture_width - reader.shown.x - innerWidth]")
    assert left > 0
    assert abs(left - right) <= 1, "as much is hidden on one side as on the other"
    assert not page.value("document.getElementById('how').hidden"), "how to move it is said"


@readers.needs("chromium")
def test_the_page_follows_what_is_drawn_live(page, document, tmp_path):
    derived = unkind(document)
    worked = derived.document
    hub = Hub(derived)
    worked.listeners.append(hub.update)
    link = Link(hub, hub.follow, lambda said: None, lambda: None)
    link.start()
    try:
        page.open(link.address)
        page.wait_for("reader.shown.world !== null")
        said = "document.getElementById('say').textContent"
        other = "g = document.getElementById('grounds'), g.dispatchEvent(new Event('change'))"
        assert page.value(f"{other}, {said}") == f"Fetching “{worked.project.grounds[0].name}”…"
        page.wait_for(f"{said}.endsWith('cells')")
        poke(worked, "things", "cells", np.s_[2:9, 3:12], worked.palette.code(tile(2, 3)))
        poke(worked, "areas", "corners", np.s_[4:8, 2:15], 3)
        props = worked.project.grounds[0].layer("props")
        changed = (replace(props.things[3], x=40.0, tile=tile(5, 3)), *props.things[9:])
        put_layer(worked, "ground", "move", replace(props, things=changed))
        page.wait_for(f"reader.shown.world.layers.at(-1).things.length === {len(changed)}")
        expected = delivered(Derived(worked), "ground", tmp_path, {})
        found = np.frombuffer(base64.b64decode(page.value(f"{DRAWN}(null, null, false)")), np.uint8).reshape(
            expected.shape
        )
        assert apart_premultiplied(found, expected) <= 1
    finally:
        link.stop()


def test_the_python_reader_is_short_and_needs_nothing_of_ours():
    text = (readers.READERS / "knitground_reader.py").read_text()
    tree = ast.parse(text)
    told = {
        line
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and ast.get_docstring(node)
        for line in range(node.body[0].lineno, node.body[0].end_lineno + 1)
    }
    code = [line for number, line in enumerate(text.splitlines(), 1) if line.strip() and number not in told]
    assert len(code) < 150
    names = {alias.name for node in ast.walk(tree) if isinstance(node, ast.Import) for alias in node.names}
    assert names == {"base64", "json", "sys", "zlib", "numpy"}


def on_grid(grid: str, *, wraps: bool) -> Derived:
    """A ground of a kind of grid with all sorts of tiles, things and shades, and lamps that something keeps off."""
    document = make_document(10, 8, grid)
    state, rng = document.state, np.random.default_rng(7)
    ground = replace(document.project.grounds[0], wraps_x=wraps, wraps_y=wraps, tile_width=2 * SIDE)
    board, on = ground.board, "corners" if grid in CORNERED else "cells"
    shades = tuple(Terrain(name, name[0], colour) for name, colour in (("Dusk", "#6070a0"), ("Cold", "#a0c0ff")))
    shade = ShadeLayer("shade", "Shade", shades, on=on, opacity=0.8, tint="#ffe0d0")
    lamp = Light("#ffc080", 40.0, 0.7)
    things = tuple(
        Thing(str(number), float(x), float(y), tile=tile(6, 3), light=lamp if number % 3 == 0 else None)
        for number, (x, y) in enumerate(zip(rng.uniform(0, 150, 9), rng.uniform(0, 60, 9), strict=True))
    )
    layers = (
        TileLayer("low", "Low"),
        shade,
        TileLayer("high", "High", stacking="depth", stops_sight=True, offset_y=-4),
        PropLayer("props", "Props", things, stacking="depth"),
    )
    codes = [document.palette.code(tile(column, 3)) for column in (3, 4, 6, 9)]
    planes = {layer.id: dict(layer.blank(board, document.project)) for layer in layers}
    for name, chosen in (("low", [*codes, codes[0] | 4 << 24]), ("high", [0, 0, 0, codes[2] | 2 << 24])):
        planes[name]["cells"] = Plane.of(rng.choice(np.array(chosen, dtype=np.int32), board.shape("cells")))
    planes["shade"][on] = Plane.of(rng.integers(0, 3, board.shape(on), dtype=np.uint8))
    project = replace(document.project, grounds=(replace(ground, layers=layers),))
    return Derived(Document(state._replace(project=project, planes={"ground": planes}), document.palette))


@pytest.mark.parametrize("wraps", [False, True], ids=["ends", "goes round"])
@pytest.mark.parametrize("grid", GRIDS)
def test_the_python_reader_draws_every_grid(grid, wraps, tmp_path):
    expected = delivered(on_grid(grid, wraps=wraps), "ground", tmp_path, WAYS[wraps])
    assert readers.apart(readers.drawn(tmp_path / "map.json"), expected).max() <= 1


@readers.needs("chromium")
@pytest.mark.parametrize("wraps", [False, True], ids=["ends", "goes round"])
@pytest.mark.parametrize("grid", GRIDS)
def test_the_page_draws_every_grid(grid, wraps, page, tmp_path):
    expected = delivered(on_grid(grid, wraps=wraps), "ground", tmp_path, WAYS[wraps])
    assert apart_premultiplied(by_page(page, tmp_path), expected) <= 1


def part_of(page: Browser, area: PixelRect, ms: int | None, *, scrolled: bool) -> np.ndarray:
    """What the open page draws of a part of its map at a moment, premultiplied."""
    said = json.dumps({"x": area.x, "y": area.y, "width": area.width, "height": area.height})
    text = page.value(f"{DRAWN}({said}, {json.dumps(ms)}, {json.dumps(scrolled)})")
    return np.frombuffer(base64.b64decode(text), np.uint8).reshape(area.height, area.width, 4)


@readers.needs("chromium")
def test_the_page_shows_what_moves_and_what_scrolls_by_itself(page, tmp_path):
    derived = demo()
    for ground in ("long-roof", "chimneys"):
        delivered(derived, ground, tmp_path, {})
        by_page(page, tmp_path)
        knitted, atlas = derived.knitted(ground), derived.atlas(derived.knitted(ground).ground)
        for left, ms in ((40, None), (40, 150), (130, 460)):
            area, moved = PixelRect(left, 90, 300, 200), playing(derived)
            layers = [scrolled(layer, area.x, area.y) for layer in knitted.ground.shown()]
            frames, shown = ({}, None) if ms is None else (moved.shown_apart(ms), moved.exchange_at(ms))
            scene = scene_of(knitted, atlas, layers, shown, frames, derived.lights(knitted.ground))
            scene = scene._replace(background=knitted.ground.background)
            found = part_of(page, area, ms, scrolled=True)
            assert np.abs(found.astype(int) - render(scene, area).astype(int)).max() <= 1


@readers.needs("chromium")
def test_files_are_dropped_on_the_page(page, tmp_path):
    expected = delivered(demo(), "chimneys", tmp_path, {})
    page.open((readers.READERS / "knitground_reader.html").as_uri())
    files = {path.name: base64.b64encode(path.read_bytes()).decode() for path in tmp_path.glob("map*")}
    page.value(
        "((files) => { const carried = new DataTransfer();"
        "for (const [name, text] of Object.entries(files))"
        "  carried.items.add(new File([Uint8Array.from(atob(text), (c) => c.charCodeAt(0))], name));"
        f"dispatchEvent(new DragEvent('drop', {{ dataTransfer: carried }})); }})({json.dumps(files)})"
    )
    page.wait_for("reader.shown.world !== null")
    whole = part_of(page, PixelRect(0, 0, expected.shape[1], expected.shape[0]), None, scrolled=False)
    assert apart_premultiplied(whole, expected) <= 1
