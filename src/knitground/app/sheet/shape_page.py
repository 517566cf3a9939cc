"""What of a tile blocks: nothing, all of it, or shapes."""

from collections.abc import Callable
from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QButtonGroup, QSlider, QWidget

from knitground.app.allowed import NO_TILE, allow
from knitground.app.asking import answered
from knitground.app.session import Session
from knitground.app.sheet.shape_kinds_dialog import ShapeKindsDialog, patch_of
from knitground.app.sheet.shape_view import ShapeView
from knitground.app.sheet.standing_cell import blocked_whole
from knitground.app.widgets import (
    ChoiceBox,
    Tick,
    button,
    column,
    fill_box,
    icon_button,
    in_row,
    in_widget,
    quiet,
    row,
)
from knitground.core.edits.notes import notes_of, set_collision, told
from knitground.core.errors import BadRequest
from knitground.core.tiles.notes import PLAIN, Collision
from knitground.core.tiles.outline import checked, mirrored, trace
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import TileRef

_MORE = "*kinds"
_KIND = 150
_STEPS = 16
_BY = 0.25


class ShapePage(QWidget):
    """Draws on the tile at hand; what is chosen or copied goes to all chosen tiles."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.refs: list[TileRef] = []
        self._kind = FEET
        self.view = ShapeView(session, self.put)
        self.kind = ChoiceBox("Kind of shapes")
        self.kind.setToolTip("What the shapes stop: feet, sight, or what else the game asks for")
        self.kind.activated.connect(self._choose_kind)
        self.kind.setFixedWidth(_KIND)
        self._choices = {}
        group = QButtonGroup(self)
        for name, title, tip in (
            ("none", "Nothing", "The chosen tiles block nothing"),
            (
                "whole",
                "All of it",
                "The chosen tiles block as a whole: the cell they stand on, not what rises above it",
            ),
            ("shapes", "Shapes", "Draw shapes on the tile: click their points"),
        ):
            choice = button(title, lambda kind=name: self._choose(kind), tip, name="tab")  # type: ignore[misc]
            group.addButton(choice)
            self._choices[name] = choice
        self._halves = Tick("Half pixels", "Points snap to half pixels instead of whole ones")
        self._halves.clicked.connect(lambda on: setattr(self.view, "step", 0.5 if on else 1.0))
        self.simple = QSlider(Qt.Orientation.Horizontal)
        self.simple.setRange(0, _STEPS)
        self.simple.setValue(4)
        self.simple.setFixedWidth(96)
        self.simple.setAccessibleName("Simplification")
        self.simple.setToolTip("How far a traced outline may stray from the pixels, to have fewer points")
        self.simple.valueChanged.connect(self._propose)
        self.trace = button("Trace", self._propose, "Propose a shape from what can be seen of the tile")
        self.take = button("Take it", self._take, "Give the proposed shape to the tile", name="primary")
        self._says = quiet()
        copy = button("Copy to all chosen", self.copy, "Give this tile's shape to all chosen tiles")
        side = column(
            in_row(self.kind, self._halves, None),
            row_of(*self._choices.values()),
            in_row(self.trace, self.simple, self.take, None),
            in_row(
                icon_button("mirror_x", lambda: self._mirror(across=True), "Mirror the shape left to right"),
                icon_button("mirror_y", lambda: self._mirror(across=False), "Mirror the shape top to bottom"),
                copy, None,
            ),
            self._says,
            None,
            spacing=4,
        )  # fmt: skip
        layout = row(self.view, in_widget(side), spacing=12)
        layout.setStretch(0, 1)
        self.setLayout(layout)

    def show_tiles(self, refs: list[TileRef]) -> None:
        """Shows the shape of the tile at hand, and whether the others differ."""
        self.refs = refs
        allow(self, "" if refs else NO_TILE)
        ref = self._at_hand()
        document = self._session.document
        kinds = {kind.id: kind for kind in document.project.shape_kinds}
        self._kind = self._kind if self._kind in kinds else FEET
        fill_box(self.kind, [(one.name, one.id) for one in kinds.values()] + [("Kinds…", _MORE)], self._kind)
        for number, one in enumerate(kinds.values()):
            self.kind.setItemIcon(number, patch_of(one.colour))
        notes = notes_of(document, ref) if ref else PLAIN
        collision = notes.shape(self._kind)
        others = [(kinds[kind].colour, shape) for kind, shape in notes.all_shapes().items() if kind != self._kind]
        pixels = self._session.derived.tile(ref) if ref else None
        whole = blocked_whole(self._session, [ref]).get(ref, []) if ref and pixels is not None else []
        self.view.show_tile(pixels, whole, collision, kinds[self._kind].colour, others)
        kind = collision if isinstance(collision, str) else "shapes"
        self._choices[kind].setChecked(True)
        differ = sum(count for one, count in told(document, refs) if one.shape(self._kind) != collision)
        self._says.setText(f"{differ} of the {len(refs)} chosen tiles have another shape." if differ else "")
        self.take.setVisible(bool(self.view.proposed))

    def put(self, collision: Collision) -> None:
        """Gives the tile at hand another shape, if it can be one."""
        ref = self._at_hand()
        if ref is not None:
            self._do(lambda: set_collision(self._session.document, {ref: _checked(collision)}, self._kind))

    def _at_hand(self) -> TileRef | None:
        tile = self._session.choices.tile
        return tile if tile in self.refs else (self.refs[0] if self.refs else None)

    def _choose_kind(self, index: int) -> None:
        wanted = self.kind.itemData(index)
        if wanted == _MORE:
            answered(ShapeKindsDialog(self.window(), self._session))
        else:
            self.show_kind(wanted)
            return
        self.show_tiles(self.refs)

    def show_kind(self, kind: str) -> None:
        """Shows the shapes of one kind."""
        self._kind = kind
        self.show_tiles(self.refs)

    def _choose(self, kind: Literal["none", "whole", "shapes"]) -> None:
        if kind != "shapes":
            wanted: Collision = kind
            self._do(lambda: set_collision(self._session.document, dict.fromkeys(self.refs, wanted), self._kind))
        elif isinstance(self.view.collision, str):
            self._session.say("Click the points of the shape on the tile; click the first one again to close it.")

    def _propose(self, *_: object) -> None:
        ref = self._at_hand()
        pixels = self._session.derived.tile(ref) if ref else None
        if pixels is None:
            return
        self.view.proposed = trace(pixels, self.simple.value() * _BY)
        points, shapes = sum(len(shape) for shape in self.view.proposed), len(self.view.proposed)
        off = f"up to {self.simple.value() * _BY:g} px off"
        self._says.setText(f"{points} points in {shapes} shape{'s' if shapes != 1 else ''}, {off}.")
        self.take.setVisible(bool(self.view.proposed))
        self.view.update()

    def _take(self) -> None:
        proposed, self.view.proposed = self.view.proposed, ()
        if proposed:
            self.put(proposed)

    def _mirror(self, *, across: bool) -> None:
        self.put(mirrored(self.view.collision, self.view.size_in_pixels, across=across))

    def copy(self) -> None:
        """Gives the shape of the tile at hand to all chosen ones of its size."""
        collision, size = self.view.collision, self.view.size_in_pixels
        tiles = {ref: tile for ref in self.refs if (tile := self._session.derived.tile(ref)) is not None}
        fitting = [ref for ref, tile in tiles.items() if tile.shape[1::-1] == size or isinstance(collision, str)]
        self._do(lambda: set_collision(self._session.document, dict.fromkeys(fitting, collision), self._kind))
        left = len(tiles) - len(fitting)
        more = f"; {left} of another size keep theirs" if left else ""
        have = "1 tile has" if len(fitting) == 1 else f"{len(fitting):,} tiles have"
        self._session.say(f"{have} this shape now{more}.")

    def _do(self, act: Callable[[], object]) -> None:
        self._session.attempt(act)
        self.show_tiles(self.refs)


def row_of(*things: QWidget) -> QWidget:
    """Widgets close together."""
    return in_widget(row(*things, None, spacing=2))


def _checked(collision: Collision) -> Collision:
    if isinstance(collision, str):
        return collision
    if not collision:
        raise BadRequest("There is no shape left; choose Nothing instead.")
    return checked(collision)
