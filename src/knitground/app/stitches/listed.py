"""The stitches of a set in their order, course by course; dragged lines and keys change it."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QDrag, QDropEvent, QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QWidget

from knitground.app.session import Session
from knitground.app.stitches.row import GroupHeading, Heading, State, StitchRow
from knitground.core.edits.stitching import Spot, exchanged, with_course
from knitground.core.stitches.rules import StitchSet

_WHAT = Qt.ItemDataRole.UserRole


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
        self._folded: set[tuple[int, str]] = set()
        self.setObjectName("cards")
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Stitches, first match wins")
        self.currentItemChanged.connect(self._on_item)

    def show_set(self, stitch_set: StitchSet | None, current: str) -> None:
        """Shows the stitches of a set."""
        scrolled = self.verticalScrollBar().value()
        self.blockSignals(True)
        self.clear()
        self._rows, self._set, number = {}, stitch_set, 0
        several = stitch_set is not None and len(stitch_set.courses) > 1
        for place, course in enumerate(stitch_set.courses if stitch_set else ()):
            if several or course.name != "Stitches":
                self._add_heading(place, course.name, course.active)
            group = ""
            for stitch in course.stitches:
                assert stitch_set is not None
                if stitch.group and stitch.group != group:
                    self._add_group(place, stitch.group, sum(one.group == stitch.group for one in course.stitches))
                group = stitch.group
                line = StitchRow(self._session, number, stitch, stitch_set)
                line.switched.connect(lambda on, one=stitch: self._switch(one.id, on))
                self._rows[stitch.id] = line
                self._add(line, stitch.id, hidden=(place, group) in self._folded)
                number += 1
        self.show_current(current)
        self.blockSignals(False)
        self.verticalScrollBar().setValue(scrolled)

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
        for name, line in self._rows.items():
            line.show_state(states.get(name, State()), number_of)

    @property
    def rows(self) -> list[StitchRow]:
        """The lines of stitches, from the first."""
        return list(self._rows.values())

    def startDrag(self, actions: Qt.DropAction) -> None:
        """Carries a picture of the whole line along."""
        item = self.currentItem()
        if item is None or item.data(_WHAT) is None:
            return
        drag = QDrag(self)
        drag.setMimeData(self.model().mimeData([self.indexFromItem(item)]))
        drag.setPixmap(self.itemWidget(item).grab())
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
        elif step and event.modifiers() & Qt.KeyboardModifier.AltModifier and what is not None:
            if isinstance(what, str):
                self.stepped.emit(what, step)
            else:
                self.course_moved.emit(what, step)
        else:
            super().keyPressEvent(event)

    def _add_heading(self, place: int, name: str, active: bool) -> None:
        line = Heading(place, name, active)
        line.switched.connect(lambda on: self._switch_course(place, on))
        line.renamed.connect(lambda: self.course_renamed.emit(place))
        self._add(line, place)

    def _add_group(self, course: int, group: str, count: int) -> None:
        folded = (course, group) in self._folded
        line = GroupHeading(group, count, folded)
        line.folds.connect(lambda: self._fold(course, group))
        self._add(line, None)

    def _fold(self, course: int, group: str) -> None:
        """Folds the stitches of a group, or shows them again."""
        self._folded ^= {(course, group)}
        current = self.currentItem()
        self.show_set(self._set, current.data(_WHAT) if current is not None else "")

    def _add(self, line: QWidget, what: object, *, hidden: bool = False) -> None:
        item = QListWidgetItem(self)
        item.setData(_WHAT, what)
        item.setSizeHint(line.sizeHint())
        item.setHidden(hidden)
        if what is None:
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
        self.setItemWidget(item, line)

    def _on_item(self, item: QListWidgetItem | None) -> None:
        if item is not None and isinstance(item.data(_WHAT), str):
            self.chosen.emit(item.data(_WHAT))

    def _switch(self, stitch_id: str, on: bool) -> None:
        if self._set is not None:
            stitch = next(one for one in self._set.stitches if one.id == stitch_id)
            label = "switch a stitch on" if on else "switch a stitch off"
            self.changed.emit(exchanged(self._set, replace(stitch, active=on)), label)

    def _switch_course(self, number: int, on: bool) -> None:
        if self._set is not None:
            changed = with_course(self._set, number, lambda course: replace(course, active=on))
            self.changed.emit(changed, "switch a course on" if on else "switch a course off")
