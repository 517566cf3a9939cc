"""Tools on prop layers: placing sprites and points, drawing shapes, picking and removing things."""

import math
from dataclasses import replace
from typing import TYPE_CHECKING, ClassVar

import numpy as np
from PySide6.QtGui import QPainter

from knitground.app.canvas.thing_marks import draw_frames, draw_things
from knitground.app.chosen_things import ChosenThings
from knitground.app.tools import Tool, held_down
from knitground.app.tools.advice import advise_of_things
from knitground.core.chance import chance, choose
from knitground.core.edits.painting import Spot
from knitground.core.edits.placing import Snap, drawn_polygon, drawn_shape, place, remove, snapped, thing_at, things_on
from knitground.core.errors import BadRequest
from knitground.core.grow.mix import leaves
from knitground.core.layers.thing import Form, Thing
from knitground.core.project.document import Document
from knitground.core.tiles.tile import TileRef

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_NEAR = 5
_SHORTEST = 2
Place = tuple[float, float]


class ThingTool(Tool):
    """Base of the tools on things; places are pixels of the ground."""

    on_things = True

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.chosen = ChosenThings(session)
        self.view: GroundView | None = None
        self._at: Place | None = None

    def hover(self, at: Spot | None) -> None:
        self._at = None if at is None else self.pixel(at)

    def leave(self) -> None:
        self._at = None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        self.view = view

    def press(self, at: Spot, *, erase: bool = False) -> None:
        things_on(*self.here)
        if erase:
            self._remove_at(self.pixel(at))
        else:
            self.begin(at)

    def begin(self, at: Spot) -> None:
        """Begins a drag that may lay something; the layer is known to take it."""

    def pixel(self, at: Spot) -> Place:
        """The pixel of the ground at a flat place."""
        ground = self.session.ground
        return (0.0, 0.0) if ground is None else tuple(map(float, ground.projection.point(*at)))  # type: ignore[return-value]

    def snapped(self, at: Place, form: Form) -> Place:
        """Where a thing would lie."""
        ground = self.session.ground
        return at if ground is None else snapped(ground, *at, self.session.snap, form)

    def near(self, at: Place) -> Thing | None:
        """The thing in front at a place."""
        layer = self.session.props
        return None if layer is None else thing_at(layer, *at, self.within(), self.session.sizes())

    def within(self) -> float:
        """How many pixels of the ground beside a thing it is still met."""
        return _NEAR / (self.view.zoom if self.view else 1.0)

    @property
    def here(self) -> tuple[Document, str, str]:
        """The document, and the ground and layer at hand."""
        return self.chosen.here

    def _remove_at(self, at: Place) -> None:
        thing = self.near(at)
        if thing is not None:
            remove(*self.here, {thing.id})


class PlaceThing(ThingTool):
    """Places the tile in hand, or a point where no tile is in hand."""

    name, title, icon, key = "draw", "Draw", "draw", "D"
    tip = "Draw: click to place, drag to move it before it is let go, right button takes away"
    verb = "places"
    options: ClassVar[tuple[str, ...]] = ("snap",)
    lays_tile = True

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._held: Thing | None = None

    def begin(self, at: Spot) -> None:
        self._held = self._made(self.pixel(at))

    def drag(self, at: Spot) -> None:
        self._at = self.pixel(at)
        if self._held is not None:
            x, y = self.snapped(self._at, self._held.form)
            self._held = replace(self._held, x=x, y=y)

    def release(self, at: Spot) -> None:
        held, self._held = self._held, None
        if held is not None:
            self.session.choose(things=frozenset(place(*self.here, [held])))
            advise_of_things(self.session)
            self.session.choose(throw=self.session.choices.throw + self.session.choices.lays_mix)

    def leave(self) -> None:
        super().leave()
        self._held = None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        super().paint(painter, view)
        layer = self.session.props
        thing = self._held or (self._made(self._at) if self._at and layer and not layer.locked else None)
        if thing is not None:
            draw_things(painter, view, self.session, [thing])

    def _made(self, at: Place) -> Thing:
        number = float(chance(self.session.choices.throw, [0], [0])[0])
        form: Form = "sprite" if self._tile(number) is not None else "point"
        return self.made_at(self.snapped(at, form), number)

    def made_at(self, at: Place, number: float) -> Thing:
        """What is in hand as a thing; of a mix the tile on which a number from 0 to 1 falls."""
        chosen, tile = self.session.choices, self._tile(number)
        form: Form = "sprite" if tile is not None else "point"
        turn, mirrored = (chosen.turn, chosen.mirrored) if tile is not None else (0.0, False)
        kind, light = self.session.thing_kind, chosen.light
        return Thing("new", *at, form, tile, turn=turn, mirrored=mirrored, kind=kind, light=light)

    def _tile(self, number: float) -> TileRef | None:
        """The tile in hand, or what the mix in hand throws."""
        mix = self.session.mix if self.session.choices.lays_mix else None
        within = leaves(mix, self.session.document.project.mixes) if mix is not None else []
        parts = [(part.tile, weight) for part, weight in within if part.tile is not None and weight > 0]
        if not parts:
            return self.session.choices.tile
        chosen: TileRef = parts[int(choose([weight for _, weight in parts], np.array([number]))[0])][0]
        return chosen


