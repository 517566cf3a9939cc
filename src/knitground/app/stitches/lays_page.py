"""The page of a stitch that says what it lays: tiles, mixes and blocks, where, and onto which layer."""

from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QApplication, QButtonGroup, QInputDialog, QWidget

from knitground.app.guard import guarded
from knitground.app.one_of import OneOf
from knitground.app.scrolled_row import ScrolledRow
from knitground.app.session import Session
from knitground.app.stitches.pieces import picture_of, told
from knitground.app.widgets import (
    ChoiceBox,
    button,
    clear,
    column,
    draw_backdrop,
    draw_button_frame,
    fill_box,
    fitted,
    icon_button,
    image_of,
    in_row,
    in_widget,
    number,
    quiet,
    row,
    set_quietly,
)
from knitground.core.edits.pieces import block_of_refs, block_of_selection, pieces_in, with_pieces_in
from knitground.core.stitches.compiled import ways
from knitground.core.stitches.rules import FARTHEST, Piece, Stitch
from knitground.core.tiles.tile import TileRef, turned_further

_NEW = "+"
_PICTURE = 48
_WAYS = (
    "as drawn", "turned by a quarter", "turned by a half", "turned by three quarters",
    "mirrored left to right", "mirrored, then a quarter", "mirrored top to bottom", "mirrored, then three quarters",
)  # fmt: skip


class _Entry(OneOf):
    """A piece to choose, by its picture."""

    def __init__(self, pixels: NDArray[np.uint8] | None) -> None:
        super().__init__()
        self.setFixedSize(_PICTURE, _PICTURE)
        self._image = None if pixels is None else image_of(pixels)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_button_frame(painter, self)
        room = QRectF(self.rect()).adjusted(5, 5, -5, -5)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        draw_backdrop(painter, room, "checker")
        if self._image is not None:
            painter.drawImage(fitted(self._image.size(), room), self._image)


