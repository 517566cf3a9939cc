"""Lights: how much of the shade they take away, and in which colour.

Each light takes a share of what shade lacks to white, its colour's share of each channel; of several, each takes its
share of what the others leave. So shade becomes brighter round lights and nothing else changes.
"""

import math
import zlib
from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.filled import filled
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.layer import Layer
from knitground.core.layers.light import Light
from knitground.core.layers.props import as_props

STEP_MS = 80
"""How often a flickering light changes."""
_FINE = 2
_ASIDE = (0.0037, 0.0023)
"""How far outlines of what is lit lie aside, in pixels, so that no point that is asked for lies on one."""
_WAVES = ((0.0037, 0.5), (0.0091, 0.3), (0.0223, 0.2))
Axis = NDArray[np.floating[Any]]
Colours = NDArray[np.float32]


class Lamp(NamedTuple):
    """A light where it stands, in pixels of the ground.

    Attributes
    ----------
    name : str
        By which lights flicker apart.
    """

    x: float
    y: float
    light: Light
    name: str


def lamp_name(layer_id: str, thing_id: str) -> str:
    """The name of the light of a thing on a layer."""
    return f"{layer_id} {thing_id}"


def lamps_of(layers: Iterable[Layer]) -> tuple[Lamp, ...]:
    """The lights on some layers."""
    return tuple(
        Lamp(thing.x + layer.offset_x, thing.y + layer.offset_y, thing.light, lamp_name(layer.id, thing.id))
        for layer in layers
        if (props := as_props(layer)) is not None
        for thing in props.things
        if thing.light is not None
    )


class Lights:
    """The lights of a ground, and what each of them reaches.

    Parameters
    ----------
    lamps : tuple of Lamp
    squash : float
        How high a round of one pixel across is on the screen.
    blocks : callable
        What stops sight in an area of the ground's pixels.
    into : float
        How deep what stops sight is lit, in pixels.
    """

    def __init__(self, lamps: tuple[Lamp, ...], squash: float, blocks: Callable[[PixelRect], Any], into: float) -> None:
        self.lamps, self._squash, self._blocks, self._into = lamps, squash, blocks, into
        self._seen: dict[Lamp, Any] = {}

    def touched(self, area: PixelRect) -> list[PixelRect]:
        """What else is lit otherwise after something in an area changed: all that the lights near it reach."""
        found = []
        for lamp in [one for one in self._seen if one.light.shadows]:
            room = self.room(lamp)
            if not room.inside(area).is_empty:
                del self._seen[lamp]
                found.append(room)
        return found

    def room(self, lamp: Lamp) -> PixelRect:
        """The pixels of the ground that a light may reach."""
        far = math.ceil(lamp.light.reach) + 1
        down = math.ceil(lamp.light.reach * self._squash) + 1
        return PixelRect(math.floor(lamp.x) - far, math.floor(lamp.y) - down, 2 * far + 1, 2 * down + 1)

    def covered(self, name: str) -> list[list[tuple[float, float]]] | None:
        """The outlines of what a light reaches, for the light of this name; none where nothing keeps it off.

        A place lies inside if it lies in an odd number of them; they are those of a square as large as the light.
        """
        lamp = next((one for one in self.lamps if one.name == name), None)
        if lamp is None or not lamp.light.shadows or self._blocks(self.room(lamp)).is_empty:
            return None
        import shapely

        rings = (
            ring
            for part in shapely.get_parts(self._seen_from(lamp))
            if isinstance(part, shapely.Polygon)
            for ring in (part.exterior, *part.interiors)
        )
        return [[(x, y) for x, y in np.round(shapely.get_coordinates(ring)[:-1], 4).tolist()] for ring in rings]

    def left(self, xs: Axis, ys: Axis, levels: Mapping[str, float] | None = None) -> Colours | None:
        """How much of a shade the lights leave; None where they leave all of it.

        Parameters
        ----------
        xs : (W,) float64
            Evenly spaced columns, in pixels of the ground.
        ys : (H,) float64
        levels : mapping of name to float, optional
            How strongly lights shine, from 0 to 1; those not named as strongly as they can.

        Returns
        -------
        left : (H, W, 3) float32
            From 0 to 1, of each colour.
        """
        left: Colours | None = None
        for lamp in self.lamps:
            room = self.room(lamp)
            first, last = np.searchsorted(xs, [room.x, room.right])
            top, bottom = np.searchsorted(ys, [room.y, room.bottom])
            if first >= last or top >= bottom:
                continue
            bright = self._bright(lamp, xs[first:last], ys[top:bottom]) * np.float32((levels or {}).get(lamp.name, 1.0))
            colour = np.array([int(lamp.light.colour[at : at + 2], 16) / 255 for at in (1, 3, 5)], dtype=np.float32)
            if left is None:
                left = np.ones((len(ys), len(xs), 3), dtype=np.float32)
            left[top:bottom, first:last] *= 1 - bright[..., None] * colour
        return left

    def _bright(self, lamp: Lamp, xs: Axis, ys: Axis) -> Colours:
        """How bright a light makes places, (H, W) float32: it fades as smoothly as it is soft."""
        light = lamp.light
        away = np.hypot((xs - lamp.x)[None, :], ((ys - lamp.y) / self._squash)[:, None]).astype(np.float32)
        edge = max(light.softness * light.reach, 1e-3)
        share = np.clip((light.reach - away) / edge, 0, 1)
        bright = share * share * (3 - 2 * share)
        if light.shadows:
            bright *= _drawn(self._seen_from(lamp), xs, ys)
        return np.asarray(bright, dtype=np.float32)

    def _seen_from(self, lamp: Lamp) -> Any:
        if lamp not in self._seen:
            import shapely

            from knitground.core.walk.sight import seen_from  # slow to import, and needed for shadows only

            far = math.ceil(lamp.light.reach) + 1
            seen = seen_from(lamp.x, lamp.y, far, self._blocks(self.room(lamp)), self._into)
            self._seen[lamp] = shapely.transform(seen, lambda corners: corners + _ASIDE)
        return self._seen[lamp]


