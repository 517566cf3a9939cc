"""Collections: single images of any size that are one tileset.

The images of a collection are put side by side into one picture, so that everything that works on sheets works on it.
Each has a cut of its own, under its name: a tile is known by the collection and the name of its image.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import PurePosixPath

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet, readable
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import LARGEST_TILE, Cut, Rect
from knitground.core.sheet.picture import LARGEST_SIDE, MOST_PIXELS, Sheet, decode_picture
from knitground.core.sheet.pieces import find_pieces, kept_in_place
from knitground.core.sheet.shelves import shelved

MOST_IMAGES = 2048
_APART = 2
_WIDE = 1.7
"""About as wide against its height as the place where sheets are seen."""


def image_name(file: str) -> str:
    """What an image of a collection is called: its file's name without the ending."""
    return PurePosixPath(file).stem


def collect(files: Mapping[str, bytes]) -> Picture:
    """The picture of a collection, its images in rows in the order of their files.

    Raises
    ------
    BadSheet
        If an image cannot be read, or all together are too many or too large.
    """
    return put_together(files, [single_image(data, name) for name, data in files.items()])


def single_image(data: bytes, name: str) -> NDArray[np.uint8]:
    """The (h, w, 4) uint8 pixels of one image of a collection; raises as `decode_picture`, or if it is no tile.

    Parameters
    ----------
    data : bytes
        The file.
    name : str
        What it is called where something is wrong.
    """
    image = decode_picture(data, name)
    if max(image.shape[:2]) > LARGEST_TILE:
        raise BadSheet(f"{readable(name)} is larger than {LARGEST_TILE} pixels; add it as a sheet instead.")
    return image


def put_together(files: Mapping[str, bytes], images: Sequence[NDArray[np.uint8]]) -> Picture:
    """The picture of a collection whose images are decoded; raises BadSheet if they are too many or too large.

    Parameters
    ----------
    files : mapping of str to bytes
        The image files by name.
    images : sequence of (h, w, 4) uint8
        The same in their order, RGBA, straight alpha.
    """
    if not 1 <= len(files) <= MOST_IMAGES:
        raise BadSheet(f"{len(files)} images are out of range for a collection; choose 1 to {MOST_IMAGES}.")
    sizes = [(image.shape[1], image.shape[0]) for image in images]
    places, (width, height) = shelved(sizes, apart=_APART, wide=_WIDE)
    if max(width, height) > LARGEST_SIDE or width * height > MOST_PIXELS:
        raise BadSheet("All images of this collection together are too large; make two collections of them.")
    pixels = np.zeros((height, width, 4), dtype=np.uint8)
    for image, place in zip(images, places, strict=True):
        pixels[place.slices()] = image
    return Picture(tuple(files.values()), pixels, tuple(places))


def laid_out(sheet: Sheet, picture: Picture) -> Sheet:
    """A sheet whose picture was drawn anew: cuts of images and loose pieces where those lie now, under their names."""
    if not sheet.images:
        return replace(sheet, cuts=tuple(_found_again(sheet, cut, picture) for cut in sheet.cuts))
    known = {cut.id: cut for cut in sheet.cuts}
    cuts = []
    for file, place in zip(sheet.images, picture.places, strict=True):
        name = image_name(file)
        cut = known.get(name) or Cut(name, place.width, place.height, anchor="bottom")
        cuts.append(replace(cut, tile_width=place.width, tile_height=place.height, region=place))
    return replace(sheet, cuts=tuple(cuts))


def _found_again(sheet: Sheet, cut: Cut, picture: Picture) -> Cut:
    """A cut of loose pieces with the pieces where they lie now, each under its number; a grid as it is."""
    if not cut.pieces:
        return cut
    try:
        found = loose_pieces(picture.cleared(sheet), cut)
        whole = loose_pieces(picture.cleared(sheet), cut, in_rows=False)
    except BadSheet:
        return cut  # nothing is left of them; what used them is told as fallen away
    return replace(cut, pieces=tuple(kept_in_place(cut.pieces, _as_before(cut.pieces, found, whole))))


def _as_before(before: Sequence[Rect], found: list[Rect], whole: Sequence[Rect]) -> list[Rect]:
    """Pieces that were found; what was one before, as icons in a block may be, stays one: it may be in use."""
    for one in set(whole).difference(found):
        if any(2 * _shared(one, old) > one.width * one.height for old in before):
            found = [*(piece for piece in found if one.with_other(piece) != one), one]
    return found


def _shared(one: Rect, other: Rect) -> int:
    """How many pixels two rectangles share."""
    wide = min(one.x + one.width, other.x + other.width) - max(one.x, other.x)
    high = min(one.y + one.height, other.y + other.height) - max(one.y, other.y)
    return max(wide, 0) * max(high, 0)


def loose_pieces(picture: NDArray[np.uint8], cut: Cut, *, in_rows: bool = True) -> list[Rect]:
    """The loose pieces on the part of a picture where a cut lies; raises as `find_pieces`.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet, straight alpha.
    cut : Cut
        Its region is looked at, with its `gap`.
    in_rows : bool
        Whether shapes in even rows stay apart, though they nearly touch.
    """
    if not cut.region:
        return find_pieces(picture, gap=cut.gap, in_rows=in_rows)
    x, y, width, height = cut.region
    found = find_pieces(np.ascontiguousarray(picture[y : y + height, x : x + width]), gap=cut.gap, in_rows=in_rows)
    return [piece._replace(x=piece.x + x, y=piece.y + y) for piece in found]
