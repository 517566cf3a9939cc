"""SVG 1.1 (with `href` as in SVG 2): a ground as symbols and uses of small pictures, and its shapes as vectors."""

import base64
import html
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from knitground.core.deliver.exporter import File, Order
from knitground.core.deliver.game_json import JsonOptions, MadeMap
from knitground.core.deliver.parts import Part, parts_of, together
from knitground.core.deliver.pictures import scene_on
from knitground.core.deliver.placing import Piece, pieces_of
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.layer import Layer
from knitground.core.layers.thing import Thing, outline
from knitground.core.render.pixels import Pixels, straight
from knitground.core.sheet.picture import encode_png

_MOST_PIECES = 2**20
_BLOCKS = "#c0392b"


@dataclass(frozen=True)
class SvgOptions:
    """What can be chosen of SVG."""

    shapes: Annotated[
        Literal["hidden", "shown", "none"],
        Field(title="Shapes", description="what blocks, and things without a picture: there but hidden, shown, or not"),
    ] = "hidden"


def make(order: Order) -> Iterator[File]:
    """A ground as an SVG picture.

    Raises
    ------
    BadRequest
        If it has more pieces than a picture of this kind can hold.
    """
    said: SvgOptions = order.options
    scene_on(order)
    made = MadeMap(order._replace(options=JsonOptions()))
    ground, shown = made.ground, made.ground.shown()
    if sum(int((codes > 0).sum()) for codes in made.codes.values()) > _MOST_PIECES:
        raise BadRequest(f"“{ground.name}” has more tiles than an SVG picture can hold; deliver it as PNG or JSON.")
    shades = iter(_shades(order, shown))
    width, height = ground.projection.size
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" width="{width}" height="{height}" '
        f'data-pixels-per-unit="{order.per_unit:g}" style="image-rendering:pixelated">',
        f"<title>{_text(ground.name)}</title>",
        "<defs>",
        *_symbols(made),
        *(_tint(number, layer) for number, layer in enumerate(shown) if layer.tint != "#ffffff"),
        "</defs>",
    ]
    if ground.background is not None:
        lines.append(f'<rect width="{width}" height="{height}" fill="{ground.background}"/>')
    for mine in together(shown):
        lines += _shade(next(shades)) if mine[0].shades_below else _group(made, mine, shown)
    if said.shapes != "none":
        hidden = ' display="none"' if said.shapes == "hidden" else ""
        lines += _blocking(order, hidden)
        lines += [line for layer in shown for line in _shapes(made, layer, hidden)]
    lines.append("</svg>")
    yield File(order.name("", ".svg"), ("\n".join(lines) + "\n").encode("utf-8", "replace"))


def _symbols(made: MadeMap) -> Iterator[str]:
    """Each tile as a picture that stands as it does against the box of its cell; sprites by where they stand."""
    atlas = made.derived.atlas(made.ground)
    sprites = {made.pictures.number(made.derived.code(one.tile)) for some in made.things.values() for one in some
               if one.tile is not None}  # fmt: skip
    for number, code in enumerate(made.pictures.used.tolist(), start=1):
        pixels, left, top = atlas.sprite(code)
        picture = _picture(straight(pixels))
        high, wide = pixels.shape[:2]
        yield f'<image id="t{number}" x="{left}" y="{top}" width="{wide}" height="{high}" href="{picture}"/>'
        if number in sprites:
            yield (
                f'<image id="s{number}" x="{-wide / 2:g}" y="{-high}" width="{wide}" height="{high}" href="{picture}"/>'
            )


def _picture(pixels: Pixels) -> str:
    return "data:image/png;base64," + base64.b64encode(encode_png(pixels)).decode("ascii")


def _tint(number: int, layer: Layer) -> str:
    red, green, blue = (int(layer.tint[at : at + 2], 16) / 255 for at in (1, 3, 5))
    rows = f"{red:.4f} 0 0 0 0 0 {green:.4f} 0 0 0 0 0 {blue:.4f} 0 0 0 0 0 1 0"
    return (
        f'<filter id="tint{number}" x="0" y="0" width="100%" height="100%" color-interpolation-filters="sRGB">'
        f'<feColorMatrix type="matrix" values="{rows}"/></filter>'
    )


def _group(made: MadeMap, mine: list[Layer], shown: Sequence[Layer]) -> list[str]:
    """Layers that are drawn together as a group with a title."""
    pieces = pieces_of(made, mine)
    if len(mine) == 1:
        dress = _dress(mine[0], shown)
        uses = [_use(made, piece, "") for piece in pieces]
    else:
        dress = ""
        uses = [_use(made, piece, _dress(piece.layer, shown)) for piece in pieces]
    title = _text(" + ".join(layer.name for layer in mine))
    return [f"<g{dress}>", f"<title>{title}</title>", *uses, "</g>"]


