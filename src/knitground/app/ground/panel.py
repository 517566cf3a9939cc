"""Stage 4: what is laid: tiles off the sheet, mixes, or the terrains of the layer at hand."""

import re
from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QSize
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QInputDialog, QWidget

from knitground.app.allowed import NO_GROUND, a_menu, allow, allow_entry
from knitground.app.canvas.chunks import detail_for
from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.commands import Command
from knitground.app.ground.about_ground import AboutGround
from knitground.app.ground.at_hand import AtHand
from knitground.app.ground.beside_dialog import BesideDialog
from knitground.app.ground.drawn_map import add_drawn_map
from knitground.app.ground.new_ground import GroundDialog
from knitground.app.ground.terrain_keys import terrain_commands
from knitground.app.ground.thing_card import ThingCard
from knitground.app.ground.tray import Tray
from knitground.app.ground.usual_cell import usual_cell, usual_grid
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
    image_of,
    in_row,
    in_widget,
    quiet,
    row,
)
from knitground.core.check.check import Finding
from knitground.core.edits.blocks import block_of_tiles
from knitground.core.edits.fitting import fit_cells, fit_tile, misfit
from knitground.core.edits.grounds import (
    FIRST_SIZE,
    add_ground,
    duplicate_ground,
    furnish_ground,
    move_ground,
    remove_ground,
    set_view,
    set_wraps,
)
from knitground.core.edits.layers import put_own_terrain
from knitground.core.edits.reframing import crop_ground, framed, lost_places, reframe_ground, shift_ground
from knitground.core.edits.sets import new_terrain
from knitground.core.edits.things import put
from knitground.core.grid import GRIDS, GridKind
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.joins.sets import Terrain
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.side import seen_from_side

_BLOCK = "*block"
_SIDE = 194
_PICTURE = (48, 36)
_MOST_PICTURED = 256 * 256


