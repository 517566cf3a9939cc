"""Long work off the interface thread, with progress and cancel."""

import logging
import threading
import time
from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, QThreadPool, QTimer, Signal, Slot
from shiboken6 import isValid

from knitground.core.errors import Cancelled, told

_log = logging.getLogger(__name__)

_HELD_MS, _AT_MOST_S, _DRAWING_S, _NAP_S = 30, 0.3, 0.1, 0.01
_free = threading.Event()
_free.set()
_drawing = [-1.0]


def hold_jobs() -> None:
    """Lets what runs beside the interface wait at its next report, until the interface has drawn what is at hand.

    Both would take twice as long together, and only one of them is waited for.
    """
    _free.clear()
    # The first turn after this one draws; a timer that is late may come before that, a second one can't.
    QTimer.singleShot(_HELD_MS, lambda: QTimer.singleShot(_HELD_MS, _free.set))


def put_off_jobs() -> None:
    """Lets what can begin later do so, as the interface has something in view still to draw.

    Of what runs already, only what nobody waits for is held: the rest might hold what the drawing waits for.
    """
    _drawing[0] = time.monotonic()


def are_put_off() -> bool:
    """Whether the interface is drawing, so that what may begin later had better."""
    return time.monotonic() - _drawing[0] < _DRAWING_S


class Job(QObject):
    """Something that runs beside the interface; signals arrive on the interface thread.

    One that stands back waits at its reports while there is something in view still to draw: both would take turns at
    every call of NumPy, and the drawing would take several times as long.
    """

    progressed = Signal(float)
    succeeded = Signal(object)
    failed = Signal(str)
    refused = Signal(object)
    ended = Signal()
    _came = Signal(object)

    def __init__(
        self, title: str, work: Callable[[Callable[[float], None]], Any], *, stands_back: bool = False
    ) -> None:
        super().__init__()
        self.title, self._stands_back = title, stands_back
        self._work = work
        self._cancelled = False
        self._done = threading.Event()
        self.running = False

    def start(self) -> None:
        """Begins the work."""
        self.running = True
        _alive.add(self)
        self._came.connect(self._on_came)
        # A function, as a QRunnable that ends before `start` is back is never let go, with all that its work knows.
        QThreadPool.globalInstance().start(self._run)

    def cancel(self) -> None:
        """Asks the work to stop, which it does at its next report of progress; nothing is told of it from now on."""
        self._cancelled = True

    def wait(self) -> None:
        """Waits until the work is done, if it has begun; its signals come later."""
        if self.running:
            self._done.wait()

    def _report(self, share: float) -> None:
        if self._cancelled or not isValid(self):
            raise Cancelled("Stopped.")
        if not _free.wait(_AT_MOST_S):
            _free.set()  # the interface is not drawing but waiting itself, perhaps for this
        if self._stands_back:
            until = time.monotonic() + _AT_MOST_S
            while are_put_off() and not self._cancelled and time.monotonic() < until:
                time.sleep(_NAP_S)
        self.progressed.emit(share)

    def _run(self) -> None:
        tell: Callable[[], None] | None = None
        try:
            result = self._work(self._report)
            tell = partial(self.succeeded.emit, result)
        except Cancelled:
            pass  # asked for; there is nothing to tell
        except Exception as problem:  # whatever it is must reach the user, and never end the thread pool
            tell = partial(self._tell_problem, problem)
            if told(problem) is None:
                _log.exception("%s failed", self.title)
        finally:
            self._done.set()
            if isValid(self):  # at the end of the program there is nobody left to tell
                self._came.emit(tell)

    @Slot(object)
    def _on_came(self, tell: Callable[[], None] | None) -> None:
        """On the interface thread, as it may have been asked to stop since the work was done."""
        if tell is not None and not self._cancelled:
            tell()
        self.running = False
        _alive.discard(self)
        self.ended.emit()

    def _tell_problem(self, problem: Exception) -> None:
        foreseen = told(problem)
        if foreseen is not None:
            self.refused.emit(foreseen)
        fault = f"{self.title} failed by a fault of the program; your work is kept, and the log says more."
        self.failed.emit(fault if foreseen is None else str(foreseen))


def while_there(owner: QObject, act: Callable[..., object]) -> Callable[..., object]:
    """Does something as long as its owner is there: a job may end after the window in which it was begun."""
    return lambda *given: act(*given) if isValid(owner) else None


def are_running() -> bool:
    """Whether something runs beside the interface."""
    return bool(_alive)


def wait_for_jobs() -> None:
    """Waits until no job runs any more; for the end of the program."""
    QThreadPool.globalInstance().waitForDone()


_alive: set[Job] = set()
