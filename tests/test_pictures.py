"""Pictures that are maps: drawn maps into projects, colours into layers and out of them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from calling import fails_with_one_sentence, knitground
from knitground.core.edits.colours import paint_from, picture_of, read_table, write_table
from knitground.core.edits.drawn import find_tiles, project_of
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.pixels import straight
from knitground.core.tiles.tile import orient
from making import make_document, plane_of, png

SIDE = 8


def drawn(seed: int, rows: int = 6, columns: int = 9, kinds: int = 5) -> np.ndarray:
    """A map drawn of a few tiles, each as it is or turned; some cells are bare."""
    random = np.random.default_rng(seed)
    tiles = random.integers(0, 255, (kinds, SIDE, SIDE, 4), dtype=np.uint8)
    tiles[..., 3] = np.where(random.random((kinds, SIDE, SIDE)) < 0.2, 0, 255)
    picture = np.zeros((rows * SIDE, columns * SIDE, 4), dtype=np.uint8)
    for row in range(rows):
        for column in range(columns):
            if random.random() < 0.85:
                tile = orient(tiles[random.integers(kinds)], int(random.integers(8)))
                picture[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE] = tile
    return picture


def seen(pixels: np.ndarray) -> np.ndarray:
    return np.where(pixels[..., 3:] > 0, pixels, 0)


@given(seed=st.integers(0, 10_000))
def test_a_drawn_map_renders_to_the_same_pixels_from_each_tile_once(seed):
    picture = drawn(seed)
    document = project_of("map", picture, SIDE, SIDE)
    ground = document.project.grounds[0]
    pixels = Derived(document).pixels(ground.id, PixelRect(0, 0, picture.shape[1], picture.shape[0]))
    assert np.array_equal(seen(straight(pixels)), seen(picture))
    assert len(find_tiles(picture, SIDE, SIDE).tiles) <= 5


def test_tiles_that_are_not_square_are_only_turned_as_they_can_be():
    picture = drawn(4)
    found = find_tiles(picture, SIDE, SIDE * 2)
    assert found.numbers.shape == (3, 9)
    assert not (found.orientations & 1).any()


@pytest.mark.parametrize(
    ("size", "words"),
    [((7, 8), "no whole number"), ((100, 100), "no whole number"), ((8, 7), "no whole number")],
)
def test_a_picture_that_is_no_map_of_such_tiles_is_told(size, words):
    with pytest.raises(BadRequest, match=words):
        project_of("map", drawn(1), *size)


def test_an_empty_picture_and_noise_are_told():
    with pytest.raises(BadRequest, match="Nothing is to be seen"):
        project_of("map", np.zeros((SIDE, SIDE, 4), dtype=np.uint8), SIDE, SIDE)
    noise = np.random.default_rng(0).integers(0, 255, (256, 260, 4), dtype=np.uint8)
    with pytest.raises(BadRequest, match="too many"):
        project_of("map", noise, 2, 1)


def test_the_command_makes_a_project_that_renders_to_the_map(tmp_path):
    picture = drawn(3)
    (tmp_path / "map.png").write_bytes(png(picture))
    making = ("map-from-picture", tmp_path / "map.png", "--tile", "8x8", "-o", tmp_path / "made")
    assert knitground(*making).returncode == 0
    assert knitground("render", tmp_path / "made", "-o", tmp_path / "again.png").returncode == 0
    again = np.array(Image.open(tmp_path / "again.png").convert("RGBA"))
    assert np.array_equal(seen(again), seen(picture))
    assert "not empty" in fails_with_one_sentence(knitground(*making))


@pytest.mark.parametrize("layer", ["areas", "things", "walls"])
def test_a_layer_comes_back_from_its_colours(layer):
    document = make_document()
    name = document.project.grounds[0].layer(layer).area_plane
    shape = plane_of(document, layer, name).shape
    random = np.random.default_rng(2)
    codes = [document.palette.code(ref, way) for ref in Derived(document).all_tiles() for way in (0, 5)][:9]
    values = random.choice(codes if layer == "things" else [1, 2] if layer == "areas" else [0, 1], shape)
    document.paint("p", "ground", layer, name, _everything(shape), values)
    before = plane_of(document, layer, name).copy()
    indices, colours, table = picture_of(document, "ground", layer, {})
    assert len(set(colours)) == len(colours)
    pixels = np.zeros((*shape, 4), dtype=np.uint8)
    for number, colour in enumerate(colours):
        pixels[indices == number] = (*bytes.fromhex(colour[1:]), 255)
    document.paint("p", "ground", layer, name, _everything(shape), 0)
    changed = paint_from(document, "ground", layer, pixels, read_table(write_table(table)))
    assert changed == (before != 0).sum()
    assert np.array_equal(plane_of(document, layer, name), before)
    document.undo()
    assert not plane_of(document, layer, name).any()


def test_a_picture_with_a_pixel_for_each_cell_paints_points_too():
    document = make_document()
    picture = np.full((15, 20, 4), (10, 20, 30, 255), dtype=np.uint8)
    picture[3, 4] = (1, 2, 3, 255)
    names = [terrain.name for terrain in document.project.grounds[0].layer("areas").terrains(document.project)]
    paint_from(document, "ground", "areas", picture, {"#0a141e": names[0], "#010203": names[1]})
    corners = plane_of(document, "areas", "corners")
    assert (corners == 2).sum() == 1
    assert corners[3, 4] == 2
    assert (corners > 0).all()


@pytest.mark.parametrize(
    ("table", "words"),
    [
        ("#zzzzzz,Moss", "Line 1"), ("#010203", "Line 1"), ("#010203,a\n#010203,b", "twice"), ('#010203,"a', "no CSV"),
        ("colour,stands for\nnope,x", "Line 2"),
    ],
)  # fmt: skip
def test_a_table_that_cannot_be_read_is_told(table, words):
    with pytest.raises(BadRequest, match=words):
        read_table(table)


@pytest.mark.parametrize(
    ("size", "table", "words"),
    [
        ((5, 5), {"#000000": "nothing"}, "5 x 5 pixels"),
        ((16, 21), {}, "stands in no line"),
        ((16, 21), {"#000000": "Marsh"}, "has no “Marsh”"),
    ],
)
def test_what_a_picture_cannot_paint_is_told_and_changes_nothing(size, table, words):
    document = make_document()
    before = plane_of(document, "areas", "corners").copy()
    picture = np.zeros((*size, 4), dtype=np.uint8)
    picture[..., 3] = 255
    with pytest.raises(BadRequest, match=words):
        paint_from(document, "ground", "areas", picture, table)
    assert np.array_equal(plane_of(document, "areas", "corners"), before)


def test_the_command_writes_a_layer_as_an_indexed_picture_and_paints_it_back(tmp_path):
    document = make_document()
    document.save(tmp_path / "project")
    names = ("--ground", document.project.grounds[0].name, "--layer", "areas", "--table", tmp_path / "table.csv")
    assert knitground("colours", tmp_path / "project", *names, "--to", tmp_path / "areas.png").returncode == 0
    image = Image.open(tmp_path / "areas.png")
    assert image.mode == "P"
    assert image.size == (21, 16)
    changed = np.array(image.convert("RGBA"))
    colour = _colour_of_the_second(tmp_path / "table.csv", document)
    changed[:] = (*bytes.fromhex(colour[1:]), 255)
    (tmp_path / "new.png").write_bytes(png(changed))
    found = knitground("colours", tmp_path / "project", *names, "--from", tmp_path / "new.png")
    assert found.returncode == 0, found.stderr
    again = Document.load(tmp_path / "project")
    assert (plane_of(again, "areas", "corners") == 2).all()
    assert "either --from" in fails_with_one_sentence(knitground("colours", tmp_path / "project", *names))


def _colour_of_the_second(path, document) -> str:
    """The colour that stands for the second terrain, in a table that names it."""
    name = document.project.grounds[0].layer("areas").terrains(document.project)[1].name
    table = {"#010203": name} | read_table(path.read_text())
    path.write_text(write_table(table))
    return next(colour for colour, what in table.items() if what == name)


def _everything(shape):
    return Shape(CellRect(0, 0, *shape), np.ones(shape, dtype=bool))
