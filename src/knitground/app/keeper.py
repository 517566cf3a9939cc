"""Opening, saving and not losing projects."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QDateTime, QEventLoop, QLocale, QObject, QSettings, Signal
from PySide6.QtWidgets import QWidget

from knitground.app.adding import Adder
from knitground.app.asking import ask
from knitground.app.commands import Command
from knitground.app.file_dialogs import ask_folder, ask_project
from knitground.app.jobs import Job
from knitground.app.scribe import Scribe
from knitground.app.session import Session
from knitground.app.watcher import Watcher
from knitground.core.deliver.taking_back import is_delivered_map, project_from_map
from knitground.core.errors import CannotWrite, ChangedMeanwhile
from knitground.core.project.atomic import clear_halves
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME, Saved
from knitground.core.project.journal import drop, last_kept, left_behind, replay
from knitground.core.project.ledger import Ledger
from knitground.core.project.lock import ProjectLock
from knitground.core.project.model import UNTITLED
from knitground.core.project.saving import save_project
from knitground.core.sheet.picture import Sheet, read_file

MOST_RECENT = 8
_AT_ONCE = 500_000
_AT_ONCE_BYTES = 1_000_000
_READ_ONLY = (
    "This project is open in another window, so it can only be looked at here; to change it, save it in another folder."
)

Outcome = tuple[Saved, dict[str, Sheet]]


class Keeper(QObject):
    """Keeps the session's document on disk."""

    saved = Signal()

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._window = session, window
        self.scribe = Scribe(session, self)
        self._watcher = Watcher(session, self)
        self.saved.connect(self._watcher.saved)
        self.adder = Adder(session, self._watcher)
        """Adds sheets and images to the project."""
        self._lock: tuple[Path, ProjectLock] | None = None
        self._opening: Job | None = None
        self._saving = False
        session.opened.connect(self._on_opened)

    @property
    def read_only(self) -> bool:
        """Whether another window works on the project."""
        return bool(self._session.document.locked)

    def commands(self) -> list[Command]:
        """What one can do with projects."""
        return [
            Command("New project", self.new, ("Ctrl+N",)),
            Command("Open a project…", self.ask_open, ("Ctrl+O",)),
            Command("Save", self.save, ("Ctrl+S",)),
            Command("Save in another folder…", self.save_as, ("Ctrl+Shift+S",)),
        ]

    def open_path(self, path: Path) -> bool:
        """Opens a project folder or file, or a sheet as a new project; whether it can, or is being tried.

        Large files are read beside the interface. What goes wrong is said in the window, and the open project
        stays as it is.
        """
        if path.suffix != ".json" and not self._session.attempt(path.is_dir):
            self.adder.add_sheet_files([path])
            return True
        file = path if path.suffix == ".json" else path / FILE_NAME
        if (self._session.attempt(lambda: file.exists() and file.stat().st_size) or 0) > _AT_ONCE_BYTES:
            job = Job("Opening", lambda report: Ledger(Derived(Document.load(path))))
            self._opening = self._session.run(job, lambda found: self._take_over(found.derived.document, found))
            return True
        delivered = path.suffix == ".json" and self._session.attempt(lambda: is_delivered_map(read_file(path)))
        document = self._session.attempt(lambda: project_from_map(path) if delivered else Document.load(path))
        if document is not None:
            self._take_over(document)
        return document is not None

    def _take_over(self, document: Document, ledger: Ledger | None = None) -> None:
        self._opening = None
        self._session.open(document, ledger)
        self.remember(document.folder)
        if self.read_only:
            self._session.said.emit(_READ_ONLY, True)

    def _on_opened(self) -> None:
        """Another document is open: takes the lock of its folder, or finds that somebody else has it."""
        folder = self._session.document.folder
        self._session.document.locked = "" if self._take_lock(folder) else _READ_ONLY
        if folder is not None and not self.read_only:
            clear_halves(folder, folder / "sheets")

    def _take_lock(self, folder: Path | None) -> bool:
        """Takes the lock of a folder in place of the one held; whether that can be."""
        wanted = folder.resolve() if folder is not None else None
        if self._lock is not None and self._lock[0] == wanted:
            return True
        if self._lock is not None:
            self._lock[1].release()
            self._lock = None
        if wanted is None:
            return True
        lock = ProjectLock(wanted)
        if not lock.take():
            return False
        self._lock = wanted, lock
        return True

    def new(self) -> None:
        """An empty project, after asking what becomes of unsaved work."""
        if self.may_close():
            self._session.open(Document())

    def ask_open(self) -> None:
        """Asks for a project's folder and opens it."""
        if self.may_close():
            chosen = ask_folder(self._window, "Open a project folder", "projects")
            if chosen is not None:
                self.open_path(chosen)

    def save(self) -> bool:
        """Saves; asks for a folder the first time. Large projects are written beside the interface."""
        document = self._session.document
        document.commit()
        if document.folder is None:
            return self.save_as()
        if self.read_only:
            self._session.said.emit(_READ_ONLY, True)
            return False
        return self._write(document.folder)

    def save_as(self) -> bool:
        """Asks for a folder and saves there."""
        document = self._session.document
        document.commit()
        folder = ask_project(self._window, "Save the project as a folder of its own", _proposed(document))
        there = self._session.attempt(lambda: (folder.is_file(), (folder / FILE_NAME).exists())) if folder else None
        if folder is None or there is None:
            return False
        is_file, holds_project = there
        if is_file:
            self._session.said.emit(f"{folder.name} is a file, and a project is a folder; give it another name.", True)
            return False
        if holds_project and folder != document.folder:
            sentence = f"{folder} holds a project already. Its last version would be kept beside the new one."
            if ask(self._window, "Replace the project?", sentence, "Replace it", "Cancel") == "Cancel":
                return False
        if not self._take_lock(folder):
            self._session.said.emit(f"{folder} is open in another window; choose another folder.", True)
            self._take_lock(document.folder)
            return False
        document.locked = ""
        return self._write(folder, over=folder != document.folder)

    def _write(self, folder: Path, *, over: bool = False, wait: bool = False) -> bool:
        """Writes the project into a folder; whether that was done, or is being done."""
        document = self._session.document
        if self._saving:
            self._session.say("The project is being saved already.")
            return False
        state, moment, palette = document.state, document.moment, document.palette
        refs = list(palette.refs)
        known = document.saved_as if folder == document.folder else Saved({}, None)

        def work(report: Callable[[float], None]) -> Outcome:
            return save_project(folder, state, palette, known, over=over)

        def done(outcome: Outcome) -> None:
            saved, names = outcome
            document.take_names(names)
            document.mark_saved(folder, saved, moment)
            if document is self._session.document:
                self.scribe.begin_anew(document.state if document.moment == moment else state, refs)
            self._on_saved(document)

        cells = sum(p.size for layers in state.planes.values() for planes in layers.values() for p in planes.values())
        if cells <= _AT_ONCE and not wait:
            try:
                done(work(lambda share: None))
            except ChangedMeanwhile as problem:
                return self._ask_over(folder, str(problem))
            except CannotWrite as problem:
                self._session.said.emit(str(problem), True)
                return False
            return True
        self._saving = True
        job = Job("Saving", work)
        job.ended.connect(self._stop_saving)
        job.refused.connect(lambda problem: self._on_refused(folder, problem))
        self._session.run(job, done)
        if wait:
            loop = QEventLoop()
            job.ended.connect(loop.quit)
            loop.exec()
            return not document.changed
        return True

    def _stop_saving(self) -> None:
        self._saving = False

    def _on_refused(self, folder: Path, problem: object) -> None:
        self._saving = False
        if isinstance(problem, ChangedMeanwhile):
            self._ask_over(folder, str(problem))

    def _ask_over(self, folder: Path, sentence: str) -> bool:
        """Another program wrote the project: asks what is to become of that."""
        other, over, cancel = "Save in another folder…", "Save over it", "Cancel"
        answer = ask(self._window, "Changed meanwhile", sentence, other, over, cancel)
        if answer == over:
            return self._write(folder, over=True)
        return self.save_as() if answer == other else False

    def may_close(self) -> bool:
        """Whether the document may go: it is saved, or the user says so."""
        document = self._session.document
        document.roll_back()
        if not document.changed:
            return True
        save, lose, cancel = "Save", "Lose the changes", "Cancel"
        sentence = f"“{document.title}” has changes that are not saved."
        answer = ask(self._window, "Save first?", sentence, save, lose, cancel)
        if answer == save:
            if document.folder is None or self.read_only:
                return self.save_as() and not document.changed
            return self._write(document.folder, wait=True) and not document.changed
        if answer == lose:
            self.scribe.forget()
        return answer == lose

    def offer_recovery(self) -> None:
        """Offers work that an earlier run left unsaved, the newest that can be read first."""
        for folder in left_behind(self.scribe.root):
            document = replay(folder)
            if document is None:
                continue
            back, lose, later = "Bring it back", "Throw it away", "Ask later"
            when = QLocale().toString(QDateTime.fromSecsSinceEpoch(last_kept(folder)), QLocale.FormatType.ShortFormat)
            sentence = f"“{document.title}” was not saved before the program ended. It is kept as of {when}."
            answer = ask(self._window, "Unsaved work", sentence, back, lose, later)
            if answer == later:
                return
            if answer == back:
                if self._opening is not None:
                    self._opening.cancel()
                # The journal goes on where it ended: nothing is thrown away before the work is saved.
                self.scribe.adopt(folder, document)
                self._session.open(document)
                return
            drop(folder)

    def closed(self) -> None:
        """The window closes in good order: no journal is needed, and others may write the project."""
        self.scribe.forget()
        self._take_lock(None)

    def recent(self) -> list[Path]:
        """Projects that were open lately and are still there."""
        kept = QSettings().value("recent", [], list) or []
        names = [str(name) for name in kept] if isinstance(kept, list) else []
        return [Path(name) for name in names if (Path(name) / FILE_NAME).exists()]

    def remember(self, folder: Path | None) -> None:
        """Puts a project first among the recent ones."""
        if folder is None:
            return
        names = [str(folder.resolve())] + [str(path) for path in self.recent() if path != folder.resolve()]
        QSettings().setValue("recent", names[:MOST_RECENT])

    def _on_saved(self, document: Document) -> None:
        self.remember(document.folder)
        self._session.say(f"Saved in {document.folder}.")
        self.saved.emit()


def _proposed(document: Document) -> str:
    """A name for the folder of a project: its own, or one after its first sheet."""
    sheets, name = document.project.sheets, document.title
    return (f"{sheets[0].id} map" if sheets and name == UNTITLED else name).replace("/", " ")
