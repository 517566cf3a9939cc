"""Delivering: exporters, one file each, found by their name.

A new exporter is a module here and a line in `EXPORTERS`.
"""

from knitground.core.deliver import game_json, gltf, graphml, moving, openraster, png, svg, tables, tileset
from knitground.core.deliver.exporter import Exporter

EXPORTERS = {
    "png": Exporter(
        "Pictures (PNG)",
        "The visible layers laid over one another, pixel for pixel: as a whole, by layer, by group, or in pages.",
        ".png",
        png.make,
        png.PngOptions,
    ),
    "json": Exporter(
        "JSON for games",
        "Rows of tile numbers per layer, things, shapes and properties, and a picture with just the tiles in use.",
        ".json",
        game_json.make,
        game_json.JsonOptions,
    ),
    "ora": Exporter(
        "OpenRaster",
        "Layers and groups with names, opacity and offsets, as paint programs open them.",
        ".ora",
        openraster.make,
        openraster.OraOptions,
    ),
    "csv": Exporter(
        "Tables (CSV)",
        "A table for each layer, a line for each row: numbers or names of tiles, or what was painted.",
        ".csv",
        tables.make,
        tables.CsvOptions,
    ),
    "svg": Exporter(
        "SVG",
        "Tiles as symbols, pixels sharp; shapes and things as vectors, layers as groups with titles.",
        ".svg",
        svg.make,
        svg.SvgOptions,
    ),
    "graphml": Exporter(
        "Walkable places (GraphML)",
        "Cells in which a figure has room, the ways between them and what they cost, for path finding.",
        ".graphml",
        graphml.make,
    ),
    "gltf": Exporter(
        "Scene in depth (glTF)",
        "Layers as textured planes one before another, things as planes of their own, what blocks as lines.",
        ".glb",
        gltf.make,
        gltf.GltfOptions,
    ),
    "gif": Exporter(
        "Moving picture (GIF)",
        "All animations of a ground or a piece of it, in up to 255 colours.",
        ".gif",
        moving.make_gif,
        moving.MovingOptions,
    ),
    "apng": Exporter(
        "Moving picture (APNG)",
        "All animations of a ground or a piece of it, pixel for pixel.",
        ".png",
        moving.make_apng,
        moving.MovingOptions,
    ),
    "webp": Exporter(
        "Moving picture (WebP)",
        "All animations of a ground or a piece of it, pixel for pixel and small.",
        ".webp",
        moving.make_webp,
        moving.MovingOptions,
    ),
    "tileset": Exporter(
        "Tileset alone",
        "All tiles packed on pictures, and a JSON of what each of them is: labels, weights, shapes, frames.",
        ".json",
        tileset.make,
        tileset.TilesetOptions,
        of_project=True,
    ),
}
