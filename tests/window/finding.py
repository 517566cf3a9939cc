"""Finding things in the window as one does who looks at it: by what they say and what they are called."""

from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QMenu, QSplitter, QWidget

from knitground.app.layers.layer_button import LayerButton

W = TypeVar("W", bound=QWidget)


def named(widget: QWidget, kind: type[W], name: str, *, shown: bool = True) -> W:
    """The part of a window that bears a name, as one reads it or as it is told to those who can't see."""
    QApplication.processEvents()
    found = [
        one
        for one in widget.findChildren(kind)
        if (one.isVisible() or not shown)
        and (name in (one.accessibleName(), getattr(one, "text", str)()) or one.toolTip().startswith(name))
    ]
    assert found, f"no {name} in the window"
    return found[0]


def in_dialog(act: Callable[[Any], object]) -> None:
    """Does something in the dialog that comes next; puts it away where that fails, so that the failure is told."""

    def when_there(patience: int = 500) -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None:
            if patience:
                QTimer.singleShot(20, lambda: when_there(patience - 1))
            return
        try:
            act(dialog)
        except BaseException:
            dialog.close()
            raise

    QTimer.singleShot(0, when_there)


def press(widget: QWidget, name: str) -> None:
    """Clicks a button by its text, or by how its tool tip begins."""
    found = named(widget, QAbstractButton, name)
    assert found.isEnabled(), f"{name} can't be pressed"
    QTest.mouseClick(found, Qt.MouseButton.LeftButton)


def says(widget: QWidget) -> str:
    """All that can be read in a part of the window, a line for each label."""
    return "\n".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


def menu_of(widget: QWidget) -> QMenu:
    """The menu that a right click on something opens."""
    middle = widget.rect().center()
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, middle, widget.mapToGlobal(middle))
    QApplication.sendEvent(widget, event)
    return open_menu()


def open_menu() -> QMenu:
    """The menu that is open."""
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    return menu


def entry(menu: QMenu, text: str) -> QAction:
    """What stands in a menu."""
    return next(action for action in menu.actions() if text in action.text())


def take(menu: QMenu, text: str) -> None:
    """Chooses what stands in a menu."""
    action = entry(menu, text)
    menu.close()
    action.trigger()


def halves(window: QWidget) -> QSplitter:
    """The two halves of the window."""
    return window.findChild(QSplitter)


def layer_button(window: QWidget, name: str) -> LayerButton:
    """The small picture of a layer."""
    return named(window, LayerButton, f"Layer {name}")


def painted(view) -> np.ndarray:
    """What a view shows, (H, W, 4) uint8."""
    image = view.grab().toImage().convertToFormat(view.grab().toImage().Format.Format_RGBA8888)
    return np.array(image.constBits()).reshape(image.height(), image.bytesPerLine() // 4, 4).copy()


def pick(box: QComboBox, text: str) -> None:
    """Chooses an entry of a box of choices, as a click on it does."""
    at = box.findText(text)
    assert at >= 0, f"no {text} among {[box.itemText(n) for n in range(box.count())]}"
    box.setCurrentIndex(at)
    box.activated.emit(at)
