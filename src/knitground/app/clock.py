"""The clock that animated tiles run by, everywhere in the window alike."""

from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from knitground.app.known import known
from knitground.core.project.derived import Derived
from knitground.core.project.playing import Playing, playing
from knitground.core.render.lights import STEP_MS
from knitground.core.tiles.tile import TileRef

_SHORTEST_TICK, _LONGEST_TICK = 16, 100


class Clock(QObject):
    """Ticks whenever some animation shows another frame; stands still while there is none, or if it is paused."""

    ticked = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._elapsed = QElapsedTimer()
        self._elapsed.start()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._held: int | None = None
        self._moment: tuple[int, ...] = ()
        self._flickers = False
        self.playing: Playing | None = None

    @property
    def ms(self) -> int:
        """Milliseconds on the clock."""
        return self._elapsed.elapsed() if self._held is None else self._held

    @property
    def runs(self) -> bool:
        """Whether something moves."""
        return self._held is None and (self._flickers or (self.playing is not None and bool(self.playing.frames)))

    def follow(self, derived: Derived) -> None:
        """Takes over the animations of a document as it is now."""
        if self.playing is not None and self.playing.project.tiles is derived.document.project.tiles:
            return
        self.playing = playing(derived)
        self._set_going()

    def flicker(self, wanted: bool) -> None:
        """Goes on for lights that flicker, or need not for them."""
        if wanted != self._flickers:
            self._flickers = wanted
            self._set_going()

    def pause(self, wanted: bool) -> None:
        """Holds all animations, or lets them go on."""
        self._held = self.ms if wanted else None
        if not wanted:
            self._elapsed.restart()
        self._set_going()
        self.ticked.emit()

    def shown(self, ref: TileRef) -> TileRef:
        """The tile that one looks like now."""
        return self.playing.shown(self.ms).get(ref, ref) if self.playing is not None and self.playing.frames else ref

    def _set_going(self) -> None:
        if self.runs:
            shortest = known(self.playing).shortest_ms // 2 or _LONGEST_TICK
            self._timer.start(min(max(shortest, _SHORTEST_TICK), STEP_MS // 2 if self._flickers else _LONGEST_TICK))
        else:
            self._timer.stop()

    def _look(self) -> None:
        moment = known(self.playing).moment(self.ms)
        if self._flickers:
            moment = *moment, self.ms // STEP_MS
        if moment != self._moment:
            self._moment = moment
            self.ticked.emit()
