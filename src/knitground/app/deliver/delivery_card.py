"""A card for the chosen delivery: what goes into it, where to, when, and what it will write."""

from pathlib import Path
from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtGui import QAction, QHideEvent, QPaintEvent, QShowEvent
from PySide6.QtWidgets import (
    QDoubleSpinBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QStyle,
    QStyleOptionButton,
    QStylePainter,
    QWidget,
)

from knitground.app.allowed import a_menu
from knitground.app.deliver.option_form import OptionForm
from knitground.app.deliver.runs import Runs
from knitground.app.file_dialogs import ask_folder
from knitground.app.guard import guarded
from knitground.app.known import known, with_id
from knitground.app.session import Session
from knitground.app.widgets import ChoiceBox, button, column, draw_arrow_down, fill_box, in_row, in_widget, quiet
from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.naming import checked_pattern
from knitground.core.deliver.options import Choice, checked_options, choices_of
from knitground.core.deliver.run import Planned, said_size
from knitground.core.edits.delivering import change_delivery, remove_delivery, set_option
from knitground.core.grid.projection import PixelRect
from knitground.core.project.delivery import Delivery

_LOOK_MS = 400
_MOST_TOLD = 6
_PIECE = ("left", "top", "width", "height")
_WHEN = [("When I ask", "asked"), ("On every save", "save"), ("On every change", "change")]
_UNITS = [("pixels are a unit", "pixels"), ("units are a cell", "cells")]


