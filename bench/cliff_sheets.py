"""Made-up sheets of plateaus on a ground that is drawn with them, painted by the corner, with faces of cliffs below.

.venv/bin/python bench/cliff_sheets.py [COUNT [FIRST]] [--show]

Nothing is clear on them. A plateau is three by three tiles, often with its inner corners beside it, and rows of faces
below; ponds share its ground, and things are drawn on that. Says how many plateaus are found, how many with all of
their faces, and how many sets have faces that are none.
"""

import sys
from typing import NamedTuple

import numpy as np
from scipy import ndimage

from knitground.core.joins.find import find_sets
from wall_sheets import tiles_on

Random = np.random.Generator
Cell = tuple[int, int]


class Cliff(NamedTuple):
    """Where the upper left tile of a plateau lies, and how many rows of faces are below it."""

    x: int
    y: int
    rows: int


class _Painter:
    """Materials, and shapes of one with a rim on another."""

    def __init__(self, random: Random, side: int) -> None:
        self.random, self.side = random, side
        self.ground = self.material()
        self.inset, self.wobble = float(random.uniform(0.08, 0.45)), float(random.choice([0, 0.03, 0.06]))

    def material(self) -> tuple[np.ndarray, float, int]:
        """A colour, its grain, and how large the spots of that are."""
        random = self.random
        return random.uniform(40, 210, 3), float(random.choice([0, 3, 7, 12])), int(random.choice([1, 1, 2, 3]))

    def filled(self, material: tuple[np.ndarray, float, int], high: int, wide: int) -> np.ndarray:
        """A rectangle of a material, in pixels."""
        colour, grain, spot = material
        noise = self.random.normal(0, grain, (-(-high // spot), -(-wide // spot), 1))
        return np.clip(colour + noise.repeat(spot, 0).repeat(spot, 1)[:high, :wide], 0, 255)

    def shaped(self, inside: np.ndarray, material: tuple[np.ndarray, float, int], rim: np.ndarray) -> np.ndarray:
        """A material where a mask of pixels says so, with a rim, on the ground."""
        high, wide = inside.shape
        pixels = self.filled(self.ground, high, wide)
        pixels[inside] = self.filled(material, high, wide)[inside]
        line = inside & ~ndimage.binary_erosion(inside, iterations=max(1, self.side // 16), border_value=1)
        pixels[line] = rim
        return pixels

    def block(self, material: tuple[np.ndarray, float, int], rim: np.ndarray) -> np.ndarray:
        """Three by three tiles."""
        return self.shaped(self._rounded(3), material, rim)

    def cliff(
        self, material: tuple[np.ndarray, float, int], rim: np.ndarray, stone: np.ndarray, rows: int
    ) -> np.ndarray:
        """Three by three tiles with so many rows of faces below, which begin where the plateau ends."""
        side, far = self.side, max(1, round(self.inset * self.side))
        low = far if self.random.random() < 0.5 else 0
        inside = np.roll(self._rounded(3), far - low, axis=0)
        inside[: far - low] = False
        if not low:
            inside[-1] = inside[-2]
        top = self.shaped(inside, material, rim)
        wall = self.faces(rows, stone)
        if low:  # the face begins within the tiles of the rim
            begins = self.faces(1, stone)[:low]
            below = ~inside[3 * side - low :] & (np.abs(np.arange(3 * side) - 1.5 * side + 0.5) < 1.5 * side - far)
            top[3 * side - low :][below] = begins[below]
        return np.concatenate([top, wall])

    def inner(self, material: tuple[np.ndarray, float, int], rim: np.ndarray) -> np.ndarray:
        """Two by two tiles round a hole."""
        return self.shaped(~self._hole(), material, rim)

    def _rounded(self, cells: int) -> np.ndarray:
        side, whole = self.side, cells * self.side
        far = max(1, round(self.inset * side))
        inside = np.zeros((whole, whole), bool)
        inside[far : whole - far, far : whole - far] = True
        if self.wobble:
            along = np.round(self.wobble * side * np.sin(np.arange(whole) / side * 2 * np.pi)).astype(int)
            y, x = np.mgrid[:whole, :whole]
            sides = (
                y - far - along[x],
                whole - 1 - far - along[x] - y,
                x - far - along[y],
                whole - 1 - far - x - along[y],
            )
            inside = np.min(sides, axis=0) >= 0
        return inside

    def _hole(self) -> np.ndarray:
        side = self.side
        far = max(1, round(self.inset * side))
        hole = np.zeros((2 * side, 2 * side), bool)
        hole[side - far : side + far, side - far : side + far] = True
        return hole

    def faces(self, rows: int, stone: np.ndarray) -> np.ndarray:
        """So many rows of three tiles of a cliff's face, on the ground."""
        side, wide, far = self.side, 3 * self.side, max(1, round(self.inset * self.side))
        pixels = self.filled(self.ground, rows * side, wide)
        face = self.filled((stone, float(self.random.choice([2, 5, 9])), 1), rows * side, wide)
        high = max(3, side // int(self.random.choice([1, 2, 3])))
        for number, y in enumerate(range(0, rows * side, high)):
            face[y] *= 0.6
            for x in range((number % 2) * side // 4, wide, side // 2):
                face[y : y + high, x] *= 0.7
        face[-max(1, side // 6) :] *= 0.6
        face[:, far : far + max(1, side // 10)] *= 0.6
        face[:, wide - far - max(1, side // 10) : wide - far] *= 0.6
        pixels[:, far : wide - far] = face[:, far : wide - far]
        return pixels


def cliff_sheet(seed: int) -> tuple[np.ndarray, int, list[Cliff]]:
    """A sheet, the side of its tiles, and the cliffs on it."""
    random = np.random.default_rng([seed, 83])
    side = int(random.choice([16, 16, 24, 32, 32, 48]))
    columns, rows = int(random.integers(10, 16)), int(random.integers(9, 14))
    painter = _Painter(random, side)
    pixels = painter.filled(painter.ground, rows * side, columns * side)
    taken, cliffs = np.zeros((rows, columns), bool), list[Cliff]()

    def free(wide: int, high: int) -> Cell | None:
        for _ in range(80):
            x, y = int(random.integers(0, columns - wide + 1)), int(random.integers(0, rows - high + 1))
            if not taken[y : y + high, x : x + wide].any():
                taken[y : y + high, x : x + wide] = True
                return x, y
        return None

    def put(spot: Cell, art: np.ndarray) -> None:
        pixels[spot[1] * side :, spot[0] * side :][: art.shape[0], : art.shape[1]] = art

    for _ in range(int(random.integers(1, 3))):
        material, rim, many = painter.material(), random.uniform(20, 240, 3), int(random.integers(0, 4))
        spot = free(3, 3 + many)
        if spot is None:
            continue
        stone = random.uniform(50, 200, 3)
        put(spot, painter.cliff(material, rim, stone, many) if many else painter.block(material, rim))
        cliffs.append(Cliff(*spot, many))
        if random.random() < 0.75 and (spot := free(2, 2)) is not None:
            put(spot, painter.inner(material, rim))
    for _ in range(int(random.integers(0, 3))):
        material, rim = painter.material(), random.uniform(20, 240, 3)
        if (spot := free(3, 3)) is not None:
            put(spot, painter.block(material, rim))
            if random.random() < 0.75 and (spot := free(2, 2)) is not None:
                put(spot, painter.inner(material, rim))
    for _ in range(int(random.integers(0, 8))):
        wide, high = int(random.integers(1, 3)), int(random.integers(1, 3))
        if (spot := free(wide, high)) is not None:
            thing = np.hypot(
                *(np.indices((high * side, wide * side)) / side - np.array([high, wide])[:, None, None] / 2)
            )
            art = painter.filled(painter.ground, high * side, wide * side)
            art[thing < random.uniform(0.25, 0.5)] = random.uniform(20, 240, 3)
            put(spot, art)
    clear = np.dstack([np.clip(pixels, 0, 255), np.full(pixels.shape[:2], 255.0)])
    return clear.astype(np.uint8), side, cliffs


def main() -> None:
    """Prints how many are found."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    every = tops = faced = with_faces = wrong = 0
    for seed in range(first, first + count):
        pixels, side, cliffs = cliff_sheet(seed)
        tiles = tiles_on(pixels, side)
        told = find_sets(tiles, np.ones(tiles.shape[:2], dtype=bool))
        own = {(one.x + x, one.y + 3 + y) for one in cliffs for x in range(3) for y in range(one.rows)}
        for cliff in cliffs:
            top = {(cliff.x + x, cliff.y + y) for x in range(3) for y in range(3)}
            rows = [[[cliff.x + x, cliff.y + 3 + y] for x in range(3)] for y in range(cliff.rows)]
            found = [one for one in told if len(top & {tuple(cell) for cell in one.cells.tolist()}) >= 8]
            right = any([row in one.faces.tolist() for row in rows] == [True] * cliff.rows for one in found)
            every, tops = every + 1, tops + bool(found)
            faced, with_faces = faced + bool(rows), with_faces + bool(rows and right)
            if "--show" in sys.argv and not (right and found):
                print(seed, side, cliff, [(one.kind, one.faces.tolist()) for one in found])
        for one in told:
            cells = {tuple(cell) for cell in one.faces.reshape(-1, 2).tolist()}
            wrong += bool(cells - own)
            if "--show" in sys.argv and cells - own:
                print(seed, side, "no face:", one.faces.tolist())
    print(f"{tops} of {every} plateaus found; all faces of {with_faces} of {faced}; {wrong} sets with what is no face")


if __name__ == "__main__":
    main()
