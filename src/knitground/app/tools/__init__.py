"""Tools: each turns what the pointer does into commands to the document.

A new tool is a module here and a line in the registry of the ground pane.
"""

from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtGui import QPainter

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session


class Pointer(NamedTuple):
    """Where the pointer is on a ground, in cells: 2.5 lies in the middle of cell 2."""

    y: float
    x: float

    @property
    def row(self) -> int:
        """Row of the cell under it."""
        return int(self.y // 1)

    @property
    def column(self) -> int:
        """Column of the cell under it."""
        return int(self.x // 1)


class Tool:
    """Base of the tools; each gesture is one step of the history."""

    name = ""
    title = ""
    icon = ""
    key = ""
    tip = ""

    def __init__(self, session: "Session") -> None:
        self.session = session

    def press(self, at: Pointer, *, erase: bool = False) -> None:
        """The button went down; the right one erases."""

    def drag(self, at: Pointer) -> None:
        """The pointer moved with the button down."""

    def release(self, at: Pointer) -> None:
        """The button went up."""

    def hover(self, at: Pointer | None) -> None:
        """The pointer moved freely, or left the ground."""

    def leave(self) -> None:
        """The tool is put away, or Escape was pressed: what it has begun is dropped."""

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws what the tool would do over the ground."""
