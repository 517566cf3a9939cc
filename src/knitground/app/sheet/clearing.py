"""Changing what of a sheet counts as transparent: beside the interface where the sheet is large."""

from collections.abc import Callable

from PySide6.QtCore import QObject

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.edits.cuts import set_clearing, with_key
from knitground.core.project.model import Picture
from knitground.core.sheet.picture import Clearing, Sheet

_AT_ONCE = 2**21
"""As many pixels are cleared before anybody notices that it takes time."""

_Change = Callable[[Sheet, Picture], tuple[Sheet, str]]


class Clearer(QObject):
    """Makes parts of sheets transparent, one change after the other; a new one takes the place of one that runs."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._job: Job | None = None

    def key(self, sheet: Sheet, colour: str) -> None:
        """Lets one more colour, ``#rrggbb``, count as transparent, and says so."""
        self.change(sheet, lambda sheet, picture: with_key(sheet, picture.pixels, colour))

    def change(self, sheet: Sheet, change: _Change) -> None:
        """Makes another sheet of one, and says what came of it; says so instead if that can't be."""
        document = self._session.document
        picture = document.state.pictures[sheet.id]

        def look(report: Callable[[float], None]) -> tuple[Clearing, str]:
            changed, sentence = change(sheet, picture)
            picture.cleared(changed)  # is kept, so that nobody waits for it afterwards
            return changed.clearing, sentence

        def take(found: tuple[Clearing, str]) -> None:
            clearing, sentence = found
            if self._session.document is document and sheet.id in document.state.pictures:
                set_clearing(document, sheet.id, clearing)
                if sentence:
                    self._session.say(sentence)

        if self._job is not None:
            self._job.cancel()
        if picture.pixels.shape[0] * picture.pixels.shape[1] <= _AT_ONCE:
            self._session.attempt(lambda: take(look(lambda share: None)))
        else:
            self._job = self._session.run(Job("Clearing a colour", look), take)
