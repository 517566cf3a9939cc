"""Running deliveries from the window: when asked, on every save, and a second after the hand rests."""

import hashlib
import json
from datetime import datetime
from typing import NamedTuple

from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from knitground.app.jobs import Job, while_there
from knitground.app.known import with_id
from knitground.app.session import Session
from knitground.core.deliver.run import folder_of, is_outside, look, run, summary
from knitground.core.errors import BadRequest
from knitground.core.project.delivery import Delivery

REST_MS = 1000
"""How long nothing is changed before what follows every change is written."""
_TRUSTED = "deliveries/trusted"
_MOST_TOLD = 2


class Result(NamedTuple):
    """What came of a run."""

    sentence: str
    failed: bool
    at: datetime


class Runs(QObject):
    """Runs deliveries one after another, and remembers how each went."""

    changed = Signal()
    looked = Signal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.results: dict[str, Result] = {}
        self._waiting: list[str] = []
        self._asked: dict[str, str] = {}
        """What was run by hand, and what came of it."""
        self._running: Job | None = None
        self._look: Job | None = None
        self._looking = False
        self._next_look: Delivery | None = None
        self._rest = QTimer(self, singleShot=True, interval=REST_MS)
        self._rest.timeout.connect(lambda: self._by_itself(("change",)))
        session.changed.connect(self._on_change)
        session.opened.connect(self._forget)

    def _forget(self) -> None:
        self.results, self._waiting, self._asked = self._remembered(), [], {}
        self._rest.stop()

    def _on_change(self, *_: object) -> None:
        if any(one.when == "change" for one in self._session.document.project.deliveries):
            self._rest.start()

    def saved(self) -> None:
        """The project was saved: what follows every save, or every change, is written."""
        self._by_itself(("save", "change"))

    def _by_itself(self, when: tuple[str, ...]) -> None:
        document = self._session.document
        if document.folder is None or document.locked:
            return
        for one in document.project.deliveries:
            if one.when not in when:
                continue
            if self.is_trusted(one):
                self._take(one.id)
            else:
                self._keep(one, "It writes outside the project's folder: run it once by hand first.", True)

    def is_trusted(self, delivery: Delivery) -> bool:
        """Whether a delivery may write by itself: into the project's folder, or where it was run by hand before."""
        if not is_outside(delivery, self._session.document.folder):
            return True
        return self._where(delivery) in self._trusted()

    def _where(self, delivery: Delivery) -> str:
        """The folder of a delivery, however it is linked; nothing if it has none."""
        try:
            return str(folder_of(delivery, self._session.document.folder).resolve())
        except (OSError, RuntimeError, ValueError, BadRequest):
            return ""

    def _trusted(self) -> list[str]:
        kept = QSettings().value(_TRUSTED, [], list) or []
        return [str(name) for name in kept] if isinstance(kept, list) else []

    def run(self, *delivery_ids: str) -> None:
        """Runs deliveries that somebody asked for."""
        folder = self._session.document.folder
        for delivery_id in delivery_ids:
            one = with_id(self._session.document.project.deliveries, delivery_id)
            if one is None:
                continue
            if folder is not None and is_outside(one, folder) and (where := self._where(one)):
                QSettings().setValue(_TRUSTED, sorted({*self._trusted(), where}))
            self._asked[delivery_id] = ""
            self._take(delivery_id)

    def is_running(self, delivery_id: str) -> bool:
        """Whether a delivery is being run, or waits for others."""
        return delivery_id in self._waiting

    def is_behind_others(self, delivery_id: str) -> bool:
        """Whether a delivery waits for others to be written first."""
        return delivery_id in self._waiting[1:] and self._waiting[0] != delivery_id

    def _take(self, delivery_id: str) -> None:
        # What runs is the first; once more behind it, for what changed since, but not twice.
        if delivery_id not in self._waiting[1:]:
            self._waiting.append(delivery_id)
        if self._running is None:
            self._next()
        self.changed.emit()

    def _next(self) -> None:
        document = self._session.document
        while self._waiting:
            one = with_id(document.project.deliveries, self._waiting[0])
            if one is not None:
                break
            self._waiting.pop(0)
        else:
            self._running = None
            self._tell()
            return
        # The project as it is now, whatever is painted while this runs.
        derived, folder = self._session.derived.at_this_moment(), document.folder
        delivery = one
        job = Job(f"Delivering “{delivery.name}”", lambda progress: run(derived, delivery, folder, progress))
        job.refused.connect(while_there(self, lambda problem: self._keep(delivery, str(problem), True)))
        job.ended.connect(while_there(self, lambda: self._ended(document)))
        self._running = job
        self._session.run(job, lambda done: self._keep(delivery, summary(done), False))

    def _tell(self) -> None:
        """Says what came of what was run by hand, wherever one is by now."""
        told, self._asked = [one for one in self._asked.values() if one], {}
        if told:
            rest = f", and {len(told) - _MOST_TOLD} more" if len(told) > _MOST_TOLD else ""
            self._session.say(f"{'. '.join(told[:_MOST_TOLD])}{rest}.", *self._leads())

    def _leads(self) -> tuple[str, ...]:
        return () if self._session.choices.stage == "deliver" else ("Stage Deliver",)

    def _ended(self, document: object) -> None:
        if document is self._session.document and self._waiting:
            self._waiting.pop(0)
        self._running = None
        self._next()
        self.changed.emit()

    def _keep(self, delivery: Delivery, sentence: str, failed: bool) -> None:
        if with_id(self._session.document.project.deliveries, delivery.id) is not None:
            self.results[delivery.id] = Result(sentence, failed, datetime.now())
            if delivery.id in self._asked and not failed:
                self._asked[delivery.id] = f"“{delivery.name}”: {sentence}"
            self._remember()
            self.changed.emit()

    def look(self, delivery: Delivery) -> None:
        """Finds out what a delivery would write; `looked` tells its id and the files, or a sentence."""
        if self._looking and self._look is not None:
            # One look at a time, however often something changes; the next begins when this one has stopped.
            self._next_look = delivery
            self._look.cancel()
            return
        derived, folder = self._session.derived.at_this_moment(), self._session.document.folder
        self._look = Job(
            "Looking what is written", lambda progress: look(derived, delivery, folder, progress), stands_back=True
        )
        tell = while_there(self, lambda found: self.looked.emit(delivery.id, found))
        self._look.succeeded.connect(tell)
        self._look.failed.connect(tell)
        self._look.ended.connect(self._look_again)
        self._looking = True
        self._look.start()

    def stop_looking(self) -> None:
        """Gives up what `look` has begun."""
        self._next_look = None
        if self._looking and self._look is not None:
            self._look.cancel()

    def _look_again(self) -> None:
        delivery, self._next_look, self._looking = self._next_look, None, False
        if delivery is not None:
            self.look(delivery)

    def last_time(self, delivery: Delivery) -> str:
        """When a delivery was run last from this account, and how that went."""
        result = self.results.get(delivery.id)
        if result is None:
            return "not run yet"
        day = "" if result.at.date() == datetime.now().date() else f"{result.at:%d.%m.%Y} "
        return f"{day}{result.at:%H:%M:%S}  {result.sentence}"

    @property
    def _place(self) -> str:
        """Under which name the results of the open project are remembered."""
        folder = self._session.document.folder
        return (
            "" if folder is None else f"deliveries/results/{hashlib.sha1(str(folder.resolve()).encode()).hexdigest()}"
        )

    def _remembered(self) -> dict[str, Result]:
        """What is known of earlier runs."""
        try:
            kept = json.loads(str(QSettings().value(self._place, "{}"))) if self._place else {}
            return {
                str(name): Result(str(sentence), bool(failed), datetime.fromisoformat(at))
                for name, (sentence, failed, at) in kept.items()
            }
        except (ValueError, TypeError, AttributeError):
            return {}

    def _remember(self) -> None:
        if self._place:
            kept = {name: (one.sentence, one.failed, one.at.isoformat()) for name, one in self.results.items()}
            QSettings().setValue(self._place, json.dumps(kept))
