"""A picture of a whole map as a ground: its tiles found, and laid as it shows them."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QWidget

from knitground.app.allowed import allow
from knitground.app.asking import answered
from knitground.app.file_dialogs import ask_file
from knitground.app.ground.usual_cell import usual_cell
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.stage import IMAGES
from knitground.app.widgets import number
from knitground.core.edits.drawn import Found, add_drawn, find_tiles
from knitground.core.sheet.cut import LARGEST_TILE
from knitground.core.sheet.picture import decode_picture, read_file

_USUAL_SIZES = (16, 32, 24, 48, 8, 64)


class DrawnMapDialog(QDialog):
    """The size of the tiles that a map was drawn with, and how many cells that makes."""

    def __init__(self, parent: QWidget, name: str, size: tuple[int, int], tile: tuple[int, int]) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Tiles of {name}")
        self._size = size
        form = QFormLayout(self)
        self.width_box = number(1, min(LARGEST_TILE, size[0]), self._count, "width of a tile", " px")
        self.height_box = number(1, min(LARGEST_TILE, size[1]), self._count, "height of a tile", " px")
        self._says = QLabel()
        self._says.setWordWrap(True)
        self._says.setMinimumWidth(320)
        self._buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel, self
        )
        self._buttons.accepted.connect(self.accept)
        self._buttons.rejected.connect(self.reject)
        form.addRow("Tile width", self.width_box)
        form.addRow("Tile height", self.height_box)
        form.addRow(self._says)
        form.addRow(self._buttons)
        self.width_box.setValue(tile[0])
        self.height_box.setValue(tile[1])
        self._count()

    @property
    def tile(self) -> tuple[int, int]:
        """Width and height of a tile, in pixels."""
        return self.width_box.value(), self.height_box.value()

    def _count(self, *_: object) -> None:
        (width, height), (across, down) = self._size, self.tile
        fits = not width % across and not height % down
        cells = f"{width // across} x {height // down} cells. Tiles that are alike, turned ones too, are kept once."
        self._says.setText(cells if fits else f"{width} x {height} pixels are no whole number of such tiles.")
        allow(self._buttons.button(QDialogButtonBox.StandardButton.Ok), "" if fits else self._says.text())


def add_drawn_map(parent: QWidget, session: Session) -> None:
    """Asks for a drawn map and the size of its tiles; adds its tiles as a sheet and a ground that looks like it."""
    path = ask_file(parent, "A map drawn as one picture", IMAGES, "pictures")
    if path is None:
        return
    picture = decode_picture(read_file(path), path.name)
    height, width = picture.shape[:2]
    dialog = DrawnMapDialog(parent, path.name, (width, height), _likely((width, height), usual_cell(session, "square")))
    if answered(dialog):
        _find(session, path.stem, picture, dialog.tile)


def _find(session: Session, name: str, picture: NDArray[np.uint8], tile: tuple[int, int]) -> None:
    document = session.document

    def work(progress: Callable[[float], None]) -> Found:
        return find_tiles(picture, *tile)

    def lay(found: Found) -> None:
        if document is not session.document:
            return
        session.choose(ground_id=add_drawn(document, name, found), layer_id="")
        rows, columns = found.numbers.shape
        session.say(f"“{name}”: {columns} x {rows} cells of {len(found.tiles)} different tiles.")

    session.run(Job("Finding the tiles", work), lambda found: session.attempt(lambda: lay(found)))


def _likely(size: tuple[int, int], usual: tuple[int, int]) -> tuple[int, int]:
    """The size of the tiles at hand if it fits, else the first usual one that does."""
    sizes = [usual, *((side, side) for side in _USUAL_SIZES)]
    return next((one for one in sizes if not size[0] % one[0] and not size[1] % one[1]), usual)
