"""Cuts that do not fit their picture, or leave art over."""

from collections.abc import Iterator
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.errors import BadSheet
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices, left_over

_MEND = "Drag the round handles on the sheet until the grid sits on the art."
_PART = "Drag the round handles until the grid sits on the art; “+ Part” is for what lies in no grid or in another."


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    for cut in sheet.cuts:
        try:
            slices = Slices(facts.picture(sheet), cut, sheet.parts_over(cut))
        except BadSheet as problem:
            yield Finding("bad cut", "sheet", f"{sheet.id}: {problem}", sheet.id, mend=_MEND)
            continue
        over = left_over(slices)
        if any(over):
            yield Finding("left over", "sheet", f"{sheet.id}: {over} belong to no tile", sheet.id, mend=_PART)


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.picture(sheet)


CHECK = DefinitionCheck("sheets", lambda facts: facts.sheets, _depends, lambda *of: tuple(_find(*of)))
