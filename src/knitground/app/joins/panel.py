"""Stage 2: the sheet with its half-stitches, the terrains, and what is covered."""

from dataclasses import replace

import numpy as np
from PySide6.QtWidgets import QCheckBox, QDoubleSpinBox, QInputDialog, QLabel, QMenu, QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.joins.coverage_chart import CoverageChart
from knitground.app.joins.label_mode import LabelMode
from knitground.app.session import Session
from knitground.app.stage import SheetTabs
from knitground.app.terrain_list import TerrainList
from knitground.app.widgets import (
    ChoiceBox,
    TilePicture,
    button,
    card,
    column,
    fill_box,
    heading,
    held,
    held_layout,
    icon_button,
    quiet,
    row,
    scrolling,
)
from knitground.core.check.findings import letters
from knitground.core.joins.sets import JoinKind, Terrain
from knitground.core.project.operations import add_join_set, new_terrain, put, set_weight
from knitground.core.tiles.tile import TileNotes

_SIDE = 208
_FIRST = {
    "corner": ("Areas", ("Ground", "Cover")), "edge": ("Lines", ("Path",)), "full": ("Patches", ("Cover",)),
}  # fmt: skip
"""What a new set of each kind is called, and its first terrains."""


class JoinsPanel(QWidget):
    """The left half while joins are made."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.view = SheetView(session, LabelMode(session))
        self._sets = ChoiceBox("Join set")
        self._sets.activated.connect(lambda index: session.choose(join_set_id=self._sets.itemData(index)))
        self._kind, self._counts = quiet(), quiet()
        self._terrains = TerrainList()
        self._terrains.chosen.connect(lambda number: session.choose(terrain=number))
        self._terrains.changed.connect(self._change_terrain)
        self._chart = CoverageChart(session)
        self._make = button(
            "New join set", lambda: self._new_menu(self._make), "Make a set of corner or edge joins", icon_name="plus"
        )
        self._bare = QCheckBox("May border on nothing")
        self._bare.setToolTip("Tiles may leave a corner or edge without a label: nothing lies there")
        self._bare.clicked.connect(self._set_bare)
        self._more = icon_button("plus", lambda: self._new_menu(self._more), "Make another join set")
        self._add = button("Add a terrain", self._add_terrain, "Add a terrain to this set", icon_name="plus")
        work = row(held_layout(column(tabs, self.view)), self._side(), spacing=8)
        work.setStretch(0, 1)
        layout = column(held_layout(work), self._card())
        layout.setStretch(0, 1)
        self.setLayout(layout)
        for signal in (session.defined, session.chosen, session.opened):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the set as it is."""
        join_set, project = self._session.join_set, self._session.document.project
        fill_box(self._sets, [(one.name, one.id) for one in project.join_sets], self._session.join_set_id)
        self._more.setVisible(bool(project.join_sets))
        self._make.setVisible(not project.join_sets)
        self._add.setVisible(join_set is not None)
        self._bare.setVisible(join_set is not None)
        self._bare.setChecked(join_set is not None and join_set.bare)
        self._terrains.show_terrains(join_set.terrains if join_set else (), self._session.terrain)
        self._show_kind()
        if self.isVisible():
            self._chart.refresh()
            self._show_counts()
        self._show_tile()

    def showEvent(self, event: object) -> None:
        self._chart.refresh()
        self._show_counts()

    def _side(self) -> QWidget:
        inner = held_layout(
            column(
                held(self._sets, self._more),
                self._kind,
                self._terrains,
                self._add,
                self._bare,
                self._make,
                heading("Coverage"),
                self._counts,
                self._chart,
                None,
            )
        )
        area = scrolling(inner)
        area.setFixedWidth(_SIDE)
        return area

    def _card(self) -> QWidget:
        self._picture = TilePicture(88, "The tile at hand")
        self._title, self._meets = heading("No tile chosen"), quiet("Click a tile on the sheet.")
        self._weight = QDoubleSpinBox()
        self._weight.setRange(0, 1_000_000)
        self._weight.setDecimals(2)
        self._weight.setKeyboardTracking(False)
        self._weight.lineEdit().setTextMargins(6, 0, 0, 0)
        self._weight.setToolTip("How often this tile comes among those with the same labels")
        self._weight.setAccessibleName("Weight")
        self._weight.setFixedWidth(84)
        self._weight.valueChanged.connect(self._set_weight)
        self._share = quiet()
        text = column(
            self._title, self._meets, held(QLabel("Weight"), self._weight, self._share, None), None, spacing=4
        )
        layout = row(self._picture, spacing=12)
        layout.addLayout(text, 1)
        return card(layout)

    def _show_kind(self) -> None:
        join_set = self._session.join_set
        if join_set is None:
            self._kind.setText(
                "Say what meets what: make a set, then paint its terrains on the tiles' corners or edges."
            )
        elif not join_set.labels:
            where = {"corner": "corners", "edge": "edges", "full": "corners and edges"}[join_set.kind]
            self._kind.setText(
                f"Drag over the tiles' {where} to label them; Shift labels a whole tile, the right button takes off."
            )
        else:
            self._kind.setText(f"{join_set.kind} joins of {len(join_set.labels)} tiles")

    def _show_counts(self) -> None:
        found = self._chart.coverage
        turned = f", {found.turned} by turning" if found.turned else ""
        self._counts.setText(
            f"{found.present} of {found.total} present{turned}, {found.doubled} doubled, {found.lacking} missing"
            if found.total
            else "Nothing to cover yet."
        )

    def _show_tile(self) -> None:
        ref, join_set = self._session.tile, self._session.join_set
        pixels = self._session.derived.tile(ref) if ref else None
        self._picture.show_tile(None if pixels is None else np.array(pixels))
        self._weight.setEnabled(pixels is not None)
        if ref is None or pixels is None:
            self._title.setText("No tile chosen")
            self._meets.setText("Click a tile on the sheet.")
            self._share.setText("")
            return
        self._title.setText(f"{ref.sheet}  {ref.column}, {ref.row}")
        notes = self._session.document.project.tiles
        weight = notes.get(ref, TileNotes()).weight
        self._weight.blockSignals(True)
        self._weight.setValue(weight)
        self._weight.blockSignals(False)
        labels = join_set.labels.get(ref) if join_set else None
        if join_set is None or labels is None:
            self._meets.setText("Not labelled in this set.")
            self._share.setText("")
            return
        named = zip(join_set.places, labels, strict=True)
        says = ", ".join(f"{place} {join_set.terrains[n - 1].name if n else 'nothing'}" for place, n in named)
        self._meets.setText(f"{letters(join_set, labels)}: {says}")
        same = [other for other, row_ in join_set.labels.items() if row_ == labels]
        total = sum(notes.get(other, TileNotes()).weight for other in same)
        self._share.setText(
            f"{weight / total:.0%} of {len(same)} variants"
            if len(same) > 1 and total
            else "the only one with these labels"
        )

    def _set_weight(self, weight: float) -> None:
        if self._session.tile:
            self._session.attempt(lambda: set_weight(self._session.document, [self._session.tile], weight))

    def _new_menu(self, below: QWidget) -> None:
        menu = QMenu(self)
        menu.addAction("Corner joins: areas that meet", lambda: self._new_set("corner"))
        menu.addAction("Edge joins: lines that go on", lambda: self._new_set("edge"))
        menu.addAction("Full joins: corners and edges", lambda: self._new_set("full"))
        menu.popup(below.mapToGlobal(below.rect().bottomLeft()))

    def _new_set(self, kind: JoinKind) -> None:
        title, first = _FIRST[kind]
        name, ok = QInputDialog.getText(self, "New join set", "Name", text=title)
        if ok and name.strip():
            set_id = add_join_set(self._session.document, name.strip()[:80], kind, first)
            self._session.choose(join_set_id=set_id, terrain=1)

    def _add_terrain(self) -> None:
        join_set = self._session.join_set
        name, ok = QInputDialog.getText(self, "Add a terrain", "Name")
        if join_set and ok and name.strip():
            made = self._session.attempt(lambda: new_terrain(join_set.terrains, name.strip()[:60]))
            if made:
                terrains = (*join_set.terrains, made)
                put(self._session.document, "add terrain", "join_sets", replace(join_set, terrains=terrains))
                self._session.choose(terrain=len(terrains))

    def _set_bare(self, bare: bool) -> None:
        join_set = self._session.join_set
        if join_set:
            put(self._session.document, "border on nothing", "join_sets", replace(join_set, bare=bare))

    def _change_terrain(self, number: int, terrain: Terrain) -> None:
        join_set = self._session.join_set
        if join_set:
            terrains = [*join_set.terrains]
            terrains[number - 1] = terrain
            put(self._session.document, "change terrain", "join_sets", replace(join_set, terrains=tuple(terrains)))
