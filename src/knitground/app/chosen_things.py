"""The things that are chosen on the prop layer at hand, for all that works on them."""

from knitground.app.session import Session
from knitground.core.layers.thing import Thing
from knitground.core.project.document import Document


class ChosenThings:
    """Where edits of things go, and which they are about; it follows the choices of a session."""

    def __init__(self, session: Session) -> None:
        self._session = session

    @property
    def here(self) -> tuple[Document, str, str]:
        """The document, and the ground and layer at hand."""
        return self._session.document, self._session.choices.ground_id, self._session.choices.layer_id

    @property
    def ids(self) -> frozenset[str]:
        """The chosen things by their ids."""
        return self._session.choices.things

    @property
    def things(self) -> list[Thing]:
        """The chosen things, in the order of the layer."""
        layer, ids = self._session.props, self.ids
        return [thing for thing in layer.things if thing.id in ids] if layer is not None and ids else []
