"""All findings of a project."""

from collections.abc import Callable, Iterator

import numpy as np

from knitground.core.check.findings import (
    Finding,
    check_gaps,
    check_joins,
    check_sheet,
    check_stitches,
    check_tile_sizes,
)
from knitground.core.ground.knitted import derive
from knitground.core.project.derived import Derived

Progress = Callable[[float], None]


def definition_findings(derived: Derived) -> list[Finding]:
    """What is wrong with sheets, join sets and stitches; quick, whatever the size of the grounds."""
    state = derived.document.state
    found: list[Finding] = []
    for sheet in state.project.sheets:
        height, width = state.pictures[sheet.id].pixels.shape[:2]
        found += check_sheet(sheet, width, height)
    for join_set in state.project.join_sets:
        found += check_joins(join_set, derived.usable(join_set.labels))
    for stitch_set in state.project.stitch_sets:
        found += check_stitches(stitch_set)
    return found


def ground_findings(derived: Derived, *, progress: Progress = lambda share: None) -> Iterator[Finding]:
    """What is wrong on the grounds. Knits every cell anew, so it may run beside the interface."""
    state = derived.document.state
    sizes = _tile_sizes(derived)
    for ground in state.project.grounds:
        planes, tables = dict(state.planes[ground.id]), derived.knitted(ground.id).tables
        yield from check_tile_sizes(ground, planes, sizes)
        yield from check_gaps(
            ground,
            lambda layer, window, g=ground, p=planes, t=tables: derive(  # type: ignore[misc]
                g.layer(layer), p[layer], t, state.project.seed, window
            ),
            progress=progress,
        )


def all_findings(derived: Derived) -> list[Finding]:
    """Everything, in the order of the work."""
    return [*definition_findings(derived), *ground_findings(derived)]


def _tile_sizes(derived: Derived) -> np.ndarray[tuple[int, int], np.dtype[np.int32]]:
    """Width and height of each palette number's tile, (N + 1, 2) int32; 0 where it is on no sheet."""
    refs, cuts = derived.document.palette.refs, derived.document.project.cuts
    usable = derived.usable(refs)
    sizes = np.zeros((len(refs) + 1, 2), dtype=np.int32)
    for number, ref in enumerate(refs, start=1):
        if ref in usable:
            cut = cuts[ref.sheet, ref.cut]
            sizes[number] = cut.tile_width, cut.tile_height
    return sizes
