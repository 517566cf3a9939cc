"""Strokes: what goes on from a press over every move to the release, as one step of the history."""

from knitground.app.tools import Pointer, Tool
from knitground.core.errors import KnitGroundError


class Stroke(Tool):
    """Base of the tools that work all along the pointer's way."""

    def __init__(self, session) -> None:
        super().__init__(session)
        self._last: Pointer | None = None
        self._hover: Pointer | None = None
        self._erase = False

    def stroke(self, start: Pointer, end: Pointer) -> None:
        """Does the work between two places."""

    def begin(self, at: Pointer, label: str, *, erase: bool) -> None:
        """Begins a stroke with its first spot; where that cannot be, nothing has begun."""
        self._erase, self._last = erase, at
        self.session.document.begin(label)
        try:
            self.stroke(at, at)
        except KnitGroundError:
            self._last = None
            self.session.document.commit()
            raise

    def drag(self, at: Pointer) -> None:
        self._hover = at
        if self._last is not None:
            self.stroke(self._last, at)
            self._last = at

    def release(self, at: Pointer) -> None:
        if self._last is not None:
            self._last = None
            self.session.document.commit()

    def hover(self, at: Pointer | None) -> None:
        self._hover = at

    def leave(self) -> None:
        if self._last is not None:
            self._last = None
            self.session.document.roll_back()
