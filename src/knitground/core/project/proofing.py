"""The proof of a join set as a ground of its own, knit from the set as it is."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground, grid_of_tiles
from knitground.core.ground.knitted import Knitted
from knitground.core.joins.cells import proof_cells
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.proof import proof_corners, proof_edges, proof_full, proof_one_way
from knitground.core.joins.proof_apart import proof_of_groups
from knitground.core.joins.sets import JoinSet
from knitground.core.joins.table import JoinTable
from knitground.core.layers import make_layer
from knitground.core.layers.onto import OntoLayer
from knitground.core.layers.stitched import PLAN, StitchedLayer
from knitground.core.project.derived import Derived
from knitground.core.project.proof_layers import layer_for
from knitground.core.project.wool import ProjectWool
from knitground.core.stitches.compiled import ReadySet, make_ready
from knitground.core.stitches.proof import Proof, proof_plan
from knitground.core.stitches.rules import EVERYWHERE, StitchSet

LAYER = "proof"
MOST_SHOWN = 2**20


def proof_ground(derived: Derived, join_set: JoinSet) -> Knitted | None:
    """A small wrapping ground on which every combination of the set's terrains occurs.

    Combinations that no tile shows lie there as gaps. None where the set has no terrain, or its tiles have no
    size; BadRequest where there are too many combinations to show.
    """
    cuts = derived.document.project.cuts
    sizes = [cuts[ref.sheet, ref.cut] for ref in join_set.labels if (ref.sheet, ref.cut) in cuts]
    if not join_set.terrains or not sizes:
        return None
    coverage = derived.coverage(join_set)
    count = coverage.total
    if count > MOST_SHOWN:
        raise BadRequest(f"“{join_set.name}” has {count} combinations, too many for a proof; look at a set with fewer.")
    arrays = planes_of_proof(coverage)
    if not all(array.size for array in arrays.values()):
        return None
    name, first = next(iter(arrays.items()))
    height, width = first.shape[0] - (name in ("corners", "across")), first.shape[1] - (name in ("corners", "along"))
    layer = make_layer(LAYER, join_set.name, join_set.id, derived.sets)
    ground = Ground(
        LAYER, join_set.name, width, height, *sizes[0].footprint, (layer,), grid=grid_of_tiles(sizes[0].shape)
    )
    planes = {name: Plane.of(array) for name, array in arrays.items()}
    table = derived.table(join_set)
    if isinstance(table, JoinTable):
        # A proof shows what there is: nothing is laid in place of a missing tile.
        table = replace(table, complete=True)
    return Knitted(ground, {LAYER: planes}, {LAYER: table}, derived.document.project.seed)


def planes_of_proof(coverage: Coverage) -> dict[str, NDArray[np.uint8]]:
    """What is painted on a proof."""
    if coverage.kind == "cell":
        return proof_cells(list(coverage.tiles), coverage.ground)
    make = _MADE[coverage.kind]
    planes = proof_of_groups(coverage.together, coverage.numbers, make) if coverage.apart else make([*coverage.numbers])
    return planes if coverage.one_way is None else proof_one_way(planes["across"], planes["along"], coverage.one_way)


def proof_of_stitches(derived: Derived, stitch_set: StitchSet) -> tuple[Knitted, Proof] | None:
    """A small ground with a plan on which every stitch that can fire does, whatever its chance; None for no stitch."""
    cuts = derived.document.project.cuts
    sizes = [cuts[ref.sheet, ref.cut] for ref in sorted(stitch_set.refs) if (ref.sheet, ref.cut) in cuts]
    if not sizes or not stitch_set.stitches:
        return None
    courses = tuple(
        replace(
            course,
            stitches=tuple(replace(one, chance=100.0, apart=0, places=EVERYWHERE) for one in course.stitches),
        )
        for course in stitch_set.courses
    )
    ready = make_ready(replace(stitch_set, courses=courses), ProjectWool(derived.document))
    proof = proof_plan(ready)
    height, width = proof.plan.shape
    layer = StitchedLayer(LAYER, stitch_set.name, stitch_set.id)
    parts = [OntoLayer(f"{LAYER} {part}", part, stitch_set.id, part) for part in stitch_set.parts]
    cell, grid = sizes[0].footprint, grid_of_tiles(sizes[0].shape)
    ground = Ground(LAYER, stitch_set.name, width, height, *cell, (layer, *parts), grid=grid)
    planes: dict[str, dict[str, Plane]] = {LAYER: {PLAN: Plane.of(proof.plan)}}
    planes |= {part.id: {} for part in parts}
    tables = {LAYER: ready, **{part.id: place for place, part in enumerate(parts)}}
    seen = [
        made
        for view, told in zip(stitch_set.views, ready.classes, strict=True)
        if view.name in proof.seen and (made := layer_for(derived, view, told, ground, proof.seen[view.name]))
    ]
    below = tuple(one for one, _ in seen)
    sees = {view.name: one.id for view in stitch_set.views for one in below if one.name == view.name}
    ground = replace(ground, layers=(*below, replace(layer, sees=sees), *parts))
    planes |= {one.id: dict(painted) for one, painted in seen}
    tables |= {one.id: one.table(derived) for one in below if one.knits}
    knitted = Knitted(ground, planes, tables, derived.document.project.seed)
    return knitted, _as_it_came(knitted, ready, proof)


def _as_it_came(knitted: Knitted, ready: ReadySet, proof: Proof) -> Proof:
    """A proof in which those stitches lack a place that do not fire where they should."""
    more = knitted.laid(LAYER, knitted.ground.board.whole).more
    fires = dict[int, tuple[int, int]]()
    for course, fired in zip(ready.courses, () if more is None else more[ready.parts - 1 :], strict=False):
        of = (-1, *(course.numbers[variant.stitch] for variant in course.variants))
        fires |= {number: cell for number, cell in proof.spots.items() if of[int(fired[cell])] == number}
    lacking = {*proof.lacking, *(proof.spots.keys() - fires.keys())}
    return proof._replace(spots=fires, lacking=tuple(sorted(lacking)))


def _corners(numbers: list[int]) -> dict[str, NDArray[np.uint8]]:
    return {"corners": proof_corners(numbers)}


def _edges(numbers: list[int]) -> dict[str, NDArray[np.uint8]]:
    across, along = proof_edges(numbers)
    return {"across": across, "along": along}


def _full(numbers: list[int]) -> dict[str, NDArray[np.uint8]]:
    first = min(numbers[0], 1)
    planes = proof_full(range(first, first + len(numbers)))
    named = np.array([*range(first), *numbers], dtype=np.uint8)
    return {name: named[plane] for name, plane in planes.items()}


_MADE = {"corner": _corners, "edge": _edges, "full": _full}
