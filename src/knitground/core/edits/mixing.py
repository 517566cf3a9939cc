"""Living mixes: layers that lay a mix where a terrain lies, and follow it."""

from dataclasses import replace

from knitground.core.chance import seed_for
from knitground.core.edits.layers import put_layer
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.layers.mixed import MixLayer
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id, replaced


def add_living_mix(document: Document, ground_id: str, mix_id: str, on: str = "", terrain: int = 0) -> str:
    """Adds a layer above another one that lays a mix wherever a terrain lies there; returns its id.

    Parameters
    ----------
    on : str
        The layer that it follows; none for all over the ground, and then on top.
    terrain : int
        0 for anything that lies there.

    Raises
    ------
    BadRequest
        If the mix has no tiles.
    """
    project = document.project
    mix, ground = by_id(project.mixes, mix_id), by_id(project.grounds, ground_id)
    if not any(part.tile is not None and part.weight > 0 for part in mix.parts):
        raise BadRequest(f"“{mix.name}” has no tile to lay; click tiles on the sheet to put them in.")
    layer = MixLayer(fresh_id(mix.name, ground.layers), mix.name, mix.id, on=on, terrain=terrain)
    place = len(ground.layers) if not on else [one.id for one in ground.layers].index(on) + 1
    layers = (*ground.layers[:place], layer, *ground.layers[place:])
    grounds: tuple[Ground, ...] = replaced(project.grounds, replace(ground, layers=layers))
    planes = {**document.state.planes[ground_id], layer.id: layer.blank(ground.board, project)}
    document.define(
        f"living mix {mix.name}", replace(project, grounds=grounds), planes={**document.state.planes, ground_id: planes}
    )
    return layer.id


def throw_living_mix(document: Document, ground_id: str, layer: Layer) -> None:
    """Another throw of a living mix; pins stay.

    Raises
    ------
    BadRequest
        If the layer is none.
    """
    thrown = getattr(layer, "throw", None)
    if thrown is None:
        raise BadRequest(f"“{layer.name}” is no living mix; choose one in the column of layers.")
    again = seed_for(thrown, "throw again") % 1_000_000
    put_layer(document, ground_id, "throw the living mix again", replace(layer, throw=again))  # type: ignore[call-arg]
