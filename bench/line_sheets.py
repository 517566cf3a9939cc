"""Made-up sheets of fences, hedges, ropes, pipes, ladders and pillars in few tiles, with things beside them.

.venv/bin/python bench/line_sheets.py [COUNT [FIRST]] [--ground] [--show]

With `--ground` all is drawn on one ground with a grain, so that nothing is clear.

Says how many of these lines are found as sets with all their tiles and labels, and how many sets hold anything else.
"""

import sys
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.joins.find import find_sets
from platform_sheets import Random
from room_sheets import _furniture

Tile = np.ndarray
Way = tuple[bool, bool, bool, bool]
_FINE = 4
_ACROSS: tuple[Way, ...] = (False, True, False, False), (False, True, False, True), (False, False, False, True)
_DOWN: tuple[Way, ...] = (False, False, True, False), (True, False, True, False), (True, False, False, False)
_BENDS: tuple[Way, ...] = (
    (False, True, True, False), (False, False, True, True), (True, True, False, False), (True, False, False, True),
)  # fmt: skip


class Line(NamedTuple):
    """The cells of a line, each with the sides that it goes on over."""

    kind: str
    cells: dict[tuple[int, int], Way]


class _Pen:
    """Draws pieces of one line: its colours and measures are chosen once."""

    def __init__(self, random: Random, side: int, kind: str) -> None:
        self.random, self.side, self.kind = random, side, kind
        self.body, self.dark = random.uniform(70, 220, 3), random.uniform(20, 70, 3)
        self.soft = random.random() < 0.3
        self.grain = float(random.choice([0, 0, 8, 16]))
        self.thick = float(random.uniform(0.08, 0.3))
        self.rails = sorted(random.uniform(0.2, 0.8, int(random.integers(1, 4))).tolist())
        self.posts = str(random.choice(["middle", "sides", "both"]))
        self.sag = float(random.uniform(0, 0.3))
        self.bank = random.uniform(-0.06, 0.06, 4)

    def piece(self, way: Way) -> Tile:
        """A tile of the line."""
        fine = self.side * (_FINE if self.soft else 1)
        image = Image.new("RGBA", (fine, fine), (0, 0, 0, 0))
        getattr(self, f"_{self.kind}")(ImageDraw.Draw(image), fine, way)
        if self.soft:
            image = image.resize((self.side, self.side), Image.Resampling.BOX)
        pixels = np.array(image)
        noise = self.random.normal(0, self.grain, (self.side, self.side, 1)) if self.grain else 0
        pixels[..., :3] = np.clip(pixels[..., :3] + noise, 0, 255) * (pixels[..., 3:] > 0)
        return pixels

    def _fill(self) -> tuple[int, ...]:
        return tuple(int(one) for one in self.body)

    def _ink(self) -> tuple[int, ...]:
        return tuple(int(one) for one in self.dark)

    def _box(self, pen: ImageDraw.ImageDraw, fine: int, left: float, top: float, right: float, bottom: float) -> None:
        box = [round(left * fine), round(top * fine), round(right * fine) - 1, round(bottom * fine) - 1]
        if box[2] >= box[0] and box[3] >= box[1]:
            pen.rectangle(box, fill=self._fill())
            pen.line([box[0], box[1], box[2], box[1]], fill=self._ink())
            pen.line([box[0], box[3], box[2], box[3]], fill=self._ink())

    def _fence(self, pen: ImageDraw.ImageDraw, fine: int, way: Way) -> None:
        left, right = 0.0 if way[3] else 0.4, 1.0 if way[1] else 0.6
        for rail in self.rails:
            self._box(pen, fine, left, rail - 0.07, right, rail + 0.07)
        if self.posts != "sides" or way != _ACROSS[1]:
            self._box(pen, fine, 0.4, 0.1, 0.6, 0.95)
        if self.posts != "middle":
            for spot, open_ in ((0.0, way[3]), (0.9, way[1])):
                if open_:
                    self._box(pen, fine, spot, 0.15, spot + 0.1, 0.95)

    def _rope(self, pen: ImageDraw.ImageDraw, fine: int, way: Way) -> None:
        for x in range(fine):
            share = (x + 0.5) / fine
            if (share > 0.5 or way[3]) and (share < 0.5 or way[1]):
                y = (0.4 + self.sag * np.sin(np.pi * share)) * fine
                pen.line([x, y, x, y + self.thick * fine / 2], fill=self._fill())
        if way != _ACROSS[1]:
            self._box(pen, fine, 0.4, 0.3, 0.6, 0.95)

    def _hedge(self, pen: ImageDraw.ImageDraw, fine: int, way: Way) -> None:
        """Its top is of another height in each tile, but for where one borders on the next."""
        wave = self.random.uniform(-0.08, 0.08, 3)
        for x in range(fine):
            share = (x + 0.5) / fine
            top = 0.35 + sum(high * np.sin(np.pi * (k + 1) * share) for k, high in enumerate(wave))
            for end, near in ((not way[3], share), (not way[1], 1 - share)):
                top = 1.0 if end and near < 0.12 else top + (0.25 * max(0, 0.3 - near) / 0.3 if end else 0)
            if top < 0.9:
                pen.line([x, top * fine, x, 0.92 * fine], fill=self._fill())
                pen.line([x, top * fine, x, (top + 0.05) * fine], fill=self._ink())

    def _ladder(self, pen: ImageDraw.ImageDraw, fine: int, way: Way) -> None:
        top, bottom = 0.0 if way[0] else 0.15, 1.0 if way[2] else 0.9
        for left in (0.2, 0.7):
            pen.rectangle([left * fine, top * fine, (left + 0.1) * fine, bottom * fine - 1], fill=self._fill())
        for step in range(4):
            y = 0.125 + step / 4
            if top <= y - 0.05 and y + 0.05 <= bottom:
                self._box(pen, fine, 0.2, y - 0.05, 0.8, y + 0.05)

    def _pillar(self, pen: ImageDraw.ImageDraw, fine: int, way: Way) -> None:
        wide = 0.2 + self.thick / 2
        for x in range(round((0.5 - wide) * fine), round((0.5 + wide) * fine)):
            shade = 0.6 + 0.4 * np.sin(np.pi * (x / fine - 0.5 + wide) / (2 * wide))
            colour = tuple(int(one * shade) for one in self.body)
            pen.line([x, 0 if way[0] else 0.1 * fine, x, fine if way[2] else 0.9 * fine], fill=colour)
        for end, y in ((not way[0], 0.05), (not way[2], 0.75)):
            if end:
                self._box(pen, fine, 0.5 - wide - 0.12, y, 0.5 + wide + 0.12, y + 0.2)

    def _pipe(self, pen: ImageDraw.ImageDraw, fine: int, way: Way) -> None:
        """A pipe with a rim and a bright line, that bends; where it ends it has a cap."""
        for wide, colour in ((self.thick + 0.05, self._ink()), (self.thick, self._fill()), (0.03, (250, 250, 240))):
            low, high = (0.5 - wide) * fine, (0.5 + wide) * fine - 1
            for side, on in enumerate(way):
                box = [low, low, high, high]
                if on:
                    box[(1, 2, 3, 0)[side]] = (0, fine, fine, 0)[side]
                if box[2] >= box[0] and box[3] >= box[1]:
                    pen.rectangle(box, fill=colour)
        if sum(way) == 1:
            pen.ellipse([0.2 * fine, 0.2 * fine, 0.8 * fine, 0.8 * fine], fill=self._fill(), outline=self._ink())


