"""How tiles stand that are not of the size of the map's cells."""

from dataclasses import replace
from itertools import islice
from typing import Any, get_args

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QLabel, QToolButton, QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.grid_page import BOX
from knitground.app.theme.colours import theme
from knitground.app.widgets import Tick, column, draw_checker, image_of, in_row, number, quiet, row, set_quietly
from knitground.core.edits.sheets import set_cut
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.cut import LARGEST_TILE, Anchor, stands_at
from knitground.core.sheet.slices import Slices

_ROOM = 132
_LOOKED_AT = 64


class Standing(QWidget):
    """A tile of the cut as it stands on a cell of the map."""

    def __init__(self, session: Session, view: SheetView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self.setFixedSize(_ROOM, _ROOM)
        self.setToolTip("A tile of this cut (the chosen one, if there is one) on a cell of the map")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_checker(painter, QRectF(self.rect()), 8)
        painter.setPen(theme().colour("line"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        slices, cut = self._view.slices, self._view.cut
        if slices is None or cut is None or not slices.held.any():
            return
        tile, cell = self._tile(slices), self.cell()
        left, top = stands_at(cut, (tile.shape[1], tile.shape[0]), cell)
        all_of_it = QRectF(0, 0, *cell).united(QRectF(left, top, tile.shape[1], tile.shape[0]))
        scale = min((_ROOM - 20) / all_of_it.width(), (_ROOM - 20) / all_of_it.height())
        scale = max(1, int(scale)) if scale >= 1 else scale
        painter.translate(QRectF(self.rect()).center() - all_of_it.center() * scale)
        painter.scale(scale, scale)
        painter.drawImage(QPointF(left, top), image_of(tile))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, width in (("panel", 3.0), ("thread", 1.5)):
            pen = QPen(theme().colour(colour), width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.drawPolygon(_outline(cell, cut.shape))

    def cell(self) -> tuple[int, int]:
        """Width and height of the cell that is shown: of the ground, or for isometric tiles of their foot."""
        cut, ground = self._view.cut, self._session.ground
        if known(cut).shape == "isometric":
            width = known(cut).tile_width
            return width, max(1, width // 2)
        return (ground.tile_width, ground.tile_height) if ground else (16, 16)

    def _tile(self, slices: Slices) -> Pixels:
        ref = self._session.choices.tile
        if ref is not None and (ref.sheet, ref.cut) == (known(self._view.sheet).id, slices.cut.id):
            chosen = slices.tile(ref.column, ref.row)
            if chosen is not None:
                return chosen
        # The fullest of some tiles shows best how they stand.
        some = [slices.cell(*cell) for cell in islice(slices.cells(), _LOOKED_AT)]
        return max(some, key=lambda tile: int((tile[..., 3] > 0).sum()))


class StandPage(QWidget):
    """The anchor and the offset of a cut."""

    def __init__(self, session: Session, view: SheetView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self.picture = Standing(session, view)
        self._says = quiet()
        self._says.setMinimumWidth(160)
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
        self.isometric = Tick("Isometric", "The foot of each tile is a diamond, half as high as wide")
        self.isometric.clicked.connect(lambda on: self._change(shape="isometric" if on else "square"))
        knots = column(QLabel("Anchor"), spacing=4)
        knots.addLayout(points)
        knots.addStretch(1)
        offsets = column(
            QLabel("Offset"), in_row(self._offset_x), in_row(self._offset_y), self.isometric, None, spacing=4
        )
        layout = row(self.picture, spacing=20)
        layout.addLayout(knots)
        layout.addLayout(offsets)
        layout.addLayout(column(self._says, None), 1)
        self.setLayout(layout)

    def refresh(self) -> None:
        """Shows the anchor as it is."""
        cut = self._view.cut
        if cut is None:
            return
        self.anchors[cut.anchor or "bottom-left"].setChecked(True)
        set_quietly(self._offset_x, cut.offset_x)
        set_quietly(self._offset_y, cut.offset_y)
        self.isometric.setChecked(cut.shape == "isometric")
        wide, high = self.picture.cell()
        self._says.setText(f"On a cell of {wide} x {high} px. Parts beyond the cell are drawn over its neighbours.")
        self.picture.update()

    def _change(self, **changes: Any) -> None:
        sheet, cut = self._view.sheet, self._view.cut
        if sheet and cut:
            self._session.attempt(lambda: set_cut(self._session.document, sheet.id, replace(cut, **changes)))
            self.refresh()


def _outline(cell: tuple[int, int], shape: str) -> QPolygonF:
    width, height = cell
    if shape == "isometric":
        across, down = QPointF(width / 2, 0), QPointF(0, height / 2)
        return QPolygonF([down, across, across * 2 + down, across + down * 2])
    return QPolygonF(QRectF(0, 0, width, height))
