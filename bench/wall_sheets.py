"""Made-up sheets of walls and cliffs: tops that are painted by the cell, and faces that lie below where these end.

.venv/bin/python bench/wall_sheets.py [COUNT [FIRST]] [--show]

Says how many walls are found with their faces, each in its place, how many tops without, and how many faces are none.
"""

import sys
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.joins.find import find_sets
from platform_sheets import Random
from room_sheets import _floor, _furniture, _rug

Tile = np.ndarray
Cell = tuple[int, int]
FINE = 3


class Wall(NamedTuple):
    """Where the upper left tile of the top lies, how many rows of faces there are, and where these begin."""

    x: int
    y: int
    rows: int
    below: int


class _Mason:
    """Draws one kind of wall: its colours, its courses and its rim are chosen once."""

    def __init__(self, random: Random, side: int) -> None:
        self.random, self.side = random, side
        self.cliff = random.random() < 0.5
        self.top, self.rim = random.uniform(30, 200, 3), random.uniform(60, 240, 3)
        self.face, self.joint = random.uniform(70, 220, 3), float(random.uniform(0.5, 0.85))
        self.grain = float(random.choice([0, 4, 8, 14]))
        self.wide = max(1, round(side * float(random.uniform(0.06, 0.25))))
        self.courses = int(random.choice([1, 2, 3, 4]))
        self.bricks, self.plain_ends = random.random() < 0.5, random.random() < 0.15
        self.parts = int(random.choice([1, 2, 4]))
        # How far the sides of a cliff stand back from where its cells end.
        self.inset = max(1, round(side * float(random.uniform(0.04, 0.2)))) if self.cliff else 0
        self.ragged = random.random() < 0.5
        # Some cliffs stand on ground that is drawn with them.
        self.ground = random.uniform(60, 200, 3) if self.cliff and random.random() < 0.3 else None

    def _grained(self, pixels: np.ndarray) -> np.ndarray:
        if self.grain:
            pixels[..., :3] += self.random.normal(0, self.grain, (*pixels.shape[:2], 1))
        return np.clip(pixels, 0, 255)

    def _grounded(self, pixels: np.ndarray) -> np.ndarray:
        clear = pixels[..., 3] == 0
        if self.ground is not None:
            under = self._grained(np.broadcast_to(self.ground, (*clear.shape, 3)).copy())
            pixels[clear] = np.concatenate([under, np.full((*clear.shape, 1), 255.0)], axis=2)[clear]
        return pixels.astype(np.uint8)

    def tops(self) -> np.ndarray:
        """Nine tiles that touch."""
        whole = 3 * self.side
        pixels = np.zeros((whole, whole, 4))
        pixels[..., :3], pixels[..., 3] = self.top, 255
        pixels = self._grained(pixels)
        low, high = self.inset, whole - self.inset
        for width, colour in ((self.wide, self.rim), (max(1, self.wide // 3), self.rim * 0.5)):
            for cut in (np.s_[low : low + width, :], np.s_[:, low : low + width], np.s_[:, high - width : high]):
                pixels[(*cut, np.s_[:3])] = colour
            pixels[whole - width :, :, :3] = colour
        pixels[:low], pixels[:, :low], pixels[:, high:] = 0, 0, 0
        if self.inset > 1:
            pixels[low : low + 2, low : low + 2] = pixels[low : low + 2, high - 2 : high] = 0
        return self._grounded(pixels)

    def faces(self, rows: int) -> np.ndarray:
        """So many rows of three tiles that touch."""
        side, wide = self.side, 3 * self.side
        pixels = np.zeros((rows * side, wide, 4))
        pixels[..., :3], pixels[..., 3] = self.face, 255
        high = max(3, side // self.courses)
        for number, y in enumerate(range(0, rows * side, high)):
            pixels[y : y + 1, :, :3] *= self.joint
            across = side // self.parts
            for x in range((number % 2) * across // 2 if self.bricks else 0, wide, across):
                pixels[y : y + high, x : x + 1, :3] *= self.joint
        pixels = self._grained(pixels)
        pixels[-max(1, side // 6) :, :, :3] *= 0.6
        low, high = self.inset, wide - self.inset
        if not self.plain_ends:
            for x in (np.s_[low : low + self.wide], np.s_[high - self.wide : high]):
                pixels[:, x, :3] *= 0.55
        pixels[:, :low], pixels[:, high:] = 0, 0
        if self.inset > 1 and self.ragged:
            for y in range(rows * side):
                for x, step in ((low, 1), (high - 1, -1)):
                    for n in range(int(self.random.integers(0, self.inset))):
                        pixels[y, x + step * n] = 0
        return self._grounded(pixels)

    def corners(self) -> np.ndarray:
        """Four inner corners, 2 x 2 tiles."""
        side = self.side
        pixels = np.zeros((2 * side, 2 * side, 4))
        pixels[..., :3], pixels[..., 3] = self.top, 255
        pixels = self._grained(pixels)
        for down in (0, 1):
            for right in (0, 1):
                y = slice(0, self.wide) if down else slice(2 * side - self.wide, 2 * side)
                x = slice(0, self.wide) if right else slice(2 * side - self.wide, 2 * side)
                spot = pixels[side * (1 - down) :, side * (1 - right) :][:side, :side]
                spot[
                    y if down else slice(side - self.wide, side), x if right else slice(side - self.wide, side), :3
                ] = self.rim
        return pixels.astype(np.uint8)


def wall_sheet(seed: int) -> tuple[np.ndarray, int, list[Wall]]:
    """A sheet, the side of its tiles, and the walls on it."""
    random = np.random.default_rng([seed, 61])
    side = int(random.choice([16, 16, 24, 32, 48]))
    columns, rows = int(random.integers(10, 15)), int(random.integers(10, 15))
    pixels, taken = np.zeros((rows * side, columns * side, 4), np.uint8), np.zeros((rows, columns), bool)
    walls = []

    def free(wide: int, high: int, apart: int) -> Cell | None:
        for _ in range(60):
            x, y = int(random.integers(0, columns - wide + 1)), int(random.integers(0, rows - high + 1))
            if not taken[max(0, y - apart) : y + high + apart, max(0, x - apart) : x + wide + apart].any():
                taken[y : y + high, x : x + wide] = True
                return x, y
        return None

    def put(x: int, y: int, art: np.ndarray) -> None:
        pixels[y * side : y * side + art.shape[0], x * side : x * side + art.shape[1]] = art

    for _ in range(int(random.integers(1, 4))):
        mason, faces, with_inner = _Mason(random, side), int(random.integers(0, 4)), random.random() < 0.4
        apart = 0 if random.random() < 0.8 else 1
        spot = free(3, 3 + (faces + apart if faces else 0), 0 if not mason.cliff else 1)
        if spot is None:
            continue
        x, y = spot
        put(x, y, mason.tops())
        if faces:
            put(x, y + 3 + apart, mason.faces(faces))
        walls.append(Wall(x, y, faces, y + 3 + apart))
        if with_inner and (spot := free(2, 2, 0)):
            put(*spot, mason.corners())
    _beside(random, side, free, put)
    image = Image.fromarray(pixels)
    _furniture(random, ImageDraw.Draw(image), taken, side)
    return np.array(image), side, walls


def _beside(random: Random, side: int, free, put) -> None:
    """What is no wall: rows of floors, rugs, and a panel of three by two that is drawn once."""
    for _ in range(int(random.integers(1, 4))):
        wide, colour = int(random.integers(2, 5)), random.uniform(60, 220, 3)
        kind = str(random.choice(["planks", "flags", "mats", "stone"]))
        if (spot := free(wide, 1, 0)) is not None:
            for n in range(wide):
                put(spot[0] + n, spot[1], _floor(random, side, kind, colour))
    if random.random() < 0.5 and (spot := free(3, 3, 0)) is not None:
        colour, ink = random.uniform(60, 220, 3), random.uniform(20, 90, 3)
        for row, column in np.ndindex(3, 3):
            put(spot[0] + column, spot[1] + row,
                _rug(side, colour, ink, (row == 0, column == 2, row == 2, column == 0)))  # fmt: skip
    if random.random() < 0.5 and (spot := free(3, 2, 0)) is not None:
        panel = Image.new("RGBA", (3 * side, 2 * side), (*random.integers(60, 220, 3).tolist(), 255))
        pen = ImageDraw.Draw(panel)
        for _ in range(6):
            x, y = (int(one) for one in random.integers(0, 2 * side, 2))
            pen.ellipse([x, y, x + side, y + side // 2], fill=tuple(random.integers(20, 255, 3).tolist()))
        put(*spot, np.array(panel))


def tiles_on(pixels: np.ndarray, side: int) -> np.ndarray:
    """The tiles of a sheet, (R, C, side, side, 4)."""
    rows, columns = pixels.shape[0] // side, pixels.shape[1] // side
    return np.ascontiguousarray(pixels.reshape(rows, side, columns, side, 4).swapaxes(1, 2))


def main() -> None:
    """Prints how many are found."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [100, 0][len(numbers) :])[:2]
    tops = with_faces = faced = every = wrong = lines = 0
    for seed in range(first, first + count):
        pixels, side, walls = wall_sheet(seed)
        tiles = tiles_on(pixels, side)
        told = find_sets(tiles, tiles[..., 3].any(axis=(2, 3)))
        own = set[Cell]()
        for wall in walls:
            top = {(wall.x + x, wall.y + y) for x in range(3) for y in range(3)}
            rows = [[[wall.x + x, wall.below + y] for x in range(3)] for y in range(wall.rows)]
            own |= {tuple(cell) for row in rows for cell in row}
            found = [one for one in told if one.kind == "cell" and top <= {tuple(cell) for cell in one.cells.tolist()}]
            right = bool(found) and found[0].faces.tolist() == rows
            every, tops = every + 1, tops + bool(found)
            faced, with_faces = faced + bool(rows), with_faces + bool(rows and right)
            if "--show" in sys.argv and not right:
                print(seed, side, wall, [one.faces.tolist() for one in found])
        for one in told:
            cells = {tuple(cell) for cell in one.faces.reshape(-1, 2).tolist()}
            wrong += bool(cells - own)
            lines += one.kind == "edge" and bool({tuple(cell) for cell in one.cells.tolist()} & own)
            if "--show" in sys.argv and cells - own:
                print(seed, side, "no face:", one.faces.tolist())
    print(f"tops of {tops} of {every} walls found; all faces of {with_faces} of {faced}; {wrong} sets with what is no "
          f"face, {lines} lines of faces")  # fmt: skip


if __name__ == "__main__":
    main()