_KINDS = {"fence": _ACROSS, "rope": _ACROSS, "hedge": _ACROSS, "ladder": _DOWN, "pillar": _DOWN, "pipe": ()}


def line_sheet(seed: int) -> tuple[np.ndarray, int, list[Line]]:
    """A sheet, the side of its tiles, and the lines on it."""
    random = np.random.default_rng([seed, 55])
    side = int(random.choice([16, 16, 24, 32, 48]))
    columns, rows = int(random.integers(10, 16)), int(random.integers(9, 15))
    pixels, taken = np.zeros((rows * side, columns * side, 4), np.uint8), np.zeros((rows, columns), bool)
    lines = []
    for kind in random.permutation(list(_KINDS))[: int(random.integers(2, 5))].tolist():
        pen, placed = _Pen(random, side, kind), _placed(random, kind)
        wide, high = max(x for x, _ in placed) + 1, max(y for _, y in placed) + 1
        for _ in range(40):
            x, y = int(random.integers(0, columns - wide + 1)), int(random.integers(0, rows - high + 1))
            if not taken[max(0, y - 1) : y + high + 1, max(0, x - 1) : x + wide + 1].any():
                break
        else:
            continue
        taken[y : y + high, x : x + wide] = True
        for (across, down), way in placed.items():
            left, top = (x + across) * side, (y + down) * side
            pixels[top : top + side, left : left + side] = pen.piece(way)
        lines.append(Line(kind, {(x + across, y + down): way for (across, down), way in placed.items()}))
    image = Image.fromarray(pixels)
    pen = ImageDraw.Draw(image)
    _boats(random, pen, taken, side)
    _furniture(random, pen, taken, side)
    return np.array(image), side, lines


