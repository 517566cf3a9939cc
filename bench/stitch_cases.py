"""What laying by many stitches costs; run by `measure.py`."""

import statistics
from collections.abc import Callable

import numpy as np

from knitground.core.grid.plane import Plane
from knitground.core.grid.square import SquareBoard
from knitground.core.joins.sets import Terrain
from knitground.core.project.document import Document
from knitground.core.project.wool import ProjectWool
from knitground.core.stitches.charts import chart_of
from knitground.core.stitches.compiled import make_ready
from knitground.core.stitches.lay import sew
from knitground.core.stitches.rules import Piece, Stitch
from knitground.core.tiles.tile import TileRef
from making import one_course


def measure_stitches(
    best: Callable[[Callable[[], object], int], float], patches: Callable[[int, int, int], np.ndarray]
) -> None:
    """Laying 1024 x 1024 cells by many stitches against one take of a lookup table by an index array of that shape."""
    side = 1024
    lookup, board = np.arange(2304, dtype=np.int32), SquareBoard(side, side)
    for count, size, marks, goal in ((50, 3, 2, 25), (50, 3, 8, 25), (100, 5, 8, 150)):
        random = np.random.Generator(np.random.PCG64(count + marks))
        document = Document()
        stitches = [drawn_stitch(random, number, size, marks) for number in range(count)]
        terrains = tuple(Terrain(f"Mark {n}", "ABCDEFGH"[n], "#808080") for n in range(marks))
        ready = make_ready(one_course("bench", "Bench", terrains, *stitches), ProjectWool(document))
        index = random.integers(0, len(lookup), (side, side))
        for title, plan in (
            ("noise", random.integers(0, marks + 1, (side, side)).astype(np.uint8)),
            ("patches", patches(side, side, marks + 1) - 1),
        ):
            plane, ratios = Plane.of(plan), []
            for _ in range(7):
                take = best(lambda i=index: np.take(lookup, i), 3)
                ratios.append(best(lambda p=plane, r=ready: sew(
                    r, board, lambda area: board.read(p, area), {}, 1, board.whole
                ), 1) / take)  # fmt: skip
            print(
                f"stitch {side} x {side}, {count} of {size} x {size}, {marks} marks, {title}: "
                f"{statistics.median(ratios):.1f} x one take ({take * 1e3:.1f} ms); goal {goal}"
            )


def drawn_stitch(random: np.random.Generator, number: int, size: int, marks: int) -> Stitch:
    """A stitch with signs of all sorts in half of its cells."""
    words = random.choice(["V", "-", "0", "0/1", "!1", *map(str, range(1, marks + 1))], (size, size)).astype(object)
    words[random.random((size, size)) < 0.5] = "."
    words[size // 2, size // 2] = str(random.integers(1, marks + 1))
    return Stitch(f"s{number}", (chart_of(words.tolist()),), (Piece(TileRef("art", "tiles", number, 0)),))
