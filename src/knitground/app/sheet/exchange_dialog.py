"""Exchanging a sheet's picture: which tile takes the place of which, before it is accepted, also chosen by hand."""

from functools import cached_property

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QListWidget, QListWidgetItem, QWidget

from knitground.app.allowed import allow
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.picture_grid import PictureGrid
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import (
    ChoiceBox,
    Tick,
    column,
    fill_box,
    fitted,
    image_of,
    in_row,
    in_widget,
    number,
    quiet,
    row,
    scrolling,
)
from knitground.core.edits.exchange import (
    Exchange,
    Exchanged,
    Place,
    cut_otherwise,
    exchanged,
    paired,
    same_layout,
    take_exchanged,
)
from knitground.core.errors import KnitGroundError
from knitground.core.project.derived import Derived
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
    """Shows each tile with the one that takes its place; beside them all new tiles, to choose another."""

    def __init__(self, parent: QWidget, session: Session, sheet: Sheet, picture: Picture, cut: Cut | None) -> None:
        super().__init__(parent)
        self._session, self._sheet, self._picture = session, sheet, picture
        self._before = session.document.state.pictures[sheet.id]
        self._same = same_layout(sheet, self._before, picture)
        self._cut = cut
        self._by_hand: dict[Place, Place | None] = {}
        self._wanted: Exchange | None = None
        self._paired: tuple[tuple[Cut, str], dict[Place, Place | None]] | None = None
        self.setWindowTitle(f"Exchange the picture of {sheet.id}")
        self.resize(900 if self._cut else 620, 580)
        self._says = quiet()
        self.way = ChoiceBox("How tiles are matched")
        self.way.setMinimumContentsLength(18)
        fill_box(self.way, [(title, name) for name, title in WAYS.items()], "place")
        self.way.activated.connect(lambda _: self._show())
        self._tile = [number(1, LARGEST_TILE, lambda value, s=side: self._set_tile(s, value), f"tile {side}", " px")  # type: ignore[misc]
                      for side in ("width", "height")]  # fmt: skip
        self.grounds = Tick(
            "Grounds take the new tile size", "Cells as large as the old tiles become as large as the new"
        )
        self.list = QListWidget()
        self.list.setObjectName("pictures")
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(QSize(3 * _SIDE, _SIDE))
        self.list.setGridSize(QSize(4 * _SIDE, 2 * _SIDE - 8))
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setAccessibleName("Tiles and what takes their place")
        self.list.currentItemChanged.connect(lambda *_: self._show_choice())
        self.new = PictureGrid("New tiles", QSize(_SIDE, _SIDE), "Click the tile that takes its place", nothing="none")
        self.new.picked.connect(self._choose)
        self._shown: list[TileRef] = []
        self._places: list[Place | None] = []
        self._put_together()
        if self._cut is not None:
            for box, value in zip(self._tile, (self._cut.tile_width, self._cut.tile_height), strict=True):
                box.blockSignals(True)
                box.setValue(value)
                box.blockSignals(False)
        self._show()

    def _put_together(self) -> None:
        self._for = quiet()
        self._room = scrolling(self.new)
        self._buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel, self)
        self.take = self._buttons.addButton("Exchange", QDialogButtonBox.ButtonRole.AcceptRole)
        self._buttons.accepted.connect(self._take)
        self._buttons.rejected.connect(self.reject)
        how = in_row(QLabel("New tiles"), *self._tile, QLabel("match"), self.way, None)
        beside = column(self._for, self._room)
        beside.setStretch(1, 1)
        by_hand = in_widget(beside)
        halves = row(self.list, by_hand, spacing=12)
        halves.setStretch(0, 3)
        halves.setStretch(1, 2)
        layout = column(self._says, how, in_widget(halves), self.grounds, in_widget(column(self._buttons)))
        layout.setStretch(2, 1)
        layout.setContentsMargins(16, 16, 16, 16)
        self.setLayout(layout)
        for part in (how, by_hand):
            part.setVisible(self._cut is not None)

    def _set_tile(self, side: str, value: int) -> None:
        before = known(self._cut)
        width, height = (value, before.tile_height) if side == "width" else (before.tile_width, value)
        self._cut = Cut(before.id, width, height, anchor=before.anchor)
        self._by_hand.clear()
        self._show()

    def _show(self) -> None:
        """Matches all anew."""
        self._shown, self._places = [], []
        self.list.clear()
        self.new.show_pictures([])
        if not self._match():
            return
        pairs, used = self._pairs(), self._used
        # What is in use and finds nothing matters most.
        pairs = sorted(pairs, key=lambda pair: (pair[1] is not None, pair[0] not in used))[:_MOST_SHOWN]
        self._shown = [one for one, _ in pairs]
        for one, other in pairs:
            item = QListWidgetItem()
            item.setToolTip("In use" if one in used else "Not in use")
            self._write(item, one, other)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self._offer_new()

    def _match(self) -> bool:
        """Whether the new picture can take the place of the old as it is wanted; says so."""
        try:
            self._wanted = self._matched()
        except KnitGroundError as problem:
            self._wanted = None
            self._says.setText(str(problem))
            allow(self.take, str(problem))
            return False
        self.__dict__.pop("_after", None)
        allow(self.take, "")
        self._ask_of_grounds()
        self._tell()
        return True

    def _matched(self) -> Exchange:
        kept = self._same is not None and known(self._same).sheet.cuts[0] == self._cut
        if self._cut is None or (kept and self.way.currentData() == "place" and not self._by_hand):
            return known(self._same)
        wanted = self._cut, self.way.currentData()
        if self._paired is None or self._paired[0] != wanted:
            self._paired = wanted, paired(self._sheet, self._before, self._picture, *wanted)
        pairs = self._paired[1]
        return cut_otherwise(self._sheet, self._before, self._picture, *wanted, self._by_hand, pairs=pairs)

    def _ask_of_grounds(self) -> None:
        old, new = self._sheet.cuts[0], known(self._wanted).sheet.cuts[0]
        resized = (old.tile_width, old.tile_height) != (new.tile_width, new.tile_height)
        self.grounds.setVisible(resized and not old.pieces)
        # Where other sheets keep the old size, grounds had better keep it too.
        others = [sheet for sheet in self._session.document.project.sheets if sheet.id != self._sheet.id]
        sizes = {(cut.tile_width, cut.tile_height) for sheet in others for cut in sheet.cuts}
        alone = (old.tile_width, old.tile_height) not in sizes
        self.grounds.setChecked(resized and not old.pieces and alone)

    def _tell(self) -> None:
        pairs = self._pairs()
        lost = {one for one, other in pairs if other is None}
        says = f"{len(pairs) - len(lost):,} of {len(pairs):,} tiles have one that takes their place."
        if lost:
            of_use = len(self._used & lost)
            says += f" {len(lost)} have none, {of_use} of them in use; those will be listed as findings."
        self._says.setText(says)

    def _write(self, item: QListWidgetItem, one: TileRef, other: TileRef | None) -> None:
        where = f"{other.column}, {other.row}" if other else "none"
        hand = ", by hand" if (one.column, one.row) in self._by_hand else ""
        item.setIcon(self._icon(one, other))
        item.setText(f"{one.column}, {one.row} → {where}{hand}")

    def _offer_new(self) -> None:
        """All tiles of the new picture, and none of them."""
        if self._cut is not None:
            self._places = [None, *self._after[self._new_id].cells()]
            images = [image_of(self._after[self._new_id].cell(*place)) if place else None for place in self._places]
            self.new.show_pictures(images)
            self._show_choice()

    def _show_choice(self) -> None:
        at = self.list.currentRow()
        if self._cut is None or not self._places or not 0 <= at < len(self._shown):
            return
        one = self._shown[at]
        other = dict(self._pairs())[one]
        self._for.setText(f"In place of {one.column}, {one.row}:")
        number = self._places.index((other.column, other.row) if other else None)
        self.new.choose(number)
        middle = self.new.place_of(number).center().toPoint()
        self._room.ensureVisible(middle.x(), middle.y(), 0, _SIDE)

    def _choose(self, number: int) -> None:
        """Gives the tile at hand another, by hand."""
        if not self._shown:
            return
        one, item = self._shown[self.list.currentRow()], self.list.currentItem()
        other, place = dict(self._pairs())[one], self._places[number]
        if place != ((other.column, other.row) if other else None):
            self._by_hand[one.column, one.row] = place
            if self._match():
                self._write(item, one, dict(self._pairs())[one])

    def _pairs(self) -> list[tuple[TileRef, TileRef | None]]:
        mapping = known(self._wanted).mapping
        if mapping is not None:
            return list(mapping.items())
        pairs: list[tuple[TileRef, TileRef | None]] = []
        for cut, changed in zip(self._sheet.cuts, known(self._wanted).sheet.cuts, strict=True):
            for cell in self._there[cut.id].cells():
                ref = TileRef(self._sheet.id, cut.id, *cell)
                pairs.append((ref, ref if self._after[changed.id].holds(*cell) else None))
        return pairs

    @cached_property
    def _used(self) -> set[TileRef]:
        document = self._session.document
        return {ref for ref in {*document.palette.refs, *named_tiles(document.project)} if ref.sheet == self._sheet.id}

    @cached_property
    def _there(self) -> dict[str, Slices]:
        """The tiles that there are, by the ids of their cuts."""
        return _sliced(self._before, self._sheet)

    @cached_property
    def _after(self) -> dict[str, Slices]:
        """The tiles that there would be; forgotten whenever the picture is cut otherwise."""
        return _sliced(self._picture, known(self._wanted).sheet)

    @property
    def _new_id(self) -> str:
        return known(self._wanted).sheet.cuts[0].id

    def _icon(self, one: TileRef, other: TileRef | None) -> QIcon:
        strip = QPixmap(3 * _SIDE, _SIDE)
        strip.fill(Qt.GlobalColor.transparent)
        painter = QPainter(strip)
        after = self._after[other.cut] if other else None
        for place, slices, ref in ((0, self._there[one.cut], one), (2, after, other)):
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
        """Exchanges the picture; what becomes of large grounds is worked out beside the window."""
        session, wanted, grounds = self._session, known(self._wanted), self.grounds.isChecked()
        document, before = session.document, session.document.state
        allow(self.take, "The picture is being exchanged.")

        def done(both: tuple[Exchanged, Derived]) -> None:
            made, ready = both
            if document.state is not before:
                allow(self.take, "")
                self._says.setText("The project was changed meanwhile, so nothing was exchanged; try again.")
                return
            session.attempt(lambda: taken(made, ready))
            self.accept()

        def taken(made: Exchanged, ready: Derived) -> None:
            session.derived.take_over(ready)
            take_exchanged(document, made)
            session.say(f"The picture of {self._sheet.id} is exchanged.", "Undo")

        def exchange(_: object) -> tuple[Exchanged, Derived]:
            made = exchanged(document, wanted, grounds=grounds)
            return made, session.derived.made_ready(made.state)

        work = Job("Exchanging the picture", exchange)
        self.finished.connect(work.cancel)
        session.run(work, done)


def _sliced(picture: Picture, sheet: Sheet) -> dict[str, Slices]:
    pixels = picture.cleared(sheet)
    return {cut.id: Slices(pixels, cut, sheet.parts_over(cut)) for cut in sheet.cuts}
