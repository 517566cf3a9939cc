"""What is said of the chosen tiles, all at once: weight, walking, tags and properties."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget

from knitground.app.allowed import NO_TILE, allow
from knitground.app.said import MIXED, SaidFields, fill, line
from knitground.app.session import Session
from knitground.app.widgets import (
    Tick,
    column,
    in_row,
    in_widget,
    scrolling,
)
from knitground.core.edits.notes import (
    add_tag,
    remove_property,
    remove_tag,
    set_property,
    set_walkable,
    set_weight,
    shared,
    told,
)
from knitground.core.errors import BadRequest
from knitground.core.tiles.notes import Property
from knitground.core.tiles.tile import TileRef


class NotesPage(QWidget):
    """Fields that show what all chosen tiles share; where they differ, only what is changed is written."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.refs: list[TileRef] = []
        self.weight = line(64, "How often a tile comes among those with the same labels", self._set_weight)
        self.weight.setAccessibleName("Weight")
        self.walkable = Tick("Can be walked on", "Whether a figure may walk over these tiles")
        self.walkable.clicked.connect(self._set_walkable)
        self.said = SaidFields(session, self, "the chosen tiles")
        inside = column(
            in_row(QLabel("Weight"), self.weight, self.walkable, None),
            self.said,
            None,
            spacing=4,
        )
        inside.setContentsMargins(0, 0, 8, 0)
        self.setLayout(column(scrolling(in_widget(inside))))

    def show_tiles(self, refs: list[TileRef]) -> None:
        """Shows what is said of some tiles."""
        self.refs = refs
        allow(self, "" if refs else NO_TILE)
        document = self._session.document
        weights = shared(document, refs, lambda notes: notes.weight) or [1.0]
        fill(self.weight, f"{weights[0]:g}" if refs and len(weights) == 1 else "", MIXED if refs else "")
        walks = shared(document, refs, lambda notes: notes.walkable) or [True]
        self.walkable.setTristate(len(walks) > 1)
        mixed = Qt.CheckState.PartiallyChecked
        plain = Qt.CheckState.Checked if walks[0] else Qt.CheckState.Unchecked
        self.walkable.setCheckState(mixed if len(walks) > 1 else plain)
        self._show_said()

    def _show_said(self) -> None:
        notes = told(self._session.document, self.refs)
        self.said.show_said([(one.tags, one.properties, count) for one, count in notes])

    def add_tag(self, tag: str) -> None:
        """Gives the chosen tiles a tag."""
        add_tag(self._session.document, self.refs, tag)
        self._show_said()

    def remove_tag(self, tag: str) -> None:
        """Takes a tag off the chosen tiles."""
        remove_tag(self._session.document, self.refs, tag)
        self._show_said()

    def set_property(self, name: str, value: Property) -> None:
        """Gives the chosen tiles a property."""
        set_property(self._session.document, self.refs, name, value)
        self._show_said()

    def remove_property(self, name: str) -> None:
        """Takes a property off the chosen tiles."""
        remove_property(self._session.document, self.refs, name)
        self._show_said()

    def _set_weight(self) -> None:
        typed = self.weight.text().strip().replace(",", ".")
        if not typed:
            return
        try:
            weight = float(typed)
        except ValueError:
            self._do(lambda: _refuse(f"“{typed}” is no weight; write a number such as 2.5."))
            return
        self._do(lambda: set_weight(self._session.document, self.refs, weight))

    def _set_walkable(self) -> None:
        on = self.walkable.checkState() != Qt.CheckState.Unchecked
        self._do(lambda: set_walkable(self._session.document, self.refs, on))

    def _do(self, act: Callable[[], object]) -> None:
        self._session.attempt(act)
        self.show_tiles(self.refs)


def _refuse(sentence: str) -> None:
    raise BadRequest(sentence)
