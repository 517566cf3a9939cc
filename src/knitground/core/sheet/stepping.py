"""Going about a sheet in steps: a tile has nine places, its corners, the middles of its edges, and its own middle."""

from math import floor

from knitground.core.sheet.cut import Cut, region_of

_PLACES = 3


def place_beside(
    cut: Cut, size: tuple[int, int], at: tuple[float, float], step: tuple[int, int], *, whole: bool
) -> tuple[float, float]:
    """The place some steps from one, never beyond the part of the picture that the cut lies on.

    Parts of a sheet that was cut into loose pieces have no tiles to go by; there a step is eight pixels.

    Parameters
    ----------
    cut : Cut
    size : (int, int)
        Width and height of the picture, in pixels.
    at : (float, float)
        x and y of where one is, in pixels of the picture; with a step of (0, 0) it goes to the nearest place.
    step : (int, int)
        To the right and down.
    whole : bool
        Whether steps are whole tiles instead of places.

    Returns
    -------
    place : (float, float)
        x and y of the middle of the place.
    """
    region = region_of(cut, *size)
    if cut.pieces:
        far = 32 if whole else 8
        beside = tuple(min(max(0.0, old + far * by), most - 1) for old, by, most in zip(at, step, size, strict=True))
        return beside[0], beside[1]
    left, top = region.x + cut.margin_x, region.y + cut.margin_y
    places = _PLACES if whole else 1
    x = _along(at[0] - left, cut.tile_width, cut.pitch_x, region.width - cut.margin_x, places * step[0])
    y = _along(at[1] - top, cut.tile_height, cut.pitch_y, region.height - cut.margin_y, places * step[1])
    return left + x, top + y


def _along(at: float, tile: int, pitch: int, room: int, step: int) -> float:
    """The middle of a place along one axis, from where the first tile begins."""
    number = floor(at / pitch)
    place = min(_PLACES - 1, floor((at - number * pitch) * _PLACES / tile))
    last = _PLACES * max(1, (room - tile) // pitch + 1) - 1
    wanted = min(max(0, _PLACES * number + place + step), last)
    return wanted // _PLACES * pitch + (wanted % _PLACES + 0.5) * tile / _PLACES
