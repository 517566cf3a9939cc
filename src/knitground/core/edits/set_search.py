"""Looking for join sets on all parts of a sheet, or among the single images of a collection."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from os.path import commonprefix
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.elsewhere import with_ground_elsewhere
from knitground.core.edits.finding import Proposed, grounds_first, named_apart, propose
from knitground.core.edits.joining import join_alike
from knitground.core.edits.numbered import runs_of_names
from knitground.core.errors import BadRequest
from knitground.core.joins.find import find_sets
from knitground.core.sheet.cut import Cut, TileShape
from knitground.core.sheet.isometric import on_foot
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.tile import TileRef

NO_HEXAGONS = "No set can knit hexagons yet: lay them by hand, in a mix or by a recipe."
_FEWEST = 2
"""Among how few tiles there may be a set."""
_FEW, _LETTERS = 3, 3
"""How few images may go on in the next by chance, and with how many letters alike these are called alike."""


class Searched(NamedTuple):
    """Tiles of one size among which sets are looked for, where they lie beside each other.

    Attributes
    ----------
    tiles : (rows, columns, h, w, 4) uint8
        Of isometric ones what stands on their diamonds.
    refs : mapping of (column, row) to TileRef
        Which tiles these are; a cell that is not among them is none.
    shape : TileShape
    single : bool
        Whether they are single images, which lie beside each other by their names alone.
    """

    tiles: NDArray[np.uint8]
    refs: Mapping[tuple[int, int], TileRef]
    shape: TileShape
    single: bool = False

    @property
    def held(self) -> NDArray[np.bool_]:
        """Which cells are tiles, (rows, columns)."""
        held = np.zeros(self.tiles.shape[:2], dtype=bool)
        for column, row in self.refs:
            held[row, column] = True
        return held


def searched_on(
    sheet: Sheet, sliced: Mapping[tuple[str, str], Slices], notes: Mapping[TileRef, TileNotes]
) -> list[Searched]:
    """What sets are looked for among: each grid of a sheet, or the images of a collection that are of one size.

    These lie in a row in the order of their names, as those of a set are mostly called alike; of those that play
    others, only the first.

    Parameters
    ----------
    sheet : Sheet
    sliced : mapping of (sheet, cut) to Slices
        Its cuts, as far as they fit, and maybe others.
    notes : mapping of TileRef to TileNotes
        What is said of tiles.

    Raises
    ------
    BadRequest
        If there are no tiles to look at, or hexagons alone.
    """
    parts = [sliced[sheet.id, cut.id] for cut in sheet.cuts if (sheet.id, cut.id) in sliced and not cut.pieces]
    grids = [slices for slices in parts if not slices.cut.is_hexagon]
    found = _by_size(sheet.id, grids, notes) if sheet.images else [_of_grid(sheet.id, slices) for slices in grids]
    found = [one for one in found if len(one.refs) >= _FEWEST]
    if found:
        return found
    if parts and not grids:
        raise BadRequest(NO_HEXAGONS)
    raise BadRequest(
        "No two images of this tileset are of one size, so no set can be found among them."
        if sheet.images
        else "There is no grid of tiles to look for sets on; cut a sheet in the first stage."
    )


def search_sets(
    searched: Sequence[Searched], cuts: Mapping[tuple[str, str], Cut], progress: Callable[[float], None]
) -> list[Proposed]:
    """The sets found among tiles, in the order in which one would paint with them, named apart.

    Parameters
    ----------
    searched : sequence of Searched
    cuts : mapping of (sheet, cut) to Cut
        Those of all their tiles.
    progress : callable
        Is told the share that is done, from 0 to 1; may raise to stop.
    """
    proposed: list[Proposed] = []
    every: dict[TileRef, NDArray[np.uint8]] = {}
    for number, one in enumerate(searched):
        share = lambda done, before=number: progress((before + done) / len(searched))  # noqa: E731
        found = find_sets(one.tiles, one.held, shape=one.shape, progress=share)
        others = _elsewhere(one, searched)
        refs = list(others)
        found, further = with_ground_elsewhere(found, one.tiles, one.held, list(others.values()), one.shape)
        cell = TileRef("", "", 0, 0)
        names = {cell._replace(column=column, row=row): ref for (column, row), ref in one.refs.items()}
        shown = {at: one.tiles[at.row, at.column] for at in names}
        for (column, row), which in further.items():
            at = cell._replace(column=column, row=row)
            names[at], shown[at] = refs[which], others[refs[which]]
        made = [_renamed(one, names) for one in propose(found, shown, cell, one.shape, first=len(proposed))]
        proposed += [mine for mine in made if not one.single or _is_told(mine, one.refs.values())]
        every |= {names[at]: pixels for at, pixels in shown.items()}
    return named_apart(grounds_first(join_alike(proposed, every, cuts)))


def _elsewhere(one: Searched, searched: Sequence[Searched]) -> dict[TileRef, NDArray[np.uint8]]:
    """The tiles of other parts that are as large as those of one."""
    alike = [
        other
        for other in searched
        if other is not one and other.shape == one.shape and other.tiles.shape[2:] == one.tiles.shape[2:]
    ]
    return {ref: other.tiles[row, column] for other in alike for (column, row), ref in other.refs.items()}


def _of_grid(sheet: str, slices: Slices) -> Searched:
    """The cells of a cut; what no diamond fits on is none."""
    cut = slices.cut
    size = on_foot(np.zeros((cut.tile_height, cut.tile_width, 4), np.uint8), cut).shape
    tiles = np.zeros((slices.grid.rows, slices.grid.columns, *size), dtype=np.uint8)
    refs: dict[tuple[int, int], TileRef] = {}
    for column, row in slices.cells():
        pixels = on_foot(slices.cell(column, row), cut)
        if pixels.shape == size:
            tiles[row, column], refs[column, row] = pixels, TileRef(sheet, cut.id, column, row)
    return Searched(tiles, refs, cut.shape)


def _by_size(sheet: str, images: Sequence[Slices], notes: Mapping[TileRef, TileNotes]) -> list[Searched]:
    """Single images by the shapes and sizes in which there are several."""
    played = {frame.tile for one in notes.values() for frame in one.frames} - {
        ref for ref in notes if notes[ref].frames
    }
    alike: dict[tuple[TileShape, tuple[int, ...]], dict[TileRef, NDArray[np.uint8]]] = {}
    for slices in images:
        for column, row in slices.cells():
            ref = TileRef(sheet, slices.cut.id, column, row)
            pixels = _without_room(on_foot(slices.cell(column, row), slices.cut), slices.cut)
            if ref not in played:
                alike.setdefault((slices.cut.shape, pixels.shape), {})[ref] = pixels
    return [_in_rows(group, shape) for (shape, _), group in alike.items()]


def _without_room(tile: NDArray[np.uint8], cut: Cut) -> NDArray[np.uint8]:
    """A tile that lies flat on its diamond, without what is clear above it; any other as it is."""
    room = len(tile) - cut.footprint[1]
    return tile[room:] if cut.shape == "isometric" and room > 0 and not tile[:room, :, 3].any() else tile


def _in_rows(images: Mapping[TileRef, NDArray[np.uint8]], shape: TileShape) -> Searched:
    """Images of one size in a row, or in one for each run where all are numbered in runs of one length."""
    by_name = {ref.cut: ref for ref in images}
    runs = runs_of_names(list(by_name))
    even = len({len(run) for run in runs}) == 1 and sum(map(len, runs)) == len(images)
    rows = [[by_name[name] for name in run] for run in runs] if even else [[*images]]
    tiles = np.stack([np.stack([images[ref] for ref in row]) for row in rows])
    refs = {(column, number): ref for number, row in enumerate(rows) for column, ref in enumerate(row)}
    return Searched(tiles, refs, shape, single=True)


def _is_told(one: Proposed, images: Iterable[TileRef]) -> bool:
    """Whether a set of single images has enough of them, or these are called alike, and not as all images are."""
    if len(one.join_set.labels) > _FEW:
        return True
    mine, every = (_beginning(ref.cut for ref in refs) for refs in (one.join_set.labels, images))
    return len(mine) >= _LETTERS and mine != every


def _beginning(names: Iterable[str]) -> str:
    """How some names all begin, up to a number."""
    return commonprefix([*names]).rstrip("0123456789")  # noqa: RUF071 - letter by letter is meant


def _renamed(one: Proposed, names: Mapping[TileRef, TileRef]) -> Proposed:
    """What is proposed, with its tiles called otherwise."""
    join_set = replace(one.join_set, labels={names[ref]: row for ref, row in one.join_set.labels.items()})
    hanging = tuple(hung._replace(tile=names[hung.tile], above=names[hung.above]) for hung in one.hanging)
    faces = tuple((names[left], names[middle], names[right]) for left, middle, right in one.faces)
    rare = {names[ref]: weight for ref, weight in one.rare.items()}
    frames = {names[ref]: tuple(names[later] for later in run) for ref, run in one.frames.items()}
    return one._replace(join_set=join_set, hanging=hanging, faces=faces, rare=rare, frames=frames)
