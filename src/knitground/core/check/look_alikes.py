"""Tiles that block, or do not, unlike all others that look like them: most often one was forgotten."""

from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray
from PIL import Image

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.errors import BadSheet
from knitground.core.layers.blocking import BlockRules
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.tiles.tile import TileRef

FORGOTTEN, STRAY = "solid art does not block", "blocks unlike its look-alikes"
_PARTS, _NEIGHBOURS, _AT_LEAST = 4, 5, 3
_ALIKE = 0.09
"""How far apart the parts of two tiles may be in colour and alpha, as a share of all there is, to look alike."""
_SOLID = 0.5
_MOST = 20_000


def odd_ones(
    sheet: Sheet, picture: NDArray[np.uint8], tiles: Mapping[TileRef, TileNotes], rules: BlockRules
) -> dict[TileRef, TileRef]:
    """Tiles of a sheet that block or not unlike all of the few that look most like them, and the nearest of these.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        Straight alpha.

    Returns
    -------
    odd : mapping of tile to tile
        Of those that do not block only such as are mostly solid.
    """
    # Where hardly anything blocks yet, nobody has forgotten anything, and nothing has to be looked at.
    if sum(ref.sheet == sheet.id and _blocks(notes, rules) for ref, notes in tiles.items()) < _AT_LEAST:
        return {}
    refs, looks = _looks(sheet, picture)
    blocks = np.array([_blocks(tiles.get(ref, PLAIN), rules) for ref in refs], dtype=bool)
    if len(refs) > _MOST or blocks.all() or blocks.sum() < _AT_LEAST:
        return {}
    found: Any = scipy.spatial.cKDTree(looks).query(looks, k=min(_NEIGHBOURS + 1, len(refs)))
    away, near = found
    odd = {}
    for number, ref in enumerate(refs):
        alike = near[number][(away[number] <= _ALIKE * looks.shape[1] ** 0.5) & (near[number] != number)]
        solid = looks[number].reshape(-1, 4)[:, 3].mean() >= _SOLID
        if len(alike) >= _AT_LEAST and (blocks[alike] != blocks[number]).all() and (solid or blocks[number]):
            odd[ref] = refs[int(alike[0])]
    return odd


def _looks(sheet: Sheet, picture: NDArray[np.uint8]) -> tuple[list[TileRef], NDArray[np.float32]]:
    """The tiles of a sheet, and of each the mean colours, premultiplied, and alphas of its parts: (N, 64) float32."""
    refs, looks = [], [np.zeros((0, _PARTS * _PARTS * 4), dtype=np.float32)]
    for cut in sheet.cuts:
        try:
            slices = Slices(picture, cut, sheet.parts_over(cut))
        except BadSheet:
            continue
        for column, row in slices.cells():
            pixels = slices.cell(column, row)
            # Pillow averages colours by their alpha.
            mean = Image.fromarray(pixels).resize((_PARTS, _PARTS), Image.Resampling.BOX)
            small: NDArray[np.float32] = np.asarray(mean).astype(np.float32) / np.float32(255)
            small[..., :3] *= small[..., 3:]
            refs.append(TileRef(sheet.id, cut.id, column, row))
            looks.append(small.reshape(1, -1))
    return refs, np.concatenate(looks)


def _blocks(notes: TileNotes, rules: BlockRules) -> bool:
    return notes.collision != "none" or not notes.walkable or rules.hold(notes)


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    odd = odd_ones(sheet, facts.picture(sheet), facts.tiles, facts.block_rules)
    forgotten = [ref for ref in odd if not _blocks(facts.tiles.get(ref, PLAIN), facts.block_rules)]
    stray = [ref for ref in odd if ref not in forgotten]
    for kind, some, says in (
        (FORGOTTEN, forgotten, ("is mostly solid and does not block, as all do that look like it",
                                "are mostly solid and do not block, as all do that look like them")),
        (STRAY, stray, ("blocks, and none does that looks like it", "block, and none does that looks like them")),
    ):  # fmt: skip
        if some:
            yield Finding(
                kind, "sheet", f"{sheet.id}: {many(len(some), 'tile', 'tiles')} {says[len(some) > 1]}", sheet.id,
                count=len(some), tiles=tuple(map(str, sorted(some))), mend="Say of them what blocks.",
            )  # fmt: skip


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.picture(sheet), facts.tiles, facts.block_rules


CHECK = DefinitionCheck(
    "look-alikes", lambda facts: facts.sheets, _depends, lambda *of: tuple(_find(*of)), at_once=False
)