def _placed(random: Random, kind: str) -> dict[tuple[int, int], Way]:
    """Where the pieces of a line lie in their block."""
    if kind == "pipe":
        ways = [_BENDS[0], _ACROSS[1], _BENDS[1], _DOWN[1], None, _DOWN[1], _BENDS[2], _ACROSS[1], _BENDS[3]]
        placed = {(n % 3, n // 3): way for n, way in enumerate(ways) if way is not None}
        if random.random() < 0.6:
            placed |= {(3, n): way for n, way in enumerate(_DOWN)} | {(n, 3): way for n, way in enumerate(_ACROSS)}
        if random.random() < 0.3:
            placed[1, 1] = (True, True, True, True)
        return placed
    ways = list(_KINDS[kind])
    if random.random() < 0.3:
        ways.insert(1, ways[1])
    if random.random() < 0.2:
        ways = [ways[1], ways[0], *ways[2:]]
    upright = (kind in ("ladder", "pillar")) != (random.random() < 0.15)
    return {((0, n) if upright else (n, 0)): way for n, way in enumerate(ways)}


def _boats(random: Random, pen: ImageDraw.ImageDraw, taken: np.ndarray, side: int) -> None:
    """Things three cells wide or high that are none of a line: what lies in their midst is drawn once."""
    for _ in range(3):
        wide, high = (3, 1) if random.random() < 0.5 else (1, 3)
        x, y = int(random.integers(0, taken.shape[1] - wide)), int(random.integers(0, taken.shape[0] - high))
        if taken[y : y + high, x : x + wide].any():
            continue
        taken[y : y + high, x : x + wide] = True
        inset = int(random.integers(1, 1 + side // 5))
        box = [x * side + inset, y * side + inset, (x + wide) * side - 1 - inset, (y + high) * side - 1 - inset]
        colour, ink = (tuple(int(one) for one in random.uniform(*span, 3)) for span in ((70, 220), (20, 70)))
        pen.ellipse(box, fill=colour, outline=ink)
        pen.ellipse([(3 * box[0] + box[2]) / 4, (3 * box[1] + box[3]) / 4, (box[0] + 3 * box[2]) / 4,
                     (box[1] + 3 * box[3]) / 4], outline=ink)  # fmt: skip


def _on_ground(pixels: np.ndarray, seed: int) -> np.ndarray:
    """The same with a ground wherever it is clear."""
    random = np.random.default_rng([seed, 91])
    grain = random.normal(0, float(random.choice([0, 3, 6, 10])), (*pixels.shape[:2], 1))
    under = np.clip(random.uniform(40, 210, 3) + grain, 0, 255)
    share = pixels[..., 3:] / 255
    mixed = pixels[..., :3] * share + under * (1 - share)
    return np.concatenate([mixed, np.full((*pixels.shape[:2], 1), 255.0)], axis=2).astype(np.uint8)


def _count(seeds: range) -> None:
    found = {kind: [0, 0] for kind in _KINDS}
    wrong = sets = 0
    for seed in seeds:
        pixels, side, lines = line_sheet(seed)
        pixels = _on_ground(pixels, seed) if "--ground" in sys.argv else pixels
        rows, columns = pixels.shape[0] // side, pixels.shape[1] // side
        tiles = np.ascontiguousarray(pixels.reshape(rows, side, columns, side, 4).swapaxes(1, 2))
        told = find_sets(tiles, tiles[..., 3].any(axis=(2, 3)))
        each = [
            {
                tuple(cell): tuple(map(bool, row))
                for cell, row in zip(one.cells.tolist(), one.labels.tolist(), strict=True)
            }
            for one in told
        ]
        for line in lines:
            # Of copies one is enough.
            looks = {tiles[y, x].tobytes() for x, y in line.cells}
            right = any(
                {tiles[y, x].tobytes() for x, y in one} == looks
                and all(line.cells.get(cell) == way for cell, way in one.items())
                for one in each
            )
            found[line.kind][0] += right
            found[line.kind][1] += 1
            if "--show" in sys.argv and not right:
                print(seed, side, line, [one for one in each if one.keys() & line.cells.keys()])
        held = [set(line.cells) for line in lines]
        for one in each:
            sets += 1
            wrong += not any(one.keys() <= cells for cells in held)
            if "--show" in sys.argv and not any(one.keys() <= cells for cells in held):
                print(seed, side, "wrong", one)
    each_kind = ", ".join(f"{kind} {right} of {every}" for kind, (right, every) in found.items())
    print(f"{sum(r for r, _ in found.values())} of {sum(e for _, e in found.values())} lines found ({each_kind}); "
          f"{wrong} of {sets} sets hold something else")  # fmt: skip


if __name__ == "__main__":
    numbers = [int(one) for one in sys.argv[1:] if one.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    _count(range(first, first + count))
