"""The numbers of a cut, what comes of them, and better ones near them."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any, NamedTuple

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QGridLayout, QLabel, QSpinBox, QStackedWidget, QWidget

from knitground.app.allowed import OF_IMAGES, a_menu, allow
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.first_guess import LEAVE_WRITING_OUT, told_of_writing
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.magnifier import Magnifier
from knitground.app.widgets import (
    Tick,
    button,
    column,
    in_row,
    in_widget,
    number,
    quiet,
    row,
    set_quietly,
)
from knitground.core.edits.captions import leave_out_written, look_written, written_tiles
from knitground.core.edits.cuts import as_grid, guess_in, set_parts, take_loose
from knitground.core.edits.likewise import Likewise, cut_likewise, cut_otherwise, guess_likewise
from knitground.core.edits.sheets import set_cut, shown_in, sizes_known
from knitground.core.ground.ground import by_id
from knitground.core.project.collecting import loose_pieces
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.cut import LARGEST_OFFSET, LARGEST_TILE, Cut, Rect
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.severed import Better, Severing
from knitground.core.sheet.slices import LeftOver, left_over

_FIELDS = (
    ("Tile", "tile_width", "tile_height", 1, LARGEST_TILE),
    ("Margin", "margin_x", "margin_y", 0, LARGEST_OFFSET),
    ("Spacing", "spacing_x", "spacing_y", 0, LARGEST_OFFSET),
)
BOX = 84
_AT_ONCE = 2**20
_SETTLE_MS = 200
_MOST_NAMED = 12


def number_table(
    fields: Iterable[tuple[str, str, str, int, int]], changed: Callable[[str, int], None]
) -> tuple[QWidget, dict[str, QSpinBox]]:
    """Pairs of numbers, across and down, each line with its title."""
    table = QGridLayout()
    table.setContentsMargins(0, 0, 0, 0)
    table.setHorizontalSpacing(8)
    table.setVerticalSpacing(4)
    boxes: dict[str, QSpinBox] = {}
    for place, title in enumerate(("across", "down"), start=1):
        table.addWidget(quiet(title), 0, place)
    for line, (title, across, down, low, high) in enumerate(fields, start=1):
        table.addWidget(QLabel(title), line, 0)
        for place, name in enumerate((across, down)):
            box = number(low, high, lambda value, n=name: changed(n, value), name.replace("_", " "), " px")  # type: ignore[misc]
            box.setFixedWidth(BOX)
            boxes[name] = box
            table.addWidget(box, line, 1 + place)
    return in_widget(column(in_widget(table), None)), boxes


class _Judgement(NamedTuple):
    """What is to be said of a cut among others: a better one, or how many tiles of all look like writing."""

    pixels: Pixels
    cut: Cut
    cuts: tuple[Cut, ...]
    severing: Severing
    better: Better | None
    written: int


class GridPage(QWidget):
    """Cut by numbers, or as loose pieces."""

    def __init__(self, session: Session, view: SheetView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self._severing: tuple[Pixels, Severing] | None = None
        self._better: Better | None = None
        self._judging: Job | None = None
        self._judged: tuple[Pixels, Cut, tuple[Cut, ...]] | None = None
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._settle.timeout.connect(self._begin_to_judge)
        numbers, self.boxes = number_table(_FIELDS, self._set)
        self._gap = number(0, 256, self._find, "gap", " px")
        self._gap.setToolTip("Parts that lie so many clear pixels apart still belong to one piece")
        self._gap.setFixedWidth(BOX)
        says = quiet("Each separate shape is a tile of its own size.")
        loose = in_widget(column(says, in_row(QLabel("Gap"), self._gap, None), None, spacing=4))
        self._numbers = QStackedWidget()
        self._numbers.addWidget(numbers)
        self._numbers.addWidget(loose)
        self._numbers.setFixedWidth(2 * BOX + 68)
        self.loose = Tick("Loose pieces", "Find separate shapes instead of cutting by a grid: for props")
        self.loose.clicked.connect(self._toggle_loose)
        self._summary, self._left_over = quiet(), quiet()
        self._guess_button = button(
            "Guess the numbers", self.guess, "Look for the grid that the art shows (Ctrl+Shift+G)", name="primary"
        )
        self.likewise = button("", self.cut_others)
        self._warning = quiet()
        self._warning.setObjectName("warning")
        self.fix = button("Use it", self._mend, "Change the cut to these numbers")
        warned = row(self._warning, self.fix)
        warned.setStretch(0, 1)
        self._warned = in_widget(warned)
        self._far = Magnifier(view)
        buttons = in_row(self.likewise, None), in_row(self._guess_button, None)
        text = column(self._summary, self._left_over, self._warned, None, *buttons, spacing=4)
        layout = row(self._numbers, spacing=20)
        layout.addLayout(text, 1)
        layout.addWidget(self._far, 0, Qt.AlignmentFlag.AlignTop)
        self.setLayout(layout)

    def refresh(self) -> None:
        """Shows the numbers as they are."""
        sheet, cut = self._view.sheet, self._view.cut
        if sheet is None or cut is None:
            return
        for name, box in self.boxes.items():
            set_quietly(box, getattr(cut, name))
        set_quietly(self._gap, cut.gap)
        self._numbers.setCurrentIndex(1 if cut.pieces else 0)
        self.loose.setVisible(not sheet.images)
        self.loose.setChecked(bool(cut.pieces))
        loose = "Loose pieces have no numbers to guess." if cut.pieces else ""
        allow(self._guess_button, loose)
        width, height = self._view.content_size()
        self._summary.setText(f"{sheet.file}, {width} x {height} px: {self._count(cut)}")
        self._show_left_over()
        self._far.setVisible(not cut.pieces)
        self._far.update()
        self._show_others(sheet)
        self._judge(cut)

    def _show_others(self, sheet: Sheet) -> None:
        """Offers to cut other sheets in the same size, where their tiles are used nowhere yet."""
        cut, others = sheet.cuts[0], cut_otherwise(self._session.document, sheet.id)
        self.likewise.setVisible(bool(others))
        if others:
            self.likewise.setText(f"Cut {len(others)} others so, too" if others[1:] else "Cut the other so, too")
            self.likewise.setToolTip(
                f"Guess anew, in tiles of {cut.tile_width} x {cut.tile_height}, what nothing uses yet: "
                + ", ".join(one.id for one in others[:_MOST_NAMED])
                + " …" * (len(others) > _MOST_NAMED)
            )

    def no_others(self) -> str:
        """Why no other sheet can be cut in the size of this; empty where one can."""
        sheet = self._view.sheet
        if sheet is not None and cut_otherwise(self._session.document, sheet.id):
            return ""
        return "All other sheets are cut in this size, or their tiles are used already."

    def cut_others(self) -> None:
        """Cuts other sheets in the size of this one, beside the interface."""
        document, sheet = self._session.document, self._view.sheet
        if sheet is None:
            return

        def take(found: Likewise) -> None:
            if document is self._session.document:
                self._session.attempt(lambda: cut_likewise(document, sheet.id, found.cuts))
                self._session.say(found.sentence)

        self._session.run(Job("Cutting the others so", lambda report: guess_likewise(document, sheet.id, report)), take)

    def _count(self, cut: Cut) -> str:
        slices = self._view.slices
        if slices is None:
            return "the cut does not fit"
        if cut.pieces:
            return f"{int(slices.held.sum())} loose pieces"
        says = f"{slices.grid.columns} x {slices.grid.rows} tiles"
        free = ~slices.held & ~slices.covered
        counts = (
            (slices.covered & ~slices.held, "under other parts"), (free & ~slices.filled, "empty"),
            (free & slices.filled, "left out"),
        )  # fmt: skip
        more = [f"{int(cells.sum())} {what}" for cells, what in counts if cells.any()]
        return f"{says}, {' and '.join(more)}" if more else says

    def _show_left_over(self) -> None:
        over = left_over(self._view.slices) if self._view.slices else LeftOver(0, 0)
        self._left_over.setText(f"Left over: {over}" if any(over) else "Nothing is left over")
        self._left_over.setObjectName("warning" if any(over) else "quiet")
        self._left_over.style().polish(self._left_over)

    def _judge(self, cut: Cut) -> None:
        """Looks, beside the interface, whether the borders cut through more than they need to, and for writing."""
        sheet = known(self._view.sheet)
        pixels = self._session.document.state.pictures[sheet.id].cleared(sheet)
        captioned = () if sheet.images else sheet.cuts
        if self._is_judged(pixels, cut, captioned):
            return
        self._judged = pixels, cut, captioned
        self._warn(None, 0)
        if self._judging is not None:
            self._judging.cancel()
        self._settle.start()

    def _is_judged(self, pixels: Pixels, cut: Cut, cuts: tuple[Cut, ...]) -> bool:
        return self._judged is not None and self._judged[0] is pixels and self._judged[1:] == (cut, cuts)

    def _begin_to_judge(self) -> None:
        pixels, cut, cuts = known(self._judged)
        before = self._severing

        def judge(report: Callable[[float], None]) -> _Judgement:
            severing = before[1] if before is not None and before[0] is pixels else Severing(pixels)
            better = severing.better(cut, report)
            written = 0 if better is not None else sum(map(len, written_tiles(pixels, cuts).values()))
            return _Judgement(pixels, cut, cuts, severing, better, written)

        self._judging = Job("Looking at the borders", judge)
        self._judging.succeeded.connect(self._take_judgement)
        self._judging.start()

    def _take_judgement(self, found: "_Judgement") -> None:
        if self._is_judged(found.pixels, found.cut, found.cuts):
            self._severing = found.pixels, found.severing
            self._warn(found.better, found.written)

    def _warn(self, better: Better | None, written: int) -> None:
        """Tells of a better cut, or else of so many tiles that look like writing, if there are any."""
        self._better = better
        self._warned.setVisible(better is not None or written > 0)
        if better is not None:
            self._warning.setText(f"{better.sentence}.")
        elif written:
            self._warning.setText(f"{told_of_writing(written).capitalize()}.")
        self.fix.setText("Use it" if better is not None else "Leave out")
        self.fix.setToolTip("Change the cut to these numbers" if better is not None else LEAVE_WRITING_OUT)

    def _mend(self) -> None:
        sheet, better = self._view.sheet, self._better
        if better is None:
            self.leave_writing_out()
        elif sheet is not None:
            self._session.attempt(lambda: set_cut(self._session.document, sheet.id, better.cut))

    def _set(self, name: str, value: Any) -> None:
        sheet, cut = self._view.sheet, self._view.cut
        if sheet and cut:
            self._session.attempt(lambda: set_cut(self._session.document, sheet.id, replace(cut, **{name: value})))
            self.refresh()

    def _toggle_loose(self, wanted: bool) -> None:
        sheet, cut = self._view.sheet, self._view.cut
        if sheet is None or cut is None:
            return
        if wanted:
            self._find(cut.gap)
        else:
            self._session.attempt(lambda: as_grid(self._session.document, sheet.id, cut.id))
        self.refresh()

    def _find(self, gap: int) -> None:
        """Looks for loose pieces; on a large picture beside the interface."""
        sheet, cut, document = self._view.sheet, self._view.cut, self._session.document
        picture = document.state.pictures[known(sheet).id].cleared(known(sheet))

        def take(found: tuple[list[Rect], int, int]) -> None:
            pieces, free, written = found
            if document is self._session.document and any(one is cut for one in known(self._view.sheet).cuts):
                take_loose(document, known(sheet).id, known(cut).id, gap, pieces)
                letters = f"; {written} of them look like writing" if written else ""
                leads = [LEAVE_WRITING_OUT] if written else []
                self._session.say(f"Found {free} loose piece{'s' * (free != 1)}{letters}.", *leads)
            self.refresh()

        def look() -> tuple[list[Rect], int, int]:
            pieces = loose_pieces(picture, replace(known(cut), gap=gap))
            over = known(sheet).parts_over(known(cut))
            free = [one for one in pieces if not any(one.touches(part) for part in over)]
            return pieces, len(free), len(look_written(picture, free))

        if picture.size < _AT_ONCE:
            self._session.attempt(lambda: take(look()))
            self.refresh()
        else:
            job = Job("Looking for loose pieces", lambda report: look())
            self._session.run(job, lambda found: self._session.attempt(lambda: take(found)))

    def leave_writing_out(self, *leads: str) -> None:
        """Leaves the letters of captions out of the tiles; what can be done then is named in leads."""
        sheet, document = self._view.sheet, self._session.document
        if sheet is not None:
            count = self._session.attempt(lambda: leave_out_written(document, sheet.id))
            if count:
                some = "A tile is" if count == 1 else f"{count} tiles are"
                self._session.say(f"{some} left out; a click takes one in again.", *leads)
            self.refresh()

    def guess(self) -> None:
        """Looks for the grid, beside the interface."""
        sheet, cut = self._view.sheet, self._view.cut
        if sheet is None or cut is None:
            return
        if sheet.images:
            self._session.say(OF_IMAGES)
            return
        pixels = self._session.document.state.pictures[sheet.id].pixels
        known = sizes_known(self._session.document.project, sheet.id)
        job = Job("Guessing the numbers", lambda report: guess_in(pixels, sheet, cut, report, known))
        self._session.run(job, lambda found: self._offer(sheet.id, *found))

    def _offer(self, sheet_id: str, found: list[tuple[Cut, str, float]], parts: tuple[Cut, ...]) -> None:
        """Takes the best guess, and offers the others in a menu."""
        if not found or self._session.choices.sheet_id != sheet_id:
            self._session.say("No grid shows on this sheet; drag the first tile's corners instead.")
            return
        menu = a_menu(self)
        if parts:
            self._take_parts(sheet_id, parts)
            sizes = ", ".join(f"{cut.tile_width} x {cut.tile_height}" for cut in parts if not cut.pieces)
            menu.addAction(f"{shown_in(parts)}, each a part: {sizes}", lambda: self._take_parts(sheet_id, parts))
            menu.addSeparator()
        else:
            self._take(sheet_id, *found[0][:2])
        for cut, reason, confidence in found[:5]:
            told = f"{confidence:4.0%}".replace(" ", "\u2007")
            text = (
                f"{cut.tile_width} x {cut.tile_height}, margin {cut.margin_x}, {cut.margin_y}, "
                f"spacing {cut.spacing_x}, {cut.spacing_y}"
            )
            menu.addAction(
                f"{told}   {text}: {reason}", lambda c=cut, r=reason: self._take(sheet_id, c, r, parts)  # type: ignore[misc]
            )  # fmt: skip
        menu.addSeparator()
        menu.addAction("Loose pieces: each separate shape is a tile of its own size", self.loose.click)
        menu.popup(self._guess_button.mapToGlobal(self._guess_button.rect().bottomLeft()))

    def _take_parts(self, sheet_id: str, parts: tuple[Cut, ...]) -> None:
        self._session.attempt(lambda: set_parts(self._session.document, sheet_id, parts))
        self._session.choose(cut_id=parts[0].id)
        self._session.say(f"Cut in {len(parts)} parts as guessed, as {shown_in(parts)} show.")

    def _take(self, sheet_id: str, cut: Cut, reason: str, parts: tuple[Cut, ...] = ()) -> None:
        """Cuts by one guess, also in place of the parts that were guessed with it; others are never thrown away."""
        document = self._session.document
        if parts and by_id(document.project.sheets, sheet_id).cuts == parts:
            self._session.attempt(lambda: set_parts(document, sheet_id, [cut]))
        else:
            self._session.attempt(lambda: set_cut(document, sheet_id, cut))
        self._session.say(f"Cut as guessed: {reason}.")
