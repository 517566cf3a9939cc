"""What the compositor draws: a ground's projection, the draw items of its layers, and the sprites."""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import Projection
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.items import DrawItems, Frames
from knitground.core.layers.layer import Layer, Planes
from knitground.core.render.atlas import Atlas
from knitground.core.render.lights import Lights
from knitground.core.tiles.tile import EMPTY

Exchange = Callable[[NDArray[np.int32], CellRect], NDArray[np.int32]]
"""Gives cell codes in place of those of some cells: frames of animations, say."""


class Drawn(NamedTuple):
    """A layer as it is drawn."""

    layer: Layer
    items: DrawItems


class Scene(NamedTuple):
    """All that is drawn of a ground, the lowest layer first."""

    projection: Projection
    layers: tuple[Drawn, ...]
    atlas: Atlas
    background: str | None = None
    lights: Lights | None = None
    levels: Mapping[str, float] | None = None
    """How strongly lights shine, by their names; others, and all if not given, as strongly as they can."""


class Shown(Protocol):
    """A ground with its tiles, as it is or as it would be."""

    @property
    def ground(self) -> Ground: ...

    @property
    def planes(self) -> Mapping[str, Planes]: ...

    def codes(self, layer_id: str, rect: CellRect) -> NDArray[np.int32]:
        """What lies on a layer.

        Parameters
        ----------
        layer_id : str
        rect : CellRect

        Returns
        -------
        codes : (rect.height, rect.width) int32
        """


def scene_of(
    knitted: Shown,
    atlas: Atlas,
    layers: Sequence[Layer] | None = None,
    exchange: Exchange | None = None,
    frames: Frames | None = None,
    lights: Lights | None = None,
) -> Scene:
    """The scene of a ground.

    Parameters
    ----------
    knitted : Shown
        A `Knitted`, or what stands in for one.
    atlas : Atlas
        For cells of the ground's size.
    layers : sequence of Layer, optional
        Which to draw; those that show, over the ground's background, if not given.
    exchange : callable, optional
        What is drawn in place of the tiles that lie there.
    frames : mapping, optional
        What things show in place of their tiles.
    lights : Lights, optional
        What takes shade away.
    """
    shown = knitted.ground.shown() if layers is None else layers
    return Scene(
        knitted.ground.projection,
        tuple(_drawn(knitted, layer, exchange, frames or {}) for layer in shown if layer.id in knitted.planes),
        atlas,
        knitted.ground.background if layers is None else None,
        lights,
    )


def without_gaps(codes: NDArray[np.int32]) -> NDArray[np.int32]:
    """Cell codes without marks of gaps: those are for the eye at work, not for a delivered picture.

    Parameters
    ----------
    codes : (H, W) int32
    """
    return np.maximum(codes, EMPTY)


def _drawn(knitted: Shown, layer: Layer, exchange: Exchange | None, frames: Frames) -> Drawn:
    def codes(cells: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle, as they show now.

        Parameters
        ----------
        cells : CellRect

        Returns
        -------
        codes : (height, width) int32
        """
        found = knitted.codes(layer.id, cells)
        return found if exchange is None else exchange(found, cells)

    return Drawn(layer, layer.drawn(knitted.planes[layer.id], codes).showing(frames))
