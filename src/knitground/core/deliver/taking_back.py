"""A delivered map back as a project: the same cells, things, shapes and properties, on tile layers of its own tiles.

What knitted it is not in the file, so nothing of that comes back; what lies there does, and can be drawn on.
"""

import base64
import json
import zlib
from collections.abc import Mapping
from dataclasses import fields
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from knitground.core.deliver.game_json import FORMAT, HEADER, VERSION
from knitground.core.deliver.schema import MAP
from knitground.core.errors import BadProject, readable
from knitground.core.grid import GRIDS
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground
from knitground.core.joins.sets import Terrain
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import PropLayer
from knitground.core.layers.shade import ShadeLayer
from knitground.core.layers.thing import Thing, ThingKind
from knitground.core.layers.tiles import CELLS, TileLayer
from knitground.core.layers.walking import WalkLayer
from knitground.core.project.document import Document
from knitground.core.project.file import inside
from knitground.core.project.model import Palette, Picture, Project, State, fresh_id
from knitground.core.project.validity import check_whole
from knitground.core.sheet.cut import MOST_PIECES, Cut, Rect
from knitground.core.sheet.picture import Sheet, read_file
from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.tiles.shape_kinds import USUAL_KINDS
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

_COLOURED = "#3f7f8f"
Said = dict[str, Any]


def is_delivered_map(data: bytes) -> bool:
    """Whether a file looks like a map that was delivered."""
    return f'"{FORMAT}"'.encode() in data[:200]


def project_from_map(path: Path) -> Document:
    """A new document of a delivered map and the pictures beside it.

    Raises
    ------
    BadProject
        If it is no delivered map, of another version, or holds something impossible.
    BadSheet
        If one of its pictures can't be read.
    """
    said, rows = _read(path)
    try:
        return _Back(path, said, rows).document()
    except ValidationError as problem:
        first = problem.errors(include_url=False, include_input=False)[0]
        place = ", ".join(str(part) for part in first["loc"])
        raise BadProject(
            f"{readable(path.name)} holds something impossible at {place} ({first['msg']}); deliver it again."
        ) from None


def _read(path: Path) -> tuple[Said, list[NDArray[np.int64] | None]]:
    """What the file says, and the rows of its layers; all of it is what the schema says."""
    # Slow to import, and needed here alone.
    import jsonschema

    name = readable(path.name)
    try:
        said = json.loads(read_file(path))
    except (ValueError, RecursionError):
        raise BadProject(f"{name} is damaged; deliver it again.") from None
    if not isinstance(said, dict) or said.get("format") != FORMAT:
        raise BadProject(f"{name} is no map that was delivered; choose a JSON made by Deliver.")
    if said.get("version") != VERSION:
        raise BadProject(f"{name} is of version {readable(said.get('version'))} and not {VERSION}; deliver it again.")
    layers, rows, bare = said.get("layers"), [], said
    if isinstance(layers, list) and all(isinstance(one, dict) for one in layers):
        # The rows themselves, of which there may be millions, are looked at as arrays.
        rows = [_numbers(layer, name) for layer in layers]
        bare = {**said, "layers": [{**one, "rows": [[0]]} if "rows" in one else one for one in layers]}
    problem = jsonschema.exceptions.best_match(jsonschema.Draft202012Validator(MAP).iter_errors(bare))
    if problem is not None:
        place = ", ".join(str(part) for part in problem.absolute_path) or "its top"
        raise BadProject(f"{name} holds something impossible at {place}; deliver it again.")
    return said, rows


def _numbers(layer: Said, name: str) -> NDArray[np.int64] | None:
    """The rows of a layer; None if it has none."""
    try:
        if "rows" in layer:
            found = np.array(layer["rows"])
            if found.ndim != 2 or found.dtype.kind not in "iu":
                raise ValueError
            return found.astype(np.int64)
        if "packed" in layer:
            unpacked = zlib.decompressobj().decompress(base64.b64decode(layer["packed"]), 2**28)
            return np.frombuffer(unpacked, "<u4").astype(np.int64).reshape(-1, layer["columns"])
    except (ValueError, TypeError, KeyError, OverflowError, zlib.error):
        raise BadProject(f"{name} has a layer with damaged rows; deliver it again.") from None
    return None


