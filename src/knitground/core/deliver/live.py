"""A ground as it is told to readers that follow it live: all of it once, then just what changed.

Tiles keep their numbers for as long as the ground is followed; what comes to be used gets the next one, and its
picture is told with it. Nothing here knows who reads: an update says what became different, and messages are made of
the newest state whenever somebody is ready for them.
"""

import base64
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.deliver.exporter import Order
from knitground.core.deliver.game_json import JsonOptions, MadeMap, header_of, layer_header, things_on, written_thing
from knitground.core.deliver.tile_notes import tile_content, with_frames
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.props import PropLayer, as_props
from knitground.core.project.derived import Derived
from knitground.core.project.document import Change
from knitground.core.project.playing import playing
from knitground.core.render.pixels import Pixels, straight
from knitground.core.sheet.picture import encode_png
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef

_BLOCK = 64
Cells = tuple[int, CellRect]
Message = dict[str, Any]


class Different(NamedTuple):
    """What became different: all of it, or what is said of it, rectangles of layers, tiles by their numbers, things.

    Layers are told by their place among those that show, the lowest first.
    """

    all: bool = False
    said: bool = False
    cells: tuple[Cells, ...] = ()
    tiles: frozenset[int] = frozenset()
    things: frozenset[tuple[int, str]] = frozenset()


class _Look(NamedTuple):
    """What a tile looks like and what is said of it."""

    pixels: Pixels
    left: int
    top: int
    notes: dict[str, Any]

    def same(self, other: "_Look") -> bool:
        place = (self.left, self.top, self.notes) == (other.left, other.top, other.notes)
        return place and np.array_equal(self.pixels, other.pixels)


