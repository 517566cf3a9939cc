"""What is said of tiles, as a game reads it."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.project.derived import Derived
from knitground.core.project.playing import Playing
from knitground.core.tiles.notes import PLAIN, Collision
from knitground.core.tiles.outline import turned
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT


def tile_content(derived: Derived, moved: Playing, code: int, number: Callable[[int], int]) -> dict[str, Any]:
    """What is said of a tile in its orientation: tags, properties, walking, shapes and frames; nothing by default.

    Parameters
    ----------
    code : int
        A cell code.
    number : callable
        Gives the number of a tile for its cell code.
    """
    ref, orientation = derived.document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
    notes, tile = derived.document.project.tiles.get(ref, PLAIN), derived.tile(ref)
    entry: dict[str, Any] = {}
    if notes.tags:
        entry["tags"] = list(notes.tags)
    if notes.properties:
        entry["properties"] = {name: one.value for name, one in notes.properties.items()}
    if not notes.walkable:
        entry["walkable"] = False
    if tile is not None:
        shapes = {
            kind: _written_shape(turned(shape, (tile.shape[1], tile.shape[0]), orientation))
            for kind, shape in notes.all_shapes().items()
        }
        if FEET in shapes:
            entry["collision"] = shapes.pop(FEET)
        if shapes:
            entry["shapes"] = shapes
    if notes.frames:
        codes = moved.all_frames(code).tolist()
        entry["frames"] = [[number(shown), one.ms] for shown, one in zip(codes, notes.frames, strict=True)]
        if notes.apart:
            entry["apart"] = True
    return entry


def with_frames(used: NDArray[np.int32], moved: Playing) -> NDArray[np.int32]:
    """Cell codes together with those of their frames, sorted; a frame may be animated itself.

    Parameters
    ----------
    used : (N,) int32

    Returns
    -------
    codes : (M,) int32
    """
    while True:
        more = [moved.all_frames(code) for code in used.tolist()]
        grown = np.unique(np.concatenate([used, *more])).astype(np.int32)
        if len(grown) == len(used):
            return grown
        used = grown


def _written_shape(shape: Collision) -> Any:
    return shape if isinstance(shape, str) else [[list(point) for point in part] for part in shape]
