"""Small made-up sheets and projects that the tests share."""

import io
from dataclasses import replace
from itertools import product
from pathlib import Path

import numpy as np
from PIL import Image

from knitground.core.edits.image_files import Source, insert_reads, read_images
from knitground.core.edits.importing import Images
from knitground.core.grid import GRIDS, GridKind
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.grid.square import SquareBoard
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.collecting import put_together
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Palette, Picture, Project, State
from knitground.core.render.atlas import Atlas
from knitground.core.render.scale import Scale
from knitground.core.render.scene import Scene, scene_of
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.footing import footing_of
from knitground.core.sheet.picture import Sheet
from knitground.core.stitches.rules import Course, Stitch, StitchSet, around
from knitground.core.tiles.tile import TileRef

CORNERED = [kind for kind, grid in GRIDS.items() if "corners" in grid.board.painted]
"""The grids on which corners and edges can be painted on, too."""
DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"
SIDE = 8


def png(pixels: np.ndarray) -> bytes:
    """A PNG file of some pixels."""
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG")
    return buffer.getvalue()


def on_checker(
    sheet: np.ndarray, side: int = 8, greys: tuple[int, int] = (255, 204), at: tuple[int, int] = (0, 0)
) -> np.ndarray:
    """A sheet flattened onto a checkerboard."""
    ys, xs = np.mgrid[: sheet.shape[0], : sheet.shape[1]]
    squares = (xs + at[0]) // side + (ys + at[1]) // side
    below = np.asarray(greys)[squares % 2][..., None]
    alpha = sheet[..., 3:] / 255
    colour = np.rint(sheet[..., :3] * alpha + below * (1 - alpha))
    return np.dstack([colour, np.full(sheet.shape[:2], 255)]).astype(np.uint8)


def sheet_of_tiles(
    columns: int, rows: int, side: int = SIDE, margin: int = 0, spacing: int = 0, seed: int = 0
) -> np.ndarray:
    """A sheet whose every tile has a flat colour of its own and some grain, with transparent gutters."""
    random = np.random.Generator(np.random.PCG64(seed))
    width = 2 * margin + columns * side + (columns - 1) * spacing
    height = 2 * margin + rows * side + (rows - 1) * spacing
    sheet = np.zeros((height, width, 4), dtype=np.uint8)
    for row, column in product(range(rows), range(columns)):
        top, left = margin + row * (side + spacing), margin + column * (side + spacing)
        tile = sheet[top : top + side, left : left + side]
        tile[..., :3] = random.integers(30, 226, 3) + random.integers(-25, 26, (side, side, 3))
        tile[..., 3] = 255
    return sheet


