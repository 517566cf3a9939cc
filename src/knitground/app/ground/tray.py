"""The tray: swatches and tiles of all sheets, laid out as the artist likes, to be picked from."""

from typing import Any

from PySide6.QtCore import QEvent, QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QHelpEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QInputDialog, QToolTip, QWidget

from knitground.app.allowed import a_menu
from knitground.app.clipboard import BLOCK, clip
from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import button, column, draw_backdrop, fitted, image_of, in_row, quiet, scrolling
from knitground.core.edits.block_tiles import block_of_tiles
from knitground.core.edits.blocks import lift, turned
from knitground.core.edits.clipping import as_text
from knitground.core.edits.keeping import (
    block_on,
    keep_block,
    keep_tile,
    place_swatch,
    remove_swatch,
    rename_swatch,
    swatch_picture,
)
from knitground.core.errors import BadRequest
from knitground.core.ground.swatch import TRAY_COLUMNS, Swatch

_SLOT, _GAP = 44, 3
_NAME = 16
_ROWS_AT_LEAST = 9


class TrayView(QWidget):
    """The places of the tray; a click takes in hand what lies there, a drag moves it elsewhere."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAccessibleName("Tray")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._at = (0, 0)
        self._dragged: tuple[Swatch, QPoint] | None = None
        self._moved = False
        self._pictures: dict[str, tuple[tuple[Any, ...], QImage | None]] = {}
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the tray as it is."""
        self.setFixedSize(self.sizeHint())
        self.update()

    def sizeHint(self) -> QSize:
        rows = max((one.y + 2 for one in self._swatches), default=0)
        return QSize(TRAY_COLUMNS * (_SLOT + _GAP) + _GAP, max(_ROWS_AT_LEAST, rows) * (_SLOT + _NAME + _GAP) + _GAP)

    def slot(self, x: int, y: int) -> QRect:
        """Where a place of the tray lies."""
        return QRect(_GAP + x * (_SLOT + _GAP), _GAP + y * (_SLOT + _NAME + _GAP), _SLOT, _SLOT + _NAME)

    @property
    def _swatches(self) -> tuple[Swatch, ...]:
        return self._session.document.project.swatches

    def _place(self, at: QPoint) -> tuple[int, int]:
        return (at.x() - _GAP) // (_SLOT + _GAP), (at.y() - _GAP) // (_SLOT + _NAME + _GAP)

    def _lying(self, place: tuple[int, int]) -> Swatch | None:
        return next((one for one in self._swatches if (one.x, one.y) == place), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        self._at, self._moved = self._place(at), False
        swatch = self._lying(self._at)
        if swatch is not None and event.button() == Qt.MouseButton.LeftButton:
            self._dragged = swatch, at
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is None:
            return
        far = event.position().toPoint() - self._dragged[1]
        self._moved = self._moved or far.manhattanLength() >= QApplication.startDragDistance()
        self._at = self._place(event.position().toPoint())
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, self._dragged = self._dragged, None
        if dragged is None:
            return
        swatch, place = dragged[0], self._place(event.position().toPoint())
        if self._moved and place != (swatch.x, swatch.y):
            self._session.attempt(lambda: place_swatch(self._session.document, swatch.id, *place))
        elif not self._moved:
            self._session.attempt(lambda: self.take(swatch))
        self.update()

    def contextMenuEvent(self, event: Any) -> None:
        self._at = self._place(event.pos())
        swatch = self._lying(self._at)
        if swatch is not None:
            menu = a_menu(self)
            menu.addAction("Take in hand", lambda: self._session.attempt(lambda: self.take(swatch)))
            menu.addAction("Copy for another project", lambda: self._session.attempt(lambda: self._copy(swatch)))
            menu.addAction("Rename…", lambda: self._rename(swatch))
            menu.addAction("Take off the tray", lambda: remove_swatch(self._session.document, swatch.id))
            menu.popup(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
        }  # fmt: skip
        swatch = self._lying(self._at)
        if event.key() in steps:
            across, down = steps[Qt.Key(event.key())]
            self._at = min(max(self._at[0] + across, 0), TRAY_COLUMNS - 1), max(self._at[1] + down, 0)
            self.update()
        elif swatch is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._session.attempt(lambda: self.take(swatch))
        elif swatch is not None and event.key() == Qt.Key.Key_Delete:
            remove_swatch(self._session.document, swatch.id)
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            swatch = self._lying(self._place(event.pos()))
            QToolTip.showText(event.globalPos(), "" if swatch is None else swatch.name, self)
            return True
        return super().event(event)

    def take(self, swatch: Swatch) -> None:
        """Takes a swatch in hand, and the tool that lays it."""
        session = self._session
        if swatch.tile is not None:
            session.choose(tile=swatch.tile, orientation=swatch.orientation, lays_mix=False, repeats=False)
            session.tool_wanted.emit("draw")
        else:
            session.choose(lifted=block_on(session.document, swatch), repeats=True, lays_mix=False)
            session.tool_wanted.emit("place")

    def _copy(self, swatch: Swatch) -> None:
        """Puts a swatch on the clipboard as a block; another project with the same sheets can paste and keep it."""
        document = self._session.document
        if swatch.tile is not None:
            block = turned(block_of_tiles([swatch.tile], document.palette), swatch.orientation)
        else:
            block = block_on(document, swatch)
        clip(BLOCK, as_text(block, document.palette), self._picture(swatch))
        self._session.say(f"“{swatch.name}” is copied; paste it elsewhere with Ctrl+V, and keep it with Shift+K.")

    def _rename(self, swatch: Swatch) -> None:
        name, ok = QInputDialog.getText(self, "Rename swatch", "Name", text=swatch.name)
        if ok:
            self._session.attempt(lambda: rename_swatch(self._session.document, swatch.id, name))

    def _picture(self, swatch: Swatch) -> QImage | None:
        derived, project = self._session.derived, self._session.document.project
        made_from = swatch, derived.sliced(), project.join_sets, project.stitch_sets
        known_from, image = self._pictures.get(swatch.id, ((), None))
        if len(known_from) != len(made_from) or any(a is not b for a, b in zip(known_from, made_from, strict=True)):
            pixels = swatch_picture(derived, swatch)
            image = None if pixels is None else image_of(pixels, premultiplied=True)
            self._pictures[swatch.id] = made_from, image
        return image

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("well"))
        painter.setPen(QPen(theme().colour("line"), 1))
        for y in range(self.height() // (_SLOT + _NAME + _GAP)):
            for x in range(TRAY_COLUMNS):
                painter.drawRect(self.slot(x, y).adjusted(0, 0, -1, -1 - _NAME))
        for swatch in self._swatches:
            if self._dragged is None or not self._moved or swatch is not self._dragged[0]:
                self._draw(painter, swatch, self.slot(swatch.x, swatch.y))
        if self._dragged is not None and self._moved:
            self._draw(painter, self._dragged[0], self.slot(*self._at))
        if self.hasFocus() or self._lying(self._at):
            painter.setPen(QPen(theme().colour("thread"), 2))
            painter.drawRect(self.slot(*self._at).adjusted(1, 1, -1, -1 - _NAME))

    def _draw(self, painter: QPainter, swatch: Swatch, slot: QRect) -> None:
        room = QRectF(slot.adjusted(1, 1, -1, -1 - _NAME))
        draw_backdrop(painter, room, self._session.choices.backdrop)
        image = self._picture(swatch)
        if image is not None:
            painter.drawImage(fitted(image.size(), room.adjusted(2, 2, -2, -2)), image)
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        painter.setPen(theme().colour("ink"))
        below = QRect(slot.left(), slot.bottom() - _NAME, slot.width(), _NAME)
        text = painter.fontMetrics().elidedText(swatch.name, Qt.TextElideMode.ElideMiddle, below.width())
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, text)


