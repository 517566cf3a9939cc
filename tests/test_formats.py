"""Every format is opened by a program that knows the standard, and nothing of this project."""

import csv
import io
import json
import zipfile
from dataclasses import replace
from functools import cache
from pathlib import Path

import networkx
import numpy as np
import pytest
from PIL import Image

import readers
from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.tileset import packed_on
from knitground.core.edits.layers import put_layer
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.notes import Frame, TileNotes
from making import SIDE, poke, tile

DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"
GROUNDS = ("long-roof", "glasshouse", "chimneys", "terrace", "comb")


@cache
def demo() -> Derived:
    return Derived(Document.load(DEMO))


def made(kind: str, ground: str, folder: Path, derived: Derived | None = None, **options) -> list[Path]:
    path = folder / f"{kind}{EXPORTERS[kind].ending}"
    return EXPORTERS[kind].write(derived or demo(), ground, path, options=options)


def picture(ground: str, folder: Path, derived: Derived | None = None, **options) -> np.ndarray:
    (path,) = made("png", ground, folder, derived, **options)
    return np.asarray(Image.open(path))


def test_pages_laid_side_by_side_are_the_whole_picture(tmp_path):
    whole = picture("chimneys", tmp_path)
    laid = np.zeros_like(whole)
    for path in made("png", "chimneys", tmp_path, shows="pages", page=100):
        column, row = (int(number) for number in path.stem.split("-")[-2:])
        page = np.asarray(Image.open(path))
        laid[row * 100 : row * 100 + page.shape[0], column * 100 : column * 100 + page.shape[1]] = page
    assert np.array_equal(laid, whole)


def test_pictures_are_enlarged_by_whole_pixels_and_laid_over_a_colour(tmp_path):
    whole, large = picture("glasshouse", tmp_path), picture("glasshouse", tmp_path, scale=3)
    assert np.array_equal(large[1::3, 1::3], whole)
    backed = picture("glasshouse", tmp_path, background="#102030")
    assert (backed[..., 3] == 255).all()
    clear = whole[..., 3] == 0
    assert clear.any()
    assert (backed[clear][:, :3] == (0x10, 0x20, 0x30)).all()


def test_layers_apart_and_by_group(document, tmp_path):
    areas, lines, *_ = document.project.grounds[0].layers
    put_layer(document, "ground", "x", replace(areas, group="Floor"))
    put_layer(document, "ground", "x", replace(lines, group="Floor/Lower"))
    paths = made("png", "ground", tmp_path, Derived(document), shows="groups")
    assert [path.name for path in paths] == ["png-floor.png", "png-walls.png", "png-things.png"]
    paths = made("png", "ground", tmp_path, Derived(document), shows="layers")
    assert len(paths) == 4


@pytest.mark.parametrize(
    ("said", "sentence"),
    [
        ({"scale": 9}, "from 1 to 8"),
        ({"page": "wide"}, "whole number"),
        ({"frob": 1}, "no option “frob”"),
        ({"shows": "all"}, "one of whole"),
    ],
)
def test_what_can_be_no_option_is_told(said, sentence, tmp_path):
    with pytest.raises(BadRequest, match=sentence):
        picture("chimneys", tmp_path, **said)


@pytest.mark.parametrize("ground", GROUNDS)
def test_openraster_is_what_the_standard_says(ground, tmp_path):
    (path,) = made("ora", ground, tmp_path)
    with zipfile.ZipFile(path) as archive:
        first = archive.infolist()[0]
        assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)
        assert archive.read("mimetype") == b"image/openraster"
        merged = np.asarray(Image.open(io.BytesIO(archive.read("mergedimage.png"))))
        assert max(Image.open(io.BytesIO(archive.read("Thumbnails/thumbnail.png"))).size) <= 256
        stack = archive.read("stack.xml").decode()
    assert np.array_equal(merged, picture(ground, tmp_path))
    names = [layer.name for layer in demo().knitted(ground).ground.layers]
    assert all(name in stack for name in names)


