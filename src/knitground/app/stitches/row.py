"""A stitch as one line of the list: its charts, what it lays, and how it fares."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QWidget

from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.stitches.chart_editor import draw_chart
from knitground.app.stitches.pieces import picture_of, told
from knitground.app.stitches.signs import Named, named_in
from knitground.app.theme.colours import theme
from knitground.app.widgets import Elided, Tick, TilePicture, column, in_widget, quiet, row
from knitground.core.stitches.charts import Chart, Step
from knitground.core.stitches.rules import Stitch, StitchSet
from knitground.core.stitches.why import Hindrance

PICTURE = 44
_MOST_CHARTS = 3


@dataclass(frozen=True)
class State:
    """How a stitch fares: what is wrong with it, and what it does in the cell under the pointer."""

    warning: str = ""
    here: Hindrance | None = None
    fires: bool = False


def details(stitch: Stitch) -> str:
    """What else is said of a stitch, in a few words."""
    found = []
    if stitch.turns or stitch.mirrors_x or stitch.mirrors_y:
        found.append("turned" if stitch.turns else "mirrored")
    if stitch.chance < 100:
        found.append(f"{stitch.chance:g}%")
    if stitch.apart:
        found.append(f"{stitch.apart} apart")
    if stitch.places.chequered or stitch.places.rows > 1 or stitch.places.columns > 1:
        found.append("here and there")
    onto = sorted({piece.onto for piece in stitch.pieces if piece.onto})
    found += [f"onto {name}" for name in onto]
    return " · ".join(found)


def wrong_in(chart: Chart, here: Hindrance | None) -> Step | None:
    """The sign of a chart that does not fit in the cell under the pointer, where it is this chart's as drawn."""
    if here is None or here.reason != "chart" or here.of != chart.of or here.orientation:
        return None
    return here.step


class ChartPictures(QWidget):
    """The charts of a stitch, side by side."""

    def __init__(self, stitch: Stitch, named: Callable[[str], tuple[Named, ...]]) -> None:
        super().__init__()
        self._charts = stitch.charts[:_MOST_CHARTS]
        self._named = named
        self.wrong: Hindrance | None = None
        self.setFixedSize(PICTURE * max(1, len(self._charts)) + 4 * max(0, len(self._charts) - 1), PICTURE)
        self.setToolTip("What it looks at; choose the line to change it")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, chart in enumerate(self._charts):
            room = QRectF(place * (PICTURE + 4), 0, PICTURE - 1, PICTURE - 1)
            wrong = self.wrong
            at = (
                wrong.step
                if wrong and wrong.reason == "chart" and wrong.of == chart.of and not wrong.orientation
                else None
            )
            draw_chart(painter, room, chart, self._named(chart.of), at)


class StitchRow(QWidget):
    """One stitch of a list."""

    SIZE = QSize(240, PICTURE + 8)

    switched = Signal(bool)

    def __init__(self, session: Session, number: int, stitch: Stitch, stitch_set: StitchSet) -> None:
        super().__init__()
        self.stitch = stitch
        self._switch = Tick("", "Whether it counts (Space)")
        # The list is gone through by arrow keys; a stop for each of its rows would make Tab useless.
        self._switch.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._switch.setFixedWidth(20)
        self._switch.setChecked(stitch.active)
        self._switch.toggled.connect(self.switched)
        place = self._place = quiet()
        place.setFixedWidth(24)
        place.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.number(number)
        project = session.document.project
        self._charts = ChartPictures(stitch, lambda of: named_in(project, stitch_set, of))
        tile = TilePicture(PICTURE, "What it lays; choose the line and click a tile on the sheet")
        first = next((piece for piece in stitch.pieces), None)
        tile.show_tile(picture_of(session, first) if first else None)
        tile.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        lays = " + ".join(told(session, piece) for piece in stitch.pieces) or "lays nothing"
        self._title = Elided(stitch.name or lays)
        self._rest = Elided(" · ".join(part for part in (lays if stitch.name else "", details(stitch)) if part))
        self._rest.setObjectName("quiet")
        self._plain = self._rest.text()
        layout = row(
            self._switch, place, self._charts, Arrow(), tile,
            in_widget(column(None, self._title, self._rest, None, spacing=1)), spacing=6,
        )  # fmt: skip
        layout.setContentsMargins(6, 3, 6, 3)
        layout.setStretch(5, 1)
        self.setLayout(layout)

    def number(self, number: int) -> None:
        """Shows another number, from 0."""
        self._place.setText(str(number + 1))
        self._switch.setAccessibleName(f"Stitch {number + 1} counts")

    def show_state(self, state: State, number_of: Callable[[int], str]) -> None:
        """Shows how the stitch fares."""
        here = state.here
        says = state.warning or self._plain
        if state.fires:
            says = "laid what lies under the pointer"
        elif here is not None:
            says = _HERE[here.reason].format(by=number_of(here.by) if here.by >= 0 else "an earlier one")
        self._charts.wrong = None if state.fires else here
        self._charts.update()
        self._rest.setVisible(bool(says))
        if self._rest.text() != says:
            self._rest.setText(says)
        name = "fine" if state.fires else "warning" if state.warning and here is None else "quiet"
        if self._rest.objectName() != name:
            self._rest.setObjectName(name)
            self._rest.style().polish(self._rest)

    @property
    def is_on(self) -> bool:
        """Whether it is ticked."""
        return self._switch.isChecked()

    def say(self, says: str) -> None:
        """Says something else in its second line."""
        self._rest.setText(says)

    def sizeHint(self) -> QSize:
        return self.SIZE


_HERE = {
    "chart": "the framed sign does not fit here",
    "chance": "fits here, but chance says no",
    "place": "fits here, but this cell is not one of its places",
    "earlier": "fits here, but {by} fires first",
    "room": "fits here, but something lies in its way",
}


class Heading(QWidget):
    """The line above the stitches of a course."""

    SIZE = QSize(240, 32)

    switched = Signal(bool)
    renamed = Signal()

    def __init__(self, number: int, name: str, active: bool) -> None:
        super().__init__()
        switch = Tick("", "Whether this course runs")
        switch.setFixedWidth(20)
        switch.setChecked(active)
        switch.setAccessibleName(f"Course {name} runs")
        switch.toggled.connect(self.switched)
        switch.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        title = Elided(f"Course {number + 1}: {name}")
        title.setObjectName("heading")
        title.setToolTip("Courses run one after another; a double click gives another name")
        layout = row(switch, title, spacing=6)
        layout.setContentsMargins(6, 2, 6, 2)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.renamed.emit()

    def sizeHint(self) -> QSize:
        return self.SIZE


class GroupHeading(QPushButton):
    """The line above stitches of one group; a click folds them."""

    SIZE = QSize(240, 28)

    folds = Signal()

    def __init__(self, group: str, count: int, folded: bool) -> None:
        super().__init__(f"{group} ({count}{', folded' if folded else ''})")
        self.setObjectName("flat")
        self.setStyleSheet("text-align: left; padding-left: 30px;")
        self.setToolTip("Show the stitches of this group" if folded else "Fold the stitches of this group")
        # After the click is done, as the line itself is made anew.
        self.clicked.connect(lambda: QTimer.singleShot(0, self, self.folds.emit))

    def sizeHint(self) -> QSize:
        return self.SIZE


class Arrow(QWidget):
    """Leads from the pattern to what is laid."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(18, PICTURE)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme().colour("quiet"), 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        y = self.height() / 2
        painter.drawLine(QPointF(2, y), QPointF(15, y))
        painter.drawPolyline([QPointF(10, y - 4), QPointF(15, y), QPointF(10, y + 4)])
