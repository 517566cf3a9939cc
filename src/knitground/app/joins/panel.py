"""Stage 2: the sheet with its half-stitches, the terrains, and what is covered."""

from dataclasses import replace
from typing import Any

import numpy as np
from PySide6.QtWidgets import QInputDialog, QStackedWidget, QWidget

from knitground.app.allowed import a_menu, allow
from knitground.app.asking import answered
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.choices import SHOWN_ON_SHEETS
from knitground.app.joins.arranging import Arranging
from knitground.app.joins.coverage_chart import CoverageChart
from knitground.app.joins.following import Following
from knitground.app.joins.joining import JOIN_SHARING, join_sharing_of
from knitground.app.joins.label_mode import LabelMode
from knitground.app.joins.made_dialog import MadeDialog
from knitground.app.joins.next_step import next_step, why_no_search, why_no_set
from knitground.app.joins.reading import Reading, ReadingCard
from knitground.app.joins.seam_picture import SeamPicture
from knitground.app.joins.search_card import SearchCard
from knitground.app.joins.searching import Searching, SearchMode
from knitground.app.joins.tile_card import TileCard
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.stage import SheetTabs, StagePanel
from knitground.app.terrain_list import TerrainList
from knitground.app.widgets import (
    ChoiceBox,
    Tick,
    button,
    card,
    column,
    fill_box,
    heading,
    icon_button,
    in_row,
    in_widget,
    quiet,
    row,
    scrolling,
)
from knitground.core.check.check import Finding, many
from knitground.core.edits.made_tiles import add_made_tiles, lent_by
from knitground.core.edits.removing import remove_join_set, remove_terrain
from knitground.core.edits.sets import add_join_set, new_terrain
from knitground.core.edits.standing import stand
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.joins.beyond import told_beyond, told_narrow
from knitground.core.joins.make import make_missing
from knitground.core.joins.quarters import five_of_block
from knitground.core.joins.sets import JoinKind, Terrain
from knitground.core.tiles.tile import TileRef

_SIDE = 208
_SEAM = 104
_FIRST = {
    "corner": ("Areas", ("Ground", "Cover")), "edge": ("Lines", ("Path",)), "full": ("Patches", ("Cover",)),
    "cell": ("Beds", ("Bed",)),
}  # fmt: skip
"""What a new set of each kind is called, and its first terrains."""
_TURNING = {
    "turns": ("turn", "Lay tiles in quarter turns too, where no drawn one fits"),
    "mirrors_x": ("mirror_x", "Lay tiles mirrored left to right too, where no drawn one fits"),
    "mirrors_y": ("mirror_y", "Lay tiles mirrored top to bottom too, where no drawn one fits"),
}


