"""The prop layer: things that are placed freely, in an order of their own or by where their feet are."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.grid.projection import Projection
from knitground.core.grid.rect import CellRect
from knitground.core.layers.items import ThingItems
from knitground.core.layers.layer import Layer, Place, Planes, PlaneSpec
from knitground.core.layers.source import Sets, Source
from knitground.core.layers.thing import MOST_THINGS, Thing, shifted
from knitground.core.tiles.tile import TileRef

Order = Literal["foot", "hand"]


@dataclass(frozen=True)
class PropLayer(Layer):
    """Things, from the back to the front where their order is by hand; else by how far down their feet are."""

    things: Annotated[tuple[Thing, ...], Field(max_length=MOST_THINGS)] = ()
    order: Order = "foot"
    kind: Literal["props"] = "props"

    title: ClassVar[str] = "prop layer"
    takes_areas: ClassVar[bool] = False
    places_things: ClassVar[bool] = True

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "PropLayer | None":
        return cls(layer_id, name, stacking="depth") if set_id is None else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [("Prop layer", "Props", None)]

    def on_cells(self) -> "PropLayer":
        return self

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {}

    @property
    def area_plane(self) -> str:
        return ""

    @property
    def refuses(self) -> str:
        return "holds things; choose a layer of tiles or terrains for this"

    @property
    def in_order(self) -> Sequence[Thing]:
        """Its things as they are drawn, from the back to the front."""
        return sorted(self.things, key=lambda thing: thing.y) if self.order == "foot" else self.things

    @cached_property
    def sprites(self) -> tuple[TileRef, ...]:
        return tuple(dict.fromkeys(thing.tile for thing in self.things if thing.tile))

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "PropLayer":
        if all(exchanged(ref) == ref for ref in self.sprites):
            return self
        return replace(
            self, things=tuple(replace(one, tile=exchanged(one.tile)) if one.tile else one for one in self.things)
        )

    def problem(self, sets: Sets) -> str:
        if len({thing.id for thing in self.things}) < len(self.things):
            return "holds two things with the same id; give each an id of its own"
        lost = {thing.kind for thing in self.things} - {kind.id for kind in sets.thing_kinds} - {""}
        return f"names the kind of things “{min(lost)}”, and there is none such" if lost else ""

    def stretched(self, across: float, down: float) -> "PropLayer":
        return replace(
            self,
            things=tuple(shifted(one, one.x * (across - 1), one.y * (down - 1)) for one in self.things),
        )

    def round_moved(self, projection: Projection, down: int, across: int) -> "PropLayer":
        board = projection.board

        def moved(thing: Thing) -> Thing:
            y, x = projection.place(thing.x, thing.y)
            # What lies off the ground stays off it.
            if not (0 <= y <= board.height and 0 <= x <= board.width):
                return thing
            to = projection.point((y + down) % board.height or board.height, (x + across) % board.width)
            return replace(thing, x=float(to[0]), y=float(to[1]))

        return replace(self, things=tuple(moved(thing) for thing in self.things))

    def moved(self, across: float, down: float) -> "PropLayer":
        if not across and not down:
            return self
        return replace(self, things=tuple(shifted(thing, across, down) for thing in self.things))

    def drawn(self, planes: Planes, codes: Callable[[CellRect], NDArray[np.int32]]) -> ThingItems:
        """Its things, and how they are ordered.

        Parameters
        ----------
        planes : mapping of name to Plane
            It has none.
        codes : callable
            Not asked: it lays no tiles, and would give (height, width) int32.
        """
        return ThingItems(self.things, self.sprites, self.order == "foot")

    def why(self, place: Place, source: Source) -> str:
        count = len(self.things)
        return f"a layer of {count} thing{'s' if count != 1 else ''}"


def as_props(layer: Layer) -> PropLayer | None:
    """The layer as a prop layer, if it is one."""
    return layer if isinstance(layer, PropLayer) else None
