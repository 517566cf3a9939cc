"""Who follows which ground live, and what each reader has not been told yet.

A reader that is slow gets the newest state, not a queue: what waits for it is only where something became different,
and the message is made when it is ready.
"""

import threading
from collections.abc import Callable
from functools import partial

from knitground.core.deliver.live import Different, LiveMap, Message
from knitground.core.errors import KnitGroundError, readable
from knitground.core.grid.rect import CellRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Change

VERSION = 1
_MOST_RECTS = 16


class Reader:
    """One who follows a ground, and what waits to be told."""

    def __init__(self, wake: Callable[[], None]) -> None:
        self.wake = wake
        self.ground = ""
        self._hello = self._whole = True
        self._defined = False
        self._sentence = ""
        self._cells: dict[int, list[CellRect]] = {}
        self._tiles: set[int] = set()
        self._things: set[tuple[int, str]] = set()

    def begin(self, ground: str) -> None:
        """Follows a ground, from the beginning."""
        self.ground, self._whole, self._defined = ground, True, False
        self._cells, self._tiles, self._things = {}, set(), set()

    def greet(self) -> None:
        """Is to be told anew what grounds there are."""
        self._hello = True

    def say(self, sentence: str) -> None:
        """Is to be told a sentence."""
        self._sentence = sentence

    def add(self, what: Different) -> None:
        """Is to be told what became different."""
        if what.all or self._whole:
            self.begin(self.ground)
            return
        self._defined |= what.said
        for place, rect in what.cells:
            waiting = self._cells.setdefault(place, [])
            waiting.append(rect)
            if len(waiting) > _MOST_RECTS:
                waiting[:] = [_round(waiting)]
        self._tiles |= what.tiles
        self._things |= what.things

    def take(self, hello: Callable[[], Message], live: LiveMap | None) -> list[Callable[[], Message]]:
        """What waits, as messages of the newest state, put together when they are called for; nothing waits then."""
        plain = [hello()] if self._hello else []
        if self._sentence:
            plain.append({"type": "said", "sentence": self._sentence})
        self._hello, self._sentence = False, ""
        if live is None:
            return [partial(_itself, one) for one in plain]
        begun = live.joined() if self._whole else []
        if not self._whole:
            if self._defined:
                plain.append(live.defined_message())
            if self._tiles:
                plain.append(live.tiles_message(self._tiles))
            plain += [live.cells_message(place, rect) for place, rects in self._cells.items() for rect in rects]
            plain += live.things_messages(self._things)
        self._whole = self._defined = False
        self._cells, self._tiles, self._things = {}, set(), set()
        return [*(partial(_itself, one) for one in plain), *begun]


class Hub:
    """All readers of a project, told what changes; may be asked from any thread.

    Parameters
    ----------
    derived : Derived
        Of the project as it is now.
    """

    def __init__(self, derived: Derived) -> None:
        self._derived = derived
        self._lock = threading.RLock()
        self._live: dict[str, LiveMap] = {}
        self._readers: list[Reader] = []
        self._greeting = self.hello()

    @property
    def count(self) -> int:
        """How many readers there are."""
        return len(self._readers)

    def hello(self) -> Message:
        """The first message: what this is, and which grounds there are."""
        project = self._derived.document.project
        grounds = [{"id": one.id, "name": one.name} for one in project.grounds]
        return {"type": "hello", "version": VERSION, "project": project.name, "grounds": grounds}

    def join(self, reader: Reader) -> None:
        """Takes a reader in; it is greeted, and told of the first ground once that is followed."""
        with self._lock:
            self._readers.append(reader)
            grounds = self._derived.document.project.grounds
            reader.begin(grounds[0].id if grounds else "")

    def leave(self, reader: Reader) -> None:
        """Lets a reader go; a ground that nobody follows any more is forgotten."""
        with self._lock:
            self._readers.remove(reader)
            followed = {one.ground for one in self._readers}
            self._live = {name: live for name, live in self._live.items() if name in followed}

    def want(self, reader: Reader, ground: str) -> None:
        """A reader wants to follow a ground; if there is none such it is told so, and stays where it is."""
        with self._lock:
            if any(one.id == ground for one in self._derived.document.project.grounds):
                reader.begin(ground)
            else:
                reader.say(f"There is no ground “{readable(ground)[:80]}”; choose one of those in hello.")

    def follow(self) -> None:
        """Makes ready what readers wait for; where the project is worked on, for it asks what follows from it."""
        with self._lock:
            for name in {one.ground for one in self._readers} - self._live.keys() - {""}:
                try:
                    self._live[name] = LiveMap(self._derived, name)
                except KnitGroundError as problem:
                    self._tell(name, str(problem))
            for reader in self._readers:
                reader.wake()

    def messages(self, reader: Reader) -> list[Message]:
        """What a reader is to be told now."""
        with self._lock:
            waiting = reader.take(self.hello, self._live.get(reader.ground))
        # What is large is put together while the work goes on.
        return [make() for make in waiting]

    def update(self, change: Change, derived: Derived | None = None) -> None:
        """Tells a change of the project to those who follow it, after what follows from it was told."""
        with self._lock:
            if derived is not None:
                self._derived = derived
            for name, live in list(self._live.items()):
                try:
                    what = live.update(self._derived, change)
                except KeyError:
                    self._gone(name)
                    continue
                except KnitGroundError as problem:
                    # What can't be told is no reason for the work to stop.
                    del self._live[name]
                    self._tell(name, str(problem))
                    continue
                if what != Different():
                    for reader in self._readers:
                        if reader.ground == name:
                            reader.add(what)
                            reader.wake()
            before, self._greeting = self._greeting, self.hello()
            if self._greeting != before:
                for reader in self._readers:
                    reader.greet()
                    reader.wake()

    def _tell(self, ground: str, sentence: str) -> None:
        """Why a ground can't be followed; it is begun anew once somebody asks for it again."""
        for reader in self._readers:
            if reader.ground == ground:
                reader.say(sentence)
                reader.begin(ground)
                reader.wake()

    def _gone(self, name: str) -> None:
        """The readers of a ground that is there no more follow the first one."""
        del self._live[name]
        grounds = self._derived.document.project.grounds
        for reader in self._readers:
            if reader.ground == name:
                reader.greet()
                reader.begin(grounds[0].id if grounds else "")
        self.follow()


def _itself(message: Message) -> Message:
    return message


def _round(rects: list[CellRect]) -> CellRect:
    """The smallest rectangle that holds some."""
    top, left = min(one.top for one in rects), min(one.left for one in rects)
    return CellRect(top, left, max(one.bottom for one in rects) - top, max(one.right for one in rects) - left)
