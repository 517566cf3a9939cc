"""What the shape of a project file alone cannot say: that ids are unique, names resolve and numbers fit."""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from pathlib import PurePosixPath
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadProject, readable
from knitground.core.grid.plane import Plane
from knitground.core.ground.beside import problem_beside
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import problem_of_mixes
from knitground.core.joins.sets import PLACES
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.by_hand import hand_key, masked
from knitground.core.project.cells import Cells, numbers_in, read
from knitground.core.project.model import Project
from knitground.core.project.sound_stitches import problem_of_stitches
from knitground.core.tiles.shape_kinds import FEET, SIGHT
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT

T = TypeVar("T")

MOST_BYTES = 4 * 2**30
"""What a project may take in memory: its planes, and the tiles that are knit from them."""
_KNIT_BYTES = 5
_MORE_BYTES = 4


def check_whole(project: Project, name: str) -> None:
    """Raises BadProject where two things share an id or something refers to nothing."""
    for kind, things in (
        ("sheets", project.sheets),
        ("join sets", project.join_sets),
        ("arrangements", project.arrangements),
        ("stitch sets", project.stitch_sets),
        ("mixes", project.mixes),
        ("pair sets and join sets", (*project.pair_sets, *project.join_sets)),
        ("kinds of things", project.thing_kinds),
        ("kinds of shapes", project.shape_kinds),
        ("swatches", project.swatches),
        ("recipes", project.recipes),
        ("routes", project.routes),
        ("grounds", project.grounds),
        ("deliveries", project.deliveries),
    ):
        _check_ids(things, kind, name)
    for sheet in project.sheets:
        _check_ids(sheet.cuts, f"cuts of {sheet.id}", name)
        stems = [PurePosixPath(image).stem for image in sheet.images]
        if len(stems) != len(set(stems)):
            raise BadProject(f"{name}: two images of the collection “{sheet.id}” bear the same name; rename one.")
        if "/" in sheet.id or any("/" in cut.id for cut in sheet.cuts):
            raise BadProject(f"{name} has a sheet or cut whose id holds a slash; rename it.")
    kinds = {kind.id for kind in project.shape_kinds}
    if not {FEET, SIGHT} <= kinds:
        raise BadProject(f"{name} lacks the kinds of shapes “{FEET}” and “{SIGHT}”; mend it or restore a copy.")
    for ref, notes in project.tiles.items():
        if FEET in notes.shapes or not set(notes.shapes) <= kinds:
            raise BadProject(f"{name}: tile {ref} has shapes of a kind that is not there; mend or remove them.")
    for join_set in project.join_sets:
        if join_set.ground > len(join_set.terrains):
            raise BadProject(f"{name}: the ground of “{join_set.name}” is a terrain that is not there; mend it.")
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
    for stitch_set in project.stitch_sets:
        problem = problem_of_stitches(stitch_set, project)
        if problem:
            raise BadProject(f"{name}: the stitch set “{readable(stitch_set.name)}” {readable(problem)}; mend it.")
    problem = problem_of_mixes(project.mixes)
    if problem:
        raise BadProject(f"{name}: {readable(problem)}; mend it.")
    for arrangement in project.arrangements:
        wrong = any(len(labels) != len(PLACES[arrangement.kind]) for labels in arrangement.tiles.values())
        if wrong or not arrangement.tiles:
            raise BadProject(f"{name}: the arrangement “{arrangement.name}” is not whole; mend or remove it.")
    for ground in project.grounds:
        _check_ids(ground.layers, f"layers of {ground.name}", name)
        if ground.board.problem:
            raise BadProject(f"{name}: “{readable(ground.name)}” can't be as it says: {ground.board.problem}")
        problem = problem_beside(project.grounds, ground)
        if problem:
            raise BadProject(f"{name}: “{readable(ground.name)}” can't lie as it says: {readable(problem)}")
        for layer in ground.layers:
            problem = layer.problem(project) or _unfit(ground, layer)
            if problem:
                raise BadProject(f"{name}: layer “{readable(layer.name)}” {readable(problem)}.")


def _unfit(ground: Ground, layer: Layer) -> str:
    """Why a layer can't lie on a ground, as the end of a sentence; nothing if it can."""
    if all(spec.on in ground.board.painted for spec in layer.specs.values()) and (
        "corners" in ground.board.painted or layer.on_cells() == layer
    ):
        return ""
    return f"is a {layer.title}, which a ground of hexagons can't take; make another grid or layer of it"


