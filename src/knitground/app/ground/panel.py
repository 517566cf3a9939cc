"""Stage 4: what is laid: tiles off the sheet, mixes, or the terrains of the layer at hand."""

from PySide6.QtCore import QSize
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QWidget

from knitground.app.allowed import NO_GROUND, a_menu, allow, allow_entry
from knitground.app.canvas.chunks import detail_for
from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.ground.acts import GroundActs
from knitground.app.ground.at_hand import AtHand
from knitground.app.ground.thing_card import ThingCard
from knitground.app.ground.tray import Tray
from knitground.app.mix_in_hand import mix_block, no_block
from knitground.app.session import Session
from knitground.app.stage import SheetTabs, StagePanel
from knitground.app.terrain_list import TerrainList
from knitground.app.tools.aside import forget, offer_a_place
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
from knitground.core.edits.block_tiles import block_of_tiles
from knitground.core.edits.grounds import set_view, set_wraps
from knitground.core.edits.layers import put_own_terrain
from knitground.core.edits.sets import new_terrain
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.joins.sets import Terrain
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.side import seen_from_side

_BLOCK, _ANY = "*block", "*any"
_SIDE = 194
_PICTURE = (48, 36)
_MOST_PICTURED = 256 * 256

_ANY_TILE = "Lay any tile of the block in hand"


class GroundPanel(StagePanel):
    """The left half while the ground is laid."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._session = session
        self._acts = GroundActs(session, self)
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
        self._terrains.chosen.connect(self._choose_terrain)
        self._terrains.changed.connect(self._change_own)
        self._terrains.removed.connect(lambda number: self._change_own(number, None))
        self._add_own = button("Add a shade", self._add_shade, "One more colour for this layer", icon_name="plus")
        self._mixes = ChoiceBox("Mix")
        self._mixes.setToolTip("What is laid: one tile, the block in hand again and again, or a mix by weighted chance")
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
        new = button("New ground", self._acts.new_ground, "Make a map", icon_name="plus")
        self._resize = button("Name and size…", self._acts.edit, "Rename this ground or change its size")
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
        self.tray.hide()
        self._tabs = tabs
        tabs.taken.connect(lambda: self._show_tray(False))
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
        chosen = self._session.choices
        mixes = [("One tile", "")]
        mixes += [(f"Mix: {mix.name}", mix.id) for mix in project.mixes]
        takes_block = chosen.lifted is not None and not (layer and layer.places_things)
        if takes_block:
            mixes.append(("The block in hand", _BLOCK))
        if not no_block(self._session):
            mixes.append(("Any tile of the block", _ANY))
        fill_box(
            self._mixes, mixes, _BLOCK if chosen.repeats and takes_block else chosen.mix_id if chosen.lays_mix else ""
        )
        self._mixes.setVisible(by_tile and len(mixes) > 1)
        self._add_own.setVisible(layer is not None and layer.owns_terrains)
        if layer is None:
            first, next_one = "Make a new ground first.", "Add a layer with the plus at the ground's right edge."
            self._layer_hint.setText(first if ground is None else next_one)
        elif layer.places_things:
            several = "" if no_block(self._session) else ", or strew any tile of the block in hand"
            self._layer_hint.setText(
                f"“{layer.name}” holds things: click a tile on the sheet, then on the ground{several}."
            )
        elif layer.refuses:
            self._layer_hint.setText(f"“{layer.name}” {layer.refuses}.")
        elif by_tile:
            several = "drag for several, or take a mix" if project.mixes else "or drag for several"
            if chosen.lifted is not None:
                several = "or lay the block in hand: whole, repeated, or any tile of it"
            self._layer_hint.setText(f"“{layer.name}” holds tiles: click one on the sheet, {several}.")
        elif layer.owns_terrains:
            self._layer_hint.setText(f"“{layer.name}” colours what lies below; right click a shade to change it.")
        else:
            self._layer_hint.setText(f"“{layer.name}” holds what you paint; its tiles follow.")

    def toggle_tray(self) -> None:
        """Shows the tray in place of the sheet, or the sheet again."""
        self._show_tray(self.tray.isHidden())

    def _show_tray(self, shown: bool) -> None:
        self._tray_tab.setChecked(shown)
        self._tabs.set_aside(shown)
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
        for command in self._acts.on_the_ground():
            allow_entry(menu.addAction(command.name, command.act), command.refused())
        menu.popup(below.mapToGlobal(below.rect().bottomLeft()))

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

    def show_finding(self, finding: Finding) -> None:
        self._session.choose(ground_id=finding.subject, layer_id=finding.layer)

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

    def _choose_terrain(self, number: int) -> None:
        forget(self._session)
        self._session.choose(terrain=number)

    def _choose(self, ref: TileRef) -> None:
        self._session.choose(tile=ref, lays_mix=False)
        offer_a_place(self._session)

    def _lift(self, refs: frozenset[TileRef]) -> None:
        """Takes tiles in hand as a block."""
        block = block_of_tiles(refs, self._session.document.palette)
        self._session.choose(lifted=block, repeats=True, lays_mix=False)
        self._session.tool_wanted.emit("place")
        self.view.setFocus()
        layer = self._session.layer
        if layer is not None and layer.places_things and not no_block(self._session):
            self._session.say(f"“{layer.name}” holds single things, but any tile of a block can be strewn.", _ANY_TILE)

    def _choose_mix(self, index: int) -> None:
        mix_id = self._mixes.itemData(index)
        if mix_id == _BLOCK:
            self._session.choose(repeats=True, lays_mix=False)
        elif mix_id == _ANY:
            mix_block(self._session)
            self.refresh()
        elif mix_id:
            self._session.choose(mix_id=mix_id, lays_mix=True, repeats=False)
        else:
            self._session.choose(lays_mix=False, repeats=False)
