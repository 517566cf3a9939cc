"""Things: sprites that stand anywhere."""

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import cast

from knitground.core.grid.projection import PixelRect
from knitground.core.layers.items import ThingItems
from knitground.core.layers.thing import Thing
from knitground.core.render.pixels import Pixels
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.sprites import SpriteSheet
from knitground.core.render.things import foot_of, in_full, lay_thing, lay_things, placed, things_from_afar, within
from knitground.core.render.verbs.verb import Piece, Samples, View


class Things:
    """How they become pixels."""

    shades = False

    def lay(self, canvas: Pixels, drawn: Drawn, view: View, part: PixelRect) -> None:
        lay_things(canvas, drawn.layer, _items(drawn), view.scene.atlas, view.small, part)

    def pieces(self, sheet: SpriteSheet, drawn: Drawn, view: View, part: PixelRect) -> Iterator[Piece]:
        items, atlas, small = _items(drawn), view.scene.atlas, view.small
        every = placed(items, atlas)
        room = sheet.area._replace(x=sheet.area.x + part.x - sheet.of.x, y=sheet.area.y + part.y - sheet.of.y)
        last = -math.inf
        for number in within(every, in_full(part, small, atlas)).tolist():
            thing = every.things[number]
            foot = foot_of(thing, atlas, small) - small.tile_height
            # Where the order is by hand, nothing comes before what lies behind it.
            last = foot if items.by_foot else max(last, foot)
            yield last, partial(_draw, sheet, thing, drawn, view, room)

    def lay_from_afar(self, canvas: Pixels, drawn: Drawn, samples: Samples) -> None:
        things_from_afar(canvas, drawn.layer, _items(drawn), samples.scene.atlas, samples.xs, samples.ys)

    def before(self, drawn: Drawn, scene: Scene, foot: float, height: int) -> Drawn | None:
        layer, items = drawn.layer, _items(drawn)
        if layer.stands == "under":
            return None
        if layer.stands == "over":
            return drawn
        things = tuple(thing for thing in items.things if thing.y + layer.moved_down > foot)
        return Drawn(layer, replace(items, things=things)) if things else None


def _draw(sheet: SpriteSheet, thing: Thing, drawn: Drawn, view: View, room: PixelRect) -> None:
    if lay_thing(sheet.pixels, thing, view.scene.atlas, view.small, room, drawn.layer):
        sheet.empty = sheet.whole = False


def _items(drawn: Drawn) -> ThingItems:
    return cast(ThingItems, drawn.items)
