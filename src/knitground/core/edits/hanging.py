"""Stitches for what lies below the rim of a block and nowhere else: what hangs down from it, and the faces of walls.

Joins lay a tile by what is painted round its cell, and can't know that two cells further up the block ends. So such
tiles are laid by stitches over those of the joins, which look at the tiles that lie there, or at what is painted.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import NamedTuple, cast

from knitground.core.edits.layers import add_layer
from knitground.core.edits.stitching import let_see
from knitground.core.ground.ground import by_id
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.project.document import Document
from knitground.core.project.model import Project
from knitground.core.stitches.charts import ANY, Chart, chart_of
from knitground.core.stitches.rules import Course, Piece, Stitch, StitchSet, TileSign, View
from knitground.core.tiles.tile import TileRef

_LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
_LONGEST_VIEW = 60


class Hanging(NamedTuple):
    """A tile that hangs down from the one above it, and the labels of those that lie there otherwise."""

    tile: TileRef
    labels: Labels
    above: TileRef


Face = tuple[TileRef, TileRef, TileRef]
"""The left end, what goes on and the right end of a row of a wall's face."""


def stitches_below(set_id: str, join_set: JoinSet, hanging: Iterable[Hanging], faces: Sequence[Face] = ()) -> StitchSet:
    """Stitches that lay what lies below the rim of a set, over the layer of the set.

    Parameters
    ----------
    set_id : str
    join_set : JoinSet
        What its layer lays is looked at.
    hanging : iterable of Hanging
        Those that hang from tiles with the same labels in the place of the same tiles are laid in turns, by chance.
    faces : sequence of Face
        Rows that lie below where the set ends downward, from above.
    """
    view = join_set.name[:_LONGEST_VIEW]
    found: dict[tuple[Labels, Labels], list[TileRef]] = {}
    for one in hanging:
        if one.above in join_set.labels:
            found.setdefault((join_set.labels[one.above], one.labels), []).append(one.tile)
    # Two signs for each way to hang; there are six where the block is whole, and letters for more than twice as many.
    found = dict(list(found.items())[: len(_LETTERS) // 2])
    numbers = {row: number for number, row in enumerate(dict.fromkeys(row for pair in found for row in pair), 1)}
    signs = tuple(
        TileSign(f"tiles {letter}", letter, tuple(ref for ref, other in join_set.labels.items() if other == row))
        for row, letter in zip(numbers, _LETTERS, strict=False)
    )
    bare, stitches = (ANY,) * 3, list[Stitch]()
    for (above, instead), tiles in found.items():
        chart = chart_of(((ANY, str(numbers[above]), ANY), (ANY, str(numbers[instead]), ANY), bare), view)
        stitches += [_laying(ref, chart, 100 / (len(tiles) - place)) for place, ref in enumerate(tiles)]
    views = [View(view, "tiles", join_set.id, signs)] if stitches else []
    if faces:
        views.append(View(f"{view}, painted", "painted", join_set.id))
        stitches += _of_faces(faces, len(join_set.terrains), views[-1].name)
    course = Course("Below the rim", tuple(replace(one, id=f"s{number}") for number, one in enumerate(stitches, 1)))
    return StitchSet(set_id, f"Below {join_set.name}"[:80], (), (course,), tuple(views))


def _of_faces(faces: Sequence[Face], terrains: int, view: str) -> Iterator[Stitch]:
    """Stitches for the rows of a face: its ends below those of what is painted, what goes on below all else.

    It goes by what is painted, as the tile that lies there need not end downward where a block is a cell high.
    """
    painted = "/".join(map(str, range(1, terrains + 1)))
    for down, (left, goes_on, right) in enumerate(faces, 1):
        between, below = ((ANY, "0", ANY),) * down, ((ANY,) * 3,) * down
        for tile, before, after in ((left, "0", painted), (right, painted, "0"), (goes_on, ANY, ANY)):
            yield _laying(tile, chart_of(((before, painted, after), *between, *below), view))


def _laying(tile: TileRef, chart: Chart, chance: float = 100) -> Stitch:
    return Stitch("", (chart,), (Piece(tile),), chance=chance)


def lay_hanging(document: Document, ground_id: str, layer_id: str) -> None:
    """Adds a layer over one of joins for each stitch set that only looks at what that lays, where it has none."""
    for one in hanging_from(document.project, ground_id, layer_id):
        made = add_layer(document, ground_id, one.name, one.id)
        for view in one.views:
            layer = cast(StitchedLayer, by_id(document.project.grounds, ground_id).layer(made))
            let_see(document, ground_id, layer, view.name, layer_id)


def hanging_from(project: Project, ground_id: str, layer_id: str) -> list[StitchSet]:
    """Stitch sets without a plan that look at a layer alone, and are on no layer of its ground yet."""
    ground = by_id(project.grounds, ground_id)
    of, laid = ground.layer(layer_id).set_id, {layer.set_id for layer in ground.layers}
    return [
        one
        for one in project.stitch_sets
        if not one.marks
        and one.id not in laid
        and {(view.of, view.sees == "laid") for view in one.views} == {(of, False)}
    ]
