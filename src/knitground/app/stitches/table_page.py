"""The page of all neighbourhoods that the grounds hold: how often each occurs, and what is laid there."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QWidget

from knitground.app.allowed import allow
from knitground.app.guard import guarded
from knitground.app.jobs import Job
from knitground.app.one_of import OneOf
from knitground.app.session import Session
from knitground.app.stitches.signs import named_in
from knitground.app.theme.colours import theme
from knitground.app.widgets import (
    button,
    clear,
    column,
    draw_backdrop,
    draw_button_frame,
    fitted,
    image_of,
    in_widget,
    quiet,
    row,
    scrolling,
)
from knitground.core.edits.neighbourhoods import Found, stitch_for, table_of
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, orient

_MOST = 120
_NONE_CHOSEN = "Choose a neighbourhood first."
_COLUMNS = 5
_WIDE, _HIGH, _CHART = 79, 62, 36


class _Made(NamedTuple):
    """What the table was made from."""

    of: tuple[object, ...]
    found: list[Found]


class _Entry(OneOf):
    """A neighbourhood: its marks, what lies there, how often."""

    def __init__(self, found: Found, colours: list[tuple[str, str]], tile: NDArray[np.uint8] | None) -> None:
        super().__init__()
        self.found = found
        self._colours = colours
        self._image = None if tile is None else image_of(tile)
        self.setFixedSize(_WIDE, _HIGH)
        one = found.neighbourhood
        taken = "no stitch fires here" if one.untaken else "a stitch fires here"
        self.setToolTip(f"{one.cells} cells, first at {one.column}, {one.row}: {taken}; a click leads there")
        self.setAccessibleName(f"Neighbourhood at {one.column}, {one.row}")

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, _HIGH)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_button_frame(painter, self)
        one, side = self.found.neighbourhood, _CHART / 3
        for place, mark in enumerate(one.marks):
            cell = QRectF(5 + place % 3 * side, 5 + place // 3 * side, side - 1, side - 1)
            letter, colour = self._colours[mark] if mark < len(self._colours) else ("?", "")
            painter.fillRect(cell, QColor(colour) if colour else theme().colour("window"))
            if place == 4 and mark:
                painter.setPen(QColor(22, 17, 15))
                painter.drawText(cell, Qt.AlignmentFlag.AlignCenter, letter)
        room = QRectF(5 + _CHART + 4, 5, _CHART - 4, _CHART - 4)
        draw_backdrop(painter, room, "checker")
        if self._image is not None:
            painter.drawImage(fitted(self._image.size(), room), self._image)
        elif one.untaken:
            painter.setPen(QPen(theme().colour("warning"), 2))
            painter.drawRect(room)
            painter.drawLine(room.topLeft(), room.bottomRight())
        painter.setPen(theme().colour("warning" if one.untaken else "quiet"))
        text = f"{one.untaken} open" if one.untaken else f"{one.cells} x"
        painter.drawText(QRectF(5, _HIGH - 19, _WIDE - 10, 16), Qt.AlignmentFlag.AlignLeft, text)


class TablePage(QWidget):
    """All neighbourhoods of the plans of a set, those that no stitch takes first."""

    stitch_wanted = Signal(object)
    cell_wanted = Signal(int, int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._known: _Made | None = None
        self._job: Job | None = None
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(4)
        self._says = quiet()
        self._make = button("Make a stitch of it", self._make_stitch, "A stitch that fits just this neighbourhood")
        allow(self._make, _NONE_CHOSEN)
        inside = in_widget(column(in_widget(self._grid), None))
        top = row(self._says, self._make)
        top.setStretch(0, 1)
        layout = column(in_widget(top), scrolling(inside), spacing=4)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        session.changed.connect(lambda _: self.refresh())

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Looks again, beside the window, where something it shows is another now."""
        session, owner = self._session, self._session.stitch_set
        if not self.isVisible() or owner is None:
            return
        of = (owner, session.document.project.grounds, *session.document.state.planes.values())
        if self._known is not None and _same(self._known.of, of):
            return
        if self._job is not None:
            self._job.cancel()
        frozen, document = session.derived.at_this_moment(), session.document
        job = self._job = Job("Looking at all neighbourhoods", lambda progress: table_of(frozen, owner, progress))

        def show(found: list[Found]) -> None:
            if self._job is job and document is session.document:
                self._job, self._known = None, _Made(of, found)
                self._show()

        job.succeeded.connect(show)
        job.start()

    @property
    def entries(self) -> list[_Entry]:
        """What is shown, from the first."""
        known = [one for one in self.findChildren(_Entry) if self._grid.indexOf(one) >= 0]
        return sorted(known, key=self._grid.indexOf)

    def _show(self) -> None:
        session, owner = self._session, self._session.stitch_set
        found = self._known.found if self._known else []
        clear(self._grid)
        if owner is None:
            return
        colours = [("", ""), *((one.letter, one.colour) for one in named_in(session.document.project, owner, ""))]
        for place, one in enumerate(found[:_MOST]):
            entry = _Entry(one, colours, self._picture(one.neighbourhood.code))
            entry.clicked.connect(lambda _=False, which=entry: self._choose(which))
            self._grid.addWidget(entry, place // _COLUMNS, place % _COLUMNS)
        open_ones = sum(one.neighbourhood.untaken > 0 for one in found)
        more = f", the first {_MOST} shown" if len(found) > _MOST else ""
        self._says.setText(
            f"{len(found)} neighbourhoods, {open_ones} without a stitch{more}"
            if found
            else "No plan of it is painted yet."
        )
        allow(self._make, _NONE_CHOSEN)

    def _picture(self, code: int) -> NDArray[np.uint8] | None:
        if code <= 0:
            return None
        pixels = self._session.derived.tile(self._session.document.palette.ref(code & NUMBER_MASK))
        return None if pixels is None else orient(np.asarray(pixels), code >> ORIENTATION_SHIFT)

    def _choose(self, chosen: _Entry) -> None:
        for entry in self.entries:
            entry.setChecked(entry is chosen)
        allow(self._make, "")
        found = chosen.found
        if any(ground.id == found.ground for ground in self._session.document.project.grounds):
            self._session.choose(ground_id=found.ground, layer_id=found.layer)
            self.cell_wanted.emit(found.neighbourhood.row, found.neighbourhood.column)

    def _make_stitch(self) -> None:
        chosen = next((entry for entry in self.entries if entry.isChecked()), None)
        owner = self._session.stitch_set
        if chosen is not None and owner is not None:
            self.stitch_wanted.emit(stitch_for(owner, chosen.found.neighbourhood, self._session.choices.tile))


def _same(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    return len(one) == len(other) and all(a is b for a, b in zip(one, other, strict=True))
