"""What can be done with one layer, by its menu and by name."""

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtWidgets import QInputDialog, QMenu, QWidget

from knitground.app.allowed import a_menu, allow_entry
from knitground.app.asking import answered
from knitground.app.canvas.ground_view import GroundView
from knitground.app.commands import Command
from knitground.app.ground.coloured import paint_by_picture, paint_by_rows, write_picture, write_rows
from knitground.app.known import known
from knitground.app.layers.layer_dialog import LayerDialog
from knitground.app.session import Session
from knitground.app.tools.advice import told_height
from knitground.core.edits.hiding import lay_above_hiding, lay_below_hidden
from knitground.core.edits.layers import change_layer, duplicate_layer, move_layer, remove_layer, show_alone
from knitground.core.edits.lifting import lay_on_top, lift_onto
from knitground.core.edits.pins import bake_layer, pin_seen, read_back, unpin_all
from knitground.core.edits.relaying import lay_above, move_last_stroke
from knitground.core.grid.shapes import Shape
from knitground.core.layers.layer import Layer

_EXCHANGES = (
    ("Paint by a picture of colours…", paint_by_picture),
    ("Write as a picture of colours…", write_picture),
    ("Paint by rows of names (CSV)…", paint_by_rows),
    ("Write as rows of names (CSV)…", write_rows),
)


