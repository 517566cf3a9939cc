"""The stitches of a set in their order, course by course; dragged lines and keys change it."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QDrag, QDropEvent, QKeyEvent, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QWidget

from knitground.app.jobs import hold_jobs
from knitground.app.session import Session
from knitground.app.stitches.row import GroupHeading, Heading, State, StitchRow
from knitground.core.edits.stitching import Spot, exchanged, with_course
from knitground.core.stitches.rules import Stitch, StitchSet

_WHAT = Qt.ItemDataRole.UserRole
_AT_ONCE, _PER_TURN = 12, 6


@dataclass(frozen=True, eq=False)
class _Entry:
    """What a line shows: a course (its number), a group (nothing) or a stitch (its id).

    `active` says of a course whether it runs, of a group whether it is folded.
    """

    course: int
    what: int | str | None
    stitch: Stitch | None = None
    name: str = ""
    members: int = 0
    active: bool = False

    def shows_as(self, other: "_Entry") -> bool:
        """Whether another line would look the same; stitches that did not change are the same objects."""
        return self.stitch is other.stitch and (self.course, self.what, self.name, self.members, self.active) == (
            other.course, other.what, other.name, other.members, other.active
        )  # fmt: skip


class StitchList(QListWidget):
    """Lines that are dragged into another order, courses too; Delete takes one out, Alt with arrows moves it."""

    chosen = Signal(str)
    moved = Signal(str, object)
    stepped = Signal(str, int)
    removed = Signal(str)
    changed = Signal(object, str)
    course_renamed = Signal(int)
    course_moved = Signal(int, int)
    """A course, and by how many places it is to run earlier (-) or later."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._set: StitchSet | None = None
        self._rows: dict[str, StitchRow] = {}
        self._numbers: dict[str, int] = {}
        self._states: Mapping[str, State] = {}
        self._number_of: Callable[[int], str] = str
        self._later = QTimer(self, singleShot=True, interval=0)
        self._later.timeout.connect(lambda: self._make_lines(_PER_TURN))
        self._entries: list[_Entry] = []
        self._looks: tuple[object, ...] = ()
        self._folded: set[tuple[int, str]] = set()
        self.setObjectName("cards")
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Stitches, first match wins")
        self.currentItemChanged.connect(self._on_item)

    def show_set(self, stitch_set: StitchSet | None, current: str, *looks: object) -> None:
        """Shows the stitches of a set; lines that stay as they were are kept.

        Parameters
        ----------
        stitch_set : StitchSet, optional
        current : str
            The stitch at hand.
        looks : object
            What all lines look by, besides the set's marks and views.
        """
        scrolled = self.verticalScrollBar().value()
        self.blockSignals(True)
        seen = () if stitch_set is None else (stitch_set.id, stitch_set.marks, stitch_set.views)
        before = self._entries if _alike(self._looks, (*seen, *looks)) else []
        if not before:
            self.clear()
        self._looks, self._set = (*seen, *looks), stitch_set
        entries = list(self._entries_of(stitch_set))
        same = [one.shows_as(other) for one, other in zip(before, entries, strict=False)]
        first = same.index(False) if False in same else len(same)
        left = zip(reversed(before[first:]), reversed(entries[first:]), strict=False)
        ends = [one.shows_as(other) for one, other in left]
        last = ends.index(False) if False in ends else len(ends)
        for _ in range(len(before) - first - last):
            self.takeItem(first)
        for place in range(first, len(entries) - last):
            self._insert(place, entries[place])
        self._entries = entries
        self._number()
        self.show_current(current)
        self.blockSignals(False)
        self.verticalScrollBar().setValue(scrolled)
        self._make_lines(_AT_ONCE)

    def _entries_of(self, stitch_set: StitchSet | None) -> Iterator[_Entry]:
        """What the lines show, from the first."""
        several = stitch_set is not None and len(stitch_set.courses) > 1
        for place, course in enumerate(stitch_set.courses if stitch_set else ()):
            if several or course.name != "Stitches":
                yield _Entry(place, place, name=course.name, active=course.active)
            group = ""
            for stitch in course.stitches:
                if stitch.group and stitch.group != group:
                    count = sum(one.group == stitch.group for one in course.stitches)
                    yield _Entry(
                        place, None, name=stitch.group, members=count, active=(place, stitch.group) in self._folded
                    )
                group = stitch.group
                yield _Entry(place, stitch.id, stitch)

    def _insert(self, place: int, entry: _Entry) -> None:
        """Puts in room for a line."""
        item = QListWidgetItem()
        item.setData(_WHAT, entry.what)
        kind = StitchRow if entry.stitch is not None else GroupHeading if entry.what is None else Heading
        item.setSizeHint(kind.SIZE)
        if entry.what is None:
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
        self.insertItem(place, item)

    def _make_lines(self, most: int) -> None:
        """Makes some of the lines that are not there yet, those in view first; the others follow turn by turn.

        All room is made before: the list would be laid out anew for each that came after some had lines.
        """
        hold_jobs()
        seen = max(0, self.indexAt(QPoint(4, 4)).row())
        lacking = [
            place for place in (*range(seen, self.count()), *range(seen)) if self.itemWidget(self.item(place)) is None
        ]
        for place in lacking[:most]:
            entry = self._entries[place]
            line = self._line(entry)
            self.setItemWidget(self.item(place), line)
            if entry.stitch is not None and isinstance(line, StitchRow):
                self._rows[entry.stitch.id] = line
                line.show_state(self._states.get(entry.stitch.id, State()), self._number_of)
        if lacking[most:]:
            self._later.start()

    def _line(self, entry: _Entry) -> QWidget:
        """What shows an entry."""
        if entry.stitch is not None and self._set is not None:
            row = StitchRow(self._session, self._numbers[entry.stitch.id], entry.stitch, self._set)
            row.switched.connect(lambda on, name=entry.stitch.id: self._switch(name, on))
            return row
        if entry.what is None:
            group = GroupHeading(entry.name, entry.members, entry.active)
            group.folds.connect(lambda: self._fold(entry.course, entry.name))
            return group
        heading = Heading(entry.course, entry.name, entry.active)
        heading.switched.connect(lambda on: self._switch_course(entry.course, on))
        heading.renamed.connect(lambda: self.course_renamed.emit(entry.course))
        return heading

    def _number(self) -> None:
        """Numbers the lines of stitches, and hides those of groups that are folded."""
        self._rows, self._numbers = {}, {}
        for place, entry in enumerate(self._entries):
            if entry.stitch is None:
                continue
            number = self._numbers[entry.stitch.id] = len(self._numbers)
            line = self.itemWidget(self.item(place))
            if isinstance(line, StitchRow):
                line.number(number)
                self._rows[entry.stitch.id] = line
            self.item(place).setHidden((entry.course, entry.stitch.group) in self._folded)

    def show_current(self, stitch_id: str) -> None:
        """Shows which stitch is at hand, without telling anybody."""
        before = self.blockSignals(True)
        for place in range(self.count()):
            if self.item(place).data(_WHAT) == stitch_id:
                self.setCurrentRow(place)
                break
        self.blockSignals(before)

    def show_states(self, states: Mapping[str, State], number_of: Callable[[int], str]) -> None:
        """Shows how each stitch fares."""
        self._states, self._number_of = states, number_of
        for name, line in self._rows.items():
            line.show_state(states.get(name, State()), number_of)

    @property
    def rows(self) -> list[StitchRow]:
        """The lines of stitches that there are, from the first."""
        return [self._rows[name] for name in self._numbers if name in self._rows]

    def startDrag(self, actions: Qt.DropAction) -> None:
        """Carries a picture of the whole line along."""
        item = self.currentItem()
        if item is None or item.data(_WHAT) is None:
            return
        drag = QDrag(self)
        drag.setMimeData(self.model().mimeData([self.indexFromItem(item)]))
        line = self.itemWidget(item)
        drag.setPixmap(line.grab() if line is not None else QPixmap())
        drag.setHotSpot(QPoint(24, 24))
        drag.exec(Qt.DropAction.MoveAction)

    def dropEvent(self, event: QDropEvent) -> None:
        item = self.currentItem()
        at = event.position().toPoint()
        target = self.indexAt(at).row()
        if target < 0:
            target = self.count()
        elif at.y() > self.visualItemRect(self.item(target)).center().y():
            target += 1
        # The view's own move would lose the widgets of the lines: the document moves, and the list follows.
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        what = item.data(_WHAT) if item is not None else None
        if isinstance(what, str):
            self.moved.emit(what, self.spot_before(target))
        elif isinstance(what, int):
            # Before a heading a course lands above that one, among its stitches below it.
            to = self.spot_before(target).course + (0 if target == 0 else 1)
            self.course_moved.emit(what, to - what - (to > what))

    def spot_before(self, line: int) -> Spot:
        """The place in a course at which a line stands, or the end of the course above."""
        course, place = 0, 0
        for one in range(min(line, self.count())):
            what = self.item(one).data(_WHAT)
            if isinstance(what, int):
                course, place = what, 0
            elif isinstance(what, str):
                place += 1
        return Spot(course, place)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        item = self.currentItem()
        what = item.data(_WHAT) if item is not None else None
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Delete and isinstance(what, str):
            self.removed.emit(what)
        elif event.key() == Qt.Key.Key_Space and what is not None:
            self._turn_over(what)
        elif step and event.modifiers() & Qt.KeyboardModifier.AltModifier and what is not None:
            if isinstance(what, str):
                self.stepped.emit(what, step)
            else:
                self.course_moved.emit(what, step)
        else:
            super().keyPressEvent(event)

    def _fold(self, course: int, group: str) -> None:
        """Folds the stitches of a group, or shows them again."""
        self._folded ^= {(course, group)}
        current = self.currentItem()
        looks = self._looks[3:] if self._set is not None else self._looks
        self.show_set(self._set, str(current.data(_WHAT)) if current is not None else "", *looks)

    def _on_item(self, item: QListWidgetItem | None) -> None:
        if item is not None and isinstance(item.data(_WHAT), str):
            self.chosen.emit(item.data(_WHAT))

    def _turn_over(self, what: str | int) -> None:
        """Switches a stitch or a course on if it is off, and off if it is on."""
        if self._set is None:
            return
        if isinstance(what, str):
            self._switch(what, not next(one for one in self._set.stitches if one.id == what).active)
        else:
            self._switch_course(what, not self._set.courses[what].active)

    def _switch(self, stitch_id: str, on: bool) -> None:
        self.setFocus()  # the tick is a new one then, and keys go to the list
        if self._set is not None:
            stitch = next(one for one in self._set.stitches if one.id == stitch_id)
            label = "switch a stitch on" if on else "switch a stitch off"
            self.changed.emit(exchanged(self._set, replace(stitch, active=on)), label)

    def _switch_course(self, number: int, on: bool) -> None:
        self.setFocus()
        if self._set is not None:
            changed = with_course(self._set, number, lambda course: replace(course, active=on))
            self.changed.emit(changed, "switch a course on" if on else "switch a course off")


def _alike(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    return len(one) == len(other) and all(
        a is b or (isinstance(a, str) and a == b) for a, b in zip(one, other, strict=True)
    )
