"""Stage 1: the sheet, how it is cut, and what its tiles are."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF, QSizeF
from PySide6.QtWidgets import QButtonGroup, QStackedLayout, QStackedWidget, QWidget

from knitground.app.allowed import NO_SHEET, OF_IMAGES, a_menu, allow_entry
from knitground.app.asking import answered, show_once
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.choices import SHOWN_ON_SHEETS
from knitground.app.commands import Command
from knitground.app.file_dialogs import ask_file
from knitground.app.first_guess import LEAVE_WRITING_OUT, LOOSE
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.cut_card import CutCard
from knitground.app.sheet.cut_mode import CutMode
from knitground.app.sheet.empty import EmptySheet
from knitground.app.sheet.exchange_dialog import ExchangeDialog
from knitground.app.sheet.repack_dialog import RepackDialog
from knitground.app.sheet.select_mode import SelectMode
from knitground.app.sheet.single_images import SingleImages
from knitground.app.sheet.snap_dialog import SnapDialog
from knitground.app.sheet.tile_card import TileCard
from knitground.app.sheet.twins_dialog import TwinsDialog
from knitground.app.stage import IMAGES, SheetTabs, StagePanel
from knitground.app.widgets import (
    BACKDROPS,
    ChoiceBox,
    button,
    clear,
    column,
    fill_box,
    icon_button,
    in_row,
    in_widget,
    quiet,
    row,
)
from knitground.core.check.check import Finding
from knitground.core.edits.exchange import first_cut
from knitground.core.edits.sheets import read_picture, remove_sheet
from knitground.core.edits.snapping import NONE_SNAPS, would_snap
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.picture import Sheet, read_file
from knitground.core.tiles.tile import TileRef


class SheetPanel(StagePanel):
    """The left half while sheets are cut and tiles are described."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session, self._tabs = session, tabs
        selecting = SelectMode(session)
        self.mode = CutMode(selecting)
        self.view = SheetView(session, self.mode)
        self._empty = EmptySheet(session, tabs)
        self._images = SingleImages(session)
        self.cut_card = CutCard(session, self.view, self.mode)
        self._cards = QStackedWidget()
        self.tile_card = TileCard(session, self.view)
        self._modes = {"Cut": (self.mode, self.cut_card), "Tiles": (selecting, self.tile_card)}

        def turn(title: str) -> None:
            selecting.shows_shapes = title == "Blocks"
            self.view.update()

        self.tile_card.pages.turned.connect(turn)
        for _, made in self._modes.values():
            self._cards.addWidget(made)
        self._backdrop = ChoiceBox("Backdrop")
        self._backdrop.setToolTip("What shows through where the picture is transparent")
        self._backdrop.activated.connect(lambda index: session.choose(backdrop=self._backdrop.itemData(index)))
        self._works = {}
        self._chips = row(spacing=0)
        self._shown_chips: tuple[list[str], str] = ([], "")
        group = QButtonGroup(self)
        for title, tip in (
            ("Cut", "How the picture is cut (F2 changes over)"),
            ("Tiles", "What the tiles are: choose some and describe them (F2 changes over)"),
        ):
            tab = button(title, lambda name=title: self.show_work(name), tip, name="tab")  # type: ignore[misc]
            group.addButton(tab)
            self._works[title] = tab
        self._more = icon_button("more", self._offer, "More to do with this sheet")
        head = in_row(
            *self._works.values(), in_widget(self._chips), None, self._backdrop,
            self._more,
        )  # fmt: skip
        work = QWidget()
        layout = column(tabs, head, self.view, self._cards, spacing=6)
        layout.setStretch(2, 1)
        work.setLayout(layout)
        self._stack = QStackedLayout(self)
        self._stack.addWidget(self._empty)
        self._stack.addWidget(work)
        self.show_work("Cut")
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, *SHOWN_ON_SHEETS)
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the sheet as it is."""
        sheet = self.view.sheet
        self._stack.setCurrentIndex(0 if sheet is None else 1)
        if sheet is None or not self.isVisible():
            return  # other stages need not wait for what is not seen
        self._show_chips(sheet)
        fill_box(self._backdrop, [(title, name) for name, title in BACKDROPS.items()], self._session.choices.backdrop)
        card: CutCard | TileCard = self.tile_card if self._cards.currentWidget() is self.tile_card else self.cut_card
        card.refresh()

    def _show_chips(self, sheet: Sheet) -> None:
        """One for each cut of the sheet, where there are several."""
        cuts = sheet.cuts if not sheet.images and len(sheet.cuts) > 1 else ()
        shown = [cut.id for cut in cuts], self.view.cut.id if self.view.cut else ""
        if shown == self._shown_chips:
            return
        self._shown_chips = shown
        focused = self.focusWidget()
        took = focused is not None and focused.hasFocus() and self._chips.indexOf(focused) >= 0
        clear(self._chips)
        if cuts:
            self._chips.addWidget(quiet("Parts:"))
        for cut in cuts:
            chip = button(cut.id, partial(self._take_part, cut.id), f"Take “{cut.id}” in hand", name="tab")
            chip.setChecked(cut.id == shown[1])
            self._chips.addWidget(chip)
            if took and chip.isChecked():
                chip.setFocus()  # the one that was clicked is gone, and the next control should not get the keys

    def _take_part(self, name: str) -> None:
        """Takes a part of the sheet in hand, and shows it."""
        self._session.choose(cut_id=name)
        cut = self.view.cut
        if cut is not None and cut.region is not None:
            seen = self.view.rect_on_widget(*cut.region)
            self.view.bring_into_view(QRectF(seen.topLeft(), seen.size().boundedTo(QSizeF(self.view.size()))))

    def showEvent(self, event: object) -> None:
        self.refresh()

    def commands(self) -> list[Command]:
        card, moves, tabs = self.tile_card, self.tile_card.motion, self._tabs
        return [
            Command("Add a sprite sheet…", tabs.ask, ("Ctrl+I",)),
            Command("Add several images as one tileset…", tabs.ask_images),
            Command("Add a folder of sheets or images…", tabs.ask_folder),
            Command("Add a folder of images as one tileset…", tabs.ask_collection),
            Command("Cut the sheet, or describe its tiles", self._change_work, ("F2",)),
            *self._images.commands(),
            *(
                self._on("Cut", name, act, refused=self._no_grid)
                for name, act in (
                    ("Cut a part of the sheet by numbers of its own", self.cut_card.add.click),
                    (LOOSE, self.cut_card.grid.loose.click),
                    (LEAVE_WRITING_OUT, self.cut_card.leave_writing_out),
                )
            ),
            self._on("Cut", "Guess the numbers of the cut", self.cut_card.grid.guess, "Ctrl+Shift+G"),
            Command(
                "Cut the other sheets in tiles of this size",
                self.cut_card.grid.cut_others,
                refused=self.cut_card.grid.no_others,
            ),
            Command("Clear what lies round the tiles", self.cut_card.clear_key, refused=self.cut_card.no_key),
            Command("All tiles like this", card.choose_alike, ("Ctrl+Shift+L",), refused=self._no_sheet),
            self._on("Tiles", "Choose tiles by their tag", card.offer_tags),
            Command("Mix the chosen tiles", card.mix, refused=self._no_sheet),
            self._on("Tiles", "Trace a collision shape", card.trace),
            self._on("Tiles", "Copy the collision shape to all chosen tiles", card.shape.copy),
            Command("Snap shapes to the borders of their tiles…", self.snap_shapes, refused=self._no_sheet),
            self._on("Tiles", "Animate the chosen tiles", card.animate),
            Command("Play animations, or hold them", moves.toggle),
            *(
                Command(f"Let the chosen frame show {when}", partial(moves.shift, by), (key,), refused=moves.no_frame)
                for when, by, key in (("earlier", -1, "Alt+Left"), ("later", 1, "Alt+Right"))
            ),
            Command("Exchange the picture of the sheet…", self.exchange, refused=self._no_sheet),
            Command("Take the sheet out of the project", self._remove, refused=self._no_sheet),
            Command("Pack the sheet anew…", self.pack_anew, refused=self._no_sheet),
            Command("Tiles that look the same…", self.show_twins, refused=self._no_sheet),
        ]

    def show_finding(self, finding: Finding) -> None:
        self._session.choose(sheet_id=finding.subject)
        refs = sorted(self._session.derived.usable([TileRef.parse(name) for name in finding.tiles]))
        self.show_work("Tiles" if refs else "Cut")
        if refs:
            self._session.choose(tile=refs[0], selection=frozenset(refs))
            if finding.shape_kind:
                self.tile_card.show_shapes(finding.shape_kind)
            self.view.reveal(refs[0])

    def _no_sheet(self) -> str:
        return "" if self._session.document.project.sheets else NO_SHEET

    def _no_grid(self) -> str:
        sheet = self.view.sheet
        return OF_IMAGES if sheet is not None and sheet.images else self._no_sheet()

    def snap_shapes(self) -> None:
        """Shows which shapes of the sheet would snap, and snaps them; says so where none would."""
        changes = would_snap(self._session.document, known(self.view.sheet).id)
        if changes:
            show_once(SnapDialog(self, self._session, known(self.view.sheet).id, changes))
        else:
            self._session.say(NONE_SNAPS)

    def _on(
        self, work: str, name: str, act: Callable[[], object], *keys: str, refused: Callable[[], str] | None = None
    ) -> Command:
        """A command that is done where it is seen."""

        def done() -> None:
            self._session.set_stage("sheet")
            self.show_work(work)
            act()

        return Command(name, done, keys, refused=refused or self._no_sheet)

    def _change_work(self) -> None:
        if self._session.choices.stage == "sheet":
            self.change_over()
        self._session.set_stage("sheet")

    def show_work(self, title: str) -> None:
        """Changes over between cutting and the tiles."""
        self._works[title].setChecked(True)
        self.view.mode, made = self._modes[title]
        self._cards.setCurrentWidget(made)
        self.view.update()
        self.refresh()

    def change_over(self) -> None:
        """Shows the tiles in place of the cut, or the other way round."""
        self.show_work("Cut" if self._works["Tiles"].isChecked() else "Tiles")

    def _offer(self) -> None:
        menu = a_menu(self)
        menu.addAction("Tiles that look the same…", self.show_twins)
        exchanged = menu.addAction("Exchange the picture…", self.exchange)
        allow_entry(exchanged, OF_IMAGES if known(self.view.sheet).images else "")
        menu.addAction("Pack anew…", self.pack_anew)
        if known(self.view.sheet).images:
            menu.addSeparator()
            for command in self._images.commands():
                allow_entry(menu.addAction(command.name, command.act), command.refused())
        menu.addSeparator()
        menu.addAction("Take this sheet out of the project", self._remove)
        menu.popup(self._more.mapToGlobal(self._more.rect().bottomLeft()))

    def show_twins(self) -> None:
        """Lists tiles that look the same, to be merged."""
        answered(TwinsDialog(self, self._session))

    def exchange(self) -> None:
        """Asks for another picture, and shows what takes the place of what before it is taken."""
        sheet = self.view.sheet
        if sheet is None or sheet.images:
            self._session.say("Choose a sheet first; the images of a collection are exchanged on disk.")
            return
        path = ask_file(self, f"Another picture for {sheet.id}", IMAGES)
        if path is not None:
            self.exchange_for(path)

    def exchange_for(self, path: Path) -> None:
        """Shows what a picture would change, once it is read and its tiles are found beside the interface."""
        sheet, document = known(self.view.sheet), self._session.document
        before = document.state.pictures[sheet.id]

        def work(report: Callable[[float], None]) -> tuple[Picture, Cut | None]:
            picture = read_picture(path.name, read_file(path))
            report(0.5)
            return picture, first_cut(sheet, before, picture)

        def done(found: tuple[Picture, Cut | None]) -> None:
            if document is self._session.document and document.state.pictures.get(sheet.id) is before:
                show_once(ExchangeDialog(self, self._session, sheet, *found))

        self._session.run(Job("Reading the picture", work), done)

    def pack_anew(self) -> None:
        """Shows the sheet with other gaps, to write it or to move over to it."""
        sheet = self.view.sheet
        if sheet is None:
            self._session.say("Choose a sheet first.")
        else:
            answered(RepackDialog(self, self._session, sheet))

    def _remove(self) -> None:
        sheet = self.view.sheet
        if sheet:
            remove_sheet(self._session.document, sheet.id)
            self._session.say(f"Took {sheet.id} out.", "Undo")
