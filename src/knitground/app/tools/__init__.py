"""Tools: each turns what the pointer does into edits of the document, and draws what it would do.

A new tool is a module here and a line in `TOOLS` of the ground pane. What a gesture covers and sets is decided in
`knitground.core.edits.painting`; tools hold no more than the gesture itself.
"""

from typing import TYPE_CHECKING, ClassVar

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QApplication

from knitground.app.known import known
from knitground.core.edits.painting import Spot, on_points

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session
    from knitground.core.layers.layer import Layer


class Tool:
    """Base of the tools; each gesture is one step of the history. Places are flat ones."""

    name: ClassVar[str] = ""
    title: ClassVar[str] = ""
    icon: ClassVar[str] = ""
    key: ClassVar[str] = ""
    tip: ClassVar[str] = ""
    pins: ClassVar[bool] = False
    """Whether it lays tiles on derived layers."""
    verb: ClassVar[str] = ""
    """What it does, where it does not lay what is in hand."""
    options: ClassVar[tuple[str, ...]] = ()
    """Which choices of the tool row belong to it."""
    on_things: ClassVar[bool] = False
    """Whether it works on things instead of cells."""
    lays: ClassVar[bool] = True
    """Whether it changes the layer at hand."""
    lays_tile: ClassVar[bool] = False
    """Whether it lays the tile in hand, whatever the layer."""
    lays_what_is_in_hand: ClassVar[bool] = False
    """Whether it lays what the layer at hand takes: terrains on points, cells or edges, or tiles."""

    def __init__(self, session: "Session") -> None:
        self.session = session

    def where(self, layer: "Layer") -> str:
        """On what it works, as the end of a sentence."""
        return f"on {layer.name}"

    def warn_of_hidden(self) -> None:
        """Says that what is laid can't be seen, where that is so."""
        layer = self.session.layer
        if self.lays and layer is not None and not layer.visible and not layer.locked:
            self.session.say(f"“{layer.name}” is hidden, so what you lay does not show; its eye at the right shows it.")

    def press(self, at: Spot, *, erase: bool = False) -> None:
        """The button went down; the right one erases."""

    def drag(self, at: Spot) -> None:
        """The pointer moved with the button down."""

    def release(self, at: Spot) -> None:
        """The button went up."""

    def hover(self, at: Spot | None) -> None:
        """The pointer moved freely, or left the ground."""

    @property
    def on_points(self) -> bool:
        """Whether it falls on the points between cells now, not on cells."""
        layer = self.session.layer
        lays = self.lays_what_is_in_hand and layer is not None and layer.area_plane in layer.specs
        return lays and on_points(known(layer), self.session.hand)

    @property
    def measured(self) -> tuple[Spot, Spot] | None:
        """The places between which something is dragged, so that its size can be told."""
        return None

    def key_pressed(self, event: QKeyEvent) -> bool:
        """A key went down that no command has; whether the tool took it."""
        return False

    def leave(self) -> None:
        """The tool is put away, or Escape was pressed: what it has begun is dropped."""

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws what the tool would do over the ground."""


def held_down() -> bool:
    """Whether Shift is down: lines are straight then, areas square, rounds circles."""
    return bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)


def adding() -> Qt.KeyboardModifier:
    """Shift where what is chosen is to be added to, Ctrl where it is to be taken from; nothing where it begins anew."""
    return QApplication.keyboardModifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier)
