"""Small building blocks that several panels use."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QHelpEvent, QImage, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QToolButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.one_of import Tab
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon, icon


def image_of(pixels: NDArray[np.uint8], *, premultiplied: bool = False) -> QImage:
    """An image of (H, W, 4) uint8 pixels, with memory of its own."""
    solid = np.ascontiguousarray(pixels)
    height, width = solid.shape[:2]
    format_ = QImage.Format.Format_RGBA8888_Premultiplied if premultiplied else QImage.Format.Format_RGBA8888
    image = QImage(solid.data, width, height, 4 * width, format_)
    return image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied).copy()


def heading(text: str) -> QLabel:
    """A title."""
    return _label(text, "heading")


def quiet(text: str = "") -> QLabel:
    """A remark."""
    label = _label(text, "quiet")
    label.setWordWrap(True)
    return label


def _label(text: str, name: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName(name)
    return label


def button(text: str, act: Callable[[], object], tip: str = "", *, name: str = "", icon_name: str = "") -> QPushButton:
    """A push button that does one thing."""
    made = Tab(text) if name == "tab" else QPushButton(text)
    made.setObjectName(name)
    made.setToolTip(tip)
    made.setAccessibleName(text or tip)
    if icon_name:
        made.setIcon(icon(icon_name))
    made.clicked.connect(lambda: act())
    return made


class Elided(QLabel):
    """Lines of text that end in dots where there is no room for them, and never ask for more room than there is."""

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        room = self.fontMetrics()
        lines = [room.elidedText(line, Qt.TextElideMode.ElideRight, self.width()) for line in self.text().split("\n")]
        text = "\n".join(lines)
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)


def icon_button(icon_name: str, act: Callable[[], object], tip: str) -> QToolButton:
    """A small button with an icon alone."""
    made = QToolButton()
    made.setObjectName("flat")
    made.setIcon(icon(icon_name))
    made.setIconSize(QSize(16, 16))
    made.setToolTip(tip)
    made.setAccessibleName(tip)
    made.setFixedSize(28, 28)
    made.clicked.connect(lambda: act())
    return made


def number(low: int, high: int, changed: Callable[[int], object], name: str, suffix: str = "") -> QSpinBox:
    """A number to type, or to turn by wheel and arrow keys."""
    box = QSpinBox()
    box.setRange(low, high)
    box.setAccessibleName(name)
    box.setToolTip(name)
    box.setSuffix(suffix)
    box.setKeyboardTracking(False)
    box.lineEdit().setTextMargins(6, 0, 0, 0)
    box.valueChanged.connect(changed)
    return box


def set_quietly(box: QSpinBox, value: int) -> None:
    """Sets a number without telling anybody, as near as the box can show it, and not while it is being typed."""
    value = min(max(value, box.minimum()), box.maximum())
    if box.value() != value:
        box.blockSignals(True)
        box.setValue(value)
        box.blockSignals(False)


def row(*things: QWidget | None, spacing: int = 8) -> QHBoxLayout:
    """Widgets side by side; None is room that stretches."""
    layout = QHBoxLayout()
    _fill(layout, things, spacing)
    return layout


def column(*things: QWidget | None, spacing: int = 8) -> QVBoxLayout:
    """Widgets under one another; None is room that stretches."""
    layout = QVBoxLayout()
    _fill(layout, things, spacing)
    return layout


def _fill(layout: QBoxLayout, things: tuple[QWidget | None, ...], spacing: int) -> None:
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    for thing in things:
        if thing is None:
            layout.addStretch(1)
        else:
            layout.addWidget(thing)


_BESIDE_TEXT = 44


def draw_arrow_down(painter: QPainter, on: QWidget) -> None:
    """The arrow of whatever opens a list, at its right."""
    draw_icon(painter, "down", QRectF(on.width() - 22, on.height() / 2 - 7, 14, 14), theme().colour("quiet"))


class ChoiceBox(QComboBox):
    """A list that opens, with our own arrow."""

    opening = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setToolTip(name)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(8)

    def show_in_full(self) -> None:
        """Takes as much room as the longest of its entries needs."""
        widest = max(self.fontMetrics().horizontalAdvance(self.itemText(at)) for at in range(self.count()))
        self.setMinimumWidth(widest + _BESIDE_TEXT)

    def showPopup(self) -> None:
        self.opening.emit()
        super().showPopup()

    def event(self, event: QEvent) -> bool:
        if (
            event.type() == QEvent.Type.ToolTip
            and isinstance(event, QHelpEvent)
            and self._elided() != self.currentText()
        ):
            QToolTip.showText(event.globalPos(), f"{self.currentText()}\n{self.toolTip()}", self)
            return True
        return super().event(event)

    def _elided(self) -> str:
        """What there is room for of the text."""
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        room = self.style().subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        return self.fontMetrics().elidedText(self.currentText(), Qt.TextElideMode.ElideRight, room.width() - 4)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        option, painter = QStyleOptionComboBox(), QStylePainter(self)
        self.initStyleOption(option)
        option.currentText = self._elided()
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        draw_arrow_down(painter, self)


class Tick(QCheckBox):
    """A box to tick, drawn so that it stands out on light and dark alike."""

    def __init__(self, text: str, tip: str = "") -> None:
        super().__init__(text)
        self.setToolTip(tip)
        self.setMinimumHeight(28)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(1, self.height() / 2 - 8, 16, 16)
        painter.setPen(QPen(theme().colour("focus" if self.hasFocus() else "quiet"), 1.5))
        whole = self.checkState() == Qt.CheckState.Checked
        painter.setBrush(theme().colour("thread" if whole else "panel"))
        painter.drawRoundedRect(box, 4, 4)
        if self.checkState() == Qt.CheckState.PartiallyChecked:
            painter.fillRect(box.adjusted(4, 7, -4, -7), theme().colour("ink"))
        elif self.isChecked():
            painter.setPen(QPen(theme().colour("on_thread"), 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            corner = box.topLeft()
            painter.drawPolyline([corner + QPointF(*spot) for spot in ((4, 8.5), (7, 11.5), (12, 5))])
        painter.setPen(theme().colour("ink" if self.isEnabled() else "quiet"))
        painter.drawText(self.rect().adjusted(25, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.text())

    def sizeHint(self) -> QSize:
        return QSize(30 + self.fontMetrics().horizontalAdvance(self.text()), 28)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def hitButton(self, at: QPoint) -> bool:
        return self.rect().contains(at)


def fill_box(box: QComboBox, entries: list[tuple[str, str]], current: str) -> None:
    """Shows (text, id) entries in a box without telling anybody; an empty box hides."""
    box.blockSignals(True)
    box.clear()
    for text, data in entries:
        box.addItem(text, data)
    box.setCurrentIndex(box.findData(current))
    show_if(box, bool(entries))
    box.blockSignals(False)


def show_if(part: QWidget, wanted: bool) -> None:
    """Shows a part of the window or hides it; one that has no place there yet would be a window of its own."""
    if not wanted or part.parentWidget() is not None:
        part.setVisible(wanted)


def in_widget(layout: QLayout) -> QWidget:
    """A widget round a layout."""
    widget = QWidget()
    widget.setLayout(layout)
    return widget


def in_row(*things: QWidget | None) -> QWidget:
    """A widget round a row of widgets."""
    return in_widget(row(*things))


def card(layout: QBoxLayout, margin: int = 12) -> QFrame:
    """A panel with a border round a layout."""
    frame = QFrame()
    frame.setObjectName("card")
    layout.setContentsMargins(margin, margin, margin, margin)
    frame.setLayout(layout)
    return frame


def scrolling(widget: QWidget) -> QScrollArea:
    """A widget that scrolls up and down where it is too tall."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(widget)
    return area


