"""Writing the journal of unsaved work, beside the interface, at most a second behind."""

import logging
import tempfile
import uuid
from pathlib import Path

from platformdirs import user_state_path
from PySide6.QtCore import QObject, QTimer

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.errors import KnitGroundError
from knitground.core.project.document import Document
from knitground.core.project.journal import Journal
from knitground.core.project.model import State
from knitground.core.tiles.tile import TileRef

_AFTER_MS = 1000
_log = logging.getLogger(__name__)


class Scribe(QObject):
    """Keeps a journal of the session's document from its first change until it is saved."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self.root = _writable(user_state_path("knitground") / "recovery")
        self._journal: Journal | None = None
        self._adopted: Journal | None = None
        self._job: Job | None = None
        self._told = False
        self._later = QTimer(self, singleShot=True, interval=_AFTER_MS)
        self._later.timeout.connect(self.write_now)
        session.changed.connect(lambda change: None if self._later.isActive() else self._later.start())
        session.opened.connect(self._on_opened)
        self._on_opened()

    def write_now(self) -> None:
        """Writes what changed since the last time, beside the interface."""
        document = self._session.document
        if self._job is not None and self._job.running:
            self._later.start()
            return
        if self._journal is None and document.state is self._base[0]:
            return
        journal, (base, refs) = self._journal, self._base
        state, palette = document.state, document.palette
        origin, saved = document.folder, document.saved_as.document
        if journal is None:
            journal = self._journal = Journal(self.root / uuid.uuid4().hex)

        def work(_: object) -> int:
            if not journal.begun:
                journal.begin(base, refs, origin, saved)
            return journal.add(state, palette)

        self._job = Job("Keeping a journal", work)
        self._job.failed.connect(self._tell)
        self._job.succeeded.connect(self._wrote)
        self._job.start()

    def adopt(self, folder: Path, document: Document) -> None:
        """Goes on with a journal that an earlier run left, once its document is opened."""
        journal = Journal(folder)
        try:
            journal.adopt(document)
        except KnitGroundError as problem:
            _log.warning("a journal can't be gone on with: %s", problem)
            return
        self._adopted = journal

    def begin_anew(self, state: State, refs: list[TileRef]) -> None:
        """The document was saved as it was in a state: what came since is kept from there on."""
        self.forget()
        self._base = state, refs
        if self._session.document.state is not state:
            self._later.start()

    def forget(self) -> None:
        """Removes the journal: the work is saved, or was thrown away on purpose."""
        self._later.stop()
        self._wait()
        if self._journal is not None:
            self._journal.forget()
        self._journal = None

    def _on_opened(self) -> None:
        self.forget()
        self._journal, self._adopted = self._adopted, None
        self._remember()

    def _remember(self) -> None:
        document = self._session.document
        self._base = document.state, list(document.palette.refs)

    def _wait(self) -> None:
        if self._job is not None:
            self._job.wait()

    def _wrote(self, _: object) -> None:
        self._told = False

    def _tell(self, sentence: str) -> None:
        """Says once that unsaved work is not safe; tries again with the next change."""
        _log.warning("no journal of unsaved work: %s", sentence)
        if not self._told:
            self._told = True
            self._session.said.emit(f"Unsaved work would not survive a crash now. {sentence}", True)


def _writable(folder: Path) -> Path:
    """A folder that can be written to: the one wished for, else a temporary one."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=folder):
            return folder
    except OSError:
        return Path(tempfile.gettempdir()) / "knitground-recovery"
