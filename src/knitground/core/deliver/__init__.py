"""Delivering: exporters, one file each, found by their name.

A new exporter is a module here and a line in `EXPORTERS`.
"""

from knitground.core.deliver import game_json, graphml, png
from knitground.core.deliver.exporter import Exporter

EXPORTERS = {
    "png": Exporter(
        "Pictures",
        "The visible layers laid over one another, pixel for pixel: as a whole, by layer, by group, or in pages.",
        ".png",
        png.make,
        png.PngOptions,
    ),
    "json": Exporter(
        "JSON and a tileset picture, for a game to load",
        "Rows of tile numbers per layer, and a picture with just the tiles that are used. 0 is an empty cell.",
        ".json",
        game_json.make,
        game_json.JsonOptions,
    ),
    "graphml": Exporter(
        "GraphML: the graph of walkable places",
        "Cells in which a figure has room, the ways between them and what they cost, for path finding.",
        ".graphml",
        graphml.make,
    ),
}
