"""Delivering: exporters, one file each, found by their name.

A new exporter is a module here and a line in `EXPORTERS`.
"""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from knitground.core.deliver import game_json, graphml, png
from knitground.core.project.derived import Derived

Progress = Callable[[float], None]


class Exporter(NamedTuple):
    """How to write a ground.

    What it makes in a few words and in more, the ending of its file, and the function that does it.
    """

    title: str
    about: str
    ending: str
    write: Callable[[Derived, str, Path, Progress], list[Path]]


EXPORTERS = {
    "png": Exporter(
        "One picture of the whole ground",
        "The visible layers laid over one another, pixel for pixel.",
        ".png",
        png.deliver,
    ),
    "json": Exporter(
        "JSON and a tileset picture, for a game to load",
        "Rows of tile numbers per layer, and a picture with just the tiles that are used. 0 is an empty cell.",
        ".json",
        game_json.deliver,
    ),
    "graphml": Exporter(
        "GraphML: the graph of walkable places",
        "Cells in which a figure has room, the ways between them and what they cost, for path finding.",
        ".graphml",
        graphml.deliver,
    ),
}
