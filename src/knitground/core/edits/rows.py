"""Layers as CSV: a line for each row, a word for each place, by the names of what lies there."""

import csv
import io
from pathlib import Path

import numpy as np

from knitground.core.edits.colours import NOTHING, area_plane_of, name_of, value_of
from knitground.core.edits.painting import paintable
from knitground.core.errors import BadRequest, readable
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import LARGEST_GROUND, by_id
from knitground.core.project.document import Document
from knitground.core.sheet.picture import read_file

_EMPTY = ("", "-1")


def read_text(table: Path) -> str:
    """What a text file in UTF-8 holds, with or without a mark of its order of bytes.

    Raises
    ------
    BadRequest, BadSheet
        If it is a folder, no such text, missing, unreadable or far too large.
    """
    if table.is_dir():
        raise BadRequest(f"{readable(table)} is a folder; give the name of a file, as in table.csv.")
    try:
        return read_file(table).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadRequest(f"{readable(table)} is no text in UTF-8; save it as CSV in UTF-8.") from None


def rows_of(document: Document, ground_id: str, layer_id: str) -> str:
    """What is painted on a layer as CSV (RFC 4180): terrains, marks and tiles by their names, nothing as an empty word.

    Raises
    ------
    BadRequest
        If the layer has no places that could be told row by row.
    """
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    plane = np.asarray(area_plane_of(document, ground, layer))
    numbers, which = np.unique(plane, return_inverse=True)
    names = [name_of(document, layer, number) for number in numbers.tolist()]
    words = ["" if name == NOTHING else name for name in names]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerows(np.array(words, dtype=object)[which.reshape(plane.shape)].tolist())
    return out.getvalue()


def paint_rows(document: Document, ground_id: str, layer_id: str, text: str) -> int:
    """Paints a layer by CSV, as one step; returns how many places changed.

    Parameters
    ----------
    text : str
        A line for each row of places. A word is the name of what lies there, its number (not on layers of tiles), or
        empty or -1 for nothing.

    Raises
    ------
    BadRequest
        If it has another size than the layer, or a word that names nothing there is.
    """
    ground, layer = paintable(document, ground_id, layer_id)
    plane = area_plane_of(document, ground, layer)
    try:
        lines = list(csv.reader(io.StringIO(text), strict=True))
    except csv.Error as problem:
        raise BadRequest(f"The file is no CSV ({problem}); write a line for each row, with commas between.") from None
    height, width = plane.shape
    if len(lines) > LARGEST_GROUND + 2 or {len(line) for line in lines} != {width} or len(lines) != height:
        wide = max((len(line) for line in lines), default=0)
        raise BadRequest(
            f"The file has {len(lines)} rows of up to {wide} words; this layer needs {height} rows of {width}."
        )
    known: dict[str, int] = {}
    most = 0 if layer.holds_tiles else len(layer.terrains(document.project))
    for line in lines:
        for word in line:
            if word not in known:
                plain = word.strip()
                number = int(plain) if plain.isdecimal() and len(plain) < 4 else -1
                known[word] = 0 if plain in _EMPTY else (
                    number if 0 <= number <= most else value_of(document, layer, plain)
                )  # fmt: skip
    after = np.array([[known[word] for word in line] for line in lines]).astype(plane.dtype)
    changed = int((after != np.asarray(plane)).sum())
    document.put_planes("paint from rows", ground_id, {layer.id: {layer.area_plane: Plane.of(after)}})
    return changed
