"""What each kind of draw items has to know about becoming pixels."""

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.render.pixels import Pixels
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.sprites import SpriteSheet


class View(NamedTuple):
    """What of a scene is drawn.

    Attributes
    ----------
    scene : Scene
    small : Projection
        At the scale of the pixels.
    area : PixelRect
        In pixels of the scale.
    left : callable
        Gives how much of the shade lights leave in the area, (height, width, 3) float32; None where all of it stays.
    """

    scene: Scene
    small: Projection
    area: PixelRect
    left: Callable[[], NDArray[np.float32] | None]


class Samples(NamedTuple):
    """Places of a scene of which the colours are looked up, from afar.

    Attributes
    ----------
    scene : Scene
    xs, ys : (W,) and (H,) float64
        In pixels of the ground, evenly spaced.
    aside : (float, float)
        How far to the right and below of a place large tiles are looked at.
    """

    scene: Scene
    xs: NDArray[np.float64]
    ys: NDArray[np.float64]
    aside: tuple[float, float]

    def flat(self, drawn: Drawn) -> tuple[Any, Any]:
        """Flat y and x, (H, W) float64, of the places on a layer that may be moved."""
        xs, ys = self.xs[None, :] - drawn.layer.offset_x, self.ys[:, None] - drawn.layer.offset_y
        y, x = np.broadcast_arrays(*self.scene.projection.place(xs, ys))
        return y, x


Piece = tuple[float, Callable[[], None]]
"""How far down the box begins in which something stands, and what draws it."""


class Verb(Protocol):
    """One kind of draw items; what it is asked to draw is of its kind.

    Attributes
    ----------
    shades : bool
        Whether it only colours what lies below.
    """

    shades: bool

    def lay(self, canvas: Pixels, drawn: Drawn, view: View, part: PixelRect) -> None:
        """Draws a layer over what lies on a canvas.

        Parameters
        ----------
        canvas : (height, width, 4) uint8
            Premultiplied; is drawn on.
        drawn : Drawn
        view : View
        part : PixelRect
            The part of the layer that shows on it, given how far the layer is moved.
        """

    def pieces(self, sheet: SpriteSheet, drawn: Drawn, view: View, part: PixelRect) -> Iterator[Piece]:
        """What of a layer is drawn between pieces of others, where layers are stacked by depth."""

    def lay_from_afar(self, canvas: Pixels, drawn: Drawn, samples: Samples) -> None:
        """Draws a layer over the colours of samples.

        Parameters
        ----------
        canvas : (H, W, 4) uint8
            Premultiplied; is drawn on.
        drawn : Drawn
        samples : Samples
        """

    def before(self, drawn: Drawn, scene: Scene, foot: float, height: int) -> Drawn | None:
        """What of a layer stands before a figure, if anything.

        Parameters
        ----------
        drawn : Drawn
        scene : Scene
        foot : float
            How far down the foot of the figure is, in pixels of the ground.
        height : int
            How high above the ground it stands.
        """
