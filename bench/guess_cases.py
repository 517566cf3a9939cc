"""How often the first guess of a cut is exact, on made-up sheets of many kinds, kind and unkind.

.venv/bin/python bench/guess_cases.py [COUNT [FIRST]] [--show]
                                       [--kind | --unkind | --headed | --shapes | --wide | --flat | --small]
                                       [--checker | --haze | --glow | --frame | --gradient | --grain] [--lossy]
"""

import io
import sys
import time
from collections import defaultdict
from itertools import product
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "demo"))

from PIL import Image, ImageDraw

from art.props import all_props
from art.terrains import TERRAINS, meeting, texture
from art.trims import gutter, parapet, planks, skylight
from grounds import GROUNDS, on_ground
from knitground.core.sheet.parts import look_over
from platform_sheets import platform_case
from room_sheets import room_case
from small_sheets import small_case
from unkind_sheets import unkind_case

Truth = tuple[int, int, int, int, int, int]
SIDES = (8, 12, 16, 16, 16, 16, 18, 20, 21, 24, 24, 32, 32, 32, 40, 48, 64)


def art_of(kind: str, random: np.random.Generator, width: int, height: int) -> np.ndarray:
    """One tile of a kind of art, (height, width, 4)."""
    if kind == "terrain":
        corners = tuple(TERRAINS[n] for n in random.integers(0, 4, 4))
        return _sized(meeting(corners), width, height)
    if kind == "plain":
        pixels = texture(TERRAINS[random.integers(0, 4)], int(random.integers(0, 3)))
        return _sized(np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)]), width, height)
    if kind == "things":
        props = [tile for row in all_props() for tile in row]
        return _sized(props[random.integers(0, len(props))].pixels, width, height)
    if kind == "lines":
        arms = tuple(bool(n) for n in random.integers(0, 2, 4))
        make = (gutter, planks, parapet, skylight)[random.integers(0, 4)]
        return _sized(make(*arms).pixels, width, height)
    if kind == "diamonds":
        return _diamond(random, width, height)
    return _blob(random, width, height)


def _sized(pixels: np.ndarray, width: int, height: int) -> np.ndarray:
    return np.asarray(Image.fromarray(np.ascontiguousarray(pixels)).resize((width, height), Image.Resampling.NEAREST))


def _blob(random: np.random.Generator, width: int, height: int) -> np.ndarray:
    """A figure with padding round it, in few colours."""
    ys, xs = np.mgrid[0:height, 0:width]
    tile = np.zeros((height, width, 4), np.uint8)
    for _ in range(3):
        cx, cy = random.uniform(0.3, 0.7) * width, random.uniform(0.3, 0.7) * height
        inside = ((xs - cx) / (0.3 * width)) ** 2 + ((ys - cy) / (random.uniform(0.15, 0.4) * height)) ** 2 < 1
        tile[inside] = (*random.integers(20, 240, 3), 255)
    return tile


def _diamond(random: np.random.Generator, width: int, height: int) -> np.ndarray:
    """An isometric tile: a diamond half as high as wide at the foot of its cell, with or without a block on it."""
    ys, xs = np.mgrid[0:height, 0:width]
    low = min(height, width // 2)
    top = height - low
    inside = np.abs(2 * (xs + 0.5) / width - 1) + np.abs(2 * (ys - top + 0.5) / low - 1) <= 1
    pixels = texture(TERRAINS[random.integers(0, 4)], int(random.integers(0, 3)))
    art = _sized(np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)]), width, height)
    if random.random() < 0.5 and top:
        lifted = np.zeros_like(inside)
        for up in range(int(random.integers(1, top + 1))):
            lifted |= np.roll(inside, -up, axis=0)
        inside = lifted
    return np.where(inside[..., None], art, 0).astype(np.uint8)


