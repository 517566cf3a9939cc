"""The layers as a narrow column of small live pictures, the top layer on top."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtWidgets import QFrame, QInputDialog, QMenu, QVBoxLayout, QWidget

from knitground.app.allowed import NO_GROUND, a_menu
from knitground.app.canvas.ground_view import GroundView
from knitground.app.commands import Command
from knitground.app.known import known
from knitground.app.layers.acts import LayerActs
from knitground.app.layers.group_button import GroupButton
from knitground.app.layers.layer_button import WIDTH, LayerButton
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import clear, icon_button, image_of, scrolling
from knitground.core.edits.layers import (
    add_layer,
    move_layer,
    regroup,
    show_group,
)
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.knitted import Knitted
from knitground.core.layers import new_layers
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.project.derived import Derived
from knitground.core.project.model import Project
from knitground.core.render.compositor import render
from knitground.core.render.scale import Scale

_LIVELY_MS = 150
_ROWS, _COLUMNS = 10, 12
_MOST_LOOKED_AT = 500
_HALF = Scale(1)


class LayersColumn(QWidget):
    """The stack of the ground that is chosen."""

    def __init__(self, session: Session, view: GroundView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self._acts = LayerActs(session, view, self)
        self._shown: tuple[object, ...] = ()
        self._buttons: list[LayerButton] = []
        self._folded: set[tuple[str, str]] = set()
        inner = QWidget()
        self._stack = QVBoxLayout(inner)
        self._stack.setContentsMargins(0, 0, 0, 0)
        self._stack.setSpacing(4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self._plus = icon_button("plus", self.open_add_menu, "Add a layer above the one at hand")
        self.add_menu = a_menu(self)
        layout.addWidget(self._plus, 0, Qt.AlignmentFlag.AlignHCenter)
        self._area = scrolling(inner)
        self._area.verticalScrollBar().rangeChanged.connect(self._show_chosen)
        layout.addWidget(self._area, 1)
        self._mark = QFrame(inner)
        self._mark.setFixedSize(WIDTH - 12, 3)
        self._mark.hide()
        self.setFixedWidth(WIDTH)
        self._later = QTimer(self, singleShot=True, interval=_LIVELY_MS)
        self._later.timeout.connect(self._redraw)
        self._old: list[LayerButton] = []
        self._next = QTimer(self, singleShot=True, interval=0)
        self._next.timeout.connect(self._redraw_next)
        view.moved.connect(self._later.start)
        session.changed.connect(lambda change: self._later.start())
        for signal in (session.defined, session.opened):
            signal.connect(self._refresh)
        session.on_choice(self._refresh, "ground_id", "layer_id")
        self._refresh()

    def _refresh(self, *_: object) -> None:
        ground = self._session.ground
        self._plus.setVisible(ground is not None)
        shown = (
            ground.layers if ground else (), self._session.choices.layer_id, self._session.document,
            frozenset(self._folded),
        )  # fmt: skip
        self._later.start()
        if shown == self._shown:
            return
        self._shown = shown
        pictures = {button.layer.id: button.picture for button in self._buttons}
        at_keys = next((button.layer.id for button in self._buttons if button.hasFocus()), None)
        clear(self._stack)
        self._buttons = []
        before: list[str] = []
        for layer in reversed(ground.layers if ground else ()):
            paths = _paths(layer.group)
            for path in paths:
                if path not in before and not self._hides(path.rpartition("/")[0]):
                    self._stack.addWidget(self._head(path))
            before = paths
            if self._hides(layer.group):
                continue
            entry = LayerButton(layer, layer.id == self._session.choices.layer_id)
            entry.picture = pictures.get(layer.id)
            entry.clicked.connect(lambda _=False, name=layer.id: self._session.choose(layer_id=name))
            entry.eye_clicked.connect(lambda one=layer: self._acts.toggle(one))
            entry.dragged.connect(self._show_drop)
            entry.dropped.connect(lambda y, name=layer.id: self._drop(name, y))
            entry.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            entry.customContextMenuRequested.connect(
                lambda at, e=entry: self._acts.menu(e.layer).popup(e.mapToGlobal(at))
            )
            self._stack.addWidget(entry)
            self._buttons.append(entry)
            if layer.id == at_keys:
                entry.show()
                entry.setFocus()
        self._stack.addStretch(1)
        # The column knows how long it is once it is laid out.
        QTimer.singleShot(0, self._area, self._show_chosen)

    def _show_chosen(self, *_: object) -> None:
        chosen = self._session.choices.layer_id
        self._stack.activate()
        for entry in self._buttons:
            if entry.layer.id == chosen:
                self._area.ensureWidgetVisible(entry)

    def _hides(self, group: str) -> bool:
        """Whether a group, or one round it, is folded."""
        return any((self._session.choices.ground_id, path) in self._folded for path in _paths(group))

    def _head(self, path: str) -> GroupButton:
        """The head of a group."""
        ground = known(self._session.ground)
        shown = any(layer.visible for layer in ground.layers if path in _paths(layer.group))
        head = GroupButton(path, WIDTH - 12, folded=(ground.id, path) in self._folded, shown=shown)
        head.clicked.connect(lambda: self._fold(path))
        head.eye_clicked.connect(lambda: show_group(self._session.document, ground.id, path, visible=not shown))
        head.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        head.customContextMenuRequested.connect(lambda at: self._group_menu(path).popup(head.mapToGlobal(at)))
        return head

    def _fold(self, path: str) -> None:
        self._folded ^= {(self._session.choices.ground_id, path)}
        self._refresh()

    def _group_menu(self, path: str) -> QMenu:
        menu, document, ground_id = a_menu(self), self._session.document, self._session.choices.ground_id
        menu.addAction("Fold, or unfold", lambda: self._fold(path))
        menu.addAction("Rename the group…", lambda: self._rename_group(path))
        menu.addAction("Take the group apart", lambda: regroup(document, ground_id, path, path.rpartition("/")[0]))
        return menu

    def _rename_group(self, path: str) -> None:
        outer, _, name = path.rpartition("/")
        text, ok = QInputDialog.getText(self, "Rename group", "Name", text=name)
        wanted = "/".join(part for part in (outer, text.strip().replace("/", " ")) if part)
        if ok and text.strip():
            session = self._session
            session.attempt(lambda: regroup(session.document, session.choices.ground_id, path, wanted))

    def _place_at(self, y: int) -> int:
        """How many layers lie above a place of the column."""
        return sum(button.geometry().center().y() < y for button in self._buttons)

    def _show_drop(self, y: int) -> None:
        """A line where a layer would come to lie."""
        above = self._place_at(y)
        edge = self._buttons[above].y() - 4 if above < len(self._buttons) else self._buttons[-1].geometry().bottom() + 2
        self._mark.setStyleSheet(f"background: {theme().thread}")
        self._mark.move(0, max(0, edge))
        self._mark.raise_()
        self._mark.show()

    def _drop(self, layer_id: str, y: int) -> None:
        self._mark.hide()
        order = [button.layer.id for button in self._buttons]
        at, above = order.index(layer_id), self._place_at(y)
        if above in (at, at + 1):
            return
        # What is folded keeps its place: the layer comes to lie right on the one that is seen below it.
        below = order[above] if above < len(order) else None
        others = [layer.id for layer in known(self._session.ground).layers if layer.id != layer_id]
        place = 0 if below is None else others.index(below) + 1
        move_layer(self._session.document, self._session.choices.ground_id, layer_id, place)

    def _redraw(self) -> None:
        """Makes the small pictures anew, one in each turn: those of many layers would keep the window waiting."""
        self._old = list(self._buttons)
        self._next.start()

    def _redraw_next(self) -> None:
        ground = self._session.ground
        if ground is None or not self._old:
            return
        entry, derived = self._old.pop(0), self._session.derived
        knitted = derived.knitted(ground.id)
        if entry in self._buttons and entry.layer.id in knitted.planes:
            entry.picture = image_of(self._picture_of(derived, knitted, entry.layer), premultiplied=True)
            entry.update()
        if self._old:
            self._next.start()

    def _picture_of(self, derived: Derived, knitted: Knitted, layer: Layer) -> NDArray[np.uint8]:
        """A layer alone, as it would be seen if it showed: in the middle of the view, or else nearest to that.

        What colours the layers below lies over white.
        """
        scene = derived.scene(knitted, [replace(layer, visible=True, opacity=1.0)])
        middle = self._view.visible_content().center()
        area = self._around(middle.x(), middle.y())
        over = 0 if layer.knits or layer.holds_tiles or layer.places_things else 255
        below = np.full((area.height, area.width, 4), over, dtype=np.uint8)
        picture = render(scene, area, _HALF, below=below if over else None)
        if (picture != below).any() or (place := self._nearest(layer, knitted, middle)) is None:
            return picture
        return render(scene, self._around(*place), _HALF, below=below if over else None)

    def _nearest(self, layer: Layer, knitted: Knitted, middle: QPointF) -> tuple[float, float] | None:
        """Where on the ground something of a layer is seen, as near to a place as may be."""
        projection = knitted.ground.projection
        props = as_props(layer)
        if props is not None and props.things:
            some = props.things[:: max(1, len(props.things) // _MOST_LOOKED_AT)]
            near = min(some, key=lambda thing: abs(thing.x - middle.x()) + abs(thing.y - middle.y()))
            return near.x, near.y
        plane = knitted.planes[layer.id].get(layer.area_plane)
        # A layer that lies higher is seen above its cells.
        there = PixelRect(round(middle.x()) - layer.offset_x, round(middle.y()) - layer.offset_y, 1, 1)
        cells = projection.cells_in(there)
        found = None if plane is None else plane.nearest(cells, layer.erased(self._session.document.project))
        if found is None:
            return None
        box = projection.box(min(found.top, knitted.ground.height - 1), min(found.left, knitted.ground.width - 1))
        return box.x + box.width / 2 + layer.offset_x, box.y + box.height / 2 + layer.offset_y

    def _around(self, x: float, y: float) -> PixelRect:
        """The pixels round a place of the ground, at half size, as many as a small picture can show."""
        ground = known(self._session.ground)
        width, height = ground.projection.reduced(1).size
        wide, high = _COLUMNS * max(1, ground.tile_width // 2), _ROWS * max(1, ground.tile_height // 2)
        left = min(max(int(x / 2) - wide // 2, 0), max(0, width - wide))
        top = min(max(int(y / 2) - high // 2, 0), max(0, height - high))
        return PixelRect(left, top, wide, high)

    def open_add_menu(self) -> None:
        """Offers all kinds of layers that there may be."""
        self.add_menu.clear()
        for text, name, set_id, kind in new_layers(self._session.document.project):
            self.add_menu.addAction(text, lambda n=name, s=set_id, k=kind: self._add(n, s, k))  # type: ignore[misc]
        self.add_menu.popup(self._plus.mapToGlobal(self._plus.rect().bottomLeft()))

    def _add(self, name: str, set_id: str | None, kind: str) -> None:
        session = self._session
        chosen = session.choices
        layer_id = session.attempt(
            lambda: add_layer(session.document, chosen.ground_id, name, set_id, kind, above=chosen.layer_id)
        )
        if layer_id is not None:
            session.choose(layer_id=layer_id)

    def commands(self) -> list[Command]:
        """What one can do with layers by keys and by name."""

        def refused() -> str:
            return "" if self._session.ground is not None else NO_GROUND

        found = [Command("Add a layer…", self.open_add_menu, refused=refused)]
        for text, name, set_id, kind in new_layers(Project()):
            act = lambda n=name, s=set_id, k=kind: self._add(n, s, k)  # noqa: E731
            found.append(Command(f"Add a {text.lower()}", act, refused=refused))
        return found + self._acts.commands()


def _paths(group: str) -> list[str]:
    """A group and those round it, by their paths, from the outermost."""
    parts = group.split("/") if group else []
    return ["/".join(parts[: count + 1]) for count in range(len(parts))]
