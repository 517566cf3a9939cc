"""The page of a stitch that says when it fires, and how it may be turned."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDoubleSpinBox, QLineEdit, QWidget

from knitground.app.allowed import allow
from knitground.app.session import Session
from knitground.app.widgets import Tick, column, in_row, number, quiet, set_quietly
from knitground.core.stitches.rules import FARTHEST_APART, Places, Stitch


class WhenPage(QWidget):
    """Chance, places and turns of the stitch at hand, and its name."""

    changed = Signal(object, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._name = QLineEdit()
        self._name.setMaxLength(60)
        self._name.setPlaceholderText("name")
        self._name.setAccessibleName("Name of the stitch")
        self._name.editingFinished.connect(lambda: self._put("rename stitch", name=self._name.text().strip()))
        self._group = QLineEdit()
        self._group.setMaxLength(60)
        self._group.setPlaceholderText("group")
        self._group.setAccessibleName("Group of the stitch")
        self._group.setToolTip("Stitches that follow one another with the same group fold together in the list")
        self._group.editingFinished.connect(lambda: self._put("group stitch", group=self._group.text().strip()))
        self._chance = QDoubleSpinBox()
        self._chance.setRange(0, 100)
        self._chance.setDecimals(1)
        self._chance.setSuffix("%")
        self._chance.setKeyboardTracking(False)
        self._chance.setAccessibleName("Chance")
        self._chance.setToolTip("In how many of the cells that it fits it fires; the choice depends on the place alone")
        self._chance.valueChanged.connect(lambda value: self._put("change chance", chance=value))
        self._apart = number(0, FARTHEST_APART, lambda value: self._put("keep apart", apart=value), "Cells apart")
        self._apart.setToolTip("So many cells in each direction hold no other of its kind")
        self._rows = number(1, 64, lambda value: self._place(rows=value), "Every so many rows")
        self._columns = number(1, 64, lambda value: self._place(columns=value), "Every so many columns")
        self._first_row = number(0, 63, lambda value: self._place(first_row=value), "From this row")
        self._first_column = number(0, 63, lambda value: self._place(first_column=value), "From this column")
        self._ticks: dict[str, Tick] = {}
        for name, text, tip in (
            ("turns", "quarter turns", "It stands for its quarter turns at once"),
            ("mirrors_x", "left-right", "It stands for its mirror image left to right, too"),
            ("mirrors_y", "top-bottom", "It stands for its mirror image top to bottom, too"),
            ("as_drawn", "tiles as drawn", "Its tiles are not turned with it"),
            ("spares_blocks", "not over blocks", "It lays nothing on cells of another stitch's block"),
        ):
            tick = Tick(text, tip)
            tick.toggled.connect(lambda on, one=name, says=text: self._put(f"change “{says}”", **{one: on}))
            self._ticks[name] = tick
        self._chequered = Tick("chequered", "Only on the squares of a chessboard")
        self._chequered.toggled.connect(lambda on: self._place(chequered=on))
        ticks = self._ticks
        self.setLayout(
            column(
                in_row(self._name, self._group, quiet("chance"), self._chance),
                in_row(quiet("apart"), self._apart, ticks["spares_blocks"], ticks["as_drawn"], None),
                in_row(quiet("every"), self._rows, quiet("rows, from row"), self._first_row, self._chequered, None),
                in_row(quiet("every"), self._columns, quiet("columns, from column"), self._first_column, None),
                in_row(ticks["turns"], ticks["mirrors_x"], ticks["mirrors_y"], None),
                None,
                spacing=4,
            )
        )

    def refresh(self) -> None:
        """Shows the stitch at hand."""
        stitch = self._session.stitch
        allow(self, "" if stitch is not None else "Choose a stitch in the list first.")
        if stitch is None:
            return
        if not self._name.hasFocus():
            self._name.setText(stitch.name)
        if not self._group.hasFocus():
            self._group.setText(stitch.group)
        self._chance.blockSignals(True)
        self._chance.setValue(stitch.chance)
        self._chance.blockSignals(False)
        places = stitch.places
        for box, value in (
            (self._apart, stitch.apart), (self._rows, places.rows), (self._columns, places.columns),
            (self._first_row, places.first_row), (self._first_column, places.first_column),
        ):  # fmt: skip
            set_quietly(box, value)
        ticks = [(tick, getattr(stitch, name)) for name, tick in self._ticks.items()]
        for tick, on in (*ticks, (self._chequered, places.chequered)):
            tick.blockSignals(True)
            tick.setChecked(on)
            tick.blockSignals(False)
            tick.update()

    def _put(self, label: str, **changes: Any) -> None:
        self._change(label, lambda stitch: replace(stitch, **changes))

    def _place(self, **changes: Any) -> None:
        self._change("change places", lambda stitch: replace(stitch, places=_places(stitch.places, changes)))

    def _change(self, label: str, change: Callable[[Stitch], Stitch]) -> None:
        stitch = self._session.stitch
        if stitch is not None and change(stitch) != stitch:
            self.changed.emit(change(stitch), label)


def _places(places: Places, changes: dict[str, Any]) -> Places:
    return replace(places, **changes)
