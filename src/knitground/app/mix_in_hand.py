"""Taking a mix in hand, to fill with or to strew."""

from knitground.app.session import Session
from knitground.core.edits.block_tiles import tiles_of_block
from knitground.core.edits.mixing import mix_of

_WIDE = 2
"""How wide things are strewn at the least: along a line of single cells hardly any would fall."""


def no_block(session: Session) -> str:
    """Why no tile of the block in hand can be laid by chance; empty where one can."""
    block = session.choices.lifted
    several = block is not None and len(tiles_of_block(block, session.document.palette)) > 1
    return "" if several else "Drag over several tiles of a sheet first."


def mix_block(session: Session) -> None:
    """Takes a mix of the tiles of the block in hand in hand, to fill with it, or to strew it as things."""
    block, palette = session.choices.lifted, session.document.palette
    made = session.attempt(lambda: mix_of(session.document, tiles_of_block(block, palette))) if block else None
    if made is not None:
        session.choose(mix_id=made)
        strews = session.layer is not None and session.layer.places_things
        (strew_mix if strews else fill_with_mix)(session, "Its tiles are weighed in Grow.", "Stage Grow")


def fill_with_mix(session: Session, more: str = "", *leads: str) -> None:
    """Takes the mix at hand in hand, on a layer that can lay it, with the fill tool.

    Parameters
    ----------
    session : Session
        Where it is laid.
    more : str
        What else is said of it.
    leads : str
        The commands that the sentence about it leads to.
    """
    session.choose(lays_mix=True, repeats=False)
    if session.ground and not (session.layer and session.layer.holds_tiles):
        for layer in reversed(session.ground.layers):
            if layer.holds_tiles:
                session.choose(layer_id=layer.id)
                break
        else:
            session.say("A mix lies on a tile layer; add one with the plus at the ground's right edge.")
            return
    session.tool_wanted.emit("fill")
    session.say(f"Move over the ground to see it, R throws again, a click lays it. {more}".rstrip(), *leads)


def strew_mix(session: Session, more: str = "", *leads: str) -> None:
    """Takes the mix at hand in hand with the tool that strews things; see `fill_with_mix`."""
    session.choose(lays_mix=True, repeats=False, radius=max(session.choices.radius, _WIDE))
    session.tool_wanted.emit("spray")
    session.say(f"Drag over the ground to strew it; [ and ] change how wide. {more}".rstrip(), *leads)
