"""Changing what of a sheet counts as transparent: beside the interface where the sheet is large."""

from collections.abc import Callable

from PySide6.QtCore import QObject

from knitground.app.first_guess import LEAVE_WRITING_OUT, told_of_writing
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.edits.captions import written_tiles
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
        self._waiting: list[tuple[str, _Change, bool]] = []
        session.opened.connect(self._waiting.clear)

    def change(self, sheet: Sheet, change: _Change, *, look_for_writing: bool = False) -> None:
        """Makes another sheet of one, and says what came of it; says so instead if that can't be.

        Whoever was offered that when the sheet came in may be told again which tiles look like writing then.
        """
        self._waiting.append((sheet.id, change, look_for_writing))
        if self._job is None:
            self._begin()

    def _begin(self) -> None:
        document, sheet_id = self._session.document, self._waiting[0][0]
        changes = [change for name, change, _ in self._waiting if name == sheet_id]
        look_for_writing = any(looks for name, _, looks in self._waiting if name == sheet_id)
        self._waiting[:] = [one for one in self._waiting if one[0] != sheet_id]
        picture = document.state.pictures.get(sheet_id)
        if picture is None:
            return  # it was taken out of the project meanwhile
        sheet = by_id(document.project.sheets, sheet_id)

        def look(report: Callable[[float], None]) -> tuple[Clearing, str, int]:
            changed, sentences = sheet, [""]
            for change in changes:
                changed, sentence = change(changed, picture)
                sentences += [sentence] if sentence else []
            cleared = picture.cleared(changed)  # is kept, so that nobody waits for it afterwards
            written = written_tiles(cleared, changed.cuts) if look_for_writing and not changed.images else {}
            return changed.clearing, sentences[-1], sum(map(len, written.values()))

        def take(found: tuple[Clearing, str, int]) -> None:
            clearing, sentence, written = found
            if self._session.document is document and sheet_id in document.state.pictures:
                set_clearing(document, sheet_id, clearing)
                told = [sentence.removesuffix(".")] * bool(sentence) + [told_of_writing(written)] * bool(written)
                if told:
                    says = "; ".join(told)
                    self._session.say(f"{says[0].upper()}{says[1:]}.", *[LEAVE_WRITING_OUT] * bool(written))

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
