"""Turned forms of tiles: where a block is turned, tiles that were drawn for that way stand for turned ones."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.sets import Labels, finished
from knitground.core.joins.turning import turned_labels
from knitground.core.project.derived import Derived
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef, orient


class TurnedForms:
    """Knows which tiles show others of a project turned: by their labels in a join set, else by their pixels."""

    def __init__(self, derived: Derived) -> None:
        self._palette, self._slices = derived.document.palette, derived.sliced()
        self._sets = [(one, finished(one)) for one in derived.document.project.join_sets]
        self._by_pixels: dict[tuple[str, str], dict[bytes, TileRef]] = {}

    def exchanged(self, codes: NDArray[np.int32]) -> NDArray[np.int32]:
        """Codes of cells, those of turned tiles exchanged for the tiles that were drawn like that, where there are any.

        Parameters
        ----------
        codes : (H, W) int32
            What is not above 0 stays.

        Returns
        -------
        codes : (H, W) int32
        """
        different, which = np.unique(codes, return_inverse=True)
        forms = np.array([self._form(code) for code in different.tolist()], dtype=np.int32)
        return forms[which.reshape(codes.shape)]

    def _form(self, code: int) -> int:
        orientation = code >> ORIENTATION_SHIFT & 7
        if code <= 0 or not orientation:
            return code
        ref = self._palette.ref(code & NUMBER_MASK)
        found = self._labelled(ref, orientation) or self._drawn(ref, orientation)
        return code if found is None else self._palette.code(found)

    def _labelled(self, ref: TileRef, orientation: int) -> TileRef | None:
        for join_set, labels in self._sets:
            if ref in labels:
                wanted = turned_labels(labels[ref], join_set.kind, orientation)
                alike, forms = self._with(labels, labels[ref]), self._with(labels, wanted)
                # Of several variants each keeps a form of its own.
                return forms[alike.index(ref) % len(forms)] if forms and ref in alike else None
        return None

    def _with(self, labels: dict[TileRef, Labels], wanted: Labels) -> list[TileRef]:
        return [ref for ref, row in labels.items() if row == wanted and self._pixels(ref) is not None]

    def _drawn(self, ref: TileRef, orientation: int) -> TileRef | None:
        pixels = self._pixels(ref)
        if pixels is None:
            return None
        wanted = orient(pixels, orientation)
        if np.array_equal(wanted, pixels):
            return ref
        key = ref.sheet, ref.cut
        if key not in self._by_pixels:
            self._by_pixels[key] = _by_pixels(*key, self._slices[key])
        return self._by_pixels[key].get(_told(wanted))

    def _pixels(self, ref: TileRef) -> NDArray[np.uint8] | None:
        slices = self._slices.get((ref.sheet, ref.cut))
        return None if slices is None else slices.tile(ref.column, ref.row)


def _by_pixels(sheet: str, cut: str, slices: Slices) -> dict[bytes, TileRef]:
    found: dict[bytes, TileRef] = {}
    for column, row in slices.cells():
        pixels = slices.tile(column, row)
        if pixels is not None:
            found.setdefault(_told(pixels), TileRef(sheet, cut, column, row))
    return found


def _told(pixels: NDArray[np.uint8]) -> bytes:
    return b"%d " % pixels.shape[1] + pixels.tobytes()