def _dress(layer: Layer, shown: Sequence[Layer]) -> str:
    """The opacity and tint of a layer as attributes."""
    said = f' opacity="{layer.opacity:g}"' if layer.opacity != 1 else ""
    return said + (f' filter="url(#tint{list(shown).index(layer)})"' if layer.tint != "#ffffff" else "")


def _use(made: MadeMap, piece: Piece, dress: str) -> str:
    thing = piece.thing
    if thing is None:
        return f'<use href="#t{piece.number}" x="{piece.x:g}" y="{piece.y:g}"{dress}/>'
    _, (_, _, wide, high) = made.pictures.sprite(int(made.pictures.used[piece.number - 1]))
    x, y = piece.x, piece.y
    if not thing.turn and thing.scale == 1:
        x, y = math.floor(x - wide / 2 + 0.5) + wide / 2, math.floor(y - high + 0.5) + high
    moves = f"translate({x:g} {y:g})"
    moves += f" rotate({thing.turn:g})" if thing.turn else ""
    if thing.scale != 1 or thing.mirrored:
        moves += f" scale({-thing.scale if thing.mirrored else thing.scale:g} {thing.scale:g})"
    title = f"<title>{_text(thing.name)}</title>" if thing.name else ""
    return f'<use href="#s{piece.number}" transform="{moves}"{dress}>{title}</use>'


def _shades(order: Order, shown: Sequence[Layer]) -> list[Part]:
    if not any(layer.shades_below for layer in shown):
        return []
    return [part for part in parts_of(order, shown) if part.multiplies]


def _shade(part: Part) -> list[str]:
    high, wide = part.pixels.shape[:2]
    return [
        '<g style="mix-blend-mode:multiply">',
        f"<title>{_text(part.name)}</title>",
        f'<image x="{part.x}" y="{part.y}" width="{wide}" height="{high}" href="{_picture(part.pixels)}"/>',
        "</g>",
    ]


def _blocking(order: Order, hidden: str) -> list[str]:
    """What blocks on the whole ground, as one outline."""
    import shapely

    from knitground.core.walk.solid import Solids  # slow to import

    ground = order.derived.knitted(order.ground_id).ground
    union = Solids(order.derived, ground.id).union(PixelRect(0, 0, *ground.projection.size))
    rings = [
        shapely.get_coordinates(ring)[:-1]
        for part in shapely.get_parts(union)
        if isinstance(part, shapely.Polygon)
        for ring in (part.exterior, *part.interiors)
    ]
    path = " ".join("M" + " L".join(f"{x:g} {y:g}" for x, y in np.round(ring, 2).tolist()) + " Z" for ring in rings)
    return [
        f'<g fill="{_BLOCKS}" fill-opacity="0.35" fill-rule="evenodd"{hidden}>',
        "<title>What blocks</title>",
        *([f'<path d="{path}"/>'] if path else []),
        "</g>",
    ]


def _shapes(made: MadeMap, layer: Layer, hidden: str) -> list[str]:
    """Things without a picture, as outlines in the colours of their kinds."""
    things = [one for one in made.things[layer.id] if one.tile is None]
    if not things:
        return []
    colours = {kind.id: kind.colour for kind in made.derived.sets.thing_kinds}
    moved = f' transform="translate({layer.offset_x} {layer.offset_y})"' if layer.offset_x or layer.offset_y else ""
    drawn = [_outlined(one, colours.get(one.kind, "#3f7f8f")) for one in things]
    return [f'<g fill-opacity="0.25"{moved}{hidden}>', f"<title>{_text(layer.name)}: shapes</title>", *drawn, "</g>"]


def _outlined(thing: Thing, colour: str) -> str:
    corners: list[tuple[Any, Any]] = outline(thing)
    title = f"<title>{_text(thing.name or thing.id)}</title>"
    if len(corners) == 1:
        x, y = corners[0]
        return f'<circle cx="{x:g}" cy="{y:g}" r="3" fill="{_text(colour)}">{title}</circle>'
    points = " ".join(f"{x:g},{y:g}" for x, y in corners)
    if thing.form == "line":
        return f'<polyline points="{points}" fill="none" stroke="{_text(colour)}">{title}</polyline>'
    return f'<polygon points="{points}" fill="{_text(colour)}" stroke="{_text(colour)}">{title}</polygon>'


def _text(text: str) -> str:
    """Text as it may stand in an element or in an attribute."""
    return html.escape("".join(letter for letter in text if letter >= " " and letter not in "\ufffe\uffff"))