class EraseThings(ThingTool):
    """Takes things away under the pointer."""

    name, title, icon, key = "erase", "Erase", "erase", "X"
    tip = "Erase: drag over things to take them away"
    verb = "takes away"

    def press(self, at: Spot, *, erase: bool = False) -> None:
        things_on(*self.here)
        self.session.document.begin("remove things")
        self.drag(at)

    def drag(self, at: Spot) -> None:
        self._at = self.pixel(at)
        if self.session.document.gesture is not None:
            self._remove_at(self._at)

    def release(self, at: Spot) -> None:
        self.session.document.commit()

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        super().paint(painter, view)
        thing = self.near(self._at) if self._at else None
        if thing is not None:
            draw_frames(painter, view, [thing], self.session.sizes())


class ShapeThings(ThingTool):
    """Draws boxes, rounds and lines; a form without a filling becomes a polygon drawn by hand."""

    name, title, icon, key = "area", "Area", "area", "A"
    tip = "Area: drag a shape, Shift keeps it even"
    verb = "draws"
    options = ("form", "snap")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._start: Place | None = None
        self._end: Place = (0.0, 0.0)
        self._way: list[Place] = []

    @property
    def form(self) -> Form:
        """What is drawn."""
        forms: dict[str, Form] = {"box": "box", "round": "round", "line": "line"}
        return forms.get(self.session.choices.form, "polygon")

    def begin(self, at: Spot) -> None:
        self._start = self._end = self._corner(at)
        self._way = [self._start]

    def drag(self, at: Spot) -> None:
        if self._start is not None:
            self._end = self._corner(at)
            if self._end != self._way[-1]:
                self._way.append(self._end)

    def release(self, at: Spot) -> None:
        start, self._start = self._start, None
        if start is None:
            return
        if math.dist(start, self._end) < _SHORTEST and self.form != "polygon":
            says = "Drag from one corner of the shape to the other; a click alone draws nothing."
            # Who has a tile in hand may have meant to place that.
            self.session.say(says, *["Tool: Draw"] * (self.session.choices.tile is not None))
            return
        self.session.choose(things=frozenset(place(*self.here, [self._made(start)])))

    def leave(self) -> None:
        super().leave()
        self._start = None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        super().paint(painter, view)
        if self._start is not None and (self.form != "polygon" or len(self._way) > 3):
            shown = self.session.attempt(lambda: self._made(self._start or (0.0, 0.0)))
            if shown is not None:
                draw_things(painter, view, self.session, [shown])

    def _made(self, start: Place) -> Thing:
        made = drawn_polygon(self._way) if self.form == "polygon" else drawn_shape(self.form, start, self._end)
        return replace(made, kind=self.session.thing_kind)

    def _corner(self, at: Spot) -> Place:
        x, y = self.pixel(at)
        if held_down() and self._start is not None:
            across, down = x - self._start[0], y - self._start[1]
            side = max(abs(across), abs(down))
            x, y = self._start[0] + math.copysign(side, across), self._start[1] + math.copysign(side, down)
        ground = self.session.ground
        # Corners of shapes lie where cells meet.
        snap: Snap = "half" if self.session.snap == "cell" else self.session.snap
        return (x, y) if ground is None else snapped(ground, x, y, snap, "point")


class PickThing(ThingTool):
    """Takes the tile of a thing in hand, as it is turned."""

    name, title, icon, key = "pick", "Pick", "pick", "K"
    tip = "Pick: click a thing to place another such"
    verb = "takes in hand"

    def press(self, at: Spot, *, erase: bool = False) -> None:
        thing = self.near(self.pixel(at))
        if thing is None:
            return
        session = self.session
        session.choose(thing_kind=thing.kind)
        if thing.tile is not None:
            session.choose(tile=thing.tile, lays_mix=False, turn=thing.turn, mirrored=thing.mirrored)
        session.tool_wanted.emit("draw")


class Unfit(Tool):
    """Stands for a tool that has nothing to do on a prop layer, and says so."""

    on_things = True
    verb = "does nothing"

    def __init__(self, session: "Session", kind: type[Tool]) -> None:
        super().__init__(session)
        self.name, self.title = kind.name, kind.title  # type: ignore[misc]

    def press(self, at: Spot, *, erase: bool = False) -> None:
        raise BadRequest(
            f"{self.title} works on tiles and terrains; on a prop layer take Draw (D), Area (A) or Select (S)."
        )