@readers.needs("lazpaint")
@pytest.mark.parametrize("ground", ["long-roof", "glasshouse"])
def test_a_paint_program_lays_the_layers_as_they_lie(ground, tmp_path):
    (path,) = made("ora", ground, tmp_path)
    assert readers.apart(readers.painted(path, tmp_path), picture(ground, tmp_path)).max() <= 3


@readers.needs("lazpaint")
def test_a_paint_program_takes_opacity_groups_and_hidden_layers(document, tmp_path):
    areas, _, _, things = document.project.grounds[0].layers
    poke(document, "things", "cells", np.s_[2:9, 3:12], document.palette.code(tile(6, 3)))
    put_layer(document, "ground", "x", replace(areas, opacity=0.5, group="Floor <&> Co"))
    put_layer(document, "ground", "x", replace(things, offset_x=5, offset_y=-9, tint="#80c0ff"))
    derived = Derived(document)
    (path,) = made("ora", "ground", tmp_path, derived)
    assert readers.apart(readers.painted(path, tmp_path), picture("ground", tmp_path, derived)).max() <= 2


@readers.needs("chromium")
@pytest.mark.parametrize("ground", ["glasshouse", "comb"])
def test_a_browser_draws_the_svg_as_it_is(ground, tmp_path):
    expected = picture(ground, tmp_path)
    (path,) = made("svg", ground, tmp_path)
    shown = readers.seen_in_browser(path, (expected.shape[1], expected.shape[0]), tmp_path)
    assert readers.apart(shown, expected).max() <= 3
    assert "<title>" in path.read_text()


@readers.needs_validator
@pytest.mark.parametrize("ground", ["long-roof", "glasshouse", "chimneys"])
def test_the_standards_validator_finds_nothing_wrong_with_the_gltf(ground, tmp_path):
    (path,) = made("gltf", ground, tmp_path)
    found = readers.issues_of_gltf(path)
    assert (found["issues"]["numErrors"], found["issues"]["numWarnings"]) == (0, 0), found["issues"]["messages"][:3]
    assert found["info"]["totalTriangleCount"] > 0


def test_a_unit_of_the_game_is_as_large_as_was_said(tmp_path):
    for per_unit in (1.0, 16.0):
        EXPORTERS["gltf"].write(demo(), "chimneys", tmp_path / f"{per_unit}.glb", per_unit=per_unit)
    nodes = []
    for per_unit in (1.0, 16.0):
        data = (tmp_path / f"{per_unit}.glb").read_bytes()
        content = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
        nodes.append(max(accessor["max"][0] for accessor in content["accessors"] if accessor["type"] == "VEC3"))
    assert nodes[0] == pytest.approx(16 * nodes[1])


def test_tables_hold_the_numbers_of_the_json(tmp_path):
    made("json", "chimneys", tmp_path)
    content = json.loads((tmp_path / "json.json").read_text())
    paths = {path.stem: path for path in made("csv", "chimneys", tmp_path)}
    for layer in content["layers"]:
        if "rows" in layer:
            lines = list(csv.reader(paths[f"csv-{layer['name'].lower().replace(' ', '-')}"].open()))
            assert [[int(word) for word in line] for line in lines] == layer["rows"]
    assert len(list(csv.reader(paths["csv-tiles"].open()))) == content["tileset"]["tiles"] + 1


@readers.needs("soffice")
def test_a_spreadsheet_reads_a_table_of_names(tmp_path):
    paths = made("csv", "terrace", tmp_path, holds="names")
    path = next(one for one in paths if one.stem.endswith("cover"))
    readers.run("soffice", "--headless", f"-env:UserInstallation={(tmp_path / 'profile').as_uri()}", "--convert-to",
                "html", "--outdir", tmp_path, path)  # fmt: skip
    read = path.with_suffix(".html").read_text()
    ground = demo().knitted("terrace").ground
    assert read.count("<tr>") == ground.height
    for word in {word for line in csv.reader(path.open()) for word in line if word}:
        assert word in read


