"""Stitches seen on the ground: where the one at hand fires, where another keeps it out, and why not here."""

from collections.abc import Callable, Mapping

from PySide6.QtCore import QObject, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from knitground.app.canvas.ground_view import GroundView
from knitground.app.canvas.lines import DARK
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.core.edits.stitching import number_of
from knitground.core.grid.rect import CellRect
from knitground.core.layers.layer import Place
from knitground.core.layers.stitched import StitchedLayer, as_stitched
from knitground.core.stitches.lay import Firing
from knitground.core.stitches.why import Hindrance

_SMALLEST, _LETTERED = 7, 20
_MOST = 6000
_WAIT_MS = 40


def layer_of(session: Session) -> StitchedLayer | None:
    """The layer of the ground at hand on which the set at hand is seen."""
    ground, owner = session.ground, session.stitch_set
    layers = [layer for layer in (session.layer, *(ground.layers if ground else ())) if layer is not None]
    found = (as_stitched(layer) for layer in layers)
    return next((one for one in found if one and owner and one.stitch_set == owner.id), None)


class Live(QObject):
    """Draws where the stitch at hand fires, and tells how all of them fare under the pointer."""

    def __init__(
        self, session: Session, tell: Callable[[Mapping[int, Hindrance | None]], None], parent: QObject
    ) -> None:
        super().__init__(parent)
        self._session, self._tell = session, tell
        self._cell: tuple[int, int] | None = None
        self._known: tuple[tuple[object, ...], Firing] | None = None
        self._soon = QTimer(self, singleShot=True, interval=_WAIT_MS)
        self._soon.timeout.connect(self._look)
        session.changed.connect(lambda change: self._soon.start())

    def point(self, spot: tuple[float, float] | None) -> None:
        """Notes over which flat place the pointer is."""
        ground = self._session.ground
        cell = ground.board.cell_at(*spot) if ground is not None and spot is not None else None
        if cell != self._cell:
            self._cell = cell
            self._soon.start()

    def draw(self, painter: QPainter, view: GroundView) -> None:
        """Draws where the stitch at hand fires, and where it would."""
        session, layer = self._session, layer_of(self._session)
        if session.choices.stage != "stitches" or layer is None or session.stitch is None or not session.stitch.active:
            return
        with view.moved_with(layer):
            self._draw(painter, view, layer)

    def _draw(self, painter: QPainter, view: GroundView, layer: StitchedLayer) -> None:
        seen, side = view.cells_in_view(), view.cell_on_widget()
        if min(side.width(), side.height()) < _SMALLEST or seen.is_empty or seen.height * seen.width > _MOST * 8:
            return
        found = self._firing(layer, seen)
        if found is None:
            return
        fires = [(row, column) for row, column in zip(*(one.tolist() for one in found.fires.nonzero()), strict=True)]
        kept = [(row, column) for row, column in zip(*(one.tolist() for one in found.kept_out.nonzero()), strict=True)]
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, view.knitted is not None and side.height() > 0)
        self._outline(painter, view, seen, fires[:_MOST], theme().colour("thread"), Qt.PenStyle.SolidLine)
        self._outline(painter, view, seen, kept[:_MOST], QColor(250, 210, 110), Qt.PenStyle.DashLine)
        if side.height() >= _LETTERED:
            for row, column in kept[:_MOST]:
                by = int(found.by[row, column])
                self._name(painter, view, seen, row, column, str(by + 1) if by >= 0 else "–")
        painter.restore()

    def _firing(self, layer: StitchedLayer, seen: CellRect) -> Firing | None:
        session = self._session
        ground, owner, stitch = session.ground, session.stitch_set, session.stitch
        if ground is None or owner is None or stitch is None:
            return None
        knitted = session.derived.knitted(ground.id)
        table = knitted.tables.get(layer.id)
        if table is None:
            return None
        known = (table, seen, stitch.id, *knitted.planes.values())
        if self._known is None or not _same(self._known[0], known):
            number = number_of(owner, stitch.id)
            planes = knitted.seen(layer.id, knitted.planes[layer.id])
            found = layer.firing(ground.board, planes, table, knitted.seed, seen, number)
            self._known = known, found
        return self._known[1]

    def _outline(
        self,
        painter: QPainter,
        view: GroundView,
        seen: CellRect,
        cells: list[tuple[int, int]],
        colour: QColor,
        style: Qt.PenStyle,
    ) -> None:
        for line, width in ((DARK, 3.0), (colour, 1.5)):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(line, width, style if line is colour else Qt.PenStyle.SolidLine))
            for row, column in cells:
                painter.drawPolygon(self._cell_outline(view, seen, row, column))

    def _cell_outline(self, view: GroundView, seen: CellRect, row: int, column: int) -> QPolygonF:
        knitted = view.knitted
        assert knitted is not None  # outlines are drawn over a ground alone
        y, x = (int(n) for n in knitted.ground.board.flat("cells", row + seen.top, column + seen.left))
        inset = 1.5 / max(4.0, view.cell_on_widget().height())
        return view.outline(y + inset, x + inset, y + 1 - inset, x + 1 - inset)

    def _name(self, painter: QPainter, view: GroundView, seen: CellRect, row: int, column: int, text: str) -> None:
        box = view.cells_rect(CellRect(row + seen.top, column + seen.left, 1, 1))
        room = QRectF(0, 0, 9 + 6 * len(text), 13)
        room.moveCenter(box.center())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(20, 16, 14, 200))
        painter.drawRoundedRect(room, 4, 4)
        painter.setPen(QColor(250, 210, 110))
        font = painter.font()
        font.setPixelSize(10)
        painter.setFont(font)
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, text)

    def _look(self) -> None:
        session, layer, cell = self._session, layer_of(self._session), self._cell
        ground = session.ground
        if session.choices.stage != "stitches" or layer is None or cell is None or ground is None:
            self._tell({})
            return
        knitted = session.derived.knitted(ground.id)
        table = knitted.tables.get(layer.id)
        if table is None or not ground.board.whole.holds(*cell):
            self._tell({})
            return
        planes = knitted.seen(layer.id, knitted.planes[layer.id])
        self._tell(layer.hindrances(Place(ground.board, planes, table, *cell, 0, knitted.seed)))


def _same(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    """Whether nothing is another thing; rectangles and ids may be equal."""
    return len(one) == len(other) and all(
        a is b or (isinstance(a, str | tuple) and a == b) for a, b in zip(one, other, strict=True)
    )
