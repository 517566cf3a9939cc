"""Stage 3: the ordered list of stitches, and the sheet to choose their tiles from."""

from dataclasses import replace

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QDrag, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QInputDialog,
    QListWidget,
    QListWidgetItem,
    QSplitter,
)

from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.commands import Command
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.stage import SheetTabs, StagePanel
from knitground.app.stitches.row import StitchRow
from knitground.app.terrain_list import TerrainList
from knitground.app.widgets import ChoiceBox, button, column, fill_box, icon_button, in_row, in_widget, quiet, row
from knitground.core.check.check import Finding
from knitground.core.edits.sets import add_stitch_set, new_terrain
from knitground.core.edits.things import put
from knitground.core.joins.sets import Terrain
from knitground.core.stitches.match import dead_stitches
from knitground.core.stitches.rules import ANY, Stitch, StitchSet, turned
from knitground.core.tiles.tile import TileRef

_SIDE = 168
_EXPLAINED = "Where labels are not enough, rules lay tiles: make a set, then plan with its marks on the ground."
_FIRST = "Add a stitch, then click the tile that it lays on the sheet."
_HINT = "The first stitch that fits a cell lays its tile. Drag lines to reorder them."


class StitchList(QListWidget):
    """Lines that are dragged into another order; Delete takes the chosen one out, Alt with arrows moves it."""

    def __init__(self, panel: "StitchesPanel") -> None:
        super().__init__()
        self._panel = panel
        self.setObjectName("cards")
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Stitches, first match wins")

    def startDrag(self, actions: Qt.DropAction) -> None:
        """Carries a picture of the whole line along."""
        item = self.currentItem()
        if item is None:
            return
        drag = QDrag(self)
        drag.setMimeData(self.model().mimeData([self.indexFromItem(item)]))
        drag.setPixmap(self.itemWidget(item).grab())
        drag.setHotSpot(QPoint(24, 24))
        drag.exec(Qt.DropAction.MoveAction)

    def dropEvent(self, event: QDropEvent) -> None:
        source = self.currentRow()
        at = event.position().toPoint()
        target = self.indexAt(at).row()
        if target < 0:
            target = self.count()
        elif at.y() > self.visualItemRect(self.item(target)).center().y():
            target += 1
        # The view's own move would lose the widgets of the lines: the document moves, and the list follows.
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        self._panel.move_stitch(source, target if target <= source else target - 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Delete:
            self._panel.remove()
        elif step and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._panel.move_stitch(self.currentRow(), self.currentRow() + step)
        else:
            super().keyPressEvent(event)


class StitchesPanel(StagePanel):
    """The left half while stitches are written."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.list = StitchList(self)
        self.list.currentRowChanged.connect(self._on_row)
        self.view = SheetView(session, PickMode(self._lay, self._current_tile))
        self._sets = ChoiceBox("Stitch set")
        self._sets.activated.connect(lambda index: session.choose(stitch_set_id=self._sets.itemData(index)))
        self._hint = quiet()
        self._marks = TerrainList()
        self._marks.chosen.connect(self._set_mark)
        self._marks.changed.connect(self._change_mark)
        self._shown: tuple[object, ...] = ()
        self._row = 0
        self._build(tabs)
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, "stitch_set_id", "tile", "sheet_id", "terrain")
        self.refresh()

    def _build(self, tabs: SheetTabs) -> None:
        new_set = button(
            "New stitch set", self._new_set, "Make a set of stitches with a mark to plan with", icon_name="plus"
        )
        self._more = button("Add a mark", self._add_mark, "Add a mark to plan with", icon_name="plus")
        self._paint = button(
            "Paint with it", self.paint_with, "Add a layer for this set to the ground at hand, and take the brush"
        )
        side = in_widget(column(self._sets, self._marks, self._more, self._paint, new_set, self._hint, None))
        side.setFixedWidth(_SIDE)
        self._tools = in_row(
            button("Add a stitch", self.add, "Add a stitch below the chosen one", icon_name="plus"),
            icon_button("turn", self._turn, "Add this stitch's pattern turned by a quarter, with the same tile"),
            icon_button(
                "up", lambda: self.move_stitch(self.list.currentRow(), self.list.currentRow() - 1), "Move up (Alt+Up)"
            ),
            icon_button(
                "down",
                lambda: self.move_stitch(self.list.currentRow(), self.list.currentRow() + 1),
                "Move down (Alt+Down)",
            ),
            icon_button("close", self.remove, "Take this stitch out (Delete)"),
            None,
        )
        upper = in_widget(column(self._tools, self.list))
        lower = in_widget(column(tabs, self.view))
        halves = QSplitter(Qt.Orientation.Vertical)
        halves.addWidget(upper)
        halves.addWidget(lower)
        halves.setStretchFactor(0, 3)
        halves.setStretchFactor(1, 2)
        halves.setChildrenCollapsible(False)
        layout = row(halves, side)
        layout.setStretch(0, 1)
        self.setLayout(layout)

    def showEvent(self, event: object) -> None:
        self.refresh()
        self._on_row(self.list.currentRow())

    def refresh(self, *_: object) -> None:
        """Shows the set as it is."""
        project, chosen = self._session.document.project, self._session.stitch_set
        shown = (chosen, project.sheets, self._session.document)
        if not self.isVisible():
            return
        self._marks.show_terrains(chosen.marks if chosen else (), self._mark_at_hand())
        if shown == self._shown:
            return
        self._shown = shown
        fill_box(self._sets, [(one.name, one.id) for one in project.stitch_sets], self._session.choices.stitch_set_id)
        self._more.setVisible(chosen is not None)
        self._paint.setVisible(chosen is not None)
        self._tools.setEnabled(chosen is not None)
        self._hint.setText(_EXPLAINED if chosen is None else _HINT if chosen.stitches else _FIRST)
        self._fill(chosen)

    def commands(self) -> list[Command]:
        return [
            Command("Add a stitch", self.add, refused=self._no_set),
            Command("Paint with this stitch set", self.paint_with, refused=self._no_set),
        ]

    def show_finding(self, finding: Finding) -> None:
        self._session.choose(stitch_set_id=finding.subject)
        self.list.setCurrentRow(finding.index or 0)

    def _no_set(self) -> str:
        return "" if self._session.stitch_set else "Make a stitch set first, in the stage of stitches."

    def paint_with(self) -> None:
        """Takes the set at hand to the ground, on a layer of its own."""
        if self._session.stitch_set is not None:
            self._session.paint_with(self._session.stitch_set.id, "stitch_sets")

    def add(self) -> None:
        """Adds a stitch that looks at no neighbour."""
        chosen = self._session.stitch_set
        if chosen is None:
            self._session.say("Make a stitch set first, at the right of the list.")
            return
        at = self.list.currentRow() + 1
        new = Stitch(self._mark_at_hand(), ANY * 8, self._session.choices.tile)
        self._put((*chosen.stitches[:at], new, *chosen.stitches[at:]), at, "add stitch")

    def remove(self) -> None:
        """Takes the chosen stitch out."""
        chosen, at = self._session.stitch_set, self.list.currentRow()
        if chosen and 0 <= at < len(chosen.stitches):
            self._put(chosen.stitches[:at] + chosen.stitches[at + 1 :], max(0, at - 1), "remove stitch")

    def move_stitch(self, source: int, target: int) -> None:
        """Moves a stitch to another place in the order."""
        chosen = self._session.stitch_set
        if chosen is None or not (0 <= source < len(chosen.stitches) and 0 <= target < len(chosen.stitches)):
            return
        if source == target:
            return
        stitches = list(chosen.stitches)
        stitches.insert(target, stitches.pop(source))
        self._put(tuple(stitches), target, "move stitch")

    def _fill(self, chosen: StitchSet | None) -> None:
        scrolled = self.list.verticalScrollBar().value()
        self.list.blockSignals(True)
        self.list.clear()
        dead = {one.index: one for one in dead_stitches(chosen.stitches, len(chosen.marks))} if chosen else {}
        for index, stitch in enumerate(chosen.stitches if chosen else ()):
            hidden = " and ".join(str(other + 1) for other in dead[index].hidden_by) if index in dead else ""
            line = StitchRow(
                self._session,
                index + 1,
                stitch,
                known(chosen).marks,
                f"never fires: hidden by {hidden}" if hidden else "",
            )
            line.changed.connect(lambda new, at=index: self._exchange(at, new))
            item = QListWidgetItem(self.list)
            item.setSizeHint(line.sizeHint())
            self.list.setItemWidget(item, line)
        self.list.setCurrentRow(min(self._row, self.list.count() - 1))
        self.list.blockSignals(False)
        self.list.verticalScrollBar().setValue(scrolled)

    def _put(self, stitches: tuple[Stitch, ...], at: int, label: str) -> None:
        self._row = at
        chosen = self._session.stitch_set
        put(self._session.document, label, "stitch_sets", replace(known(chosen), stitches=stitches))

    def _exchange(self, at: int, stitch: Stitch) -> None:
        stitches = list(known(self._session.stitch_set).stitches)
        stitches[at] = stitch
        self._put(tuple(stitches), at, "change stitch")

    def _stitch(self) -> Stitch | None:
        chosen, at = self._session.stitch_set, self.list.currentRow()
        return chosen.stitches[at] if chosen and 0 <= at < len(chosen.stitches) else None

    def _on_row(self, at: int) -> None:
        self._row = max(0, at)
        stitch = self._stitch()
        if stitch and stitch.tile:
            self._session.choose(sheet_id=stitch.tile.sheet, tile=stitch.tile)
        self.view.update()
        self.refresh()

    def _lay(self, ref: TileRef) -> None:
        stitch = self._stitch()
        self._session.choose(tile=ref)
        if stitch is not None and stitch.tile != ref:
            self._exchange(self.list.currentRow(), replace(stitch, tile=ref))

    def _current_tile(self) -> TileRef | None:
        stitch = self._stitch()
        return stitch.tile if stitch else self._session.choices.tile

    def _mark_at_hand(self) -> int:
        stitch = self._stitch()
        return stitch.mark if stitch else 1

    def _set_mark(self, number: int) -> None:
        stitch = self._stitch()
        self._session.choose(terrain=number)
        if stitch is not None and stitch.mark != number:
            self._exchange(self.list.currentRow(), replace(stitch, mark=number))

    def _turn(self) -> None:
        stitch, at = self._stitch(), self.list.currentRow()
        if stitch is not None:
            stitches = known(self._session.stitch_set).stitches
            new = replace(stitch, chart=turned(stitch.chart, 1))
            self._put((*stitches[: at + 1], new, *stitches[at + 1 :]), at + 1, "turn stitch")

    def _new_set(self) -> None:
        name, ok = QInputDialog.getText(self, "New stitch set", "Name", text="Walls")
        if ok and name.strip():
            set_id = add_stitch_set(self._session.document, name.strip()[:80], ("Wall",))
            self._session.choose(stitch_set_id=set_id)

    def _add_mark(self) -> None:
        chosen = self._session.stitch_set
        if chosen is None:
            self._session.say("Make a stitch set first.")
            return
        name, ok = QInputDialog.getText(self, "Add a mark", "Name")
        if ok and name.strip():
            made = self._session.attempt(lambda: new_terrain(chosen.marks, name.strip()[:60]))
            if made:
                put(self._session.document, "add mark", "stitch_sets", replace(chosen, marks=(*chosen.marks, made)))

    def _change_mark(self, number: int, mark: Terrain) -> None:
        chosen = self._session.stitch_set
        if chosen:
            marks = [*chosen.marks]
            marks[number - 1] = mark
            put(self._session.document, "change mark", "stitch_sets", replace(chosen, marks=tuple(marks)))
