"""Follows the image files of the open project, whichever program draws in them."""

from pathlib import Path
from typing import Any

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.edits.redrawing import Signature, Watched, read_again, signature, take_over, watched

_SETTLE_MS = 120
_LOOK_MS = 500
_GIVE_UP_AFTER = 60


class Watcher(QObject):
    """Tells the document when a picture was drawn anew.

    A file counts once it looks the same twice in a row and can be read as a whole; until then it is waited for. Files
    that are replaced by renaming are noticed by their folder, and all are looked at every half second besides: some
    file systems tell of nothing.
    """

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._system = QFileSystemWatcher(self)
        self._known: dict[Path, Signature | None] = {}
        self._pending: dict[tuple[Path, ...], tuple[tuple[Signature | None, ...], int]] = {}
        self._origins: dict[str, tuple[object, Path]] = {}
        self._reading = False
        self._soon = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._soon.timeout.connect(self.look)
        self._often = QTimer(self, interval=_LOOK_MS)
        self._often.timeout.connect(self.look)
        self._often.start()
        for told in (self._system.fileChanged, self._system.directoryChanged):
            told.connect(lambda _: self._soon.start())
        session.opened.connect(self._begin)
        session.defined.connect(self._follow)
        self._begin()

    def follow_origin(self, sheet_id: str, path: Path) -> None:
        """Follows the file that a sheet was added from, until the project is closed."""
        self._origins[sheet_id] = self._session.document, path.resolve()
        self._follow()

    def saved(self) -> None:
        """The program itself wrote the files: that is nothing new."""
        self._known = {path: signature(path) for path in self._paths()}
        self._pending.clear()
        self._follow()

    def look(self) -> None:
        """Looks whether a file changed, and reads it once it is whole."""
        if self._reading or self._session.document.gesture is not None:
            return
        for one in self._sheets():
            now = tuple(signature(path) for path in one.paths)
            if now == tuple(self._known.get(path) for path in one.paths):
                self._pending.pop(one.paths, None)
                continue
            before, tries = self._pending.get(one.paths, ((), 0))
            self._pending[one.paths] = now, tries + 1 if before == now else 0
            if None in now:
                continue  # a file that is away is looked for at leisure
            if before != now:
                self._soon.start()
                continue
            self._read(one, now)
            return

    def _read(self, one: Watched, now: tuple[Signature | None, ...]) -> None:
        self._reading = True
        document = self._session.document
        job = Job("Reading a redrawn sheet", lambda report: (document, one, now, read_again(one)))
        job.succeeded.connect(self._take)
        job.ended.connect(self._ended)
        job.start()

    def _ended(self) -> None:
        self._reading = False

    def _take(self, found: Any) -> None:
        document, one, now, picture = found
        if document is not self._session.document:
            return
        _, tries = self._pending.get(one.paths, ((), 0))
        if picture is None and tries < _GIVE_UP_AFTER:
            self._soon.start()  # perhaps it is only half written
            return
        self._pending.pop(one.paths, None)
        self._known |= dict(zip(one.paths, now, strict=True))
        if picture is None:
            self._session.said.emit(
                f"{one.paths[0].name} changed on disk and cannot be read; the last picture stays.", True
            )
        elif tuple(signature(path) for path in one.paths) != now:
            self._soon.start()  # it changed again while it was read
        else:
            self._tell(one, take_over(document, one, picture))

    def _tell(self, one: Watched, taken: str) -> None:
        if taken == "taken":
            self._session.say(f"{one.sheet.id} was drawn anew; all grounds follow.")
        elif taken == "kept":
            says = "changed on disk, but it was exchanged here; save in another folder to keep both."
            self._session.said.emit(f"{one.paths[0].name} {says}", True)

    def _begin(self) -> None:
        self._origins = {
            name: (document, path)
            for name, (document, path) in self._origins.items()
            if document is self._session.document
        }
        self._known = {}
        self._pending.clear()
        self._follow()

    def _follow(self) -> None:
        paths = self._paths()
        self._known = {path: self._known[path] if path in self._known else signature(path) for path in paths}
        wanted = {str(path) for path in paths if path.exists()} | {str(path.parent) for path in paths}
        known = {*self._system.files(), *self._system.directories()}
        if gone := known - wanted:
            self._system.removePaths(list(gone))
        if new := {name for name in wanted - known if Path(name).exists()}:
            self._system.addPaths(list(new))

    def _sheets(self) -> list[Watched]:
        document = self._session.document
        sheets = {sheet.id: sheet for sheet in document.project.sheets}
        outside = [
            Watched(sheets[name], (path,))
            for name, (owner, path) in self._origins.items()
            if owner is document and name in sheets and not sheets[name].images
        ]
        return [*watched(document), *outside]

    def _paths(self) -> list[Path]:
        return [path for one in self._sheets() for path in one.paths]
