"""Cuts that do not fit their picture, or leave art over, and pictures that only seem to be clear."""

from collections.abc import Iterator
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.errors import BadSheet
from knitground.core.sheet.checkered import checker_on
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.resized import resized
from knitground.core.sheet.slices import Slices, left_over

_MEND = "Drag the round handles on the sheet until the grid sits on the art."
_PART = "Drag the round handles until the grid sits on the art; “+ Part” is for what lies in no grid or in another."


_CLEAR = "“Clear checker” on the sheet’s card makes it transparent, and takes it out of soft edges."


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    if checker_on(facts.picture(sheet)) is not None:
        says = f"{sheet.id}: a checker is drawn in where it should be clear, and shows on the ground"
        yield Finding("checker drawn in", "sheet", says, sheet.id, mend=_CLEAR)
    apart = None if sheet.images or sheet.made else resized(facts.picture(sheet), sheet.cuts)
    if apart is not None:
        wide, high = apart.whole(facts.picture(sheet).shape[1], facts.picture(sheet).shape[0])
        mend = f"Take it at its own size, or scale it to {wide} x {high} pixels, where they repeat at whole ones."
        yield Finding("resized", "sheet", f"{sheet.id}: {apart.says}", sheet.id, mend=mend)
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
