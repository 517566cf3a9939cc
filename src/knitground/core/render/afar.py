"""Grounds from afar, where a pixel stands for several cells."""

import numpy as np

from knitground.core.grid.projection import PixelRect
from knitground.core.render.pixels import Pixels
from knitground.core.render.scale import Scale, pixels_per
from knitground.core.render.scene import Scene
from knitground.core.render.verbs import verb_of
from knitground.core.render.verbs.verb import Samples

_SAMPLES = 2
_MOST_REACH = 8
_NOTHING = np.zeros((0, 0), dtype=np.int32)


def from_afar(scene: Scene, area: PixelRect, scale: Scale) -> Pixels:
    """A part of a scene of which each pixel stands for several cells: the mean of a few places spread over it."""
    across, down = pixels_per(scene.projection, scale)
    spread = (np.arange(_SAMPLES) + 0.5) / _SAMPLES
    xs = ((area.x + np.arange(area.width))[:, None] + spread).ravel() * across
    ys = ((area.y + np.arange(area.height))[:, None] + spread).ravel() * down
    # Of large tiles the middles of cells are looked at: on borders their lowest row would never be met.
    aside = 0.5 / scale.cells if scale.cells % (2 * _SAMPLES) == 0 else 0.0
    result = np.zeros((len(ys), len(xs), 4), dtype=np.uint8)
    if scene.background is not None:
        width, height = scene.projection.size
        there = ((ys >= 0) & (ys < height))[:, None] & ((xs >= 0) & (xs < width))
        result[there] = (*(int(scene.background[at : at + 2], 16) for at in (1, 3, 5)), 255)
    samples = Samples(scene, xs, ys, (aside * across, aside * down))
    for drawn in scene.layers:
        if drawn.layer.opacity > 0:
            verb_of(drawn).lay_from_afar(result, drawn, samples)
    size = area.height, _SAMPLES, area.width, _SAMPLES, 4
    mean = result.reshape(size).sum(axis=(1, 3), dtype=np.uint16)
    return np.asarray((mean + _SAMPLES) // _SAMPLES**2, dtype=np.uint8)
