"""Looks at all that shows in the window as one would who counts pixels: what is cut off, has no name, or is mute."""

from collections.abc import Iterator

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollBar,
    QWidget,
)

from knitground.app.session import STAGES
from knitground.app.widgets import Elided
from knitground.app.window import Window

_CONTROLS = (QAbstractButton, QLineEdit, QAbstractSpinBox, QComboBox, QAbstractSlider, QAbstractItemView)


def pages(window: Window) -> Iterator[str]:
    """Shows every stage, and every page of its cards; tells where it is."""
    for stage in STAGES:
        window.session.set_stage(stage)
        QApplication.processEvents()
        yield stage
        yield from _turned(window, window.panels[stage], stage, set())


def _turned(window: Window, panel: QWidget, where: str, seen: set[str]) -> Iterator[str]:
    sheets = {sheet.id for sheet in window.session.document.project.sheets}
    for tab in panel.findChildren(QAbstractButton, "tab"):
        if tab.isVisible() and tab.isEnabled() and tab.text() not in seen | sheets:
            seen.add(tab.text())
            tab.click()
            QApplication.processEvents()
            yield f"{where}, {tab.text()}"
            yield from _turned(window, panel, f"{where}, {tab.text()}", seen)


def shown(root: QWidget) -> list[QWidget]:
    """All that shows, but for what widgets are made of inside."""
    return [
        one
        for one in root.findChildren(QWidget)
        if one.isVisible()
        and not isinstance(one.parentWidget(), QAbstractSpinBox | QComboBox)
        and not isinstance(one, QScrollBar)
        and not one.objectName().startswith("qt_")
    ]


def controls(root: QWidget) -> list[QWidget]:
    """All that one can click, type in or reach by Tab."""
    return [
        one
        for one in shown(root)
        if isinstance(one, _CONTROLS)
        or (one.focusPolicy() != Qt.FocusPolicy.NoFocus and not isinstance(one, QAbstractScrollArea))
    ]


def words(widget: QWidget) -> str:
    """What stands on a widget."""
    for name in ("text", "currentText"):
        if callable(says := getattr(widget, name, None)):
            return str(says())
    return ""


def told(widget: QWidget) -> str:
    """Which widget it is, for who reads that something is wrong with it."""
    above = widget.parentWidget()
    return f"{type(widget).__name__} “{widget.accessibleName() or words(widget)}” in {type(above).__name__}"


def cut_off(root: QWidget) -> list[str]:
    """What does not show whole: words that are wider than what they stand on, and parts beyond a border."""
    found = [f"{told(one)}: {words(one)}" for one in shown(root) if _too_narrow(one)]
    for one in controls(root):
        seen = one.visibleRegion().boundingRect()
        if not _inside(one, QAbstractScrollArea) and (seen.width() < one.width() or seen.height() < one.height()):
            found.append(f"{told(one)}: {seen.width()} x {seen.height()} of {one.width()} x {one.height()}")
    return found


def _too_narrow(one: QWidget) -> bool:
    text = words(one)
    if not text or _inside(one, QAbstractItemView):
        return False
    room = max(map(one.fontMetrics().horizontalAdvance, text.split("\n")))
    if isinstance(one, Elided):
        return room > one.width()
    if isinstance(one, QLabel):
        if one.wordWrap():
            return one.heightForWidth(one.width()) > one.height()
        return one.sizeHint().width() > one.width()
    if isinstance(one, QAbstractButton):
        return one.sizeHint().width() > one.width()
    if isinstance(one, QComboBox):
        return room + 38 > one.width() and text not in _given(one)
    return isinstance(one, QAbstractSpinBox) and room + 12 > one.width()


def _given(one: QWidget) -> set[str]:
    """Names that people gave, which may be of any length and end in dots."""
    project = one.window().session.document.project
    kinds = (project.stitch_sets, project.join_sets, project.grounds, project.recipes, project.mixes)
    return {thing.name for kind in kinds for thing in kind}


def _inside(one: QWidget, kind: type[QWidget]) -> bool:
    """Whether something lies in a list, where names end in dots, or in what scrolls."""
    above = one.parentWidget()
    while above is not None and not isinstance(above, kind):
        above = above.parentWidget()
    return above is not None
