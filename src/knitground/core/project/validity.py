"""What the shape of a project file alone cannot say: that ids are unique, names resolve and numbers fit."""

from collections import Counter
from collections.abc import Iterable, Mapping
from pathlib import PurePosixPath

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadProject
from knitground.core.ground.layers import (
    CODED,
    PINS,
    Ground,
    Planes,
    StitchedLayer,
    TerrainLayer,
    TileLayer,
    blank_planes,
    next_by_id,
    plane_shapes,
)
from knitground.core.joins.sets import PLACES
from knitground.core.project.cells import Cells, read
from knitground.core.project.model import Project
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT


def check_whole(project: Project, name: str) -> None:
    """Raises BadProject where two things share an id or something refers to nothing."""
    for kind, things in (
        ("sheets", project.sheets),
        ("join sets", project.join_sets),
        ("arrangements", project.arrangements),
        ("stitch sets", project.stitch_sets),
        ("mixes", project.mixes),
        ("recipes", project.recipes),
        ("grounds", project.grounds),
    ):
        _check_ids(things, kind, name)
    for sheet in project.sheets:
        _check_ids(sheet.cuts, f"cuts of {sheet.id}", name)
        stems = [PurePosixPath(image).stem for image in sheet.images]
        if len(stems) != len(set(stems)):
            raise BadProject(f"{name}: two images of the collection “{sheet.id}” bear the same name; rename one.")
        if "/" in sheet.id or any("/" in cut.id for cut in sheet.cuts):
            raise BadProject(f"{name} has a sheet or cut whose id holds a slash; rename it.")
    for join_set in project.join_sets:
        for ref, labels in join_set.labels.items():
            if len(labels) != len(join_set.places):
                raise BadProject(
                    f"{name}: tile {ref} of “{join_set.name}” has {len(labels)} labels instead of "
                    f"{len(join_set.places)}; mend or remove them."
                )
            if max(labels) > len(join_set.terrains):
                raise BadProject(
                    f"{name}: tile {ref} of “{join_set.name}” is labelled with a terrain that is not there."
                )
    for arrangement in project.arrangements:
        wrong = any(len(labels) != len(PLACES[arrangement.kind]) for labels in arrangement.tiles.values())
        if wrong or not arrangement.tiles:
            raise BadProject(f"{name}: the arrangement “{arrangement.name}” is not whole; mend or remove it.")
    for ground in project.grounds:
        _check_ids(ground.layers, f"layers of {ground.name}", name)
        for layer in ground.layers:
            _terrain_count(project, layer, name)


def planes_from(
    ground: Ground, maps: Mapping[str, Mapping[str, Cells]], project: Project, palette_size: int, name: str
) -> dict[str, Planes]:
    """The planes of a ground's layers from a file; layers that it does not mention are bare."""
    planes: dict[str, Planes] = {}
    for layer in ground.layers:
        found = maps.get(layer.id)
        if found is None:
            planes[layer.id] = blank_planes(layer, ground.height, ground.width)
            continue
        shapes = plane_shapes(layer, ground.height, ground.width)
        where = f"{name}: layer “{layer.name}” of “{ground.name}”"
        if not isinstance(layer, TileLayer) and PINS in found:
            shapes[PINS] = ground.height, ground.width
        if set(found) != set(shapes):
            raise BadProject(f"{where} should hold {' and '.join(shapes)}; restore the file from a copy.")
        planes[layer.id] = {plane: read(found[plane], plane, shape, where) for plane, shape in shapes.items()}
        terrains = _terrain_count(project, layer, name)
        for plane, values in planes[layer.id].items():
            _check_numbers(plane, values, palette_size if plane in CODED else terrains, where)
    return planes


def _check_numbers(plane: str, values: NDArray[np.generic], largest: int, where: str) -> None:
    if plane in CODED:
        numbers = np.asarray(values, dtype=np.int32)
        if numbers.min() < 0 or int(numbers.max()) >> ORIENTATION_SHIFT > 7:
            raise BadProject(f"{where} holds a cell that is no tile; restore the file from a copy.")
        values = numbers & NUMBER_MASK
    highest = int(np.asarray(values).max())
    if highest > largest:
        raise BadProject(f"{where} holds the number {highest}, and {largest} is the highest there is.")


def _terrain_count(project: Project, layer: TileLayer | TerrainLayer | StitchedLayer, name: str) -> int:
    """How many terrains or marks a layer may hold; raises BadProject if its set is missing or of another kind."""
    try:
        if isinstance(layer, TerrainLayer):
            join_set = next_by_id(project.join_sets, layer.join_set)
            if join_set.kind != layer.joins:
                raise BadProject(
                    f"{name}: layer “{layer.name}” has {layer.joins} joins, its set “{join_set.name}” has not."
                )
            return len(join_set.terrains)
        if isinstance(layer, StitchedLayer):
            return len(next_by_id(project.stitch_sets, layer.stitch_set).marks)
    except KeyError as missing:
        raise BadProject(f"{name}: layer “{layer.name}” needs the set {missing}, which is not there.") from None
    return 0


def _check_ids(things: Iterable[object], kind: str, name: str) -> None:
    counts = Counter(getattr(thing, "id", "") for thing in things)
    for wanted, count in counts.items():
        if count > 1 or not wanted:
            raise BadProject(f"{name} has {count} {kind} with the id “{wanted}”; give each an id of its own.")
