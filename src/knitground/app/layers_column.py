"""The layers as a narrow column of small live pictures, the top layer on top."""

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QInputDialog, QMenu, QVBoxLayout, QWidget

from knitground.app.canvas.ground_view import GroundView
from knitground.app.ground.layer_dialog import LayerDialog
from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import clear, draw_button_frame, fitted, icon_button, image_of, scrolling
from knitground.core.edits.layers import add_layer, change_layer, move_layer, remove_layer
from knitground.core.edits.pins import bake_layer, pin_seen, read_back, unpin_all
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.knitted import Knitted
from knitground.core.layers import new_layers
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.render.compositor import render
from knitground.core.render.scale import Scale

WIDTH = 76
_PICTURE = 44
_LIVELY_MS = 150
_ROWS, _COLUMNS = 10, 12
_HALF = Scale(1)


class LayerButton(QAbstractButton):
    """One layer: a picture of it, its name, and an eye."""

    eye_clicked = Signal()

    def __init__(self, layer: Layer, chosen: bool) -> None:
        super().__init__()
        self.layer = layer
        self.picture: QImage | None = None
        self.setCheckable(True)
        self.setChecked(chosen)
        self.setFixedSize(WIDTH - 12, _PICTURE + 26)
        self.setAccessibleName(f"Layer {layer.name}")
        self.setToolTip(f"{layer.name}: {layer.title}; right click for more")

    def sizeHint(self) -> QSize:
        return QSize(WIDTH - 12, _PICTURE + 26)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._eye().contains(event.position()):
            self.eye_clicked.emit()
        else:
            super().mousePressEvent(event)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_button_frame(painter, self)
        room = QRectF(6, 5, self.width() - 12, _PICTURE)
        painter.fillRect(room, theme().colour("well"))
        if self.picture is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setOpacity(1.0 if self.layer.visible else 0.3)
            painter.drawImage(fitted(self.picture.size(), room), self.picture)
            painter.setOpacity(1.0)
        painter.setPen(theme().colour("ink" if self.isChecked() else "quiet"))
        text = QRectF(4, _PICTURE + 5, self.width() - 24, 18)
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        name = painter.fontMetrics().elidedText(self.layer.name, Qt.TextElideMode.ElideRight, int(text.width()))
        painter.drawText(text.adjusted(2, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        draw_icon(
            painter,
            "show" if self.layer.visible else "hide",
            self._eye().adjusted(1, 1, -1, -1),
            theme().colour("quiet"),
        )

    def _eye(self) -> QRectF:
        return QRectF(self.width() - 21, _PICTURE + 6, 16, 16)


class LayersColumn(QWidget):
    """The stack of the ground that is chosen."""

    def __init__(self, session: Session, view: GroundView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self._shown: tuple[object, ...] = ()
        self._buttons: list[LayerButton] = []
        inner = QWidget()
        self._stack = QVBoxLayout(inner)
        self._stack.setContentsMargins(0, 0, 0, 0)
        self._stack.setSpacing(4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self._plus = icon_button("plus", self.open_add_menu, "Add a layer on top")
        self.add_menu = QMenu(self)
        layout.addWidget(self._plus, 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addWidget(scrolling(inner), 1)
        self.setFixedWidth(WIDTH)
        self._later = QTimer(self, singleShot=True, interval=_LIVELY_MS)
        self._later.timeout.connect(self._redraw)
        view.moved.connect(self._later.start)
        session.changed.connect(lambda change: self._later.start())
        for signal in (session.defined, session.opened):
            signal.connect(self._refresh)
        session.on_choice(self._refresh, "ground_id", "layer_id")
        self._refresh()

    def _refresh(self, *_: object) -> None:
        ground = self._session.ground
        self._plus.setEnabled(ground is not None)
        shown = (ground.layers if ground else (), self._session.choices.layer_id, self._session.document)
        self._later.start()
        if shown == self._shown:
            return
        self._shown = shown
        clear(self._stack)
        pictures = {button.layer.id: button.picture for button in self._buttons}
        self._buttons = []
        for layer in reversed(ground.layers if ground else ()):
            entry = LayerButton(layer, layer.id == self._session.choices.layer_id)
            entry.picture = pictures.get(layer.id)
            entry.clicked.connect(lambda _=False, name=layer.id: self._session.choose(layer_id=name))
            entry.eye_clicked.connect(lambda one=layer: self._toggle(one))
            entry.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            entry.customContextMenuRequested.connect(lambda at, e=entry: self._menu(e.layer).popup(e.mapToGlobal(at)))
            self._stack.addWidget(entry)
            self._buttons.append(entry)
        self._stack.addStretch(1)

    def _redraw(self) -> None:
        """Makes the small pictures anew."""
        ground = self._session.ground
        if ground is None:
            return
        derived = self._session.derived
        knitted = derived.knitted(ground.id)
        area = self._in_view()
        for entry in self._buttons:
            if entry.layer.id in knitted.planes:
                entry.picture = image_of(self._picture_of(derived, knitted, entry.layer, area), premultiplied=True)
                entry.update()

    def _picture_of(self, derived: Derived, knitted: Knitted, layer: Layer, area: PixelRect) -> NDArray[np.uint8]:
        """A layer alone, as it would be seen if it showed; what colours the layers below lies over white."""
        shown = replace(layer, visible=True, opacity=1.0)
        white = np.full((area.height, area.width, 4), 255, dtype=np.uint8)
        below = None if layer.knits or layer.holds_tiles else white
        return render(derived.scene(knitted, [shown]), area, _HALF, below=below)

    def _in_view(self) -> PixelRect:
        """The pixels in the middle of the view, at half size, as many as a small picture can show."""
        ground, middle = self._session.ground, self._view.visible_content().center()
        assert ground is not None  # pictures are made of a ground alone
        width, height = ground.projection.reduced(1).size
        wide, high = _COLUMNS * max(1, ground.tile_width // 2), _ROWS * max(1, ground.tile_height // 2)
        x = min(max(int(middle.x() / 2) - wide // 2, 0), max(0, width - wide))
        y = min(max(int(middle.y() / 2) - high // 2, 0), max(0, height - high))
        return PixelRect(x, y, wide, high)

    def open_add_menu(self) -> None:
        """Offers all kinds of layers that there may be."""
        self.add_menu.clear()
        for text, name, set_id, kind in new_layers(self._session.document.project):
            self.add_menu.addAction(text, lambda n=name, s=set_id, k=kind: self._add(n, s, k))  # type: ignore[misc]
        self.add_menu.popup(self._plus.mapToGlobal(self._plus.rect().bottomLeft()))

    def _add(self, name: str, set_id: str | None, kind: str) -> None:
        session = self._session
        layer_id = add_layer(session.document, session.choices.ground_id, name, set_id, kind)
        session.choose(layer_id=layer_id)

    def _menu(self, layer: Layer) -> QMenu:
        menu, ground = QMenu(self), self._session.ground
        place = [one.id for one in known(ground).layers].index(layer.id)
        document = self._session.document
        menu.addAction("Rename…", lambda: self._rename(layer))
        up = menu.addAction("Move up", lambda: move_layer(document, known(ground).id, layer.id, place + 1))
        up.setEnabled(place + 1 < len(known(ground).layers))
        down = menu.addAction("Move down", lambda: move_layer(document, known(ground).id, layer.id, place - 1))
        down.setEnabled(place > 0)
        menu.addSeparator()
        if layer.holds_tiles:
            for join_set in self._session.document.project.join_sets:
                menu.addAction(
                    f"Read back what “{join_set.name}” would knit",
                    lambda s=join_set: self._read_back(layer, s.id),  # type: ignore[misc]
                )
        if layer.pinnable:
            menu.addAction("Pin what is in view", lambda: self._pin_view(layer))
            menu.addAction("Take all pins out", lambda: unpin_all(document, known(ground).id, layer.id))
            menu.addAction(
                "Bake to single tiles", lambda: bake_layer(self._session.derived, known(ground).id, layer.id)
            )
        menu.addSeparator()
        lock = "Unlock" if layer.locked else "Lock"
        menu.addAction(lock, lambda: self._change(layer, "lock layer", locked=not layer.locked))
        menu.addAction("Look…", lambda: LayerDialog(self, self._session, layer).exec())
        menu.addSeparator()
        menu.addAction("Remove", lambda: remove_layer(document, known(ground).id, layer.id))
        return menu

    def _pin_view(self, layer: Layer) -> None:
        window = self._view.cells_in_view()
        shape = Shape(window, np.ones(window[2:], dtype=bool))
        pin_seen(self._session.derived, self._session.choices.ground_id, layer.id, shape)

    def _read_back(self, layer: Layer, set_id: str) -> None:
        session = self._session
        made = session.attempt(lambda: read_back(session.derived, session.choices.ground_id, layer.id, set_id))
        if made:
            session.choose(layer_id=made)

    def _toggle(self, layer: Layer) -> None:
        self._change(layer, "show or hide layer", visible=not layer.visible)

    def _change(self, layer: Layer, label: str, **changes: Any) -> None:
        change_layer(self._session.document, self._session.choices.ground_id, layer.id, label, **changes)

    def _rename(self, layer: Layer) -> None:
        name, ok = QInputDialog.getText(self, "Rename layer", "Name", text=layer.name)
        if ok and name.strip():
            self._change(layer, "rename layer", name=name.strip()[:80])
