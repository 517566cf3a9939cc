"""The card under the sheet while things are placed: the chosen ones, what is said of them, and kinds of things."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QDoubleSpinBox, QInputDialog, QLabel, QWidget

from knitground.app.allowed import allow
from knitground.app.chosen_things import ChosenThings
from knitground.app.ground.figure_page import FigurePage
from knitground.app.ground.kind_page import KindPage
from knitground.app.ground.light_page import LightPage
from knitground.app.pages import Pages
from knitground.app.said import MIXED, SaidFields, fill, line
from knitground.app.session import Session
from knitground.app.widgets import (
    ChoiceBox,
    Tick,
    button,
    card,
    column,
    fill_box,
    in_row,
    in_widget,
    quiet,
    row,
    scrolling,
)
from knitground.core.edits.placing import Side, align, change, scaled, spread
from knitground.core.edits.thing_notes import add_kind, set_thing_property, tag_things, untag_things
from knitground.core.layers.thing import FARTHEST, LARGEST_SCALE, Thing
from knitground.core.tiles.notes import Property

_PAGE = 156
_NEW = "*new"
_SHORT, _LONG = 76, 92
_NO_THING = "Choose a thing on the map first."
_SIDES: tuple[tuple[str, Side, str], ...] = (
    ("Left", "left", "Left sides on one line"),
    ("Centre", "centre", "Middles under one another"),
    ("Right", "right", "Right sides on one line"),
    ("Top", "top", "Upper sides on one line"),
    ("Middle", "middle", "Middles side by side"),
    ("Bottom", "bottom", "Lower sides, as of feet, on one line"),
)


class ThingCard(QWidget):
    """Pages about the chosen things of the prop layer at hand."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._chosen = session, ChosenThings(session)
        self._title = quiet()
        self._title.setWordWrap(False)
        self.name = line(150, "What this thing is called, as “Beekeeper's door” (Return)", self._set_name)
        self.name.setPlaceholderText("name")
        self.name.setAccessibleName("Name of the thing")
        self.kind = ChoiceBox("Kind of things")
        self.kind.setToolTip("Of which kind it is: what the kind says holds for all its things")
        self.kind.setMinimumWidth(170)
        self.kind.activated.connect(self._choose_kind)
        self.numbers = {
            "x": self._number("Pixels from the left", -FARTHEST, FARTHEST, " px"),
            "y": self._number("Pixels from the top, of its foot", -FARTHEST, FARTHEST, " px"),
            "turn": self._number("Degrees that it is turned by, clockwise", 0, 359.99, "°"),
            "scale": self._number("Its size against that of its tile", 1, LARGEST_SCALE * 100, "%"),
            "width": self._number("Width in pixels", 0, FARTHEST, " px"),
            "height": self._number("Height in pixels", 0, FARTHEST, " px"),
        }
        for field, box in self.numbers.items():
            box.setFixedWidth(_SHORT if field in ("turn", "scale") else _LONG)
            box.valueChanged.connect(lambda value, field=field: self._set_number(field, value))
        self.mirrored = Tick("Mirrored", "Whether it is seen as in a mirror (M)")
        self.mirrored.clicked.connect(lambda on: self._change("mirror things", lambda one: replace(one, mirrored=on)))
        self.said = SaidFields(session, self, "the chosen things")
        self.kinds, self.light, self.figure = KindPage(session), LightPage(session), FigurePage(session)
        self.pages = Pages({
            "Thing": self._thing_page(), "Notes": scrolling(self.said), "Light": self.light,
            "Figure": self.figure,            "Lines up": self._lining(), "Kinds": self.kinds,
        })  # fmt: skip
        self.pages.setFixedHeight(_PAGE)
        head = row(*self.pages.tabs.values(), None, spacing=2)
        self.setLayout(column(card(column(in_widget(head), self.pages, spacing=6), 10)))
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, "ground_id", "layer_id", "things", "thing_kind", "light")
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the chosen things as they are."""
        layer = self._session.props
        self.setVisible(layer is not None)
        if layer is None:
            return
        chosen = self._chosen.things
        count = len(chosen)
        self._title.setText("nothing chosen" if not count else f"{count:,} of {len(layer.things):,} things" if count > 1
                            else f"{chosen[0].form} {chosen[0].id}")  # fmt: skip
        names = list(dict.fromkeys(thing.name for thing in chosen))
        fill(self.name, names[0] if len(names) == 1 else "", MIXED if len(names) > 1 else "name")
        allow(self.name, "" if chosen else _NO_THING)
        self._show_kinds(chosen)
        self._show_numbers(chosen)
        inherited = {}
        kinds = {thing.kind for thing in chosen}
        for kind in self._session.document.project.thing_kinds:
            if kinds == {kind.id}:
                inherited = dict(kind.properties)
        allow(self.said, "" if chosen else _NO_THING)
        self.said.show_said([(one.tags, one.properties, 1) for one in chosen], inherited)
        self.kinds.refresh()
        self.light.refresh()
        self.figure.refresh()

    def add_tag(self, tag: str) -> None:
        """Gives the chosen things a tag."""
        tag_things(*self._chosen.here, self._chosen.ids, tag)

    def remove_tag(self, tag: str) -> None:
        """Takes a tag off the chosen things."""
        untag_things(*self._chosen.here, self._chosen.ids, tag)

    def set_property(self, name: str, value: Property) -> None:
        """Gives the chosen things a property of their own."""
        set_thing_property(*self._chosen.here, self._chosen.ids, name, value)

    def remove_property(self, name: str) -> None:
        """Takes a property of their own back."""
        set_thing_property(*self._chosen.here, self._chosen.ids, name, None)

    def _thing_page(self) -> QWidget:
        self._sides = in_row(QLabel("Size"), self.numbers["width"], self.numbers["height"], None)
        return in_widget(
            column(
                in_row(self.name, self.kind, None),
                in_row(QLabel("Stands at"), self.numbers["x"], self.numbers["y"], None, self._title),
                in_row(QLabel("Turned"), self.numbers["turn"], QLabel("Scale"), self.numbers["scale"],
                       self.mirrored, None),
                self._sides,
                None,
                spacing=6,
            )
        )  # fmt: skip

    def _lining(self) -> QWidget:
        """What lines several things up."""
        buttons = [button(text, self._acting(lambda side=side: self._align(side)), tip) for text, side, tip in _SIDES]  # type: ignore[misc]
        chosen = self._chosen
        across = button(
            "Evenly across", self._acting(lambda: spread(*chosen.here, chosen.ids, across=True)),
            "Spread them evenly between the two outermost",
        )  # fmt: skip
        down = button(
            "Evenly down", self._acting(lambda: spread(*chosen.here, chosen.ids, across=False)),
            "Spread them evenly between the highest and the lowest",
        )  # fmt: skip
        return in_widget(
            column(in_row(*buttons[:3], None), in_row(*buttons[3:], None), in_row(across, down, None), None, spacing=6)
        )

    def _acting(self, act: Callable[[], object]) -> Callable[[], object]:
        return lambda: self._session.attempt(act)

    def _align(self, side: Side) -> None:
        align(*self._chosen.here, self._chosen.ids, side, self._session.sizes())

    def _number(self, name: str, low: float, high: float, suffix: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(low, high)
        box.setDecimals(1)
        box.setSuffix(suffix)
        box.setKeyboardTracking(False)
        box.setAccessibleName(name)
        box.setToolTip(name)
        box.lineEdit().setTextMargins(6, 0, 0, 0)
        return box

    def _show_kinds(self, chosen: list[Thing]) -> None:
        kinds = self._session.document.project.thing_kinds
        used = {thing.kind for thing in chosen} or {self._session.thing_kind}
        entries = [("no kind", ""), *((kind.name, kind.id) for kind in kinds), ("New kind…", _NEW)]
        if len(used) > 1:
            entries.insert(0, (MIXED, MIXED))
        fill_box(self.kind, entries, MIXED if len(used) > 1 else next(iter(used)))
        for number in range(self.kind.count()):
            colour = next((kind.colour for kind in kinds if kind.id == self.kind.itemData(number)), None)
            if colour:
                patch = QPixmap(12, 12)
                patch.fill(QColor(colour))
                self.kind.setItemIcon(number, QIcon(patch))

    def _show_numbers(self, chosen: list[Thing]) -> None:
        first = chosen[0] if len(chosen) == 1 else None
        shapes = first is not None and first.form in ("box", "round")
        self._sides.setVisible(shapes)
        for field, box in self.numbers.items():
            box.blockSignals(True)
            several = "" if first or field in ("turn", "scale") else "Choose a single thing to set this."
            allow(box, several if chosen else _NO_THING)
            value = getattr(chosen[0], field) if chosen else float(field == "scale")
            box.setValue(value * 100 if field == "scale" else value)
            box.blockSignals(False)
        allow(self.mirrored, "" if chosen else _NO_THING)
        self.mirrored.setChecked(any(thing.mirrored for thing in chosen))

    def _set_number(self, field: str, value: float) -> None:
        def changed(thing: Thing) -> Thing:
            if field == "scale":
                return scaled(thing, value / 100)
            changes: dict[str, Any] = {field: value}
            return replace(thing, **changes)

        self._change({"turn": "turn things", "scale": "scale things"}.get(field, "move a thing"), changed)

    def _set_name(self) -> None:
        name = self.name.text().strip()[:80]
        self._change("name", lambda thing: replace(thing, name=name))

    def _choose_kind(self, index: int) -> None:
        kind = self.kind.itemData(index)
        if kind == MIXED:
            return
        if kind == _NEW:
            name, ok = QInputDialog.getText(self, "New kind of things", "Name")
            made = self._session.attempt(lambda: add_kind(self._session.document, name)) if ok else None
            if made is None:
                self.refresh()
                return
            kind = made
        self._session.choose(thing_kind=kind)
        self._change("kind of things", lambda thing: replace(thing, kind=kind))

    def _change(self, label: str, act: Callable[[Thing], Thing]) -> None:
        if self._chosen.ids:
            self._session.attempt(lambda: change(*self._chosen.here, self._chosen.ids, label, act))
