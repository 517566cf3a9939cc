"""The history: steps that undo and redo walk along, within a bound of memory."""

from collections import deque
from dataclasses import dataclass
from threading import Thread

from knitground.core.project.delta import Delta

MOST_BYTES = 2**28
_BESIDE_FROM = 2**24
"""Steps from this size on take long enough to pack that they are packed on a thread of their own."""


@dataclass
class Step:
    """A step: what it is called, what it changed, and the numbers of the moments before and after it."""

    label: str
    delta: Delta
    before: int
    after: int
    nbytes: int = 0
    packing: Thread | None = None


class History:
    """Steps that can be taken back, and those that were."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self.done: deque[Step] = deque()
        self.undone: list[Step] = []
        self.dropped = 0
        """How many steps had to be let go for room."""
        self.nbytes = 0
        self._most = most_bytes
        self._loose: deque[Step] = deque()

    def push(self, step: Step) -> None:
        """Adds a step; what was taken back before can't be done again."""
        self.undone.clear()
        self._append(step)
        # Large steps are packed before any is lost; not the newest, as somebody waits for it to be seen.
        while self.nbytes > self._most and len(self._loose) > 1:
            self._pack(self._loose.popleft())
        newest = self._loose[-1].nbytes if self._loose else 0
        while self.nbytes - newest > self._most and len(self.done) > 1:
            self.nbytes -= self.done.popleft().nbytes
            self.dropped += 1

    def back(self) -> Step | None:
        """Takes the last step off; None where there is none."""
        if not self.done:
            return None
        step = self.done.pop()
        self.nbytes -= step.nbytes
        self.undone.append(step)
        return step

    def forward(self) -> Step | None:
        """The step that was taken back last, done again; None where there is none."""
        if not self.undone:
            return None
        step = self.undone.pop()
        self._append(step)
        return step

    def _append(self, step: Step) -> None:
        step.nbytes = step.delta.nbytes
        self.nbytes += step.nbytes
        self.done.append(step)
        if any(change.parts for change in step.delta.planes):
            self._loose.append(step)
        if step.nbytes > _BESIDE_FROM and step.packing is None:
            step.packing = Thread(target=step.delta.pack, name="packing a step", daemon=True)
            step.packing.start()

    def _pack(self, step: Step) -> None:
        if step.packing is not None:
            step.packing.join()
        step.delta.pack()
        if step in self.done:
            self.nbytes += step.delta.nbytes - step.nbytes
        step.nbytes = step.delta.nbytes