def _leave(going: QWidget) -> None:
    """Keeps the keyboard near what goes; else it would go on to whatever comes next in the window."""
    focus = QApplication.focusWidget()
    if focus is None or not (focus is going or going.isAncestorOf(focus)):
        return
    near = going.parentWidget()
    while near is not None and near.focusPolicy() == Qt.FocusPolicy.NoFocus:
        near = near.parentWidget()
    if near is not None:
        near.setFocus()


def clear(layout: QLayout) -> None:
    """Takes everything out of a layout and throws it away."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            _leave(widget)
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif item.layout() is not None:
            clear(known(item.layout()))
            known(item.layout()).deleteLater()


class TilePicture(QWidget):
    """A tile, enlarged with sharp pixels on a checker."""

    def __init__(self, size: int, tip: str = "") -> None:
        super().__init__()
        self.setFixedSize(size, size)
        self.setToolTip(tip)
        self._image: QImage | None = None
        self._backdrop = "checker"

    def show_tile(self, pixels: NDArray[np.uint8] | None, backdrop: str = "checker") -> None:
        """Shows (H, W, 4) pixels on a backdrop, or nothing."""
        self._backdrop = backdrop
        self._image = None if pixels is None else image_of(pixels)
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_backdrop(painter, QRectF(self.rect()), self._backdrop)
        if self._image is not None:
            painter.drawImage(fitted(self._image.size(), QRectF(self.rect())), self._image)
        painter.setPen(theme().colour("line"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


def fitted(size: QSize, room: QRectF) -> QRectF:
    """The largest rectangle of these proportions in the middle of some room."""
    scale = min(room.width() / max(1, size.width()), room.height() / max(1, size.height()))
    width, height = size.width() * scale, size.height() * scale
    return QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height)


def draw_checker(painter: QPainter, rect: QRectF, side: int) -> None:
    """Two quiet shades that show where a picture is transparent."""
    texture = QPixmap(2 * side, 2 * side)
    texture.fill(theme().colour("panel"))
    inner = QPainter(texture)
    shade = theme().colour("line", 110)
    inner.fillRect(side, 0, side, side, shade)
    inner.fillRect(0, side, side, side, shade)
    inner.end()
    painter.save()
    painter.setBrushOrigin(rect.topLeft())
    painter.fillRect(rect, QBrush(texture))
    painter.restore()


BACKDROPS = {"checker": "Checker", "light": "Light", "dark": "Dark"}


def draw_backdrop(painter: QPainter, rect: QRectF, name: str) -> None:
    """What shows through a picture: a checker, or a plain light or dark."""
    if name == "checker":
        draw_checker(painter, rect, 8)
    else:
        painter.fillRect(rect, QColor("#f2f2f2" if name == "light" else "#1c1c1c"))


def draw_button_frame(painter: QPainter, button: QAbstractButton) -> None:
    """The panel and border of a button that paints itself; the border says whether it is chosen or has the focus."""
    border = "thread" if button.isChecked() else "focus" if button.hasFocus() else "line"
    painter.setPen(QPen(theme().colour(border), 2 if button.isChecked() else 1))
    painter.setBrush(theme().colour("panel"))
    painter.drawRoundedRect(QRectF(button.rect()).adjusted(1, 1, -1, -1), 6, 6)


def draw_thread(painter: QPainter, start: QPointF, end: QPointF, colour: str) -> None:
    """A short thick thread of a terrain's colour, dark round the edge."""
    for shade, width in ((QColor(22, 17, 15), 10), (QColor(colour), 7)):
        painter.setPen(QPen(shade, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(start, end)
