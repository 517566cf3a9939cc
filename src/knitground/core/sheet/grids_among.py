"""Blocks of whole tiles among loose pieces: groups that lie off the grid of all others, as below titles of their own.

A piece that is exactly as large as the tiles of a grid and lies exactly as far from the next as these do is a tile.
"""

from collections.abc import Sequence
from dataclasses import replace
from functools import reduce

from knitground.core.sheet.cut import Cut, Rect

_FEWEST = 2
"""How few pieces are a grid of their own."""


def with_grids_among(parts: Sequence[Cut]) -> list[Cut]:
    """The parts of a sheet, with what lies among their loose pieces as the tiles of one of their grids do as a grid.

    Parameters
    ----------
    parts : sequence of Cut
        Each with a region.
    """
    grids = [part for part in parts if not part.pieces and part.shape == "square"]
    found, rest = [part for part in parts if not part.pieces], list[Cut]()
    for loose in (part for part in parts if part.pieces):
        more, left = _parted(loose, grids)
        found += more
        rest += left
    return sorted(found, key=lambda cut: (cut.region.y, cut.region.x) if cut.region else (0, 0)) + rest


def _parted(loose: Cut, grids: Sequence[Cut]) -> tuple[list[Cut], list[Cut]]:
    """The grids among some pieces, and what is left of these."""
    found, pieces = list[Cut](), list(loose.pieces)
    for like in grids:
        for block in _blocks(pieces, like):
            region = reduce(Rect.with_other, block)
            others = [one for one in pieces if one not in block]
            if not any(region.touches(one) for one in others):
                pieces = others
                found.append(replace(like, margin_x=0, margin_y=0, region=region, left_out=(), taken_in=()))
    if not found or not pieces:
        return found, [] if found else [loose]
    left = reduce(Rect.with_other, pieces)
    # Who looks for the pieces anew must not come upon those tiles.
    if any(left.touches(one.region) for one in found if one.region):
        return [], [loose]
    return found, [replace(loose, region=left, pieces=tuple(pieces))]


def _blocks(pieces: Sequence[Rect], like: Cut) -> list[set[Rect]]:
    """Pieces as large as the tiles of a grid, together with those that lie next to them as in that."""
    left = {one for one in pieces if (one.width, one.height) == (like.tile_width, like.tile_height)}
    steps = [(like.pitch_x, 0), (-like.pitch_x, 0), (0, like.pitch_y), (0, -like.pitch_y)]
    blocks = []
    while left:
        block, ahead = set[Rect](), [left.pop()]
        while ahead:
            one = ahead.pop()
            block.add(one)
            beside = {one._replace(x=one.x + x, y=one.y + y) for x, y in steps} & left
            left -= beside
            ahead += beside
        if len(block) >= _FEWEST:
            blocks.append(block)
    return sorted(blocks, key=min)