def things_below(
    art: np.ndarray, ground: tuple[int, ...], *, seed: int, pitch: int = 0
) -> tuple[np.ndarray, list[Rect]]:
    """A sheet with trees of different sizes below its art, in no grid or in one so many pixels wide, and where."""
    random = np.random.default_rng(seed)
    height, width = art.shape[:2]
    picture = np.zeros((height + 20 + (2 * pitch or 60), max(width, (6 if pitch else 8) * (pitch or 34)), 4), np.uint8)
    picture[:] = ground
    picture[:height, :width] = np.where(art[..., 3:] > 0, art, picture[:height, :width])
    things, x = [], 7
    for place in range(12 if pitch else 8):
        wide, high = (int(side) for side in random.integers(*((24, 36) if pitch else (18, 30)), 2))
        if pitch:
            column, row = place % 6, place // 6
            left, foot = column * pitch + (pitch - wide) // 2, height + 20 + (row + 1) * pitch - 2
        else:
            left, foot, high = x, height + 66, high + 18
            x += wide + int(random.integers(3, 9))
        ys, xs = np.mgrid[:high, :wide]
        crown = ((xs - (wide - 1) / 2) / (wide / 2)) ** 2 + ((ys - high * 0.3) / (high * 0.3)) ** 2 <= 1
        seen = crown | ((abs(xs - wide // 2) < 2) & (ys >= high // 3))
        rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
        colours = random.integers(40, 200, 3) + random.integers(-9, 10, (high, wide, 3))
        spot = picture[foot - high : foot, left : left + wide]
        spot[seen] = np.dstack([colours, np.full((high, wide), 255)])[seen]
        things.append(
            Rect(left + int(columns[0]), foot - high + int(rows[0]), int(np.ptp(columns)) + 1, int(np.ptp(rows)) + 1)
        )
    return picture, things


def tile(column: int, row: int) -> TileRef:
    """A tile of the test sheet."""
    return TileRef("art", "tiles", column, row)


def corner_set(terrains: int = 2) -> JoinSet:
    """A complete corner set over the first cells of the test sheet."""
    names = [Terrain(f"Terrain {letter}", letter, "#a0b0c0") for letter in "ABCD"[:terrains]]
    combinations = product(range(1, terrains + 1), repeat=4)
    labels = {tile(n % 16, n // 16): labels for n, labels in enumerate(combinations)}
    return JoinSet("areas", "Areas", "corner", tuple(names), False, labels)


def edge_set() -> JoinSet:
    """A complete set of one line over nothing, on the second row of the test sheet."""
    labels = {tile(n, 1): labels for n, labels in enumerate(product((0, 1), repeat=4)) if any(labels)}
    return JoinSet("lines", "Lines", "edge", (Terrain("Line", "L", "#ff8040"),), True, labels)


def stitch_set() -> StitchSet:
    """Walls that tell their south side, on the third row."""
    front = around("front", 1, "......-.", tile(0, 2))
    top = around("top", 1, "........", tile(1, 2))
    return one_course("walls", "Walls", (Terrain("Wall", "W", "#808080"),), front, top)


def one_course(set_id: str, name: str, marks: tuple[Terrain, ...], *stitches: Stitch) -> StitchSet:
    """A set whose stitches all stand in one course."""
    return StitchSet(set_id, name, marks, (Course(stitches=stitches),))


def with_stitches(stitch_set: StitchSet, *stitches: Stitch) -> StitchSet:
    """A set with other stitches, all in one course."""
    return replace(stitch_set, courses=(Course(stitches=stitches),))


def cell_set() -> JoinSet:
    """Beds that are told by their edges, on the second row as the lines are."""
    labels = {tile(n, 1): (0, 0, 0, 0, *row, 1) for n, row in enumerate(product((0, 1), repeat=4))}
    return JoinSet("beds", "Beds", "cell", (Terrain("Bed", "B", "#a06040"),), labels=labels)


def make_document(width: int = 20, height: int = 15, grid: GridKind = "square") -> Document:
    """A project with one sheet, all three kinds of sets, and a ground with a layer of each kind that lays tiles."""
    layers = (
        TerrainLayer("areas", "Areas", "areas", "corner"),
        TerrainLayer("lines", "Lines", "lines", "edge"),
        StitchedLayer("walls", "Walls", "walls"),
        TileLayer("things", "Things"),
    )
    layers = layers if grid in CORNERED else layers[-1:]
    ground = Ground("ground", "Ground", width, height, SIDE, SIDE, layers, grid)
    project = Project(
        name="Test",
        sheets=(Sheet("art", "sheets/art.png", (Cut("tiles", SIDE, SIDE),)),),
        join_sets=(corner_set(), edge_set()),
        stitch_sets=(stitch_set(),),
        grounds=(ground,),
    )
    data = png(sheet_of_tiles(16, 4))
    planes = {"ground": {layer.id: layer.blank(ground.board, project) for layer in layers}}
    return Document(State(project, {"art": Picture.decode(data, "art.png")}, planes), Palette())


def poke(document: Document, layer: str, plane: str, where, values, ground: str = "ground") -> None:
    """Sets a part of a plane, given as an index of NumPy."""
    array = np.array(document.state.planes[ground][layer][plane])
    array[where] = values
    document.put_planes("poke", ground, {layer: {plane: Plane.of(array)}})


def plane_of(document: Document, layer: str, plane: str, ground: str = "ground") -> np.ndarray:
    """A plane as an array."""
    return np.asarray(document.state.planes[ground][layer][plane])


def with_labels_removed(document: Document, count: int) -> None:
    """Takes the labels of the last few tiles of the corner set away."""
    areas = document.project.join_sets[0]
    kept = dict(list(areas.labels.items())[:-count])
    sets = (replace(areas, labels=kept), *document.project.join_sets[1:])
    document.define("unlabel", replace(document.project, join_sets=sets))


def block(seed: int, columns: int = 4, rows: int = 4, side: int = 24) -> list[np.ndarray]:
    """Tiles of a block of ground with ragged sides, on which moss stands up into the row above, on clear ground."""
    random = np.random.default_rng(seed)
    height, width = rows * side, columns * side
    ys, xs = np.mgrid[0:height, 0:width]
    art = np.zeros((height, width, 4), np.uint8)
    art[...] = (*random.integers(60, 160, 3), 255)
    art[..., :3] += random.integers(0, 40, (height, width, 1), np.uint8)
    ragged = random.integers(1, 4, (4, max(height, width)))
    art[(xs < ragged[0][ys]) | (width - 1 - xs < ragged[1][ys]) | (height - 1 - ys < ragged[2][xs])] = 0
    art[ys < side - 9 - ragged[3][xs]] = 0
    art[(ys < side + 6) & (art[..., 3] > 0), :3] = (60, 160, 50)
    return [art[y * side : (y + 1) * side, x * side : (x + 1) * side] for y in range(rows) for x in range(columns)]


def ground_art(cells: np.ndarray, seed: int = 5, side: int = 24) -> np.ndarray:
    """A picture of ground at cells, with a rim on top, ragged where it ends; what lies round its frame goes on."""
    random = np.random.default_rng(seed)
    ragged = random.integers(0, 2, (4, side))
    grain = random.integers(0, 30, (side, side, 3))
    rows, columns = cells.shape
    ys, xs = np.mgrid[0 : rows * side, 0 : columns * side]
    u, v = ys % side, xs % side
    within = [u - 8 - ragged[0][v], side - 4 - v - ragged[1][u], side - 3 - u - ragged[2][v], v - 3 - ragged[3][u]]

    def at(row: int, column: int) -> np.ndarray:
        there = np.pad(cells, 1, mode="edge")[1 + row : 1 + row + rows, 1 + column : 1 + column + columns]
        return np.kron(there, np.ones((side, side), bool))

    deep = np.full(ys.shape, side)
    around = [(-1, 0), (0, 1), (1, 0), (0, -1), (-1, 0)]
    for number in range(4):
        (row, column), (next_row, next_column) = around[number : number + 2]
        deep = np.where(at(row, column), deep, np.minimum(deep, within[number]))
        nook = at(row, column) & at(next_row, next_column) & ~at(row + next_row, column + next_column)
        deep = np.where(nook, np.minimum(deep, np.maximum(within[number], within[(number + 1) % 4])), deep)
    art = np.zeros((*ys.shape, 4), np.uint8)
    art[..., :3] = np.where((deep < 3)[..., None], (60, 160, 50), (120, 90, 60)) + np.tile(grain, (rows, columns, 1))
    art[..., 3] = 255
    art[(deep < 0) | ~at(0, 0)] = 0
    return art


def add_sheet(document: Document, name: str, data: bytes) -> str:
    """Adds a picture to a document as the window does; returns the sheet's id."""
    return insert_reads(document, read_images([Source(name, data)]).read)[0]


def together(images: dict[str, np.ndarray]) -> Images:
    """Images as one tileset, by the names of their files, as if they had been read."""
    files = {name: png(image) for name, image in images.items()}
    pixels = list(images.values())
    return Images(files, put_together(files, pixels), footing_of(pixels), ())


def rectangle(plane: tuple[int, int], start: tuple[int, int], end: tuple[int, int]) -> Shape:
    """All places of a plane of this size between two opposite ones."""
    return SquareBoard(*plane).box("cells", start, end)


def swept_disc(plane: tuple[int, int], start: tuple[int, int], end: tuple[int, int], radius: float) -> Shape:
    """What a disc covers of a plane of this size on its way."""
    return SquareBoard(*plane).disc("cells", start, end, radius)


def cell_pixels(derived: Derived, cells: CellRect, ground: str = "ground", scale: Scale = Scale()) -> np.ndarray:
    """Pixels of a rectangle of cells of a square ground, as they are drawn."""
    knitted = derived.knitted(ground)
    return derived.pixels(ground, knitted.ground.projection.reduced(scale.level).bounds(cells), scale)


def scene_of_codes(codes: np.ndarray, atlas: Atlas, grid: GridKind = "square", **header) -> Scene:
    """A scene of one layer that holds these cell codes."""
    layer = TileLayer("layer", "Layer", **header)
    ground = Ground("g", "G", codes.shape[1], codes.shape[0], atlas.tile_width, atlas.tile_height, (layer,), grid)
    planes = {"layer": {"cells": Plane.of(codes.astype(np.int32))}}
    return scene_of(Knitted(ground, planes, {}, 1), atlas)


def content(state: State) -> dict:
    """All that a state holds, to compare."""
    planes = {
        (ground, layer, name): np.asarray(plane).tobytes()
        for ground, layers in state.planes.items()
        for layer, some in layers.items()
        for name, plane in some.items()
    }
    return {"project": state.project, "planes": planes, "pictures": {n: p.files for n, p in state.pictures.items()}}


def look(document: Document) -> dict:
    """The same by what lies in the cells, as palettes may number tiles otherwise."""
    found = content(document.state)
    for ground in document.project.grounds:
        for layer in ground.layers:
            for name in layer.coded:
                if name in document.state.planes[ground.id][layer.id]:
                    cells = np.asarray(document.state.planes[ground.id][layer.id][name])
                    refs = np.array([None, *document.palette.refs], dtype=object)
                    found["planes"][ground.id, layer.id, name] = refs[cells & 0xFFFFFF].tolist(), (cells >> 24).tolist()
    return found
