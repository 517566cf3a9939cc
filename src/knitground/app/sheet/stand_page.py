"""How tiles stand that are not of the size of the map's cells."""

from collections.abc import Callable
from itertools import islice
from typing import Any, get_args

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QLabel, QToolButton, QWidget

from knitground.app.allowed import NO_TILE, allow
from knitground.app.guard import guarded
from knitground.app.known import known, with_id
from knitground.app.session import Session
from knitground.app.sheet.grid_page import BOX
from knitground.app.sheet.standing_cell import Cell, cell_under
from knitground.app.theme.colours import theme
from knitground.app.widgets import (
    ChoiceBox,
    button,
    column,
    draw_checker,
    fill_box,
    image_of,
    in_row,
    number,
    quiet,
    row,
    set_quietly,
)
from knitground.core.edits.standing import cuts_of, move_standing, stand, stand_by_foot
from knitground.core.project.document import Document
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.cut import LARGEST_TILE, Anchor, Cut, TileShape, stands_at
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.whole import border_of

_ROOM = 132
_LOOKED_AT = 64
_SHAPES: dict[TileShape, str] = {
    "square": "Square",
    "isometric": "Isometric",
    "hex-pointed": "Pointed hex",
    "hex-flat": "Flat hex",
}
_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class Standing(QWidget):
    """A tile as it stands on a cell of the map; a drag or the arrow keys move it there."""

    def __init__(self, page: "StandPage") -> None:
        super().__init__()
        self._page = page
        self._from: tuple[QPointF, tuple[int, int]] | None = None
        self._scale, self._middle = 1.0, QPointF()
        self.setFixedSize(_ROOM, _ROOM)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("How it stands on a cell")
        self.setToolTip("A tile on a cell of the map: drag it to where it stands, or use the arrow keys")
        self.setCursor(Qt.CursorShape.SizeAllCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._page.cut is not None and event.button() == Qt.MouseButton.LeftButton:
            self._from = event.position(), (0, 0)
            self._page.document.begin("how tiles stand")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is None:
            return
        start, done = self._from
        far = (event.position() - start) / self._scale
        moved = round(far.x()), round(far.y())
        if moved != done:
            self._from = start, moved
            self._page.shift(moved[0] - done[0], moved[1] - done[1])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            self._from = None
            self._page.document.commit()
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._from is not None:
            self._from = None
            self._page.document.roll_back()
        elif event.key() in _STEPS:
            self._page.shift(*_STEPS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_checker(painter, QRectF(self.rect()), 8)
        painter.setPen(theme().colour("focus" if self.hasFocus() else "line"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        cut, tile, cell = self._page.cut, self._page.tile(), self._page.cell()
        if cut is None or tile is None:
            return
        left, top = stands_at(cut, (tile.shape[1], tile.shape[0]), cell[:2])
        all_of_it = QRectF(0, 0, *cell[:2]).united(QRectF(left, top, tile.shape[1], tile.shape[0]))
        if self._from is None:
            # While it is dragged the cell stays where it is under the pointer.
            room = min((_ROOM - 20) / all_of_it.width(), (_ROOM - 20) / all_of_it.height())
            self._scale = max(1, int(room)) if room >= 1 else room
            self._middle = all_of_it.center()
        painter.translate(QRectF(self.rect()).center() - self._middle * self._scale)
        painter.scale(self._scale, self._scale)
        painter.drawImage(QPointF(left, top), image_of(tile))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, width in (("panel", 3.0), ("thread", 1.5)):
            pen = QPen(theme().colour(colour), width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in border_of(cell[:2], cell.outline)]))


class StandPage(QWidget):
    """The anchor and the offset of the cuts of some tiles."""

    def __init__(self, session: Session, chosen: Callable[[], list[TileRef]]) -> None:
        super().__init__()
        self._session, self._chosen = session, chosen
        self.picture = Standing(self)
        self._says = quiet()
        self._says.setMinimumWidth(72)
        self._says.setToolTip("Parts beyond the cell are drawn over its neighbours")
        self.anchors: dict[Anchor, QToolButton] = {}
        points = QGridLayout()
        points.setSpacing(2)
        points.setContentsMargins(0, 0, 0, 0)
        group = QButtonGroup(self)
        for place, anchor in enumerate(get_args(Anchor)):
            knot = QToolButton()
            knot.setCheckable(True)
            knot.setFixedSize(28, 28)
            knot.setToolTip(f"Tile and cell share their {anchor.replace('-', ' ')}")
            knot.setAccessibleName(knot.toolTip())
            knot.clicked.connect(lambda _=False, name=anchor: self._change(anchor=name))
            group.addButton(knot)
            points.addWidget(knot, place // 3, place % 3)
            self.anchors[anchor] = knot
        self._offset_x = number(
            -LARGEST_TILE, LARGEST_TILE, lambda value: self._change(offset_x=value), "offset x", " px"
        )
        self._offset_y = number(
            -LARGEST_TILE, LARGEST_TILE, lambda value: self._change(offset_y=value), "offset y", " px"
        )
        for box in (self._offset_x, self._offset_y):
            box.setFixedWidth(BOX)
        self.shape = ChoiceBox("Shape of the cells that the tiles are drawn for")
        fill_box(self.shape, [(title, shape) for shape, title in _SHAPES.items()], "square")
        self.shape.setMinimumContentsLength(6)
        self.shape.show_in_full()
        self.shape.activated.connect(lambda _: self._change(shape=self.shape.currentData()))
        self.foot = button("By their foot", self._by_foot, "Propose an offset from where the art's foot is, for each")
        knots = column(QLabel("Anchor"), spacing=4)
        knots.addLayout(points)
        knots.addStretch(1)
        offsets = column(QLabel("Offset"), in_row(self._offset_x), in_row(self._offset_y), None, spacing=4)
        layout = row(self.picture, spacing=8)
        layout.addLayout(knots)
        layout.addLayout(offsets)
        layout.addLayout(column(self._says, in_row(self.shape, None), in_row(self.foot, None), None), 1)
        self.setLayout(layout)

    @property
    def document(self) -> Document:
        """The document that is changed."""
        return self._session.document

    @property
    def cut(self) -> Cut | None:
        """The cut whose numbers are shown: of the tile at hand, if it is among the chosen ones."""
        cuts, tile = cuts_of(self.document, self._chosen()), self._session.choices.tile
        if not cuts:
            return None
        at_hand = (tile.sheet, tile.cut) if tile is not None else cuts[0]
        return self.document.project.cuts[at_hand if at_hand in cuts else cuts[0]]

    def tile(self) -> Pixels | None:
        """The tile that is shown: the one at hand, or the fullest of some, which shows best how they stand."""
        ref, refs, derived = self._session.choices.tile, self._chosen(), self._session.derived
        if ref is not None and ref in refs and derived.usable([ref]):
            return derived.tile(ref)
        some = [tile for one in islice(refs, _LOOKED_AT) if (tile := derived.tile(one)) is not None]
        return max(some, key=lambda tile: int((tile[..., 3] > 0).sum()), default=None)

    def cell(self) -> Cell:
        """The cell that is shown."""
        return cell_under(self._session, self.cut)

    def refresh(self) -> None:
        """Shows the anchor as it is."""
        cut, cuts = self.cut, cuts_of(self.document, self._chosen())
        allow(self, "" if cut is not None else NO_TILE)
        if cut is None:
            self.picture.update()
            return
        self.anchors[cut.anchor or "bottom-left"].setChecked(True)
        set_quietly(self._offset_x, cut.offset_x)
        set_quietly(self._offset_y, cut.offset_y)
        self.shape.setCurrentIndex(self.shape.findData(cut.shape))
        cell = self.cell()
        says = f"On a cell of {cell.width} x {cell.height} px."
        of_images = all(known(with_id(self.document.project.sheets, sheet)).images for sheet, _ in cuts)
        what = "images" if of_images else "cuts"
        self._says.setText(f"{says} For {len(cuts)} {what} at once." if len(cuts) > 1 else says)
        self.picture.update()

    def show_tiles(self, refs: list[TileRef]) -> None:
        """Shows how some tiles stand."""
        self.refresh()

    def shift(self, across: int, down: int) -> None:
        """Moves the tiles of all these cuts on their cells."""
        document = self.document
        self._session.attempt(lambda: move_standing(document, cuts_of(document, self._chosen()), across, down))
        self.refresh()

    def _change(self, **changes: Any) -> None:
        document = self.document
        self._session.attempt(lambda: stand(document, cuts_of(document, self._chosen()), **changes))
        self.refresh()

    def _by_foot(self) -> None:
        cell = self.cell()
        self._session.attempt(lambda: stand_by_foot(self._session.derived, self._chosen(), cell[:2], cell.outline))
        self.refresh()
