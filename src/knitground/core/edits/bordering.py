"""Putting maps beside one another, and taking them apart."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

from knitground.core.errors import BadRequest
from knitground.core.ground.beside import Border, problem_beside, shared
from knitground.core.ground.ground import Ground, Neighbour
from knitground.core.layers.layer import Planes
from knitground.core.project.document import Document


def put_beside(document: Document, ground_id: str, border: Border, other_id: str | None, shift: int = 0) -> None:
    """Lets a map lie at a border of another, or none; points on the common border become as on the first, as one step.

    Parameters
    ----------
    ground_id : str
    border : str
        Of that ground.
    other_id : str, optional
        The map that is to lie there.
    shift : int
        How many cells further down or right along the border it begins.

    Raises
    ------
    BadRequest
        If they don't fit beside each other.
    """
    project = document.project
    side: Literal["east", "south"] = "east" if border in ("east", "west") else "south"
    named = border == side
    grounds = {
        one.id: one.bordering(side, None) if named and one.id == ground_id
        else one if named else one.apart_from(ground_id, side)
        for one in project.grounds
    }  # fmt: skip
    if other_id is not None:
        left, right, along = (ground_id, other_id, shift) if named else (other_id, ground_id, -shift)
        grounds = {name: one.apart_from(right, side) for name, one in grounds.items()}
        grounds[left] = grounds[left].bordering(side, Neighbour(right, along))
        problem = problem_beside(tuple(grounds.values()), grounds[left])
        if problem:
            raise BadRequest(problem)
    made = tuple(grounds[one.id] for one in project.grounds)
    planes = with_shared(made, ground_id, document.state.planes)
    document.define("maps beside one another", replace(project, grounds=made), planes=planes)


def with_shared(
    grounds: tuple[Ground, ...], ground_id: str, planes: Mapping[str, Mapping[str, Planes]]
) -> dict[str, Mapping[str, Planes]]:
    """The planes of all maps, with those beside one made as it is on the common border.

    Parameters
    ----------
    planes : mapping of ground id to layer id to planes
    """
    found = dict(planes)
    for name, layers in shared(grounds, ground_id, planes).items():
        found[name] = {**found[name], **{layer: {**found[name][layer], **more} for layer, more in layers.items()}}
    return found