def dimmest(lamps: Iterable[Lamp]) -> dict[str, float]:
    """How strongly lights that flicker shine at the least, by their names."""
    return {lamp.name: 1 - lamp.light.flicker for lamp in lamps if lamp.light.flicker}


def strength(lamp: Lamp, ms: int) -> float:
    """How strongly a light shines at a moment, from 0 to 1: 1 if it does not flicker."""
    if not lamp.light.flicker:
        return 1.0
    # Rounds of different lengths that do not fit into one another look like none, and are the same on every machine.
    at = ms // STEP_MS * STEP_MS + zlib.crc32(lamp.name.encode()) % 100_000
    wave = sum(share * math.sin(at * speed * 2) for speed, share in _WAVES)
    return 1 - lamp.light.flicker * (0.5 - 0.5 * wave)


def _drawn(shape: Any, xs: Axis, ys: Axis) -> Colours:
    """How much of each place lies in a shape, (H, W) float32.

    Parameters
    ----------
    xs : (W,) float64
        Evenly spaced.
    ys : (H,) float64
    """
    across = float(xs[-1] - xs[0]) / (len(xs) - 1) if len(xs) > 1 else 1.0
    down = float(ys[-1] - ys[0]) / (len(ys) - 1) if len(ys) > 1 else across
    begin = float(xs[0]) - across / 2, float(ys[0]) - down / 2
    inside = filled(shape, len(xs) * _FINE, len(ys) * _FINE, begin, (across / _FINE, down / _FINE))
    return np.asarray(inside.reshape(len(ys), _FINE, len(xs), _FINE).mean(axis=(1, 3)), dtype=np.float32)
