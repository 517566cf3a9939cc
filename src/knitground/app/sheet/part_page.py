"""Which part of the picture a cut lies on."""

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from knitground.app.allowed import allow
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.grid_page import number_table
from knitground.app.widgets import button, column, in_row, quiet, row, set_quietly
from knitground.core.edits.cuts import remove_cut
from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import LARGEST_OFFSET, Rect, region_of

_FIELDS = (
    ("From", "part_x", "part_y", 0, LARGEST_OFFSET),
    ("Size", "part_width", "part_height", 1, LARGEST_OFFSET),
)


class PartPage(QWidget):
    """The rectangle as numbers; it is dragged on the picture as well."""

    def __init__(self, session: Session, view: SheetView) -> None:
        super().__init__()
        self._session, self._view = session, view
        numbers, self.boxes = number_table(_FIELDS, self._set)
        self._says = quiet()
        self._whole = button("The whole picture", self._take_whole, "Let this cut lie on the whole picture")
        self._remove = button("Remove this part", self._take_off, "Take this cut off the sheet; its tiles go with it")
        text = column(self._says, None, in_row(self._whole, self._remove, None))
        layout = row(numbers, spacing=20)
        layout.addLayout(text, 1)
        self.setLayout(layout)

    def refresh(self) -> None:
        """Shows the part as it is."""
        sheet, cut = self._view.sheet, self._view.cut
        if sheet is None or cut is None:
            return
        region = region_of(cut, *self._view.content_size())
        for name, value in zip(self.boxes, (region.x, region.y, region.width, region.height), strict=True):
            set_quietly(self.boxes[name], value)
        several = "" if len(sheet.cuts) < 2 else f" It is one of {len(sheet.cuts)} on this sheet."
        self._says.setText(
            f"“{cut.id}” lies on {'a part of' if cut.region else 'the whole of'} the picture.{several} "
            "Add a part and draw a rectangle to cut it by numbers of its own."
        )
        allow(self._whole, "" if cut.region is not None else "It is the whole picture already.")
        allow(self._remove, "" if len(sheet.cuts) > 1 else "A sheet keeps at least one part.")

    def _set(self, name: str, value: int) -> None:
        sheet, cut = self._view.sheet, self._view.cut
        if sheet and cut:
            changed = region_of(cut, *self._view.content_size())._replace(**{name.removeprefix("part_"): value})
            self._put(self._held(changed))

    def _held(self, region: Rect) -> Rect:
        """A rectangle held to the picture."""
        width, height = self._view.content_size()
        x, y = min(region.x, width - 1), min(region.y, height - 1)
        return Rect(x, y, min(region.width, width - x), min(region.height, height - y))

    def _take_whole(self) -> None:
        self._put(None)

    def _put(self, region: Rect | None) -> None:
        sheet, cut = self._view.sheet, self._view.cut
        changed = replace(known(cut), region=region)
        self._session.attempt(lambda: set_cut(self._session.document, known(sheet).id, changed))
        self.refresh()

    def _take_off(self) -> None:
        sheet, cut = self._view.sheet, self._view.cut
        self._session.attempt(lambda: remove_cut(self._session.document, known(sheet).id, known(cut).id))
