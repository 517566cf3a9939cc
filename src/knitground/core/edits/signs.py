"""Signs by which charts name tiles."""

from knitground.core.errors import BadRequest
from knitground.core.project.model import Project
from knitground.core.stitches.rules import MOST_SIGNS, TileSign, View
from knitground.core.tiles.notes import Property, as_typed
from knitground.core.tiles.tile import TileRef


def sign_for(project: Project, view: View, kind: str, typed: str, tile: TileRef | None) -> TileSign:
    """A sign of what was typed: a name for the tile at hand, a tag, or a property and its value.

    Parameters
    ----------
    kind : str
        "tile", "tag" or "property".

    Raises
    ------
    BadRequest
        If the view has as many signs as it may, or no tile has such a property.
    """
    if len(view.signs) >= MOST_SIGNS:
        raise BadRequest(f"A view has at most {MOST_SIGNS} signs; let one name several tiles.")
    name = " ".join(typed.split())[:60]
    letter = _letter(name, {sign.letter for sign in view.signs})
    if kind == "tile":
        return TileSign(name, letter, () if tile is None else (tile,))
    if kind == "tag":
        return TileSign(name, letter, tags=(name,))
    key, equals, value = (part.strip() for part in typed.partition("="))
    if not equals or not key:
        raise BadRequest("Write a property and its value with a = between, as in blocks = yes.")
    return TileSign(name, letter, properties={key: _known(project, key, value)})


def _known(project: Project, name: str, typed: str) -> Property:
    """The value as some tile of the project has it."""
    there = [one for notes in project.tiles.values() for key, one in notes.properties.items() if key == name]
    found = next((one for one in there if as_typed(one).casefold() == typed.casefold()), None)
    if found is None:
        known = ", ".join(sorted({as_typed(one) for one in there})[:6])
        advice = f"there is {known}." if known else "give tiles that property first."
        raise BadRequest(f"No tile says “{name} = {typed}”; {advice}")
    return found


def _letter(name: str, taken: set[str]) -> str:
    letters = [one.upper() for one in name if one.isalnum()] + list("ABCDEFGHIJKLMNOPQRSTUWYZ123456789")
    return next((one for one in letters if one not in taken and one not in "V0X"), "?")
