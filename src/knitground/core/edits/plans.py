"""Plans as CSV: marks by their letters, laid by a stitch set without a ground of their own."""

import csv
import io

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest, readable
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import LARGEST_GROUND, Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.layer import Place
from knitground.core.layers.stitched import PLAN, StitchedLayer
from knitground.core.project.derived import Derived
from knitground.core.project.model import Palette
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT

_LAYER = "plan"


def read_plan(text: str, stitch_set: StitchSet) -> NDArray[np.uint8]:
    """The marks of a plan that is written as CSV: a line for each row, the letter of a mark or nothing for each cell.

    Parameters
    ----------
    text : str
    stitch_set : StitchSet
        Whose marks the letters are.

    Returns
    -------
    plan : (H, W) uint8
        Numbers of marks from 1, 0 for none.

    Raises
    ------
    BadRequest
        If it is no such file, or a letter is no mark's.
    """
    try:
        # Of a plan one cell wide an empty cell is an empty line.
        lines = [line or [""] for line in csv.reader(io.StringIO(text), strict=True)]
    except csv.Error as problem:
        raise BadRequest(f"The plan is no CSV ({problem}); write a line for each row, with commas between.") from None
    if not lines:
        raise BadRequest("The plan is empty; write a line for each row, with commas between the cells.")
    if len({len(line) for line in lines}) != 1:
        raise BadRequest("All rows of a plan need as many cells; write a comma for each border between two cells.")
    if max(len(lines), len(lines[0])) > LARGEST_GROUND:
        raise BadRequest(f"The plan is {len(lines[0])} x {len(lines)} cells; {LARGEST_GROUND} on a side are the most.")
    numbers = {mark.letter: number for number, mark in enumerate(stitch_set.marks, start=1)} | {"": 0}
    words = sorted({word.strip() for line in lines for word in line} - numbers.keys())
    if words:
        known = ", ".join(f"{mark.letter} for {mark.name}" for mark in stitch_set.marks)
        raise BadRequest(f"“{readable(words[0])}” is no mark of “{stitch_set.name}”; it has {known}.")
    return np.array([[numbers[word.strip()] for word in line] for line in lines], dtype=np.uint8)


def planned(derived: Derived, stitch_set: StitchSet, plan: NDArray[np.uint8], seed: int | None = None) -> Knitted:
    """A bare square ground with nothing but a plan, laid by a set.

    Parameters
    ----------
    plan : (H, W) uint8
    seed : int, optional
        The project's, if not given.
    """
    height, width = plan.shape
    layer = StitchedLayer(_LAYER, stitch_set.name, stitch_set.id)
    ground = Ground(_LAYER, stitch_set.name, width, height, 1, 1, (layer,))
    planes = {_LAYER: {PLAN: Plane.of(plan)}}
    chosen = derived.document.project.seed if seed is None else seed
    return Knitted(ground, planes, {_LAYER: layer.table(derived)}, chosen)


def part_of(stitch_set: StitchSet, name: str) -> int:
    """The number of a part of a set, from 1; 0 for the stitched layer itself. Raises BadRequest for an unknown one."""
    if name and name not in stitch_set.parts:
        known = ", ".join(f"“{part}”" for part in stitch_set.parts) or "none"
        raise BadRequest(f"“{readable(name)}” is no part of “{stitch_set.name}”; it has {known}.")
    return stitch_set.parts.index(name) + 1 if name else 0


def tiles_as_rows(knitted: Knitted, palette: Palette, part: int = 0) -> str:
    """The tiles that a plan lays as CSV (RFC 4180): `sheet/cut/column,row`, with `@N` where one is turned.

    Parameters
    ----------
    part : int
        0 for the stitched layer itself, else the number of a part of the set.
    """
    laid = knitted.laid(_LAYER, knitted.ground.board.whole)
    codes = np.maximum(laid.codes if not part or laid.more is None else laid.more[part - 1], 0)

    def word(code: int) -> str:
        if not code:
            return ""
        ref, orientation = palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
        name = f"{ref.sheet}/{ref.cut}/{ref.column},{ref.row}"
        return f"{name}@{orientation}" if orientation else name

    words = {code: word(code) for code in np.unique(codes).tolist()}
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([[words[code] for code in row] for row in codes.tolist()])
    return out.getvalue()


def why_planned(derived: Derived, knitted: Knitted, row: int, column: int) -> str:
    """A sentence about the tile of a cell of a plan; raises BadRequest beside the plan."""
    ground = knitted.ground
    if not ground.board.whole.holds(row, column):
        raise BadRequest(f"There is no cell {row},{column}; the plan has {ground.height} rows of {ground.width}.")
    code = int(knitted.codes(_LAYER, ground.board.whole)[row, column])
    place = Place(ground.board, knitted.planes[_LAYER], knitted.tables[_LAYER], row, column, code, knitted.seed)
    return ground.layer(_LAYER).why(place, derived)
