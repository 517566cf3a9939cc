"""What cells of a mark get where no stitch fires."""

from dataclasses import replace
from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QWidget

from knitground.app.allowed import a_menu
from knitground.app.session import Session
from knitground.app.stitches.pieces import picture_of, told
from knitground.app.widgets import TilePicture, button, row
from knitground.core.stitches.rules import Piece


class Otherwise(QWidget):
    """Shows, for the mark at hand, what is laid where nothing fits, and lets it be chosen."""

    changed = Signal(object, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._picture = TilePicture(28)
        self._button = button("Otherwise…", self._offer, "What cells of this mark get where no stitch fires")
        self.setLayout(row(self._picture, self._button, spacing=4))

    @property
    def _mark(self) -> int:
        owner = self._session.stitch_set
        return min(max(1, self._session.choices.terrain), len(owner.marks)) if owner and owner.marks else 0

    def refresh(self) -> None:
        """Shows the mark at hand."""
        owner = self._session.stitch_set
        self.setVisible(owner is not None and bool(self._mark))
        piece = owner.otherwise.get(self._mark) if owner else None
        self._picture.show_tile(picture_of(self._session, piece) if piece else None)
        says = told(self._session, piece) if piece else "nothing: the cell is a gap, and the ledger tells"
        self._picture.setToolTip(f"Where no stitch fires lies {says}")

    def _offer(self) -> None:
        session, tile = self._session, self._session.choices.tile
        menu = a_menu(self)
        if tile is not None:
            menu.addAction(f"Lay the tile at hand ({session.derived.called(tile)})", lambda: self._put(Piece(tile)))
        for mix in session.document.project.mixes:
            menu.addAction(f"Lay the mix {mix.name}", partial(self._put, Piece(mix=mix.id)))
        menu.addAction("Leave a gap", lambda: self._put(None))
        menu.popup(self._button.mapToGlobal(QPoint(0, self._button.height())))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)

    def _put(self, piece: Piece | None) -> None:
        owner = self._session.stitch_set
        if owner is not None:
            kept = {mark: one for mark, one in owner.otherwise.items() if mark != self._mark}
            otherwise = kept if piece is None else {**kept, self._mark: piece}
            self.changed.emit(replace(owner, otherwise=otherwise), "lay otherwise")
