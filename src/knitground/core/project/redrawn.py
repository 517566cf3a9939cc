"""Pictures that were drawn anew outside: each moment of the history that showed the old drawing shows the new one."""

from dataclasses import replace
from typing import Any

from knitground.core.project.collecting import laid_out
from knitground.core.project.delta import Delta, FieldChange
from knitground.core.project.model import Picture, State


def renewed(state: State, sheet_id: str, before: Picture | None, picture: Picture) -> State:
    """A state with a sheet's picture exchanged for a newer drawing, if it is the one that was drawn anew."""
    if state.pictures.get(sheet_id) is not before:
        return state
    sheets = tuple(laid_out(one, picture) if one.id == sheet_id else one for one in state.project.sheets)
    return state._replace(project=replace(state.project, sheets=sheets), pictures={**state.pictures, sheet_id: picture})


def redrawn_delta(
    delta: Delta, sheet_id: str, before: Picture | None, picture: Picture, shows: bool, past: bool
) -> tuple[Delta, bool]:
    """A delta whose moments show the newer drawing wherever they showed the older one.

    `shows` says whether the moment on the side nearer to now showed it; the same is returned for the other side.
    """
    pictures = {name: (old, new) for name, old, new in delta.pictures}
    old, new = pictures.get(sheet_id, (before, before))
    near, far = (new, old) if past else (old, new)
    showed = shows and near is before, shows and far is before

    def anew(one: Any, shown: bool) -> Any:
        return laid_out(one, picture) if one is not None and shown else one

    if sheet_id in pictures:
        pictures[sheet_id] = picture if old is before else old, picture if new is before else new
    first, last = (showed[1], showed[0]) if past else showed
    changes = tuple(
        FieldChange(
            change.field,
            tuple((k, anew(a, first), anew(b, last)) if k == sheet_id else (k, a, b) for k, a, b in change.things),
            change.order,
        )
        if change.field == "sheets"
        else change
        for change in delta.fields
    )
    shown = tuple((name, *both) for name, both in pictures.items())
    return replace(delta, fields=changes, pictures=shown), showed[1]
