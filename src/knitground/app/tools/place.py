"""Laying a block in hand, as often as wished."""

from typing import TYPE_CHECKING

from PySide6.QtGui import QPainter

from knitground.app.canvas.lines import draw_line_twice
from knitground.app.known import known
from knitground.app.theme.colours import theme
from knitground.app.tools import Tool
from knitground.app.tools.advice import advise
from knitground.app.tools.preview import AfterView
from knitground.core.edits.block_things import things_laid, with_things
from knitground.core.edits.block_tiles import is_off_a_sheet, layer_for
from knitground.core.edits.blocks import Block, lay_block, lay_known
from knitground.core.edits.painting import Spot, cell_of, paintable
from knitground.core.errors import BadRequest
from knitground.core.layers.layer import Layer

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session


class Place(Tool):
    """Lays the block in hand; a drag lays it again and again without a gap."""

    name, title, icon, key = "place", "Block", "block", "B"
    tip = "Block: click to lay what was copied, drag to go on without a gap; T turns it, M mirrors it"
    verb = "lays the block"

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._at: Spot | None = None
        self._first: tuple[int, int] | None = None
        self._laid: set[tuple[int, int]] = set()
        self._after = AfterView(session)

    def where(self, layer: Layer) -> str:
        block = self.session.choices.lifted
        if block is not None and is_off_a_sheet(block) and not layer.holds_tiles:
            return "on a layer of tiles"
        return "on the layers it came from" if block and len(block.pieces) > 1 else f"on {layer.name}"

    def press(self, at: Spot, *, erase: bool = False) -> None:
        session = self.session
        if erase:
            session.choose(lifted=None)
            return
        if session.choices.lifted is None:
            raise BadRequest("No block is in hand; select cells and copy them (Ctrl+C) first.")
        self._first, self._laid = self._corner(at), set()
        session.document.begin("lay block")
        try:
            self._take_to_layer(session.choices.lifted)
        except BadRequest:
            self.leave()
            raise
        self._lay(at)

    def _take_to_layer(self, block: Block) -> None:
        """Goes to a layer that takes the block; tiles off a sheet need not be laid on what is at hand."""
        session = self.session
        ground_id, at_hand = session.choices.ground_id, session.choices.layer_id
        onto = layer_for(session.document, ground_id, block, at_hand)
        _, layer = paintable(session.document, ground_id, onto)
        if onto != at_hand:
            session.choose(layer_id=onto)
            session.say(f"“{layer.name}” takes the block, as the layer at hand holds no tiles.")

    def drag(self, at: Spot) -> None:
        self._at = at
        if self._first is not None and self.session.choices.lifted is None:
            self.leave()  # the block was put away meanwhile
        elif self._first is not None:
            self._lay(at)

    def release(self, at: Spot) -> None:
        if self._first is not None:
            self._first = None
            if self.session.document.commit() is not None:
                advise(self.session, at)

    def hover(self, at: Spot | None) -> None:
        self._at = at

    def leave(self) -> None:
        if self._first is not None:
            self._first = None
            self.session.document.roll_back()
        self._at = None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        session, ground, block = self.session, self.session.ground, self.session.choices.lifted
        if self._at is None or ground is None or block is None:
            return
        corner = self._corner(self._at)
        if self._first is None:
            planes, onto = session.document.state.planes[ground.id], session.choices.layer_id
            self._after.draw(
                painter, view,
                lambda: lay_known(session.document.project, ground, planes, block, corner, onto),
                lambda: with_things(ground, things_laid(ground, block.things, corner)), block, corner, onto,
            )  # fmt: skip
        top, left = self._snapped(corner)
        height, width = block.cells.shape
        frame = view.outline(top, left, top + height, left + width)
        draw_line_twice(painter, theme().colour("thread"), lambda: painter.drawPolygon(frame))

    def _corner(self, at: Spot) -> tuple[int, int]:
        """Where the block begins if its middle is at a place."""
        height, width = known(self.session.choices.lifted).cells.shape
        y, x = cell_of(at)
        return y - (height - 1) // 2, x - (width - 1) // 2

    def _snapped(self, corner: tuple[int, int]) -> tuple[int, int]:
        """The place nearest to a corner that continues the block that was laid first."""
        if self._first is None:
            return corner
        sides = known(self.session.choices.lifted).cells.shape
        down, across = (
            round((place - first) / side) * side for place, first, side in zip(corner, self._first, sides, strict=True)
        )
        return self._first[0] + down, self._first[1] + across

    def _lay(self, at: Spot) -> None:
        session = self.session
        corner = self._snapped(self._corner(at))
        if corner in self._laid:
            return
        self._laid.add(corner)
        ground, block = known(session.ground), known(session.choices.lifted)
        try:
            lay_block(session.document, ground.id, block, corner, session.choices.layer_id)
        except BadRequest:
            self.leave()
            raise