class Tray(QWidget):
    """The tray with what one can do to fill it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.view = TrayView(session)
        keep = button("Keep what is in hand", lambda: session.attempt(self.keep),
                      "Put the selected cells or the tile in hand on the tray (Shift+K)", icon_name="plus")  # fmt: skip
        says = quiet("Click to take in hand; drag to arrange; right click for more.")
        self.setLayout(column(in_row(keep, None), says, scrolling(self.view), spacing=6))

    def keep(self) -> None:
        """Puts the selected cells on the tray, or else the block or tile in hand."""
        session = self._session
        selected, ground, chosen = session.selected, session.ground, session.choices
        if selected is not None and ground is not None:
            planes = session.document.state.planes[ground.id]
            block, _ = lift(ground, planes, session.layers_worked_on, selected.shape)
            made = keep_block(session.document, block)
        elif chosen.lifted is not None and (chosen.holds_block or chosen.repeats or chosen.tile is None):
            made = keep_block(session.document, chosen.lifted)
        elif chosen.tile is not None:
            made = keep_tile(session.document, chosen.tile, chosen.orientation)
        else:
            raise BadRequest("Nothing is selected or in hand; select cells (S) or click a tile first.")
        name = next(one.name for one in session.document.project.swatches if one.id == made)
        session.say(f"“{name}” lies on the tray now.", "The tray, or the sheets again")
