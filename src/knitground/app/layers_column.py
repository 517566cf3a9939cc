"""The layers as a narrow column of small live pictures, the top layer on top."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QInputDialog, QMenu, QVBoxLayout, QWidget

from knitground.app.canvas.ground_view import GroundView
from knitground.app.session import AnyLayer, Session
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import clear, draw_button_frame, fitted, icon_button, image_of, scrolling
from knitground.core.ground.layers import TileLayer
from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window
from knitground.core.project.fixing import bake_layer, pin_seen, read_back, unpin_all
from knitground.core.project.operations import add_layer, move_layer, put_layer, remove_layer
from knitground.core.render.compose import compose

WIDTH = 76
_PICTURE = 44
_LIVELY_MS = 150
_ROWS, _COLUMNS = 10, 12


class LayerButton(QAbstractButton):
    """One layer: a picture of it, its name, and an eye."""

    eye_clicked = Signal()

    def __init__(self, layer: AnyLayer, chosen: bool) -> None:
        super().__init__()
        self.layer = layer
        self.picture: QImage | None = None
        self.setCheckable(True)
        self.setChecked(chosen)
        self.setFixedSize(WIDTH - 12, _PICTURE + 26)
        self.setAccessibleName(f"Layer {layer.name}")
        self.setToolTip(f"{layer.name}: {layer.kind} layer; right click for more")

    def sizeHint(self) -> QSize:
        return QSize(WIDTH - 12, _PICTURE + 26)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._eye().contains(event.position()):
            self.eye_clicked.emit()
        else:
            super().mousePressEvent(event)

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
        self._plus = icon_button("plus", self._add_menu, "Add a layer on top")
        layout.addWidget(self._plus, 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addWidget(scrolling(inner), 1)
        self.setFixedWidth(WIDTH)
        self._later = QTimer(self, singleShot=True, interval=_LIVELY_MS)
        self._later.timeout.connect(self._redraw)
        view.moved.connect(self._later.start)
        session.changed.connect(lambda change: self._later.start())
        for signal in (session.defined, session.chosen, session.opened):
            signal.connect(self._refresh)
        self._refresh()

    def _refresh(self, *_: object) -> None:
        ground = self._session.ground
        self._plus.setEnabled(ground is not None)
        shown = (ground.layers if ground else (), self._session.layer_id, self._session.document)
        self._later.start()
        if shown == self._shown:
            return
        self._shown = shown
        clear(self._stack)
        pictures = {button.layer.id: button.picture for button in self._buttons}
        self._buttons = []
        for layer in reversed(ground.layers if ground else ()):
            entry = LayerButton(layer, layer.id == self._session.layer_id)
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
        atlas, knitted = derived.atlas(ground.tile_width, ground.tile_height), derived.knitted(ground.id)
        window = self._in_view().clipped(ground.height, ground.width)
        if window.is_empty:
            return
        for entry in self._buttons:
            if entry.layer.id in knitted.planes:
                codes = np.array(knitted.codes(entry.layer.id, window))
                entry.picture = image_of(compose([codes], atlas, 1), premultiplied=True)
                entry.update()

    def _in_view(self) -> Window:
        """The cells in the middle of the view, as many as a small picture can show."""
        ground, middle = self._session.ground, self._view.visible_content().center()
        row, column = int(middle.y() // ground.tile_height), int(middle.x() // ground.tile_width)
        row = min(max(row, _ROWS // 2), ground.height - _ROWS // 2)
        column = min(max(column, _COLUMNS // 2), ground.width - _COLUMNS // 2)
        return Window(row - _ROWS // 2, column - _COLUMNS // 2, _ROWS, _COLUMNS)

    def _add_menu(self) -> None:
        menu, project = QMenu(self), self._session.document.project
        menu.addAction("Tile layer", lambda: self._add("Tiles", None))
        for join_set in project.join_sets:
            menu.addAction(f"Terrain layer knit from “{join_set.name}”", lambda s=join_set: self._add(s.name, s.id))
        for stitch_set in project.stitch_sets:
            menu.addAction(f"Stitched layer of “{stitch_set.name}”", lambda s=stitch_set: self._add(s.name, s.id))
        menu.popup(self._plus.mapToGlobal(self._plus.rect().bottomLeft()))

    def _add(self, name: str, set_id: str | None) -> None:
        layer_id = add_layer(self._session.document, self._session.ground_id, name, set_id)
        self._session.choose(layer_id=layer_id)

    def _menu(self, layer: AnyLayer) -> QMenu:
        menu, ground = QMenu(self), self._session.ground
        place = [one.id for one in ground.layers].index(layer.id)
        document = self._session.document
        menu.addAction("Rename…", lambda: self._rename(layer))
        up = menu.addAction("Move up", lambda: move_layer(document, ground.id, layer.id, place + 1))
        up.setEnabled(place + 1 < len(ground.layers))
        down = menu.addAction("Move down", lambda: move_layer(document, ground.id, layer.id, place - 1))
        down.setEnabled(place > 0)
        menu.addSeparator()
        if isinstance(layer, TileLayer):
            for join_set in self._session.document.project.join_sets:
                menu.addAction(
                    f"Read back what “{join_set.name}” would knit", lambda s=join_set: self._read_back(layer, s.id)
                )
        else:
            menu.addAction("Pin what is in view", lambda: self._pin_view(layer))
            menu.addAction("Take all pins out", lambda: unpin_all(document, ground.id, layer.id))
            menu.addAction("Bake to single tiles", lambda: bake_layer(self._session.derived, ground.id, layer.id))
        menu.addSeparator()
        menu.addAction("Remove", lambda: remove_layer(document, ground.id, layer.id))
        return menu

    def _pin_view(self, layer: AnyLayer) -> None:
        window = self._view.seen_cells()
        shape = Shape(window, np.ones(window[2:], dtype=bool))
        pin_seen(self._session.derived, self._session.ground_id, layer.id, shape)

    def _read_back(self, layer: AnyLayer, set_id: str) -> None:
        session = self._session
        made = session.attempt(lambda: read_back(session.derived, session.ground_id, layer.id, set_id))
        if made:
            session.choose(layer_id=made)

    def _toggle(self, layer: AnyLayer) -> None:
        put_layer(
            self._session.document,
            self._session.ground_id,
            "show or hide layer",
            replace(layer, visible=not layer.visible),
        )

    def _rename(self, layer: AnyLayer) -> None:
        name, ok = QInputDialog.getText(self, "Rename layer", "Name", text=layer.name)
        if ok and name.strip():
            put_layer(
                self._session.document, self._session.ground_id, "rename layer", replace(layer, name=name.strip()[:80])
            )
