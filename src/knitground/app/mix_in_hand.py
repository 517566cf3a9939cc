"""Taking a mix in hand, to fill with."""

from knitground.app.session import Session


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
    session.choose(lays_mix=True)
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
