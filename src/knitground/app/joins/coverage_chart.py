"""Every combination of a set as a small picture, grouped by how it is there: missing, turned, several, one."""

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QHelpEvent, QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from knitground.app.canvas.faces import diamond_in, face_of
from knitground.app.guard import guarded
from knitground.app.joins.marks import draw_marks
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import fitted, image_of
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import Labels, letters
from knitground.core.joins.turning import LaidTile
from knitground.core.sheet.isometric import on_foot
from knitground.core.tiles.tile import orient

_LARGEST, _SMALLEST, _SPACE, _TITLE = 34, 24, 4, 20
_MOST = 700
_NOTHING = Coverage("corner", {}, range(1, 1))
_TITLES = {
    "missing": "Missing", "made": "Made, to be drawn", "turned": "By turning", "several": "Several tiles",
    "one": "One tile",
}  # fmt: skip


class CoverageChart(QWidget):
    """A click on a combination goes to its tile, or lets the next click on the sheet label one with it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.coverage = _NOTHING
        self.groups: dict[str, list[Labels]] = {}
        self._images: dict[LaidTile, QImage] = {}
        self._made_from: object = None
        self._flat = False
        self._rects: dict[Labels, QRectF] = {}
        self._titles: list[tuple[QRectF, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Coverage")

    def refresh(self) -> None:
        """Looks at the set anew."""
        join_set = self._session.join_set
        derived = self._session.derived
        self.coverage = derived.coverage(join_set) if join_set else _NOTHING
        cuts = self._session.document.project.cuts
        first = next((cuts.get((ref.sheet, ref.cut)) for ref in join_set.labels), None) if join_set else None
        self._flat = first is not None and first.shape == "isometric"
        # A chart of very many combinations would be a mist: then only those that there are stand in it.
        few = self.coverage.total <= _MOST
        entries = list(dict.fromkeys([*self.coverage.combinations(), *sorted(self.coverage.tiles)])) if few else []
        self.groups = {name: [] for name in _TITLES}
        for labels in entries or sorted(self.coverage.tiles)[:_MOST]:
            self.groups[self.coverage.group(labels)].append(labels)
        if derived.sliced() is not self._made_from:
            self._made_from, self._images = derived.sliced(), {}
        for tiles in self.coverage.tiles.values():
            pixels = derived.tile(tiles[0].ref) if tiles[0] not in self._images else None
            if pixels is not None:
                cut = self._session.document.project.cuts[tiles[0].ref.sheet, tiles[0].ref.cut]
                self._images[tiles[0]] = image_of(orient(np.array(on_foot(pixels, cut)), tiles[0].orientation))
        self._lay_out()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(190, self.height())

    def resizeEvent(self, event: object) -> None:
        self._lay_out()

    def rect_of(self, labels: Labels) -> QRectF:
        """Where a combination stands."""
        return self._rects[labels]

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            labels = self._labels_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), self._says(labels) if labels else "", self)
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        labels = self._labels_at(event.position())
        if labels is None:
            return
        refs = [one.ref for one in self.coverage.tiles.get(labels, ())]
        if refs:
            # Further clicks go on to the further variants.
            at = refs.index(self._session.choices.tile) + 1 if self._session.choices.tile in refs else 0
            self._session.choose(tile=refs[at % len(refs)], sheet_id=refs[at % len(refs)].sheet, wanted=None)
        else:
            self._session.choose(wanted=labels)
            self._session.say(f"{self._says(labels)}: click the tile on the sheet that shows it, or Escape.")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        join_set = self._session.join_set
        if join_set is None:
            return
        painter.setPen(theme().colour("quiet"))
        for rect, title in self._titles:
            painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, title)
        for labels, rect in self._rects.items():
            tiles = self.coverage.tiles.get(labels, ())
            if tiles and tiles[0] in self._images:
                image = self._images[tiles[0]]
                painter.drawImage(fitted(image.size(), rect), image)
            else:
                self._draw_missing(painter, rect, labels)
            if labels == self._session.choices.wanted:
                painter.setPen(QPen(theme().colour("thread"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(rect)

    def _draw_missing(self, painter: QPainter, rect: QRectF, labels: Labels) -> None:
        join_set = self._session.join_set
        painter.fillRect(rect, theme().colour("panel"))
        painter.setPen(QPen(theme().colour("warning"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
        room = rect.adjusted(3, 3, -3, -3)
        face = diamond_in(room.adjusted(0, room.height() / 4, 0, -room.height() / 4)) if self._flat else face_of(room)
        draw_marks(painter, [(face, labels)], known(join_set).kind, known(join_set).terrains)

    def _lay_out(self) -> None:
        """Places the groups below one another, each with its title."""
        width = max(60, self.width())
        count = sum(map(len, self.groups.values()))
        side = _LARGEST if count <= 100 else _SMALLEST
        columns = max(1, (width + _SPACE) // (side + _SPACE))
        self._rects, self._titles, top = {}, [], 0
        for name, entries in self.groups.items():
            if not entries:
                continue
            self._titles.append((QRectF(0, top, width, _TITLE), f"{_TITLES[name]}: {len(entries)}"))
            top += _TITLE
            for number, labels in enumerate(entries):
                row, column = divmod(number, columns)
                self._rects[labels] = QRectF(column * (side + _SPACE), top + row * (side + _SPACE), side, side)
            top += -(-len(entries) // columns) * (side + _SPACE) + 4
        if self.height() != max(8, top):
            self.setFixedHeight(max(8, top))

    def _labels_at(self, at: QPointF) -> Labels | None:
        return next((labels for labels, rect in self._rects.items() if rect.contains(at)), None)

    def _says(self, labels: Labels) -> str:
        tiles = self.coverage.tiles.get(labels, ())
        name = letters(known(self._session.join_set), labels)
        if not tiles:
            return f"{name} is missing"
        return f"{name}: " + ", ".join(self._tile_says(one) for one in tiles)

    def _tile_says(self, tile: LaidTile) -> str:
        note = self._session.document.project.tiles.get(tile.ref)
        says = self._session.derived.called(tile.ref) + (f", weight {note.weight:g}" if note else "")
        return says + (", turned" if tile.orientation else "")
