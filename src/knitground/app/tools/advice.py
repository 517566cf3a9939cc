"""What is said after a stroke that did something which is seldom meant, with the key that mends it."""

from typing import TYPE_CHECKING

from knitground.app.known import known
from knitground.app.tools.aside import remind
from knitground.core.edits.fitting import misfit
from knitground.core.edits.hiding import hidden_by, hides_below
from knitground.core.edits.lifting import seen_on_top, stands_inside
from knitground.core.edits.lifting_things import tops_below
from knitground.core.edits.painting import Spot
from knitground.core.edits.relaying import Loss, taken_away

if TYPE_CHECKING:
    from knitground.app.session import Session

_LOST: dict[Loss, str] = {
    "ground": "These tiles have clear edges and took the ground away.",
    "beside": "What lay there was taken away; there is room for both in a cell.",
}
_BEHIND = "It lies on the ground behind what “{}” holds there, not on top."


def advise(session: "Session", at: Spot) -> None:
    """Looks at the stroke that was just laid, and ended at a place."""
    session.stroke_ended = at
    if remind(session) or _of_hiding(session):
        return
    _of_clear_edges(session)
    _of_size(session)
    _of_height(session)


def advise_all_over(session: "Session", at: Spot) -> None:
    """Looks at what was just filled, or laid on an area."""
    session.stroke_ended = at
    ground, layer = session.ground, session.layer
    if remind(session) or _of_hiding(session) or ground is None or layer is None:
        return
    _of_clear_edges(session)
    if hides_below(session.derived, ground.id):
        session.say(f"“{layer.name}” hides what is painted below it.", "Lay the layer at hand below what it hides")


def advise_of_things(session: "Session") -> None:
    """Looks at the things that were just placed, which are chosen: whether they are seen on top of what stands."""
    ground, layer = session.ground, session.layer
    if ground is None or layer is None or (key := ("height", ground.id, layer.id)) in session.advised:
        return
    tops = tops_below(session.derived, ground.id, layer.id, session.choices.things)
    for top in list(tops.values())[:1]:
        session.advised.add(key)
        session.say(_BEHIND.format(top.layer.name), "Stand the chosen things on top of what they are seen on")


def told_height(session: "Session", height: int) -> None:
    """Tells how far the layer at hand was lifted."""
    name = known(session.layer).name
    session.say(f"“{name}” lies {height} px higher than what it stands on; paint where you see it.")


def _of_hiding(session: "Session") -> bool:
    """Tells that nothing is seen of what was laid; whether it is so."""
    hider = hidden_by(session.derived, session.choices.ground_id) if session.ground is not None else None
    if hider is not None:
        by_tile = known(session.layer).holds_tiles
        lead = "Lay the last stroke above what hides it" if by_tile else "Move the layer at hand up"
        session.say(f"“{hider.name}” hides what was laid below it.", lead)
    return hider is not None


def _of_clear_edges(session: "Session") -> None:
    loss = taken_away(session.derived, session.choices.ground_id)
    if loss is not None:
        session.say(_LOST[loss], "Lay the last stroke above its layer instead")


def _of_size(session: "Session") -> None:
    """Tells once for each ground and cut that a tile is of another size than the cells, and what helps."""
    ground, layer, ref = session.ground, session.layer, session.choices.tile
    if ground is None or layer is None or ref is None or not layer.holds_tiles or session.choices.lays_mix:
        return
    size, key = misfit(session.document.project, ground, ref), ("size", ground.id, ref.sheet, ref.cut)
    if size is not None and key not in session.advised:
        session.advised.add(key)
        cells = f"{ground.tile_width} x {ground.tile_height}"
        session.say(
            f"This tile is {size[0]} x {size[1]}, the cells {cells}.",
            "Give the cells the size of the tile in hand",
            "Let the tiles in hand stand on their cells",
        )


def _of_height(session: "Session") -> None:
    """Tells once for each layer that a stroke lies within higher things or behind them, as a roof may."""
    ground, layer = session.ground, session.layer
    if ground is None or layer is None or (key := ("height", ground.id, layer.id)) in session.advised:
        return
    name = stands_inside(session.derived, ground.id, session.stroke_ended)
    if name:
        session.advised.add(key)
        session.say(
            f"It stands inside of what “{name}” holds there.", "Lay the layer at hand on top of what stands below"
        )
        return
    top = seen_on_top(session.derived, ground.id, session.stroke_ended)
    if top is not None:
        session.advised.add(key)
        session.say(_BEHIND.format(top.layer.name), "Lay the last stroke on top of what stands there")
