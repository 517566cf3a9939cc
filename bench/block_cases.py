"""How often all blocks of a sheet are cut where each begins: sets of tiles of one size, apart by any number of pixels.

.venv/bin/python bench/block_cases.py [COUNT [FIRST]] [--pictures] [--show]

With `--pictures` each block is one picture, and it is counted how many sheets are left without any smaller tiles.
"""

import sys
from pathlib import Path
from typing import NamedTuple

import numpy as np
import scipy

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "demo"))

from PIL import Image

from art.terrains import TERRAINS, meeting
from infer_cases import texture
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.parts import look_over

_SIDES = (16, 16, 24, 32)


class Block(NamedTuple):
    """Where a block of 4 x 4 tiles begins, how wide these are, and how far apart."""

    x: int
    y: int
    side: int
    gap: int

    def is_in(self, cut: Cut) -> bool:
        """Whether a cut has just its tiles, or more of the same grid."""
        left, top = (cut.region.x, cut.region.y) if cut.region else (0, 0)
        if cut.region is not None:
            wide = 4 * (self.side + self.gap) - self.gap
            behind = left + cut.region.width - self.x, top + cut.region.height - self.y
            if left > self.x or top > self.y or min(behind) < wide - self.side:
                return False
        alike = (cut.tile_width, cut.tile_height, cut.spacing_x, cut.spacing_y) == (self.side,) * 2 + (self.gap,) * 2
        pitch = self.side + self.gap
        begins = (left + cut.margin_x - self.x) % pitch == 0 == (top + cut.margin_y - self.y) % pitch
        return not cut.pieces and alike and begins


def make_case(seed: int) -> tuple[np.ndarray, list[Block]]:
    """A sheet, (H, W, 4), and its blocks, side by side or one below the other."""
    random = np.random.Generator(np.random.PCG64([seed, 91]))
    side, gap, margin = int(random.choice(_SIDES)), int(random.choice((0, 0, 1, 2))), int(random.integers(0, 12))
    long = 4 * (side + gap) - gap
    apart = random.integers(6, 2 * side, random.integers(2, 4))
    sheet = np.zeros((long + 2 * margin, margin + int(apart.sum()) + len(apart) * long, 4), np.uint8)
    at, blocks = margin, []
    for room in apart.tolist():
        sheet[margin : margin + long, at : at + long] = _block(random, side, gap)
        blocks.append(Block(at, margin, side, gap))
        at += long + room
    if random.random() < 0.3:
        return np.ascontiguousarray(sheet.swapaxes(0, 1)), [one._replace(x=one.y, y=one.x) for one in blocks]
    return sheet, blocks


def _block(random: np.random.Generator, side: int, gap: int) -> np.ndarray:
    """All meetings of two terrains by the corners, in any order."""
    terrains = random.choice(len(TERRAINS), 2, replace=False)
    pitch = side + gap
    made = np.zeros((4 * pitch - gap, 4 * pitch - gap, 4), np.uint8)
    for place, number in enumerate(random.permutation(16).tolist()):
        row, column = divmod(place, 4)
        corners = tuple(TERRAINS[terrains[number >> corner & 1]] for corner in range(4))
        tile = Image.fromarray(np.ascontiguousarray(meeting(corners))).resize((side, side), Image.Resampling.NEAREST)
        made[row * pitch : row * pitch + side, column * pitch : column * pitch + side] = np.asarray(tile)
    return made


def _picture(random: np.random.Generator, side: int) -> np.ndarray:
    """One picture of anything: a grain, shapes or a badge on it, a frame round it, soft colours; no tiles."""
    kind, (y, x) = random.integers(5), np.mgrid[:side, :side]
    art = texture(random, side, 1)[0].copy()
    if kind == 1:
        for _ in range(random.integers(2, 7)):
            at, size = random.integers(0, side, 2), random.integers(4, side // 2, 2)
            art[np.hypot((y - at[0]) / size[0], (x - at[1]) / size[1]) < 1] = random.integers(0, 255, 3)
    elif kind == 2:
        soft = scipy.ndimage.gaussian_filter(random.normal(0, 1, art.shape), (side / 8, side / 8, 0))
        art = np.rint((128 + soft / np.abs(soft).max() * 120) / 24) * 24
    elif kind == 3:
        frame = int(random.integers(2, 6))
        art[np.minimum(np.minimum(x, y), side - 1 - np.maximum(x, y)) < frame] = random.integers(0, 255, 3)
        art[np.hypot(y - side / 2, x - side / 2) < side / 3] = random.integers(0, 255, 3)
    elif kind == 4:
        art = np.tile(texture(random, side // 2, 1)[0], (2, 2, 1))
        badge = np.abs(y - side / 2) + np.abs(x - side / 2) < side / 2.5
        art[badge] = texture(random, side, 1)[0][badge]
    return np.dstack([np.clip(art, 0, 255), np.full((side, side), 255)]).astype(np.uint8)


def make_pictures(seed: int) -> tuple[np.ndarray, int]:
    """A sheet of pictures of one size, apart evenly or not, and their size."""
    random = np.random.Generator(np.random.PCG64([seed, 77]))
    side, gap, margin = int(random.choice([32, 48, 64, 64, 96])), int(random.integers(4, 30)), int(random.integers(12))
    down, across = int(random.integers(1, 4)), int(random.integers(2, 5))
    rooms = random.integers(4, 30, across) if random.random() < 0.4 else np.full(across, gap)
    places = margin + np.cumsum(side + rooms) - side - rooms[0]
    sheet = np.zeros((2 * margin + down * (side + gap) - gap, int(places[-1]) + side + margin, 4), np.uint8)
    for row in range(down):
        for x in places.tolist():
            sheet[margin + row * (side + gap) :][:side, x : x + side] = _picture(random, side)
    return sheet, side


def is_left_whole(seed: int) -> bool:
    """Whether no picture of a sheet is cut into tiles."""
    sheet, side = make_pictures(seed)
    guesses, parts = look_over(sheet)
    return all(cut.pieces or cut.tile_width >= side for cut in parts or [one.as_cut("") for one in guesses[:1]])


def main() -> None:
    """Prints how many are right."""
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    if "--pictures" in sys.argv:
        cut = [seed for seed in range(first, first + count) if not is_left_whole(seed)]
        print(f"{count - len(cut)} of {count} sheets of pictures left whole", cut if "--show" in sys.argv else "")
        return
    whole = right = every = 0
    for seed in range(first, first + count):
        sheet, blocks = make_case(seed)
        guesses, parts = look_over(sheet)
        cuts = parts or [one.as_cut("") for one in guesses[:1]]
        found = [any(block.is_in(cut) for cut in cuts) for block in blocks]
        whole, right, every = whole + all(found), right + sum(found), every + len(found)
        if "--show" in sys.argv and not all(found):
            print(seed, blocks, [(cut.region, cut.tile_width, cut.tile_height, len(cut.pieces)) for cut in cuts])
    print(f"{whole} of {count} sheets with all blocks right; {right} of {every} blocks")


if __name__ == "__main__":
    main()
