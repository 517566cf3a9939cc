"""The card under the sheet while it is cut."""

from PySide6.QtWidgets import QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.first_guess import CLEAR
from knitground.app.pages import Pages
from knitground.app.session import Session
from knitground.app.sheet.clear_page import ClearPage
from knitground.app.sheet.clearing import Clearer
from knitground.app.sheet.cut_mode import CutMode
from knitground.app.sheet.grid_page import GridPage
from knitground.app.sheet.part_page import PartPage
from knitground.app.sheet.stand_page import StandPage
from knitground.app.widgets import button, card, column, in_widget, row
from knitground.core.edits.clear_offers import ClearOffer, clear_offer, offer_for_images
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.gutters import Looked, looked_at
from knitground.core.sheet.picture import Sheet
from knitground.core.tiles.tile import TileRef

_PAGE = 176


class CutCard(QWidget):
    """Pages for what makes up the cut at hand."""

    def __init__(self, session: Session, view: SheetView, mode: CutMode) -> None:
        super().__init__()
        self._session, self._view, self._mode = session, view, mode
        self.grid = GridPage(session, view)
        self._clearer = Clearer(session, self)
        self.clear = ClearPage(session, view, mode, self._clearer)
        self.part = PartPage(session, view)
        self.stand = StandPage(session, self._tiles)
        self.pages = Pages(
            {"Grid": self.grid, "Part": self.part, "Transparent": self.clear, "Standing": self.stand}
        )  # fmt: skip
        self.pages.setFixedHeight(_PAGE)
        self.add = button("Part", self._draw_part, "Cut a part of the picture by numbers of its own: draw a rectangle",
                          icon_name="plus")  # fmt: skip
        self.add.setCheckable(True)
        self.key = button("", self.clear_key, "")
        self._turned = False
        self._offer: ClearOffer | None = None
        self._looked_at: tuple[Pixels | None, tuple[Cut, ...]] = None, ()
        self._looked: Looked | None = None
        head = row(*self.pages.tabs.values(), None, spacing=2)
        head.addWidget(self.key)
        head.addSpacing(8)
        head.addWidget(self.grid.loose)
        head.addWidget(self.add)
        layout = column(spacing=8)
        layout.addWidget(card(column(in_widget(head), self.pages, spacing=6), 10))
        self.setLayout(layout)

    def refresh(self) -> None:
        """Shows the cut as it is."""
        sheet = self._view.sheet
        if sheet is None or self._view.cut is None:
            return
        self._show_pages(sheet)
        self.add.setChecked(self._mode.draws_part)
        if self._mode.picks_colour is None:
            self.clear.pick.setChecked(False)
        for page in (self.grid, self.part, self.clear, self.stand):
            page.refresh()
        self._propose(sheet)

    def _show_pages(self, sheet: Sheet) -> None:
        """Leaves out what a collection has no use for: its images are tiles as they are."""
        of_images = bool(sheet.images)
        useless = [self.pages.tabs["Grid"], self.pages.tabs["Part"]]
        for part in (*useless, self.add):
            part.setVisible(not of_images)
        if of_images and any(tab.isChecked() for tab in useless):
            self._turned = True
            self.pages.show_page("Standing")
        elif self._turned and not of_images:
            self._turned = False
            self.pages.show_page("Grid")

    def _propose(self, sheet: Sheet) -> None:
        """Offers to make clear what fills the gutters, where that is not clear yet."""
        pixels = self._session.document.state.pictures[sheet.id].pixels
        known, cuts = self._looked_at
        if known is not pixels and not sheet.images:
            self._looked = looked_at(pixels)
        if not (known is pixels and cuts == sheet.cuts):
            self._looked_at = pixels, sheet.cuts
            of_images = offer_for_images(pixels, sheet.cuts) if sheet.images else None
            self._offer = of_images if sheet.images else clear_offer(pixels, sheet.cuts, self._looked)
            if self._offer is not None:
                self.key.setText(self._offer.title)
                self.key.setToolTip(f"{self._offer.says[0].upper()}{self._offer.says[1:]}")
        self.key.setVisible(self._offer is not None and not self._offer.taken(sheet))

    def no_key(self) -> str:
        """Why nothing can be made clear at a click; empty where something can."""
        return "" if self.key.isVisibleTo(self) else "No colour, checker, ground or haze lies round the tiles here."

    def leave_writing_out(self) -> None:
        """Leaves the letters of captions out of the tiles of the cut at hand."""
        self.grid.leave_writing_out(*([CLEAR] if self._offer is not None else []))

    def clear_key(self) -> None:
        """Makes clear what fills the gutters."""
        sheet = self._view.sheet
        if sheet is not None and self._offer is not None:
            change = self._offer.change
            self._clearer.change(sheet, lambda one, picture: change(one, picture.pixels), look_for_writing=True)

    def _tiles(self) -> list[TileRef]:
        """The tiles of the cut at hand; of a collection the images that are chosen, if any are."""
        slices, sheet = self._view.slices, self._view.sheet
        if sheet is not None and sheet.images:
            chosen = [ref for ref in sorted(self._session.choices.selection) if ref.sheet == sheet.id]
            if chosen:
                return chosen
        return [TileRef(sheet.id, slices.cut.id, *cell) for cell in slices.cells()] if slices and sheet else []

    def _draw_part(self) -> None:
        self._mode.draws_part = self.add.isChecked()
        if self._mode.draws_part:
            self._session.say("Draw a rectangle round the part; Escape stops.")
