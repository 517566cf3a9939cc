"""The checks. Each looks at one thing and gives findings in sentences, with the spot to go to."""

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass
from itertools import islice
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.seams import find_seams
from knitground.core.errors import BadSheet
from knitground.core.ground.layers import PINS, Ground, Planes, StitchedLayer, TerrainLayer, TileLayer
from knitground.core.ground.window import Window
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices, left_over
from knitground.core.stitches.match import dead_stitches
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

Stage = Literal["sheet", "joins", "stitches", "ground", "grow", "deliver"]
_NAMED = 3
FREE = (-1, -1)


@dataclass(frozen=True)
class Finding:
    """Something that is wrong: in which stage to mend it, a sentence, and where it is.

    `subject` is the id of the sheet, set or ground; `layer`, `row` and `column` lead to a cell of a ground, or
    `index` to an item of a list, or `tiles` to tiles of a sheet.
    """

    kind: str
    stage: Stage
    sentence: str
    subject: str
    layer: str | None = None
    row: int | None = None
    column: int | None = None
    index: int | None = None
    count: int = 1
    tiles: tuple[str, ...] = ()


def check_sheet(sheet: Sheet, picture: NDArray[np.uint8]) -> Iterator[Finding]:
    """Cuts that do not fit their picture, or leave art over.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        With what counts as transparent made so.
    """
    for cut in sheet.cuts:
        try:
            slices = Slices(picture, cut, sheet.parts_over(cut))
        except BadSheet as problem:
            yield Finding("bad cut", "sheet", f"{sheet.id}: {problem}", sheet.id)
            continue
        over = left_over(slices)
        if any(over):
            yield Finding("left over", "sheet", f"{sheet.id}: {over} belong to no tile", sheet.id)


def check_joins(join_set: JoinSet, usable: Collection[TileRef], found: Coverage) -> Iterator[Finding]:
    """Combinations that no tile shows, and labelled tiles that their sheets do not hold."""
    lost = [ref for ref in join_set.labels if ref not in usable]
    if lost:
        yield Finding(
            "lost tile", "joins", f"{join_set.name}: {len(lost)} labelled tiles are not on their sheet, "
            f"first {lost[0]}", join_set.id, count=len(lost),
        )  # fmt: skip
    unfinished = [ref for ref, labels in join_set.labels.items() if not join_set.bare and not all(labels)]
    if unfinished:
        tiles = "1 tile is" if len(unfinished) == 1 else f"{len(unfinished)} tiles are"
        sentence = f"{join_set.name}: {tiles} labelled only in part, first {unfinished[0]}"
        yield Finding("half labelled", "joins", sentence, join_set.id, count=len(unfinished))
    if not join_set.labels:
        return
    if found.lacking:
        named = ", ".join(letters(join_set, labels) for labels in islice(found.missing(), _NAMED))
        more = f" and {found.lacking - _NAMED} more" if found.lacking > _NAMED else ""
        sentence = f"{join_set.name}: no tile for {named}{more}"
        yield Finding("missing join", "joins", sentence, join_set.id, count=found.lacking)


def check_seams(join_set: JoinSet, drawn: Mapping[TileRef, NDArray[np.uint8]]) -> Iterator[Finding]:
    """Pairs of tiles that may meet and do not go on into one another, the worst few by name."""
    seams = find_seams(join_set, drawn)
    for seam in seams[:_NAMED]:
        says = "beside" if seam.level else "above"
        sentence = (
            f"{join_set.name}: a seam shows where {seam.first} lies {says} {seam.second}, "
            f"{seam.times:.1f} times as rough as within"
        )
        tiles = str(seam.first), str(seam.second)
        yield Finding("seam", "joins", sentence, join_set.id, index=int(seam.level), tiles=tiles)
    if seams[_NAMED:]:
        sentence = f"{join_set.name}: {len(seams) - _NAMED} more seams that are not as bad"
        yield Finding("seam", "joins", sentence, join_set.id, count=len(seams) - _NAMED)


def letters(join_set: JoinSet, labels: Labels) -> str:
    """A combination as the letters of its terrains, a dot for nothing; corners before edges in a full set."""
    signs = [join_set.terrains[number - 1].letter if number else "·" for number in labels]
    return " ".join(signs[:4]) + (" / " + " ".join(signs[4:]) if signs[4:] else "")


