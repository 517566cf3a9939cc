"""How often hexagons, as a folder of single images or as a sheet, get the right ground, and stand right on it.

.venv/bin/python bench/hexagon_cases.py [COUNT [FIRST]] [--kind NAME] [--sheets] [--show]

A folder holds flat hexagons or such with a thickness, raised ones, such with a tree on them, and things. Kinds are
those of `image_cases.py`, but that `steep` hexagons are squeezed, and `wide` ones have a dark line round them.
"""

import argparse
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw

from image_cases import KINDS, SCALE, One, Random, draw_thing, framed, on_sheet, tint_of
from knitground.core.edits.importing import Images, add_collection
from knitground.core.grid import GridKind
from knitground.core.ground.ground import grid_of_tiles
from knitground.core.project.collecting import put_together
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.footing import footing_of, with_shape
from knitground.core.sheet.isometric import without_ground
from knitground.core.sheet.parts import look_over

WIDTHS = (24, 28, 32, 36, 40, 48, 48, 56, 64, 64, 72, 80, 96, 104, 120, 128)


class Case(NamedTuple):
    """A folder of images, and the grid and the cell that they are drawn for."""

    images: list[One]
    cell: tuple[int, int]
    grid: GridKind


def corners_of(grid: GridKind, w: float, h: float) -> list[tuple[float, float]]:
    """Of a hexagon: its corners clockwise, seen from the left top of its box."""
    if grid == "hex-pointed":
        return [(w / 2, 0), (w, h / 4), (w, h * 0.75), (w / 2, h), (0, h * 0.75), (0, h / 4)]
    return [(w / 4, 0), (w * 0.75, 0), (w, h / 2), (w * 0.75, h), (w / 4, h), (0, h / 2)]


def shape_mask(points: list[tuple[float, float]], size: tuple[int, int]) -> np.ndarray:
    """The pixels whose middles lie in a polygon, (height, width) bool."""
    xs, ys = np.arange(size[0])[None, :] + 0.5, np.arange(size[1])[:, None] + 0.5
    inside = np.zeros((size[1], size[0]), bool)
    for (ax, ay), (bx, by) in zip(points, [*points[1:], points[0]], strict=True):
        if ay != by:
            crosses = ((ay > ys) != (by > ys)) & (xs < (bx - ax) * (ys - ay) / (by - ay) + ax)
            inside ^= crosses
    return inside


def _hexagon(
    random: Random, canvas: np.ndarray, grid: GridKind, at: tuple[int, int], size: tuple[int, int, int], line: bool
) -> None:
    """A hexagon with the lower middle of its box somewhere, so many pixels thick, on an RGBA canvas."""
    w, h, up = size
    points = [(x + at[0] - w / 2, y + at[1] - h) for x, y in corners_of(grid, w, h)]
    size_of = (canvas.shape[1], canvas.shape[0])
    mask, tint = shape_mask(points, size_of), tint_of(random)
    for step in range(up + 1):
        raised = np.roll(mask, -step, axis=0)
        colour = np.array(tint[0] if step == up else tint[2])
        canvas[raised] = colour
        if step < up:
            canvas[raised & (np.arange(size_of[0]) < at[0])] = tint[1]
    top = np.roll(mask, -up, axis=0)
    grain = random.integers(-18, 19, canvas.shape[:2])[..., None]
    canvas[top, :3] = np.clip(canvas[..., :3] + grain, 0, 255)[top]
    if line:
        inner = top & np.roll(top, 1, 0) & np.roll(top, -1, 0) & np.roll(top, 1, 1) & np.roll(top, -1, 1)
        canvas[top & ~inner] = (30, 30, 40, 255)