class LayerActs:
    """Works on layers of the ground at hand; asks over a part of the window."""

    def __init__(self, session: Session, view: GroundView, over: QWidget) -> None:
        self._session, self._view, self._over = session, view, over

    def menu(self, layer: Layer) -> QMenu:
        """All that can be done with a layer."""
        menu, ground_id, document = a_menu(self._over), self._ground_id, self._session.document
        menu.addAction("Rename…", lambda: self.rename(layer))
        menu.addAction("Put in a group…", lambda: self.group(layer))
        menu.addAction("Duplicate", lambda: self.duplicate(layer))
        menu.addAction("Show alone, or all again", lambda: self.show_alone(layer))
        menu.addAction("Move the last stroke here", lambda: self._session.attempt(lambda: self.take_stroke(layer)))
        allow_entry(menu.addAction("Move up", lambda: self.move(layer, 1)), self._stays(layer, 1))
        allow_entry(menu.addAction("Move down", lambda: self.move(layer, -1)), self._stays(layer, -1))
        menu.addSeparator()
        if layer.takes_areas:
            for title, act in _EXCHANGES:
                menu.addAction(
                    title,
                    lambda do=act: self._session.attempt(lambda: do(self._over, self._session, layer)),  # type: ignore[misc]
                )
        if layer.holds_tiles:
            for join_set in document.project.join_sets:
                menu.addAction(
                    f"Read back what “{join_set.name}” would knit",
                    lambda s=join_set: self.read_back(layer, s.id),  # type: ignore[misc]
                )
        if layer.pinnable:
            menu.addAction("Pin what is in view", lambda: self.pin_view(layer))
            menu.addAction("Take all pins out", lambda: unpin_all(document, ground_id, layer.id))
            menu.addAction("Bake to single tiles", lambda: bake_layer(self._session.derived, ground_id, layer.id))
        menu.addSeparator()
        menu.addAction("Unlock" if layer.locked else "Lock", lambda: self.lock(layer))
        menu.addAction("Look, place and blocking…", lambda: self.look(layer))
        if known(self._session.ground).isometric:
            menu.addAction("Lay on top of what stands below", lambda: self._session.attempt(lambda: self.lift(layer)))
        menu.addSeparator()
        menu.addAction("Remove", lambda: self.remove(layer))
        return menu

    def commands(self) -> list[Command]:
        """What can be done with the layer at hand, by keys and by name."""
        return [
            self._on_layer("Move the last stroke to the layer at hand", self.take_stroke, "Shift+L"),
            self._on_layer("Lay the last stroke above its layer instead", self._lay_above, "Shift+U"),
            self._on_layer("Lay the last stroke above what hides it", self._lay_above_hiding),
            self._on_layer("Show the layer at hand alone, or all again", self.show_alone, "Shift+V"),
            self._on_layer("Show or hide the layer at hand", self.toggle),
            self._on_layer("Lock or unlock the layer at hand", self.lock),
            self._on_layer("Duplicate the layer at hand", self.duplicate, "Shift+D"),
            self._on_layer("The layer above", lambda layer: self._step(layer, 1), "PgUp"),
            self._on_layer("The layer below", lambda layer: self._step(layer, -1), "PgDown"),
            self._on_layer("Move the layer at hand up", lambda layer: self.move(layer, 1), stays=1),
            self._on_layer("Move the layer at hand down", lambda layer: self.move(layer, -1), stays=-1),
            self._on_layer("Lay the layer at hand below what it hides", self._lay_below),
            self._on_layer("Rename the layer at hand…", self.rename),
            self._on_layer("Put the layer at hand in a group…", self.group),
            self._on_layer("Look, place and blocking of the layer at hand…", self.look),
            self._on_layer("Lay the layer at hand on top of what stands below", self.lift, isometric=True),
            self._on_layer("Lay the last stroke on top of what stands there", self._lay_on_top, isometric=True),
            self._on_layer("Remove the layer at hand", self.remove),
        ]

    def _on_layer(
        self, name: str, act: Callable[[Layer], object], key: str = "", stays: int = 0, isometric: bool = False
    ) -> Command:
        def acting() -> None:
            self._session.attempt(lambda: act(known(self._session.layer)))

        def refused() -> str:
            layer = self._session.layer
            if layer is None:
                return "There is no layer yet; add one with the plus at the right."
            if isometric and not known(self._session.ground).isometric:
                return "Layers lie on top of others on isometric grounds only; move it by “Look, place and blocking”."
            return self._stays(layer, stays) if stays else ""

        return Command(name, acting, (key,) if key else (), "ground", refused)

    @property
    def _ground_id(self) -> str:
        return self._session.choices.ground_id

    def _place(self, layer: Layer) -> int:
        return [one.id for one in known(self._session.ground).layers].index(layer.id)

    def _stays(self, layer: Layer, by: int) -> str:
        """Why a layer can't be moved up or down; nothing if it can."""
        place, count = self._place(layer) + by, len(known(self._session.ground).layers)
        return "" if 0 <= place < count else f"It is the {'uppermost' if by > 0 else 'lowest'} already."

    def change(self, layer: Layer, label: str, **changes: Any) -> None:
        """Changes what the header of a layer says."""
        change_layer(self._session.document, self._ground_id, layer.id, label, **changes)

    def toggle(self, layer: Layer) -> None:
        """Shows a layer, or hides it."""
        self.change(layer, "show or hide layer", visible=not layer.visible)

    def lock(self, layer: Layer) -> None:
        """Locks a layer, or unlocks it."""
        self.change(layer, "lock layer", locked=not layer.locked)

    def look(self, layer: Layer) -> None:
        """Asks how a layer looks, where it lies and what of it blocks."""
        answered(LayerDialog(self._over, self._session, layer))

    def _lay_on_top(self, layer: Layer) -> None:
        """Lays the last stroke on the wall at which it pointed."""
        onto, height = lay_on_top(self._session.derived, self._ground_id, self._session.stroke_ended)
        self._session.choose(layer_id=onto)
        told_height(self._session, height)

    def lift(self, layer: Layer) -> None:
        """Lays a layer on top of the tiles that stand on the one below, as a roof lies on walls."""
        told_height(self._session, lift_onto(self._session.derived, self._ground_id, layer.id))

    def rename(self, layer: Layer) -> None:
        """Asks for the name of a layer."""
        name, ok = QInputDialog.getText(self._over, "Rename layer", "Name", text=layer.name)
        if ok and name.strip():
            self.change(layer, "rename layer", name=name.strip()[:80])

    def group(self, layer: Layer) -> None:
        """Asks for the group that a layer is to lie in."""
        text, ok = QInputDialog.getText(
            self._over, "Put in a group", "Name of the group; nothing takes it out", text=layer.group
        )
        if ok:
            path = "/".join(part.strip() for part in text.split("/") if part.strip())[:400]
            self.change(layer, "group layer", group=path)

    def duplicate(self, layer: Layer) -> None:
        """Lays a copy of a layer on top of it, and takes it in hand."""
        self._session.choose(layer_id=duplicate_layer(self._session.document, self._ground_id, layer.id))

    def show_alone(self, layer: Layer) -> None:
        """Hides all others, or shows them again."""
        show_alone(self._session.document, self._ground_id, layer.id)

    def move(self, layer: Layer, by: int) -> None:
        """Moves a layer up or down among the others."""
        move_layer(self._session.document, self._ground_id, layer.id, self._place(layer) + by)

    def remove(self, layer: Layer) -> None:
        """Takes a layer off the ground."""
        remove_layer(self._session.document, self._ground_id, layer.id)

    def take_stroke(self, layer: Layer) -> None:
        """Moves the last stroke to a layer, and takes that in hand."""
        move_last_stroke(self._session.document, self._ground_id, layer.id)
        self._session.choose(layer_id=layer.id)

    def _lay_above(self, layer: Layer) -> None:
        self._session.choose(layer_id=lay_above(self._session.document, self._ground_id))

    def _lay_above_hiding(self, layer: Layer) -> None:
        self._session.choose(layer_id=lay_above_hiding(self._session.derived, self._ground_id))

    def _lay_below(self, layer: Layer) -> None:
        lay_below_hidden(self._session.derived, self._ground_id, layer.id)

    def _step(self, layer: Layer, by: int) -> None:
        """Takes the layer above or below in hand."""
        layers = [one.id for one in known(self._session.ground).layers]
        self._session.choose(layer_id=layers[min(max(self._place(layer) + by, 0), len(layers) - 1)])

    def pin_view(self, layer: Layer) -> None:
        """Pins the tiles of a layer that are in view."""
        window = self._view.cells_in_view()
        pin_seen(self._session.derived, self._ground_id, layer.id, Shape(window, np.ones(window[2:], dtype=bool)))

    def read_back(self, layer: Layer, set_id: str) -> None:
        """Makes a layer of what a set would have to be painted with to lay the tiles of another, and takes it."""
        session = self._session
        made = session.attempt(lambda: read_back(session.derived, self._ground_id, layer.id, set_id))
        if made:
            session.choose(layer_id=made)
