"""Picking what lies on the ground, to lay it again."""

from knitground.app.tools import Tool
from knitground.core.edits.painting import Spot, pick


class Pick(Tool):
    """Takes the tile or terrain under the pointer into the hand."""

    name, title, icon, key = "pick", "Pick", "pick", "K"
    tip = "Pick: click to take what lies there"
    verb = "takes in hand"
    lays = False

    def press(self, at: Spot, *, erase: bool = False) -> None:
        self._pick(at)

    def drag(self, at: Spot) -> None:
        self._pick(at)

    def _pick(self, at: Spot) -> None:
        session = self.session
        if session.layer is None:
            return
        found = pick(session.document, session.choices.ground_id, session.choices.layer_id, session.hand, at)
        if found is None:
            return
        if found.tile is not None:
            session.choose(tile=found.tile, orientation=found.orientation, lays_mix=False, layer_id=found.layer)
        elif found.terrain is not None:
            session.choose(terrain=found.terrain)