class LiveMap:
    """The newest state of a ground, in the numbers that its readers know.

    Raises
    ------
    KeyError
        If there is no such ground.
    """

    def __init__(self, derived: Derived, ground_id: str) -> None:
        self.ground_id, self._derived = ground_id, derived
        self._begin()

    def _begin(self) -> None:
        order = Order(self._derived, self.ground_id, JsonOptions(), lambda part, end: f"{part or 'map'}{end}")
        made = MadeMap(order)
        self._ground = made.ground
        self._frame = self._framed(made.ground)
        self._layers = made.ground.shown()
        self._content = made.content(rows=False)
        self._sheet = next(iter(made.pictures.drawn()))
        palette = self._derived.document.palette
        self._tiles = [(palette.ref(n & NUMBER_MASK), n >> ORIENTATION_SHIFT) for n in made.pictures.used.tolist()]
        self._first_new = len(self._tiles) + 1
        self._known = {tile: number for number, tile in enumerate(self._tiles, start=1)}
        self._looks = [self._look(tile) for tile in self._tiles]
        self._retold: set[int] = set()
        self._rows = [made.held(layer) for layer in self._layers]
        self._raw = {n: made.codes[one.id].copy() for n, one in enumerate(self._layers) if one.id in made.codes}
        self._codes_of = palette
        contents = self._content["layers"]
        self._things = [
            {one.id: (one, said) for one, said in zip(made.things[layer.id], content.get("things", ()), strict=False)}
            for layer, content in zip(self._layers, contents, strict=True)
        ]

    def _framed(self, ground: Ground) -> Any:
        """All that can't change without the whole being told anew."""
        bare = tuple(replace(one, things=()) if isinstance(one, PropLayer) else one for one in ground.layers)
        project = self._derived.document.project
        names = tuple((one.id, one.name) for one in project.grounds)
        return replace(ground, layers=bare), names, project.thing_kinds, project.shape_kinds

    def joined(self) -> list[Callable[[], Message]]:
        """What a reader is told that begins now; made when it is called for, as it was when it was asked for."""
        content, sheet = dict(self._content), self._sheet
        layers = [dict(layer) for layer in self._content["layers"]]
        rows = [None if one is None else one.copy() for one in self._rows]
        for layer, things in zip(layers, self._things, strict=True):
            if "things" in layer or things:
                layer["things"] = [said for _, said in things.values()]

        def whole() -> Message:
            for layer, numbers in zip(layers, rows, strict=True):
                if numbers is not None:
                    layer["rows"] = numbers.tolist()
            images = {content["tileset"]["image"]: _text(encode_png(sheet))}
            return {"type": "whole", "ground": self.ground_id, "map": content | {"layers": layers}, "images": images}

        later = frozenset(range(self._first_new, len(self._tiles) + 1)) | self._retold
        if not later:
            return [whole]
        tiles = self.tiles_message(later)
        return [whole, lambda: tiles]

    def update(self, derived: Derived, change: Change) -> Different:
        """Takes over what a change of the project did, after what follows from it was told.

        Raises
        ------
        KeyError
            If the ground is gone.
        """
        self._derived = derived
        ground = by_id(derived.document.project.grounds, self.ground_id)
        if not change.defined:
            return self._after_painting(change)
        if _lies(ground) != _lies(self._ground):
            self._begin()
            return Different(all=True)
        frame = self._framed(ground)
        said, self._frame = frame != self._frame, frame
        self._ground, self._layers = ground, ground.shown()
        if said:
            self._content = self._header()
        before = len(self._tiles)
        things = self._changed_things(anew=said)
        cells = [found for place in range(len(self._layers)) for found in self._compared(place, None)]
        tiles = {number for number in range(1, before + 1) if self._looks_otherwise(number)}
        self._retold |= tiles
        return Different(False, said, tuple(cells), frozenset(tiles | self._new(before)), frozenset(things))

    def _header(self) -> Message:
        """What is said of the map now; the tileset and the notes of tiles are those that readers know."""
        content = header_of(self._derived, self._ground, self._content["pixels_per_unit"])
        layers = [layer_header(self._derived, layer, coded=self._is_coded(n)) for n, layer in enumerate(self._layers)]
        return content | {"tileset": self._content["tileset"], "layers": layers, "tiles": self._content["tiles"]}

    def _new(self, before: int) -> set[int]:
        return set(range(before + 1, len(self._tiles) + 1))

    def _after_painting(self, change: Change) -> Different:
        places = {layer.id: place for place, layer in enumerate(self._layers)}
        before = len(self._tiles)
        rects: list[tuple[int, CellRect | None]] = [
            (places[one.layer], one.cells)
            for one in self._derived.reached
            if one.ground == self.ground_id and one.layer in places and self._is_coded(places[one.layer])
        ]
        # Where a ground goes round, what lies on its first line does so on the last one, too.
        around = self._ground.wraps_x or self._ground.wraps_y
        rects += [
            (places[one.layer], None if around else one.rect)
            for one in change.touched
            if one.ground == self.ground_id
            and one.layer in places
            and not self._is_coded(places[one.layer])
            and one.plane == self._layers[places[one.layer]].area_plane
        ]
        cells = [found for place, rect in rects for found in self._compared(place, rect)]
        relit = any(ground == self.ground_id for ground, _ in self._derived.relit)
        things = self._changed_things(relit=True) if relit else set()
        return Different(False, False, tuple(cells), frozenset(self._new(before)), frozenset(things))

    def _is_coded(self, place: int) -> bool:
        layer = self._layers[place]
        return layer.knits or layer.holds_tiles

    def _compared(self, place: int, rect: CellRect | None) -> list[Cells]:
        """Takes over the numbers of a layer in a rectangle, or everywhere; where they became others."""
        kept = self._rows[place]
        if kept is None:
            return []
        layer, knitted = self._layers[place], self._derived.knitted(self.ground_id)
        whole = CellRect(0, 0, *kept.shape)
        part = whole if rect is None else rect.inside(whole)
        if part.is_empty:
            return []
        if not self._is_coded(place):
            plane = knitted.planes[layer.id][layer.area_plane]
            now = knitted.ground.board.read(plane, part).astype(np.int64)
            changed = kept[part.rows, part.columns] != now
            kept[part.rows, part.columns] = now
            return [(place, one) for one in _blocks_of(changed, part)]
        # Codes are compared before anything is looked up, which takes far longer.
        codes, known = np.maximum(knitted.codes(layer.id, part), 0), self._known_codes(place)
        blocks = _blocks_of(known[part.rows, part.columns] != codes, part)
        known[part.rows, part.columns] = codes
        for one in blocks:
            kept[one.rows, one.columns] = self._numbered(known[one.rows, one.columns])
        return [(place, one) for one in blocks]

    def _known_codes(self, place: int) -> NDArray[np.int32]:
        """The cell codes of a layer as readers know them; another project may give the same tiles other codes."""
        palette, rows = self._derived.document.palette, self._rows[place]
        assert rows is not None, "a layer of things has no cells"
        if self._codes_of is not palette:
            self._raw, self._codes_of = {}, palette
        if place not in self._raw:
            codes = np.array([0, *(palette.code(*tile) for tile in self._tiles)], dtype=np.int32)
            self._raw[place] = codes[rows]
        return self._raw[place]

    def _numbered(self, codes: NDArray[np.int32]) -> NDArray[np.int64]:
        """The numbers of cell codes; those that are new to readers get the next ones, their frames among them."""
        each, where = np.unique(codes, return_inverse=True)
        numbers = [0 if code <= 0 else self._number(code) for code in each.tolist()]
        return np.array(numbers, dtype=np.int64)[where].reshape(codes.shape)

    def _number(self, code: int) -> int:
        """The number of a tile by its cell code; another project may give the same tile another code."""
        tile = self._derived.document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
        if tile not in self._known:
            frames = with_frames(np.array([code], dtype=np.int32), playing(self._derived)).tolist()
            palette = self._derived.document.palette
            for one in ((palette.ref(n & NUMBER_MASK), n >> ORIENTATION_SHIFT) for n in frames):
                if one not in self._known:
                    self._tiles.append(one)
                    self._known[one] = len(self._tiles)
            self._looks += [self._look(one) for one in self._tiles[len(self._looks) :]]
        return self._known[tile]

    def _look(self, tile: tuple[TileRef, int]) -> _Look:
        code, moved = self._derived.code(*tile), playing(self._derived)
        atlas = self._derived.atlas(self._ground)
        pixels, left, top = atlas.sprite(code)
        notes = tile_content(self._derived, moved, code, self._number)
        inside = left >= 0 and top >= 0 and left + pixels.shape[1] <= atlas.tile_width
        if not (inside and top + pixels.shape[0] <= atlas.tile_height):
            notes["large"] = True
        return _Look(pixels, left, top, notes)

    def _looks_otherwise(self, number: int) -> bool:
        look = self._look(self._tiles[number - 1])
        same = look.same(self._looks[number - 1])
        self._looks[number - 1] = look
        return not same

    def _changed_things(self, *, relit: bool = False, anew: bool = False) -> set[tuple[int, str]]:
        """Takes over the things of all layers; which became others, came or went.

        Those that shine are looked at again if they were `relit`, all of them `anew` if what is said of kinds may have
        changed.
        """
        found = set()
        for place, layer in enumerate(self._layers):
            old = self._things[place]
            new = {}
            for one in things_on(self._derived, self.ground_id, layer):
                known = old.get(one.id)
                same = known is not None and (known[0] is one or known[0] == one)
                if known is not None and same and not (anew or (relit and one.light is not None)):
                    new[one.id] = known
                    continue
                said = written_thing(self._derived, self._ground, layer, one, self._seen)
                new[one.id] = one, said
                if known is None or known[1] != said:
                    found.add((place, one.id))
            found |= {(place, name) for name in old.keys() - new.keys()}
            self._things[place] = new
        return found

    def _seen(self, ref: TileRef) -> tuple[int, list[int]]:
        number = self._number(self._derived.code(ref))
        look = self._looks[number - 1]
        return number, [0, 0, look.pixels.shape[1], look.pixels.shape[0]]

    def defined_message(self) -> Message:
        """What is said of the map and its layers as it is now, without what lies on them."""
        said = {name: value for name, value in self._content.items() if name not in ("tileset", "tiles")}
        bare = [{name: value for name, value in one.items() if name != "things"} for one in self._content["layers"]]
        return {"type": "defined", "ground": self.ground_id, "map": said | {"layers": bare}}

    def cells_message(self, place: int, rect: CellRect) -> Message:
        """The numbers of a rectangle of a layer as they are now."""
        rows = self._rows[place]
        assert rows is not None, "a layer of things has no rows"
        part = rows[rect.rows, rect.columns].tolist()
        return {"type": "cells", "ground": self.ground_id, "layer": place, "top": rect.top, "left": rect.left,
                "rows": part}  # fmt: skip

    def tiles_message(self, numbers: Iterable[int]) -> Message:
        """The pictures of tiles and what is said of them, as they are now."""
        tiles = []
        for number in sorted(numbers):
            look = self._looks[number - 1]
            tiles.append({"number": number, "left": look.left, "top": look.top,
                          "png": _text(encode_png(straight(look.pixels))), "notes": look.notes})  # fmt: skip
        return {"type": "tiles", "ground": self.ground_id, "tiles": tiles}

    def things_messages(self, which: Iterable[tuple[int, str]]) -> list[Message]:
        """Things as they are now, a message for each layer; where their order is by hand, all of it."""
        by_layer: dict[int, list[str]] = {}
        for place, name in sorted(which):
            by_layer.setdefault(place, []).append(name)
        messages = []
        for place, names in by_layer.items():
            things = self._things[place]
            message = {"type": "things", "ground": self.ground_id, "layer": place,
                       "put": [things[name][1] for name in names if name in things],
                       "gone": [name for name in names if name not in things]}  # fmt: skip
            props = as_props(self._layers[place])
            if props is not None and props.order == "hand":
                message["order"] = list(things)
            messages.append(message)
        return messages


def _lies(ground: Ground) -> Any:
    """All of a ground that tells where things lie; if it changes, the whole is told anew."""
    shown = tuple((one.id, one.kind, one.area_plane) for one in ground.shown())
    return ground.board, ground.grid, ground.tile_width, ground.tile_height, shown


def _blocks_of(changed: NDArray[np.bool_], part: CellRect) -> list[CellRect]:
    """Few rectangles that hold all that changed of a part: one for each large block, as small as can be."""
    found = []
    for top in range(0, part.height, _BLOCK):
        band = changed[top : top + _BLOCK]
        if not band.any():
            continue
        for left in range(0, part.width, _BLOCK):
            block = band[:, left : left + _BLOCK]
            rows, columns = np.flatnonzero(block.any(axis=1)), np.flatnonzero(block.any(axis=0))
            if len(rows):
                y, x = int(rows[0]), int(columns[0])
                found.append(CellRect(part.top + top + y, part.left + left + x, int(rows[-1]) + 1 - y,
                                      int(columns[-1]) + 1 - x))  # fmt: skip
    return found


def _text(data: bytes) -> str:
    return base64.b64encode(data).decode("ascii")
