"""How tiles stand on cells of another size than theirs: by an anchor and an offset, set for several cuts at once.

The images of a collection each have a cut of their own, so each may stand in its own way.
"""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grid import Outline
from knitground.core.ground.ground import by_id
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, replaced
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.cut import LARGEST_TILE, OUTLINES, Cut
from knitground.core.sheet.footing import Foot, Footing
from knitground.core.sheet.picture import Sheet
from knitground.core.tiles.tile import TileRef

_OPAQUE = 96
_FOOT = 0.12
"""How much of a tile's height counts as its foot."""
_LIFTED = 1 / 3
"""How far up by its height what lies beside its foot begins, as what is carried by wheels does."""
_NARROW = 0.9
"""What is less wide than this share of a cell with slanted sides, as far up as that reaches, stands in it."""


def cuts_of(document: Document, refs: Iterable[TileRef]) -> list[tuple[str, str]]:
    """The sheets and cuts of tiles, each once, as far as there are any."""
    known = document.project.cuts
    return list(dict.fromkeys((ref.sheet, ref.cut) for ref in refs if (ref.sheet, ref.cut) in known))


def stand(document: Document, cuts: Sequence[tuple[str, str]], **changes: Any) -> None:
    """Changes how all tiles of some cuts stand (`anchor`, `offset_x`, `offset_y`, `shape`), as one step."""
    if "shape" in changes:
        changes = {"foot": None, **changes}
    _put(document, {one: replace(document.project.cuts[one], **changes) for one in cuts})


def move_standing(document: Document, cuts: Sequence[tuple[str, str]], across: int, down: int) -> None:
    """Moves the tiles of some cuts on their cells by so many pixels, as one step."""

    def moved(cut: Cut) -> Cut:
        return replace(cut, offset_x=_held(cut.offset_x + across), offset_y=_held(cut.offset_y + down))

    _put(document, {one: moved(document.project.cuts[one]) for one in cuts})


def stand_by_foot(derived: Derived, refs: Sequence[TileRef], cell: tuple[int, int], outline: Outline) -> None:
    """Lets tiles stand with their foot where a figure would stand in a cell, as one step.

    Parameters
    ----------
    derived : Derived
    refs : sequence of TileRef
        Where several tiles share a cut, the middle of what would suit each of them is taken.
    cell : (int, int)
        Width and height in pixels.
    outline : Outline
        Of the cell.

    Raises
    ------
    BadRequest
        If no tile shows anything.
    """
    suiting: dict[tuple[str, str], list[tuple[int, int]]] = {}
    for ref in refs:
        tile = derived.tile(ref)
        found = None if tile is None else by_foot(tile, cell, outline)
        if found is not None:
            suiting.setdefault((ref.sheet, ref.cut), []).append(found)
    if not suiting:
        raise BadRequest("None of these tiles shows anything to stand on; choose others.")
    cuts = derived.document.project.cuts
    changed = {}
    for one, offsets in suiting.items():
        across, down = (int(np.median([offset[axis] for offset in offsets])) for axis in (0, 1))
        changed[one] = replace(cuts[one], anchor="bottom", offset_x=_held(across), offset_y=_held(down))
    _put(derived.document, changed)


def standing_by_foot(sheet: Sheet, picture: Picture, how: Footing | None, but: Collection[str] = ()) -> Sheet:
    """A collection of images in which each stands where its foot belongs in a cell.

    Parameters
    ----------
    sheet : Sheet
        With a cut for each image.
    picture : Picture
    how : Footing, optional
        Of the images; without it all stay as they are.
    but : collection of str
        Cuts that stay as they are.
    """
    if how is None:
        return sheet
    cuts = []
    for cut, place, foot, corner in zip(sheet.cuts, picture.places, how.feet, how.corners, strict=True):
        if cut.id not in but:
            tile = picture.pixels[place.slices()]
            across, down = by_foot(tile, how.cell, OUTLINES[how.shape]) or (0, 0)
            if corner is not None:
                begins = (how.cell[0] - cut.tile_width) // 2
                across, down = round(how.cell[0] / 2 - corner[0] - begins), round(cut.tile_height - corner[1])
            cut = replace(_on_foot(cut, foot, how), offset_x=_held(across), offset_y=_held(down))
        cuts.append(cut)
    return replace(sheet, cuts=tuple(cuts))


