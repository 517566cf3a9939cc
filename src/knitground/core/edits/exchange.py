"""Exchanging the picture of a sheet for another: drawn anew in the same layout, or cut otherwise."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.cuts import seen_for_guess
from knitground.core.edits.merging import moved_in, moved_on_maps
from knitground.core.errors import BadRequest, BadSheet
from knitground.core.ground.ground import by_id
from knitground.core.project.delta import Delta, delta_between
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, State, fresh_id, replaced
from knitground.core.sheet.cut import Cut, Rect, grid_of
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef

Way = Literal["place", "order", "look"]
Place = tuple[int, int]
_LOOKED_AT = 6
_MOST_LOOKED_AT = 1500


@dataclass(frozen=True)
class Exchange:
    """A new picture of a sheet and its cuts, and which tile takes the place of each one that there was.

    Without `mapping` all tiles keep their column and row.
    """

    sheet: Sheet
    picture: Picture
    mapping: Mapping[TileRef, TileRef | None] | None = None

    @property
    def matched(self) -> int:
        """How many tiles find another."""
        return sum(new is not None for new in (self.mapping or {}).values())


def same_layout(sheet: Sheet, before: Picture, picture: Picture) -> Exchange | None:
    """An exchange in which all tiles keep their column and row, if the new picture is as large or a multiple of it."""
    across, down = (new / old for new, old in zip(picture.size, before.size, strict=True))
    if across != down or not across.is_integer():
        return None
    return Exchange(replace(sheet, cuts=tuple(_scaled(cut, int(across)) for cut in sheet.cuts)), picture)


def new_cut(sheet: Sheet, picture: Picture) -> Cut:
    """The cut that a new picture of a sheet seems to have: as it was if that fits all of it, else by a guess.

    Raises
    ------
    BadRequest
        If the sheet has several cuts; then only a picture of the same layout will do.
    """
    if len(sheet.cuts) != 1 or sheet.cuts[0].pieces:
        raise BadRequest(
            f"“{sheet.id}” is cut in several parts or loose pieces; exchange it for a picture of the same size only."
        )
    (cut,) = sheet.cuts
    guesses = look_over(seen_for_guess(picture.pixels, sheet)).guesses
    if guesses:
        return replace(guesses[0].as_cut(cut.id), anchor=cut.anchor)
    try:
        grid_of(cut, *picture.size)
    except BadSheet:
        return Cut(cut.id, min(cut.tile_width, picture.size[0]), min(cut.tile_height, picture.size[1]))
    return cut


def first_cut(sheet: Sheet, before: Picture, picture: Picture) -> Cut | None:
    """The cut that a new picture is shown with first; None where all keep their places, in parts or loose pieces.

    Raises
    ------
    BadRequest
        If the sheet has several cuts, and the picture is no larger copy of the layout.
    """
    same = same_layout(sheet, before, picture)
    if same is None:
        return new_cut(sheet, picture)
    return None if len(sheet.cuts) != 1 or sheet.cuts[0].pieces else same.sheet.cuts[0]


def cut_otherwise(
    sheet: Sheet,
    before: Picture,
    picture: Picture,
    cut: Cut,
    way: Way,
    by_hand: Mapping[Place, Place | None] = MappingProxyType({}),
    *,
    pairs: dict[Place, Place | None] | None = None,
) -> Exchange:
    """An exchange for another cut; raises BadSheet where it does not fit the new picture.

    Parameters
    ----------
    way : {"place", "order", "look"}
        Tiles go to the same column and row; to the tile of the same number in reading order; or to the one that
        looks most like them, no two to one.
    by_hand : mapping
        Columns and rows that were chosen for some, whatever the way says; None where nothing is to take their place.
        Of a cell that is no tile of the new picture nothing is taken.
    pairs : mapping, optional
        What `paired` told for the same, where it was asked before.
    """
    (old_cut,) = sheet.cuts
    new = Slices(picture.cleared(sheet), cut)
    # Another name for the cut: a tile that finds no place must never be taken for one that lies where it lay.
    named = replace(cut, id=fresh_id(cut.id, sheet.cuts), region=None, left_out=(), taken_in=())
    chosen = {one: other for one, other in by_hand.items() if other is None or new.holds(*other)}
    found = pairs if pairs is not None else paired(sheet, before, picture, cut, way)
    mapping = {
        TileRef(sheet.id, old_cut.id, *one): TileRef(sheet.id, named.id, *other) if other is not None else None
        for one, other in {**found, **chosen}.items()
        if one in found
    }
    return Exchange(replace(sheet, cuts=(named,)), picture, mapping)


class Exchanged(NamedTuple):
    """A document in which a picture is exchanged, and what differs from the one that it was made of."""

    state: State
    delta: Delta


def exchange(document: Document, wanted: Exchange, *, grounds: bool = False) -> None:
    """Exchanges the picture as one step; maps, sets, mixes and animations follow.

    Parameters
    ----------
    grounds : bool
        Whether grounds whose cells were as large as the sheet's tiles become as large as its new ones.
    """
    take_exchanged(document, exchanged(document, wanted, grounds=grounds))


def exchanged(document: Document, wanted: Exchange, *, grounds: bool = False) -> Exchanged:
    """What an exchange makes of the document as it is now; that changes nothing yet, and may be done beside it."""
    before = by_id(document.project.sheets, wanted.sheet.id)
    project = replace(document.project, sheets=replaced(document.project.sheets, wanted.sheet))
    moves = {one: (other, 0) for one, other in (wanted.mapping or {}).items() if other is not None}
    planes = document.state.planes
    if moves:
        project, planes = moved_in(project, moves), moved_on_maps(document, moves)
    if grounds and before.cuts:
        was, becomes = before.cuts[0], wanted.sheet.cuts[0]
        size = was.tile_width, was.tile_height
        project = replace(project, grounds=tuple(
            replace(ground, tile_width=becomes.tile_width, tile_height=becomes.tile_height)
            if (ground.tile_width, ground.tile_height) == size else ground
            for ground in project.grounds
        ))  # fmt: skip
    pictures = {**document.state.pictures, wanted.sheet.id: wanted.picture}
    state = State(project, pictures, planes)
    return Exchanged(state, delta_between(document.state, state))


def take_exchanged(document: Document, made: Exchanged) -> None:
    """Takes over what an exchange made of the document as it still is, as one step."""
    document.take("exchange picture", made.state, made.delta)


def paired(sheet: Sheet, before: Picture, picture: Picture, cut: Cut, way: Way) -> dict[Place, Place | None]:
    """Which tile of a new picture takes the place of each of the old, by one way; None where none does.

    Raises
    ------
    BadRequest
        If there are too many to compare by look.
    """
    old, new = Slices(before.cleared(sheet), sheet.cuts[0]), Slices(picture.cleared(sheet), cut)
    ours, theirs = list(old.cells()), list(new.cells())
    if way == "place":
        return {cell: cell if new.holds(*cell) else None for cell in ours}
    if way == "order":
        return {cell: theirs[number] if number < len(theirs) else None for number, cell in enumerate(ours)}
    if max(len(ours), len(theirs)) > _MOST_LOOKED_AT:
        raise BadRequest(f"More than {_MOST_LOOKED_AT} tiles are too many to compare by look; choose another way.")
    # Slow to import, and seldom needed.
    from scipy.optimize import linear_sum_assignment
    from scipy.spatial.distance import cdist

    looks, others = (np.array([_look(slices.cell(*cell)) for cell in cells]).reshape(len(cells), -1)
                     for slices, cells in ((old, ours), (new, theirs)))  # fmt: skip
    apart = cdist(looks, others, "cityblock")
    found = dict(zip(*(side.tolist() for side in linear_sum_assignment(apart)), strict=True))
    return {cell: theirs[found[number]] if number in found else None for number, cell in enumerate(ours)}


def _look(tile: NDArray[np.uint8]) -> NDArray[np.float32]:
    """A tile seen from afar: a few averages of its colours, whatever its size."""
    seen: NDArray[np.floating] = tile.astype(np.float32)
    seen[..., :3] *= seen[..., 3:] / 255
    for axis, side in enumerate(seen.shape[:2]):
        ends = np.linspace(0, side, _LOOKED_AT + 1).astype(int)
        many = np.maximum(np.diff(ends), 1).astype(np.float32)
        seen = np.add.reduceat(seen, ends[:-1], axis=axis) / many.reshape((-1, 1, 1) if axis == 0 else (-1, 1))
    return seen.reshape(-1).astype(np.float32)


def _scaled(cut: Cut, by: int) -> Cut:
    numbers = ("tile_width", "tile_height", "margin_x", "margin_y", "spacing_x", "spacing_y", "offset_x", "offset_y")
    return replace(
        cut,
        region=Rect(*(side * by for side in cut.region)) if cut.region else None,
        pieces=tuple(Rect(*(side * by for side in piece)) for piece in cut.pieces),
        **{name: getattr(cut, name) * by for name in numbers},
    )