class DeliveryCard(QWidget):
    """Edits one delivery."""

    def __init__(self, session: Session, runs: Runs) -> None:
        super().__init__()
        self._session, self._runs = session, runs
        self._id = ""
        self.name, self.folder, self.pattern = QLineEdit(), QLineEdit(), QLineEdit()
        self.kind, self.when, self.unit_of = ChoiceBox("Format"), ChoiceBox("When"), ChoiceBox("Unit")
        self.unit = QDoubleSpinBox()
        self.grounds = _MenuButton("Grounds", "Which grounds go into it")
        self.layers = _MenuButton("Layers", "Which layers of them; as they show on the ground if none is ticked")
        self.options = OptionForm(self._choose_option)
        self.piece = button("Take what is selected", self._take_piece, "The piece is what is selected on the ground")
        self._about, self.writes = quiet(), quiet()
        self.gone = button("Remove", self._remove, "Take the chosen delivery out of the list; its files stay")
        self._soon = QTimer(self, singleShot=True, interval=_LOOK_MS)
        self._soon.timeout.connect(self._look)
        # First of all they have a place: what is filled shows, and without one it would be a window of its own.
        self._put_together()
        self._connect()
        runs.looked.connect(self._show_files)

    def _connect(self) -> None:
        for line, field, title in (
            (self.name, "name", "Name"), (self.folder, "folder", "Folder"), (self.pattern, "pattern", "Names"),
        ):  # fmt: skip
            line.setAccessibleName(title)
            line.editingFinished.connect(lambda line=line, field=field: self._typed(line, field))
        self.folder.setToolTip("Seen from the project's folder, or a whole path")
        self.pattern.setToolTip("Names of files: {project}, {ground} and {part} stand for what they say")
        fill_box(self.kind, [(exporter.title, name) for name, exporter in EXPORTERS.items()], "")
        fill_box(self.when, _WHEN, "")
        fill_box(self.unit_of, _UNITS, "")
        self.kind.activated.connect(lambda _: self._change(format=self.kind.currentData(), options={}))
        self.when.activated.connect(lambda _: self._change(when=self.when.currentData()))
        self.unit_of.activated.connect(lambda _: self._change(unit_of=self.unit_of.currentData()))
        self.unit.setRange(0.001, 2**20)
        self.unit.setDecimals(3)
        self.unit.setKeyboardTracking(False)
        self.unit.setAccessibleName("Size of a unit")
        self.unit.lineEdit().setTextMargins(6, 0, 0, 0)
        self.unit.setToolTip("How large a unit of the game is, so that nothing has to be scaled there")
        self.unit.valueChanged.connect(lambda value: self._change(unit=value))
        known(self.grounds.menu()).aboutToShow.connect(self._offer_grounds)
        known(self.layers.menu()).aboutToShow.connect(self._offer_layers)

    def _put_together(self) -> None:
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        choose = button("Choose…", self._ask_folder, "Choose the folder to write into")
        folder = in_row(self.folder, choose)
        lines: list[tuple[str, QWidget, str, QWidget | None]] = [
            ("Name", self.name, "Format", self.kind),
            ("Grounds", self.grounds, "Layers", self.layers),
            ("Folder", folder, "", None),
            ("Names", self.pattern, "When", self.when),
            ("Size", in_row(self.unit, self.unit_of), "", None),
        ]
        for row, (title, control, other, second) in enumerate(lines):
            grid.addWidget(QLabel(title), row, 0)
            grid.addWidget(control, row, 1, 1, 1 if second is not None else 3)
            if second is not None:
                grid.addWidget(QLabel(other), row, 2)
                grid.addWidget(second, row, 3)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        parts = self._about, in_widget(grid), self.options, in_row(self.piece, None), self.writes, None
        self.setLayout(column(*parts, spacing=8))

    @property
    def delivery(self) -> Delivery | None:
        """The delivery that is edited."""
        return with_id(self._session.document.project.deliveries, self._id)

    def show_delivery(self, delivery: Delivery) -> None:
        """Shows a delivery as it is."""
        fresh = delivery.id != self._id
        self._id = delivery.id
        exporter = EXPORTERS.get(delivery.format)
        self._about.setText(exporter.about if exporter else f"There is no format “{delivery.format}” here; choose one.")
        for line, text in (
            (self.name, delivery.name),
            (self.folder, delivery.folder),
            (self.pattern, delivery.pattern),
        ):
            if fresh or not line.hasFocus():
                line.setText(text)
        for box, value in ((self.kind, delivery.format), (self.when, delivery.when), (self.unit_of, delivery.unit_of)):
            box.setCurrentIndex(box.findData(value))
        self.unit.blockSignals(True)
        self.unit.setValue(delivery.unit)
        self.unit.blockSignals(False)
        grounds = [one.name for one in self._session.document.project.grounds if one.id in delivery.grounds]
        self.grounds.setText(_few(grounds, "All grounds"))
        self.layers.setText(_few(list(delivery.layers), "As they show"))
        self.options.setVisible(exporter is not None)
        if exporter is not None:
            self.options.show_options(exporter.options, delivery.options)
        self.piece.setVisible(exporter is not None and _takes_piece(exporter.options))
        if not self._is_placed(delivery):
            self.writes.setText("")
            return
        if fresh or not self.writes.text():
            self.writes.setText("Finding out what it writes…")
        self._soon.start()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._soon.start()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._runs.stop_looking()  # nobody waits for it, and everything else would

    def _is_placed(self, delivery: Delivery) -> bool:
        """Whether it is known where it writes to; where it is not, the sentence over the list says what to do."""
        return self._session.document.folder is not None or Path(delivery.folder).is_absolute()

    def _look(self) -> None:
        if self.delivery is not None and self.isVisible() and self._is_placed(self.delivery):
            self._runs.look(self.delivery)

    def _show_files(self, delivery_id: str, found: list[Planned] | str) -> None:
        if delivery_id != self._id:
            return
        if isinstance(found, str):
            self.writes.setText(found)
            return
        names = ", ".join(f"{one.path.name} ({said_size(one.size)})" for one in found[:_MOST_TOLD])
        more = f" and {len(found) - _MOST_TOLD} more" if len(found) > _MOST_TOLD else ""
        changed = sum(one.changed for one in found)
        state = (
            "as before" if not changed else "new or changed" if changed == len(found) else f"{changed} of them changed"
        )
        total = f": {said_size(sum(one.size for one in found))}" if len(found) > 1 else ""
        self.writes.setText(f"Writes {names}{more}{total}, {state}.")

    def _change(self, **said: Any) -> None:
        if self.delivery is not None:
            self._session.attempt(lambda: change_delivery(self._session.document, self._id, **said))

    def _typed(self, line: QLineEdit, field: str) -> None:
        delivery, text = self.delivery, line.text().strip()
        if delivery is None or text == getattr(delivery, field):
            return
        if field == "pattern" and self._session.attempt(lambda: checked_pattern(text)) is None:
            text = ""
        if text:
            self._change(**{field: text[: 80 if field == "name" else 200 if field == "pattern" else 1000]})
        else:
            line.setText(getattr(delivery, field))

    def _choose_option(self, one: Choice, value: Any) -> None:
        delivery = self.delivery
        if delivery is None:
            return
        kind = EXPORTERS[delivery.format].options

        def act() -> None:
            checked_options(kind, {**delivery.options, one.name: value})
            set_option(self._session.document, delivery.id, one.name, value, one.plain)

        self._session.attempt(act)
        self.options.show_options(kind, known(self.delivery).options)

    def _take_piece(self) -> None:
        """Lets the piece be the pixels of the cells that are selected."""
        selected, ground, delivery = self._session.selected, self._session.ground, self.delivery
        if selected is None or ground is None or delivery is None:
            self._session.say("Nothing is selected; select cells on the ground first.", "Tool: Select")
            return
        area = ground.projection.bounds(selected.shape.window).inside(PixelRect(0, 0, *ground.projection.size))
        piece = dict(zip(_PIECE, (area.x, area.y, area.width, area.height), strict=True))
        self._change(grounds=(ground.id,), options={**delivery.options, **piece})

    def _ask_folder(self) -> None:
        project = self._session.document.folder
        path = ask_folder(self, "Write into which folder?", "deliveries", project)
        if path is None:
            return
        inside = project is not None and path.resolve().is_relative_to(project.resolve())
        self._change(folder=str(path.resolve().relative_to(project.resolve())) if inside and project else str(path))

    def _offer_grounds(self) -> None:
        delivery, project = self.delivery, self._session.document.project
        if delivery is not None:
            entries = [(one.name, one.id) for one in project.grounds]
            _fill_menu(self.grounds, entries, delivery.grounds, lambda chosen: self._change(grounds=chosen))

    def _offer_layers(self) -> None:
        delivery, project = self.delivery, self._session.document.project
        if delivery is not None:
            grounds = [one for one in project.grounds if not delivery.grounds or one.id in delivery.grounds]
            names = dict.fromkeys(layer.name for one in grounds for layer in reversed(one.layers))
            _fill_menu(self.layers, [(name, name) for name in names], delivery.layers,
                       lambda chosen: self._change(layers=chosen))  # fmt: skip

    def _remove(self) -> None:
        if self.delivery is not None:
            self._session.attempt(lambda: remove_delivery(self._session.document, self._id))


