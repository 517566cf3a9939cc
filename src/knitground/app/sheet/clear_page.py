"""What of a sheet counts as transparent."""

from typing import Any

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QIcon, QLinearGradient, QPainter, QPixmap
from PySide6.QtWidgets import QLabel, QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.clearing import Clearer
from knitground.app.sheet.cut_mode import CutMode
from knitground.app.sheet.grid_page import BOX
from knitground.app.theme.colours import theme
from knitground.app.widgets import Tick, button, clear, column, draw_checker, in_row, number, quiet, row, set_quietly
from knitground.core.edits.cuts import with_clearing, with_key
from knitground.core.sheet.checkered import CHECKER
from knitground.core.sheet.keys import key_at, key_named
from knitground.core.sheet.uneven import GROUND

_KEYS_HEIGHT = 30
_SOFT = "Takes the key colours out of smoothed edges and soft shadows, so that what lies behind shines through instead"
_NO_KEY = "Pick a key colour first; then it can be taken out of smoothed edges and soft shadows, too"


class ClearPage(QWidget):
    """Key colours, how far from them still counts, and from which alpha on a pixel is seen."""

    def __init__(self, session: Session, view: SheetView, mode: CutMode, clearer: Clearer) -> None:
        super().__init__()
        self._session, self._view, self._mode, self._clearer = session, view, mode, clearer
        self._keys = row(spacing=4)
        keys = QWidget()
        keys.setLayout(self._keys)
        # As high as its buttons even while there are none, so that nothing jumps when a colour is picked.
        keys.setFixedHeight(_KEYS_HEIGHT)
        self.pick = button(
            "Pick key colour", self._toggle_pick, "Click a colour on the picture to make it transparent (Escape stops)"
        )
        self.pick.setCheckable(True)
        self._tolerance = number(0, 255, lambda value: self._set(tolerance=value), "tolerance")
        self._tolerance.setToolTip("How far each of red, green and blue may be from a key colour")
        self._below = number(0, 255, lambda value: self._set(clear_below=value), "alpha threshold")
        self._below.setToolTip("Pixels with less alpha than this count as transparent (alpha goes from 0 to 255)")
        self._soft = Tick("Soft edges too")
        self._soft.clicked.connect(lambda wanted: self._set(soft_edges=wanted))
        for box in (self._tolerance, self._below):
            box.setFixedWidth(BOX)
        self.setLayout(column(
            in_row(self.pick, keys, None),
            in_row(QLabel("Tolerance"), self._tolerance, quiet("of the key colours"), self._soft, None),
            in_row(QLabel("Clear below alpha"), self._below, None),
            None,
        ))  # fmt: skip

    def refresh(self) -> None:
        """Shows the colours as they are."""
        sheet = self._view.sheet
        if sheet is None:
            return
        set_quietly(self._tolerance, sheet.tolerance)
        set_quietly(self._below, sheet.clear_below)
        self._soft.setChecked(sheet.soft_edges)
        self._soft.setEnabled(bool(sheet.keys))
        self._soft.setToolTip(_SOFT if sheet.keys else _NO_KEY)
        clear(self._keys)
        if not sheet.keys:
            self._keys.addWidget(quiet("No key colour"))
        for key in sheet.keys:
            name = key_named(key)
            chip = button(key, lambda k=key: self._drop(k), f"Show {name} again")  # type: ignore[misc]
            chip.setIcon(QIcon(_patch(key)))
            self._keys.addWidget(chip)

    def stop_picking(self) -> None:
        """The pointer no longer picks a colour."""
        self.pick.setChecked(False)
        self._mode.picks_colour = None

    def _set(self, **changes: Any) -> None:
        self._clearer.change(known(self._view.sheet), lambda sheet, picture: (with_clearing(sheet, **changes), ""))

    def _drop(self, key: str) -> None:
        self._set(keys=[other for other in known(self._view.sheet).keys if other != key])

    def _toggle_pick(self) -> None:
        self._mode.picks_colour = self._take if self.pick.isChecked() else None
        if self.pick.isChecked():
            self._session.say("Click the colours that mean transparent; hold Ctrl to pick several.")

    def _take(self, x: int, y: int, more: bool) -> None:
        sheet = self._view.sheet
        pixels = self._session.document.state.pictures[known(sheet).id].pixels
        if 0 <= y < pixels.shape[0] and 0 <= x < pixels.shape[1]:
            if pixels[y, x, 3] == 0:
                self._session.say("That pixel is transparent already.")
                return
            self._clearer.change(known(sheet), lambda one, of: with_key(one, of.pixels, key_at(of.pixels, x, y)))
        if not more:
            self.stop_picking()


def _patch(key: str) -> QPixmap:
    """What a key looks like: its colour, a checkerboard, or a ground that grows lighter."""
    patch = QPixmap(16, 16)
    if key == CHECKER:
        draw_checker(QPainter(patch), QRectF(patch.rect()), 4)
        return patch
    if key != GROUND:
        patch.fill(QColor(key))
    else:
        lighter = QLinearGradient(0, 0, 0, patch.height())
        lighter.setColorAt(0, theme().colour("panel"))
        lighter.setColorAt(1, theme().colour("line"))
        QPainter(patch).fillRect(patch.rect(), lighter)
    return patch
