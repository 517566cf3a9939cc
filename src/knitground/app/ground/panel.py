"""Stage 4: what is laid: tiles off the sheet, mixes, or the terrains of the layer at hand."""

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.ground.new_ground import GroundDialog
from knitground.app.session import Session
from knitground.app.stage import SheetTabs
from knitground.app.terrain_list import TerrainList
from knitground.app.widgets import ChoiceBox, Tick, button, card, column, fill_box, heading, held_layout, quiet, row
from knitground.core.ground.layers import TileLayer
from knitground.core.project.operations import add_ground, furnish_ground, put, resize_ground
from knitground.core.tiles.tile import TileRef

_SIDE = 190
_FIRST_SIZE = (48, 36)
_USUAL = (16, 16)


class GroundPanel(QWidget):
    """The left half while the ground is laid."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.view = SheetView(session, PickMode(self._choose, lambda: None if session.lays_mix else session.tile))
        self._grounds = ChoiceBox("Ground")
        self._grounds.activated.connect(lambda index: session.choose(ground_id=self._grounds.itemData(index)))
        self._size, self._layer_hint = quiet(), quiet()
        self._terrains = TerrainList()
        self._terrains.chosen.connect(lambda number: session.choose(terrain=number))
        self._mixes = ChoiceBox("Mix")
        self._mixes.setToolTip("Lay a mix of tiles by weighted chance")
        self._mixes.activated.connect(self._choose_mix)
        self._wraps = {}
        for field, text in (("wraps_x", "Goes round sideways"), ("wraps_y", "Goes round up and down")):
            box = Tick(text, "The ground meets itself at this border, and is knit and painted on beyond it")
            box.clicked.connect(lambda checked, name=field: self._set_wrap(name, checked))
            self._wraps[field] = box
        new = button("New ground", self.new_ground, "Make a map", icon_name="plus")
        self._resize = button("Name and size…", self._edit, "Rename this ground or change its size")
        side = held_layout(
            column(
                heading("Ground"),
                self._grounds,
                self._size,
                self._resize,
                *self._wraps.values(),
                new,
                heading("Lays"),
                self._layer_hint,
                self._terrains,
                self._mixes,
                None,
            )
        )
        side.setFixedWidth(_SIDE)
        left = column(tabs, self.view)
        left.setStretch(1, 1)
        work = row(held_layout(left), card(column(side)), spacing=8)
        work.setStretch(0, 1)
        self.setLayout(work)
        for signal in (session.defined, session.chosen, session.opened):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the ground and what is at hand."""
        project, ground, layer = self._session.document.project, self._session.ground, self._session.layer
        fill_box(self._grounds, [(one.name, one.id) for one in project.grounds], self._session.ground_id)
        self._resize.setEnabled(ground is not None)
        for field, box in self._wraps.items():
            box.setVisible(ground is not None)
            box.setChecked(ground is not None and getattr(ground, field))
        self._size.setText(
            f"{ground.width} x {ground.height} cells of {ground.tile_width} x {ground.tile_height} px"
            if ground
            else "There is no ground yet."
        )
        by_tile = isinstance(layer, TileLayer)
        self._terrains.show_terrains(self._session.terrains_of(layer), self._session.terrain)
        mixes = [("One tile", "")] + [(f"Mix: {mix.name}", mix.id) for mix in project.mixes]
        fill_box(self._mixes, mixes, self._session.mix_id if self._session.lays_mix else "")
        self._mixes.setVisible(by_tile)
        if layer is None:
            self._layer_hint.setText("Add a layer with the plus at the ground's right edge.")
        elif by_tile:
            self._layer_hint.setText(f"“{layer.name}” holds tiles: click one on the sheet, or take a mix.")
        else:
            self._layer_hint.setText(f"“{layer.name}” holds what you paint; its tiles follow.")

    def new_ground(self) -> None:
        """Asks for a new ground and makes it."""
        name = f"Ground {len(self._session.document.project.grounds) + 1}"
        dialog = GroundDialog(self, "New ground", name, _FIRST_SIZE, self._usual_size())
        if dialog.exec() and dialog.name.text().strip():
            name = dialog.name.text().strip()
            self._session.attempt(lambda: self._make(name, dialog.size_in_cells, dialog.tile_size))

    def _usual_size(self) -> tuple[int, int]:
        """The tile size that a new ground had best have: of the cut at hand, or of the first grid that has tiles."""
        grids = [
            one for one in self._session.derived.sliced().values()
            if one.held.any() and not one.cut.pieces and one.cut.anchor is None
        ]  # fmt: skip
        tile = self._session.tile
        at_hand = self._session.derived.sliced().get((tile.sheet, tile.cut)) if tile else None
        if not grids:
            return _USUAL
        best = at_hand if at_hand in grids else grids[0]
        return best.cut.tile_width, best.cut.tile_height

    def _make(self, name: str, size: tuple[int, int], tile: tuple[int, int]) -> None:
        """A ground with a layer for all that can be laid, as one step."""
        document = self._session.document
        document.begin(f"new ground {name}")
        try:
            made = add_ground(document, name, *size, tile)
            furnish_ground(document, made)
        finally:
            document.commit()
        self._session.choose(ground_id=made, layer_id="")

    def _edit(self) -> None:
        ground = self._session.ground
        dialog = GroundDialog(self, "Name and size", ground.name, (ground.width, ground.height), None)
        if dialog.exec():
            document = self._session.document
            document.begin("name and size")
            if dialog.name.text().strip():
                put(document, "rename", "grounds", replace(ground, name=dialog.name.text().strip()))
            if dialog.size_in_cells != (ground.width, ground.height):
                self._session.attempt(lambda: resize_ground(document, ground.id, *dialog.size_in_cells))
            document.commit()

    def _set_wrap(self, field: str, wraps: bool) -> None:
        ground = self._session.ground
        put(self._session.document, "go round", "grounds", replace(ground, **{field: wraps}))

    def _choose(self, ref: TileRef) -> None:
        self._session.choose(tile=ref, lays_mix=False)
        layer = self._session.layer
        if layer is not None and not isinstance(layer, TileLayer):
            self._session.say(f"“{layer.name}” lays terrains; choose a tile layer at the right to lay this tile.")

    def _choose_mix(self, index: int) -> None:
        mix_id = self._mixes.itemData(index)
        if mix_id:
            self._session.choose(mix_id=mix_id, lays_mix=True)
        else:
            self._session.choose(lays_mix=False)