class GroundPanel(StagePanel):
    """The left half while the ground is laid."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self.view = SheetView(
            session,
            PickMode(self._choose, lambda: None if session.choices.lays_mix else session.choices.tile, self._lift),
        )
        self._grounds = ChoiceBox("Ground")
        self._grounds.activated.connect(lambda index: session.choose(ground_id=self._grounds.itemData(index)))
        self._grounds.view().setIconSize(QSize(*_PICTURE))
        self._grounds.opening.connect(self._picture_grounds)
        self._size, self._layer_hint = quiet(), quiet()
        self._terrains = TerrainList(numbered=True)
        self._terrains.chosen.connect(lambda number: session.choose(terrain=number))
        self._terrains.changed.connect(self._change_own)
        self._terrains.removed.connect(lambda number: self._change_own(number, None))
        self._add_own = button("Add a shade", self._add_shade, "One more colour for this layer", icon_name="plus")
        self._mixes = ChoiceBox("Mix")
        self._mixes.setToolTip("Lay a mix of tiles by weighted chance")
        self._mixes.activated.connect(self._choose_mix)
        self._wraps = {}
        for field, text in (("wraps_x", "Goes round sideways"), ("wraps_y", "Goes round up and down")):
            box = Tick(text, "The ground meets itself at this border, and is knit and painted on beyond it")
            box.clicked.connect(lambda checked, name=field: self._set_wrap(name, checked))
            self._wraps[field] = box
        self._side_view = Tick(
            "Seen from the side", "A figure runs, jumps and falls on it (F5), instead of walking about"
        )
        self._side_view.clicked.connect(self._set_view)
        more = icon_button("more", lambda: self._menu(more), "More to do with this ground")
        new = button("New ground", self.new_ground, "Make a map", icon_name="plus")
        self._resize = button("Name and size…", self._edit, "Rename this ground or change its size")
        side = in_widget(
            column(
                heading("Ground"),
                self._grounds,
                self._size,
                in_row(self._resize, more),
                *self._wraps.values(),
                self._side_view,
                new,
                heading("Lays"),
                self._layer_hint,
                self._terrains,
                self._add_own,
                self._mixes,
                None,
            )
        )
        side.setFixedWidth(_SIDE)
        self.things = ThingCard(session)
        self.tray = Tray(session)
        self._tray_tab = button("Tray", self.toggle_tray, "Swatches and tiles that were kept (Shift+T)", name="tab")
        self._tray_tab.setCheckable(True)
        self.tray.hide()
        head = row(tabs, self._tray_tab, spacing=4)
        head.setStretch(0, 1)
        self.at_hand = AtHand(session)
        self.at_hand.searching.connect(self._make_room)
        left = column(in_widget(head), self.at_hand, self.view, self.tray, self.things)
        left.setStretch(2, 1)
        left.setStretch(3, 1)
        self._left = left
        work = row(in_widget(left), card(column(side)), spacing=8)
        work.setStretch(0, 1)
        self.setLayout(work)
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(
            self.refresh, "ground_id", "layer_id", "tile", "mix_id", "lays_mix", "terrain", "lifted", "repeats"
        )
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the ground and what is at hand."""
        project, ground, layer = self._session.document.project, self._session.ground, self._session.layer
        fill_box(self._grounds, [(one.name, one.id) for one in project.grounds], self._session.choices.ground_id)
        allow(self._resize, "" if ground is not None else NO_GROUND)
        for field, box in self._wraps.items():
            box.setVisible(ground is not None)
            box.setChecked(ground is not None and getattr(ground, field))
        self._side_view.setVisible(ground is not None)
        self._side_view.setChecked(ground is not None and seen_from_side(ground))
        self._size.setText(
            f"{ground.width} x {ground.height} cells of {ground.tile_width} x {ground.tile_height} px"
            + (f"\n{GRIDS[ground.grid].title}" if ground.grid != "square" else "")
            if ground
            else "There is no ground yet."
        )
        by_tile = layer is not None and (layer.holds_tiles or layer.places_things)
        self._terrains.show_terrains(self._session.terrains_of(layer), self._session.choices.terrain)
        mixes = [("One tile", "")] + [(f"Mix: {mix.name}", mix.id) for mix in project.mixes]
        chosen = self._session.choices
        if chosen.lifted is not None and not (layer and layer.places_things):
            mixes.append(("Block in hand, repeated", _BLOCK))
        repeats = chosen.repeats and chosen.lifted is not None
        fill_box(self._mixes, mixes, _BLOCK if repeats else chosen.mix_id if chosen.lays_mix else "")
        self._mixes.setVisible(by_tile)
        self._add_own.setVisible(layer is not None and layer.owns_terrains)
        if layer is None:
            first, next_one = "Make a new ground first.", "Add a layer with the plus at the ground's right edge."
            self._layer_hint.setText(first if ground is None else next_one)
        elif layer.places_things:
            self._layer_hint.setText(f"“{layer.name}” holds things: click a tile on the sheet, then on the ground.")
        elif layer.refuses:
            self._layer_hint.setText(f"“{layer.name}” {layer.refuses}.")
        elif by_tile:
            self._layer_hint.setText(
                f"“{layer.name}” holds tiles: click one on the sheet, drag for several, or take a mix."
            )
        elif layer.owns_terrains:
            self._layer_hint.setText(f"“{layer.name}” colours what lies below; right click a shade to change it.")
        else:
            self._layer_hint.setText(f"“{layer.name}” holds what you paint; its tiles follow.")

    def commands(self) -> list[Command]:
        return [
            Command("New ground…", self.new_ground),
            *self._on_the_ground(),
            Command("The next ground", lambda: self._step(1), ("Ctrl+PgDown",), refused=self._no_ground),
            Command("Give the cells the size of the tile in hand", lambda: self._fit(cells=True), ("Alt+C",), "ground"),
            Command("Let the tiles in hand stand on their cells", lambda: self._fit(cells=False), ("Alt+F",), "ground"),
            *self.tray.commands(self.toggle_tray),
            Command("Find tiles by tag or name", self.at_hand.ask, ("Ctrl+F",), "ground"),
            Command("The ground before", lambda: self._step(-1), ("Ctrl+PgUp",), refused=self._no_ground),
            *terrain_commands(self._session),
        ]

    def _on_the_ground(self) -> list[Command]:
        """What stands in the menu beside its name."""

        def acting(act: Callable[[str], object]) -> Callable[[], object]:
            return lambda: self._session.attempt(lambda: act(self._session.choices.ground_id))

        none, session = self._no_ground, self._session
        return [
            Command("New ground from a drawn map…", lambda: session.attempt(lambda: add_drawn_map(self, session))),
            Command("Duplicate the ground", acting(self._duplicate), refused=none),
            Command("Remove the ground", acting(self._remove), refused=none),
            Command("Crop the ground to what is selected", acting(self._crop), refused=self._nothing_selected),
            Command("Shift the ground, going round…", self._ask_shift, refused=none),
            Command("Background, tags and properties of the ground…", self._about, refused=none),
            Command("Maps beside this one…", self._beside, refused=none),
            Command("Move the ground up in the list", acting(lambda one: self._move(one, -1)), refused=none),
            Command("Move the ground down in the list", acting(lambda one: self._move(one, 1)), refused=none),
        ]

    def toggle_tray(self) -> None:
        """Shows the tray in place of the sheet, or the sheet again."""
        shown = self.tray.isHidden()
        self._tray_tab.setChecked(shown)
        self.at_hand.words.clear()
        self._make_room(False)

    def _make_room(self, searching: bool) -> None:
        """Shows what is found, the tray or the sheet."""
        tray = self._tray_tab.isChecked()
        self.tray.setVisible(tray and not searching)
        self.view.setVisible(not tray and not searching)
        self._left.setStretch(1, int(searching))

    def _menu(self, below: QWidget) -> None:
        """What can be done with the ground besides."""
        menu = a_menu(self)
        for command in self._on_the_ground():
            allow_entry(menu.addAction(command.name, command.act), command.refused())
        menu.popup(below.mapToGlobal(below.rect().bottomLeft()))

    def _duplicate(self, ground_id: str) -> None:
        self._session.choose(ground_id=duplicate_ground(self._session.document, ground_id))

    def _remove(self, ground_id: str) -> None:
        remove_ground(self._session.document, ground_id)

    def _crop(self, ground_id: str) -> None:
        selected = known(self._session.selected)
        crop_ground(self._session.document, ground_id, selected.shape.window)
        self._session.select(None)

    def _picture_grounds(self) -> None:
        """Shows beside the name of each ground how it looks, where that is quickly told."""
        derived = self._session.derived
        for number, ground in enumerate(self._session.document.project.grounds):
            if ground.width * ground.height <= _MOST_PICTURED:
                (width, height), room = ground.projection.size, max(_PICTURE)
                detail = detail_for(room / max(width, height), ground.projection)
                area = detail.reduced(PixelRect(0, 0, width, height))
                image = image_of(derived.pixels(ground.id, area, detail.scale), premultiplied=True)
                self._grounds.setItemIcon(number, QIcon(QPixmap.fromImage(image)))

    def _fit(self, *, cells: bool) -> None:
        """Mends that the tile in hand is of another size than the cells, one way or the other."""
        session, ground, ref = self._session, self._session.ground, self._session.choices.tile
        if ground is None or ref is None or misfit(session.document.project, ground, ref) is None:
            session.say("The tile in hand fits the cells, or stands on them already.")
        elif cells:
            fit_cells(session.document, ground.id, ref)
        else:
            fit_tile(session.document, ref)

    def _move(self, ground_id: str, by: int) -> None:
        move_ground(self._session.document, ground_id, by)

    def _about(self) -> None:
        AboutGround(self, self._session).exec()

    def _beside(self) -> None:
        BesideDialog(self, self._session).exec()

    def _ask_shift(self) -> None:
        """Asks how far, and moves all that lies on the ground."""
        text, ok = QInputDialog.getText(
            self, "Shift the ground", "Columns to the right and rows down, as in 8, -3; what leaves comes in opposite"
        )
        numbers = re.findall(r"-?[0-9]{1,6}", text)
        if ok and len(numbers) != 2:
            self._session.say("Give two whole numbers, columns and rows, as in 8, -3.")
        elif ok:
            across, down = map(int, numbers)
            session = self._session
            session.attempt(lambda: shift_ground(session.document, session.choices.ground_id, down, across))

    def _step(self, by: int) -> None:
        """Takes another ground in hand, going round."""
        grounds = [one.id for one in self._session.document.project.grounds]
        place = grounds.index(self._session.choices.ground_id) + by
        self._session.choose(ground_id=grounds[place % len(grounds)])

    def _no_ground(self) -> str:
        return "" if self._session.ground is not None else "There is no ground yet; make one first."

    def _nothing_selected(self) -> str:
        return "" if self._session.selected is not None else "No cell is selected; drag over the ground first."

    def show_finding(self, finding: Finding) -> None:
        self._session.choose(ground_id=finding.subject, layer_id=finding.layer)

    def new_ground(self) -> None:
        """Asks for a new ground and makes it."""
        name = f"Ground {len(self._session.document.project.grounds) + 1}"
        session = self._session
        dialog = GroundDialog(
            self, "New ground", name, FIRST_SIZE, lambda grid: usual_cell(session, grid), usual_grid(session)
        )
        if dialog.exec() and dialog.name.text().strip():
            name = dialog.name.text().strip()
            self._session.attempt(lambda: self._make(name, dialog.size_in_cells, dialog.tile_size, dialog.grid))

    def _make(
        self,
        name: str,
        size: tuple[int, int],
        tile: tuple[int, int],
        grid: GridKind,
    ) -> None:
        """A ground with a layer for all that can be laid, as one step."""
        document = self._session.document
        with document.step(f"new ground {name}"):
            made = add_ground(document, name, *size, tile, grid)
            furnish_ground(document, made)
        self._session.choose(ground_id=made, layer_id="")

    def _edit(self) -> None:
        ground = self._session.ground

        def lost(width: int, height: int, place: tuple[float, float]) -> int:
            return lost_places(self._session.document, known(ground).id, framed(known(ground), width, height, *place))

        size = known(ground).width, known(ground).height
        dialog = GroundDialog(self, "Name and size", known(ground).name, size, None, lost=lost)
        if dialog.exec():
            self._session.attempt(lambda: self._take_over(known(ground), dialog))

    def _take_over(self, ground: Ground, dialog: GroundDialog) -> None:
        """What a dialog says of a ground's name and size, as one step."""
        document = self._session.document
        with document.step("name and size"):
            if dialog.name.text().strip():
                put(document, "rename", "grounds", replace(ground, name=dialog.name.text().strip()))
            if dialog.size_in_cells != (ground.width, ground.height):
                renamed = by_id(document.project.grounds, ground.id)
                reframe_ground(document, ground.id, framed(renamed, *dialog.size_in_cells, *dialog.anchor.place))

    def _set_wrap(self, field: str, wraps: bool) -> None:
        session, axis = self._session, field.removeprefix("wraps_")
        session.attempt(lambda: set_wraps(session.document, session.choices.ground_id, **{axis: wraps}))
        self.refresh()

    def _set_view(self, side: bool) -> None:
        session = self._session
        session.attempt(lambda: set_view(session.document, session.choices.ground_id, side=side))

    def _change_own(self, number: int, terrain: Terrain | None) -> None:
        """Exchanges or takes out something that the layer at hand can be painted with, if it owns that."""
        session, layer = self._session, self._session.layer
        if layer is not None and layer.owns_terrains:
            ground_id = session.choices.ground_id
            session.attempt(lambda: put_own_terrain(session.document, ground_id, layer.id, number, terrain))
        else:
            session.say("Terrains and marks are changed in the stage of their set.")

    def _add_shade(self) -> None:
        shades = self._session.terrains_of(self._session.layer)
        made = self._session.attempt(lambda: new_terrain(shades, f"Shade {len(shades) + 1}"))
        if made is not None:
            self._change_own(len(shades) + 1, made)
            self._session.choose(terrain=len(shades) + 1)

    def _choose(self, ref: TileRef) -> None:
        self._session.choose(tile=ref, lays_mix=False)
        layer = self._session.layer
        if layer is not None and not (layer.holds_tiles or layer.places_things):
            self._session.say(f"“{layer.name}” lays terrains; choose a tile layer at the right to lay this tile.")

    def _lift(self, refs: frozenset[TileRef]) -> None:
        """Takes tiles in hand as a block."""
        self._session.choose(lifted=block_of_tiles(refs, self._session.document.palette))
        self._session.tool_wanted.emit("place")
        self.view.setFocus()

    def _choose_mix(self, index: int) -> None:
        mix_id = self._mixes.itemData(index)
        if mix_id == _BLOCK:
            self._session.choose(repeats=True, lays_mix=False)
        elif mix_id:
            self._session.choose(mix_id=mix_id, lays_mix=True, repeats=False)
        else:
            self._session.choose(lays_mix=False, repeats=False)
