"""Where a ground is tight for a figure: narrow places between wide ones, and ways that lead nowhere.

The room in which the middle of a foot can be is opened by a square-cornered ball (erosion, then dilation: J. Serra,
"Image Analysis and Mathematical Morphology", 1982); what does not come back is too tight for it, and how often that
touches what does tells a passage from a dead end.
"""

from typing import Any, NamedTuple

import numpy as np
import shapely
from shapely.affinity import translate

from knitground.core.walk.goals import Mark
from knitground.core.walk.motion import Spot
from knitground.core.walk.survey import Survey

LEAST_SPARE, MOST_SPARE = 1.0, 256.0
LONG = 3.0
"""A dead end is worth telling from so many cells on."""
_CLOSE = 0.05


class Tight(NamedTuple):
    """A place with less room than asked for.

    Attributes
    ----------
    spot : Spot
        Somewhere in it.
    shape : shapely.Polygon
        Where the middle of the foot can be there.
    leads : int
        To how many wide places it opens: 2 and more for a passage, 1 for a dead end.
    length : float
        In pixels.
    """

    spot: Spot
    shape: Any
    leads: int
    length: float


def tight_places(survey: Survey, spare: float) -> list[Tight]:
    """All places where a figure has less than so many pixels to spare, from the top down."""
    pieces = [piece for room in survey.reach.rooms.values() for piece in room.pieces]
    # Areas meet along their borders; what is narrower than a skin's width there is no gap.
    whole = shapely.union_all([piece.buffer(_CLOSE, join_style="mitre") for piece in pieces])
    around = survey.reach.around
    # Where the ground goes round, what lies beyond its borders counts, too.
    whole = shapely.union_all([translate(whole, *shift) for shift in around.shifts()])
    wide = whole.buffer(-spare / 2, join_style="mitre").buffer(spare / 2 + _CLOSE, join_style="mitre")
    found = []
    for part in shapely.get_parts(whole.difference(wide)):
        if part.area < 1:
            continue
        touched = shapely.get_parts(part.buffer(4 * _CLOSE).intersection(wide))
        middle = shapely.point_on_surface(part)
        if around.home(middle.x, middle.y) != (middle.x, middle.y):
            continue
        box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(part))
        length = float(np.hypot(*np.diff(box, axis=0).T).max())
        found.append(Tight(Spot(middle.x, middle.y), part, int((shapely.area(touched) > 0).sum()), length))
    return sorted(found, key=lambda one: (one.spot.y, one.spot.x))


def narrow_places(survey: Survey, spare: float) -> list[Tight]:
    """Passages in which a figure has less than so many pixels to spare."""
    return [one for one in tight_places(survey, spare) if one.leads > 1]


def dead_ends(survey: Survey, marks: tuple[Mark, ...] = ()) -> list[Tight]:
    """Ways of a cell's width or little more that lead nowhere, and at the end of which nothing is to be found."""
    ground = survey.solids.ground
    side = min(ground.tile_width, ground.tile_height)
    ways = [one for one in tight_places(survey, 1.25 * side) if one.leads == 1 and one.length >= LONG * side]
    places = [shapely.Point(mark.spot.x, mark.spot.y) for mark in marks]
    return [one for one in ways if not any(one.shape.distance(place) < side for place in places)]
