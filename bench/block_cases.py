"""How often all blocks of a sheet are cut where each begins: sets of tiles of one size, apart by any number of pixels.

.venv/bin/python bench/block_cases.py [COUNT [FIRST]] [--show]
"""

import sys
from pathlib import Path
from typing import NamedTuple

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "demo"))

from PIL import Image

from art.terrains import TERRAINS, meeting
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


def main() -> None:
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
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