def caption(sheet: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """The sheet with something like writing at its right or foot."""
    height, width = sheet.shape[:2]
    beside = random.random() < 0.5
    wider = np.zeros((height, width + int(random.integers(30, 120)), 4), np.uint8)
    if not beside:
        wider = np.zeros((height + int(random.integers(10, 40)), width, 4), np.uint8)
    wider[:] = sheet[0, 0]
    wider[:height, :width] = sheet
    colour = (*random.integers(0, 256, 3), 255)
    for _ in range(int(random.integers(1, 4))):
        y = int(random.integers(0, max(1, height - 8))) if beside else height + 1 + int(random.integers(0, 3))
        x = width + 3 if beside else int(random.integers(0, max(1, width // 2)))
        for _ in range(int(random.integers(4, 14))):
            glyph = wider[y : y + 7, x : x + 5]
            glyph[random.random(glyph.shape[:2]) < 0.5] = colour
            x += 6
    return wider


def make_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """A sheet, the numbers it was made with, and what is special about it."""
    random = np.random.Generator(np.random.PCG64(seed))
    width = int(random.choice(SIDES))
    height = width if random.random() < 0.8 else int(random.choice(SIDES))
    spacing = int(random.choice((0, 0, 0, 1, 1, 2, 2, 3, 4)))
    margin = int(random.choice((0, 0, spacing, spacing, 1, 2, 4, 8)))
    columns, rows = (int(n) for n in random.integers(4, 17, 2))
    kind = str(random.choice(("terrain", "plain", "things", "lines", "blobs", "mixed", "mixed", "diamonds")))
    if kind == "diamonds":
        width = max(16, width // 2 * 2)
        height = width // 2 if random.random() < 0.5 else width
    empty = float(random.choice((0, 0, 0.1, 0.3, 0.6)))
    over = [int(n) for n in random.integers(0, max(2, width // 2), 2)] if random.random() < 0.3 else [0, 0]
    far = margin if random.random() < 0.7 else 0
    full_width = margin + columns * (width + spacing) - spacing + far + over[0]
    full_height = margin + rows * (height + spacing) - spacing + far + over[1]
    ground = {"clear": (0, 0, 0, 0), "key": (255, 0, 255, 255), "dark": (20, 16, 28, 255)}
    ground["line"] = (*(int(part) for part in random.integers(0, 256, 3)), 255)
    style = str(random.choice(("clear", "clear", "key", "line", "dark")))
    sheet = np.zeros((full_height, full_width, 4), np.uint8)
    sheet[:] = ground[style]
    cells_clear = style == "line"
    used = 0
    for row in range(rows):
        for column in range(columns):
            left, top = margin + column * (width + spacing), margin + row * (height + spacing)
            cell = sheet[top : top + height, left : left + width]
            if cells_clear:
                cell[:] = 0
            if random.random() < empty:
                continue
            kinds = ("terrain", "things", "lines", "blobs")
            art = art_of(str(random.choice(kinds)) if kind == "mixed" else kind, random, width, height)
            used += 1
            drawn = art[..., 3:] > 0
            cell[:] = np.where(drawn, art, cell)
    if used < 8:
        return make_case(seed + 10_000)
    written = random.random() < 0.12
    if written:
        sheet = caption(sheet, random)
    special = "caption" if written else style
    says = f"{kind} {special} {width}x{height} m{margin} s{spacing} {columns}x{rows} empty {empty:.0%} over {over}"
    return sheet, (width, height, margin, margin, spacing, spacing), says


def any_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """Two of three are unkind."""
    return make_case(seed) if seed % 3 == 0 else unkind_case(seed - seed // 3)


def headed_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """A sheet of any kind with its name, and perhaps a line more, written above the art."""
    sheet, (wide, high, across, down, *gaps), says = any_case(seed)
    random = np.random.Generator(np.random.PCG64([seed, 5]))
    lines, before, behind = int(random.integers(1, 3)), int(random.integers(1, 6)), int(random.integers(2, 15))
    head = np.zeros((before + 10 * lines - 2 + behind, sheet.shape[1], 4), np.uint8)
    head[:] = sheet[0, 0] if across or down else 0
    colour = (*random.integers(0, 256, 3), 255)
    for line in range(lines):
        left = int(random.integers(0, 12))
        for glyph in range(int(random.integers(5, 26))):
            spot = head[before + 10 * line : before + 10 * line + 8, left + 6 * glyph : left + 6 * glyph + 5]
            spot[random.random(spot.shape[:2]) < 0.45] = colour
    return np.concatenate([head, sheet]), (wide, high, across, down + len(head), *gaps), f"headed {says}"


def shape_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """Hexagons, rounds or diamonds that fill their tiles, far apart on a sheet that is larger than they need."""
    random = np.random.Generator(np.random.PCG64([seed, 31]))
    sides = (16, 20, 24, 28, 32, 36, 40, 48, 56, 64)
    wide, high = (int(random.choice(sides)) for _ in range(2))
    spacing, margin, columns, rows = (int(random.integers(*span)) for span in ((2, 9), (0, 13), (4, 10), (3, 8)))
    size = [2 * margin + count * (side + spacing) - spacing for count, side in ((columns, wide), (rows, high))]
    sheet = Image.new("RGBA", (size[0] + int(random.integers(0, 25)), size[1] + int(random.integers(0, 25))))
    name = str(random.choice(["hexagon", "round", "diamond"]))
    x, y = wide - 1, high - 1
    corners = {
        "hexagon": [(wide / 2, 0), (x, y / 4), (x, 3 * y / 4), (wide / 2, y), (0, 3 * y / 4), (0, y / 4)],
        "diamond": [(wide / 2, 0), (x, high / 2), (wide / 2, y), (0, high / 2)],
    }
    for row in range(rows):
        for column in range(columns):
            tile = Image.new("RGBA", (wide, high))
            draw, colour = ImageDraw.Draw(tile), (*random.integers(30, 230, 3).tolist(), 255)
            draw.ellipse([0, 0, x, y], fill=colour) if name == "round" else draw.polygon(corners[name], fill=colour)
            for spot in random.integers((wide // 4, high // 4), (3 * wide // 4, 3 * high // 4), (8, 2)).tolist():
                draw.point(spot, fill=(20, 20, 20, 255))
            sheet.paste(tile, (margin + column * (wide + spacing), margin + row * (high + spacing)))
    return np.array(sheet), (wide, high, margin, margin, spacing, spacing), f"shapes {name} {wide}x{high}"


def wide_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """Tiles or things that lie farther apart than gutters are wide, on clear ground or a key colour."""
    random = np.random.Generator(np.random.PCG64([seed, 4711]))
    width = int(random.choice(SIDES))
    height = width if random.random() < 0.6 else int(random.choice(SIDES))
    spacing, columns, rows = int(random.choice((9, 10, 12, 14, 16, 20, 24, 32))), *random.integers((4, 2), (12, 8))
    margin, kind = (
        int(random.choice((0, 0, spacing, spacing // 2, 3))),
        str(random.choice(("terrain", "things", "lines", "blobs"))),
    )
    size = [2 * margin + int(count) * (side + spacing) - spacing for count, side in ((rows, height), (columns, width))]
    sheet = np.zeros((*size, 4), np.uint8)
    if random.random() < 0.4:
        sheet[:] = *random.integers(0, 256, 3), 255
    for row in range(rows):
        for column in range(columns):
            spot = sheet[margin + row * (height + spacing) :, margin + column * (width + spacing) :][:height, :width]
            art = art_of(kind, random, width, height)
            spot[:] = np.where(art[..., 3:] > 0, art, spot)
    says = f"wide {kind} {width}x{height} m{margin} s{spacing} {columns}x{rows}"
    return sheet, (width, height, margin, margin, spacing, spacing), says


def flat_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """Things of one plain colour that stand side by side, each of its own size, on clear ground or a key colour."""
    random = np.random.Generator(np.random.PCG64([seed, 77]))
    wide = int(random.choice(SIDES))
    high = wide if random.random() < 0.5 else int(random.choice(SIDES))
    spacing, columns, rows = int(random.choice((0, 0, 1, 2, 3, 4, 6))), *random.integers((3, 2), (9, 6)).tolist()
    margin = int(random.choice((0, 0, spacing, 2, 5)))
    size = [2 * margin + count * (side + spacing) - spacing for count, side in ((columns, wide), (rows, high))]
    key = (*random.integers(0, 256, 3).tolist(), 255) if random.random() < 0.5 else (0, 0, 0, 0)
    sheet = Image.new("RGBA", (size[0], size[1]), key)
    draw, body = ImageDraw.Draw(sheet), tuple(random.integers(0, 256, 3).tolist())
    line, least = tuple(part // 2 for part in body), random.uniform(0.6, 0.9)
    for row, column in product(range(rows), range(columns)):
        left, top = margin + column * (wide + spacing), margin + row * (high + spacing)
        across, down = (max(4, int(side * random.uniform(least, 1))) for side in (wide, high))
        left, bottom = left + (wide - across) // 2, top + high - 1
        box = left, bottom - down + 1, left + across - 1, bottom
        form = int(random.integers(3))
        if form == 1:
            draw.ellipse(box, fill=body, outline=line)
            continue
        draw.rectangle((box[0], box[1] + down // 4 * (form // 2), *box[2:]), fill=body, outline=line)
        if form == 2:
            lid = tuple(random.integers(0, 256, 3).tolist())
            draw.ellipse((*box[:3], box[1] + down // 2), fill=lid)
    return np.array(sheet), (wide, high, margin, margin, spacing, spacing), f"flat {wide}x{high}"


def lossy(sheet: np.ndarray, seed: int) -> np.ndarray:
    """A sheet as it comes out of a format that keeps colours only nearly, as photographs are kept."""
    random = np.random.Generator(np.random.PCG64([seed, 5]))
    kept = io.BytesIO()
    opaque, quality = bool((sheet[..., 3] == 255).all()), int(random.integers(75, 96))
    if opaque and random.random() < 0.5:
        Image.fromarray(sheet[..., :3]).save(kept, "JPEG", quality=quality)
    else:
        Image.fromarray(sheet).save(kept, "WEBP", quality=quality)
    return np.asarray(Image.open(kept).convert("RGBA"))


def is_cut(cut: Truth, truth: Truth, sheet: np.ndarray) -> bool:
    """Whether a cut is the true one; one row or column of tiles does not tell what would lie between two."""
    alone = [
        side + margin + spacing + side > length
        for side, margin, spacing, length in zip(truth[:2], truth[2:4], truth[4:], sheet.shape[1::-1], strict=True)
    ]
    return cut[:4] == truth[:4] and all(
        one or got == meant for one, got, meant in zip(alone, cut[4:], truth[4:], strict=True)
    )


MAKERS = {
    "kind": make_case, "unkind": unkind_case, "headed": headed_case, "shapes": shape_case, "wide": wide_case,
    "flat": flat_case, "small": small_case, "platforms": platform_case,
    "rooms": room_case,
}  # fmt: skip


def main() -> None:
    """Prints the shares of exact guesses, by kind."""
    numbers = [argument for argument in sys.argv[1:] if argument.isdigit()]
    count, show = int(numbers[0]) if numbers else 300, "--show" in sys.argv
    first_seed = int(numbers[1]) if len(numbers) > 1 else 0
    make = next((make for name, make in MAKERS.items() if f"--{name}" in sys.argv), any_case)
    ground = next((name for name in GROUNDS if f"--{name}" in sys.argv), None)
    found: dict[str, list[tuple[bool, bool, bool]]] = defaultdict(list)
    slowest = 0.0
    for seed in range(first_seed, first_seed + count):
        sheet, truth, says = make(seed)
        if ground is not None and (sheet[..., 3] == 0).any():
            sheet = on_ground(ground, sheet, seed)
        if "--lossy" in sys.argv:
            sheet = lossy(sheet, seed)
        began = time.perf_counter()
        guesses = look_over(sheet).guesses
        slowest = max(slowest, time.perf_counter() - began)
        cuts = [(g.tile_width, g.tile_height, g.margin_x, g.margin_y, g.spacing_x, g.spacing_y) for g in guesses]
        right = [is_cut(cut, truth, sheet) for cut in cuts]
        first, among = right[:1] == [True], any(right[:3])
        pitch = bool(cuts) and (cuts[0][0] + cuts[0][4], cuts[0][1] + cuts[0][5]) == (
            truth[0] + truth[4], truth[1] + truth[5],
        )  # fmt: skip
        for group in ("all", says.split()[0], says.split()[1], "spacing" if truth[4] else "no spacing"):
            found[group].append((first, among, pitch))
        if show and not first:
            print(seed, says, "->", cuts[0] if cuts else None, f"({right.index(True) if any(right) else '-'})")
    for group, results in sorted(found.items(), key=lambda item: -len(item[1])):
        first, among, pitch = (sum(r[n] for r in results) / len(results) for n in (0, 1, 2))
        print(f"{group:12} {len(results):5} sheets: first {first:4.0%}, among three {among:4.0%}, pitch {pitch:4.0%}")
    print(f"slowest {slowest:.2f} s")


if __name__ == "__main__":
    main()