def check_stitches(stitch_set: StitchSet) -> Iterator[Finding]:
    """Stitches that can never fire."""
    for dead in dead_stitches(stitch_set.stitches, len(stitch_set.marks)):
        hiding = " and ".join(str(index + 1) for index in dead.hidden_by)
        yield Finding(
            "dead stitch", "stitches", f"{stitch_set.name}: stitch {dead.index + 1} never fires, hidden by {hiding}",
            stitch_set.id, index=dead.index,
        )  # fmt: skip


def check_tile_sizes(ground: Ground, planes: Mapping[str, Planes], sizes: NDArray[np.int32]) -> Iterator[Finding]:
    """Tiles laid or pinned by hand that are of another size than the ground's cells.

    Parameters
    ----------
    sizes : (N, 2) int32
        Width and height of the tile of each palette number; 0 where the tile is on no sheet, `FREE` where it may
        be of any size.
    """
    for layer in ground.layers:
        plane = "cells" if isinstance(layer, TileLayer) else PINS
        if plane not in planes[layer.id]:
            continue
        cells = np.asarray(planes[layer.id][plane], dtype=np.int32) & NUMBER_MASK
        used = np.unique(cells)
        used = used[used > 0]
        for kind, wrong, says in (
            ("lost tile", sizes[used, 0] == 0, "that are no longer on their sheet"),
            (
                "tile size",
                (sizes[used, 0] > 0) & (sizes[used] != (ground.tile_width, ground.tile_height)).any(axis=1),
                f"whose size is not the ground's {ground.tile_width} x {ground.tile_height}; if that is meant, "
                "choose an anchor where the sheet is cut",
            ),
        ):
            if wrong.any():
                spots = np.isin(cells, used[wrong])
                row, column = np.unravel_index(int(np.argmax(spots)), spots.shape)
                yield Finding(
                    kind, "ground", f"{ground.name}, {layer.name}: {int(spots.sum())} cells hold tiles {says}",
                    ground.id, layer.id, int(row), int(column), count=int(spots.sum()),
                )  # fmt: skip


class Unmet(NamedTuple):
    """Cells of a window of a derived layer for which nothing was drawn.

    Attributes
    ----------
    holes : (H, W) bool
        No tile fits what was painted.
    broken : (H, W) bool
        The tile that is laid instead does not join all its neighbours.
    """

    holes: NDArray[np.bool_]
    broken: NDArray[np.bool_]


def check_gaps(
    ground: Ground,
    unmet: Callable[[str, Window], Unmet],
    *,
    progress: Callable[[float], None] = lambda share: None,
    band: int = 256,
) -> Iterator[Finding]:
    """Cells of derived layers that no tile fits, and joins that stay broken there.

    Parameters
    ----------
    unmet : callable
        Looks at a window of a layer.
    progress : callable, optional
        Told the share done; may raise to stop.
    """
    derived = [layer for layer in ground.layers if not isinstance(layer, TileLayer)]
    for number, layer in enumerate(derived):
        counts, firsts = [0, 0], [(0, 0), (0, 0)]
        for top in range(0, ground.height, band):
            window = Window(top, 0, min(band, ground.height - top), ground.width)
            for which, cells in enumerate(unmet(layer.id, window)):
                if cells.any() and not counts[which]:
                    first = int(np.argmax(cells))
                    firsts[which] = top + first // ground.width, first % ground.width
                counts[which] += int(cells.sum())
            progress((number + window.bottom / ground.height) / len(derived))
        for which, says in enumerate((_gap_says(layer), "{cells} laid with joins that break")):
            if counts[which]:
                row, column = firsts[which]
                many = "1 cell is" if counts[which] == 1 else f"{counts[which]} cells are"
                sentence = f"{ground.name}, {layer.name}: {says.format(cells=many)}, first at {column}, {row}"
                kind = ("gap", "broken join")[which]
                yield Finding(kind, "ground", sentence, ground.id, layer.id, row, column, count=counts[which])


def _gap_says(layer: TerrainLayer | StitchedLayer) -> str:
    if isinstance(layer, StitchedLayer):
        return "{cells} without a stitch"
    return "{cells} without a tile for what is painted, and the nearest is laid"