class JoinsPanel(StagePanel):
    """The left half while joins are made."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.reading = Reading(session)
        self.searching = Searching(session, self)
        self._labelling, self._looking = LabelMode(session, self.reading), SearchMode(self.searching)
        self.view = SheetView(session, self._labelling)
        self._following = Following(self.view)
        self._arranging = Arranging(session, self.view, self._five, self.make_missing)
        self._build_set()
        self._chart = CoverageChart(session)
        left = column(tabs, self.view, self._actions(), self._cards())
        left.setStretch(1, 1)
        layout = row(in_widget(left), self._side(), spacing=8)
        layout.setStretch(0, 1)
        self.setLayout(layout)
        for signal in (session.defined, session.opened, self.reading.changed, self.searching.changed):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, *SHOWN_ON_SHEETS)
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the set as it is."""
        join_set, project = self._session.join_set, self._session.document.project
        fill_box(self._sets, [(one.name, one.id) for one in project.join_sets], self._session.choices.join_set_id)
        self._more.setVisible(bool(project.join_sets))
        self._make.setVisible(not project.join_sets)
        for widget in (self._add, self._bare, self._round, self._turning, self._tools, self._paint):
            widget.setVisible(join_set is not None)
        by_cell = join_set is not None and join_set.kind == "cell"
        self._bare.setVisible(join_set is not None and not by_cell)
        self._round.setVisible(by_cell)
        if join_set is not None:
            grounds = [("nothing", "0"), *((one.name, str(n)) for n, one in enumerate(join_set.terrains, start=1))]
            fill_box(self._grounds, grounds, str(join_set.ground))
        self._bare.setChecked(join_set is not None and join_set.bare)
        for name, box in self._turns.items():
            box.setChecked(join_set is not None and getattr(join_set, name))
        self._terrains.show_terrains(join_set.terrains if join_set else (), self._session.choices.terrain)
        self._show_kind()
        if self.isVisible():
            self._chart.refresh()
            self._show_counts()
        self._tile.refresh()
        self._reading_card.refresh()
        self._show_card()
        mode = self._looking if self.searching.proposed else self._labelling
        if mode is self._labelling:
            self._following.return_to(join_set)
        elif mode is not self.view.mode:
            self._following.look_at(ref for one in self.searching.proposed for ref in one.join_set.labels)
        self.view.mode = mode
        self.view.update()

    def showEvent(self, event: object) -> None:
        self._chart.refresh()
        self._show_counts()

    def show_finding(self, finding: Finding) -> None:
        self._session.choose(join_set_id=finding.subject)
        if finding.kind == "seam" and finding.tiles:
            self.show_seam(finding)
        elif finding.tiles:
            tile = TileRef.parse(finding.tiles[0])
            self._session.choose(tile=tile, sheet_id=tile.sheet)

    def show_seam(self, finding: Finding) -> None:
        """Shows two tiles of the set at hand that meet with a seam; the first may be at hand already."""
        self._seam.show_finding(finding)
        says = finding.sentence.removeprefix(f"{known(self._session.join_set).name}: ")
        self._seam_says.setText(f"{says[:1].upper()}{says[1:]}.")
        first = TileRef.parse(finding.tiles[0])
        self._session.choose(tile=first, sheet_id=first.sheet)
        self._show_card()

    def read_labels(self) -> None:
        """Reads labels off the chosen cells, or off all that hold something."""
        refs = sorted(self._session.choices.selection, key=lambda ref: (ref.sheet, ref.cut, ref.row, ref.column))
        how = self._reading_card
        self._session.attempt(lambda: self.reading.begin(refs or self._filled_cells(), how.wanted))

    def _lie(self, isometric: bool) -> None:
        """Says whether the tiles that labels are proposed for are isometric, and reads them again."""
        stand(self._session.document, self.reading.cuts, shape="isometric" if isometric else "square")
        self.read_labels()

    def find_sets(self) -> None:
        """Looks for sets on the sheet; Return on it takes them."""
        sheet = self.view.sheet
        self.view.setFocus()
        if sheet is not None:
            self._session.attempt(lambda: self.searching.begin(sheet))

    def make_missing(self) -> None:
        """Shows what could be made of what there is, and adds what stays ticked."""
        session, join_set = self._session, self._session.join_set
        if join_set is None:
            return
        coverage = session.derived.coverage(join_set)
        drawn, flat = lent_by(session.derived, join_set), session.derived.isometric(join_set)
        made = session.attempt(lambda: make_missing(join_set, coverage, drawn, self._five(), isometric=flat))
        if made is None:
            return
        if not made:
            session.say(
                "Nothing is missing."
                if not coverage.lacking + coverage.beyond
                else "There is nothing to make them of: label plain and straight tiles, or choose base tiles with Ctrl."
            )
            return
        dialog = MadeDialog(self, join_set, made, coverage)
        if answered(dialog) and dialog.chosen:
            refs = add_made_tiles(session.document, join_set.id, dialog.chosen)
            session.choose(tile=refs[0], sheet_id=refs[0].sheet, selection=frozenset())
            made_now = many(len(refs), "tile is made, until you draw it", "tiles are made, until you draw them")
            session.say(f"{made_now}.", "Paint with this join set")

    def paint_with(self) -> None:
        """Takes the set at hand to the ground, on a layer of its own."""
        if self._session.join_set is not None:
            self._session.paint_with(self._session.join_set.id, "join_sets")

    def _build_set(self) -> None:
        session = self._session
        self._sets = ChoiceBox("Join set")
        self._sets.activated.connect(lambda index: session.choose(join_set_id=self._sets.itemData(index)))
        self._kind, self._counts = quiet(), quiet()
        self._terrains = TerrainList()
        self._terrains.chosen.connect(lambda number: session.choose(terrain=number))
        self._terrains.changed.connect(self._change_terrain)
        self._terrains.removed.connect(
            lambda number: session.attempt(
                lambda: remove_terrain(session.document, session.choices.join_set_id, number)
            )
        )
        self._make = button(
            "New join set",
            lambda: self.offer_new(self._make),
            "Make a set of corner, edge, full or cell joins",
            icon_name="plus",
        )
        self._more = icon_button(
            "plus", lambda: self.offer_new(self._more), "Make another join set, rename or remove this"
        )
        self._add = button("Add a terrain", self._add_terrain, "Add a terrain to this set", icon_name="plus")
        self._bare = Tick(
            "May border on nothing", "Tiles may leave a corner or edge without a label: nothing lies there"
        )
        self._bare.clicked.connect(lambda checked: self._change("border on nothing", bare=checked))
        self._grounds = ChoiceBox("What lies round the tiles where nothing is painted")
        self._grounds.activated.connect(
            lambda index: self._change("ground of the set", ground=int(self._grounds.itemData(index)))
        )
        self._round = in_row(quiet("Its ground"), self._grounds)
        self._paint = button(
            "Paint with it", self.paint_with, "Add a layer for this set to the ground at hand, and take the brush"
        )
        self._turns = {}
        for name, (icon_name, tip) in _TURNING.items():
            toggle = icon_button(icon_name, lambda: None, tip)
            toggle.setObjectName("")
            toggle.setCheckable(True)
            toggle.clicked.connect(lambda checked, field=name: self._change("turning", **{field: checked}))
            self._turns[name] = toggle
        self._turning = in_row(quiet("Turn tiles"), *self._turns.values(), None)
        known(self._turning.layout()).setSpacing(4)

    def _actions(self) -> QWidget:
        arrange = button("Arrangement…", lambda: self._arranging.open_menu(arrange), "Label a block of cells in one go")
        self._tools = in_row(
            button(
                "Read labels", self.read_labels, "Read labels off the pixels: of the cells chosen with Ctrl, or of all"
            ),
            arrange,
            button(
                "Make missing…",
                self.make_missing,
                "Make the tiles that the set lacks: of those there are, or of quarters of five chosen or a 2 x 3 block",
            ),
            None,
        )
        return self._tools

    def _side(self) -> QWidget:
        tip = "Look for blocks and rows of cells on this sheet that make a set"
        self._find = button("Find sets", self.find_sets, tip)
        inner = in_widget(
            column(
                in_row(self._sets, self._more),
                self._paint,  # above what may be longer or shorter
                self._kind,
                self._terrains,
                self._add,
                self._bare,
                self._round,
                self._turning,
                self._make,
                self._find,
                heading("Coverage"),
                self._counts,
                self._chart,
                None,
            )
        )
        area = scrolling(inner)
        area.setFixedWidth(_SIDE)
        return area

    def _cards(self) -> QWidget:
        self._tile = TileCard(self._session)
        self._reading_card = ReadingCard(self.reading, self.read_labels, self._lie)
        self._search_card = SearchCard(self.searching)
        self._seam, self._seam_says = SeamPicture(self._session, _SEAM), quiet()
        close = button("Done", lambda: self._seam_closed(), "Back to the tile at hand")
        text = column(heading("A seam"), self._seam_says, in_row(close, None), None, spacing=4)
        seam = row(self._seam, spacing=12)
        seam.addLayout(text, 1)
        self._stack = QStackedWidget()
        for page in (self._tile.widget, self._reading_card.widget, in_widget(seam), self._search_card.widget):
            self._stack.addWidget(page)
        self._stack.setFixedHeight(136)
        return card(column(self._stack))

    def _show_card(self) -> None:
        shown = self._seam.finding
        if shown is not None and (
            self._session.choices.tile is None or str(self._session.choices.tile) != shown.tiles[0]
        ):
            self._seam.show_finding(None)
        found = 3 if self.searching.proposed else 1 if self.reading.proposal else 2 if self._seam.finding else 0
        self._stack.setCurrentIndex(found)

    def _seam_closed(self) -> None:
        self._seam.show_finding(None)
        self._show_card()

    def _show_kind(self) -> None:
        project, chosen = self._session.document.project, len(self._session.choices.selection)
        self._kind.setText(next_step(project, self._session.join_set, chosen, self.view.sheet))
        allow(self._find, why_no_search(self.view.sheet))
        allow(self._make, why_no_set(self.view.sheet))

    def _show_counts(self) -> None:
        found, join_set = self._chart.coverage, self._session.join_set
        there = f"{found.present:,} of {found.total:,} present"
        turned = f"{found.turned} by turning" if found.turned else ""
        counts = there, turned, f"{found.several:,} doubled", f"{found.lacking:,} missing", told_narrow(found)
        told = ", ".join(filter(None, counts)), told_beyond(join_set, found) if join_set else ""
        self._counts.setText("; ".join(filter(None, told)) if join_set and found.total else "Nothing to cover yet.")

    def _filled_cells(self) -> list[TileRef]:
        """The cells of the cut at hand that hold something."""
        sheet, cut = self.view.sheet, self.view.cut
        if self.view.slices is None:
            raise BadRequest("There is no sheet to read labels off; add one in the first stage.")
        return [TileRef(known(sheet).id, known(cut).id, *cell) for cell in self.view.slices.cells()]

    def _five(self) -> list[np.ndarray]:
        """The base tiles for quarters, where five cells or a block of 2 x 3 are chosen."""
        refs = sorted(self._session.choices.selection, key=lambda ref: (ref.row, ref.column))
        tiles = [np.array(pixels) for ref in refs if (pixels := self._session.derived.tile(ref)) is not None]
        if len(tiles) == 5:
            return tiles
        rows, columns = {ref.row for ref in refs}, {ref.column for ref in refs}
        if len(tiles) == 6 and (len(rows), len(columns)) == (3, 2):
            return five_of_block(np.stack(tiles).reshape(3, 2, *tiles[0].shape))
        return []

    def offer_new(self, below: QWidget | None = None) -> None:
        """Lists the kinds of sets that can be made, and what else to do with sets, below a button that shows."""
        below = below or (self._make if self._make.isVisible() else self._more)
        menu, session = a_menu(self), self._session
        menu.addAction("Corner joins: areas that meet", lambda: self._new_set("corner"))
        menu.addAction("Edge joins: lines that go on", lambda: self._new_set("edge"))
        menu.addAction("Full joins: corners and edges", lambda: self._new_set("full"))
        menu.addAction("Cell joins: areas painted by the cell", lambda: self._new_set("cell"))
        if session.join_set is not None:
            menu.addSeparator()
            menu.addAction(JOIN_SHARING, lambda: join_sharing_of(session))
            menu.addAction("Rename this set…", self.rename)
            menu.addAction("Remove this set", self.remove_set)
        menu.popup(below.mapToGlobal(below.rect().bottomLeft()))

    def _new_set(self, kind: JoinKind) -> None:
        title, first = _FIRST[kind]
        name, ok = QInputDialog.getText(self, "New join set", "Name", text=title)
        if ok and name.strip():
            set_id = add_join_set(self._session.document, name.strip()[:80], kind, first)
            self._session.choose(join_set_id=set_id, terrain=1)

    def remove_set(self) -> None:
        """Takes the set at hand out of the project."""
        session = self._session
        session.attempt(lambda: remove_join_set(session.document, session.choices.join_set_id))

    def rename(self) -> None:
        """Asks for the name of the set at hand."""
        name, ok = QInputDialog.getText(self, "Rename join set", "Name", text=known(self._session.join_set).name)
        if ok and name.strip():
            self._change("rename set", name=name.strip()[:80])

    def _add_terrain(self) -> None:
        join_set = self._session.join_set
        name, ok = QInputDialog.getText(self, "Add a terrain", "Name")
        if join_set and ok and name.strip():
            made = self._session.attempt(lambda: new_terrain(join_set.terrains, name.strip()[:60]))
            if made:
                self._change("add terrain", terrains=(*join_set.terrains, made))
                self._session.choose(terrain=len(join_set.terrains) + 1)

    def _change_terrain(self, number: int, terrain: Terrain) -> None:
        terrains = [*known(self._session.join_set).terrains]
        terrains[number - 1] = terrain
        self._change("change terrain", terrains=tuple(terrains))

    def _change(self, label: str, **fields: Any) -> None:
        """Changes something of the set at hand."""
        join_set = self._session.join_set
        if join_set is not None:
            put(self._session.document, label, "join_sets", replace(join_set, **fields))
