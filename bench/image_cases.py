"""How often single isometric images of a folder stand where they belong, and their ground gets the right cells.

.venv/bin/python bench/image_cases.py [COUNT [FIRST]] [--kind NAME] [--sheets] [--show]

A folder holds floors, slabs, blocks, walls at two sides of a cell, and things. Kinds say what is done to all images:
`tight` ones end where their art ends; `padded` share a canvas on which all are registered; `loose` have some room each;
`shadows`, `tufts`, `key`, `steep` and `wide` are padded or tight ones with soft shadows, with grass over their borders,
on a colour, in another angle, and with some things that take four cells.
With `--sheets` the images of each folder lie on one sheet, in cells of one size, and what is guessed of it is measured.
"""

import argparse
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.edits.importing import Images, add_collection
from knitground.core.project.collecting import put_together
from knitground.core.project.document import Document
from knitground.core.sheet.footing import footing_of, with_shape
from knitground.core.sheet.isometric import usual_foot, without_ground
from knitground.core.sheet.parts import look_over

Random = np.random.Generator
KINDS = ("tight", "padded", "loose", "shadows", "tufts", "key", "steep", "wide")
WIDTHS = (24, 32, 40, 48, 52, 64, 64, 64, 80, 96, 100, 128)
SCALE = 4


class One(NamedTuple):
    """An image, where the lowest corner of its footprint lies in it, and whether that footprint is full."""

    name: str
    pixels: np.ndarray
    foot: tuple[float, float]
    full: bool


class Case(NamedTuple):
    """A folder of images, and the cell that they are drawn for."""

    images: list[One]
    cell: tuple[int, int]


def filled(draw: ImageDraw.ImageDraw, points: list[tuple[float, float]], colour: tuple[int, ...]) -> None:
    """A polygon whose sides run between pixels: drawn as it is it would be a pixel wider."""
    middle = np.mean(points, axis=0)
    draw.polygon([tuple(np.where(one > middle, np.subtract(one, 1), one)) for one in points], fill=colour)


def _prism(draw: ImageDraw.ImageDraw, at: tuple[float, float], size: tuple[float, float, float], tint: list) -> None:
    """A block with its lowest corner somewhere: `size` is the width and height of its diamond, and how high it is."""
    x, y = at
    w, h, up = size
    left, right, low, top = (x - w / 2, y - h / 2), (x + w / 2, y - h / 2), (x, y), (x, y - h)

    def raised(point: tuple[float, float]) -> tuple[float, float]:
        return point[0], point[1] - up

    if up:
        filled(draw, [left, low, raised(low), raised(left)], tint[1])
        filled(draw, [low, right, raised(right), raised(low)], tint[2])
    filled(draw, [raised(left), raised(low), raised(right), raised(top)], tint[0])


def draw_thing(
    random: Random, draw: ImageDraw.ImageDraw, at: tuple[float, float], w: float, h: float, tint: list
) -> None:
    """A lamp, a barrel or a tree, whose foot is in the middle of a cell."""
    x, y = at[0], at[1] - h / 2
    kind = int(random.integers(0, 3))
    if kind == 0:
        high = w * random.uniform(0.6, 1.4)
        draw.rectangle([x - w * 0.04, y - high, x + w * 0.04, y], fill=tint[1])
        draw.ellipse([x - w * 0.12, y - high - w * 0.2, x + w * 0.12, y - high], fill=tint[0])
    elif kind == 1:
        draw.ellipse([x - w * 0.2, y - h * 0.2, x + w * 0.2, y + h * 0.2], fill=tint[2])
        draw.rectangle([x - w * 0.2, y - w * 0.4, x + w * 0.2, y], fill=tint[2])
        draw.ellipse([x - w * 0.2, y - w * 0.4 - h * 0.2, x + w * 0.2, y - w * 0.4 + h * 0.2], fill=tint[0])
    else:
        crown = w * random.uniform(0.3, 0.62)
        draw.rectangle([x - w * 0.06, y - w * 0.5, x + w * 0.06, y + h * 0.06], fill=tint[1])
        draw.ellipse([x - crown, y - w * 0.4 - crown * 1.7, x + crown, y - w * 0.4], fill=tint[0])


def _wall(draw: ImageDraw.ImageDraw, at: tuple[float, float], size: tuple[float, float, float], left: bool) -> None:
    """A thin wall along one of the two far sides of a cell."""
    x, y = at
    w, h, up = size
    side = -1 if left else 1
    ends = [(x + side * w / 2, y - h / 2), (x, y - h)]
    inner = [(a - side * w * 0.06, b + h * 0.06) for a, b in ends]
    tint = (140, 110, 90, 255) if left else (110, 84, 70, 255)
    raised = [(a, b - up) for a, b in reversed(inner)]
    filled(draw, [*inner, *raised], tint)
    filled(draw, [*[(a, b - up) for a, b in ends], *raised], (190, 160, 130, 255))


def tint_of(random: Random) -> list[tuple[int, int, int, int]]:
    top = random.integers(60, 240, 3)
    return [(*(int(one * share) for one in top), 255) for share in (1, 0.75, 0.55)]


