"""Loose pieces: separate shapes on a sheet, each a tile of its own size."""

from collections.abc import Sequence

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.bared import bared
from knitground.core.sheet.cut import LARGEST_TILE, MOST_PIECES, Rect
from knitground.core.sheet.even_rows import in_even_rows
from knitground.core.sheet.profile import art_of

GAP = 1
"""How many clear pixels may lie between the parts of one thing, if nothing else is asked for."""
_SMALLEST = 2
_IN_A_ROW = 0.5


def find_pieces(picture: NDArray[np.uint8], *, gap: int = 0, in_rows: bool = True) -> list[Rect]:
    """Rectangles round the separate shapes of a picture, in reading order.

    Shapes are connected components of the pixels that can be seen, or of those that stand out from the ground where
    nothing is clear, diagonal neighbours included. Specks of fewer than two pixels a side are none.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    gap : int
        Parts that lie up to so many clear pixels apart belong together.
    in_rows : bool
        Whether with `GAP`, the usual, those that lie in even rows stay apart all the same.

    Raises
    ------
    BadSheet
        If nothing can be seen, a shape is too large for a tile, or there are too many.

    References
    ----------
    Dilation by a square before labelling, as for closing gaps in P. Soille, "Morphological Image Analysis" (2003).
    """
    picture = bared(picture)
    seen = picture[..., 3] > 0
    # Where nothing is clear, shapes may lie on a key colour that has not been named yet.
    return find_shapes(art_of(picture.astype(np.int16)) if seen.all() else seen, gap=gap, in_rows=in_rows)


def find_shapes(seen: NDArray[np.bool_], *, gap: int = 0, in_rows: bool = True) -> list[Rect]:
    """The same, of what can be seen.

    Parameters
    ----------
    seen : (H, W) bool
        Which pixels are of shapes.
    gap : int
        Parts that are no further apart than so many pixels are one shape.
    in_rows : bool
        As for those.
    """
    # A window of `gap + 1` pixels to the left and above makes parts touch that are no further apart than the gap.
    joined = (
        scipy.ndimage.maximum_filter(seen, size=gap + 1, origin=-((gap + 1) // 2), mode="constant") if gap else seen
    )
    labels, count = scipy.ndimage.label(joined, structure=np.ones((3, 3)))
    if not count:
        raise BadSheet("Nothing on this sheet can be seen; name its key colour, or choose another picture.")
    if count > 4 * MOST_PIECES:
        raise BadSheet(f"{count} shapes are too many; raise the gap, or name the key colour of this sheet.")
    found: list[Rect] = []
    for number, slices in enumerate(scipy.ndimage.find_objects(np.where(seen, labels, 0), max_label=count), 1):
        if slices is not None:
            rows, columns = slices
            whole = Rect(columns.start, rows.start, columns.stop - columns.start, rows.stop - rows.start)
            wide, high = whole.width, whole.height
            if max(wide, high) > LARGEST_TILE:
                raise BadSheet(f"A shape of {wide} x {high} pixels is too large for a tile; name the key colour first.")
            if max(wide, high) >= _SMALLEST:
                apart = in_even_rows(seen[slices] & (labels[slices] == number)) if in_rows and gap == GAP else []
                found += [one._replace(x=one.x + whole.x, y=one.y + whole.y) for one in apart] or [whole]
    if not found or len(found) > MOST_PIECES:
        raise BadSheet(f"{len(found)} shapes were found, and 1 to {MOST_PIECES} can be tiles; change the gap.")
    return _in_reading_order(found)


def kept_in_place(before: Sequence[Rect], found: Sequence[Rect]) -> list[Rect]:
    """Pieces found anew, in the order of those before, so that every tile keeps its number.

    Each piece takes the number of the one before that it overlaps most; numbers whose piece is gone keep their place
    on the picture, and new pieces come behind.
    """
    # Slow to import, and seldom needed.
    from scipy.optimize import linear_sum_assignment

    if not before:
        return list(found)
    old, new = (np.array(rects, dtype=np.int64).reshape(-1, 4) for rects in (before, found))
    low = np.maximum(old[:, None, :2], new[None, :, :2])
    high = np.minimum(old[:, None, :2] + old[:, None, 2:], new[None, :, :2] + new[None, :, 2:])
    shared = np.prod(np.maximum(high - low, 0), axis=2)
    matched = {
        int(one): int(other)
        for one, other in zip(*linear_sum_assignment(-shared), strict=True)
        if shared[one, other]
    }  # fmt: skip
    kept = [found[matched[number]] if number in matched else rect for number, rect in enumerate(before)]
    return kept + [rect for number, rect in enumerate(found) if number not in matched.values()]


def _in_reading_order(rects: list[Rect]) -> list[Rect]:
    """Rectangles line by line: those that overlap by half of their height lie in one line."""
    lines: list[list[Rect]] = []
    for rect in sorted(rects, key=lambda one: one.y + one.height / 2):
        line = lines[-1] if lines else []
        low = max((one.y for one in line), default=0)
        high = min((one.y + one.height for one in line), default=0)
        shared = min(high, rect.y + rect.height) - max(low, rect.y)
        if line and shared >= _IN_A_ROW * min(rect.height, high - low):
            line.append(rect)
        else:
            lines.append([rect])
    return [rect for line in lines for rect in sorted(line)]
