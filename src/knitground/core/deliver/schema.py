"""JSON Schemas (2020-12) of what is delivered: the map for games, the tileset alone, and the messages of the live link.

They are written by hand, so that what is written is checked against something else than the code that writes it.
"""

from typing import Any, get_args

from knitground.core.deliver import game_json, tileset
from knitground.core.grid import GRIDS
from knitground.core.layers.layer import Solid, Stands

Schema = dict[str, Any]
_DIALECT = "https://json-schema.org/draft/2020-12/schema"


def _object(needed: dict[str, Any], more: dict[str, Any] | None = None) -> Schema:
    """An object with these members and no others."""
    return {
        "type": "object",
        "properties": needed | (more or {}),
        "required": list(needed),
        "additionalProperties": False,
    }


def _list(of: Schema, least: int = 0, most: int | None = None) -> Schema:
    return {"type": "array", "items": of, "minItems": least} | ({} if most is None else {"maxItems": most})


def _map_of(values: Schema, names: str = ".*") -> Schema:
    return {"type": "object", "patternProperties": {names: values}, "additionalProperties": False}


_TEXT: Schema = {"type": "string"}
_NAME: Schema = {"type": "string", "minLength": 1}
_YES: Schema = {"type": "boolean"}
_WHOLE: Schema = {"type": "integer"}
_COUNT: Schema = {"type": "integer", "minimum": 0}
_SIDE: Schema = {"type": "integer", "minimum": 1}
_NUMBER: Schema = {"type": "number"}
_ABOVE: Schema = {"type": "number", "exclusiveMinimum": 0}
_SHARE: Schema = {"type": "number", "minimum": 0, "maximum": 1}
_COLOUR: Schema = {"type": "string", "pattern": "^#[0-9a-f]{6}$"}
_POINT = _list(_NUMBER, 2, 2)
_TAGS = _list(_NAME)
_PROPERTIES = _map_of({"type": ["string", "number", "boolean"]})
_PLACE = _list(_WHOLE, 4, 4) | {"description": "x, y, width and height in the picture"}
_SHAPE: Schema = {
    "description": "the whole tile, nothing, or polygons in pixels from the tile's upper left corner",
    "anyOf": [{"enum": ["whole", "none"]}, _list(_list(_POINT, 3), 1)],
}
_KINDS = _map_of(_object({"name": _NAME, "colour": _COLOUR}))
_NOTES: dict[str, Schema] = {
    "tags": _TAGS,
    "properties": _PROPERTIES,
    "walkable": {"const": False},
    "collision": _SHAPE,
    "shapes": _map_of(_SHAPE),
    "frames": _list({"type": "array", "prefixItems": [_COUNT, _SIDE], "items": False, "minItems": 2}, 1)
    | {"description": "the number of each frame's tile, and for how many milliseconds it shows"},
    "apart": {"const": True, "description": "each cell and each thing begins with a frame of its own"},
}
_TILE = _object({}, {"large": {"const": True}, "picture": _PLACE, "image": _COUNT, **_NOTES})
_LIGHT = _object(
    {"colour": _COLOUR, "reach": _ABOVE, "softness": _SHARE, "flicker": _SHARE, "shadows": _YES},
    {"lit": _list(_list(_POINT, 3)) | {"description": "it reaches what lies in an odd number of these outlines"}},
)
_THING = _object(
    {"id": _NAME, "form": {"enum": ["sprite", "point", "box", "round", "line", "polygon"]}, "x": _NUMBER, "y": _NUMBER},
    {
        "name": _TEXT,
        "kind": _NAME,
        "tile": _SIDE,
        "picture": _PLACE,
        "turn": {"type": "number", "minimum": 0, "exclusiveMaximum": 360},
        "scale": _ABOVE,
        "mirrored": _YES,
        "width": {"type": "number", "minimum": 0},
        "height": {"type": "number", "minimum": 0},
        "points": _list(_POINT, 1),
        "tags": _TAGS,
        "light": _LIGHT,
        "properties": _PROPERTIES,
    },
)
_LAYER = _object(
    {"name": _NAME},
    {
        "kind": {"enum": ["props", "shade", "walk"]},
        "opacity": _SHARE,
        "tint": _COLOUR,
        "offset_x": _WHOLE,
        "offset_y": _WHOLE,
        "parallax_x": _NUMBER,
        "parallax_y": _NUMBER,
        "stacking": {"enum": ["whole", "depth"]},
        "group": _TEXT,
        "solid": {"enum": list(get_args(Solid))},
        "stops_sight": {"const": True},
        "stands": {"enum": list(get_args(Stands))},
        "order": {"const": "hand"},
        "on": {"enum": ["cells"]},
        "colours": _list(_COLOUR),
        "names": _list(_NAME),
        "things": _list(_THING),
        "rows": _list(_list(_COUNT, 1), 1),
        "columns": _SIDE,
        "packed": {"type": "string", "contentEncoding": "base64"},
    },
) | {"anyOf": [{"required": ["rows"]}, {"required": ["columns", "packed"]}, {"required": ["things"]}]}
_BESIDE = _object({"name": _NAME, "shift": _WHOLE})
_TILESET = _object(
    {
        "image": _NAME, "columns": _SIDE, "rows": _SIDE, "tiles": _COUNT, "cell_width": _SIDE, "cell_height": _SIDE,
        "origin_x": _COUNT, "origin_y": _COUNT,
    },
    {"images": _list(_NAME, 2), "edge": _SIDE, "turned": {"const": "flags"}},
)  # fmt: skip
MAP: Schema = {
    "$schema": _DIALECT,
    "title": "A map that Knit Ground delivered",
    **_object(
        {
            "format": {"const": game_json.FORMAT},
            "version": {"const": game_json.VERSION},
            "name": _NAME,
            "grid": {"enum": list(GRIDS)},
            "width": _SIDE,
            "height": _SIDE,
            "tile_width": _SIDE,
            "tile_height": _SIDE,
            "picture_width": _SIDE,
            "picture_height": _SIDE,
            "pixels_per_unit": _ABOVE,
            "wraps_x": _YES,
            "wraps_y": _YES,
            "tileset": _TILESET,
            "layers": _list(_LAYER),
            "tiles": _map_of(_TILE, "^[1-9][0-9]*$"),
        },
        {
            "background": _COLOUR,
            "tags": _TAGS,
            "properties": _PROPERTIES,
            "neighbours": _map_of(_BESIDE, "^(north|east|south|west)$"),
            "shape_kinds": _KINDS,
        },
    ),
}
_TERRAIN = _object({"name": _NAME, "colour": _COLOUR})
_JOIN_SET = _object(
    {"name": _NAME, "kind": {"enum": ["corner", "edge", "full", "cell"]}, "places": _list(_NAME, 4),
     "terrains": _list(_TERRAIN)}
)  # fmt: skip
TILESET: Schema = {
    "$schema": _DIALECT,
    "title": "A tileset that Knit Ground delivered",
    **_object(
        {
            "format": {"const": tileset.FORMAT},
            "version": {"const": tileset.VERSION},
            "name": _NAME,
            "images": _list(_NAME, 1),
            "edge": _COUNT,
            "pixels_per_unit": _ABOVE,
            "shape_kinds": _KINDS,
            "join_sets": _list(_JOIN_SET),
            "tiles": _list(
                _object(
                    {"name": _NAME, "x": _COUNT, "y": _COUNT, "width": _SIDE, "height": _SIDE},
                    {"image": _COUNT, "weight": {"type": "number", "minimum": 0},
                     "labels": _map_of(_list(_COUNT, 4, 9)), **_NOTES},
                )
            ),
        }
    ),
}  # fmt: skip