def make_case(seed: int, kind: str) -> Case:
    """A folder of 6 to 24 images of a kind."""
    random = np.random.default_rng([seed, KINDS.index(kind), 7])
    grid: GridKind = "hex-pointed" if random.random() < 0.5 else "hex-flat"
    w = int(random.choice(WIDTHS))
    regular = 1.1547 if grid == "hex-pointed" else 0.866
    h = round(w * (float(random.choice([0.66, 0.75, 0.875, 1.0])) if kind == "steep" else regular))
    h += h % 2
    thick = int(w * random.uniform(0.08, 0.25)) if random.random() < 0.4 else 0
    kinds = ["floor"] * int(random.integers(3, 10)) + ["raised"] * int(random.integers(0, 4))
    kinds += ["wood"] * int(random.integers(0, 6)) + ["thing"] * int(random.integers(0, 5))
    soft, drawn = bool(random.random() < 0.5 and kind != "key" and w <= 64), []
    for what in kinds:
        scale = SCALE if soft else 1
        wide, high = 4 * w, 5 * w + h
        foot = (wide // 2, high - 2 * w)
        canvas = np.zeros((high * scale, wide * scale, 4), np.uint8)
        at = (foot[0] * scale, foot[1] * scale)
        up = thick + (int(w * random.uniform(0.1, 0.5)) if what == "raised" else 0)
        if what != "thing":
            place = (at[0], at[1] + thick * scale)
            _hexagon(random, canvas, grid, place, (w * scale, h * scale, up * scale), kind == "wide")
        image = Image.fromarray(canvas)
        draw = ImageDraw.Draw(image)
        if what in ("wood", "thing"):
            draw_thing(random, draw, at, w * scale * 0.7, h * scale, tint_of(random))
        if kind == "tufts" and what != "thing":
            for _ in range(int(random.integers(3, 12))):
                x, y = at[0] + random.uniform(-0.5, 0.5) * w * scale, at[1] - random.uniform(0, 0.6) * h * scale
                draw.line(
                    [x, y, x + scale * random.integers(0, 3), y - scale * random.integers(1, 4)],
                    tint_of(random)[1],
                    scale,
                )
        if kind == "shadows" and what in ("wood", "thing"):
            shade = Image.new("RGBA", image.size)
            reach = w * scale * 0.4
            middle = at[1] - h * scale / 2
            ImageDraw.Draw(shade).ellipse(
                [at[0] - reach, middle - reach * 0.25, at[0] + 1.8 * reach, middle + reach * 0.25], fill=(0, 0, 0, 90)
            )
            shade.alpha_composite(image)
            image = shade
        drawn.append(
            ("floor" if what != "thing" else what, np.array(image.resize((wide, high), Image.Resampling.BOX)), foot)
        )
    return Case(framed(random, kind, drawn), (w, h), grid)


def told(cuts: list[Cut]) -> tuple[GridKind, tuple[int, int]]:
    """The grid and the cell that most of some cuts are drawn for."""
    known = [(grid_of_tiles(cut.shape), cut.footprint) for cut in cuts if cut.shape != "square"]
    return max(set(known), key=known.count) if known else ("square", (0, 0))


def is_close(cell: tuple[int, int], right: tuple[int, int]) -> bool:
    """Whether a cell is right to the pixel; a height that no pixel shows may be one off."""
    return cell[0] == right[0] and cell[1] == right[1]


def measure(kind: str, seeds: range, show: Callable[..., None]) -> str:
    """What comes of the folders of a kind."""
    grids = cells = images = standing = 0
    for seed in seeds:
        case = make_case(seed, kind)
        pixels = [one.pixels for one in case.images]
        files = {f"{number}.png": b"" for number in range(len(pixels))}
        document = Document()
        add_collection(document, "folder", Images(files, put_together(files, pixels), footing_of(pixels), ()))
        cuts = list(document.project.sheets[0].cuts)
        grid, cell = told(cuts)
        grids, cells = grids + (grid == case.grid), cells + (grid == case.grid and is_close(cell, case.cell))
        good = []
        for one, cut in zip(case.images, cuts, strict=True):
            high, wide = one.pixels.shape[:2]
            across = (case.cell[0] - wide) // 2 + cut.offset_x + one.foot[0] - case.cell[0] / 2
            down = cut.offset_y + one.foot[1] - high
            leeway = (1, 1) if one.full else (case.cell[0] / 6, case.cell[1] / 3)
            good.append(abs(across) <= leeway[0] and abs(down) <= leeway[1])
        images, standing = images + len(good), standing + sum(good)
        show(kind, seed, case.grid, case.cell, grid, cell, f"{sum(good)} of {len(good)}")
    count = len(seeds)
    return (
        f"{kind:8} {count} folders: grid right {100 * grids / count:.0f} %, cell right {100 * cells / count:.0f} %; "
        f"{100 * standing / images:.0f} % of {images} images stand right"
    )


def measure_sheets(kind: str, seeds: range, show: Callable[..., None]) -> str:
    """What comes of the sheets of a kind."""
    apart = grids = cells = 0
    for seed in seeds:
        case = make_case(seed, kind)
        sheet, pitch = on_sheet(case, seed)
        overview = look_over(sheet)
        cut = with_shape(without_ground(sheet), overview.guesses[0].as_cut("tiles"))
        right = not overview.parts and (cut.pitch_x, cut.pitch_y) == pitch
        grid, cell = told([cut])
        apart, grids = apart + right, grids + (grid == case.grid)
        cells += grid == case.grid and is_close(cell, case.cell)
        show(kind, seed, case.grid, case.cell, pitch, (cut.pitch_x, cut.pitch_y), grid, cell, len(overview.parts))
    shares = [100 * one / len(seeds) for one in (apart, grids, cells)]
    cut_right, grid_right, cell_right = (f"{share:.0f} %" for share in shares)
    return f"{kind:8} {len(seeds)} sheets: {cut_right} cut right, grid right {grid_right}, cell right {cell_right}"


def main() -> None:
    """Measures all kinds, or one."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int, nargs="?", default=20)
    parser.add_argument("first", type=int, nargs="?", default=0)
    parser.add_argument("--kind", choices=KINDS)
    parser.add_argument("--sheets", action="store_true")
    parser.add_argument("--show", action="store_true")
    chosen = parser.parse_args()
    seeds = range(chosen.first, chosen.first + chosen.count)
    for kind in [chosen.kind] if chosen.kind else KINDS:
        print((measure_sheets if chosen.sheets else measure)(kind, seeds, print if chosen.show else lambda *_: None))


if __name__ == "__main__":
    main()
