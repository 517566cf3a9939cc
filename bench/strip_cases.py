"""How often strips, one row or column of frames or of things that is all of a picture, are cut right at first.

.venv/bin/python bench/strip_cases.py [COUNT [FIRST]] [--kind NAME] [--show]

Kinds: `walk` and `blast` are frames of a figure that moves and of a burst that grows; `machine` frames fill their cells
and differ in a small part; `things` are of all shapes and stand on one line; `ground` is one full tile after another;
`rows` are two or three rows of things that touch, which no strip may be taken for. Half of all have room above or below
that is uneven, a gap between cells, or a colour behind all.
"""

import argparse
from collections.abc import Callable

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.sheet.parts import look_over

Random = np.random.Generator
KINDS = ("walk", "blast", "machine", "things", "ground", "rows")
SCALE = 4


def _ink(random: Random) -> tuple[int, int, int, int]:
    red, green, blue = (int(one) for one in random.integers(30, 240, 3))
    return red, green, blue, 255


def _walk(draw: ImageDraw.ImageDraw, w: int, h: int, share: float, inks: list, way: float) -> None:
    """A figure with its legs at a place of its step."""
    middle, hip = w / 2 + way * w * 0.05, h * 0.62 + h * 0.03 * np.sin(share * 4 * np.pi)
    for side in (1, -1):
        foot = middle + side * np.sin(share * 2 * np.pi) * w * 0.25
        draw.line([middle, hip, foot, h - 1], fill=inks[1], width=max(2, w // 9))
    draw.rectangle([middle - w * 0.16, h * 0.3, middle + w * 0.16, hip], fill=inks[0])
    draw.ellipse([middle - w * 0.2, hip - h * 0.6, middle + w * 0.2, h * 0.34], fill=inks[2])


def _blast(draw: ImageDraw.ImageDraw, random: Random, w: int, h: int, share: float, inks: list) -> None:
    """A burst, small at first, full, and then in shreds."""
    reach = np.sin(min(1.0, 0.15 + share) * np.pi / 2) * min(w, h) / 2
    for ink, part in zip(inks, (1.0, 0.7, 0.4), strict=True):
        if share < 0.75:
            far = reach * part
            draw.ellipse([w / 2 - far, h / 2 - far, w / 2 + far, h / 2 + far], fill=ink)
        else:
            for _ in range(6):
                turn, away = random.uniform(0, 2 * np.pi), reach * random.uniform(0.3, 0.9)
                x, y = w / 2 + away * np.cos(turn), h / 2 + away * np.sin(turn)
                draw.ellipse([x - w * 0.06, y - h * 0.06, x + w * 0.06, y + h * 0.06], fill=ink)


def _machine(draw: ImageDraw.ImageDraw, w: int, h: int, share: float, inks: list, specks: np.ndarray) -> None:
    """A box that fills its cell, with a hand that turns and a lamp that blinks."""
    draw.rectangle([0, 0, w, h], fill=inks[0])
    for x, y in specks:
        draw.rectangle([x * w, y * h, x * w + w * 0.12, y * h + h * 0.06], fill=inks[1])
    turn, far = share * 2 * np.pi, min(w, h) * 0.3
    draw.line(
        [w / 2, h / 2, w / 2 + far * np.cos(turn), h / 2 + far * np.sin(turn)], fill=inks[2], width=max(2, w // 8)
    )
    if share > 0.5:
        draw.ellipse([w * 0.7, h * 0.1, w * 0.85, h * 0.1 + w * 0.15], fill=inks[2])


def _thing(draw: ImageDraw.ImageDraw, random: Random, w: int, h: int, inks: list, *, touches: bool) -> None:
    """A tree, a jar, a post or a stone, as high as its cell or less."""
    high = h if touches else h * random.uniform(0.45, 1)
    top, kind = h - high, int(random.integers(0, 4))
    if kind == 0:
        draw.rectangle([w * 0.42, top + high * 0.4, w * 0.58, h], fill=inks[1])
        draw.ellipse([w * 0.06, top, w * 0.94, top + high * 0.7], fill=inks[0])
    elif kind == 1:
        draw.rounded_rectangle([w * 0.2, top + high * 0.2, w * 0.8, h], w * 0.12, fill=inks[0])
        draw.rectangle([w * 0.32, top, w * 0.68, top + high * 0.24], fill=inks[1])
    elif kind == 2:
        draw.rectangle([w * 0.36, top, w * 0.64, h], fill=inks[0])
        draw.rectangle([w * 0.12, top + high * 0.1, w * 0.88, top + high * 0.3], fill=inks[2])
    else:
        draw.polygon(
            [(w * 0.5, top), (w * 0.95, h * 0.8), (w * 0.8, h), (w * 0.2, h), (w * 0.04, h * 0.75)], fill=inks[0]
        )


def make_case(seed: int, kind: str) -> tuple[np.ndarray, tuple[int, int], bool]:
    """A sheet, how far apart its cells are across and down, and whether it is one row."""
    random = np.random.default_rng([seed, KINDS.index(kind), 3])
    count = int(random.integers(3, 17))
    w = int(random.choice([12, 16, 18, 20, 24, 30, 32, 35, 40, 48, 50, 64, 75, 80]))
    h = max(10, round(w * float(random.choice([0.6, 0.75, 1, 1, 1, 1.25, 1.5, 2]))))
    rows = int(random.integers(2, 4)) if kind == "rows" else 1
    gap = int(random.choice([0, 0, 0, 1, 2, 4])) if kind != "rows" else 0
    above, below = (int(one) for one in random.integers(0, 6, 2) * (random.random() < 0.5 and kind != "rows"))
    scale = SCALE if random.random() < 0.4 else 1
    inks, specks, grain = [_ink(random) for _ in range(3)], random.random((5, 2)), random.integers(-14, 15, (h, w, 1))
    sheet = np.zeros((above + rows * h + below, count * (w + gap) - gap, 4), np.uint8)
    for place in range(count * rows):
        cell = Image.new("RGBA", (w * scale, h * scale))
        draw, share = ImageDraw.Draw(cell), place % count / count
        if kind == "walk":
            _walk(draw, w * scale, h * scale, share, inks, float(random.normal()))
        elif kind == "blast":
            _blast(draw, random, w * scale, h * scale, share, inks)
        elif kind == "machine":
            _machine(draw, w * scale, h * scale, share, inks, specks)
        elif kind == "ground":
            draw.rectangle([0, 0, w * scale, h * scale], fill=_ink(random))
        else:
            _thing(draw, random, w * scale, h * scale, [_ink(random) for _ in range(3)], touches=kind == "rows")
        pixels = np.array(cell.resize((w, h), Image.Resampling.BOX))
        if kind in ("machine", "ground"):
            noise = grain if kind == "machine" else random.integers(-30, 31, (h, w, 1))
            pixels[..., :3] = np.clip(pixels[..., :3] + noise, 0, 255)
        x, y = place % count * (w + gap), above + place // count * h
        sheet[y : y + h, x : x + w] = pixels
    if random.random() < 0.25 and kind not in ("ground", "rows"):
        sheet = np.where(sheet[..., 3:] >= 128, sheet | np.uint8([0, 0, 0, 255]), np.uint8([255, 0, 255, 255]))
    if random.random() < 0.3:
        return sheet.swapaxes(0, 1), (h, w + gap), rows == 1
    return sheet, (w + gap, h), rows == 1


def is_right(sheet: np.ndarray, pitch: tuple[int, int], *, one_row: bool) -> bool:
    """Whether the first guess has the right distances, and leaves out no art."""
    overview = look_over(sheet)
    if overview.parts or not overview.guesses:
        return False
    cut = overview.guesses[0].as_cut("")
    down = sheet.shape[0] > sheet.shape[1]
    if not one_row:
        return (cut.pitch_x, cut.pitch_y) == pitch
    if (cut.pitch_y if down else cut.pitch_x) != pitch[down]:
        return False
    art = sheet[..., 3] > 0 if not sheet[..., 3].all() else (sheet[..., :3] != (255, 0, 255)).any(axis=2)
    kept = np.zeros(art.shape, bool)
    rows = np.arange(art.shape[0]) - cut.margin_y, np.arange(art.shape[1]) - cut.margin_x
    inside = [
        (n >= 0) & (n % p < t)
        for n, p, t in zip(rows, (cut.pitch_y, cut.pitch_x), (cut.tile_height, cut.tile_width), strict=True)
    ]
    kept[np.ix_(*inside)] = True
    only = (
        (sheet.shape[0] - cut.margin_y) // cut.pitch_y < 2
        if not down
        else (sheet.shape[1] - cut.margin_x) // cut.pitch_x < 2
    )
    return bool(only and not (art & ~kept).any())


def measure(kind: str, seeds: range, show: Callable[..., None]) -> str:
    """What comes of the strips of a kind."""
    right = 0
    for seed in seeds:
        sheet, pitch, one_row = make_case(seed, kind)
        good = is_right(sheet, pitch, one_row=one_row)
        right += good
        if not good:
            show(kind, seed, sheet.shape[1::-1], pitch, [one.as_cut("") for one in look_over(sheet).guesses[:2]])
    return f"{kind:8} {100 * right / len(seeds):.0f} % of {len(seeds)}"


def main() -> None:
    """Measures all kinds, or one."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int, nargs="?", default=30)
    parser.add_argument("first", type=int, nargs="?", default=0)
    parser.add_argument("--kind", choices=KINDS)
    parser.add_argument("--show", action="store_true")
    chosen = parser.parse_args()
    seeds = range(chosen.first, chosen.first + chosen.count)
    for kind in [chosen.kind] if chosen.kind else KINDS:
        print(measure(kind, seeds, print if chosen.show else lambda *_: None))


if __name__ == "__main__":
    main()
