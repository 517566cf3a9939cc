"""PNG (ISO/IEC 15948): the visible layers of a ground as one picture."""

from collections.abc import Callable
from pathlib import Path

from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived
from knitground.core.render.compositor import check_size, picture
from knitground.core.render.scene import without_gaps
from knitground.core.sheet.picture import encode_png


def deliver(
    derived: Derived, ground_id: str, path: Path, progress: Callable[[float], None] = lambda share: None
) -> list[Path]:
    """Writes the picture of a ground; returns the files written.

    Raises
    ------
    BadRequest
        If the picture would be too large.
    CannotWrite
        If the file cannot be written.
    """
    knitted = derived.knitted(ground_id)
    # Before the sprites are made ready, which takes long for such tiles.
    check_size(knitted.ground.projection, knitted.ground.name)
    scene = derived.scene(knitted, exchange=without_gaps)
    pixels = picture(scene, knitted.ground.name, lambda share: progress(share * 0.7))
    write_atomically(path, encode_png(pixels))
    progress(1.0)
    return [path]
