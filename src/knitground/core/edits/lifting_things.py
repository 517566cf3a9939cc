"""Things that are to stand on top of what is seen below them: a lamp on a quay, a chimney on a roof."""

from collections.abc import Collection
from dataclasses import replace

from knitground.core.edits.lifting import Top, lifted, top_below
from knitground.core.edits.placing import place, remove, things_on
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.derived import Derived


def tops_below(derived: Derived, ground_id: str, layer_id: str, ids: Collection[str]) -> dict[str, Top]:
    """What sprites on a prop layer are seen on top of, by their ids, though they stand on the ground behind it.

    Parameters
    ----------
    derived : Derived
    ground_id, layer_id : str
    ids : collection of str
        The things that are looked at.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    layer, things = things_on(derived.document, ground_id, layer_id)
    if not ground.isometric:
        return {}
    found = {}
    for thing in things:
        if thing.id in ids and thing.form == "sprite":
            # The foot of a sprite lies at the lower end of the cell that it stands on.
            at = ground.projection.place(thing.x, thing.y - ground.tile_height / 2)
            top = top_below(derived, ground, layer, at)
            if top is not None:
                found[thing.id] = top
    return found


def lay_things_on_top(
    derived: Derived, ground_id: str, layer_id: str, ids: Collection[str]
) -> tuple[str, int, list[str]]:
    """Lets sprites stand on top of what they are seen on, as one step; they stay where they are seen.

    If nothing else is on their layer, it is lifted; if not, they go to others (`lifted`).

    Returns
    -------
    layer_id : str
        Where those are now that stand highest.
    height : int
        In pixels, above what they stand on.
    ids : list of str
        What they are called there.

    Raises
    ------
    BadRequest
        If none of them is seen on top of anything, or their layer is locked.
    """
    document = derived.document
    _, things = things_on(document, ground_id, layer_id)
    tops = tops_below(derived, ground_id, layer_id, ids)
    if not tops:
        raise BadRequest("Nothing stands below what is chosen; place it where the top of a wall is seen.")
    heights = sorted({top.height for top in tops.values()})
    alone = len(heights) == 1 and len(tops) == len(things)
    onto, laid = layer_id, list[str]()
    with document.step("lay on top"):
        for height in heights:
            risen = [
                replace(one, y=one.y + height) for one in things if one.id in tops and tops[one.id].height == height
            ]
            onto = lifted(document, ground_id, layer_id, height, alone=alone)
            remove(document, ground_id, layer_id, {one.id for one in risen})
            laid = place(document, ground_id, onto, risen, "lay on top")
    return onto, heights[-1], laid