def _takes_piece(kind: type) -> bool:
    """Whether a format can hold a piece of a ground."""
    return set(_PIECE) <= {one.name for one in choices_of(kind)}


class _MenuButton(QPushButton):
    """Opens a menu of what can be ticked, and looks as a box does that opens a list."""

    def __init__(self, name: str, tip: str) -> None:
        super().__init__()
        self.setToolTip(tip)
        self.setAccessibleName(name)
        self.setObjectName("box")
        self.setMenu(a_menu(self))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        option, painter = QStyleOptionButton(), QStylePainter(self)
        self.initStyleOption(option)
        option.features &= ~QStyleOptionButton.ButtonFeature.HasMenu  # with an arrow of its own
        painter.drawControl(QStyle.ControlElement.CE_PushButton, option)
        draw_arrow_down(painter, self)


def _fill_menu(on: QPushButton, entries: list[tuple[str, str]], chosen: tuple[str, ...], act: Any) -> None:
    menu = known(on.menu())
    menu.clear()
    for title, value in entries:
        action = QAction(title.replace("&", "&&"), menu, checkable=True, checked=value in chosen)
        rest = tuple(one for one in chosen if one != value)
        action.triggered.connect(lambda on, value=value, rest=rest: act((*rest, value) if on else rest))
        menu.addAction(action)


def _few(names: list[str], otherwise: str) -> str:
    if not names:
        return otherwise
    return names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"