def _drawn(
    random: Random, kind: str, what: str, cell: tuple[int, int], large: int, scale: int
) -> tuple[np.ndarray, tuple[int, int]]:
    """One image with much room around it, and where the lowest corner of its footprint lies."""
    w, h = cell
    wide, high = 6 * w, 8 * w
    foot = (wide // 2, high - 2 * w)
    canvas = Image.new("RGBA", (wide * scale, high * scale))
    draw = ImageDraw.Draw(canvas)
    at, big = (foot[0] * scale, foot[1] * scale), (w * scale * large, h * scale * large)
    tint = tint_of(random)
    if kind == "shadows" and what not in ("floor", "slab"):
        shade = Image.new("RGBA", canvas.size)
        reach = w * scale * random.uniform(0.4, 0.7)
        middle = at[1] - big[1] / 2
        ImageDraw.Draw(shade).ellipse(
            [at[0] - reach * 0.3, middle - reach * 0.25, at[0] + reach * 1.3, middle + reach * 0.25], fill=(0, 0, 0, 90)
        )
        canvas.alpha_composite(shade)
    up = {"floor": 0.0, "slab": w * 0.15, "block": w * random.uniform(0.4, 1.3)}.get(what, w * 0.8) * scale
    if what in ("floor", "slab", "block"):
        _prism(draw, at, (*big, up), tint)
    elif what == "wall":
        _wall(draw, at, (*big, up), bool(random.random() < 0.5))
    else:
        draw_thing(random, draw, at, *big, tint)
    if kind == "tufts" and what in ("floor", "slab", "block"):
        for _ in range(int(random.integers(3, 12))):
            part = random.random()
            side = 1 if random.random() < 0.5 else -1
            x, y = at[0] + side * part * big[0] / 2, at[1] - part * big[1] / 2
            draw.line(
                [x, y, x + side * scale * random.integers(0, 3), y + scale * random.integers(1, 4)], tint[1], scale
            )
    return np.array(canvas.resize((wide, high), Image.Resampling.BOX)), foot


def _bounds(pixels: np.ndarray) -> tuple[int, int, int, int]:
    rows, columns = np.flatnonzero(pixels[..., 3].any(axis=1)), np.flatnonzero(pixels[..., 3].any(axis=0))
    return int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1


def make_case(seed: int, kind: str) -> Case:
    """A folder of 6 to 24 images of a kind."""
    random = np.random.default_rng([seed, KINDS.index(kind)])
    w = int(random.choice(WIDTHS))
    h = round(w * float(random.choice([0.577, 0.6, 0.75, 0.43]))) if kind == "steep" else w // 2
    h += h % 2
    kinds = ["floor" if random.random() < 0.6 else "slab"] * int(random.integers(2, 8))
    kinds += ["block"] * int(random.integers(1, 7)) + ["wall"] * int(random.integers(0, 4))
    kinds += ["thing"] * int(random.integers(1, 7))
    drawn = []
    # Art on a key colour has hard borders.
    scale = SCALE if random.random() < 0.5 and kind != "key" else 1
    for what in kinds:
        large = 2 if kind == "wide" and what == "block" and random.random() < 0.4 else 1
        drawn.append((what, *_drawn(random, kind, what, (w, h), large, scale)))
    return Case(framed(random, kind, drawn), (w, h))


def framed(random: Random, kind: str, drawn: list[tuple[str, np.ndarray, tuple[int, int]]]) -> list[One]:
    """Images out of drawings with much room, as a kind of folder has them."""
    registered = kind == "padded" or (kind != "tight" and kind != "loose" and random.random() < 0.5)
    bounds = [_bounds(pixels) for _, pixels, _ in drawn]
    if registered:
        round_it = random.integers(0, 12, 4)
        shared = [min(one[0] for one in bounds), min(one[1] for one in bounds)]
        shared += [max(one[2] for one in bounds), max(one[3] for one in bounds)]
        shared = [shared[0] - round_it[0], shared[1] - round_it[1], shared[2] + round_it[2], shared[3] + round_it[3]]
        bounds = [tuple(int(one) for one in shared)] * len(drawn)
    elif kind == "loose":
        bounds = [tuple(np.array(one) + random.integers(0, 9, 4) * (-1, -1, 1, 1)) for one in bounds]
    key = (*(int(one) for one in random.integers(0, 256, 3)), 255)
    images = []
    for number, ((what, pixels, foot), (left, top, right, bottom)) in enumerate(zip(drawn, bounds, strict=True)):
        part = pixels[top:bottom, left:right]
        if kind == "key":
            part = np.where(part[..., 3:] >= 128, part | np.uint8([0, 0, 0, 255]), np.array(key, np.uint8))
        images.append(One(f"{what}{number:02}", part, (foot[0] - left, foot[1] - top), what not in ("wall", "thing")))
    return images


def stands(document: Document, sheet_id: str, case: Case) -> tuple[bool, bool, list[tuple[One, float, float]]]:
    """Whether an isometric ground is proposed, with the right cell, and how far off each image stands on it."""
    (sheet,) = [one for one in document.project.sheets if one.id == sheet_id]
    foot = usual_foot(sheet.cuts)
    off = []
    for one, cut in zip(case.images, sheet.cuts, strict=True):
        height, width = one.pixels.shape[:2]
        left = (case.cell[0] - width) // 2 + cut.offset_x
        off.append((one, left + one.foot[0] - case.cell[0] / 2, cut.offset_y + one.foot[1] - height))
    return foot is not None, foot == ("isometric", case.cell), off


def is_right(one: One, across: float, down: float, cell: tuple[int, int]) -> bool:
    """Whether an image stands where it belongs: to the pixel if it fills a cell, else about there."""
    leeway = (1, 1) if one.full else (cell[0] / 8, cell[1] / 4)
    return abs(across) <= leeway[0] and abs(down) <= leeway[1]


def measure(kind: str, seeds: range, show: Callable[..., None]) -> tuple[int, int, int, int, int]:
    """How many folders, of these proposed, of these right; how many images, of these right."""
    proposed = right = images = standing = 0
    for seed in seeds:
        case = make_case(seed, kind)
        document, pixels = Document(), [one.pixels for one in case.images]
        files = {f"{one.name}.png": b"" for one in case.images}
        found = Images(files, put_together(files, pixels), footing_of(pixels), ())
        isometric, cell, off = stands(document, add_collection(document, "folder", found), case)
        proposed, right = proposed + isometric, right + cell
        good = [is_right(*each, case.cell) for each in off]
        images, standing = images + len(good), standing + sum(good)
        wrong = [(one.name, across, down) for (one, across, down), fine in zip(off, good, strict=True) if not fine]
        show(kind, seed, case.cell, isometric, cell, f"{sum(good)} of {len(good)}", *wrong[:4])
    return len(seeds), proposed, right, images, standing


def on_sheet(case: Case, seed: int) -> tuple[np.ndarray, tuple[int, int]]:
    """All images of a folder in the cells of a sheet, 0, 2 or 4 pixels apart; and from one cell to the next."""
    random = np.random.default_rng(seed)
    gap, columns = int(random.choice([0, 0, 2, 4])), int(random.integers(3, 8))
    feet = np.array([one.foot for one in case.images]).astype(int)
    sizes = np.array([one.pixels.shape[1::-1] for one in case.images])
    before, pitch = feet.max(axis=0), feet.max(axis=0) + (sizes - feet).max(axis=0) + gap
    many = np.array([columns, -(-len(feet) // columns)])
    width, height = many * pitch - gap
    opaque = all(one.pixels[..., 3].all() for one in case.images)
    sheet = np.zeros((height, width, 4), np.uint8)
    sheet[:] = case.images[0].pixels[0, 0] if opaque else 0
    for number, (one, foot) in enumerate(zip(case.images, feet, strict=True)):
        x, y = np.array([number % columns, number // columns]) * pitch + before - foot
        sheet[y : y + one.pixels.shape[0], x : x + one.pixels.shape[1]] = one.pixels
    return sheet, (int(pitch[0]), int(pitch[1]))


def measure_sheets(kind: str, seeds: range, show: Callable[..., None]) -> None:
    """How many sheets get the right distances, and with these an isometric ground with the right cell."""
    apart = cells = 0
    for seed in seeds:
        case = make_case(seed, kind)
        sheet, pitch = on_sheet(case, seed)
        overview = look_over(sheet)
        cut = with_shape(without_ground(sheet), overview.guesses[0].as_cut("tiles"))
        right = not overview.parts and (cut.pitch_x, cut.pitch_y) == pitch
        cell = cut.shape == "isometric" and cut.footprint == case.cell
        apart, cells = apart + right, cells + cell
        show(kind, seed, case.cell, pitch, (cut.pitch_x, cut.pitch_y), cut.shape, cut.footprint, len(overview.parts))
    shares = 100 * apart / len(seeds), 100 * cells / len(seeds)
    print(f"{kind:8} {len(seeds)} sheets: {shares[0]:.0f} % cut right, cell right {shares[1]:.0f} %")


def main() -> None:
    """Measures all kinds, or one."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int, nargs="?", default=30)
    parser.add_argument("first", type=int, nargs="?", default=0)
    parser.add_argument("--kind", choices=KINDS)
    parser.add_argument("--sheets", action="store_true")
    parser.add_argument("--show", action="store_true")
    chosen = parser.parse_args()
    seeds = range(chosen.first, chosen.first + chosen.count)
    for kind in [chosen.kind] if chosen.kind else KINDS:
        if chosen.sheets:
            measure_sheets(kind, seeds, print if chosen.show else lambda *_: None)
            continue
        folders, proposed, right, images, standing = measure(kind, seeds, print if chosen.show else lambda *_: None)
        print(
            f"{kind:8} {folders} folders: isometric proposed {100 * proposed / folders:.0f} %, "
            f"cell right {100 * right / folders:.0f} %; {100 * standing / images:.0f} % of {images} images stand right"
        )


if __name__ == "__main__":
    main()
