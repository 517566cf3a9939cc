"""Pictures whose colours stand for what is painted: into a layer, and out of one.

A table says which colour stands for what, a line for each: the colour as #rrggbb, and a terrain, mark or shade by its
name, a tile by its own, or nothing.
"""

import csv
import io
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.painting import paintable
from knitground.core.errors import BadRequest, readable
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground, by_id
from knitground.core.joins.sets import Terrain
from knitground.core.layers.layer import Layer
from knitground.core.project.document import Document
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef

HEADER = ("colour", "stands for")
NOTHING = "nothing"
_TURNED = " turned "
_MOST_COLOURS = 256
_NEAR = 3 * 60**2
Table = dict[str, str]
"""What each colour stands for."""


def read_table(text: str) -> Table:
    """A table from CSV, with or without its header.

    Raises
    ------
    BadRequest
        If a line is no colour and what it stands for, or a colour comes twice.
    """
    table: Table = {}
    try:
        lines = [line for line in csv.reader(io.StringIO(text), strict=True) if any(part.strip() for part in line)]
    except csv.Error as problem:
        raise BadRequest(
            f"The table is no CSV ({problem}); write a colour and what it stands for on each line."
        ) from None
    for number, line in enumerate(lines, start=1):
        parts = [part.strip() for part in line]
        if number == 1 and tuple(part.lower() for part in parts) == HEADER:
            continue
        if len(parts) != 2 or not _is_colour(parts[0]):
            raise BadRequest(
                f"Line {number} of the table is “{readable(','.join(parts))[:60]}”; write a colour and what it stands "
                "for, as in #7fae4a,Moss."
            )
        if parts[0].lower() in table:
            raise BadRequest(f"The table names {parts[0]} twice; give each colour one line.")
        table[parts[0].lower()] = parts[1]
    return table


