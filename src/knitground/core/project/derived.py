"""What follows from a document: compiled sets, the tiles of its grounds, and their pixels.

Everything here is worked out on demand and kept only as long as what it was made from stays the same.
"""

from collections.abc import Callable, Iterable, Mapping
from functools import cache
from typing import Any, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.findings import Finding, check_seams
from knitground.core.ground.derive import Tables
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.layers import Ground, StitchedLayer, TerrainLayer, next_by_id
from knitground.core.ground.window import Window
from knitground.core.joins.coverage import Coverage, coverage
from knitground.core.joins.sets import JoinSet
from knitground.core.joins.table import JoinTable, compile_table
from knitground.core.project.document import Change, Document
from knitground.core.render.atlas import Atlas, Pixels, slices_of
from knitground.core.render.compose import compose, compose_overview, compose_whole
from knitground.core.sheet.cut import tile_size
from knitground.core.sheet.slices import Slices
from knitground.core.stitches.match import stitch_tiles, winners
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import TileRef

T = TypeVar("T")


class Derived:
    """Tiles and pixels of a document's grounds, following its changes."""

    def __init__(self, document: Document) -> None:
        self.document = document
        self._kept: dict[Any, tuple[tuple[Any, ...], Any]] = {}
        self._knitted: dict[str, Knitted] = {}
        self.reached: list[tuple[str, Window]] = []
        """Windows of grounds whose tiles the last change may have changed; definitions change them all."""
        document.listeners.insert(0, self._on_change)

    def close(self) -> None:
        """Stops following the document."""
        self.document.listeners.remove(self._on_change)

    def knitted(self, ground_id: str) -> Knitted:
        """The tiles of a ground; KeyError if there is no such ground."""
        ground = next_by_id(self.document.project.grounds, ground_id)
        if ground_id not in self._knitted:
            planes = self.document.state.planes[ground_id]
            self._knitted[ground_id] = Knitted(ground, planes, self._tables(ground), self.document.project.seed)
        return self._knitted[ground_id]

    def atlas(self, width: int, height: int) -> Atlas:
        """All tiles of the palette in cells of this size."""
        refs = self.document.palette.refs
        sliced = self.sliced()
        return self._keep(
            ("atlas", width, height), (sliced, len(refs)), lambda: Atlas(sliced, list(refs), width, height)
        )

    def sliced(self) -> dict[tuple[str, str], Slices]:
        """The tiles of every cut that fits its picture, by (sheet, cut)."""
        state = self.document.state
        pictures = {sheet.id: state.pictures[sheet.id].seen(sheet) for sheet in state.project.sheets}
        made_from = (state.project.sheets, *pictures.values())
        return self._keep(("sliced",), made_from, lambda: slices_of(pictures, state.project.sheets))

    def tile(self, ref: TileRef) -> Pixels | None:
        """Pixels of one tile, (height, width, 4) uint8 with straight alpha; none where its sheet lacks it."""
        slices = self.sliced().get((ref.sheet, ref.cut))
        return slices.tile(ref.column, ref.row) if slices else None

    def all_tiles(self) -> dict[TileRef, Pixels]:
        """Pixels of all tiles of all sheets, cut by cut in reading order."""
        return {
            TileRef(sheet, cut, *cell): slices.cell(*cell)
            for (sheet, cut), slices in self.sliced().items()
            for cell in slices.cells()
        }

    def usable(self, refs: Iterable[TileRef]) -> set[TileRef]:
        """Those of some tiles that their sheets hold."""
        sliced = self.sliced()
        return {
            ref for ref in refs if (slices := sliced.get((ref.sheet, ref.cut))) and slices.holds(ref.column, ref.row)
        }

    def table(self, owner: JoinSet | StitchSet) -> Any:
        """The compiled table of a join or stitch set."""
        notes = self.document.project.tiles
        if isinstance(owner, StitchSet):
            return self._keep(("stitches", owner.id), (owner,), lambda: self._stitch_table(owner))
        weights = {ref: note.weight for ref, note in notes.items() if ref in owner.labels}
        found = self.coverage(owner)
        return self._keep(
            ("joins", owner.id),
            (owner, found, tuple(weights.items())),
            lambda: self._join_table(owner, found, weights),
        )

    def coverage(self, owner: JoinSet) -> Coverage:
        """The combinations that a join set can lay."""
        state = self.document.state
        made = [sheet.id for sheet in state.project.sheets if sheet.made]
        return self._keep(
            ("coverage", owner.id),
            (owner, state.project.sheets, state.pictures),
            lambda: coverage(owner, self.usable(owner.labels), square=self.square(owner), made=made),
        )

    def drawn(self, owner: JoinSet) -> dict[TileRef, Pixels]:
        """Pixels of the tiles of a join set, (h, w, 4) uint8 with straight alpha."""
        tiles = {ref: self.tile(ref) for ref in owner.labels}
        return {ref: pixels for ref, pixels in tiles.items() if pixels is not None}

    def seams(self, owner: JoinSet) -> Callable[[], list[Finding]]:
        """A function that finds the seams of a join set, and does so once for as long as its tiles stay the same.

        The function may be called beside the interface.
        """

        def make() -> Callable[[], list[Finding]]:
            drawn = self.drawn(owner)
            return cache(lambda: list(check_seams(owner, drawn)))

        return self._keep(("seams", owner.id), (owner, self.sliced()), make)

    def square(self, owner: JoinSet) -> bool:
        """Whether all tiles of a set are as wide as high, so that they can be laid in quarter turns."""
        cuts = self.document.project.cuts
        sizes = {tile_size(cuts[ref.sheet, ref.cut], ref.column, ref.row) for ref in self.usable(owner.labels)}
        return all(width == height for width, height in sizes)

    def pixels(self, ground_id: str, window: Window, *, level: int = 0, step: int = 1) -> Pixels:
        """Pixels of a window of a ground, its visible layers over one another.

        Parameters
        ----------
        level : int
            Tiles at 1 / 2**level of their size.
        step : int
            Above 1: one pixel for each step x step cells, whatever the level.

        Returns
        -------
        pixels : (H, W, 4) uint8
            RGBA, premultiplied alpha.
        """
        knitted = self.knitted(ground_id)
        atlas = self.atlas(knitted.ground.tile_width, knitted.ground.tile_height)
        return knitted_pixels(knitted, atlas, window, level, step)

    def _join_table(self, owner: JoinSet, found: Coverage, weights: Mapping[TileRef, float]) -> JoinTable:
        labels, shares = {}, {}
        for row, tiles in found.tiles.items():
            for tile in tiles:
                code = self.document.palette.code(tile.ref, tile.orientation)
                labels[code], shares[code] = row, weights.get(tile.ref, 1.0)
        return compile_table(labels, shares, len(owner.terrains), kind=owner.kind, bare=owner.bare)

    def _stitch_table(self, owner: StitchSet) -> NDArray[np.int32]:
        codes = [self.document.palette.code(stitch.tile) for stitch in owner.stitches]
        return stitch_tiles(winners(owner.stitches, len(owner.marks)), codes)

    def _tables(self, ground: Ground) -> Tables:
        project = self.document.project
        tables = {}
        for layer in ground.layers:
            if isinstance(layer, TerrainLayer):
                tables[layer.id] = self.table(next_by_id(project.join_sets, layer.join_set))
            elif isinstance(layer, StitchedLayer):
                tables[layer.id] = self.table(next_by_id(project.stitch_sets, layer.stitch_set))
        return tables

    def _on_change(self, change: Change) -> None:
        self.reached = []
        if change.defined:
            for ground_id, knitted in list(self._knitted.items()):
                try:
                    ground = next_by_id(self.document.project.grounds, ground_id)
                except KeyError:
                    del self._knitted[ground_id]
                    continue
                planes = self.document.state.planes[ground_id]
                knitted.redefine(ground, planes, self._tables(ground), self.document.project.seed)
        for ground_id, layer_id, window in change.windows:
            if ground_id in self._knitted and layer_id in self._knitted[ground_id].planes:
                reached = self._knitted[ground_id].touched(layer_id, window)
                self.reached += [(ground_id, part) for part in reached]

    def _keep(self, key: Any, made_from: tuple[Any, ...], make: Callable[[], T]) -> T:
        """What was made last time, if it was made from the same things."""
        if key in self._kept:
            known, made = self._kept[key]
            if len(known) == len(made_from) and all(_same(a, b) for a, b in zip(known, made_from, strict=True)):
                return cast(T, made)
        new = make()
        self._kept[key] = made_from, new
        return new


def knitted_pixels(knitted: Knitted, atlas: Atlas, window: Window, level: int, step: int) -> Pixels:
    """Pixels of a window of a ground; see `Derived.pixels`."""
    shown = visible_layers(knitted.ground)
    if step > 1 and shown:
        return compose_overview(knitted.codes, shown, atlas, window, step)
    if step > 1:
        return compose([np.zeros((-(-window.height // step), -(-window.width // step)), dtype=np.int32)], atlas, level)
    whole = Window(0, 0, knitted.ground.height, knitted.ground.width)
    return compose_whole(knitted.codes, shown, atlas, whole, window, level)


def visible_layers(ground: Ground) -> list[str]:
    """Ids of the layers that show, the lowest first."""
    return [layer.id for layer in ground.layers if layer.visible]


def _same(one: Any, other: Any) -> bool:
    """Whether two things are one; numbers and tuples of plain values may also be equal."""
    return one is other or (isinstance(one, int | tuple) and bool(one == other))
