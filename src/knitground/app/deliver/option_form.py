"""What can be chosen of a format, as a form made of what the format tells of itself."""

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtWidgets import QDoubleSpinBox, QGridLayout, QLabel, QLineEdit, QSpinBox, QWidget

from knitground.app.widgets import ChoiceBox, Tick, clear, number
from knitground.core.deliver.options import Choice, choices_of

_COLUMNS = 2


class OptionForm(QWidget):
    """A control for each option, two side by side; every change is told with the option's name."""

    def __init__(self, changed: Callable[[Choice, Any], None]) -> None:
        super().__init__()
        self._changed = changed
        self._kind: type | None = None
        self.controls: dict[str, QWidget] = {}
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(6)
        for column in (1, 3):
            self._grid.setColumnStretch(column, 1)
        self.setLayout(self._grid)

    def show_options(self, kind: type, said: Mapping[str, Any]) -> None:
        """Shows the options of a format as they are."""
        choices = choices_of(kind)
        if kind is not self._kind:
            self._kind = kind
            clear(self._grid)
            self.controls = {}
            for place, one in enumerate(choices):
                row, column = divmod(place, _COLUMNS)
                control = _MAKERS[one.form](one, self._changed)
                control.setToolTip(_sentence(one.about))
                self.controls[one.name] = control
                if one.form == "tick":
                    self._grid.addWidget(control, row, 2 * column, 1, 2)
                else:
                    title = QLabel(one.title)
                    title.setBuddy(control)
                    self._grid.addWidget(title, row, 2 * column)
                    self._grid.addWidget(control, row, 2 * column + 1)
        for one in choices:
            control = self.controls[one.name]
            control.blockSignals(True)
            _SHOWERS[one.form](control, said.get(one.name, one.plain))
            control.blockSignals(False)


def _sentence(about: str) -> str:
    return about[:1].upper() + about[1:]


def _choice(one: Choice, changed: Callable[[Choice, Any], None]) -> QWidget:
    box = ChoiceBox(one.title)
    for name in one.among:
        box.addItem(_sentence(name), name)
    box.activated.connect(lambda index: changed(one, box.itemData(index)))
    return box


def _tick(one: Choice, changed: Callable[[Choice, Any], None]) -> QWidget:
    tick = Tick(one.title)
    tick.toggled.connect(lambda on: changed(one, on))
    return tick


def _whole(one: Choice, changed: Callable[[Choice, Any], None]) -> QWidget:
    box = number(round(one.least), round(one.most), lambda value: changed(one, value), one.title)
    box.setSpecialValueText(one.without)
    return box


def _number(one: Choice, changed: Callable[[Choice, Any], None]) -> QWidget:
    box = QDoubleSpinBox()
    box.setDecimals(4 if one.least < 0.01 else 2)
    box.setRange(one.least, one.most)
    box.setSingleStep(0.1)
    box.setKeyboardTracking(False)
    box.setAccessibleName(one.title)
    box.lineEdit().setTextMargins(6, 0, 0, 0)
    box.valueChanged.connect(lambda value: changed(one, value))
    return box


def _text(one: Choice, changed: Callable[[Choice, Any], None]) -> QWidget:
    line = QLineEdit()
    line.setAccessibleName(one.title)
    line.editingFinished.connect(lambda: changed(one, line.text().strip()) if line.isModified() else None)
    return line


def _show_choice(control: Any, value: Any) -> None:
    control.setCurrentIndex(control.findData(value))


def _show_number(control: QSpinBox | QDoubleSpinBox, value: Any) -> None:
    # A file may say what no box can hold; the format tells of it when it is run.
    if isinstance(value, int | float):
        control.setValue(min(max(value, control.minimum()), control.maximum()))  # type: ignore[arg-type]


_MAKERS: dict[str, Callable[[Choice, Callable[[Choice, Any], None]], QWidget]] = {
    "choice": _choice, "tick": _tick, "whole": _whole, "number": _number, "text": _text,
}  # fmt: skip
_SHOWERS: dict[str, Callable[[Any, Any], None]] = {
    "choice": _show_choice,
    "tick": lambda control, value: control.setChecked(value is True),
    "whole": _show_number,
    "number": _show_number,
    "text": lambda control, value: control.setText(str(value)),
}
