"""What of a sheet counts as transparent."""

from typing import Any

from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QLabel, QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.cut_mode import CutMode
from knitground.app.sheet.grid_page import BOX
from knitground.app.widgets import button, clear, column, in_row, number, quiet, row, set_quietly
from knitground.core.edits.cuts import add_key, set_clearing

_KEYS_HEIGHT = 30


class ClearPage(QWidget):
    """Key colours, how far from them still counts, and from which alpha on a pixel is seen."""

    def __init__(self, session: Session, view: SheetView, mode: CutMode) -> None:
        super().__init__()
        self._session, self._view, self._mode = session, view, mode
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
        for box in (self._tolerance, self._below):
            box.setFixedWidth(BOX)
        self.setLayout(column(
            in_row(self.pick, keys, None),
            in_row(QLabel("Tolerance"), self._tolerance, quiet("of the key colours"), None),
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
        clear(self._keys)
        if not sheet.keys:
            self._keys.addWidget(quiet("No key colour"))
        for key in sheet.keys:
            chip = button(key, lambda k=key: self._drop(k), f"Show {key} again")  # type: ignore[misc]
            patch = QPixmap(16, 16)
            patch.fill(QColor(key))
            chip.setIcon(QIcon(patch))
            self._keys.addWidget(chip)

    def stop_picking(self) -> None:
        """The pointer no longer picks a colour."""
        self.pick.setChecked(False)
        self._mode.picks_colour = None

    def _set(self, **changes: Any) -> None:
        self._session.attempt(lambda: set_clearing(self._session.document, known(self._view.sheet).id, **changes))

    def _drop(self, key: str) -> None:
        sheet = self._view.sheet
        set_clearing(
            self._session.document, known(sheet).id, keys=[other for other in known(sheet).keys if other != key]
        )

    def _toggle_pick(self) -> None:
        self._mode.picks_colour = self._take if self.pick.isChecked() else None
        if self.pick.isChecked():
            self._session.say("Click the colours that mean transparent; hold Ctrl to pick several.")

    def _take(self, x: int, y: int, more: bool) -> None:
        sheet = self._view.sheet
        pixels = self._session.document.state.pictures[known(sheet).id].pixels
        if 0 <= y < pixels.shape[0] and 0 <= x < pixels.shape[1]:
            red, green, blue, alpha = (int(part) for part in pixels[y, x])
            if alpha == 0:
                self._session.say("That pixel is transparent already.")
                return
            key = f"#{red:02x}{green:02x}{blue:02x}"
            add_key(self._session.document, known(sheet).id, key)
            self._session.say(f"{key} is transparent now.")
        if not more:
            self.stop_picking()