def test_the_graph_is_read_in_units(tmp_path):
    path = tmp_path / "g.graphml"
    EXPORTERS["graphml"].write(demo(), "long-roof", path, per_unit=16.0)
    graph = networkx.read_graphml(path)
    assert graph.graph["pixels_per_unit"] == 16.0
    assert all(node["at_x"] == node["x"] + 0.5 for _, node in graph.nodes(data=True))


@pytest.mark.parametrize("kind", ["apng", "webp", "gif"])
def test_a_moving_picture_shows_each_frame_as_long_as_it_lasts(kind, document, tmp_path):
    notes = document.project.tiles
    still, moving = tile(6, 3), tile(3, 3)

    frames = (Frame(moving, 100), Frame(still, 300))
    document.define("x", replace(document.project, tiles={**notes, moving: TileNotes(frames=frames)}))
    code = document.palette.code(moving)
    poke(document, "things", "cells", np.s_[2:4, 2:4], code)
    derived = Derived(document)
    (path,) = made(kind, "ground", tmp_path, derived, left=SIDE, top=SIDE, width=4 * SIDE, height=4 * SIDE)
    with Image.open(path) as image:
        assert image.n_frames == 2
        shown = []
        for number in range(2):
            image.seek(number)
            image.load()
            shown.append((np.asarray(image.convert("RGBA")), image.info["duration"]))
    assert [ms for _, ms in shown] == [100, 300]
    for (pixels, _), ref in zip(shown, (moving, still), strict=True):
        assert pixels.shape[:2] == (4 * SIDE, 4 * SIDE)
        art = derived.tile(ref)
        solid = art[..., 3] == 255
        assert np.array_equal(pixels[SIDE : 2 * SIDE, SIDE : 2 * SIDE][solid], art[solid])


def test_a_piece_off_the_ground_is_told(tmp_path):
    with pytest.raises(BadRequest, match="off “Chimneys”"):
        made("gif", "chimneys", tmp_path, left=100_000)


def test_the_tileset_alone_tells_what_each_tile_is(tmp_path):
    image, path = made("tileset", "long-roof", tmp_path, edge=1)
    content, pixels = json.loads(path.read_text()), np.asarray(Image.open(image))
    tiles = {str(ref): found for ref, found in demo().all_tiles().items() if found[..., 3].any()}
    assert {one["name"] for one in content["tiles"]} == set(tiles)
    for one in content["tiles"]:
        art = pixels[one["y"] : one["y"] + one["height"], one["x"] : one["x"] + one["width"]]
        assert np.array_equal(art, tiles[one["name"]])
        assert np.array_equal(pixels[one["y"] - 1, one["x"] : one["x"] + one["width"]], art[0]), "an edge above"
    labelled = {ref for owner in demo().document.project.join_sets for ref in map(str, owner.labels)}
    assert {one["name"] for one in content["tiles"] if "labels" in one} == labelled & set(tiles)


def test_packed_rectangles_never_overlap_and_need_not_all_fit_one_picture():
    rng = np.random.default_rng(5)
    sizes = [(int(w), int(h)) for w, h in rng.integers(1, 60, (300, 2))]
    places, pages = packed_on(sizes, 256, edge=2)
    assert len(pages) > 1
    taken = [np.zeros((height, width), int) for width, height in pages]
    for (width, height), (page, x, y) in zip(sizes, places, strict=True):
        taken[page][y - 2 : y + height + 2, x - 2 : x + width + 2] += 1
    assert all(page.max() == 1 for page in taken)
    assert sum(int(page.sum()) for page in taken) == sum((w + 4) * (h + 4) for w, h in sizes)


def test_things_in_tables_lie_in_units(tmp_path):
    lines = []
    for per_unit in (1.0, 16.0):
        paths = EXPORTERS["csv"].write(demo(), "long-roof", tmp_path / f"{per_unit:g}.csv", per_unit=per_unit)
        yard = next(path for path in paths if path.stem.endswith("yard"))
        lines.append(list(csv.DictReader(yard.open())))
    assert lines[0]
    for one, other in zip(*lines, strict=True):
        assert float(one["x"]) == pytest.approx(16 * float(other["x"]))
        assert one["id"] == other["id"]
