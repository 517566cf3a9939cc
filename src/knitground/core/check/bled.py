"""Tiles into whose edges the colour between them runs, so that a line shows wherever two of them meet."""

from collections.abc import Iterator
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.errors import BadSheet
from knitground.core.sheet.bled import bled, colours_between
from knitground.core.sheet.colour import hex_of
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef

KIND = "runs into edges"
_MEND = "Save the sheet again at its own size and without loss, or repeat the edges of its tiles round them."


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    for cut in sheet.cuts:
        facts.pulse()
        try:
            slices = Slices(facts.picture(sheet), cut, sheet.parts_over(cut))
        except BadSheet:
            continue
        for colour in colours_between(slices, sheet.keys):
            found = bled(slices, colour)
            if found:
                tiles = [TileRef(sheet.id, cut.id, column, row) for column, row in found]
                yield Finding(
                    KIND, "sheet",
                    f"{sheet.id}: {hex_of(colour)}, which lies between tiles, runs into their edges, so that lines "
                    "show where they meet",
                    sheet.id, count=len(tiles), tiles=tuple(map(str, tiles)), mend=_MEND,
                )  # fmt: skip
                break


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.picture(sheet)


CHECK = DefinitionCheck("bled", lambda facts: facts.sheets, _depends, lambda *of: tuple(_find(*of)), at_once=False)
