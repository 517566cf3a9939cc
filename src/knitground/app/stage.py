"""What the left half of every stage is made of: sheet tabs, a sheet view, cards."""

from collections.abc import Callable, Iterator, Mapping
from typing import Any, Generic, TypeVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QAbstractButton, QApplication, QWidget

from knitground.app.allowed import a_menu
from knitground.app.file_dialogs import ask_files, ask_folder
from knitground.app.known import with_id
from knitground.app.scrolled_row import ScrolledRow
from knitground.app.session import Session
from knitground.app.widgets import button, clear, icon_button, in_widget, row
from knitground.core.check.check import Finding

_HEIGHT = 32
IMAGES = "Images (*.png *.gif *.webp *.bmp)"
SHEETS = "Images (*.png *.gif *.webp *.bmp *.ora)"


class StagePanel(QWidget):
    """Base of the left halves: what the window asks of each."""

    def show_finding(self, finding: Finding) -> None:
        """Leads to what a finding of its stage is about."""


P = TypeVar("P", bound=StagePanel)


class Late(Generic[P]):
    """A left half that is put together when it is first asked for: the window comes up without it."""

    def __init__(self, make: Callable[[], P]) -> None:
        self._make = make
        self.made: P | None = None

    def __call__(self) -> P:
        """The panel."""
        if self.made is None:
            self.made = self._make()
        return self.made

    def there(self, session: Session, stage: str, act: Callable[[P], object]) -> Callable[[], None]:
        """Goes to the stage of the panel and does something with it, so that it is seen."""

        def done() -> None:
            session.set_stage(stage)
            act(self())

        return done


class Panels(Mapping[str, StagePanel]):
    """The left halves by the names of their stages."""

    def __init__(self, late: Mapping[str, Late[Any]]) -> None:
        self._late = late

    def __getitem__(self, stage: str) -> StagePanel:
        panel: StagePanel = self._late[stage]()
        return panel

    def __iter__(self) -> Iterator[str]:
        return iter(self._late)

    def __len__(self) -> int:
        return len(self._late)


class SheetTabs(QWidget):
    """One button per sheet, and a plus."""

    add_wanted = Signal(list)
    folder_wanted = Signal(str)
    """Is told of a folder that holds sheets, single images or both."""
    collection_wanted = Signal(list)
    more_wanted = Signal(str, list)
    taken = Signal()
    """A sheet was clicked, be it another or not."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._aside = False
        self._layout = row(spacing=4)
        self._row = ScrolledRow(in_widget(self._layout), _HEIGHT)
        self._plus = icon_button(
            "plus", self._offer, "Add a sprite sheet or single images (or drop them on the window)"
        )
        self._all = icon_button("down", self._list, "All sheets, where they don't fit the row")
        self._row.horizontalScrollBar().rangeChanged.connect(lambda _, most: self._all.setVisible(most > 0))
        self._all.hide()
        outer = row(self._row, self._all, self._plus, spacing=4)
        outer.setStretch(0, 1)
        self.setLayout(outer)
        self._shown: tuple[object, ...] | None = None
        for signal in (session.defined, session.opened):
            signal.connect(self._refresh)
        session.on_choice(self._refresh, "sheet_id")
        self._refresh()

    def _refresh(self, *_: object) -> None:
        sheets = self._session.document.project.sheets
        shown = (tuple(sheet.id for sheet in sheets), self._session.choices.sheet_id)
        if shown == self._shown:
            return
        self._shown = shown
        self._row.keep_in_view(None)
        at_keys = self._row.isAncestorOf(focus) if (focus := QApplication.focusWidget()) is not None else False
        clear(self._layout)
        if not sheets:
            self._layout.addWidget(button("Add a sprite sheet…", self.ask, "Choose an image file (Ctrl+I)"))
        for sheet in sheets:
            tab = button(
                sheet.id,
                lambda name=sheet.id: self._take(name),  # type: ignore[misc]
                f"Show the sheet {sheet.file}",
                name="tab",
            )
            tab.setChecked(sheet.id == self._session.choices.sheet_id and not self._aside)
            self._layout.addWidget(tab)
            if sheet.id == self._session.choices.sheet_id:
                self._row.keep_in_view(tab)
                if at_keys:
                    tab.show()
                    tab.setFocus()
        self._layout.addStretch(1)

    def set_aside(self, aside: bool) -> None:
        """Marks no sheet as the one that shows while something else does in its place."""
        self._aside = aside
        for tab in self._row.findChildren(QAbstractButton):
            tab.setChecked(tab.text() == self._session.choices.sheet_id and not aside)

    def _take(self, name: str) -> None:
        self._session.choose(sheet_id=name)
        self.set_aside(False)
        self.taken.emit()

    def _list(self) -> None:
        menu = a_menu(self)
        for sheet in self._session.document.project.sheets:
            entry = menu.addAction(sheet.id)
            entry.triggered.connect(lambda _=False, name=sheet.id: self._take(name))
            entry.setCheckable(True)
            entry.setChecked(sheet.id == self._session.choices.sheet_id)
        menu.popup(self._all.mapToGlobal(self._all.rect().bottomLeft()))

    def _offer(self) -> None:
        menu = a_menu(self)
        menu.addAction("A sprite sheet, GIF or APNG…", self.ask)
        menu.addAction("Several images as one tileset…", self.ask_images)
        menu.addAction("A folder of sheets or images…", self.ask_folder)
        menu.addAction("A folder of images as one tileset…", self.ask_collection)
        sheet = with_id(self._session.document.project.sheets, self._session.choices.sheet_id)
        if sheet is not None and sheet.images:
            menu.addAction(f"More images for “{sheet.id}”…", lambda: self.ask_more(sheet.id))
        menu.popup(self._plus.mapToGlobal(self._plus.rect().bottomLeft()))

    def ask_images(self) -> None:
        """Asks for image files that are to be one tileset."""
        paths = ask_files(self, "Images of a tileset", IMAGES)
        if paths:
            self.collection_wanted.emit([str(path) for path in paths])

    def ask_more(self, sheet_id: str) -> None:
        """Asks for image files that are to go into a collection."""
        paths = ask_files(self, f"More images for {sheet_id}", IMAGES)
        if paths:
            self.more_wanted.emit(sheet_id, [str(path) for path in paths])

    def ask_folder(self) -> None:
        """Asks for a folder of sheets or of single images."""
        path = ask_folder(self, "A folder of sheets or images")
        if path is not None:
            self.folder_wanted.emit(str(path))

    def ask_collection(self) -> None:
        """Asks for a folder whose images are to be one tileset, whatever they look like."""
        path = ask_folder(self, "A folder of images")
        if path is not None:
            self.collection_wanted.emit([str(path)])

    def ask(self) -> None:
        """Asks for files to add, a sheet each."""
        self.add_wanted.emit([str(path) for path in ask_files(self, "Add a sprite sheet", SHEETS)])
