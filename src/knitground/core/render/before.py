"""What stands before a figure, and which shade lies on it."""

from knitground.core.grid.projection import PixelRect
from knitground.core.render.compositor import render
from knitground.core.render.pixels import Pixels
from knitground.core.render.scale import Scale
from knitground.core.render.scene import Scene
from knitground.core.render.verbs import verb_of


def before(scene: Scene, area: PixelRect, foot: float, height: int = 0) -> Pixels:
    """What is drawn over a figure in an area, (h, w, 4) uint8 premultiplied.

    Parameters
    ----------
    scene : Scene
        All that shows of the ground.
    foot : float
        How far down the figure's foot is, in pixels of the ground.
    height : int
        How high above the ground it stands.
    """
    kept = tuple(drawn for one in scene.layers if (drawn := verb_of(one).before(one, scene, foot, height)) is not None)
    return render(scene._replace(layers=kept, background=None), area, Scale())


def shade_at(scene: Scene, x: float, y: float) -> tuple[float, float, float]:
    """The colour by which a figure is multiplied that stands at a pixel of the ground."""
    shades = tuple(one for one in scene.layers if verb_of(one).shades)
    if not shades:
        return 1.0, 1.0, 1.0
    spot = PixelRect(int(x), int(y), 1, 1).inside(PixelRect(0, 0, *scene.projection.size))
    if spot.is_empty:
        return 1.0, 1.0, 1.0
    found = render(scene._replace(layers=shades, background="#ffffff"), spot, Scale())[0, 0]
    return tuple(float(part) / 255 for part in found[:3])  # type: ignore[return-value]
