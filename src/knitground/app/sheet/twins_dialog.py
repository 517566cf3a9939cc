"""Tiles that look the same, to be merged into one."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QListWidget, QListWidgetItem, QWidget

from knitground.app.allowed import allow
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import Tick, column, fitted, image_of, quiet
from knitground.core.edits.merging import merge_twins, would_stay
from knitground.core.tiles.alike import Twin, twins
from knitground.core.tiles.tile import TileRef

_SIDE = 36
_MOST = 4


class TwinsDialog(QDialog):
    """Lists groups of tiles with the same pixels; those that stay ticked are merged."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._session = session
        self._looking: Job | None = None
        self.setWindowTitle("Tiles that look the same")
        self.resize(640, 480)
        self._says = quiet()
        self.turned = Tick("Mirrored and turned copies too", "Maps hold the merged tile mirrored or turned instead")
        self.turned.clicked.connect(self._show)
        self.list = QListWidget()
        self.list.setIconSize(QSize(_MOST * (_SIDE + 4), _SIDE))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Groups")
        self._buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel, self)
        self.merge = self._buttons.addButton("Merge", QDialogButtonBox.ButtonRole.AcceptRole)
        self._buttons.accepted.connect(self._merge)
        self._buttons.rejected.connect(self.reject)
        layout = column(self._says, self.turned, self.list, self._buttons)
        layout.setContentsMargins(16, 16, 16, 16)
        self.setLayout(layout)
        self._groups: list[list[Twin]] = []
        allow(self.merge, "The tiles are still being compared.")
        self._show()

    def _show(self) -> None:
        """Looks for twins, beside the interface."""
        tiles, turned = self._session.derived.all_tiles(), self.turned.isChecked()
        if self._looking is not None:
            self._looking.cancel()
        self._says.setText("Looking…")
        self._looking = Job(
            "Looking for tiles that look the same", lambda report: (turned, twins(tiles, turned=turned))
        )
        self._looking.succeeded.connect(self._list)
        self.finished.connect(self._looking.cancel)  # what comes later may be found in a project that has changed
        self._looking.start()

    def _list(self, found: tuple[bool, list[list[Twin]]]) -> None:
        if found[0] != self.turned.isChecked():
            return
        self._groups = found[1]
        self.list.clear()
        staying = would_stay(self._session.document.project, self._groups)
        for group in self._groups:
            going = [twin for twin in group[1:] if twin.ref not in staying]
            item = QListWidgetItem(self._pictures(group), _says(group, going, staying, self._session.derived.called))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if going else Qt.CheckState.Unchecked)
            if not going:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.list.addItem(item)
        count = sum(len(group) - 1 for group in self._groups)
        self._says.setText(
            f"{count:,} tiles look like another. The first of each group takes the place of the others on all grounds, "
            "in sets and mixes; their cells are left out of the cut. Those labelled or described otherwise stay."
            if count
            else "No two tiles look the same."
        )
        some = any(len(group) - 1 > sum(twin.ref in staying for twin in group) for group in self._groups)
        allow(self.merge, "" if some else "There is nothing to merge.")

    def _pictures(self, group: list[Twin]) -> QIcon:
        strip = QPixmap(_MOST * (_SIDE + 4), _SIDE)
        strip.fill(Qt.GlobalColor.transparent)
        painter = QPainter(strip)
        for place, twin in enumerate(group[:_MOST]):
            room = QRectF(place * (_SIDE + 4), 0, _SIDE, _SIDE)
            painter.fillRect(room, theme().colour("well"))
            tile = known(self._session.derived.tile(twin.ref))
            painter.drawImage(fitted(QSize(tile.shape[1], tile.shape[0]), room), image_of(tile))
        painter.end()
        return QIcon(strip)

    def _merge(self) -> None:
        wanted = [
            group
            for place, group in enumerate(self._groups)
            if self.list.item(place).checkState() == Qt.CheckState.Checked
        ]
        merged = self._session.attempt(lambda: merge_twins(self._session.document, wanted))
        if merged is None:
            return
        stay = f"; {len(merged.kept)} stay, the first because {merged.kept[0][1]}" if merged.kept else ""
        many = "1 tile" if merged.gone == 1 else f"{merged.gone} tiles"
        self._session.say(f"{many} merged{stay}.")
        self.accept()


def _says(group: list[Twin], going: list[Twin], staying: dict[TileRef, str], named: Callable[[TileRef], str]) -> str:
    """What merging a group would do."""
    first = named(group[0].ref)
    if not going:
        return f"{named(group[1].ref)} stays: {staying[group[1].ref]}"
    more = f" and {len(going) - 1} more" if len(going) > 1 else ""
    turned = sum(bool(twin.orientation) for twin in going)
    text = f"{first} stays, {named(going[0].ref)}{more} go{'' if more else 'es'}"
    return text + (f"; {turned} turned" if turned else "")
