"""Tags and properties of several things at once; where they differ, only what is changed is written."""

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Protocol

from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QColorDialog, QLabel, QLineEdit, QWidget

from knitground.app.session import Session
from knitground.app.widgets import (
    ChoiceBox,
    button,
    clear,
    column,
    fill_box,
    icon_button,
    in_row,
    in_widget,
    quiet,
    row,
    show_if,
)
from knitground.core.tiles.notes import Property, PropertyKind, as_typed, plain_property, property_of

KINDS = {"text": "text", "whole": "whole number", "number": "number", "yes-no": "yes or no", "colour": "colour"}
MIXED = "mixed"


class SaidOf(Protocol):
    """What the fields write to."""

    def add_tag(self, tag: str) -> None: ...

    def remove_tag(self, tag: str) -> None: ...

    def set_property(self, name: str, value: Property) -> None: ...

    def remove_property(self, name: str) -> None: ...


class SaidFields(QWidget):
    """Fields for tags, if wished, and for properties."""

    def __init__(self, session: Session, of: SaidOf, what: str, *, tags: bool = True) -> None:
        super().__init__()
        self._session, self._of, self._what = session, of, what
        self._tags = row(spacing=4)
        self.new_tag = line(124, f"Give {what} a tag (Return)", self._add_tag)
        self.new_tag.setPlaceholderText("add a tag")
        self._properties = column(spacing=4)
        self.new_name = line(124, "The name of a new property (Return)", self._add_property)
        self.new_name.setPlaceholderText("add a property")
        self._kind = ChoiceBox("Kind of the new property")
        fill_box(self._kind, [(title, kind) for kind, title in KINDS.items()], "text")
        tag_row = in_row(self.new_tag, in_widget(self._tags), None)
        show_if(tag_row, tags)
        inside = column(
            tag_row,
            in_row(self.new_name, self._kind, None),
            in_widget(self._properties),
            None,
            spacing=4,
        )
        inside.setContentsMargins(0, 0, 0, 0)
        self.setLayout(inside)

    def show_said(
        self,
        said: Sequence[tuple[Collection[str], Mapping[str, Property], int]],
        inherited: Mapping[str, Property] | None = None,
    ) -> None:
        """Shows tags and properties, each with how many bear them.

        Of `inherited` the properties count where none of its own is set.
        """
        of = sum(count for *_, count in said)
        clear(self._tags)
        for tag in sorted({tag for tags, _, _ in said for tag in tags}):
            self._tags.addWidget(self._chip(tag, sum(count for tags, _, count in said if tag in tags), of))
        clear(self._properties)
        for name in sorted({name for _, properties, _ in said for name in properties}):
            values = [(properties[name], count) for _, properties, count in said if name in properties]
            self._properties.addWidget(self._property_row(name, values, of))
        for name, value in (inherited or {}).items():
            if not any(name in properties for _, properties, _ in said):
                self._properties.addWidget(self._inherited_row(name, value))

    def _chip(self, tag: str, count: int, of: int) -> QWidget:
        """A tag that can be taken off, or given to all where only some bear it."""
        if count == of:
            tip = f"Take the tag “{tag}” off {self._what}"
            return button(f"{tag}  ×", lambda: self._do(lambda: self._of.remove_tag(tag)), tip)
        tip = f"Only some bear the tag “{tag}”: click to give it to all"
        return button(f"{tag}  {count} of {of}", lambda: self._do(lambda: self._of.add_tag(tag)), tip)

    def _inherited_row(self, name: str, value: Property) -> QWidget:
        title = QLabel(name)
        title.setFixedWidth(124)
        tip = f"Set “{name}” for {self._what} alone"
        own = button("Set", lambda: self._do(lambda: self._of.set_property(name, value)), tip)
        says = quiet(f"{as_typed(value)}, from the kind")
        says.setWordWrap(False)
        return in_row(title, says, own, None)

    def _property_row(self, name: str, values: list[tuple[Property, int]], of: int) -> QWidget:
        distinct, count = list(dict.fromkeys(value for value, _ in values)), sum(many for _, many in values)
        kinds, kind = {value.kind for value in distinct}, distinct[0].kind
        same = len(distinct) == 1 and count == of
        hint = MIXED if len(distinct) > 1 else f"on {count} of {of}"
        title = QLabel(name)
        title.setFixedWidth(124)
        says = quiet(KINDS[kind] if len(kinds) == 1 else "of mixed kinds")
        says.setWordWrap(False)
        editor = self._editor(name, kind, as_typed(distinct[0]) if same else "", hint)
        take = icon_button("close", lambda: self._do(lambda: self._of.remove_property(name)),
                           f"Take the property “{name}” off {self._what}")  # fmt: skip
        return in_row(title, editor, take, says, None)

    def _editor(self, name: str, kind: PropertyKind, text: str, hint: str) -> QWidget:
        def put(typed: str) -> None:
            self._put(name, kind, typed)

        if kind == "yes-no":
            box = ChoiceBox(name)
            fill_box(box, [*([] if text else [(hint, "")]), ("yes", "yes"), ("no", "no")], text)

            def choose(index: int) -> None:
                if box.itemData(index):
                    put(box.itemData(index))

            box.activated.connect(choose)
            return box
        if kind == "colour":
            chip = button(text or hint, lambda: self._pick_colour(text, put), f"Choose the colour of “{name}”")
            patch = QPixmap(16, 16)
            patch.fill(QColor(text) if text else QColor(0, 0, 0, 0))
            chip.setIcon(QIcon(patch))
            return chip
        field: QLineEdit = line(120, f"The value of “{name}” (Return)", lambda: put(field.text()))
        field.setAccessibleName(name)
        fill(field, text, hint)
        return field

    def _pick_colour(self, text: str, put: Callable[[str], None]) -> None:
        chosen = QColorDialog.getColor(QColor(text or "#ffffff"), self, "Choose a colour")
        if chosen.isValid():
            put(chosen.name())

    def _put(self, name: str, kind: PropertyKind, typed: str) -> None:
        if typed or kind == "text":
            self._do(lambda: self._of.set_property(name, property_of(kind, typed)))

    def _add_tag(self) -> None:
        tag = self.new_tag.text()
        if tag.strip():
            self._do(lambda: self._of.add_tag(tag))
            self.new_tag.clear()

    def _add_property(self) -> None:
        name, kind = self.new_name.text(), self._kind.currentData()
        if name.strip():
            self._do(lambda: self._of.set_property(name, plain_property(kind)))
            self.new_name.clear()

    def _do(self, act: Callable[[], object]) -> None:
        self._session.attempt(act)


def line(width: int, tip: str, done: Callable[[], None]) -> QLineEdit:
    """A line to type in; Return takes it, and so does leaving it if something was changed."""
    field = QLineEdit()
    field.setFixedWidth(width)
    field.setToolTip(tip)
    field.setAccessibleName(tip)

    def leave() -> None:
        if field.isModified():
            field.setModified(False)
            done()

    field.editingFinished.connect(leave)
    return field


def fill(field: QLineEdit, text: str, hint: str) -> None:
    """Shows a text, or a hint where there is none to show, unless something is being typed."""
    if not (field.hasFocus() and field.isModified()):
        field.setText(text)
    field.setPlaceholderText("" if text else hint)