class _Back:
    """The project while it is put together."""

    def __init__(self, path: Path, said: Said, rows: list[NDArray[np.int64] | None]) -> None:
        self._said, self._rows, self._name = said, rows, readable(path.name)
        self._tileset: Said = said["tileset"]
        names = self._tileset.get("images", [self._tileset["image"]])
        self._pictures = [Picture.decode(read_file(inside(path.parent, name)), name) for name in names]
        self._cuts: list[list[Cut]] = [[] for _ in names]
        self.refs = self._cut()
        self.palette = Palette(dict.fromkeys(self.refs.values()))
        self._codes = np.zeros(self._tileset["tiles"] + 1, dtype=np.int64)
        for number, ref in self.refs.items():
            self._codes[number] = self.palette.number(ref)

    def document(self) -> Document:
        """The project, with what was said of its tiles."""
        said = self._said
        board = GRIDS[said["grid"]].board(said["height"], said["width"], said["wraps_y"], said["wraps_x"])
        layers, planes = [], {}
        for number, (layer, rows) in enumerate(zip(said["layers"], self._rows, strict=True), start=1):
            made = self._layer(f"layer-{number}", layer)
            layers.append(made)
            planes[made.id] = {} if rows is None else {made.area_plane: self._plane(made, rows, board)}
        ground = TypeAdapter(Ground).validate_python(
            {
                **{name: said[name] for name in ("name", "width", "height", "tile_width", "tile_height", "grid",
                                                 "wraps_x", "wraps_y")},
                **{name: said[name] for name in ("background", "tags") if name in said},
                "id": fresh_id(said["name"], ()), "properties": _properties(said), "layers": tuple(layers),
            }
        )  # fmt: skip
        sheets = tuple(
            Sheet(self._sheet_name(page), f"sheets/{self._sheet_name(page)}.png", tuple(cuts))
            for page, cuts in enumerate(self._cuts)
        )
        kinds = [
            *({"id": one.id, "name": one.name, "colour": one.colour} for one in USUAL_KINDS
              if one.id not in said.get("shape_kinds", {})),
            *({"id": name, **one} for name, one in said.get("shape_kinds", {}).items()),
        ]  # fmt: skip
        project = TypeAdapter(Project).validate_python(
            {
                "name": said["name"][:80],
                "sheets": sheets,
                "tiles": self._notes(),
                "thing_kinds": self._thing_kinds(),
                "shape_kinds": kinds,
                "grounds": (ground,),
            }
        )
        check_whole(project, self._name)
        pictures = {sheet.id: picture for sheet, picture in zip(sheets, self._pictures, strict=True)}
        return Document(State(project, pictures, {ground.id: planes}), self.palette)

    def _sheet_name(self, page: int) -> str:
        return "tiles" if len(self._pictures) == 1 else f"tiles-{page + 1}"

    def _cut(self) -> dict[int, TileRef]:
        """Cuts the pictures into tiles: a grid where all fill their cells, else pieces that stand as they stood."""
        tileset, notes = self._tileset, self._said["tiles"]
        edge, columns, each = tileset.get("edge", 0), tileset["columns"], tileset["columns"] * tileset["rows"]
        plain = not any("picture" in one for one in notes.values())
        refs: dict[int, TileRef] = {}
        pieces: dict[tuple[int, int, int, int], list[tuple[int, Rect]]] = {}
        for number in range(1, tileset["tiles"] + 1):
            page, place = divmod(number - 1, each)
            row, column = divmod(place, columns)
            if page >= len(self._pictures):
                raise BadProject(f"{self._name} names more tiles than its pictures hold; deliver it again.")
            if plain:
                refs[number] = TileRef(self._sheet_name(page), "tiles", column, row)
                continue
            x = column * (tileset["cell_width"] + 2 * edge) + edge + tileset["origin_x"]
            y = row * (tileset["cell_height"] + 2 * edge) + edge + tileset["origin_y"]
            usual = [x, y, self._said["tile_width"], self._said["tile_height"]]
            rect = Rect(*notes.get(str(number), {}).get("picture", usual))
            stands = pieces.setdefault((page, rect.x - x, rect.y - y, 0), [])
            stands.append((number, rect))
        if plain:
            size = self._said["tile_width"], self._said["tile_height"]
            for cuts in self._cuts:
                cuts.append(Cut("tiles", *size, edge, edge, 2 * edge, 2 * edge))
        for (page, left, top, _), mine in pieces.items():
            for first in range(0, len(mine), MOST_PIECES):
                some = mine[first : first + MOST_PIECES]
                name = f"tiles-{len(self._cuts[page]) + 1}"
                refs |= {
                    number: TileRef(self._sheet_name(page), name, column, 0) for column, (number, _) in enumerate(some)
                }
                sizes = self._said["tile_width"], self._said["tile_height"]
                self._cuts[page].append(
                    Cut(name, *sizes, pieces=tuple(rect for _, rect in some), anchor="top-left", offset_x=left,
                        offset_y=top)
                )  # fmt: skip
        return refs

    def _notes(self) -> Mapping[TileRef, TileNotes]:
        found = {}
        for number, said in self._said["tiles"].items():
            ref = self.refs.get(int(number))
            notes = {name: said[name] for name in ("tags", "walkable", "collision", "shapes", "apart") if name in said}
            frames = [{"tile": self._ref(one), "ms": ms} for one, ms in said.get("frames", ())]
            made = TypeAdapter(TileNotes).validate_python(
                {**notes, "properties": _properties(said), **({"frames": frames} if frames else {})}
            )
            if made != PLAIN and ref is not None:
                found[ref] = made
        return found

    def _ref(self, number: int) -> TileRef:
        if number not in self.refs:
            raise BadProject(f"{self._name} names the tile {number}, which its pictures don't hold; deliver it again.")
        return self.refs[number]

    def _layer(self, layer_id: str, said: Said) -> Layer:
        header = {name: said[name] for name in HEADER if name in said} | {"id": layer_id, "name": said["name"]}
        kind = said.get("kind", "tiles")
        if kind == "props":
            order = said.get("order", "foot")
            things = tuple(self._thing(one) for one in said.get("things", ()))
            return TypeAdapter(PropLayer).validate_python({**header, "things": things, "order": order})
        if kind == "shade":
            told = zip(said.get("names", ()), said.get("colours", ()), strict=False)
            shades = tuple(Terrain(name[:60], name[:1], colour) for name, colour in told)
            return TypeAdapter(ShadeLayer).validate_python(
                {**header, "shades": shades, "on": said.get("on", "corners")}
            )
        return TypeAdapter(WalkLayer if kind == "walk" else TileLayer).validate_python(header)

    def _thing(self, said: Said) -> Thing:
        plain = {one.name for one in fields(Thing)} - {"tile", "kind", "properties", "light"}
        light = {name: value for name, value in said.get("light", {}).items() if name != "lit"}
        return TypeAdapter(Thing).validate_python(
            {
                **{name: value for name, value in said.items() if name in plain},
                "properties": _properties(said),
                **({"tile": self._ref(said["tile"])} if "tile" in said else {}),
                **({"kind": self._kinds()[said["kind"]].id} if "kind" in said else {}),
                **({"light": light} if light else {}),
            }
        )

    def _kinds(self) -> dict[str, ThingKind]:
        """The kinds of things by their names; their properties stand with each thing."""
        found: dict[str, ThingKind] = {}
        for layer in self._said["layers"]:
            for name in (one["kind"] for one in layer.get("things", ()) if "kind" in one):
                if name not in found:
                    found[name] = ThingKind(fresh_id(name, found.values()), name, _COLOURED)
        return found

    def _thing_kinds(self) -> tuple[ThingKind, ...]:
        return tuple(self._kinds().values())

    def _plane(self, layer: Layer, rows: NDArray[np.int64], board: Any) -> Plane:
        """The plane of a layer, of the rows that were delivered."""
        spec = layer.specs[layer.area_plane]
        if rows.shape != board.shape(spec.on):
            high, wide = board.shape(spec.on)
            raise BadProject(
                f"{self._name} has {rows.shape[0]} rows of {rows.shape[1]} on “{readable(layer.name)}”, and {high} of "
                f"{wide} are needed; deliver it again."
            )
        if layer.area_plane != CELLS or not layer.holds_tiles:
            most = len(layer.terrains(Project()))
            if rows.min(initial=0) < 0 or rows.max(initial=0) > most:
                raise BadProject(
                    f"{self._name} has a number over {most} on “{readable(layer.name)}”; deliver it again."
                )
            return Plane.of(rows.astype(spec.dtype))
        numbers, turns = rows & NUMBER_MASK, rows >> 24
        if numbers.max(initial=0) >= len(self._codes) or turns.max(initial=0) > 7 or rows.min(initial=0) < 0:
            raise BadProject(f"{self._name} names a tile that its pictures don't hold; deliver it again.")
        return Plane.of(np.where(numbers > 0, self._codes[numbers] | turns << 24, 0).astype(np.int32))


def _properties(said: Said) -> dict[str, Any]:
    """Properties with the kinds that their values are of."""
    kinds = {bool: "yes-no", int: "whole", float: "number", str: "text"}
    return {name: {"kind": kinds[type(value)], "value": value} for name, value in said.get("properties", {}).items()}
