"""Walking over the ground with a small figure: keys move it, the view follows, what blocks it is told."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QElapsedTimer, QEvent, QObject, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QInputDialog

from knitground.app.commands import Command
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.walk.blocked import LET_BLOCK
from knitground.app.walk.costume import Costume
from knitground.app.widgets import image_of
from knitground.core.edits.barring import stands_unsaid
from knitground.core.edits.screen import set_screen
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.project.document import Change
from knitground.core.render.before import before, shade_at
from knitground.core.render.scrolled import scrolled
from knitground.core.render.upper_face import height_at, seen_at
from knitground.core.walk.camera import camera, screen_of
from knitground.core.walk.figure import Figure, Going
from knitground.core.walk.goals import spawn_of, zones_at
from knitground.core.walk.journey import WAYS, Route, Way
from knitground.core.walk.motion import TICKS, Spot
from knitground.core.walk.survey import blamed

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_FRAME_MS = 15
_LONGEST_MS = 100
_KEYS: dict[int, tuple[int, int]] = {
    Qt.Key.Key_Up: (0, -1), Qt.Key.Key_W: (0, -1), Qt.Key.Key_Down: (0, 1), Qt.Key.Key_S: (0, 1),
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_A: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_D: (1, 0),
}  # fmt: skip
_NAMES = {step: way for way, step in WAYS.items()}


class Walker(QObject):
    """A figure on the ground, while somebody walks."""

    changed = Signal()
    stepped = Signal(str)
    """Told of every step, with the way that is held."""

    def __init__(self, session: Session, view: "GroundView") -> None:
        super().__init__(view)
        self._session, self._view = session, view
        self.costume = Costume(session)
        self._ticks = 0
        self._played: list[Way] = []
        self._now: Going | None = None
        self.touched = ""
        """What it ran into last."""
        self.figure: Figure | None = None
        """What goes, on the ground as it is now."""
        self._held: list[int] = []
        self._looks, self._gone, self._owed = "S", 0.0, 0.0
        self._height = 0
        self._zones: frozenset[str] = frozenset()
        self._timer = QTimer(self, interval=_FRAME_MS)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._go_on)
        self._since = QElapsedTimer()
        view.installEventFilter(self)
        view.overlays.append(self.paint)
        view.camera = self.camera
        session.changed.connect(self._on_change)
        session.opened.connect(self.end)
        session.on_choice(self.end, "ground_id")

    def commands(self) -> list[Command]:
        """What one can do with the figure."""
        return [
            Command("Walk on the ground, or end it", self.toggle, ("F5",), refused=self._no_ground),
            Command("Walk from the pointer", self.from_pointer, ("Shift+F5",), refused=self._no_ground),
            Command("Screen of the game…", self.choose_screen),
            Command("Walk as the tile in hand, or as the beekeeper", self.change_costume, ("Alt+F5",)),
        ]

    def _no_ground(self) -> str:
        return "" if self._session.ground is not None else "There is no ground to walk on yet; make one first."

    @property
    def spot(self) -> Spot | None:
        """Where the figure is; none while nobody walks."""
        return self._now.spot if self._now is not None else None

    @property
    def walks(self) -> bool:
        """Whether somebody walks."""
        return self._now is not None

    def toggle(self) -> None:
        """Begins at the spawn point, or in the middle of what is seen; or ends it."""
        if self.walks:
            self.end()
            return
        ground = self._session.ground
        if ground is not None:
            middle = self._view.visible_content().center()
            self.begin(spawn_of(ground, self._session.document.project.thing_kinds) or Spot(middle.x(), middle.y()))

    def change_costume(self) -> None:
        """Lets the tile in hand walk, or the beekeeper again if it walks already."""
        tile = self._session.choices.tile
        if tile is None and self.costume.tile is None:
            self._session.say(
                "No tile is in hand; choose one on the sheet, or pick one off the ground.", "Stage Sheet", "Tool: Pick"
            )
            return
        self.costume.tile = None if tile == self.costume.tile else tile
        name = f"{self.costume.tile} walks" if self.costume.tile is not None else "The beekeeper walks"
        if self._now is not None:
            self.begin(self._now.spot)
        self._session.say(f"{name}{'' if self.walks else ' from now on; F5 begins'}.")

    def from_pointer(self) -> None:
        """Begins where the pointer is."""
        place = self._view.to_content(QPointF(self._view.mapFromGlobal(self._view.cursor().pos())))
        self.end()
        self.begin(Spot(place.x(), place.y() + self._height_seen(place.x(), place.y())))

    def _height_seen(self, x: float, y: float) -> int:
        """How high lies what is seen at a place, as the top of a quay is."""
        knitted = self._view.knitted
        return seen_at(knitted, self._session.derived.atlas(knitted.ground), x, y) if knitted is not None else 0

    def camera(self) -> PixelRect | None:
        """What of the ground a game would show, or the view does where no screen was chosen; none if nobody walks."""
        if self.spot is None:
            return None
        screen, view = self._session.document.project.screen, self._view
        wide, high = view.width() / view.zoom, view.height() / view.zoom
        if screen is not None:
            wide, high = screen.width, screen.height
        return camera(self.spot, view.content_size(), wide, high)

    def choose_screen(self) -> None:
        """Asks how much of a ground the game shows."""
        document, window = self._session.document, self._view.window()
        now = document.project.screen
        typed, ok = QInputDialog.getText(
            window, "Screen of the game", "Pixels of the ground that it shows; empty for none",
            text="" if now is None else f"{now.width} x {now.height}",
        )  # fmt: skip
        if ok:
            self._session.attempt(lambda: set_screen(document, screen_of(typed)))
            self._follow()
            self._view.update()

    def begin(self, spot: Spot) -> None:
        """Puts the figure on the ground, where there is room nearest to a place."""
        if self._session.ground is None:
            return
        self._look_anew()
        figure = self.figure
        found = figure.mover.nearest(spot) if figure is not None else spot
        if figure is None or not figure.mover.fits(found):
            self._session.attempt(_no_room)
            return
        self._now, self.touched, self._looks = figure.begin(found), "", "E" if figure.side else "S"
        self._zones, self._owed, self._ticks = frozenset(), 0.0, 0
        self._height = self._ground_height()
        if self._view.zoom < 1 or self._view.zoom != int(self._view.zoom):
            self._view.set_zoom(max(1, round(self._view.zoom)))
        self._view.setFocus()
        self._follow()
        self._since.start()
        self._timer.start()
        self._say_keys(figure, found)
        self.changed.emit()
        self._view.update()

    def _say_keys(self, figure: Figure, spot: Spot) -> None:
        keys = "run, up jumps, down drops" if figure.side else "walk"
        ground = self._session.ground
        if ground is not None and not figure.side and stands_unsaid(self._session.derived, ground.id, spot.x, spot.y):
            self._session.say(f"Arrows or W A S D {keys}, Escape ends it; nothing blocks yet.", LET_BLOCK)
            return
        self._session.say(f"Arrows or W A S D {keys}, Escape ends it; you can go on painting meanwhile.")

    def end(self, *_: object) -> None:
        """Takes the figure off the ground."""
        if self.walks:
            self._now = None
            self._held.clear()
            self._played.clear()
            self._timer.stop()
            self._session.say("")  # what was in its way is of no more use
            self.changed.emit()
            self._view.update()

    @property
    def view(self) -> "GroundView":
        """The view over which it walks."""
        return self._view

    def play(self, route: Route) -> None:
        """Walks a route from where it begins; keys count again when it is done."""
        self.end()
        self.begin(Spot(route.x, route.y))
        self._played = [leg.way for leg in route.legs for _ in range(leg.ticks)]

    def press(self, *ways: Way) -> None:
        """Holds ways one after another, each for half a second, whatever the keys say."""
        self._played += [way for way in ways for _ in range(TICKS // 2)]

    def walk(self, ticks: int) -> None:
        """Lets the figure go on for so many steps, as the keys are held."""
        figure, now = self.figure, self._now
        if figure is None or now is None:
            return
        before = now.spot
        self._ticks += ticks
        for _ in range(ticks):
            way = self._played.pop(0) if self._played else self._way()
            self.stepped.emit(way)
            self._look(way, side=figure.side)
            went = figure.tick(now, way)
            if went.touched is not None:
                self._tell_touched(went.touched)
            self._gone += abs(went.spot.x - now.spot.x) + (0 if figure.side else abs(went.spot.y - now.spot.y))
            now = went
        self._now = now
        to = self._ground_height() - self._height
        self._height += max(-ticks, min(ticks, to))
        if now.spot != before:
            self._follow()
            self._tell_zones()

    def _ground_height(self) -> int:
        """How high lies what the figure stands on, in pixels."""
        knitted, spot = self._view.knitted, self.spot
        if knitted is None or spot is None:
            return 0
        return height_at(knitted, self._session.derived.atlas(knitted.ground), *spot)

    def _look(self, way: Way, *, side: bool) -> None:
        """Turns the figure to where it goes; it stands still where it does not."""
        if not WAYS[way][0] and (side or not way):
            self._gone = 0.0
        elif side or len(way) > 1:
            self._looks = "E" if "E" in way else "W"
        else:
            self._looks = way

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self.walks:
            return False
        if event.type() == QEvent.Type.FocusOut:
            self._held.clear()
        if not isinstance(event, QKeyEvent) or event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            return False
        key = event.key()
        if key not in _KEYS and key != Qt.Key.Key_Escape:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            # While one walks, plain letters are no tools.
            event.accept()
            return True
        if event.type() == QEvent.Type.KeyPress and key == Qt.Key.Key_Escape:
            self.end()
            return True
        if event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat() and key not in self._held:
            self._held.append(key)
        if event.type() == QEvent.Type.KeyRelease and not event.isAutoRepeat() and key in self._held:
            self._held.remove(key)
        return True

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws the figure, what stands before it, and the shade that lies on it."""
        knitted, spot, figure = view.knitted, self.spot, self.figure
        if spot is None or figure is None or knitted is None or view is not self._view:
            return
        look = self.costume.look(figure, self._looks, self._gone, self._ticks * 1000 // TICKS)
        pixels, low = look.pixels, spot.y + figure.foot.height / 2
        high, wide = pixels.shape[:2]
        left, top = round(spot.x - look.x), round(spot.y - look.y) - self._height
        scene, shown = self._session.derived.scene(knitted), self.camera()
        if shown is not None:
            layers = (one._replace(layer=scrolled(one.layer, shown.x, shown.y)) for one in scene.layers)
            scene = scene._replace(layers=tuple(layers))
        lit = pixels.astype(np.float32)
        lit[..., :3] *= shade_at(scene, spot.x, spot.y)
        place = view.rect_on_widget(left, top, wide, high)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().colour("ink", 60))
        if not figure.side:
            half = figure.foot.width / 2
            painter.drawEllipse(view.rect_on_widget(spot.x - half, low - 4 - self._height, 2 * half, 5))
        painter.restore()
        painter.drawImage(place, image_of(lit.astype(np.uint8)))
        painter.drawImage(*self._over(scene, PixelRect(left, top, wide, high), low, view))
        if shown is not None and self._session.document.project.screen is not None:
            _draw_frame(painter, view, shown)

    def _over(self, scene: "object", area: PixelRect, foot: float, view: "GroundView") -> tuple[QRectF, QImage]:
        inside = area.inside(PixelRect(0, 0, *view.content_size()))
        if inside.is_empty:
            return QRectF(), QImage()
        drawn = before(scene, inside, foot, self._height)  # type: ignore[arg-type]
        return view.rect_on_widget(*inside), image_of(drawn, premultiplied=True)

    def _go_on(self) -> None:
        """Lets as much time pass as has passed."""
        passed = min(self._since.restart(), _LONGEST_MS)
        self._owed += passed * TICKS / 1000
        ticks = int(self._owed)
        self._owed -= ticks
        self.walk(ticks)
        self._view.update()

    def _way(self) -> Way:
        """Where the held keys lead; of two against one another the later counts."""
        across = next((x for key in reversed(self._held) if (x := _KEYS[key][0])), 0)
        down = next((y for key in reversed(self._held) if (y := _KEYS[key][1])), 0)
        return _NAMES[across, down]

    def _follow(self) -> None:
        """Keeps the figure in the middle, as far as the ground reaches."""
        view, shown = self._view, self.camera()
        if shown is None:
            return
        x, y = shown.x + shown.width / 2, shown.y + shown.height / 2
        view.centre_on(round(x * view.zoom) / view.zoom, round(y * view.zoom) / view.zoom)

    def _look_anew(self) -> None:
        ground = self._session.ground
        dress = self.costume.dress()
        foot = dress.foot if dress is not None else None
        self.figure = Figure(self._session.derived, ground, foot) if ground is not None else None

    def _on_change(self, change: Change) -> None:
        """What is painted changes under the figure at once; it steps aside where it would stand in something."""
        if not self.walks:
            return
        was_side = self.figure is not None and self.figure.side
        self._look_anew()
        figure, spot = self.figure, self.spot
        if figure is None or spot is None:
            return
        fits, turned = figure.mover.fits(spot), figure.side != was_side
        if turned or not fits:
            self._now = figure.begin(spot if fits else figure.mover.nearest(spot))
        if turned:
            self._looks = "E" if figure.side else "S"
            self._say_keys(figure, spot)

    def _tell_touched(self, at: Spot) -> None:
        if self.figure is None:
            return
        piece = blamed(self.figure.solids, self.figure.foot, *at)
        says = f"blocked by {piece.says} on “{piece.layer}”" if piece is not None else "the ground ends here"
        if says != self.touched:
            self.touched = says
            self._session.say(says[0].upper() + says[1:] + ".")

    def _tell_zones(self) -> None:
        ground, spot = self._session.ground, self.spot
        if ground is None or spot is None:
            return
        zones = frozenset(zones_at(ground, self._session.document.project.thing_kinds, spot))
        for name in sorted(zones - self._zones):
            self._session.say(f"Entered “{name}”.")
        self._zones = zones


def _draw_frame(painter: QPainter, view: "GroundView", shown: PixelRect) -> None:
    """What of the ground is on the game's screen; all else lies under a veil."""
    inside, outside = QPainterPath(), QPainterPath()
    inside.addRect(view.rect_on_widget(*shown))
    outside.addRect(QRectF(view.rect()))
    painter.fillPath(outside.subtracted(inside), theme().colour("well", 150))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, width in (("panel", 4), ("thread", 2)):
        painter.setPen(QPen(theme().colour(colour), width))
        painter.drawPath(inside)


def _no_room() -> None:
    raise BadRequest("There is no room for a figure there; begin elsewhere (Shift+F5 begins at the pointer).")
