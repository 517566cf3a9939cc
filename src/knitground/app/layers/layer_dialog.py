"""How a layer looks: all that its header says, seen on the ground while it is changed."""

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QSlider, QWidget

from knitground.app.session import Session
from knitground.app.widgets import ChoiceBox, Tick, button, fill_box, in_row, number
from knitground.core.edits.layers import change_layer
from knitground.core.layers.layer import LARGEST_SHIFT, Layer
from knitground.core.layers.props import as_props

_STACKING = [
    ("As a whole, over the layers below", "whole"),
    ("Cell by cell with its neighbours, from the back", "depth"),
]
_ORDERS = [("Those further down in front", "foot"), ("In the order given by hand", "hand")]
_SOLID = [("the shapes of its tiles and things", "shapes"), ("all that lies on it", "whole"), ("nothing of it", "none")]
_STANDS = [
    ("over it, or as their feet say", "auto"), ("over it", "under"), ("as their feet say", "foot"), ("under it", "over")
]  # fmt: skip


class LayerDialog(QDialog):
    """Changes a layer's header; every change shows at once, and Cancel takes all of them back."""

    def __init__(self, parent: QWidget, session: Session, layer: Layer) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Look, place and blocking of “{layer.name}”")
        self._session, self._layer_id, self._tint = session, layer.id, layer.tint
        self._before = session.document.begin(f"look of {layer.name}")
        self._opacity = QSlider(Qt.Orientation.Horizontal)
        self._opacity.setRange(0, 100)
        self._opacity.setValue(round(layer.opacity * 100))
        self._opacity.setAccessibleName("Opacity in per cent")
        self._share = QLabel(f"{round(layer.opacity * 100)}%")
        self._share.setFixedWidth(44)
        self._opacity.valueChanged.connect(self._set_opacity)
        self._swatch = button("", self._ask_tint, "Choose the colour that the layer is multiplied by")
        self._swatch.setFixedWidth(64)
        self._swatch.setAccessibleName("Tint")
        plain = button("None", lambda: self._set_tint("#ffffff"), "Show the layer in its own colours")
        self._show_tint()
        shifts = [
            self._number(layer, name, title, -LARGEST_SHIFT, LARGEST_SHIFT, 1, " px")
            for name, title in (("offset_x", "pixels to the right"), ("offset_y", "pixels down"))
        ]
        speeds = [
            self._number(layer, name, title, -1600, 1600, 100, "%")
            for name, title in (("parallax_x", "speed sideways"), ("parallax_y", "speed up and down"))
        ]
        for box in speeds:
            box.setToolTip("How fast the layer moves with the view in the game, 100% being as the ground does")
        stacking = self._choice("Order of drawing", _STACKING, "stacking", layer)
        locked = Tick("Locked", "Nothing can be painted on it")
        locked.setChecked(layer.locked)
        locked.clicked.connect(lambda checked: self._change(locked=checked))
        group = QLineEdit(layer.group)
        group.setMaxLength(400)
        group.setAccessibleName("Group")
        group.setToolTip("The groups that it lies in, the outermost first, with slashes between: Roof/Chimneys")
        group.editingFinished.connect(lambda: self._change(group=group.text().strip()))
        form = QFormLayout(self)
        form.addRow("Opacity", in_row(self._opacity, self._share))
        form.addRow("Tint", in_row(self._swatch, plain, None))
        form.addRow("Moved by", in_row(*shifts))
        form.addRow("Parallax", in_row(*speeds))
        form.addRow("Drawn", stacking)
        form.addRow("Blocks", self._choice("What blocks", _SOLID, "solid", layer))
        sight = Tick("Stops sight", "All that lies on it keeps light off, whatever the shapes of its tiles say")
        sight.setChecked(layer.stops_sight)
        sight.clicked.connect(lambda checked: self._change(stops_sight=checked))
        form.addRow("", sight)
        form.addRow("A figure is", self._choice("Where a figure is drawn", _STANDS, "stands", layer))
        form.addRow("Group", group)
        form.addRow("", locked)
        props = as_props(layer)
        if props is not None:
            order = ChoiceBox("Order of things")
            fill_box(order, _ORDERS, props.order)
            order.show_in_full()
            order.activated.connect(lambda index: self._change(order=order.itemData(index)))
            form.addRow("Things", order)
        if layer.may_end:
            goes_on = Tick(
                "Goes on off the map", "What lies at the map's border goes on beyond it; else nothing is there"
            )
            goes_on.setChecked(layer.goes_on)
            goes_on.clicked.connect(lambda checked: self._change(beyond="same" if checked else "nothing"))
            form.addRow("", goes_on)
        if layer.has_ground(session.document.project):
            form.addRow("", self._ground_left(layer))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel, self)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def accept(self) -> None:
        if self._session.document.gesture == self._before:
            self._session.document.commit()
        super().accept()

    def reject(self) -> None:
        if self._session.document.gesture == self._before:
            self._session.document.roll_back()
        super().reject()

    def _ground_left(self, layer: Layer) -> Tick:
        """Whether the ground of a set is laid."""
        ground = layer.terrains(self._session.document.project)[0].name
        tick = Tick("Leaves its ground out", f"Where {ground} lies alone no tile is laid, so that what is below shows")
        tick.setChecked(getattr(layer, "leaves_ground", False))
        tick.clicked.connect(lambda checked: self._change(leaves_ground=checked))
        return tick

    def _choice(self, name: str, entries: list[tuple[str, str]], field: str, layer: Layer) -> ChoiceBox:
        """One of the header's fields that has a few values."""
        box = ChoiceBox(name)
        fill_box(box, entries, getattr(layer, field))
        box.show_in_full()
        box.activated.connect(lambda index: self._change(**{field: box.itemData(index)}))
        return box

    def _number(self, layer: Layer, name: str, title: str, low: int, high: int, unit: int, suffix: str) -> QWidget:
        """A number of the header, as so many parts of its unit."""
        box = number(
            low, high, lambda value: self._change(**{name: value / unit if unit > 1 else value}), title, suffix
        )
        box.blockSignals(True)
        box.setValue(round(getattr(layer, name) * unit))
        box.blockSignals(False)
        return box

    def _set_opacity(self, value: int) -> None:
        self._share.setText(f"{value}%")
        self._change(opacity=value / 100)

    def _ask_tint(self) -> None:
        colour = QColorDialog.getColor(QColor(self._tint), self, "Tint")
        if colour.isValid():
            self._set_tint(colour.name())

    def _set_tint(self, colour: str) -> None:
        self._tint = colour
        self._show_tint()
        self._change(tint=colour)

    def _show_tint(self) -> None:
        self._swatch.setStyleSheet(f"background: {self._tint};")

    def _change(self, **changes: Any) -> None:
        session = self._session
        session.attempt(
            lambda: change_layer(
                session.document, session.choices.ground_id, self._layer_id, "look of layer", **changes
            )
        )