def write_table(table: Mapping[str, str]) -> str:
    """A table as CSV with its header."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADER)
    writer.writerows(table.items())
    return out.getvalue()


def colours_in(picture: NDArray[np.uint8]) -> list[str]:
    """The colours of a picture, the most common first; transparent pixels are of none.

    Parameters
    ----------
    picture : (h, w, 4) uint8

    Raises
    ------
    BadRequest
        If there are more than a table is for.
    """
    seen = picture[picture[..., 3] > 0][:, :3].astype(np.int64)
    packed, counts = np.unique(seen[:, 0] << 16 | seen[:, 1] << 8 | seen[:, 2], return_counts=True)
    if len(packed) > _MOST_COLOURS:
        raise BadRequest(
            f"The picture has {len(packed)} colours; one whose colours stand for something has at most {_MOST_COLOURS}."
        )
    return [f"#{packed[at]:06x}" for at in np.argsort(-counts, kind="stable").tolist()]


def nearest_colour(colour: str, terrains: Sequence[Terrain]) -> str:
    """The name of the terrain whose colour is nearest, if it is near at all; else nothing."""

    def apart(terrain: Terrain) -> int:
        return sum((int(colour[at : at + 2], 16) - int(terrain.colour[at : at + 2], 16)) ** 2 for at in (1, 3, 5))

    best = min(terrains, key=apart, default=None)
    return NOTHING if best is None or apart(best) > _NEAR else best.name


def paint_from(document: Document, ground_id: str, layer_id: str, picture: NDArray[np.uint8], table: Table) -> int:
    """Paints a layer by a picture, as one step; returns how many places changed.

    Parameters
    ----------
    picture : (h, w, 4) uint8
        A pixel for each place of the layer. Of layers that are painted on points also one for each cell: it stands for
        the point at the cell's upper left, and the last row and column go on. Transparent pixels stand for nothing.
    table : Table

    Raises
    ------
    BadRequest
        If the picture has another size, or a colour that stands for nothing known.
    """
    ground, layer = paintable(document, ground_id, layer_id)
    plane = area_plane_of(document, ground, layer)
    wanted = _fitted(picture, ground, plane)
    packed = (wanted[..., 0].astype(np.int64) << 16) | (wanted[..., 1].astype(np.int64) << 8) | wanted[..., 2]
    packed = np.where(wanted[..., 3] > 0, packed, -1)
    colours, first, which = np.unique(packed, return_index=True, return_inverse=True)
    values = []
    for colour, at in zip(colours.tolist(), first.tolist(), strict=True):
        name = NOTHING if colour < 0 else table.get(f"#{colour:06x}")
        if name is None:
            row, column = divmod(at, wanted.shape[1])
            raise BadRequest(
                f"The colour #{colour:06x} at x {column}, y {row} stands in no line of the table; add a line for it."
            )
        values.append(value_of(document, layer, name))
    after = np.array(values)[which.reshape(packed.shape)].astype(plane.dtype)
    changed = int((after != np.asarray(plane)).sum())
    document.put_planes("paint from a picture", ground_id, {layer.id: {layer.area_plane: Plane.of(after)}})
    return changed


def picture_of(
    document: Document, ground_id: str, layer_id: str, table: Table
) -> tuple[NDArray[np.uint8], list[str], Table]:
    """A layer as a picture of few colours.

    Parameters
    ----------
    table : Table
        Colours that are to stand for something; what it does not name gets a colour of its own.

    Returns
    -------
    indices : (h, w) uint8
        A pixel for each place of the layer.
    colours : list of str
        The colour of each index, as #rrggbb.
    table : Table
        With a line for all that the layer holds.

    Raises
    ------
    BadRequest
        If the layer holds more than 256 different things.
    """
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    numbers, which = np.unique(np.asarray(area_plane_of(document, ground, layer)), return_inverse=True)
    if len(numbers) > _MOST_COLOURS:
        raise BadRequest(
            f"“{layer.name}” holds {len(numbers)} different tiles; a picture can tell {_MOST_COLOURS} apart."
        )
    known = {what: colour for colour, what in table.items()}
    full, colours = dict(table), []
    terrains = layer.terrains(document.project)
    for number in numbers.tolist():
        what = name_of(document, layer, number)
        if what not in known:
            own = terrains[number - 1].colour.lower() if 0 < number <= len(terrains) and not layer.holds_tiles else ""
            known[what] = own if own and own not in full else _free(full, number)
            full[known[what]] = what
        colours.append(known[what])
    shape = area_plane_of(document, ground, layer).shape
    return which.reshape(shape).astype(np.uint8), colours, full


def area_plane_of(document: Document, ground: Ground, layer: Layer) -> Plane:
    """What lies on the places of a layer; raises BadRequest where it has no such places."""
    if layer.refuses:
        raise BadRequest(f"“{layer.name}” {layer.refuses}.")
    if not layer.takes_areas:
        raise BadRequest(f"“{layer.name}” is laid in runs along edges, which a picture of cells can't hold.")
    return document.state.planes[ground.id][layer.id][layer.area_plane]


def _fitted(picture: NDArray[np.uint8], ground: Ground, plane: Plane) -> NDArray[np.uint8]:
    """The picture with a pixel for each place of a plane."""
    size = picture.shape[:2]
    if size == plane.shape:
        return picture
    if size == (ground.height, ground.width):
        more = [(0, have - is_) for have, is_ in zip(plane.shape, size, strict=True)]
        if all(after >= 0 for _, after in more):
            return np.pad(picture, [*more, (0, 0)], mode="edge")
    height, width = plane.shape
    raise BadRequest(
        f"The picture is {size[1]} x {size[0]} pixels; this layer needs {width} x {height}, a pixel for each place."
    )


def value_of(document: Document, layer: Layer, name: str) -> int:
    """The number of what a table names."""
    if not name or name == NOTHING:
        return 0
    if layer.holds_tiles:
        text, _, way = name.partition(_TURNED)
        try:
            ref = TileRef.parse(text)
            orientation = int(way or 0)
        except ValueError:
            ref, orientation = None, 8
        sheets = {sheet.id for sheet in document.project.sheets}
        if ref is None or not 0 <= orientation < 8 or ref.sheet not in sheets:
            raise BadRequest(f"The table names the tile “{readable(name)[:60]}”, which this project does not have.")
        return document.palette.code(ref, orientation)
    terrains = layer.terrains(document.project)
    for number, terrain in enumerate(terrains, start=1):
        if terrain.name.casefold() == name.casefold():
            return number
    known = ", ".join(terrain.name for terrain in terrains)
    raise BadRequest(f"“{layer.name}” has no “{readable(name)[:60]}”; it has {known}.")


def name_of(document: Document, layer: Layer, number: int) -> str:
    """What a table calls a number."""
    if number <= 0:
        return NOTHING
    if layer.holds_tiles:
        way = number >> ORIENTATION_SHIFT
        return f"{document.palette.ref(number & NUMBER_MASK)}{f'{_TURNED}{way}' if way else ''}"
    terrains = layer.terrains(document.project)
    return terrains[number - 1].name if number <= len(terrains) else NOTHING


def _free(taken: Mapping[str, Any], number: int) -> str:
    """A colour that stands for nothing yet; the same for the same number."""
    colour = (number & 0xFFFFFF) * 0x9E3779 & 0xFFFFFF
    while f"#{colour:06x}" in taken:
        colour = (colour + 0x3C6EF3) & 0xFFFFFF
    return f"#{colour:06x}"


def _is_colour(text: str) -> bool:
    return len(text) == 7 and text[0] == "#" and all(letter in "0123456789abcdefABCDEF" for letter in text[1:])
