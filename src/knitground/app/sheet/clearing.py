"""Changing what of a sheet counts as transparent: beside the interface where the sheet is large."""

from collections.abc import Callable

from PySide6.QtCore import QObject

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.edits.cuts import set_clearing
from knitground.core.ground.ground import by_id
from knitground.core.project.model import Picture
from knitground.core.sheet.picture import Clearing, Sheet

_AT_ONCE = 2**16
"""As many pixels are cleared before anybody notices that it takes time."""

_Change = Callable[[Sheet, Picture], tuple[Sheet, str]]


class Clearer(QObject):
    """Makes parts of sheets transparent; what is asked for meanwhile waits its turn, and is done together."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._job: Job | None = None
        self._waiting: list[tuple[str, _Change]] = []
        session.opened.connect(self._waiting.clear)

    def change(self, sheet: Sheet, change: _Change) -> None:
        """Makes another sheet of one, and says what came of it; says so instead if that can't be."""
        self._waiting.append((sheet.id, change))
        if self._job is None:
            self._begin()

    def _begin(self) -> None:
        document, sheet_id = self._session.document, self._waiting[0][0]
        changes = [change for name, change in self._waiting if name == sheet_id]
        self._waiting[:] = [one for one in self._waiting if one[0] != sheet_id]
        picture = document.state.pictures.get(sheet_id)
        if picture is None:
            return  # it was taken out of the project meanwhile
        sheet = by_id(document.project.sheets, sheet_id)

        def look(report: Callable[[float], None]) -> tuple[Clearing, str]:
            changed, sentences = sheet, [""]
            for change in changes:
                changed, sentence = change(changed, picture)
                sentences += [sentence] if sentence else []
            picture.cleared(changed)  # is kept, so that nobody waits for it afterwards
            return changed.clearing, sentences[-1]

        def take(found: tuple[Clearing, str]) -> None:
            clearing, sentence = found
            if self._session.document is document and sheet_id in document.state.pictures:
                set_clearing(document, sheet_id, clearing)
                if sentence:
                    self._session.say(sentence)

        if picture.pixels.shape[0] * picture.pixels.shape[1] <= _AT_ONCE:
            self._session.attempt(lambda: take(look(lambda share: None)))
            return
        self._job = Job("Clearing a colour", look)
        self._job.ended.connect(self._go_on)
        self._session.run(self._job, take)

    def _go_on(self) -> None:
        self._job = None
        while self._waiting and self._job is None:
            self._begin()
