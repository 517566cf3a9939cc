"""Exchanging a sheet's picture: which tile takes the place of which, before it is accepted."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QListWidget, QListWidgetItem, QWidget

from knitground.app.allowed import allow
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import ChoiceBox, Tick, column, fill_box, fitted, image_of, in_row, in_widget, number, quiet
from knitground.core.edits.exchange import Exchange, cut_otherwise, exchange, new_cut, same_layout
from knitground.core.errors import KnitGroundError
from knitground.core.project.model import Picture
from knitground.core.project.naming import named_tiles
from knitground.core.sheet.cut import LARGEST_TILE, Cut
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef

WAYS = {"place": "Same column and row", "order": "In reading order", "look": "By how they look"}
_SIDE = 40
_MOST_SHOWN = 400


class ExchangeDialog(QDialog):
    """Shows each tile with the one that takes its place."""

    def __init__(self, parent: QWidget, session: Session, sheet: Sheet, picture: Picture) -> None:
        super().__init__(parent)
        self._session, self._sheet, self._picture = session, sheet, picture
        self._before = session.document.state.pictures[sheet.id]
        self._same = same_layout(sheet, self._before, picture)
        self._cut: Cut | None = None if self._same else new_cut(sheet, picture)
        self._wanted: Exchange | None = None
        self.setWindowTitle(f"Exchange the picture of {sheet.id}")
        self.resize(620, 560)
        self._says = quiet()
        self.way = ChoiceBox("How tiles are matched")
        self.way.setMinimumContentsLength(18)
        fill_box(self.way, [(title, name) for name, title in WAYS.items()], "place")
        self.way.activated.connect(lambda _: self._show())
        self._tile = [number(1, LARGEST_TILE, lambda value, s=side: self._set_tile(s, value), f"tile {side}", " px")  # type: ignore[misc]
                      for side in ("width", "height")]  # fmt: skip
        self._how = in_row(QLabel("New tiles"), *self._tile, QLabel("match"), self.way, None)
        self._how.setVisible(self._same is None)
        self.grounds = Tick(
            "Grounds take the new tile size", "Cells as large as the old tiles become as large as the new"
        )
        self.list = QListWidget()
        self.list.setObjectName("pictures")
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(QSize(3 * _SIDE, _SIDE))
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setAccessibleName("Tiles and what takes their place")
        self._buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.take = self._buttons.addButton("Exchange", QDialogButtonBox.ButtonRole.AcceptRole)
        self._buttons.accepted.connect(self._take)
        self._buttons.rejected.connect(self.reject)
        layout = column(self._says, self._how, self.list, self.grounds, in_widget(column(self._buttons)))
        layout.setStretch(2, 1)
        layout.setContentsMargins(16, 16, 16, 16)
        self.setLayout(layout)
        if self._cut is not None:
            for box, value in zip(self._tile, (self._cut.tile_width, self._cut.tile_height), strict=True):
                box.blockSignals(True)
                box.setValue(value)
                box.blockSignals(False)
        self._show()

    def _set_tile(self, side: str, value: int) -> None:
        before = known(self._cut)
        width, height = (value, before.tile_height) if side == "width" else (before.tile_width, value)
        self._cut = Cut(before.id, width, height, anchor=before.anchor)
        self._show()

    def _show(self) -> None:
        self.list.clear()
        try:
            self._wanted = self._same or cut_otherwise(
                self._sheet, self._before, self._picture, known(self._cut), self.way.currentData()
            )
        except KnitGroundError as problem:
            self._wanted = None
            self._says.setText(str(problem))
            allow(self.take, str(problem))
            return
        allow(self.take, "")
        old, new = self._sheet.cuts[0], self._wanted.sheet.cuts[0]
        resized = (old.tile_width, old.tile_height) != (new.tile_width, new.tile_height)
        self.grounds.setVisible(resized and not old.pieces)
        # Where other sheets keep the old size, grounds had better keep it too.
        others = [sheet for sheet in self._session.document.project.sheets if sheet.id != self._sheet.id]
        sizes = {(cut.tile_width, cut.tile_height) for sheet in others for cut in sheet.cuts}
        alone = (old.tile_width, old.tile_height) not in sizes
        self.grounds.setChecked(resized and not old.pieces and alone)
        pairs = self._pairs()
        used = self._used()
        lost = [one for one, other in pairs if other is None]
        says = f"{len(pairs) - len(lost)} of {len(pairs)} tiles have one that takes their place."
        if lost:
            of_use = len(used & set(lost))
            says += f" {len(lost)} have none, {of_use} of them in use; those will be listed as findings."
        self._says.setText(says)
        # What is in use and finds nothing matters most.
        for one, other in sorted(pairs, key=lambda pair: (pair[1] is not None, pair[0] not in used))[:_MOST_SHOWN]:
            where = f"{other.column}, {other.row}" if other else "none"
            item = QListWidgetItem(self._icon(one, other), f"{one.column}, {one.row} → {where}")
            item.setToolTip("In use" if one in used else "Not in use")
            self.list.addItem(item)

    def _pairs(self) -> list[tuple[TileRef, TileRef | None]]:
        mapping = known(self._wanted).mapping
        if mapping is not None:
            return list(mapping.items())
        pairs: list[tuple[TileRef, TileRef | None]] = []
        for cut, changed in zip(self._sheet.cuts, known(self._wanted).sheet.cuts, strict=True):
            new = Slices(self._picture.cleared(self._sheet), changed, known(self._wanted).sheet.parts_over(changed))
            for cell in Slices(self._before.cleared(self._sheet), cut, self._sheet.parts_over(cut)).cells():
                ref = TileRef(self._sheet.id, cut.id, *cell)
                pairs.append((ref, ref if new.holds(*cell) else None))
        return pairs

    def _used(self) -> set[TileRef]:
        document = self._session.document
        return {ref for ref in {*document.palette.refs, *named_tiles(document.project)} if ref.sheet == self._sheet.id}

    def _icon(self, one: TileRef, other: TileRef | None) -> QIcon:
        strip = QPixmap(3 * _SIDE, _SIDE)
        strip.fill(Qt.GlobalColor.transparent)
        painter = QPainter(strip)
        cuts = {cut.id: cut for cut in known(self._wanted).sheet.cuts}
        before = Slices(self._before.cleared(self._sheet), next(cut for cut in self._sheet.cuts if cut.id == one.cut))
        after = Slices(self._picture.cleared(self._sheet), cuts[other.cut]) if other else None
        for place, slices, ref in ((0, before, one), (2, after, other)):
            room = QRectF(place * _SIDE, 0, _SIDE, _SIDE)
            painter.fillRect(room, theme().colour("well"))
            if slices is not None:
                tile = slices.cell(known(ref).column, known(ref).row)
                painter.drawImage(fitted(QSize(tile.shape[1], tile.shape[0]), room), image_of(tile))
        draw_icon(painter, "onward" if other else "close", QRectF(_SIDE * 1.3, _SIDE * 0.3, _SIDE * 0.4, _SIDE * 0.4),
                  theme().colour("quiet"))  # fmt: skip
        painter.end()
        return QIcon(strip)

    def _take(self) -> None:
        wanted, grounds = self._wanted, self.grounds.isChecked()
        self._session.attempt(lambda: exchange(self._session.document, known(wanted), grounds=grounds))
        self._session.say(f"The picture of {self._sheet.id} is exchanged; undo brings the old one back.")
        self.accept()
