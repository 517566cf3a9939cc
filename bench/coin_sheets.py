"""How often each of the icons in a block, a pixel apart, is a tile of its own on a sheet of loose things.

.venv/bin/python bench/coin_sheets.py [COUNT [FIRST]] [--show]

Things of several parts, some a pixel apart, lie anywhere beside them: these should stay whole.
"""

import sys

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.sheet.cut import Cut, Rect, tile_rect
from knitground.core.sheet.parts import look_over, may_be_things
from knitground.core.sheet.pieces import find_pieces


def thing(draw: ImageDraw.ImageDraw, random: np.random.Generator, box: Rect) -> None:
    """A thing of a few boxes and discs, one above the other: they touch, or a clear line lies between two."""
    y, foot, count = box.y, box.y + box.height, int(random.integers(1, 4))
    for part in range(count):
        low = foot if part == count - 1 else y + max(3, int(random.integers(box.height // 4, box.height // 2 + 1)))
        colour = (*random.integers(30, 230, 3).tolist(), 255)
        inset = int(random.integers(0, 1 + box.width // 4)) if part < count - 1 else 0
        shape = (box.x + inset, y, box.x + box.width - 1 - inset, min(low, foot) - 1)
        if shape[3] >= shape[1]:
            (draw.ellipse if random.random() < 0.4 else draw.rectangle)(shape, fill=colour, outline=(20, 20, 24, 255))
        y = low + int(random.random() < 0.4)
        if y >= foot:
            break


def icon(draw: ImageDraw.ImageDraw, random: np.random.Generator, box: Rect, kind: str) -> None:
    """One of a block: a coin, a gem or a box, somewhat smaller than its place now and then."""
    off = int(random.integers(0, 2)) if kind == "mixed" else 0
    shape = (box.x + off, box.y + off, box.x + box.width - 1, box.y + box.height - 1)
    form = str(random.choice(("coin", "gem", "box"))) if kind == "mixed" else kind
    colour, rim = (*random.integers(40, 240, 3).tolist(), 255), (24, 20, 20, 255)
    middle = (shape[0] + shape[2]) // 2, (shape[1] + shape[3]) // 2
    if form == "gem":
        ends = [(middle[0], shape[1]), (shape[2], middle[1]), (middle[0], shape[3]), (shape[0], middle[1])]
        draw.polygon(ends, fill=colour, outline=rim)
    else:
        (draw.ellipse if form == "coin" else draw.rectangle)(shape, fill=colour, outline=rim)
    draw.point((middle[0], middle[1] - 1), fill=(255, 255, 255, 255))


def case(seed: int) -> tuple[np.ndarray, list[Rect], list[Rect]]:
    """A sheet, the places of its icons and those of its things."""
    random = np.random.Generator(np.random.PCG64([seed, 515]))
    width, height = int(random.integers(160, 420)), int(random.integers(120, 320))
    image = Image.new("RGBA", (width, height), (0, 0, 0, 0))
    draw, taken, icons, things = ImageDraw.Draw(image), list[Rect](), list[Rect](), list[Rect]()

    def room(wide: int, high: int) -> Rect | None:
        for _ in range(60):
            x, y = int(random.integers(0, max(1, width - wide))), int(random.integers(0, max(1, height - high)))
            place = Rect(x, y, wide, high)
            if not any(place._replace(x=x - 3, y=y - 3, width=wide + 6, height=high + 6).touches(one) for one in taken):
                taken.append(place)
                return place
        return None

    for _ in range(int(random.integers(1, 3))):
        side, columns, rows = int(random.integers(7, 19)), int(random.integers(3, 8)), int(random.integers(1, 5))
        place = room(columns * (side + 1) - 1, rows * (side + 1) - 1)
        if place is not None and columns * rows > 3:
            kind = str(random.choice(("coin", "gem", "box", "mixed")))
            for number in range(columns * rows):
                at = place.x + number % columns * (side + 1), place.y + number // columns * (side + 1)
                icons.append(Rect(*at, side, side))
                icon(draw, random, icons[-1], kind)
    for _ in range(int(random.integers(5, 16))):
        if (place := room(int(random.integers(8, 50)), int(random.integers(10, 60)))) is not None:
            thing(draw, random, place)
            things.append(place)
    return np.asarray(image), icons, things


def whole(art: np.ndarray, places: list[Rect], cuts: list[Cut]) -> int:
    """How many places are each the tile of a cut, by what is drawn there."""
    tiles = [piece for cut in cuts for piece in cut.pieces]
    grids = [cut for cut in cuts if not cut.pieces]
    found = 0
    for place in places:
        rows, columns = (np.flatnonzero(art[place.slices()].any(axis=axis)) for axis in (1, 0))
        drawn = Rect(place.x + columns[0], place.y + rows[0], len(columns), len(rows))
        found += drawn in tiles or any(_alone_in(art, drawn, cut) for cut in grids)
    return found


def cuts_of(sheet: np.ndarray) -> list[Cut]:
    """How a sheet is cut, or would be by whoever takes the offer that it holds loose pieces."""
    guesses, parts = look_over(sheet)
    if parts or not may_be_things(sheet, guesses[0]):
        return parts or [guesses[0].as_cut("")]
    return [Cut("", 16, 16, pieces=tuple(find_pieces(sheet, gap=1)), gap=1)]


def _alone_in(art: np.ndarray, drawn: Rect, cut: Cut) -> bool:
    """Whether a cell of a grid shows all of something and nothing else."""
    first = tile_rect(cut, 0, 0)
    at = (drawn.x - first.x) // cut.pitch_x, (drawn.y - first.y) // cut.pitch_y
    region = cut.region or Rect(0, 0, art.shape[1], art.shape[0])
    if min(at) < 0 or not region.touches(drawn):
        return False
    cell = tile_rect(cut, *at)
    return cell.with_other(drawn) == cell and art[cell.slices()].sum() == art[drawn.slices()].sum()


def main() -> None:
    """Prints how many icons and things are tiles."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers[0] if numbers else 60), (numbers[1] if len(numbers) > 1 else 0)
    told = np.zeros(4, np.int64)
    for seed in range(first, first + count):
        sheet, icons, things = case(seed)
        cuts = cuts_of(sheet)
        art = sheet[..., 3] > 0
        mine = np.array([whole(art, icons, cuts), len(icons), whole(art, things, cuts), len(things)])
        told += mine
        if "--show" in sys.argv and mine[0] < mine[1]:
            print(seed, *mine.tolist(), [(cut.region, cut.tile_width, len(cut.pieces)) for cut in cuts])
    print("icons that are a tile: {} of {}; things: {} of {}".format(*told.tolist()))


if __name__ == "__main__":
    main()
