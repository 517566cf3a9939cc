"""Pictures whose colours stand for what is painted: what each colour of a picture is to stand for."""

from collections.abc import Mapping, Sequence

from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QWidget

from knitground.app.widgets import ChoiceBox, column, fill_box, in_row, in_widget, quiet, scrolling
from knitground.core.edits.colours import NOTHING, nearest_colour
from knitground.core.joins.sets import Terrain


class ColourDialog(QDialog):
    """A line for each colour; what is known already, or looks alike, is chosen."""

    def __init__(
        self, parent: QWidget, colours: Sequence[str], terrains: Sequence[Terrain], table: Mapping[str, str]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("What the colours stand for")
        self.resize(360, 380)
        names = [(NOTHING, NOTHING), *((one.name, one.name) for one in terrains)]
        form = QFormLayout()
        self._boxes: dict[str, ChoiceBox] = {}
        for colour in colours:
            box = ChoiceBox(f"What {colour} stands for")
            known = table.get(colour, "")
            wanted = known if any(known == name for name, _ in names) else nearest_colour(colour, terrains)
            fill_box(box, names, wanted)
            patch = QPixmap(16, 16)
            patch.fill(QColor(colour))
            form.addRow(_with_patch(patch, QLabel(colour)), box)
            self._boxes[colour] = box
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel, self)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = column(
            quiet("The project remembers this for the next picture."), scrolling(in_widget(form)), buttons, spacing=8
        )
        layout.setContentsMargins(12, 12, 12, 12)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    @property
    def table(self) -> dict[str, str]:
        """What each colour stands for."""
        return {colour: str(box.currentData()) for colour, box in self._boxes.items()}


def _with_patch(patch: QPixmap, label: QLabel) -> QWidget:
    shown = QLabel()
    shown.setPixmap(patch)
    return in_row(shown, label, None)
