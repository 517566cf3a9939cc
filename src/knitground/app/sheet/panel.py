"""Stage 1: the sheet with its cut, and the numbers of it."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QGridLayout, QLabel, QMenu, QStackedLayout, QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.sheet.cut_mode import CutMode
from knitground.app.sheet.empty import EmptySheet
from knitground.app.stage import SheetTabs
from knitground.app.widgets import (
    button,
    card,
    clear,
    column,
    heading,
    held,
    held_layout,
    icon_button,
    number,
    quiet,
    row,
    set_quietly,
)
from knitground.core.project.operations import remove_sheet, set_cut, set_keys
from knitground.core.sheet.cut import LARGEST_OFFSET, LARGEST_TILE, Cut
from knitground.core.sheet.guess import Guess, guess_cuts

_KEYS_HEIGHT = 30
_FIELDS = (
    ("Tile", "tile_width", "tile_height", 1, LARGEST_TILE),
    ("Margin", "margin_x", "margin_y", 0, LARGEST_OFFSET),
    ("Spacing", "spacing_x", "spacing_y", 0, LARGEST_OFFSET),
)


class SheetPanel(QWidget):
    """The left half while sheets are cut."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.mode = CutMode()
        self.view = SheetView(session, self.mode)
        self._empty = EmptySheet(tabs)
        self._boxes = {}
        self._summary, self._left_over = quiet(), QLabel()
        self._left_over.setObjectName("warning")
        self._keys = row(spacing=4)
        work = QWidget()
        work.setLayout(column(tabs, self.view, self._card()))
        work.layout().setStretch(1, 1)
        self._stack = QStackedLayout(self)
        self._stack.addWidget(self._empty)
        self._stack.addWidget(work)
        for signal in (session.defined, session.chosen, session.opened):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the numbers as they are."""
        sheet, cut, grid = self.view.sheet, self.view.cut, self.view.grid
        self._stack.setCurrentIndex(0 if sheet is None else 1)
        if sheet is None or cut is None:
            return
        for name, box in self._boxes.items():
            set_quietly(box, getattr(cut, name))
        width, height = self.view.content_size()
        tiles = f"{grid.columns} x {grid.rows} tiles" if grid else "the cut does not fit"
        self._summary.setText(f"{sheet.file}, {width} x {height} px: {tiles}")
        self._show_left_over()
        self._show_keys()

    def _card(self) -> QWidget:
        numbers = QGridLayout()
        numbers.setContentsMargins(0, 0, 0, 0)
        numbers.setHorizontalSpacing(8)
        numbers.setVerticalSpacing(4)
        for place, title in enumerate(("across", "down"), start=1):
            numbers.addWidget(quiet(title), 0, place)
        for line, (title, across, down, low, high) in enumerate(_FIELDS, start=1):
            numbers.addWidget(QLabel(title), line, 0)
            for place, name in enumerate((across, down)):
                box = number(low, high, lambda value, n=name: self._set(n, value), name.replace("_", " "), " px")
                box.setFixedWidth(84)
                self._boxes[name] = box
                numbers.addWidget(box, line, 1 + place)
        keys = QWidget()
        keys.setLayout(self._keys)
        # As high as its buttons even while there are none, so that nothing jumps when a colour is picked.
        keys.setFixedHeight(_KEYS_HEIGHT)
        self._pick = button(
            "Pick key colour", self._toggle_pick, "Click a colour on the picture to make it transparent"
        )
        self._pick.setCheckable(True)
        guess = button(
            "Guess the numbers", self._guess, "Look for the grid that the art shows (Ctrl+G)", name="primary"
        )
        guess.setShortcut("Ctrl+G")
        self._guess_button = guess
        right = column(heading("Cut"), self._summary, self._left_over, held(keys), held(guess, self._pick, None,
                       icon_button("close", self._remove, "Take this sheet out of the project")), None)  # fmt: skip
        layout = row(spacing=20)
        layout.addLayout(column(held_layout(numbers), None))
        layout.addLayout(right, 1)
        return card(layout)

    def _set(self, name: str, value: int) -> None:
        sheet, cut = self.view.sheet, self.view.cut
        if sheet and cut:
            self._session.attempt(lambda: set_cut(self._session.document, sheet.id, replace(cut, **{name: value})))
            self.refresh()

    def _show_left_over(self) -> None:
        grid = self.view.grid
        parts = []
        if grid and grid.left_over_x:
            parts.append(f"{grid.left_over_x} px at the right")
        if grid and grid.left_over_y:
            parts.append(f"{grid.left_over_y} px at the bottom")
        self._left_over.setText("Left over: " + " and ".join(parts) if parts else "Nothing is left over")
        self._left_over.setObjectName("warning" if parts else "quiet")
        self._left_over.style().polish(self._left_over)

    def _show_keys(self) -> None:
        clear(self._keys)
        sheet = self.view.sheet
        self._keys.addWidget(quiet("Transparent:" if sheet.keys else "No key colour"))
        for key in sheet.keys:
            chip = button(key, lambda k=key: self._drop_key(k), f"Show {key} again")
            patch = QPixmap(16, 16)
            patch.fill(QColor(key))
            chip.setIcon(QIcon(patch))
            self._keys.addWidget(chip)
        self._keys.addStretch(1)

    def _drop_key(self, key: str) -> None:
        sheet = self.view.sheet
        set_keys(self._session.document, sheet.id, [other for other in sheet.keys if other != key])

    def _toggle_pick(self) -> None:
        self.mode.picks_colour = self._take_colour if self._pick.isChecked() else None
        if self._pick.isChecked():
            self._session.say("Click the colour that means transparent.")

    def _take_colour(self, x: int, y: int) -> None:
        sheet = self.view.sheet
        pixels = self._session.document.state.pictures[sheet.id].pixels
        if 0 <= y < pixels.shape[0] and 0 <= x < pixels.shape[1]:
            red, green, blue, alpha = (int(part) for part in pixels[y, x])
            if alpha == 0:
                self._session.say("That pixel is transparent already.")
                return
            key = f"#{red:02x}{green:02x}{blue:02x}"
            set_keys(self._session.document, sheet.id, (*sheet.keys, key))
            self._session.say(f"{key} is transparent now.")
        self._pick.setChecked(False)
        self.mode.picks_colour = None

    def _guess(self) -> None:
        sheet = self.view.sheet
        if sheet is None:
            return
        pixels = np.array(self._session.document.state.pictures[sheet.id].keyed(sheet.keys))
        job = Job("Guessing the numbers", lambda report: guess_cuts(pixels))
        self._session.run(job, lambda guesses: self._offer(sheet.id, guesses))

    def _offer(self, sheet_id: str, guesses: list[Guess]) -> None:
        """Takes the best guess, and offers the others in a menu."""
        if not guesses or self._session.sheet_id != sheet_id:
            self._session.say("No grid shows on this sheet; drag the first tile's corners instead.")
            return
        self._take(guesses[0])
        menu = QMenu(self)
        for one in guesses[:5]:
            text = (
                f"{one.tile_width} x {one.tile_height}, margin {one.margin_x}, {one.margin_y}, "
                f"spacing {one.spacing_x}, {one.spacing_y}"
            )
            menu.addAction(f"{one.confidence:.0%}   {text}: {one.reason}", lambda g=one: self._take(g))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self._guess_button.mapToGlobal(self._guess_button.rect().bottomLeft()))

    def _take(self, guess: Guess) -> None:
        sheet, cut = self.view.sheet, self.view.cut
        if sheet and cut:
            changed: Cut = guess.as_cut(cut.id)
            self._session.attempt(lambda: set_cut(self._session.document, sheet.id, changed))
            self._session.say(f"Cut as guessed: {guess.reason}.")

    def _remove(self) -> None:
        sheet = self.view.sheet
        if sheet:
            remove_sheet(self._session.document, sheet.id)
            self._session.say(f"Took {sheet.id} out; undo brings it back.")
