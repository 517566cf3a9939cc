"""How often a sheet whose tiles have a caption each is cut so that each tile is whole and none holds a caption.

.venv/bin/python bench/captioned.py [COUNT [FIRST]] [--show]

Captions stand below or above, in the middle or at the left, in one or two words; some tiles have none, and some sheets
have a title.
"""

import sys
import time
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from guess_cases import art_of
from knitground.core.sheet.cut import Cut, Rect, grid_of
from knitground.core.sheet.parts import look_over

NAMES = (
    "crab",
    "urchin",
    "shell",
    "rope",
    "buoy",
    "net",
    "eel",
    "stone",
    "lamp",
    "oar",
    "jar",
    "gull",
    "a1",
    "b2",
    "Pump",
)
SIDES = (16, 24, 32, 32, 48, 64)


class Case(NamedTuple):
    """A sheet, where its tiles lie, how far they are apart, and the rows in which captions stand."""

    sheet: np.ndarray
    tiles: list[Rect]
    pitch: tuple[int, int]
    captions: list[Rect]


def case(seed: int) -> Case:
    """Tiles of one kind of art in rows and columns on a colour or on nothing."""
    random = np.random.Generator(np.random.PCG64([seed, 505]))
    side, high = int(random.choice(SIDES)), int(random.integers(8, 13))
    font = ImageFont.load_default(high)
    columns, rows = int(random.integers(3, 9)), int(random.integers(1, 6))
    gap, apart = int(random.integers(2, 7)), int(random.integers(3, 14))
    pitch = side + int(random.integers(2, 24)), side + gap + high + apart
    above, at_left = random.random() < 0.25, random.random() < 0.3
    named = float(random.choice((1.0, 1.0, 0.85)))
    words = 2 if side >= 48 and random.random() < 0.4 else 1
    title = 22 if random.random() < 0.4 else 0
    left, top = int(random.integers(1, 16)), int(random.integers(1, 16)) + title
    key = (0, 0, 0, 0) if random.random() < 0.4 else (*random.integers(0, 256, 3).tolist(), 255)
    sheet = np.array(Image.new("RGBA", (left + columns * pitch[0] + 6, top + rows * pitch[1] + 6), key))
    kind = str(random.choice(("things", "things", "terrain", "blobs")))
    count = rows * columns - (int(random.integers(0, columns)) if random.random() < 0.4 else 0)
    places = [
        (top + n // columns * pitch[1] + above * (gap + high), left + n % columns * pitch[0]) for n in range(count)
    ]
    for y, x in places:
        art, spot = art_of(kind, random, side, side), sheet[y : y + side, x : x + side]
        spot[:] = np.where(art[..., 3:] > 0, art, spot)
    image = Image.fromarray(sheet)
    draw, ink = ImageDraw.Draw(image), (20, 20, 20) if sum(key[:3]) > 300 else (235, 235, 230)
    captions = []
    for y, x in places:
        if random.random() < named:
            text = " ".join(str(random.choice(NAMES)) for _ in range(words))
            begin = x if at_left else x + max(0, (side - int(draw.textlength(text, font=font))) // 2)
            draw.text((begin, y - gap - high if above else y + side + gap - 2), text, font=font, fill=(*ink, 255))
            captions.append(Rect(begin, y - gap - high if above else y + side + gap, 6, high))
    if title:
        draw.text((left, top - title), "Things of the jetty", font=ImageFont.load_default(14), fill=(*ink, 255))
    return Case(np.array(image), [Rect(x, y, side, side) for y, x in places], pitch, captions)


def judged(made: Case, cut: Cut, alone: bool) -> tuple[bool, bool]:
    """Whether the distances are right, and whether besides each tile's art lies in one cell and no caption in any."""
    far = (cut.pitch_x, cut.pitch_y) if len({tile.y for tile in made.tiles}) > 1 else (cut.pitch_x, made.pitch[1])
    if cut.pieces or not alone or far != made.pitch:
        return False, False
    first = cut.region or Rect(0, 0, 0, 0)
    x, y = first.x + cut.margin_x, first.y + cut.margin_y
    ground = made.sheet[-1, -1]
    art = (made.sheet != ground).any(axis=2) if ground[3] else made.sheet[..., 3] > 0
    for tile in made.tiles:
        rows, columns = (np.flatnonzero(art[tile.slices()].any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            continue
        across, down = (tile.x + columns - x) % cut.pitch_x, (tile.y + rows - y) % cut.pitch_y
        if across.max() >= cut.tile_width or down.max() >= cut.tile_height or (np.diff(down) < 0).any():
            return True, False
    high = cut.pitch_y * grid_of(cut, made.sheet.shape[1], made.sheet.shape[0]).rows
    below = [caption.y + 2 - y for caption in made.captions]
    inside = any(0 <= row < high and row % cut.pitch_y < cut.tile_height for row in below)
    return True, not inside


def main() -> None:
    """Prints the shares."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [80, 0][len(numbers) :])[:2]
    right = exact = 0
    slowest = 0.0
    for seed in range(first, first + count):
        made = case(seed)
        began = time.perf_counter()
        guesses, parts = look_over(made.sheet)
        slowest = max(slowest, time.perf_counter() - began)
        cut = (parts or [guess.as_cut("") for guess in guesses[:1]] or [Cut("", 1, 1)])[0]
        found = judged(made, cut, len(parts) < 2)
        right, exact = right + found[0], exact + found[1]
        if "--show" in sys.argv and not found[1]:
            print(seed, made.pitch, tuple(made.tiles[0]), "pitch" if found[0] else "missed", parts or guesses[:1])
    print(
        f"{count} captioned sheets: distances of {right} right, {exact} cut without captions; slowest {slowest:.2f} s"
    )


if __name__ == "__main__":
    main()
