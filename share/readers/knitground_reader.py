"""Draws a map that Knit Ground delivered as JSON. Needs NumPy and Pillow, and nothing of Knit Ground.

python knitground_reader.py MAP.json OUT.png      or      picture = draw("MAP.json")  -> (H, W, 4) uint8
"""

import base64
import json
import sys
import zlib
from itertools import groupby
from pathlib import Path

import numpy as np
from PIL import Image


class Map:
    """A delivered map: what its JSON says, and its tiles as premultiplied pixels."""

    def __init__(self, path):
        self.said = json.loads(Path(path).read_text(encoding="utf-8"))
        self.tiles, self.grid = self.said["tileset"], self.said["grid"]
        names = self.tiles.get("images", [self.tiles["image"]])
        self.pages = [premultiplied(np.asarray(Image.open(Path(path).parent / n).convert("RGBA"))) for n in names]
        self.w, self.h, self.rows = self.said["tile_width"], self.said["tile_height"], self.said["height"]
        self.large = {int(n) for n, said in self.said["tiles"].items() if said.get("large")}

    def corner(self, row, column):
        """Where the box of a cell begins."""
        w, h = self.w, self.h
        return {
            "square": (column * w, row * h),
            "diamond": ((column - row + self.rows - 1) * w // 2, (column + row) * h // 2),
            "staggered": (column * w + row % 2 * w // 2, row * h // 2),
            "hex-pointed": (column * w + row % 2 * w // 2, row * 3 * h // 4),
            "hex-flat": (column * 3 * w // 4, row * h + column % 2 * h // 2),
        }[self.grid]

    def cells(self, x, y):
        """The cells in which points lie: row and column, and how far down and right in it, from 0 to 1."""
        w, h, grid = self.w, self.h, self.grid
        if grid.startswith("hex"):
            x, y, w, h = (x, y, w, h) if grid == "hex-pointed" else (y, x, h, w)
            row = np.floor(y * 4 / (3 * h)).astype(int)
            across = x / w - (row & 1) / 2
            column, away = np.floor(across).astype(int), 2 * (across - np.floor(across)) - 1
            above = (y - row * 0.75 * h) * 4 / h < np.abs(away)
            column = np.where(above, column + np.where(away < 0, (row & 1) - 1, row & 1), column)
            return (row - above, column, 0, 0) if grid == "hex-pointed" else (column, row - above, 0, 0)
        down, right = y / h, x / w
        if grid != "square":
            across, along = 2 * x / w - (self.rows if grid == "diamond" else 1), 2 * y / h
            down, right = (along - across) / 2, (along + across) / 2
        row, column = np.floor(down).astype(int), np.floor(right).astype(int)
        return row, column, down - row, right - column

    def numbers(self, layer):
        """The rows of a layer; those of shades on corners may be one more than the map's, and longer by one."""
        if "packed" not in layer:
            return np.array(layer.get("rows", np.zeros((0, 0))), dtype=np.int64)
        flat = np.frombuffer(zlib.decompress(base64.b64decode(layer["packed"])), dtype="<u4")
        return flat.astype(np.int64).reshape(-1, layer["columns"])

    def tile(self, number):
        """The cell of a tile in the tileset; what is turned there fills just its map's cell."""
        t, turn, edge = self.tiles, number >> 24, self.tiles.get("edge", 0)
        page, place = divmod((number & 0xFFFFFF) - 1, t["columns"] * t["rows"])
        high, wide = t["cell_height"], t["cell_width"]
        y, x = (place // t["columns"] * (high + 2 * edge) + edge, place % t["columns"] * (wide + 2 * edge) + edge)
        cell = self.pages[page][y : y + high, x : x + wide].copy()
        art = cell[t["origin_y"] :, t["origin_x"] :][: self.h, : self.w]
        art[:] = np.rot90(art[:, ::-1] if turn & 4 else art.copy(), -(turn & 3)) if turn else art
        return cell

    def sprite(self, thing):
        """What a thing shows, each pixel from where it lies on its tile, and where it begins: x and y."""
        x, y, wide, high = thing["picture"]
        art = self.pages[self.said["tiles"].get(str(thing["tile"]), {}).get("image", 0)][y : y + high, x : x + wide]
        turn, scale, flip = np.radians(thing.get("turn", 0)), thing.get("scale", 1), thing.get("mirrored")
        cos, sin, tiny = np.cos(turn) * scale, np.sin(turn) * scale, 1e-6 if turn or scale != 1 else 0
        ends = np.array([(u * cos - v * sin, u * sin + v * cos) for u in (-wide / 2, wide / 2) for v in (-high, 0)])
        first, (width, height) = ends.min(axis=0), np.maximum(1, np.ceil(np.ptp(ends, axis=0) - 1e-6)).astype(int)
        x, y = np.arange(width)[None] + 0.5 + first[0], np.arange(height)[:, None] + 0.5 + first[1]
        u, v = (x * cos + y * sin) / scale**2 + tiny, (y * cos - x * sin) / scale**2 - tiny
        column, row = np.floor((-u if flip else u) + wide / 2).astype(int), np.floor(v + high).astype(int)
        inside = (column >= 0) & (column < wide) & (row >= 0) & (row < high)
        left, top = np.floor([thing["x"] + first[0] + 0.5, thing["y"] + first[1] + 0.5]).astype(int)
        return art[np.where(inside, row, 0), np.where(inside, column, 0)] * inside[..., None], left, top

    def pieces(self, layer, number):
        """What lies on a layer, from the back to the front: how far down it begins, number, pixels, x and y."""
        down, right, last = layer.get("offset_y", 0), layer.get("offset_x", 0), -np.inf
        for thing in (one for one in layer.get("things", ()) if layer.get("kind") == "props" and "picture" in one):
            last = max(last, thing["y"]) if layer.get("order") == "hand" else thing["y"]
            pixels, x, y = self.sprite(thing)
            yield last - self.h, number, pixels, x + right, y + down
        rows = self.numbers({} if layer.get("kind") == "walk" else layer)
        cells = [(*self.corner(*at), int(rows[at])) for at in zip(*(n.tolist() for n in np.nonzero(rows)), strict=True)]
        apart = self.grid == "square" and layer.get("stacking") != "depth"
        for x, y, tile in sorted(cells, key=lambda one: (apart and one[2] in self.large, one[1], one[0])):
            place = x + right - self.tiles["origin_x"], y + down - self.tiles["origin_y"]
            yield y, number, self.tile(tile), *place

    def shade(self, layer, canvas):
        """Multiplies what lies below by colours on cells, or blended between corners, but for what lights take."""
        y, x = np.mgrid[: canvas.shape[0], : canvas.shape[1]] + 0.5
        row, column, down, right = self.cells(x - layer.get("offset_x", 0), y - layer.get("offset_y", 0))
        tinted = [colour(c) * colour(layer.get("tint", "#ffffff")) / 255 for c in layer["colours"]]
        colours, numbers = np.array([[255, 255, 255], *tinted]) / 255, self.numbers(layer)
        corners, found, there = layer.get("on") != "cells", np.zeros((*row.shape, 3)), True
        for dy, dx in ((0, 0), (0, 1), (1, 0), (1, 1)) if corners else ((0, 0),):
            r, c = row + dy, column + dx
            if self.grid == "staggered":
                r, c = r + c, c - (r + c + 1) // 2 + ((r + c) & 1 if corners else 0)
            if not (dy or dx):
                s = (row + column, column - (row + column + 1) // 2) if self.grid == "staggered" else (row, column)
                there = (s[0] >= 0) & (s[1] >= 0) & (s[0] < self.rows) & (s[1] < self.said["width"])
            share = (down if dy else 1 - down) * (right if dx else 1 - right) if corners else 1.0
            found += colours[numbers[r % numbers.shape[0], c % numbers.shape[1]]] * np.asarray(share)[..., None]
        lacks = np.where(there[..., None], (1 - found) * layer.get("opacity", 1), 0.0)
        canvas[..., :3] = np.floor(canvas[..., :3] * (1 - lacks * self.left_by_lights(x, y)) + 0.5)

    def left_by_lights(self, x, y):
        """How much of a shade the lights leave; each takes its colour's share of what the others leave."""
        left, flat = np.ones((*x.shape, 3)), self.w / self.h if self.grid in ("diamond", "staggered") else 1
        for layer, thing in [(la, t) for la in self.said["layers"] for t in la.get("things", ()) if "light" in t]:
            light, dx, dy = thing["light"], thing["x"] + layer.get("offset_x", 0), thing["y"] + layer.get("offset_y", 0)
            away = light["reach"] - np.hypot(x - dx, (y - dy) * flat)
            share = np.clip(away / max(light["softness"] * light["reach"], 1e-3), 0, 1)
            left *= 1 - (share**2 * (3 - 2 * share) * lit(light, *x.shape))[..., None] * colour(light["colour"]) / 255
        return left


def lit(light, height, width):
    """How much of each pixel lies inside an odd number of the outlines of what a light reaches, by four points each."""
    if "lit" not in light:
        return 1.0
    crossed = np.zeros((2 * height, 2 * width + 1), dtype=int)
    for ring in light["lit"]:
        for (x0, y0), (x1, y1) in zip(np.array(ring) * 2, np.roll(ring, -1, axis=0) * 2, strict=True):
            rows = np.arange(*(int(np.clip(np.ceil(end - 0.5), 0, 2 * height)) for end in sorted((y0, y1))))
            x = x0 + (rows + 0.5 - y0) / (y1 - y0 or 1) * (x1 - x0)
            np.add.at(crossed, (rows, np.clip(np.ceil(x - 0.5), 0, 2 * width).astype(int)), 1)
    return (np.cumsum(crossed[:, :-1], axis=1) & 1).reshape(height, 2, width, 2).mean(axis=(1, 3))


def draw(path):
    """The whole map as pixels with straight alpha."""
    world = Map(path)
    canvas = np.zeros((world.said["picture_height"], world.said["picture_width"], 4), dtype=np.int64)
    canvas[:] = (*colour(world.said["background"]), 255) if "background" in world.said else 0
    deep = [layer.get("stacking") == "depth" and layer.get("kind") != "shade" for layer in world.said["layers"]]
    for _, some in groupby(range(len(deep)), lambda n: "depth" if deep[n] else n):
        mine = [world.said["layers"][n] for n in some]
        if mine[0].get("kind") == "shade":
            world.shade(mine[0], canvas)
            continue
        sheet, pieces = np.zeros_like(canvas), [p for n, layer in enumerate(mine) for p in world.pieces(layer, n)]
        for _, number, pixels, x, y in sorted(pieces, key=lambda one: one[:2]) if len(mine) > 1 else pieces:
            lay(dressed(pixels, mine[number]) if len(mine) > 1 else pixels, sheet, x, y)
        lay(sheet if len(mine) > 1 else dressed(sheet, mine[0]), canvas, 0, 0)
    alpha = np.maximum(canvas[..., 3:], 1)
    canvas[..., :3] = np.minimum((canvas[..., :3] * 255 + alpha // 2) // alpha, 255)
    return canvas.astype(np.uint8)


def lay(above, below, x, y):
    """Lays premultiplied pixels over others in place."""
    under = below[max(0, y) : max(0, y + above.shape[0]), max(0, x) : max(0, x + above.shape[1])]
    part = above[max(0, -y) :, max(0, -x) :][: under.shape[0], : under.shape[1]]
    through = under * (255 - part[..., 3:]) + 128
    under[:] = part + ((through + (through >> 8)) >> 8)


def dressed(pixels, layer):
    """Pixels in the tint and opacity of a layer."""
    opacity, tint = layer.get("opacity", 1), colour(layer.get("tint", "#ffffff"))
    factors = np.round(np.array([*(opacity * part / 255 for part in tint), opacity]) * 256).astype(np.int64)
    return (pixels * factors + 128) >> 8


def premultiplied(picture):
    """RGBA with its colours multiplied by alpha."""
    result, alpha = picture.astype(np.int64), picture[..., 3:].astype(np.int64)
    result[..., :3] = (result[..., :3] * alpha + 127) // 255
    return result


def colour(text):
    """Red, green and blue of #rrggbb."""
    return np.array([int(text[at : at + 2], 16) for at in (1, 3, 5)])


if __name__ == "__main__":
    Image.fromarray(draw(sys.argv[1])).save(sys.argv[2])
