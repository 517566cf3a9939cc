"""What blocks, and what hangs together for a figure, drawn over the ground."""

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING, Any, NamedTuple

import shapely
from PySide6.QtCore import QObject, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from knitground.app.allowed import NO_GROUND
from knitground.app.asking import show_once
from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.tools.preview import draw_cover
from knitground.app.walk.leaping import Leaping
from knitground.app.walk.rules_dialog import RulesDialog
from knitground.core.edits.barring import let_block, standing_on
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.project.document import Change
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.goals import marks_of
from knitground.core.walk.reach import part_name
from knitground.core.walk.room import USUAL_FOOT
from knitground.core.walk.solid import Solids
from knitground.core.walk.survey import Survey, surveyed

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

LET_BLOCK = "Let what stands on the ground block"
_MOST_CELLS = 96 * 96
_AT_ONCE = 128 * 128
_BEYOND = 64
_VEIL = 90
_PARTS = ("#2f7f8f", "#b8862b", "#8a5a9a", "#5a7d2a", "#3d5fa0", "#a0522d")


class _Shown(NamedTuple):
    """The shapes that are shown: of which state of the document, of what, where, and whether newer ones are due."""

    state: object
    of: object
    area: PixelRect
    shape: Any
    waited: bool = False


class Blocked(QObject):
    """Draws them while they are asked for."""

    surveyed = Signal()
    """A large ground was looked through."""

    def __init__(self, session: Session, view: "GroundView") -> None:
        super().__init__(view)
        self._session, self._view = session, view
        self.shows_shapes = self.shows_parts = False
        self._wanted: set[object] = set()
        self._shapes: _Shown | None = None
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(view.update)
        self._kind = FEET
        self.leaping = Leaping(session, view)
        self.survey: Survey | None = None
        self._stale: list[PixelRect] | None = None
        self._job: Job | None = None
        view.overlays.insert(0, self.paint)
        session.changed.connect(self._on_change)
        session.opened.connect(self._forget)
        session.on_choice(self._forget, "ground_id")

    def commands(self) -> list[Command]:
        """What one can look at."""
        return [
            Command("Show or hide what blocks", self.toggle_shapes, ("Shift+Z",), "ground"),
            Command("Show the next kind of shapes", self.next_kind, ("Alt+Z",), "ground"),
            Command("What blocks…", self.choose_rules),
            Command(LET_BLOCK, self.let_block, refused=self._why_not),
            Command("Show or hide what hangs together", self.toggle_parts, ("Shift+J",), "ground"),
        ]

    def choose_rules(self) -> None:
        """Asks which terrains, marks and tags block as a whole, and shows what blocks meanwhile."""
        self.shows_shapes = True
        show_once(RulesDialog(self._session, self._view.window()))
        self._view.update()

    def let_block(self) -> None:
        """Lets all that stands on the ground block, and shows it; a large ground is looked through beside."""
        ground, frozen = self._session.ground, self._session.derived.at_this_moment()
        if ground is None:
            return
        if ground.height * ground.width <= _AT_ONCE:
            self._let_block(standing_on(frozen, ground.id))
        else:
            look = lambda progress: standing_on(frozen, ground.id, progress=progress)  # noqa: E731
            self._session.run(Job("Looking for what stands", look), self._let_block)

    def _let_block(self, standing: list[TileRef]) -> None:
        count = self._session.attempt(lambda: let_block(self._session.document, standing))
        if count:
            self.shows_shapes = True
            self._view.update()
            many = "1 tile blocks" if count == 1 else f"{count} tiles block"
            self._session.say(
                f"{many} now; under Sheet, Tiles their shapes can be drawn closer. Shift+Z hides what blocks."
            )

    def _why_not(self) -> str:
        return "" if self._session.ground is not None else NO_GROUND

    def toggle_shapes(self) -> None:
        """Shows all that blocks over the ground, or hides it."""
        self.shows_shapes, self._shapes = not self.shows_shapes, None
        self._view.update()

    def next_kind(self) -> None:
        """Shows the shapes of the next kind in place of those of the last."""
        kinds = self._session.document.project.shape_kinds
        at = next((number for number, one in enumerate(kinds) if one.id == self._kind), -1)
        chosen = kinds[(at + self.shows_shapes) % len(kinds)]
        self._kind, self.shows_shapes = chosen.id, True
        self._session.say(f"Shown: {chosen.name.lower()}. Alt+Z shows the next kind, Shift+Z hides it.")
        self._view.update()

    def toggle_parts(self) -> None:
        """Shows the parts that hang together for a figure, or hides them."""
        self.shows_parts = not self.shows_parts
        self._survey_anew()
        self._view.update()

    def want(self, who: object, *, wanted: bool = True) -> None:
        """Notes that somebody else needs to know what hangs together, or no longer does."""
        (self._wanted.add if wanted else self._wanted.discard)(who)

    def look(self) -> Survey | None:
        """What hangs together on the ground as it is now; none while a large one is looked through."""
        self._survey_anew()
        return self.survey if self._job is None else None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws what is asked for."""
        ground, at_hand = self._session.ground, self._session.layer
        if ground is None:
            return
        for layer in ground.shown():
            if layer.marks_walking and (layer == at_hand or self.shows_shapes):
                self._paint_marks(painter, view, layer)
        if not (self.shows_shapes or self.shows_parts):
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.shows_parts and self.leaping.here:
            self.leaping.paint(painter, view)
        elif self.shows_parts:
            self._survey_anew()
            if self.survey is not None:
                self._paint_parts(painter, view, self.survey)
        if self.shows_shapes:
            seen = view.seen_pixels()
            cells = view.cells_in_view()
            if cells.height * cells.width > _MOST_CELLS:
                self._session.say("Zoom in to see what blocks; so many shapes at once would be a blur.")
            else:
                colour = self._colour()
                painter.setPen(QPen(colour.darker(160), 1.5))
                colour.setAlpha(_VEIL)
                painter.setBrush(colour)
                painter.drawPath(path_of(self._union(seen, ground), view))
        painter.restore()

    def _paint_marks(self, painter: QPainter, view: "GroundView", layer: Layer) -> None:
        """The cells that are marked on a walk layer, each mark in its colour."""
        cells, knitted = view.cells_in_view(), view.knitted
        if knitted is None or cells.is_empty:
            return
        marks = knitted.planes[layer.id][layer.area_plane].read(cells)
        for number, mark in enumerate(layer.terrains(self._session.document.project), start=1):
            mask = marks == number
            if mask.any():
                draw_cover(painter, view, "cells", Shape(cells, mask), QColor(mark.colour))

    def _colour(self) -> QColor:
        """The colour of the kind of shapes that is shown."""
        kinds = self._session.document.project.shape_kinds
        kind = next((one for one in kinds if one.id == self._kind), kinds[0])
        self._kind = kind.id
        return QColor(kind.colour)

    def _union(self, seen: PixelRect, ground: Ground) -> Any:
        """What blocks in an area and a little round it, kept as long as nothing changes.

        After a change it shows once as it was, so that the change itself is not kept waiting.
        """
        state, of, shown = self._session.document.state, (ground.id, ground.projection, self._kind), self._shapes
        if shown is not None and shown.of == of and seen.inside(shown.area) == seen:
            if shown.state == state:
                return shown.shape
            if not shown.waited:
                self._shapes = shown._replace(waited=True)
                self._soon.start()
                return shown.shape
        area = seen.grown(*[_BEYOND] * 4)
        shape = Solids(self._session.derived, ground.id, self._kind).union(area)
        self._shapes = _Shown(state, of, area, shape)
        return shape

    def _paint_parts(self, painter: QPainter, view: "GroundView", survey: Survey) -> None:
        seen, reach = view.seen_pixels(), survey.reach
        painter.setPen(Qt.PenStyle.NoPen)
        for key, room in reach.rooms.items():
            if room.area.inside(seen).is_empty:
                continue
            for piece, part in zip(room.pieces, reach.parts_in(key).tolist(), strict=True):
                colour = QColor(_PARTS[part % len(_PARTS)])
                colour.setAlpha(80)
                painter.setBrush(colour)
                painter.drawPath(path_of(piece, view))
        for part, spot in self._labels(survey):
            _draw_letter(painter, view.to_widget(*spot), part)

    def _labels(self, survey: Survey) -> Iterator[tuple[int, tuple[float, float]]]:
        """Where each part bears its letter: in the largest of its pieces that are seen, and at spawns and goals."""
        seen = self._view.seen_pixels()
        best: dict[int, tuple[float, tuple[float, float]]] = {}
        for key, room in survey.reach.rooms.items():
            if room.area.inside(seen).is_empty:
                continue
            for piece, part in zip(room.pieces, survey.reach.parts_in(key).tolist(), strict=True):
                if piece.area > best.get(part, (0.0, (0.0, 0.0)))[0]:
                    middle = shapely.point_on_surface(piece)
                    best[part] = piece.area, (middle.x, middle.y)
        ground = self._session.ground
        kinds = self._session.document.project.thing_kinds
        for mark in marks_of(ground, kinds) if ground is not None else ():
            part = survey.reach.part_at(mark.spot)
            # The largest part goes without saying.
            if part > 0:
                yield part, (mark.spot.x, mark.spot.y - 14)
        yield from ((part, spot) for part, (_, spot) in best.items())

    def _survey_anew(self) -> None:
        """Looks again at what changed; a large ground beside the interface."""
        ground, derived = self._session.ground, self._session.derived
        parts = self.shows_parts and not self.leaping.here
        if not (parts or self._wanted) or ground is None or self._job is not None:
            return
        if self.survey is not None and self._stale == []:
            return
        before, changed = (self.survey, self._stale or []) if self._stale is not None else (None, [])
        name, frozen = ground.id, derived.at_this_moment()
        self._stale = []

        def work(progress: Callable[[float], None]) -> Survey:
            return surveyed(frozen, name, USUAL_FOOT, before, changed, progress=progress)

        if ground.height * ground.width <= _AT_ONCE:
            self.survey = work(lambda share: None)
            return
        job = Job("Looking at what hangs together", work)
        job.failed.connect(lambda sentence: self._forget())
        job.ended.connect(partial(self._end, job))
        self._job = job
        self._session.run(job, self._take)

    def _take(self, survey: Survey) -> None:
        self._job = None
        self.survey = survey
        self.surveyed.emit()
        self._view.update()

    def _end(self, job: Job) -> None:
        """Who stopped it does not want it shown; asking again looks again."""
        if self._job is job:
            self.shows_parts = False
            self._forget()

    def _forget(self, *_: object) -> None:
        if self._job is not None:
            self._job.cancel()
        self._job = self.survey = self._stale = self._shapes = None
        self._view.update()

    def _on_change(self, change: Change) -> None:
        ground = self._session.ground
        if change.defined or ground is None:
            self._stale = None
            return
        if self._stale is not None:
            far = self._session.derived.atlas(ground).overhang
            self._stale += [
                ground.projection.bounds(cells).grown(*far)
                for ground_id, _, cells in self._session.derived.reached
                if ground_id == ground.id and not cells.is_empty
            ]


def path_of(shape: Any, view: "GroundView") -> QPainterPath:
    """A shape in pixels of the ground as a path on the widget, with its holes."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for part in shapely.get_parts(shape):
        if isinstance(part, shapely.Polygon):
            for ring in (part.exterior, *part.interiors):
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in shapely.get_coordinates(ring).tolist()]))
                path.closeSubpath()
    return QTransform(view.zoom, 0, 0, view.zoom, view.origin.x(), view.origin.y()).map(path)


def _draw_letter(painter: QPainter, at: QPointF, part: int) -> None:
    room = QRectF(at.x() - 9, at.y() - 9, 18, 18)
    painter.setBrush(QColor(_PARTS[part % len(_PARTS)]))
    painter.setPen(QPen(QColor(250, 246, 238), 1.5))
    painter.drawRoundedRect(room, 4, 4)
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter, part_name(part))
    painter.setPen(Qt.PenStyle.NoPen)
