"""All findings of a project."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.findings import (
    FREE,
    Finding,
    Unmet,
    check_gaps,
    check_joins,
    check_sheet,
    check_stitches,
    check_tile_sizes,
)
from knitground.core.check.lost import check_fell_away
from knitground.core.ground.derive import Tables, as_painted, mended_in
from knitground.core.ground.layers import PINS, Ground, Planes, StitchedLayer, TerrainLayer, TileLayer
from knitground.core.ground.window import Window
from knitground.core.joins.table import JoinTable
from knitground.core.project.derived import Derived
from knitground.core.project.moving import named_tiles, users
from knitground.core.sheet.cut import tile_size
from knitground.core.tiles.tile import GAP, TileRef

Progress = Callable[[float], None]


def definition_findings(derived: Derived) -> list[Finding]:
    """What is wrong with sheets, join sets and stitches; quick, whatever the size of the grounds."""
    state = derived.document.state
    found: list[Finding] = []
    for sheet in state.project.sheets:
        found += check_sheet(sheet, state.pictures[sheet.id].seen(sheet))
    for join_set in state.project.join_sets:
        found += check_joins(join_set, derived.usable(join_set.labels), derived.coverage(join_set))
    for stitch_set in state.project.stitch_sets:
        found += check_stitches(stitch_set)
    return found


def ground_check(derived: Derived) -> Callable[[Progress], list[Finding]]:
    """A function that looks for seams, and for what is wrong on the grounds.

    What it needs of the document is taken here, at once; the function itself knits every cell anew and may run
    beside the interface.
    """
    state, sizes = derived.document.state, _tile_sizes(derived)
    seams = [derived.seams(join_set) for join_set in state.project.join_sets]
    tables = {ground.id: derived.knitted(ground.id).tables for ground in state.project.grounds}
    lost, named_by = _lost(derived)
    palette_size = len(derived.document.palette.refs) + 1

    def check(progress: Progress) -> list[Finding]:
        found: list[Finding] = []
        for find in seams:
            found += find()
        if lost:
            grounds = [(ground, state.planes[ground.id]) for ground in state.project.grounds]
            found += check_fell_away(lost, named_by, grounds, palette_size)
        for ground in state.project.grounds:
            planes = state.planes[ground.id]

            def look(layer: str, window: Window, ground: Ground = ground) -> Unmet:
                layers = state.planes[ground.id]
                return unmet(ground, ground.layer(layer), layers[layer], tables[ground.id], window)

            found += check_tile_sizes(ground, planes, sizes)
            found += check_gaps(ground, look, progress=progress)
        return found

    return check


def all_findings(derived: Derived) -> list[Finding]:
    """Everything, in the order of the work."""
    return [*definition_findings(derived), *ground_check(derived)(lambda share: None)]


def unmet(
    ground: Ground,
    layer: TileLayer | TerrainLayer | StitchedLayer,
    planes: Planes,
    tables: Tables,
    window: Window,
) -> Unmet:
    """The cells of a window that no tile fits; those that are pinned are none of them."""
    broken = np.zeros((window.height, window.width), dtype=bool)
    if isinstance(layer, TileLayer):
        return Unmet(broken, broken)
    holes = as_painted(ground, layer, planes, tables, 0, window) == GAP
    table = tables.get(layer.id)
    if isinstance(table, JoinTable) and (mended := mended_in(ground, planes, table, window)):
        broken[mended.rows, mended.columns] = mended.broken
    if PINS in planes:
        free = planes[PINS][window.rows, window.columns] == 0
        holes, broken = holes & free, broken & free
    return Unmet(holes, broken)


def _lost(derived: Derived) -> tuple[dict[TileRef, int | None], dict[str, dict[str, int]]]:
    """Tiles that something names and their sheets do not hold, with their palette numbers; and by what, by sheet."""
    project, palette = derived.document.project, derived.document.palette
    numbers = {ref: number for number, ref in enumerate(list(palette.refs), start=1)}
    sheets = {sheet.id for sheet in project.sheets}
    known = {ref for ref in {*numbers, *named_tiles(project)} if ref.sheet in sheets}
    lost = known - derived.usable(known)
    by_sheet: dict[str, list[TileRef]] = {}
    for ref in lost:
        by_sheet.setdefault(ref.sheet, []).append(ref)
    return (
        {ref: numbers.get(ref) for ref in lost},
        {sheet: users(project, refs) for sheet, refs in by_sheet.items()},
    )


def _tile_sizes(derived: Derived) -> NDArray[np.int32]:
    """Width and height of each palette number's tile, (N + 1, 2) int32; 0 where it is on no sheet."""
    refs, cuts = derived.document.palette.refs, derived.document.project.cuts
    usable = derived.usable(refs)
    sizes = np.zeros((len(refs) + 1, 2), dtype=np.int32)
    for number, ref in enumerate(refs, start=1):
        if ref in usable:
            cut = cuts[ref.sheet, ref.cut]
            # Tiles with an anchor are of another size than the cells on purpose.
            sizes[number] = FREE if cut.anchor else tile_size(cut, ref.column, ref.row)
    return sizes