def _message(kind: str, needed: dict[str, Any], more: dict[str, Any] | None = None) -> Schema:
    return _object({"type": {"const": kind}, **needed}, more)


_AT = {"ground": _NAME, "layer": _COUNT}
_GROUND = _object({"id": _NAME, "name": _NAME})
_NEW_TILE = _object({"number": _SIDE, "left": _WHOLE, "top": _WHOLE, "png": _NAME, "notes": _TILE})
_SAID = {
    **{name: value for name, value in MAP.items() if name not in ("$schema", "title")},
    "properties": {name: one for name, one in MAP["properties"].items() if name not in ("tileset", "tiles", "layers")}
    | {"layers": _list({"type": "object"})},
    "required": [name for name in MAP["required"] if name not in ("tileset", "tiles")],
}
_POINTS = {"x": _NUMBER, "y": _NUMBER}
LIVE: Schema = {
    "$schema": _DIALECT,
    "title": "A message of the live link of Knit Ground",
    "oneOf": [
        _message("hello", {"version": {"const": 1}, "project": _NAME, "grounds": _list(_GROUND)}),
        _message("whole", {"ground": _NAME, "map": {k: v for k, v in MAP.items() if k != "$schema"},
                           "images": _map_of(_NAME)}),
        _message("cells", {**_AT, "top": _COUNT, "left": _COUNT, "rows": _list(_list(_COUNT, 1), 1)}),
        _message("tiles", {"ground": _NAME, "tiles": _list(_NEW_TILE, 1)}),
        _message("things", {**_AT, "put": _list(_THING), "gone": _list(_NAME)}, {"order": _list(_NAME)}),
        _message("defined", {"ground": _NAME, "map": _SAID}),
        _message("said", {"sentence": _NAME}),
        _message("want", {"ground": _NAME}),
        _message("look", _POINTS, {"ground": _NAME}),
        _message("here", _POINTS, {"ground": _NAME}),
    ],
}  # fmt: skip
SCHEMAS = {"map": MAP, "tileset": TILESET, "live": LIVE}
