"""What is said of the chosen tiles, all at once: weight, walking, tags and properties."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QColorDialog, QLabel, QLineEdit, QWidget

from knitground.app.session import Session
from knitground.app.widgets import (
    ChoiceBox,
    Tick,
    button,
    clear,
    column,
    fill_box,
    icon_button,
    in_row,
    in_widget,
    quiet,
    row,
    scrolling,
)
from knitground.core.edits.notes import (
    add_tag,
    notes_of,
    remove_property,
    remove_tag,
    set_property,
    set_walkable,
    set_weight,
    shared,
)
from knitground.core.errors import BadRequest
from knitground.core.tiles.notes import Property, PropertyKind, as_typed, plain_property, property_of
from knitground.core.tiles.tile import TileRef

KINDS = {"text": "text", "whole": "whole number", "number": "number", "yes-no": "yes or no", "colour": "colour"}
_MIXED = "mixed"


class NotesPage(QWidget):
    """Fields that show what all chosen tiles share; where they differ, only what is changed is written."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.refs: list[TileRef] = []
        self.weight = _line(64, "How often a tile comes among those with the same labels", self._set_weight)
        self.weight.setAccessibleName("Weight")
        self.walkable = Tick("Can be walked on", "Whether a figure may walk over these tiles")
        self.walkable.clicked.connect(self._set_walkable)
        self._tags = row(spacing=4)
        self.new_tag = _line(124, "Give the chosen tiles a tag (Return)", self._add_tag)
        self.new_tag.setPlaceholderText("add a tag")
        self._properties = column(spacing=4)
        self.new_name = _line(124, "The name of a new property (Return)", self._add_property)
        self.new_name.setPlaceholderText("add a property")
        self._kind = ChoiceBox("Kind of the new property")
        fill_box(self._kind, [(title, kind) for kind, title in KINDS.items()], "text")
        tags = in_widget(self._tags)
        inside = column(
            in_row(QLabel("Weight"), self.weight, self.walkable, None),
            in_row(self.new_tag, tags, None),
            in_row(self.new_name, self._kind, None),
            in_widget(self._properties),
            None,
            spacing=4,
        )
        inside.setContentsMargins(0, 0, 8, 0)
        self.setLayout(column(scrolling(in_widget(inside))))

    def show_tiles(self, refs: list[TileRef]) -> None:
        """Shows what is said of some tiles."""
        self.refs = refs
        self.setEnabled(bool(refs))
        document = self._session.document
        weights = shared(document, refs, lambda notes: notes.weight) or [1.0]
        _fill(self.weight, f"{weights[0]:g}" if refs and len(weights) == 1 else "", _MIXED if refs else "")
        walks = shared(document, refs, lambda notes: notes.walkable) or [True]
        self.walkable.setTristate(len(walks) > 1)
        mixed = Qt.CheckState.PartiallyChecked
        plain = Qt.CheckState.Checked if walks[0] else Qt.CheckState.Unchecked
        self.walkable.setCheckState(mixed if len(walks) > 1 else plain)
        self._show_tags()
        self._show_properties()

    def _show_tags(self) -> None:
        clear(self._tags)
        tags = [set(notes_of(self._session.document, ref).tags) for ref in self.refs]
        for tag in sorted(set().union(*tags)) if tags else []:
            count = sum(tag in some for some in tags)
            if count == len(tags):
                chip = button(
                    f"{tag}  ×",
                    lambda t=tag: self._drop_tag(t),  # type: ignore[misc]
                    f"Take the tag “{tag}” off the chosen tiles",
                )
            else:
                says = f"Only some bear the tag “{tag}”: click to give it to all"
                chip = button(f"{tag}  {count} of {len(tags)}", lambda t=tag: self._give_tag(t), says)  # type: ignore[misc]
            self._tags.addWidget(chip)

    def _drop_tag(self, tag: str) -> None:
        self._do(lambda: remove_tag(self._session.document, self.refs, tag))

    def _give_tag(self, tag: str) -> None:
        self._do(lambda: add_tag(self._session.document, self.refs, tag))

    def _show_properties(self) -> None:
        clear(self._properties)
        found = [notes_of(self._session.document, ref).properties for ref in self.refs]
        for name in sorted(set().union(*found)) if found else []:
            values = [one[name] for one in found if name in one]
            self._properties.addWidget(self._property_row(name, values, len(found)))

    def _property_row(self, name: str, values: list[Property], count: int) -> QWidget:
        kinds, distinct = {value.kind for value in values}, list(dict.fromkeys(values))
        kind = values[0].kind
        same = len(distinct) == 1 and len(values) == count
        hint = _MIXED if len(distinct) > 1 else f"on {len(values)} of {count}"
        title = QLabel(name)
        title.setFixedWidth(124)
        says = quiet(KINDS[kind] if len(kinds) == 1 else "of mixed kinds")
        says.setWordWrap(False)
        editor = self._editor(name, kind, as_typed(distinct[0]) if same else "", hint)
        take = icon_button("close", lambda: self._do(lambda: remove_property(self._session.document, self.refs, name)),
                           f"Take the property “{name}” off the chosen tiles")  # fmt: skip
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
        line: QLineEdit = _line(120, f"The value of “{name}” (Return)", lambda: put(line.text()))
        line.setAccessibleName(name)
        _fill(line, text, hint)
        return line

    def _pick_colour(self, text: str, put: Callable[[str], None]) -> None:
        chosen = QColorDialog.getColor(QColor(text or "#ffffff"), self, "Choose a colour")
        if chosen.isValid():
            put(chosen.name())

    def _put(self, name: str, kind: PropertyKind, typed: str) -> None:
        if typed or kind == "text":
            self._do(lambda: set_property(self._session.document, self.refs, name, property_of(kind, typed)))

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

    def _add_tag(self) -> None:
        tag = self.new_tag.text()
        if tag.strip():
            self._do(lambda: add_tag(self._session.document, self.refs, tag))
            self.new_tag.clear()

    def _add_property(self) -> None:
        name, kind = self.new_name.text(), self._kind.currentData()
        if name.strip():
            self._do(lambda: set_property(self._session.document, self.refs, name, plain_property(kind)))
            self.new_name.clear()

    def _do(self, act: Callable[[], object]) -> None:
        self._session.attempt(act)
        self.show_tiles(self.refs)


def _line(width: int, tip: str, done: Callable[[], None]) -> QLineEdit:
    """A line to type in; Return takes it, and so does leaving it if something was changed."""
    line = QLineEdit()
    line.setFixedWidth(width)
    line.setToolTip(tip)

    def leave() -> None:
        if line.isModified():
            line.setModified(False)
            done()

    line.editingFinished.connect(leave)
    return line


def _fill(line: QLineEdit, text: str, hint: str) -> None:
    """Shows a text, or a hint where there is none to show, unless something is being typed."""
    if not (line.hasFocus() and line.isModified()):
        line.setText(text)
    line.setPlaceholderText("" if text else hint)


def _refuse(sentence: str) -> None:
    raise BadRequest(sentence)