def _on_foot(cut: Cut, foot: Foot | None, how: Footing) -> Cut:
    """A cut with the shape that a foot tells: of one cell, or of so many times its size."""
    if foot is None:
        return cut
    times = max(1, round(foot.width / how.cell[0]))
    changed, size = replace(cut, shape=how.shape), (times * how.cell[0], times * how.cell[1])
    return changed if changed.footprint == size else replace(changed, foot=size)


def by_foot(tile: Pixels, cell: tuple[int, int], outline: Outline) -> tuple[int, int] | None:
    """The offset, right and down, that puts the foot of a tile with a bottom anchor where it belongs in a cell.

    The foot is what is opaque in the lowest part of the art: its middle comes to the middle of the cell, its lowest
    row to the lower border of a square one. On a diamond or a hexagon what does not fill it stands half-way between its
    middle and its lower end, and what lies on the ground beside its lowest part, away from whoever looks, is foot too.

    Parameters
    ----------
    tile : (h, w, 4) uint8
    cell : (int, int)
        Width and height in pixels.
    outline : Outline

    Returns
    -------
    offset : (int, int) or None
        None where nothing of the tile is opaque.
    """
    solid = tile[..., 3] >= _OPAQUE
    rows = np.flatnonzero(solid.any(axis=1))
    if not rows.size:
        return None
    last = int(rows[-1])
    tall = last - int(rows[0]) + 1
    high = max(1, round(tall * _FOOT))
    foot = np.flatnonzero(solid[last - high + 1 : last + 1].any(axis=0))
    ends = (int(foot[0]), int(foot[-1]))
    if outline != "box":
        ends = _on_ground(solid, ends, last - min(round(tall * _LIFTED), cell[1] // 2), cell[1] / cell[0])
    middle = (ends[0] + ends[1] + 1) / 2
    down = tile.shape[0] - 1 - last
    standing = np.flatnonzero(solid[max(0, last + 1 - cell[1]) : last + 1].any(axis=0))
    if outline != "box" and int(np.ptp(standing)) + 1 < _NARROW * cell[0]:
        down -= cell[1] // 4
    # Anchors round down; half a pixel that is over goes to the right.
    begins = (cell[0] - tile.shape[1]) // 2
    return int((cell[0] / 2 - middle - begins + 0.5) // 1), down


def _on_ground(solid: NDArray[np.bool_], foot: tuple[int, int], above: int, slope: float) -> tuple[int, int]:
    """The first and last column of what lies on the ground, as that rises to both sides of a foot.

    Parameters
    ----------
    solid : (h, w) bool
    foot : (int, int)
        Its first and last column.
    above : int
        A row that what lies beside it reaches below.
    slope : float
        How steeply the sides of a cell rise.
    """
    lowest = np.where(solid.any(axis=0), solid.shape[0] - 1 - solid[::-1].argmax(axis=0), -1)
    columns = np.arange(solid.shape[1])
    away = np.maximum(foot[0] - columns, columns - foot[1]).clip(0)
    off = lowest <= above - slope * away
    before, after = np.flatnonzero(off[: foot[0]]), np.flatnonzero(off[foot[1] :])
    first = int(before[-1]) + 1 if before.size else 0
    return first, foot[1] + int(after[0]) - 1 if after.size else solid.shape[1] - 1


def _put(document: Document, changed: dict[tuple[str, str], Cut]) -> None:
    sheets = document.project.sheets
    for (sheet_id, _), cut in changed.items():
        sheet = by_id(sheets, sheet_id)
        sheets = replaced(sheets, replace(sheet, cuts=replaced(sheet.cuts, cut)))
    document.define("how tiles stand", replace(document.project, sheets=sheets))


def _held(offset: int) -> int:
    return min(max(offset, -LARGEST_TILE), LARGEST_TILE)
