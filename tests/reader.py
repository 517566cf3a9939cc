"""A small game that draws a delivered ground, knowing nothing but its JSON and tileset picture."""

import json
import math
from itertools import groupby
from pathlib import Path

import numpy as np
import shapely
from PIL import Image


def drawn(path: Path) -> np.ndarray:
    """The picture of a delivered ground, (H, W, 4) with straight alpha."""
    content = json.loads(path.read_text())
    tileset = Image.open(path.parent / content["tileset"]["image"]).convert("RGBA")
    wide, high = content["tile_width"], content["tile_height"]
    rows, columns = content["height"], content["width"]
    isometric, pointed, lying = (content["grid"] == name for name in ("diamond", "hex-pointed", "hex-flat"))
    size = ((rows + columns) * wide // 2, (rows + columns) * high // 2) if isometric else (columns * wide, rows * high)
    room = content["tileset"]["cell_width"], content["tileset"]["cell_height"]
    picture = Image.new("RGBA", (size[0] + 2 * room[0], size[1] + 2 * room[1]))

    def corner(row: int, column: int) -> tuple[int, int]:
        if isometric:
            return (column - row + rows - 1) * wide // 2, (column + row) * high // 2
        if pointed:
            return column * wide + row % 2 * wide // 2, row * high * 3 // 4
        if lying:
            return column * wide * 3 // 4, row * high + column % 2 * high // 2
        return column * wide, row * high

    if pointed or lying:
        corners = [corner(row, column) for row in range(rows) for column in range(columns)]
        far_x, far_y = (max(place[axis] for place in corners) for axis in (0, 1))
        size = far_x + wide, far_y + high
        picture = Image.new("RGBA", (size[0] + 2 * room[0], size[1] + 2 * room[1]))
    for _, group in groupby(
        enumerate(content["layers"]), lambda one: "depth" if one[1].get("stacking") == "depth" else one[0]
    ):
        layers = [layer for _, layer in group]
        if layers[0].get("kind") == "props":
            _things(picture, layers[0], tileset, room)
            continue
        if layers[0].get("kind") == "shade":
            _shade(picture, layers[0], content, room)
            continue
        _tiles(picture, layers, content, tileset, corner)
    return np.asarray(picture)[room[1] :, room[0] :][: size[1], : size[0]]


def _things(picture: Image.Image, layer: dict, tileset: Image.Image, room: tuple[int, int]) -> None:
    """Sprites that are not turned: with the middle of their lower border where they stand."""
    for thing in layer["things"]:
        if "picture" in thing:
            x, y, wide, high = thing["picture"]
            sprite = tileset.crop((x, y, x + wide, y + high))
            if thing.get("mirrored"):
                sprite = sprite.transpose(Image.Transpose.FLIP_LEFT_RIGHT)
            left, top = math.floor(thing["x"] - wide / 2 + 0.5), math.floor(thing["y"] - high + 0.5)
            picture.alpha_composite(sprite, (left + room[0], top + room[1]))


def _tiles(picture: Image.Image, layers: list[dict], content: dict, tileset: Image.Image, corner) -> None:
    tiles = content["tileset"]
    room = tiles["cell_width"], tiles["cell_height"]
    large = {int(number) for number, notes in content["tiles"].items() if notes.get("large")}
    cells = [
        (corner(row, column), order, int(number), layer)
        for order, layer in enumerate(layers)
        for (row, column), number in np.ndenumerate(np.array(layer["rows"]))
        if number
    ]
    # From the back to the front; on a square ground what fits its cell comes before what is larger.
    squarely = content["grid"] == "square" and len(layers) == 1
    cells.sort(key=lambda one: (squarely and one[2] in large, one[0][1], one[1], one[0][0]))
    sheet = Image.new("RGBA", picture.size)
    for (x, y), _, number, _ in cells:
        down, across = divmod(number - 1, tiles["columns"])
        tile = tileset.crop((across * room[0], down * room[1], (across + 1) * room[0], (down + 1) * room[1]))
        sheet.alpha_composite(tile, (x - tiles["origin_x"] + room[0], y - tiles["origin_y"] + room[1]))
    opacity = layers[0].get("opacity", 1)
    sheet.putalpha(sheet.getchannel("A").point(lambda alpha: round(alpha * opacity)))
    picture.alpha_composite(sheet)


def _shade(picture: Image.Image, layer: dict, content: dict, room: tuple[int, int]) -> None:
    pixels = np.asarray(picture).astype(float)
    ys, xs = np.mgrid[0 : pixels.shape[0], 0 : pixels.shape[1]] + 0.5
    ys, xs = (ys - room[1]) / content["tile_height"], (xs - room[0]) / content["tile_width"]
    if content["grid"] == "diamond":
        across, down = 2 * xs - content["height"], 2 * ys
        ys, xs = (down - across) / 2, (down + across) / 2
    colours = np.array([[int(name[at : at + 2], 16) for at in (1, 3, 5)] for name in ("#ffffff", *layer["colours"])])
    corners = colours[np.pad(np.array(layer["rows"]), 1)]
    y, x = (
        np.clip(np.floor(n).astype(int), -1, size - 2)
        for n, size in zip((ys, xs), np.array(layer["rows"]).shape, strict=True)
    )
    down, right = np.clip(ys - y, 0, 1)[..., None], np.clip(xs - x, 0, 1)[..., None]
    upper = corners[y + 1, x + 1] * (1 - right) + corners[y + 1, x + 2] * right
    lower = corners[y + 2, x + 1] * (1 - right) + corners[y + 2, x + 2] * right
    shade = (upper * (1 - down) + lower * down) / 255
    # What stands out over the border of the ground is in no shade.
    shade[(ys < 0) | (xs < 0) | (ys >= content["height"]) | (xs >= content["width"])] = 1
    pixels[..., :3] *= 1 - (1 - shade) * _left_by_lights(content, pixels.shape[:2], room)
    picture.paste(Image.fromarray(pixels.round().astype(np.uint8)))


def _left_by_lights(content: dict, size: tuple[int, int], room: tuple[int, int]) -> np.ndarray:
    """What lights leave of a shade, (H, W, 3)."""
    ys, xs = np.mgrid[0 : size[0], 0 : size[1]] + 0.5
    ys, xs = ys - room[1], xs - room[0]
    left = np.ones((*size, 3))
    flat = content["tile_width"] / content["tile_height"] if content["grid"] == "diamond" else 1
    for thing in (one for layer in content["layers"] for one in layer.get("things", ()) if "light" in one):
        light = thing["light"]
        away = np.hypot(xs - thing["x"], (ys - thing["y"]) * flat)
        share = np.clip((light["reach"] - away) / max(light["softness"] * light["reach"], 0.001), 0, 1)
        bright = share**2 * (3 - 2 * share)
        if "lit" in light:
            inside = np.zeros(size)
            for down in (-0.25, 0.25):
                for across in (-0.25, 0.25):
                    rings = [
                        shapely.contains_xy(shapely.Polygon(ring), xs + across, ys + down) for ring in light["lit"]
                    ]
                    inside += np.logical_xor.reduce(rings) / 4
            bright *= inside
        colour = np.array([int(light["colour"][at : at + 2], 16) / 255 for at in (1, 3, 5)])
        left *= 1 - bright[..., None] * colour
    return left
