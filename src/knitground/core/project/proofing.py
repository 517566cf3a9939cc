"""The proof of a join set as a ground of its own, knit from the set as it is."""

from dataclasses import replace

from knitground.core.errors import BadRequest
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.layers import Ground, Planes, TerrainLayer
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.proof import proof_corners, proof_edges, proof_full
from knitground.core.joins.sets import JoinSet
from knitground.core.project.derived import Derived

LAYER = "proof"
MOST_SHOWN = 2**20


def proof_ground(derived: Derived, join_set: JoinSet) -> Knitted | None:
    """A small wrapping ground on which every combination of the set's terrains occurs.

    Combinations that no tile shows lie there as gaps. None where the set has no terrain, or its tiles have no
    size; BadRequest where there are too many combinations to show.
    """
    numbers = join_set.numbers
    cuts = derived.document.project.cuts
    sizes = [cuts[ref.sheet, ref.cut] for ref in join_set.labels if (ref.sheet, ref.cut) in cuts]
    if not join_set.terrains or not sizes:
        return None
    count = len(numbers) ** 4 if join_set.kind != "full" else Coverage("full", {}, numbers).total
    if count > MOST_SHOWN:
        raise BadRequest(f"“{join_set.name}” has {count} combinations, too many for a proof; look at a set with fewer.")
    planes: Planes
    if join_set.kind == "corner":
        planes = {"corners": proof_corners(list(numbers))}
    elif join_set.kind == "edge":
        across, along = proof_edges(list(numbers))
        planes = {"across": across, "along": along}
    else:
        planes = dict(proof_full(numbers))
    lattice = planes.get("corners")
    height, width = (
        (along.shape[0], across.shape[1]) if lattice is None else (lattice.shape[0] - 1, lattice.shape[1] - 1)
    )
    layer = TerrainLayer(LAYER, join_set.name, join_set.id, join_set.kind)
    ground = Ground(LAYER, join_set.name, width, height, sizes[0].tile_width, sizes[0].tile_height, (layer,))
    # A proof shows what there is: nothing is laid in place of a missing tile.
    table = replace(derived.table(join_set), complete=True)
    return Knitted(ground, {LAYER: planes}, {LAYER: table}, derived.document.project.seed)
