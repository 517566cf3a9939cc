"""Opening, saving and not losing projects."""

import logging
from pathlib import Path

from platformdirs import user_state_path
from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.watcher import Watcher
from knitground.core.project.collecting import collect
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME, save_project
from knitground.core.project.importing import Read, add_collection, images_in, insert_image, read_collection, read_image
from knitground.core.project.recovery import Recovery
from knitground.core.sheet.picture import read_file

MOST_RECENT = 8
_AT_ONCE = 500_000
_AT_ONCE_BYTES = 1_000_000
_COPY_AFTER_MS = 10_000
_log = logging.getLogger(__name__)


class Keeper(QObject):
    """Keeps the session's document on disk."""

    saved = Signal()

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._window = session, window
        self._recovery = Recovery(user_state_path("knitground") / "recovery")
        self._copying: Job | None = None
        self._watcher = Watcher(session, self)
        self.saved.connect(self._watcher.saved)
        self._copy_later = QTimer(self, singleShot=True, interval=_COPY_AFTER_MS)
        self._copy_later.timeout.connect(self.copy_now)
        session.changed.connect(lambda change: None if self._copy_later.isActive() else self._copy_later.start())

    def open_path(self, path: Path) -> bool:
        """Opens a project folder or file, or a sheet as a new project; whether it can, or is being tried.

        Large files are read beside the interface. What goes wrong is said in the window, and the open project
        stays as it is.
        """
        if not (path.is_dir() or path.suffix == ".json"):
            return self.add_sheet_file(path)
        file = path / FILE_NAME if path.is_dir() else path
        if file.exists() and file.stat().st_size > _AT_ONCE_BYTES:
            self._session.run(Job("Opening", lambda report: Document.load(path)), self._take_over)
            return True
        document = self._session.attempt(lambda: Document.load(path))
        if document is not None:
            self._take_over(document)
        return document is not None

    def add_sheet_file(self, path: Path) -> bool:
        """Adds an image file as a sheet; whether it can, or is being tried."""
        data = self._session.attempt(lambda: read_file(path))
        if data is None:
            return False
        if len(data) > _AT_ONCE_BYTES // 2:
            job = Job("Reading the sheet", lambda report: read_image(path.name, data))
            self._session.run(job, lambda found: self._add_sheet(path, found))
            return True
        found = self._session.attempt(lambda: read_image(path.name, data))
        if found is not None:
            self._add_sheet(path, found)
        return found is not None

    def add_images(self, paths: list[Path]) -> None:
        """Adds image files, or all images of a folder, as one tileset; read beside the interface."""
        document = self._session.document

        def read(report):
            files = read_collection(images_in(paths[0]) if paths[0].is_dir() else paths)
            report(0.5)
            return files, collect(files)

        def done(found) -> None:
            files, picture = found
            if document is not self._session.document:
                return
            name = paths[0].name if paths[0].is_dir() else paths[0].parent.name
            made = self._session.attempt(lambda: add_collection(document, name, files, picture))
            if made is not None:
                self._show_sheet(made)
                self._session.say(f"{len(files)} images are one tileset now; each is a tile of its own size.")

        self._session.run(Job("Reading the images", read), done)

    def _take_over(self, document: Document) -> None:
        self._session.open(document)
        self.remember(document.folder)

    def _add_sheet(self, path: Path, read: Read) -> None:
        made = insert_image(self._session.document, read)
        self._show_sheet(made)
        if not read.frames:
            self._watcher.follow_origin(made, path)
        if read.frames:
            self._session.say(f"{read.name} holds {len(read.frames)} frames; its first tile plays them.")
        else:
            self._session.say(f"{read.name} is cut by a first guess; drag the round handles to set it right.")

    def _show_sheet(self, sheet_id: str) -> None:
        self._session.set_stage("sheet")
        self._session.choose(sheet_id=sheet_id)

    def new(self) -> None:
        """An empty project, after asking what becomes of unsaved work."""
        if self.may_close():
            self._session.open(Document())

    def ask_open(self) -> None:
        """Asks for a project's folder and opens it."""
        if self.may_close():
            start = str(self._session.document.folder or Path.home())
            chosen = QFileDialog.getExistingDirectory(self._window, "Open a project folder", start)
            if chosen:
                self.open_path(Path(chosen))

    def save(self) -> bool:
        """Saves; asks for a folder the first time. Large projects are written beside the interface."""
        document = self._session.document
        document.commit()
        if document.folder is None:
            return self.save_as()
        cells = sum(p.size for ls in document.state.planes.values() for ps in ls.values() for p in ps.values())
        if cells <= _AT_ONCE:
            return self._session.attempt(lambda: (document.save(), self._on_saved(document))) is not None
        folder, state, edit = document.folder, document.snapshot(), document.last_edit
        job = Job("Saving", lambda report: save_project(folder, state, document.palette, document.filed))

        def done(_: object) -> None:
            document.mark_saved(folder, edit)
            self._on_saved(document)

        self._session.run(job, done)
        return True

    def save_as(self) -> bool:
        """Asks for a folder and saves there."""
        document = self._session.document
        chosen = QFileDialog.getExistingDirectory(self._window, "Save the project in this folder", str(Path.home()))
        if not chosen:
            return False
        folder = Path(chosen)
        if (folder / FILE_NAME).exists() and folder != document.folder:
            answer = QMessageBox.question(
                self._window,
                "Replace the project?",
                f"{folder} holds a project already. Replace it? Its last version is kept beside.",
            )
            if answer != QMessageBox.StandardButton.Yes:
                return False
        return self._session.attempt(lambda: (document.save(folder), self._on_saved(document))) is not None

    def may_close(self) -> bool:
        """Whether the document may go: it is saved, or the user says so."""
        document = self._session.document
        document.roll_back()
        if not document.changed:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._window, "Save first?", f"“{document.project.name}” has changes that are not saved.",
            buttons.Save | buttons.Discard | buttons.Cancel, buttons.Save,
        )  # fmt: skip
        if answer == buttons.Save:
            return self.save() and not document.changed
        if answer == buttons.Discard:
            self._recovery.forget()
        return answer == buttons.Discard

    def copy_now(self) -> None:
        """Keeps a copy of unsaved work, beside the interface."""
        document = self._session.document
        if not document.changed or (self._copying is not None and self._copying.running):
            return
        state, palette, origin = document.snapshot(), document.palette, document.folder
        self._copying = Job("Keeping a copy", lambda report: self._recovery.keep(state, palette, origin))
        self._copying.failed.connect(lambda sentence: _log.warning("no copy of unsaved work: %s", sentence))
        self._copying.start()

    def offer_recovery(self) -> None:
        """Offers work that an earlier run left unsaved."""
        for folder in self._recovery.left_behind()[:1]:
            document = self._recovery.restore(folder)
            if document is None:
                continue
            buttons = QMessageBox.StandardButton
            answer = QMessageBox.question(
                self._window, "Bring back unsaved work?", f"“{document.project.name}” was left unsaved.",
                buttons.Yes | buttons.No, buttons.Yes,
            )  # fmt: skip
            if answer == buttons.Yes:
                self._session.open(document)
                self.copy_now()
            self._recovery.drop(folder)

    def closed(self) -> None:
        """The window closes in good order: no copy is needed."""
        self._copy_later.stop()
        self._recovery.forget()

    def recent(self) -> list[Path]:
        """Projects that were open lately and are still there."""
        kept = QSettings().value("recent", [], list) or []
        return [Path(name) for name in kept if (Path(name) / FILE_NAME).exists()]

    def remember(self, folder: Path | None) -> None:
        """Puts a project first among the recent ones."""
        if folder is None:
            return
        names = [str(folder.resolve())] + [str(path) for path in self.recent() if path != folder.resolve()]
        QSettings().setValue("recent", names[:MOST_RECENT])

    def _on_saved(self, document: Document) -> bool:
        self._recovery.forget()
        self.remember(document.folder)
        self._session.say(f"Saved in {document.folder}.")
        self.saved.emit()
        return True
