"""Pairs: which tiles may lie side by side, clicked pair by pair, or read off the ground or off pixels."""

from collections.abc import Callable
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QDialog, QInputDialog, QLabel, QSlider, QWidget

from knitground.app.allowed import allow
from knitground.app.picture_grid import PictureGrid
from knitground.app.session import Session
from knitground.app.widgets import (
    ChoiceBox,
    button,
    column,
    fill_box,
    heading,
    image_of,
    in_row,
    in_widget,
    quiet,
    row,
    scrolling,
)
from knitground.core.edits.pairing import (
    MOST_STEP,
    add_pair_set,
    put_pairs,
    read_off_map,
    read_off_pixels,
    remove_pair_set,
    with_tiles,
)
from knitground.core.errors import KnitGroundError
from knitground.core.grow.pairs import SIDES, PairSet, PairTile, Side
from knitground.core.tiles.tile import TileRef, orient

T = TypeVar("T")
_TILE, _PAIR = QSize(44, 44), QSize(92, 92)
_STEPS = 100


class PairsDialog(QDialog):
    """Edits the pair sets of the project; every change is one step of the history."""

    def __init__(self, session: Session, parent: QWidget, set_id: str = "") -> None:
        super().__init__(parent)
        self._session, self._set_id = session, set_id
        self.setWindowTitle("Pairs of tiles")
        self.resize(900, 620)
        self._sets = ChoiceBox("Pairs")
        self._sets.activated.connect(lambda index: self._choose(self._sets.itemData(index)))
        self._gone = button("Remove", self._remove, "Take these pairs out; what was laid with them stays")
        self.tiles = PictureGrid("Tiles", _TILE, "Click a tile to say what may lie beside it; Delete takes it out")
        self.tiles.picked.connect(lambda number: self.refresh())
        self.sides = {side: button(side.capitalize(), lambda side=side: self._turn(side), name="tab") for side in SIDES}  # type: ignore[misc]
        self._side: Side = "east"
        self.beside = PictureGrid(
            "What may lie beside it", _PAIR, "Each with the chosen tile as the two would lie; a click lets them, or not"
        )
        self.beside.picked.connect(self._flip)
        self._layer = button("Read off the layer at hand", self._read_map, "All that lie side by side there, too")
        self._pixels = button("Read off the pixels", self._read_pixels, "All whose colours go on over the border")
        self._step = quiet(f"{MOST_STEP:.0%}")
        self._step.setFixedWidth(48)
        self.exact = QSlider(Qt.Orientation.Horizontal)
        self.exact.setRange(0, 4 * _STEPS)
        self.exact.setValue(round(MOST_STEP * _STEPS))
        self.exact.setAccessibleName("How far colours may step")
        self.exact.setToolTip("How far colours may step at a border, as against inside the tiles; 100 % is as far")
        self.exact.valueChanged.connect(lambda value: self._step.setText(f"{value / _STEPS:.0%}"))
        self._hint = quiet()
        self._put_together()
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        self.refresh()

    def _put_together(self) -> None:
        new = button("New pairs", self._make, "Another set of pairs", icon_name="plus")
        hand = button("Tile in hand", self._add_hand, "Put the tile in hand among them", icon_name="plus")
        cut = button("All of its sheet", self._add_cut, "Put all tiles of its cut among them", icon_name="plus")
        bare = button("Bare cells", lambda: self._add([None]), "Let bare cells lie beside tiles", icon_name="plus")
        left = column(in_row(hand, bare, None), in_row(cut, None), scrolling(self.tiles))
        right = column(in_row(QLabel("May lie"), *self.sides.values(), None), scrolling(self.beside))
        left.setStretch(2, 1)
        right.setStretch(1, 1)
        middle = row(in_widget(left), in_widget(right), spacing=12)
        middle.setStretch(0, 2)
        middle.setStretch(1, 5)
        whole = in_widget(middle)
        done = button("Close", self.accept, "Escape", name="primary")
        foot = row(self._hint, done)
        foot.setStretch(0, 1)
        layout = column(
            in_row(heading("Pairs"), self._sets, new, self._gone, None),
            whole,
            in_row(self._layer, self._pixels, self.exact, self._step, None),
            in_widget(foot),
        )
        layout.setStretch(1, 1)
        layout.setContentsMargins(16, 12, 16, 12)
        self.setLayout(layout)

    @property
    def pair_set(self) -> PairSet | None:
        """The pairs that are shown."""
        sets = self._session.document.project.pair_sets
        return next((one for one in sets if one.id == self._set_id), sets[0] if sets else None)

    def refresh(self, *_: object) -> None:
        """Shows the pairs as they are."""
        sets, shown = self._session.document.project.pair_sets, self.pair_set
        fill_box(self._sets, [(one.name, one.id) for one in sets], shown.id if shown else "")
        allow(self._gone, "" if shown is not None else "There are no pairs yet.")
        layer, at = self._session.layer, self.tiles.at
        reads = layer is not None and (layer.knits or layer.holds_tiles)
        allow(self._layer, "" if reads else "Choose a layer that holds tiles first.")
        self._layer.setText(f"Read off “{layer.name}”" if layer is not None else "Read off a layer")
        pictures = [self._picture(one) for one in shown.tiles] if shown else []
        allow(self._pixels, "" if pictures else "Put tiles in first.")
        images = [None if one is None else image_of(one) for one in pictures]
        self.tiles.show_pictures(images, says="Put tiles in, or read them off a layer.")
        at = self.tiles.at
        for side, tab in self.sides.items():
            tab.setChecked(side == self._side)
        if shown is None or not pictures:
            self.beside.show_pictures([], says="What may lie beside the chosen tile shows here.")
            self._hint.setText("Pairs say which tiles may lie side by side; “Fill to fit” lays them so.")
            return
        may = shown.allowed[SIDES.index(self._side)][at]
        both = [image_of(_together(pictures[at], other, self._side)) for other in pictures]
        self.beside.show_pictures(both, np.flatnonzero(may).tolist())
        self._hint.setText(self._says(shown))

    def _says(self, shown: PairSet) -> str:
        ways = shown.allowed
        alone = int((~ways.any(axis=2)).any(axis=0).sum())
        lacking = f"; {alone} of the tiles {'has' if alone == 1 else 'have'} nothing on a side" if alone else ""
        return f"{len(shown.tiles)} tiles, {shown.pairs} pairs{lacking}."

    def _picture(self, one: PairTile) -> NDArray[np.uint8] | None:
        pixels = self._session.derived.tile(one.tile) if one.tile is not None else None
        return None if pixels is None else orient(np.asarray(pixels), one.orientation)

    def _choose(self, set_id: str) -> None:
        self._set_id = set_id
        self.refresh()

    def _turn(self, side: Side) -> None:
        self._side = side
        self.refresh()

    def _flip(self, other: int) -> None:
        """Lets two tiles lie side by side, or not."""
        shown = self.pair_set
        if shown is not None and shown.tiles:
            at = self.tiles.at
            may = not shown.allowed[SIDES.index(self._side)][at, other]
            self._put("pair tiles" if may else "part tiles", lambda one: one.with_pair(at, self._side, other, may))

    def _make(self) -> None:
        name, sure = QInputDialog.getText(self, "New pairs", "What are they called?", text="Pairs")
        if sure and name.strip():
            self._set_id = self._try(lambda: add_pair_set(self._session.document, name)) or self._set_id
            self.refresh()

    def _remove(self) -> None:
        shown = self.pair_set
        if shown is not None:
            self._try(lambda: remove_pair_set(self._session.document, shown.id))

    def _add_hand(self) -> None:
        tile = self._session.choices.tile
        if tile is None:
            self._hint.setText("No tile is in hand; click one on the sheet.")
        else:
            self._add([tile])

    def _add_cut(self) -> None:
        """Puts in all tiles of the cut of the tile in hand, or of the sheet that is shown."""
        choices = self._session.choices
        sheet, cut = (choices.tile.sheet, choices.tile.cut) if choices.tile else (choices.sheet_id, choices.cut_id)
        found = self._session.derived.sliced().get((sheet, cut))
        self._add([TileRef(sheet, cut, *cell) for cell in found.cells()] if found else [])

    def _add(self, refs: list[TileRef | None]) -> None:
        if self.pair_set is None:
            self._set_id = add_pair_set(self._session.document, "Pairs")
        self._put("put tiles among pairs", lambda one: with_tiles(one, refs))

    def _read_map(self) -> None:
        ground, layer = self._session.ground, self._session.layer
        if ground is None or layer is None:
            return
        if self.pair_set is None:
            self._set_id = add_pair_set(self._session.document, layer.name)
        selected = self._session.selected
        within = selected.shape if selected is not None and selected.ground == ground.id else None
        self._put("read pairs", lambda one: read_off_map(self._session.derived, one, ground.id, layer.id, within))

    def _read_pixels(self) -> None:
        most = self.exact.value() / _STEPS
        self._put("read pairs", lambda one: read_off_pixels(self._session.derived, one, most))

    def _put(self, label: str, change: Callable[[PairSet], PairSet]) -> None:
        shown = self.pair_set
        if shown is not None:
            self._try(lambda: put_pairs(self._session.document, label, change(shown)))

    def _try(self, act: Callable[[], T]) -> T | None:
        """Does something; what can't be done is said in the dialog."""
        try:
            return act()
        except KnitGroundError as problem:
            self._hint.setText(str(problem))
            return None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self.take_out()
        elif event.matches(QKeySequence.StandardKey.Undo):
            self._session.document.undo()
        elif event.matches(QKeySequence.StandardKey.Redo):
            self._session.document.redo()
        else:
            super().keyPressEvent(event)

    def take_out(self) -> None:
        """Takes the chosen tile out of the pairs."""
        if self.pair_set is not None and self.pair_set.tiles:
            self._put("take out of pairs", lambda one: one.without(self.tiles.at))


def _together(one: NDArray[np.uint8] | None, other: NDArray[np.uint8] | None, side: Side) -> NDArray[np.uint8]:
    """Two tiles as they lie with the second on a side of the first, (H, W, 4) uint8; none is bare.

    Parameters
    ----------
    one, other : (h, w, 4) uint8, optional
    """
    shapes = [tile.shape for tile in (one, other) if tile is not None] or [(16, 16, 4)]
    high, wide = max(shape[0] for shape in shapes), max(shape[1] for shape in shapes)
    tiles = []
    for tile in (one, other):
        room = np.zeros((high, wide, 4), dtype=np.uint8)
        if tile is not None:
            room[: tile.shape[0], : tile.shape[1]] = tile
        tiles.append(room)
    first, second = tiles if side in ("east", "south") else tiles[::-1]
    return np.concatenate([first, second], axis=1 if side in ("east", "west") else 0)
