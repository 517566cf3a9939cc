"""Starting the window."""

import gc
import logging
import logging.handlers
import os
import signal
import sys
from pathlib import Path
from types import TracebackType

from platformdirs import user_log_path
from PySide6.QtCore import QMessageLogContext, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from knitground.app.garbage import Sweeper
from knitground.app.jobs import Job, are_put_off
from knitground.app.keys.focus_ring import FocusRings
from knitground.app.session import STAGES
from knitground.app.theme.colours import follow_system
from knitground.app.theme.icons import app_icon
from knitground.app.window import Window
from knitground.core.ahead import bring_in
from knitground.core.errors import told

_AHEAD_MS, _TURN_S = 300, 0.00005
_PANELS = tuple(f"knitground.app.{stage}.panel" for stage in STAGES)
_log = logging.getLogger(__name__)


def make_application() -> QApplication:
    """The one application object."""
    # Every move of the mouse counts: a stroke must pass where the hand passed.
    QApplication.setAttribute(Qt.ApplicationAttribute.AA_CompressHighFrequencyEvents, False)
    there = QApplication.instance()
    app = there if isinstance(there, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("knitground")
    app.setOrganizationName("knitground")
    app.setDesktopFileName("knitground")
    app.setWindowIcon(QIcon(app_icon()))
    if app.findChild(FocusRings) is None:
        FocusRings(app)
    return app


def open_window(app: QApplication, path: Path | None) -> Window:
    """The window, shown, on a project or sheet if one is given."""
    # Work beside the interface must not keep it waiting: it would, for as long as this, each time that
    # Qt or NumPy was called: a drawing does that hundreds of times.
    sys.setswitchinterval(_TURN_S)
    follow_system(app)
    window = Window()
    window.show()
    if path is not None:
        window.keeper.open_path(path)
    # What start has made stays as long as the window; looking through it for garbage would take 50 ms of a frame.
    gc.freeze()
    if app.findChild(Sweeper) is None:
        Sweeper(app)
    ahead = Job("Bringing libraries in", lambda report: bring_in(_PANELS))

    def begin() -> None:
        if are_put_off():
            QTimer.singleShot(_AHEAD_MS, window, begin)
        else:
            ahead.start()

    QTimer.singleShot(_AHEAD_MS, window, begin)
    return window


def run(path: Path | None) -> int:
    """Opens the window and stays until it closes."""
    _write_log()
    qInstallMessageHandler(_on_toolkit_message)
    app = make_application()
    window = open_window(app, path)
    _report_faults(window)
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    QTimer.singleShot(0, window, window.keeper.offer_recovery)
    return app.exec()


def _write_log() -> None:
    handler: logging.Handler
    try:
        folder = user_log_path("knitground", ensure_exists=True)
        handler = logging.handlers.RotatingFileHandler(folder / "knitground.log", maxBytes=1_000_000, backupCount=2)
    except OSError:
        handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.basicConfig(level=logging.INFO, handlers=[handler])


def _on_toolkit_message(kind: QtMsgType, context: QMessageLogContext, text: str) -> None:
    """What the toolkit says goes to the log; where it gives up, a sentence is said."""
    if kind != QtMsgType.QtFatalMsg:
        _log.info("toolkit: %s", text)
        return
    _log.error("toolkit: %s", text)
    sys.stderr.write("knitground: The screen can't be used; check DISPLAY, or use a command (--help).\n")
    sys.stderr.flush()
    os._exit(2)


def _report_faults(window: Window) -> None:
    """A fault of the program goes to the log, is told in a sentence, and the work is kept."""

    def report(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        _log.error("unforeseen", exc_info=(kind, fault, trace))
        sentence = told(fault) or "Something went wrong inside the program; your work is kept, and the log says more."
        window.session.said.emit(str(sentence), True)
        window.keeper.scribe.write_now()

    sys.excepthook = report