def check_cost(project: Project, maps: Mapping[str, Mapping[str, Mapping[str, Cells]]], name: str) -> None:
    """Raises BadProject where a project would take more memory than a computer has, before any of it is taken."""
    total = 0
    for ground in project.grounds:
        held = maps.get(ground.id, {})
        for layer in ground.layers:
            for plane, spec in layer.specs.items():
                height, width = ground.board.shape(spec.on)
                if plane in held.get(layer.id, {}):
                    total += height * width * np.dtype(spec.dtype).itemsize
                if plane in held.get(hand_key(layer.id), {}):
                    total += height * width
            total += ground.height * ground.width * (_KNIT_BYTES * layer.knits + _MORE_BYTES * layer.kept(project))
    if total > MOST_BYTES:
        raise BadProject(
            f"{name} would take {total >> 30} GiB of memory, and {MOST_BYTES >> 30} are the most; make its grounds "
            "smaller, or split it in several projects."
        )


def planes_from(
    ground: Ground, maps: Mapping[str, Mapping[str, Cells]], project: Project, palette_size: int, name: str
) -> dict[str, Planes]:
    """The planes of a ground's layers from a file; layers that it does not mention are bare."""
    known: dict[str, str] = {}
    for layer in ground.layers:
        found = maps.get(layer.id)
        if found is None:
            continue
        where = known[layer.id] = f"{name}: layer “{readable(layer.name)}” of “{readable(ground.name)}”"
        needed = {plane for plane, spec in layer.specs.items() if not spec.later}
        if not needed <= set(found) <= set(layer.specs):
            raise BadProject(f"{where} should hold {' and '.join(sorted(needed))}; restore the file from a copy.")
    unpacked = _ahead(
        partial(numbers_in, maps[layer.id][plane], spec.dtype, ground.board.shape(spec.on), known[layer.id])
        for layer in ground.layers
        if layer.id in known
        for plane, spec in layer.specs.items()
        if plane in maps[layer.id]
    )
    planes: dict[str, Planes] = {}
    for layer in ground.layers:
        if layer.id not in known:
            planes[layer.id] = layer.blank(ground.board, project)
            continue
        planes[layer.id] = held = {plane: Plane.of(next(unpacked)) for plane in layer.specs if plane in maps[layer.id]}
        for plane, values in held.items():
            coded = layer.specs[plane].codes
            numbers = values.unique() if coded else np.array(values.extent())
            _check_numbers(numbers, coded, palette_size if coded else len(layer.terrains(project)), known[layer.id])
        planes |= _masks_from(ground, layer, maps, known[layer.id])
    return planes


def _ahead(tasks: Iterable[Callable[[], T]]) -> Iterator[T]:
    """What some tasks give, in their order; each is done beside while what the one before gave is looked at."""
    with ThreadPoolExecutor(1) as pool:
        coming: Future[T] | None = None
        for task in tasks:
            following = pool.submit(task)
            if coming is not None:
                yield coming.result()
            coming = following
        if coming is not None:
            yield coming.result()


def _masks_from(
    ground: Ground, layer: Layer, maps: Mapping[str, Mapping[str, Cells]], where: str
) -> dict[str, dict[str, Plane]]:
    """What was changed by hand on a layer that a recipe keeps alive, from a file."""
    found = maps.get(hand_key(layer.id))
    if found is None:
        return {}
    if set(found) != set(masked(layer)):
        raise BadProject(f"{where} is marked by hand where it can't be; restore the file from a copy.")
    masks = {
        name: read(cells, "uint8", ground.board.shape(layer.specs[name].on), where) for name, cells in found.items()
    }
    for mask in masks.values():
        _check_numbers(mask.unique(), False, 1, where)
    return {hand_key(layer.id): masks}


def _check_numbers(numbers: NDArray[np.generic], coded: bool, largest: int, where: str) -> None:
    values = np.asarray(numbers, dtype=np.int64)
    if coded:
        if (
            values.min() < 0
            or int(values.max()) >> ORIENTATION_SHIFT > 7
            or (values[values > 0] & NUMBER_MASK == 0).any()
        ):
            raise BadProject(f"{where} holds a cell that is no tile; restore the file from a copy.")
        values = values & NUMBER_MASK
    highest = int(values.max())
    if highest > largest:
        raise BadProject(f"{where} holds the number {highest}, and {largest} is the highest there is.")


def _check_ids(things: Iterable[object], kind: str, name: str) -> None:
    counts = Counter(getattr(thing, "id", "") for thing in things)
    for wanted, count in counts.items():
        if count > 1 or not wanted:
            raise BadProject(f"{name} has {count} {kind} with the id “{readable(wanted)}”; give each an id of its own.")
