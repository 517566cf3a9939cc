"""Packing a sheet anew: gaps to choose, and what comes of them."""

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QWidget

from knitground.app.allowed import allow
from knitground.app.file_dialogs import ask_where
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.widgets import Tick, TilePicture, button, column, in_widget, number, quiet, row
from knitground.core.edits.repacking import Packed, move_over, pack_anew
from knitground.core.project.atomic import write_atomically
from knitground.core.project.model import fresh_id
from knitground.core.sheet.picture import Sheet, encode_png
from knitground.core.sheet.repack import LARGEST_GAP, Gaps

_SETTLE_MS = 150
_PREVIEW = 320


class RepackDialog(QDialog):
    """Shows the sheet as it would be; writes it as a file, or lets the project use it."""

    def __init__(self, parent: QWidget, session: Session, sheet: Sheet) -> None:
        super().__init__(parent)
        self._session, self._sheet = session, sheet
        self._packed: Packed | None = None
        self._packing: Job | None = None
        self.setWindowTitle(f"Pack {sheet.id} anew")
        self._soon = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._soon.timeout.connect(self.show_packed)
        self.boxes = {}
        table = QGridLayout()
        table.setVerticalSpacing(4)
        for line, (name, tip) in enumerate((
            ("margin", "Clear pixels round the sheet"),
            ("spacing", "Clear pixels between tiles"),
            ("extrude", "Pixels by which the border of each tile is repeated, so that filtering never bleeds"),
        )):  # fmt: skip
            box = number(0, LARGEST_GAP, lambda _: self._soon.start(), name, " px")
            box.setToolTip(tip)
            table.addWidget(QLabel({"extrude": "Extruded edges"}.get(name, name.capitalize())), line, 0)
            table.addWidget(box, line, 1)
            self.boxes[name] = box
        self.power = Tick("Sides of a power of two", "Add clear pixels at the right and below")
        self.unique = Tick(
            "Leave copies away", "Tiles that look the same as an earlier one are left away; those behind move up"
        )
        self.turned = Tick(
            "Turned and mirrored ones, too", "Grounds turn the one that stays; for games that can turn tiles"
        )
        for tick in (self.power, self.unique, self.turned):
            tick.clicked.connect(lambda _: self._soon.start())
        self._says, self._picture = quiet(), TilePicture(_PREVIEW, "The sheet as it would be")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel, self)
        self.write = button("Write a PNG…", self._ask, "Write the picture as a file; the project stays as it is")
        says = "The project uses the new sheet; nothing shifts on any ground"
        self.use = button("Use it in this project", self.move_over, says, name="primary")
        buttons.addButton(self.write, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.addButton(self.use, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.rejected.connect(self.reject)
        side = column(in_widget(table), self.power, self.unique, self.turned, self._says, None)
        body = row(in_widget(side), self._picture, spacing=16)
        layout = column(in_widget(body), buttons)
        layout.setContentsMargins(16, 16, 16, 16)
        self.setLayout(layout)
        self.show_packed()

    def show_packed(self) -> None:
        """Packs with the numbers as they are."""
        margin, spacing, extrude = (self.boxes[name].value() for name in ("margin", "spacing", "extrude"))
        gaps = Gaps(margin, spacing, extrude, self.power.isChecked())
        document, sheet_id, unique = self._session.document, self._sheet.id, self.unique.isChecked()
        turned = unique and self.turned.isChecked()
        allow(self.turned, "" if unique else "Leave copies away first.")
        if self._packing is not None:
            self._packing.cancel()
        self._take(None)
        self._says.setText("Packing…")
        self._packing = Job("Packing", lambda report: pack_anew(document, sheet_id, gaps, unique=unique, turned=turned))
        self._packing.succeeded.connect(self._take)
        self._packing.failed.connect(self._says.setText)
        self.finished.connect(self._packing.cancel)
        self._packing.start()

    def _take(self, packed: Packed | None) -> None:
        """Shows what was packed, and lets it be used."""
        self._packed = packed
        if packed is not None:
            height, width = packed.pixels.shape[:2]
            many = "1 copy is" if packed.gone == 1 else f"{packed.gone} copies are"
            copies = f" {many} left away." if self.unique.isChecked() else ""
            self._says.setText(f"{width} x {height} px.{copies}")
            self._picture.show_tile(packed.pixels)
        for thing in (self.write, self.use):
            allow(thing, "" if packed is not None else "The sheet has to be packed first.")

    def move_over(self) -> None:
        """Lets the project use the sheet."""
        packed = self._packed
        if packed is not None:
            self._session.attempt(lambda: move_over(self._session.document, packed))
            self._session.say(f"{self._sheet.id} is packed anew; nothing shifted on the grounds.")
            self.accept()

    def _ask(self) -> None:
        path = ask_where(self, "Write the sheet", f"{fresh_id(self._sheet.id, ())}.png", "PNG (*.png)", "art")
        packed = self._packed
        if path is None or packed is None:
            return

        def write() -> bool:
            write_atomically(path, encode_png(packed.pixels))
            return True

        if self._session.attempt(write):
            self._session.say(f"Wrote {path}.")
            self.accept()