class LaysPage(QWidget):
    """Shows the pieces of the stitch at hand, and one of them to be changed."""

    changed = Signal(object, str)
    part_wanted = Signal(str)
    """A part that the set does not have yet."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._at = 0
        self._way = 0
        self._pieces = row(spacing=4)
        self._ways = ChoiceBox("Orientation that it is laid in")
        self._ways.activated.connect(lambda index: self._choose_way(int(self._ways.itemData(index))))
        self._group = QButtonGroup(self)
        self._says = quiet()
        self._onto = ChoiceBox("Layer that it is laid onto")
        self._onto.activated.connect(lambda index: self._choose_part(self._onto.itemData(index)))
        self._mix = ChoiceBox("Mix that it lays")
        self._mix.activated.connect(lambda index: self._choose_mix(self._mix.itemData(index)))
        self._thing = ChoiceBox("Kind of things that it is laid as")
        self._thing.setToolTip("Hand the tile over as a thing of this kind, with its properties")
        self._thing.activated.connect(lambda index: self._choose_thing(self._thing.itemData(index)))
        self._across = number(-FARTHEST, FARTHEST, lambda _: self._shift(), "Columns to the right")
        self._down = number(-FARTHEST, FARTHEST, lambda _: self._shift(), "Rows down")
        turn = icon_button("turn", self._turn, "Lay the tile turned by a quarter")
        mirror = icon_button("symmetry_across", lambda: self._turn(4), "Lay the tile mirrored")
        block = button("Block from selection", self._take_block, "Lay what is selected on the ground, as one block")
        out = icon_button("close", self._remove, "Take this piece out")
        self._row = ScrolledRow(in_widget(self._pieces), _PICTURE)
        first = in_row(self._row, turn, mirror, out)
        self.setLayout(
            column(
                first,
                in_row(self._ways, self._thing, None),
                self._says,
                in_row(quiet("onto"), self._onto, quiet("mix"), self._mix, None),
                in_row(quiet("right"), self._across, quiet("down"), self._down, block, None),
                None,
                spacing=6,
            )
        )

    def refresh(self) -> None:
        """Shows the stitch at hand."""
        session, stitch, owner = self._session, self._session.stitch, self._session.stitch_set
        self._show_ways(stitch)
        pieces = pieces_in(stitch, self._way) if stitch else ()
        self._at = min(self._at, max(0, len(pieces) - 1))
        self._show_pieces(pieces)
        piece = pieces[self._at] if pieces else None
        self._says.setText(
            f"{told(session, piece)[:60]} — click or drag over tiles on the sheet to lay others"
            if piece
            else "Lays nothing: click a tile on the sheet, or drag over several for a block."
        )
        parts = [("this layer", "")] + [(part, part) for part in (owner.parts if owner else ())] + [("another…", _NEW)]
        fill_box(self._onto, parts, piece.onto if piece else "")
        mixes = [("none", "")] + [(one.name, one.id) for one in session.document.project.mixes]
        fill_box(self._mix, mixes, piece.mix if piece else "")
        kinds = [("no thing", "")] + [(f"a {one.name}", one.id) for one in session.document.project.thing_kinds]
        may_be = len(kinds) > 1 and piece is not None and not piece.rows
        fill_box(self._thing, kinds if may_be else [], piece.thing if piece else "")
        for box, value in ((self._across, piece.across if piece else 0), (self._down, piece.down if piece else 0)):
            set_quietly(box, value)

    def lay(self, ref: TileRef) -> None:
        """Lets the piece at hand be a tile."""
        piece = self._piece()
        if piece is None or piece.tile != ref:
            known, stitch = piece or Piece(), self._session.stitch
            # A tile that is named for an orientation is drawn for it.
            turned = 0 if self._way and stitch and self._way not in stitch.forms else known.orientation
            self._put(replace(known, tile=ref, orientation=turned, mix="", tiles=(), rows=()), "change tile")

    def lay_block(self, refs: Iterable[TileRef]) -> None:
        """Lets the piece at hand be a block of tiles as they lie on the sheet."""
        piece = self._piece() or Piece()
        made = self._session.attempt(lambda: block_of_refs(tuple(refs), piece))
        if made is not None:
            self._put(made, "lay a block")

    def current_tile(self) -> TileRef | None:
        """The tile of the piece at hand."""
        piece = self._piece()
        return piece.tile if piece else None

    def add(self) -> None:
        """Adds a piece."""
        stitch = self._session.stitch
        if stitch is not None:
            before = pieces_in(stitch, self._way)
            self._at = len(before)
            more = (*before, Piece(self._session.choices.tile))
            self.changed.emit(with_pieces_in(stitch, self._way, more), "lay more")

    def _show_ways(self, stitch: Stitch | None) -> None:
        """Shows the orientations in which the stitch stands, where there are several."""
        known = [orientation for orientation, _ in ways(stitch)] if stitch else [0]
        if self._way not in known:
            self._way = 0
        named = stitch.forms if stitch else {}
        entries = [(_WAYS[one] + (", named" if one in named else ""), str(one)) for one in known]
        fill_box(self._ways, entries if len(entries) > 1 else [], str(self._way))

    def _choose_way(self, orientation: int) -> None:
        self._way, self._at = orientation, 0
        self.refresh()

    def _show_pieces(self, pieces: tuple[Piece, ...]) -> None:
        self._row.keep_in_view(None)
        focus = QApplication.focusWidget()
        at_keys = focus is not None and self._pieces.indexOf(focus) >= 0
        clear(self._pieces)
        self._group = QButtonGroup(self)
        for place, piece in enumerate(pieces):
            entry = _Entry(picture_of(self._session, piece))
            entry.setChecked(place == self._at)
            entry.setAccessibleName(f"Piece {place + 1}")
            entry.setToolTip(told(self._session, piece) + (f", onto {piece.onto}" if piece.onto else ""))
            entry.clicked.connect(lambda _=False, one=place: self._choose(one))
            self._group.addButton(entry)
            self._pieces.addWidget(entry)
            if entry.isChecked():
                self._row.keep_in_view(entry)
                if at_keys:
                    entry.show()
                    entry.setFocus()
        self._pieces.addWidget(icon_button("plus", self.add, "Lay something else besides"))
        self._pieces.addStretch(1)

    def _choose(self, place: int) -> None:
        self._at = place
        self.refresh()

    def _piece(self) -> Piece | None:
        stitch = self._session.stitch
        pieces = pieces_in(stitch, self._way) if stitch else ()
        return pieces[self._at] if self._at < len(pieces) else None

    def _put(self, piece: Piece | None, label: str) -> None:
        stitch: Stitch | None = self._session.stitch
        if stitch is None:
            return
        pieces = list(pieces_in(stitch, self._way))
        pieces[self._at : self._at + 1] = [] if piece is None else [piece]
        self.changed.emit(with_pieces_in(stitch, self._way, tuple(pieces)), label)

    def _changed_by(self, change: Callable[[Piece], Piece], label: str) -> None:
        piece = self._piece()
        if piece is not None:
            self._put(change(piece), label)

    def _shift(self) -> None:
        down, across = self._down.value(), self._across.value()
        self._changed_by(lambda piece: replace(piece, down=down, across=across), "move piece")

    def _turn(self, by: int = 1) -> None:
        piece = self._piece()
        if piece is not None and not piece.rows:
            self._put(replace(piece, orientation=turned_further(piece.orientation, by)), "turn tile")

    def _remove(self) -> None:
        if self._piece() is not None:
            self._put(None, "take out piece")

    def _choose_mix(self, mix_id: str) -> None:
        self._changed_by(lambda piece: replace(piece, mix=mix_id, tile=None, tiles=(), rows=()), "lay a mix")

    def _choose_thing(self, kind: str) -> None:
        self._changed_by(lambda piece: replace(piece, thing=kind), "lay as a thing" if kind else "lay no thing")

    def _choose_part(self, part: str) -> None:
        if part == _NEW:
            name, ok = QInputDialog.getText(self, "Another layer", "Name of the layer to lay onto", text="Tops")
            part = name.strip()[:60]
            if not ok or not part:
                self.refresh()
                return
            self.part_wanted.emit(part)
        self._changed_by(lambda piece: replace(piece, onto=part), "lay onto a layer")

    def _take_block(self) -> None:
        session = self._session
        made = session.attempt(lambda: block_of_selection(session.derived, session.selected, session.choices.layer_id))
        if made is not None:
            piece = self._piece() or Piece()
            self._put(replace(made, onto=piece.onto, down=piece.down, across=piece.across), "lay a block")
