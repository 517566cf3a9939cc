"""Long work off the interface thread, with progress and cancel."""

import logging
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from knitground.core.errors import Cancelled, KnitGroundError

_log = logging.getLogger(__name__)


class Job(QObject):
    """Something that runs beside the interface; signals arrive on the interface thread."""

    progressed = Signal(float)
    succeeded = Signal(object)
    failed = Signal(str)
    ended = Signal()

    def __init__(self, title: str, work: Callable[[Callable[[float], None]], Any]) -> None:
        super().__init__()
        self.title = title
        self._work = work
        self._cancelled = False
        self.running = False

    def start(self) -> None:
        """Begins the work."""
        self.running = True
        _alive.add(self)
        self.ended.connect(self._on_ended)
        QThreadPool.globalInstance().start(_Runner(self))

    def cancel(self) -> None:
        """Asks the work to stop; it does at its next report of progress, and nothing of it is kept."""
        self._cancelled = True

    def _report(self, share: float) -> None:
        if self._cancelled:
            raise Cancelled("Stopped.")
        self.progressed.emit(share)

    def _run(self) -> None:
        try:
            result = self._work(self._report)
            if not self._cancelled:
                self.succeeded.emit(result)
        except Cancelled:
            pass  # asked for; there is nothing to tell
        except KnitGroundError as problem:
            self.failed.emit(str(problem))
        except Exception:  # a fault of the program must reach the log and the user, and never end the thread pool
            _log.exception("%s failed", self.title)
            self.failed.emit(
                f"{self.title} failed by a fault of the program; your work is kept, and the log says more."
            )
        finally:
            self.ended.emit()

    def _on_ended(self) -> None:
        self.running = False
        _alive.discard(self)


def wait_for_jobs() -> None:
    """Waits until no job runs any more; for the end of the program."""
    QThreadPool.globalInstance().waitForDone()


class _Runner(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job

    def run(self) -> None:
        self._job._run()


_alive: set[Job] = set()
