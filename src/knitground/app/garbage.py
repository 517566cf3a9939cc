"""Garbage is looked for on the interface's thread alone.

Python looks for it on whatever thread happens to make the most objects. Objects of Qt that it finds there, in cycles
that nobody holds any more, would be destroyed on that thread: Qt does not bear that, and the whole program ends.
"""

import gc

from PySide6.QtCore import QObject, QTimer

_EVERY_MS = 1000
_ENOUGH, _SECOND, _WHOLE = 700, 8, 60
"""So many new objects are worth a look; every so many looks go to what stayed once, or to all there is."""


class Sweeper(QObject):
    """Looks for garbage now and then, in place of Python."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._looks = 0
        timer = QTimer(self, interval=_EVERY_MS)
        timer.timeout.connect(self.sweep)
        timer.start()

    def sweep(self) -> None:
        """Looks once, if there is enough that is new."""
        if gc.get_count()[0] > _ENOUGH:
            self._looks += 1
            gc.collect(2 if self._looks % _WHOLE == 0 else 1 if self._looks % _SECOND == 0 else 0)
