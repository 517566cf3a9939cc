import json
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from knitground.core.deliver import EXPORTERS
from knitground.core.edits.layers import add_layer, put_layer
from knitground.core.edits.pins import pin
from knitground.core.edits.stitching import put_set
from knitground.core.edits.thing_notes import remove_kind
from knitground.core.edits.things import put
from knitground.core.errors import CannotWrite
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.layers.thing import ThingKind
from knitground.core.project.derived import Derived
from knitground.core.render.atlas import premultiplied
from knitground.core.stitches.charts import blank_chart
from knitground.core.stitches.rules import Course, Piece, Stitch
from knitground.core.tiles.notes import Property
from knitground.core.tiles.tile import cell_code, orient
from making import SIDE, poke, rectangle, tile, with_stitches


def delivered(document, tmp_path) -> tuple[dict, np.ndarray]:
    """The delivered JSON and the pixels of its tileset."""
    written = EXPORTERS["json"].write(Derived(document), "ground", tmp_path / "map.json", lambda share: None)
    assert [path.name for path in written] == ["map-tileset.png", "map.json"]
    content = json.loads((tmp_path / "map.json").read_text())
    return content, np.asarray(Image.open(tmp_path / content["tileset"]["image"]))


def pixels_of(content: dict, tileset: np.ndarray, number: int) -> np.ndarray:
    row, column = divmod(number - 1, content["tileset"]["columns"])
    return tileset[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE]


def test_the_tileset_holds_just_what_is_used(document, tmp_path):
    content, tileset = delivered(document, tmp_path)
    assert content["tileset"]["tiles"] == 1
    assert tileset.shape == (SIDE, SIDE, 4)
    document.paint(
        "p", "ground", "things", "cells", rectangle((15, 20), (2, 3), (2, 3)), document.palette.code(tile(6, 3))
    )
    content, tileset = delivered(document, tmp_path)
    assert content["tileset"]["tiles"] == 2
    number = content["layers"][3]["rows"][2][3]
    assert np.array_equal(pixels_of(content, tileset, number), Derived(document).tile(tile(6, 3)))


def test_turned_tiles_are_tiles_of_their_own(document, tmp_path):
    code = document.palette.code(tile(6, 3))
    poke(document, "things", "cells", np.s_[0, :8], [cell_code(code, orientation) for orientation in range(8)])
    content, tileset = delivered(document, tmp_path)
    numbers = content["layers"][3]["rows"][0][:8]
    assert len(set(numbers)) == 8
    for orientation, number in enumerate(numbers):
        expected = orient(premultiplied(Derived(document).tile(tile(6, 3))), orientation)
        assert np.array_equal(premultiplied(pixels_of(content, tileset, number)), expected)


def test_rows_have_the_size_of_the_ground_and_bare_cells_are_zero(document, tmp_path):
    content, _ = delivered(document, tmp_path)
    assert (content["width"], content["height"]) == (20, 15)
    assert [layer["name"] for layer in content["layers"]] == ["Areas", "Lines", "Walls", "Things"]
    for layer in content["layers"]:
        rows = np.array(layer["rows"])
        assert rows.shape == (15, 20)
        assert rows.any() == (layer["name"] == "Areas")


def test_hidden_layers_and_gaps_stay_out(document, tmp_path):
    areas = document.project.grounds[0].layers[0]
    put_layer(document, "ground", "hide", replace(areas, visible=False))
    poke(document, "walls", "plan", np.s_[4, 4], 1)
    walls = document.project.stitch_sets[0]
    put(document, "x", "stitch_sets", with_stitches(walls))
    content, tileset = delivered(document, tmp_path)
    assert [layer["name"] for layer in content["layers"]] == ["Lines", "Walls", "Things"]
    assert not np.array(content["layers"][1]["rows"]).any()
    assert not tileset.any()


def test_each_row_of_the_map_is_a_line(document, tmp_path):
    delivered(document, tmp_path)
    lines = (tmp_path / "map.json").read_text().splitlines()
    assert sum(line.strip().startswith("[") for line in lines) == 4 * 15


def test_progress_runs_to_the_end(document, tmp_path):
    for name, exporter in EXPORTERS.items():
        shares: list[float] = []
        exporter.write(Derived(document), "ground", tmp_path / f"out{exporter.ending}", shares.append)
        assert shares == sorted(shares), name
        assert shares[-1] == 1.0


@pytest.mark.parametrize("name", EXPORTERS)
def test_a_delivery_into_a_place_that_is_none_says_so(document, tmp_path, name):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(CannotWrite, match="could not be written"):
        EXPORTERS[name].write(Derived(document), "ground", tmp_path / "file" / "x", lambda share: None)


def test_the_same_project_gives_the_same_bytes(document, tmp_path):
    for name in ("one", "two"):
        for exporter in EXPORTERS.values():
            exporter.write(Derived(document), "ground", tmp_path / f"{name}{exporter.ending}", lambda share: None)
    assert (tmp_path / "one.png").read_bytes() == (tmp_path / "two.png").read_bytes()
    one, two = ((tmp_path / f"{name}.json").read_text().replace(name, "") for name in ("one", "two"))
    assert one == two


def test_tiles_that_stitches_lay_as_things_are_delivered_with_what_their_kind_says(document, tmp_path):
    kind = ThingKind("chest", "Chest", "#aa8833", {"gold": Property("whole", 7)})
    document.define("kind", replace(document.project, thing_kinds=(kind,)))
    lays = Stitch("a", (blank_chart(middle="1"),), (Piece(tile(3, 3), 1, onto="Tops", thing="chest", down=-1),))
    plain = Stitch("b", (blank_chart(middle="1"),), (Piece(tile(4, 3)),))
    walls = document.project.stitch_sets[0]
    courses = Course("Chests", (lays,)), Course("Walls", (plain,))
    put_set(document, "x", replace(walls, courses=courses, parts=("Tops",)))
    add_layer(document, "ground", "Tops", "walls\nTops")
    poke(document, "walls", "plan", np.s_[4, 5:7], 1)
    held = Shape(CellRect(3, 6, 1, 1), np.ones((1, 1), bool))
    pin(document, "ground", "tops", held, document.palette.code(tile(9, 3)))
    content, tileset = delivered(document, tmp_path)
    layer = next(one for one in content["layers"] if one["name"] == "Tops")
    assert [row.count(0) for row in layer["rows"]] == [20, 20, 20, 18, *[20] * 11]
    (thing,) = layer["things"]
    assert (thing["id"], thing["kind"], thing["properties"]) == ("5,3", "Chest", {"gold": 7}), "a pinned tile is none"
    assert (thing["x"], thing["y"], thing["turn"]) == (5.5 * SIDE, 4 * SIDE, 90)
    assert np.array_equal(pixels_of(content, tileset, thing["tile"]), Derived(document).tile(tile(3, 3)))
    remove_kind(document, "chest")
    assert document.project.stitch_sets[0].stitches[0].pieces[0].thing == ""
