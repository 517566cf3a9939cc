"""Things that stitches lay: the tiles of pieces that name a kind of things, as things where they stand."""

from collections.abc import Iterator

from knitground.core.grid.rect import CellRect
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.layer import PINS, Layer
from knitground.core.layers.stitched import StitchedLayer, as_stitched
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.stitches.compiled import ReadySet
from knitground.core.tiles.tile import MIRRORED, NUMBER_MASK, ORIENTATION_SHIFT

_BAND = 2**19


def things_laid(derived: Derived, ground_id: str, layer: Layer) -> list[Thing]:
    """The things among the tiles of a layer that stitches lay, row by row; none on other layers."""
    if not layer.stitched_by:
        return []
    knitted = derived.knitted(ground_id)
    source, part = _source(knitted, layer)
    table: ReadySet | None = knitted.tables.get(source.id) if source is not None else None
    if source is None or table is None or not any(piece.thing for piece in table.owner.pieces):
        return []
    whole = knitted.ground.board.whole
    high = max(1, _BAND // max(1, whole.width))
    found: list[Thing] = []
    for top in range(0, whole.height, high):
        band = CellRect(top, 0, min(high, whole.height - top), whole.width)
        found += _in_band(derived, knitted, layer, source, part, table, band)
    return found


def _source(knitted: Knitted, layer: Layer) -> tuple[StitchedLayer | None, int]:
    """The stitched layer that lays what a layer shows, and the number of the part."""
    own = as_stitched(layer)
    if own is not None:
        return own, 0
    follows = next(iter(knitted.following.get(layer.id, {}).values()), None)
    if follows is None:
        return None, 0
    return as_stitched(knitted.layer(follows.layer)), int(knitted.tables[layer.id]) + 1


def _in_band(
    derived: Derived,
    knitted: Knitted,
    layer: Layer,
    source: StitchedLayer,
    part: int,
    table: ReadySet,
    band: CellRect,
) -> Iterator[Thing]:
    planes = knitted.seen(source.id, knitted.planes[source.id])
    sewn = source.sewn(knitted.ground.board, planes, table, knitted.seed, band, traced=True)
    codes = knitted.codes(layer.id, band)
    pins = knitted.planes[layer.id].get(PINS)
    palette, projection = derived.document.palette, knitted.ground.projection
    for row, column in zip(*(one.tolist() for one in (codes > 0).nonzero()), strict=True):
        owner = sewn.owner_of(part, row, column)
        if owner is None or (pins is not None and pins[row + band.top, column]):
            continue
        code = int(codes[row, column])
        variant = table.courses[owner.course].variants[owner.variant]
        kind = next((one.thing for one in variant.layings if one.part == part and one.thing and code in one.codes), "")
        if kind:
            box = projection.box(row + band.top, column)
            ref, orientation = palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
            yield Thing(
                f"{column},{row + band.top}",
                float(box.x + box.width / 2),
                float(box.y + box.height),
                tile=ref,
                turn=90.0 * (orientation & 3),
                mirrored=bool(orientation & MIRRORED),
                kind=kind,
            )
