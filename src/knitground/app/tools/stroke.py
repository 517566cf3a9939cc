"""Strokes: what goes on from a press over every move to the release, as one step of the history."""

from typing import TYPE_CHECKING

from knitground.app.tools import Tool, held_down
from knitground.app.tools.advice import advise
from knitground.core.edits.forms import held_level
from knitground.core.edits.painting import Spot

if TYPE_CHECKING:
    from knitground.app.session import Session


class Stroke(Tool):
    """Base of the tools that work all along the pointer's way."""

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._last: Spot | None = None
        self._first: Spot = (0.0, 0.0)
        self._hover: Spot | None = None
        self._erase = False

    def stroke(self, start: Spot, end: Spot) -> None:
        """Does the work between two places."""

    def begin(self, at: Spot, label: str, *, erase: bool) -> None:
        """Begins a stroke with its first spot; where that cannot be, nothing has begun."""
        self._erase, self._last, self._first = erase, at, at
        self.session.document.begin(label)
        self._go(at, at)

    def drag(self, at: Spot) -> None:
        if self._last is not None and held_down():
            at = held_level(self._first, at)
        self._hover = at
        if self._last is not None:
            self._go(self._last, at)
            self._last = at

    def release(self, at: Spot) -> None:
        if self._last is not None:
            self._last = None
            if self.session.document.commit() is not None and not self._erase:
                advise(self.session, at)

    def hover(self, at: Spot | None) -> None:
        self._hover = at

    def leave(self) -> None:
        if self._last is not None:
            self._last = None
            self.session.document.roll_back()

    def _go(self, start: Spot, end: Spot) -> None:
        """A part of the stroke; if it fails, what was done before it stays, and no gesture is left open."""
        try:
            self.stroke(start, end)
        except BaseException:  # whatever stops it, no gesture may stay open; it goes on up
            self._last = None
            self.session.document.commit()
            raise
