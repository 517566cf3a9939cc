"""Stage 3: the ordered stitches of a set, what the one at hand looks at and lays, and the sheet to choose from."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog, QSplitter

from knitground.app.allowed import allow
from knitground.app.canvas.ground_view import GroundView
from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.pages import Pages
from knitground.app.session import Session
from knitground.app.stage import SheetTabs, StagePanel
from knitground.app.stitches.chart_page import ChartPage
from knitground.app.stitches.courses import Courses
from knitground.app.stitches.lays_page import LaysPage
from knitground.app.stitches.listed import StitchList
from knitground.app.stitches.live import Live
from knitground.app.stitches.otherwise import Otherwise
from knitground.app.stitches.proposals import from_example, offer
from knitground.app.stitches.row import State, wrong_in
from knitground.app.stitches.table_page import TablePage
from knitground.app.stitches.when_page import WhenPage
from knitground.app.terrain_list import TerrainList
from knitground.app.widgets import (
    ChoiceBox,
    button,
    card,
    column,
    fill_box,
    icon_button,
    in_row,
    in_widget,
    quiet,
    row,
)
from knitground.core.check.check import Finding
from knitground.core.edits.grounds import is_laid
from knitground.core.edits.removing import remove_mark, remove_stitch_set
from knitground.core.edits.sets import add_stitch_set, new_terrain
from knitground.core.edits.stitching import (
    Spot,
    add_part,
    copied,
    exchanged,
    fresh_stitch_id,
    inserted,
    moved,
    moved_by,
    number_of,
    put_set,
    spot_of,
    without,
)
from knitground.core.joins.sets import Terrain
from knitground.core.project.model import Project
from knitground.core.stitches.rules import Stitch, StitchSet, new_stitch
from knitground.core.stitches.why import Hindrance
from knitground.core.tiles.tile import TileRef

_SIDE = 152
_HEAD, _LINE, _CARD, _STRIP, _FEW = 44, 54, 250, 150, 5
"""How high the tools, a line of the list, the card and the sheet are, and how many lines show at least."""
_EXPLAINED = "Where labels are not enough, rules lay tiles: make a set, then plan with its marks on the ground."
_FIRST = "Add a stitch, then click the tile that it lays on the sheet."
_UNUSED = "No ground has a plan of this set yet: “Paint with it” makes one."
_HINT = "The first stitch of a course that fits a cell fires there. Drag lines to reorder them."


class StitchesPanel(StagePanel):
    """The left half while stitches are written."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.list = StitchList(session)
        self.list.chosen.connect(self._choose)
        self.list.moved.connect(lambda name, to: self._do(lambda one: moved(one, name, to), "move stitch"))
        self.list.stepped.connect(lambda name, step: self._do(lambda one: moved_by(one, name, step), "move stitch"))
        self.list.removed.connect(self.remove)
        self.list.changed.connect(self._put)
        self._courses = Courses(session, self, self._do)
        self.list.course_renamed.connect(self._courses.rename)
        self.list.course_moved.connect(self._courses.move)
        self.chart, self.lays, self.when = ChartPage(session), LaysPage(session), WhenPage(session)
        for page in (self.chart, self.lays, self.when):
            page.changed.connect(self._exchange)
        self.chart.set_changed.connect(self._put)
        self.lays.part_wanted.connect(self._add_part)
        self.table = TablePage(session)
        self.table.stitch_wanted.connect(self._insert)
        self.pages = Pages({"Looks at": self.chart, "Lays": self.lays, "When": self.when, "All cells": self.table})
        self.view = SheetView(session, PickMode(self._lay, self._current_tile, self.lays.lay_block))
        self._live = Live(session, self._tell, self)
        self._here: Mapping[int, Hindrance | None] = {}
        self._sets = ChoiceBox("Stitch set")
        self._sets.activated.connect(lambda index: session.choose(stitch_set_id=self._sets.itemData(index)))
        self._hint = quiet()
        self._marks = TerrainList()
        self._marks.chosen.connect(lambda number: session.choose(terrain=number))
        self._marks.changed.connect(self._change_mark)
        self._marks.removed.connect(self._remove_mark)
        self._otherwise = Otherwise(session)
        self._otherwise.changed.connect(self._put)
        self._shown: tuple[object, ...] = ()
        self._lines: int | None = None
        self._moved = False
        self._build(tabs)
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.findings_changed.connect(self._show_states)
        session.on_choice(self.refresh, "stitch_set_id", "stitch_id", "tile", "sheet_id", "terrain")
        self.refresh()

    def _build(self, tabs: SheetTabs) -> None:
        new_set = button(
            "New stitch set", self.new_set, "Make a set of stitches with a mark to plan with", icon_name="plus"
        )
        self._more = button("Add a mark", self._add_mark, "Add a mark to plan with", icon_name="plus")
        self._paint = button(
            "Paint with it", self.paint_with, "Add a layer for this set to the ground at hand, and take the brush"
        )
        side = in_widget(
            column(self._sets, self._paint, self._marks, self._otherwise, self._more, new_set, self._hint, None)
        )
        side.setFixedWidth(_SIDE)
        self._from = button("From…", self._offer_more, "Stitches out of an example on the ground, or a join set")
        self._course = button("Course", self._offer_course, "Courses: add one, move, rename or remove this one")
        self._tools = in_row(
            button("Add a stitch", self.add, "Add a stitch below the chosen one", icon_name="plus"),
            icon_button("block", self.copy, "Add a copy of this stitch below it"),
            icon_button("up", lambda: self._step(-1), "Move up (Alt+Up)"),
            icon_button("down", lambda: self._step(1), "Move down (Alt+Down)"),
            icon_button("close", self.remove, "Take this stitch out (Delete)"),
            None,
            self._from,
            self._course,
        )
        upper = in_widget(column(self._tools, self.list, spacing=4))
        tabs_of_card = in_row(*self.pages.tabs.values(), None)
        self._card = card(column(tabs_of_card, self.pages, spacing=4), 8)
        sheets = column(tabs, self.view, spacing=4)
        sheets.setStretch(1, 1)
        lower = in_widget(sheets)
        self._parts = parts = QSplitter(Qt.Orientation.Vertical)
        for part in (upper, self._card, lower):
            parts.addWidget(part)
        parts.setChildrenCollapsible(False)
        parts.splitterMoved.connect(self._on_moved)
        layout = row(parts, side)
        layout.setStretch(0, 1)
        self.setLayout(layout)

    def follow(self, view: GroundView) -> None:
        """Draws on a view of the ground where the stitch at hand fires, and tells what lies under its pointer."""
        view.overlays.append(self._live.draw)
        view.pointed.connect(self._live.point)
        self._session.on_choice(view.update, "stitch_id", "stitch_set_id")

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the set as it is."""
        session = self._session
        project, owner = session.document.project, session.stitch_set
        if not self.isVisible():
            return
        if owner is not None and owner.stitches and session.stitch is None:
            session.choose(stitch_id=owner.stitches[0].id)
        self._marks.show_terrains(owner.marks if owner else (), session.choices.terrain)
        shown = owner, project.sheets, project.mixes, project.grounds, session.document
        if len(shown) != len(self._shown) or any(a is not b for a, b in zip(shown, self._shown, strict=True)):
            self._shown = shown
            fill_box(self._sets, [(one.name, one.id) for one in project.stitch_sets], session.choices.stitch_set_id)
            for part in (self._more, self._paint):
                part.setVisible(owner is not None)
            allow(self._tools, "" if owner is not None else "Make a stitch set first.")
            self._hint.setText(_told(project, owner))
            self.list.show_set(owner, session.choices.stitch_id, project.sheets, project.mixes, session.document)
            self._show_states()
        self._share_room(owner)
        self.list.show_current(session.choices.stitch_id)
        for page in (self.chart, self.lays, self.when, self.table, self._otherwise):
            page.refresh()
        self._show_wrong()
        self.view.update()

    def _share_room(self, owner: StitchSet | None) -> None:
        """Gives the list what its stitches need, and the sheet the rest, until somebody moves what parts them."""
        lines = len(owner.stitches) if owner is not None else -1
        if self._lines is not None and (lines == self._lines or min(lines, self._lines) >= _FEW):
            return
        self._lines = lines
        self._card.setVisible(owner is not None)
        if not self._moved:
            for place, share in enumerate((0, 0, 1) if lines < _FEW else (3, 0, 2)):
                self._parts.setStretchFactor(place, share)
            upper, card = _HEAD + _LINE * min(max(lines, 0), _FEW), _CARD if owner is not None else 0
            self._parts.setSizes([upper, card, max(self._parts.height() - upper - card, _STRIP)])

    def _on_moved(self, *_: object) -> None:
        self._moved = True

    def show_finding(self, finding: Finding) -> None:
        self._session.choose(stitch_set_id=finding.subject)
        owner = self._session.stitch_set
        if owner is not None and finding.index is not None and finding.index < len(owner.stitches):
            self._choose(owner.stitches[finding.index].id)

    def from_example(self) -> None:
        """Proposes stitches out of what is selected on the ground."""
        from_example(self, self._session, lambda made: self._insert(*made))

    def paint_with(self) -> None:
        """Takes the set at hand to the ground, on a layer of its own."""
        if self._session.stitch_set is not None:
            self._session.paint_with(self._session.stitch_set.id, "stitch_sets")

    def add(self) -> None:
        """Adds a stitch that looks at nothing but the mark at hand."""
        owner = self._session.stitch_set
        if owner is None:
            self._session.say("Make a stitch set first, at the right of the list.")
            return
        mark = min(max(1, self._session.choices.terrain), max(1, len(owner.marks)))
        self._insert(new_stitch(fresh_stitch_id(owner), mark, self._session.choices.tile))

    def _insert(self, *stitches: Stitch) -> None:
        """Puts stitches in below the chosen one, and takes the first of them in hand."""
        owner = self._session.stitch_set
        if owner is not None and stitches:
            at = spot_of(owner, self._session.choices.stitch_id)
            last = Spot(max(0, len(owner.courses) - 1), len(owner.courses[-1].stitches) if owner.courses else 0)
            spot = Spot(at.course, at.place + 1) if at else last
            label = "add stitch" if len(stitches) == 1 else f"add {len(stitches)} stitches"
            self._do(lambda one: inserted(one, spot, stitches), label, stitches[0].id)

    def copy(self) -> None:
        """Adds a copy of the chosen stitch."""
        owner, stitch = self._session.stitch_set, self._session.stitch
        if owner is not None and stitch is not None:
            made = self._session.attempt(lambda: copied(owner, stitch.id))
            if made is not None:
                self._put(made[0], "copy stitch", made[1])

    def remove(self, stitch_id: str = "") -> None:
        """Takes a stitch out; the chosen one, if none is named."""
        owner, wanted = self._session.stitch_set, stitch_id or self._session.choices.stitch_id
        at = number_of(owner, wanted) if owner else -1
        if owner is not None and at >= 0:
            left = [one.id for one in owner.stitches if one.id != wanted]
            beside = left[min(max(0, at - 1), len(left) - 1)] if left else ""
            self._do(lambda one: without(one, [wanted]), "remove stitch", beside)

    def _step(self, step: int) -> None:
        self._do(lambda one: moved_by(one, self._session.choices.stitch_id, step), "move stitch")

    def _do(self, change: Callable[[StitchSet], StitchSet], label: str, chosen: str = "") -> None:
        owner = self._session.stitch_set
        if owner is not None:
            made = self._session.attempt(lambda: change(owner))
            if made is not None:
                self._put(made, label, chosen)

    def _put(self, changed: StitchSet, label: str, chosen: str = "") -> None:
        if changed != self._session.stitch_set:
            self._session.attempt(lambda: put_set(self._session.document, label, changed))
        if chosen:
            self._session.choose(stitch_id=chosen)
        self.refresh()

    def _exchange(self, stitch: Stitch, label: str) -> None:
        self._do(lambda one: exchanged(one, stitch), label)

    def _choose(self, stitch_id: str) -> None:
        owner = self._session.stitch_set
        stitch = next((one for one in owner.stitches if one.id == stitch_id), None) if owner else None
        if stitch is None:
            return
        first = next((ref for piece in stitch.pieces for ref in piece.refs), None)
        if first is not None:
            self._session.choose(stitch_id=stitch_id, sheet_id=first.sheet, tile=first)
        else:
            self._session.choose(stitch_id=stitch_id)

    def _lay(self, ref: TileRef) -> None:
        self._session.choose(tile=ref)
        if self._session.stitch is not None:
            self.lays.lay(ref)

    def _current_tile(self) -> TileRef | None:
        return self.lays.current_tile() if self._session.stitch else self._session.choices.tile

    def _tell(self, here: Mapping[int, Hindrance | None]) -> None:
        """Shows how the stitches fare in the cell under the pointer."""
        self._here = here
        self._show_states()
        self._show_wrong()

    def _show_wrong(self) -> None:
        """Frames the sign of the chart at hand that does not fit under the pointer."""
        owner, stitch = self._session.stitch_set, self._session.stitch
        one = self._here.get(number_of(owner, stitch.id)) if owner and stitch else None
        shown = self.chart.editor.chart
        self.chart.editor.wrong = wrong_in(shown, one) if shown is not None else None
        self.chart.editor.update()

    def _show_states(self) -> None:
        owner = self._session.stitch_set
        if owner is None or not self.isVisible():
            return
        wrong = {
            finding.index: finding.sentence.partition(": ")[2]
            for finding in self._session.findings
            if finding.stage == "stitches" and finding.subject == owner.id and finding.kind != "idle stitch"
        }
        fired = [number for number, one in self._here.items() if one is None]
        states = {}
        for number, stitch in enumerate(owner.stitches):
            hindered = self._here.get(number)
            # Those below the one that fires were never asked.
            asked = hindered is not None and (not fired or number < max(fired))
            states[stitch.id] = State(wrong.get(number, ""), hindered if asked else None, number in fired)
        self.list.show_states(states, lambda number: f"stitch {number + 1}")

    def _offer_more(self) -> None:
        menu = offer(self, self._session, lambda made: self._insert(*made))
        menu.popup(self._from.mapToGlobal(QPoint(0, self._from.height())))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)

    def _offer_course(self) -> None:
        owner = self._session.stitch_set
        at = spot_of(owner, self._session.choices.stitch_id) if owner else None
        menu = self._courses.menu(at.course if at else 0)
        menu.addSeparator()
        menu.addAction("Remove the whole set", self.remove_set)
        menu.popup(self._course.mapToGlobal(QPoint(0, self._course.height())))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)

    def _add_part(self, part: str) -> None:
        session, owner = self._session, self._session.stitch_set
        if owner is not None:
            session.attempt(lambda: add_part(session.document, owner.id, part))
            self.refresh()

    def new_set(self) -> None:
        """Asks for the name of a new set, and makes it."""
        name, ok = QInputDialog.getText(self, "New stitch set", "Name", text="Walls")
        if ok and name.strip():
            set_id = add_stitch_set(self._session.document, name.strip()[:80], (name.strip()[:60],))
            self._session.choose(stitch_set_id=set_id)

    def _add_mark(self) -> None:
        owner = self._session.stitch_set
        if owner is None:
            self._session.say("Make a stitch set first.")
            return
        name, ok = QInputDialog.getText(self, "Add a mark", "Name")
        if ok and name.strip():
            made = self._session.attempt(lambda: new_terrain(owner.marks, name.strip()[:60]))
            if made:
                self._put(replace(owner, marks=(*owner.marks, made)), "add mark")

    def _remove_mark(self, number: int) -> None:
        session, owner = self._session, self._session.stitch_set
        if owner is not None:
            session.attempt(lambda: remove_mark(session.document, owner.id, number))

    def remove_set(self) -> None:
        """Takes the whole set out."""
        session, owner = self._session, self._session.stitch_set
        if owner is not None:
            session.attempt(lambda: remove_stitch_set(session.document, owner.id))

    def _change_mark(self, number: int, mark: Terrain) -> None:
        owner = self._session.stitch_set
        if owner is not None:
            marks = [*owner.marks]
            marks[number - 1] = mark
            self._put(replace(owner, marks=tuple(marks)), "change mark")


def _told(project: Project, owner: StitchSet | None) -> str:
    """What to do next with a set, or how it works once that is done."""
    if owner is None:
        return _EXPLAINED
    if not owner.stitches:
        return _FIRST
    return _HINT if is_laid(project, owner.id, "stitch_sets") else _UNUSED
