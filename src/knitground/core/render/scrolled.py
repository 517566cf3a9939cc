"""Parallax: layers that move with the view faster or slower than the ground does."""

from collections.abc import Iterable
from dataclasses import replace
from itertools import groupby
from typing import TypeVar

from knitground.core.layers.layer import Layer

L = TypeVar("L", bound=Layer)


def scrolls(layers: Iterable[Layer]) -> bool:
    """Whether some layer moves otherwise than the ground."""
    return any((layer.parallax_x, layer.parallax_y) != (1, 1) for layer in layers)


def scrolled_by(layer: Layer, left: float, top: float) -> tuple[int, int]:
    """How many pixels right and down a layer lies from where it is painted, when the view begins at a place.

    A layer of half the speed is left behind by half of what the view has gone from the left top corner of the ground.

    Parameters
    ----------
    left, top : float
        The left top corner of the view, in pixels of the ground.
    """
    return round(left * (1 - layer.parallax_x)), round(top * (1 - layer.parallax_y))


def scrolled(layer: L, left: float, top: float) -> L:
    """A layer as it lies when the view begins at a place; see `scrolled_by`."""
    across, down = scrolled_by(layer, left, top)
    return replace(layer, offset_x=layer.offset_x + across, offset_y=layer.offset_y + down) if across or down else layer


def strips(layers: Iterable[Layer]) -> list[tuple[Layer, ...]]:
    """Layers in strips of neighbours that move alike; those that shade what lies below stand alone."""

    def key(numbered: tuple[int, Layer]) -> tuple[object, ...]:
        number, layer = numbered
        return layer.parallax_x, layer.parallax_y, number if layer.shades_below else -1

    return [tuple(layer for _, layer in some) for _, some in groupby(enumerate(layers), key)]
