"""The proof of a join set as a ground of its own, knit from the set as it is."""

from knitground.core.ground.knitted import Knitted
from knitground.core.ground.layers import Ground, Planes, TerrainLayer
from knitground.core.joins.proof import proof_corners, proof_edges
from knitground.core.joins.sets import JoinSet
from knitground.core.project.derived import Derived

LAYER = "proof"


def proof_ground(derived: Derived, join_set: JoinSet) -> Knitted | None:
    """A small wrapping ground on which every combination of the set's terrains occurs.

    Combinations that no tile shows lie there as gaps. None where the set has no terrain, or its tiles have no size.
    """
    first = 0 if join_set.bare else 1
    terrains = list(range(first, len(join_set.terrains) + 1))
    cuts = derived.document.project.cuts
    sizes = [cuts[ref.sheet, ref.cut] for ref in join_set.labels if (ref.sheet, ref.cut) in cuts]
    if not terrains or not sizes:
        return None
    planes: Planes
    if join_set.kind == "corner":
        corners = proof_corners(terrains)
        planes = {"corners": corners}
        height, width = corners.shape[0] - 1, corners.shape[1] - 1
    else:
        across, along = proof_edges(terrains)
        planes = {"across": across, "along": along}
        height, width = along.shape[0], across.shape[1]
    layer = TerrainLayer(LAYER, join_set.name, join_set.id, join_set.kind)
    ground = Ground(LAYER, join_set.name, width, height, sizes[0].tile_width, sizes[0].tile_height, (layer,))
    return Knitted(ground, {LAYER: planes}, {LAYER: derived.table(join_set)}, derived.document.project.seed)
