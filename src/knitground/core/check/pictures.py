"""Pictures that are not what they seem: clear only to the eye, or resized so that no cut sits on all their tiles."""

from collections.abc import Iterator
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.sheet.checkered import checker_on
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.resized import resized

_CLEAR = "“Clear checker” on the sheet’s card makes it transparent, and takes it out of soft edges."


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    picture = facts.picture(sheet)
    if checker_on(picture) is not None:
        says = f"{sheet.id}: a checker is drawn in where it should be clear, and shows on the ground"
        yield Finding("checker drawn in", "sheet", says, sheet.id, mend=_CLEAR)
    apart = resized(picture, sheet.cuts)
    if apart is not None:
        wide, high = apart.whole(picture.shape[1], picture.shape[0])
        mend = f"Take it at its own size, or scale it to {wide} x {high} pixels, where they repeat at whole ones."
        yield Finding("resized", "sheet", f"{sheet.id}: {apart.says}", sheet.id, mend=mend)


def _about(facts: Facts) -> list[Sheet]:
    return [sheet for sheet in facts.sheets if not (sheet.images or sheet.made)]


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.picture(sheet)


CHECK = DefinitionCheck("pictures", _about, _depends, lambda *of: tuple(_find(*of)), at_once=False)
