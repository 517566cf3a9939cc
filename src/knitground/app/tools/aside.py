"""A tile that was chosen although the layer at hand lays terrains: where it can go, told until it is clear."""

from typing import TYPE_CHECKING

from knitground.core.edits.placing import stands_freely
from knitground.core.ground.ground import by_id

if TYPE_CHECKING:
    from knitground.app.session import Session

_CHOSEN, _TOLD = "aside", "aside, told after a stroke"
_ON_TILES = "Lay the tile in hand on a layer of tiles"
_AS_THING = "Let the tile in hand stand as a thing"


def offer_a_place(session: "Session") -> None:
    """Tells where the tile can go that was just chosen, if the layer at hand can't take it."""
    forget(session)
    sentence, leads = _places(session)
    if leads:
        session.advised.add(_now(session, _CHOSEN))
        session.say(sentence, *leads)


def remind(session: "Session") -> bool:
    """Tells once after a stroke that it laid the terrain, not the tile that was chosen last."""
    chosen, told = _now(session, _CHOSEN), _now(session, _TOLD)
    if chosen not in session.advised or told in session.advised:
        return False
    session.advised.add(told)
    sentence, leads = _places(session)
    session.say(sentence, *leads)
    return bool(leads)


def places_still_offered(session: "Session") -> tuple[str, ...]:
    """The commands that find a place for the tile chosen last, while nothing else was taken in hand."""
    return _places(session)[1] if _now(session, _CHOSEN) in session.advised else ()


def forget(session: "Session") -> None:
    """Takes back what was offered, as something else is in hand."""
    session.advised -= {key for key in session.advised if key[0] in (_CHOSEN, _TOLD)}


def _now(session: "Session", kind: str) -> tuple[str, ...]:
    choices = session.choices
    return kind, repr(choices.tile), choices.ground_id, choices.layer_id, str(choices.terrain)


def _places(session: "Session") -> tuple[str, tuple[str, ...]]:
    ground, layer, ref = session.ground, session.layer, session.choices.tile
    if ground is None or layer is None or ref is None or layer.holds_tiles or layer.places_things:
        return "", ()
    cut = by_id(by_id(session.document.project.sheets, ref.sheet).cuts, ref.cut)
    free = stands_freely(cut, ground)
    here = "this piece" if cut.pieces else "this one fits no cells and"
    holds = f"{here} can stand where you like" if free else "a layer of tiles holds this one"
    return f"“{layer.name}” lays terrains; {holds}.", (_AS_THING, _ON_TILES) if free else (_ON_TILES,)
