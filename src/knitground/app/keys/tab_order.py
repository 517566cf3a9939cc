"""Where Tab goes: through the window as one reads it, whenever its parts were made.

Qt goes by the order in which parts came to be, so that what is put in later, a tab of a sheet or a layer, would come
last of all. Here layouts tell the order.
"""

from collections.abc import Iterator

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLayout,
    QScrollArea,
    QWidget,
)


def go_on(window: QWidget, *, back: bool = False) -> bool:
    """Moves the focus to the next stop of a window, or the one before; False if there is none.

    From what is no stop any more, as it was just hidden, that is the one next to where it was.
    """
    found = list(stops(window))
    if not found:
        return False
    now = QApplication.focusWidget()
    passed = found.index(now) if now in found else _passed(window, now, set(found))
    at = passed - 1 if back else passed + (now in found)
    reason = Qt.FocusReason.BacktabFocusReason if back else Qt.FocusReason.TabFocusReason
    found[at % len(found)].setFocus(reason)
    return True


def _passed(window: QWidget, now: QWidget | None, found: set[QWidget]) -> int:
    """How many stops come before a part of the window; none if it is no part of it."""
    passed = 0
    for part in _all(window):
        if part is now:
            return passed
        passed += part in found
    return 0


def _all(part: QWidget) -> Iterator[QWidget]:
    """All parts of one, also those that don't show, in order."""
    for one in _within(part):
        yield one
        yield from _all(one)


def stops(window: QWidget) -> Iterator[QWidget]:
    """All that Tab stops at, in the order in which it does; of buttons that exclude one another, the one that is on."""
    for part in _within(window):
        if not part.isVisible() or part.isWindow():
            continue
        if part.isEnabled() and part.focusPolicy() & Qt.FocusPolicy.TabFocus and _is_stop(part):
            yield part
        if not isinstance(part, QAbstractSpinBox | QComboBox):
            yield from stops(part)


def _is_stop(part: QWidget) -> bool:
    # What only scrolls is no stop: what stands in it is.
    if isinstance(part, QScrollArea):
        return False
    group = part.group() if isinstance(part, QAbstractButton) else None
    if group is None or not group.exclusive() or group.checkedButton() is None:
        return True
    return part.hasFocus() or group.checkedButton() is part


def _within(part: QWidget) -> list[QWidget]:
    """The parts right inside of one, in order."""
    if isinstance(part, QScrollArea):
        inside = part.widget()
        return [] if inside is None else [inside]
    if isinstance(part, QAbstractScrollArea):
        part = part.viewport()
    parts = [one for one in part.children() if isinstance(one, QWidget)]
    layout = part.layout()
    found = [] if layout is None else _laid_out(layout, parts)
    rest = [one for one in parts if one not in found]
    return found + sorted(rest, key=lambda one: (one.y(), one.x()))


def _laid_out(layout: QLayout, widgets: list[QWidget]) -> list[QWidget]:
    """Those of some widgets that a layout holds, in its order.

    Its items are not looked at: to ask for one makes an object that outlives it, as nobody tells it that the layout
    threw the item away. Whatever comes to lie at its address in memory is taken for it then, and the program ends.
    """
    found = [(layout.indexOf(one), [one]) for one in widgets]
    found += [(layout.indexOf(one), _laid_out(one, widgets)) for one in layout.children() if isinstance(one, QLayout)]
    return [one for place, some in sorted(found, key=lambda part: part[0]) if place >= 0 for one in some]
