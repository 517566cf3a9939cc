"""Kinds of things: their names, colours and properties, made once and used by many things."""

from collections.abc import Callable

from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QColorDialog, QInputDialog, QWidget

from knitground.app.known import known
from knitground.app.said import SaidFields, fill, line
from knitground.app.session import Session
from knitground.app.widgets import ChoiceBox, button, column, fill_box, icon_button, in_row, scrolling
from knitground.core.edits.thing_notes import add_kind, change_kind, remove_kind, set_kind_property
from knitground.core.layers.thing import ThingKind
from knitground.core.tiles.notes import Property


class KindPage(QWidget):
    """One kind at a time, chosen from a list."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.box = ChoiceBox("Kind that is shown")
        self.box.activated.connect(lambda index: session.choose(thing_kind=self.box.itemData(index)))
        self.name = line(120, "What the kind is called (Return)", self._rename)
        self.name.setAccessibleName("Name of the kind")
        self._colour = button("", self._ask_colour, "Choose the colour in which things of this kind are shown")
        self._colour.setAccessibleName("Colour of the kind")
        self._take = icon_button("close", self._remove, "Take this kind out; its things keep what it said")
        new = icon_button("plus", self._add, "Make a new kind of things")
        self.said = SaidFields(session, self, "this kind", tags=False)
        self._parts = (self.name, self._colour, self._take, self.said)
        layout = column(
            in_row(self.box, new, self.name, self._colour, self._take, None), scrolling(self.said), spacing=4
        )
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def refresh(self) -> None:
        """Shows the kind at hand."""
        kinds, kind = self._session.document.project.thing_kinds, self._kind
        fill_box(self.box, [("no kind", ""), *((one.name, one.id) for one in kinds)], "" if kind is None else kind.id)
        for part in self._parts:
            part.setVisible(kind is not None)
        if kind is not None:
            fill(self.name, kind.name, "name")
            patch = QPixmap(14, 14)
            patch.fill(QColor(kind.colour))
            self._colour.setIcon(QIcon(patch))
            self.said.show_said([((), kind.properties, 1)])

    def set_property(self, name: str, value: Property) -> None:
        """Gives the kind a property."""
        set_kind_property(self._session.document, known(self._kind).id, name, value)

    def remove_property(self, name: str) -> None:
        """Takes a property of the kind out."""
        set_kind_property(self._session.document, known(self._kind).id, name, None)

    def add_tag(self, tag: str) -> None:
        """Kinds bear no tags."""

    def remove_tag(self, tag: str) -> None:
        """Kinds bear no tags."""

    @property
    def _kind(self) -> ThingKind | None:
        wanted = self._session.choices.thing_kind
        return next((kind for kind in self._session.document.project.thing_kinds if kind.id == wanted), None)

    def _add(self) -> None:
        name, ok = QInputDialog.getText(self, "New kind of things", "Name")
        made = self._session.attempt(lambda: add_kind(self._session.document, name)) if ok else None
        if made is not None:
            self._session.choose(thing_kind=made)

    def _remove(self) -> None:
        remove_kind(self._session.document, known(self._kind).id)

    def _rename(self) -> None:
        name = self.name.text().strip()[:80]
        if name:
            self._changing(lambda kind: change_kind(self._session.document, kind.id, name=name))

    def _ask_colour(self) -> None:
        colour = QColorDialog.getColor(QColor(known(self._kind).colour), self, "Colour of the kind")
        if colour.isValid():
            self._changing(lambda kind: change_kind(self._session.document, kind.id, colour=colour.name()))

    def _changing(self, act: Callable[[ThingKind], object]) -> None:
        kind = self._kind
        if kind is not None:
            self._session.attempt(lambda: act(kind))
