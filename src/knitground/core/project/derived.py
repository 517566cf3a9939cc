"""What follows from a document: compiled sets, the tiles of its grounds, and their pixels.

Everything here is worked out on demand and kept only as long as what it was made from stays the same.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cache
from typing import Any, NamedTuple, TypeVar, cast

from knitground.core.check.seams import Seam, find_seams
from knitground.core.grid import Outline
from knitground.core.grid.plane import Plane
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.ground.beside import Beyond, beyond_borders, counterpart, maps_beside
from knitground.core.ground.ground import Ground, by_id
from knitground.core.ground.knitted import Knitted, Tables
from knitground.core.joins.cells import CellTable, compile_cells
from knitground.core.joins.coverage import Coverage, coverage
from knitground.core.joins.feet import grounds_of
from knitground.core.joins.sets import JoinSet
from knitground.core.joins.table import JoinTable, compile_table
from knitground.core.joins.turning import is_isometric
from knitground.core.layers.layer import Layer, Place
from knitground.core.project.document import Change, Document
from knitground.core.project.model import Project, State, replaced
from knitground.core.project.wool import ProjectWool
from knitground.core.render.atlas import Atlas, slices_of
from knitground.core.render.compositor import render
from knitground.core.render.lights import Lamp, Lights, lamps_of
from knitground.core.render.pixels import Pixels
from knitground.core.render.scale import Scale
from knitground.core.render.scene import Exchange, Scene, scene_of
from knitground.core.sheet.cut import tile_size
from knitground.core.sheet.slices import Slices
from knitground.core.stitches.compiled import ReadySet, make_ready
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.called import called
from knitground.core.tiles.shape_kinds import SIGHT
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

T = TypeVar("T")

MANY_CELLS = 2**18
"""A change of more cells than that is knit where and when somebody looks, not at once."""


class Reached(NamedTuple):
    """Cells of a layer that may look different, or be right or wrong otherwise, than before."""

    ground: str
    layer: str
    cells: CellRect


class _Made(NamedTuple):
    """Something that was made, and of what."""

    made_from: tuple[Any, ...]
    made: Any


class Derived:
    """Tiles and pixels of a document's grounds, following its changes."""

    def __init__(self, document: Document) -> None:
        self.document = document
        self._kept: dict[Any, tuple[_Made, ...]] = {}
        self._knitted: dict[str, Knitted] = {}
        self._cut: tuple[Any, Any, dict[tuple[str, str], Slices]] | None = None
        self._atlases: dict[tuple[int, int, Outline], Atlas] = {}
        self._lights: dict[str, tuple[Ground, Lights | None]] = {}
        self.reached: list[Reached] = []
        """What the last change reached; definitions change everything."""
        self.relit: list[tuple[str, PixelRect]] = []
        """The pixels of grounds that are lit otherwise since, for something else stops sight."""
        document.listeners.insert(0, self._on_change)

    def close(self) -> None:
        """Stops following the document."""
        self.document.listeners.remove(self._on_change)

    def at_this_moment(self) -> "Derived":
        """The same for the document as it is now, whatever is done to it later; for work beside the interface."""
        frozen = Derived(Document(self.document.state, self.document.palette))
        frozen._kept = dict(self._kept)
        return frozen

    def with_planes(
        self, ground_id: str, planes: Mapping[str, Mapping[str, Plane]], ground: Ground | None = None
    ) -> "Derived":
        """The same with something else on layers of a ground, to see what would be; nothing is changed."""
        state = self.document.state.with_planes(ground_id, planes)
        if ground is not None:
            project = replace(state.project, grounds=replaced(state.project.grounds, ground))
            state = state._replace(project=project)
        found = Derived(Document(state, self.document.palette))
        # What is drawn of tiles stays the same; two of these are not to be used at once.
        found._kept, found._atlases = self._kept, self._atlases
        return found

    def made_ready(self, state: State) -> "Derived":
        """The same for a state that will come, with the tables of all sets; may be called beside the interface."""
        coming = Derived(Document(state, self.document.palette))
        coming._kept = dict(self._kept)
        for owner in (*state.project.join_sets, *state.project.stitch_sets):
            coming.table(owner)
        return coming

    def take_over(self, coming: "Derived") -> None:
        """Takes over the tables that `made_ready` made; a change to that state finds them ready."""
        for key, entries in coming._kept.items():
            if key[0] in _TWICE and entries:
                self._kept[key] = (entries[0], *self._kept.get(key, ())[:1])

    @property
    def sets(self) -> Project:
        """The sets by which layers lay their tiles."""
        return self.document.project

    def knitted(self, ground_id: str) -> Knitted:
        """The tiles of a ground; KeyError if there is no such ground."""
        ground = by_id(self.document.project.grounds, ground_id)
        if ground_id not in self._knitted:
            planes = self.document.state.planes[ground_id]
            made = Knitted(ground, planes, self._tables(ground), self.document.project.seed)
            made.look_beyond(self._beyond(ground))
            self._knitted[ground_id] = made
        return self._knitted[ground_id]

    def atlas(self, ground: Ground) -> Atlas:
        """The sprites of the palette for a ground's cells."""
        key = ground.tile_width, ground.tile_height, ground.outline
        if key not in self._atlases:
            self._atlases[key] = Atlas(*key[:2], outline=key[2])
        self._atlases[key].follow(self.sliced(), self.document.palette.refs)
        return self._atlases[key]

    def scene(self, knitted: Knitted, layers: Sequence[Layer] | None = None, exchange: Exchange | None = None) -> Scene:
        """What is drawn of a ground; see `scene_of`."""
        return scene_of(knitted, self.atlas(knitted.ground), layers, exchange, lights=self.lights(knitted.ground))

    def lights(self, ground: Ground) -> Lights | None:
        """What takes shade away on a ground; nothing where no thing on it shines."""
        if ground.id not in self._lights or self._lights[ground.id][0] is not ground:
            lamps = self._keep(("lamps", ground.id), (ground.layers,), lambda: lamps_of(ground.shown()))
            self._lights[ground.id] = ground, self._lit(ground, lamps) if lamps else None
        return self._lights[ground.id][1]

    def _lit(self, ground: Ground, lamps: tuple[Lamp, ...]) -> Lights:
        squash = ground.tile_height / ground.tile_width if ground.isometric else 1.0

        def blocks(area: PixelRect) -> Any:
            import shapely

            from knitground.core.walk.solid import Solids  # slow to import, and needed for shadows only

            if all(one.id != ground.id for one in self.document.project.grounds):
                return shapely.Polygon()
            return Solids(self, ground.id, SIGHT).union(area)

        return Lights(lamps, squash, blocks, ground.tile_height / 2)

    def pixels(self, ground_id: str, area: PixelRect, scale: Scale = Scale()) -> Pixels:
        """Pixels of a part of a ground, its visible layers over one another; see `render`."""
        return render(self.scene(self.knitted(ground_id)), area, scale)

    def sliced(self) -> dict[tuple[str, str], Slices]:
        """The tiles of every cut that fits its picture, by (sheet, cut)."""
        state, known = self.document.state, self._cut
        # This is asked for again and again, so the plain case is told by looking at two things.
        if known is not None and known[0] is state.project.sheets and known[1] is state.pictures:
            return known[2]
        pictures = {sheet.id: state.pictures[sheet.id].cleared(sheet) for sheet in state.project.sheets}
        made_from = (state.project.sheets, *pictures.values())
        found = self._keep(("sliced",), made_from, lambda: slices_of(pictures, state.project.sheets))
        self._cut = state.project.sheets, state.pictures, found
        return found

    def tile(self, ref: TileRef) -> Pixels | None:
        """Pixels of one tile, (height, width, 4) uint8 with straight alpha; none where its sheet lacks it.

        Parameters
        ----------
        ref : TileRef

        Returns
        -------
        pixels : (height, width, 4) uint8, or None
        """
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

    def table(self, owner: Any) -> Any:
        """The compiled table of a join or stitch set."""
        return _TABLES[type(owner)](self, owner)

    def coverage(self, owner: JoinSet) -> Coverage:
        """The combinations that a join set can lay."""
        state = self.document.state
        made = [sheet.id for sheet in state.project.sheets if sheet.made]
        return self._keep(
            ("coverage", owner.id),
            (owner, state.project.sheets, state.pictures),
            lambda: coverage(
                owner, self.usable(owner.labels), square=self.square(owner), isometric=self.isometric(owner), made=made
            ),
        )

    def drawn(self, owner: JoinSet) -> dict[TileRef, Pixels]:
        """Pixels of the tiles of a join set, (h, w, 4) uint8 with straight alpha."""
        tiles = {ref: self.tile(ref) for ref in owner.labels}
        return {ref: pixels for ref, pixels in tiles.items() if pixels is not None}

    def seams(self, owner: JoinSet) -> Callable[[], list[Seam]]:
        """A function that finds the seams of a join set, and does so once for as long as its tiles stay the same.

        The function may be called beside the interface.
        """

        def make() -> Callable[[], list[Seam]]:
            drawn = self.drawn(owner)
            if self.isometric(owner):
                drawn = grounds_of(drawn, self.document.project.cuts)
            return cache(lambda: find_seams(owner, drawn))

        return self._keep(("seams", owner.id), (owner, self.sliced()), make)

    def square(self, owner: JoinSet) -> bool:
        """Whether all tiles of a set are as wide as high, so that they can be laid in quarter turns."""
        cuts = self.document.project.cuts
        sizes = {tile_size(cuts[ref.sheet, ref.cut], ref.column, ref.row) for ref in self.usable(owner.labels)}
        return all(width == height for width, height in sizes)

    def isometric(self, owner: JoinSet) -> bool:
        """Whether the tiles of a set are isometric."""
        return is_isometric(owner, self.document.project.cuts)

    def code(self, ref: TileRef | None, orientation: int = 0) -> int:
        """The cell code of a tile in an orientation, or of no tile."""
        return self.document.palette.code(ref, orientation)

    def weight(self, ref: TileRef) -> float:
        """How often a tile comes among its variants."""
        notes = self.document.project.tiles.get(ref)
        return 1.0 if notes is None else notes.weight

    def tile_name(self, code: int) -> str:
        """What a cell code is called in sentences."""
        if code <= 0:
            return "no tile"
        return self.called(self.document.palette.ref(code & NUMBER_MASK))

    def called(self, ref: TileRef) -> str:
        """What a tile is called in sentences."""
        return called(self.document.project.sheets, ref)

    def why(self, ground_id: str, layer_id: str, row: int, column: int) -> str:
        """A sentence about the tile of one cell of a layer.

        Raises
        ------
        IndexError
            If the cell is off the ground.
        """
        knitted = self.knitted(ground_id)
        ground, layer = knitted.ground, knitted.ground.layer(layer_id)
        if not ground.board.whole.holds(row, column):
            raise IndexError((row, column))
        code = int(knitted.codes(layer_id, CellRect(row, column, 1, 1))[0, 0])
        planes, table = knitted.seen(layer_id, knitted.planes[layer_id]), knitted.tables.get(layer_id)
        return layer.why(Place(ground.board, planes, table, row, column, code, knitted.seed), self)

    def _join_table(self, owner: JoinSet) -> JoinTable | CellTable:
        notes = self.document.project.tiles
        weights = {ref: note.weight for ref, note in notes.items() if ref in owner.labels}
        found = self.coverage(owner)

        def make() -> JoinTable | CellTable:
            labels, shares = {}, {}
            for row, tiles in found.tiles.items():
                for tile in tiles:
                    code = self.code(tile.ref, tile.orientation)
                    labels[code], shares[code] = row, weights.get(tile.ref, 1.0)
            count = len(owner.terrains)
            if owner.kind == "cell":
                return compile_cells(labels, shares, count, owner.ground)
            return compile_table(labels, shares, count, kind=owner.kind, bare=owner.bare)

        return self._keep(("joins", owner.id), (owner, found, tuple(weights.items())), make)

    def _stitch_table(self, owner: StitchSet) -> ReadySet:
        project = self.document.project
        made_from = owner, tuple(project.mixes), project.tiles if owner.views else None
        return self._keep(("stitches", owner.id), made_from, lambda: make_ready(owner, ProjectWool(self.document)))

    def _tables(self, ground: Ground) -> Tables:
        return {layer.id: layer.table(self) for layer in ground.layers if layer.knits}

    def _on_change(self, change: Change) -> None:
        self.reached, self.relit = [], []
        project, planes = self.document.project, self.document.state.planes
        if change.defined:
            self._lights.clear()
            known: Mapping[str, Ground] = {ground.id: ground for ground in project.grounds}
            for ground_id, knitted in list(self._knitted.items()):
                if ground_id not in known:
                    del self._knitted[ground_id]
                    continue
                ground = known[ground_id]
                knitted.redefine(ground, planes[ground_id], self._tables(ground), project.seed)
                knitted.look_beyond(self._beyond(ground))
            return
        # What is larger than one sees is knit where it is looked at; all of it at once would be waited for.
        now = sum(rect.height * rect.width for *_, rect in change.touched) <= MANY_CELLS
        for ground_id, layer_id, plane, rect in change.touched:
            knitted_now = self._knitted.get(ground_id)
            if knitted_now is not None and layer_id in knitted_now.planes:
                cells = knitted_now.touched(layer_id, plane, rect, planes[ground_id][layer_id], now=now)
                self.reached += [Reached(ground_id, *one) for one in cells]
            self._reach_beyond(ground_id, layer_id, rect, now)
        for ground_id, (ground, lights) in self._lights.items():
            if lights is not None:
                self._relight(ground_id, ground, lights)

    def _relight(self, ground_id: str, ground: Ground, lights: Lights) -> None:
        """Forgets the shadows near what changed on a ground."""
        far = self.atlas(ground).overhang
        for reached in self.reached:
            if reached.ground == ground_id and not reached.cells.is_empty:
                area = ground.projection.bounds(reached.cells).grown(*far)
                self.relit += [(ground_id, room) for room in lights.touched(area)]

    def _reach_beyond(self, ground_id: str, layer_id: str, rect: CellRect, now: bool) -> None:
        """Knits the maps beside one anew near what changed on it, a rectangle of a plane."""
        project = self.document.project
        ground = by_id(project.grounds, ground_id)
        for other, down, across, _ in maps_beside(project.grounds, ground):
            knitted, two = self._knitted.get(other.id), counterpart(ground.layer(layer_id), other)
            if knitted is not None and two is not None:
                there = rect._replace(top=rect.top - down, left=rect.left - across)
                cells = knitted.touched_beyond(two.id, there, self._beyond(other), now=now)
                self.reached += [Reached(other.id, *one) for one in cells]

    def _beyond(self, ground: Ground) -> Beyond:
        return beyond_borders(self.document.project.grounds, ground, self.document.state.planes)

    def _keep(self, key: Any, made_from: tuple[Any, ...], make: Callable[[], T]) -> T:
        """What was made before, if it was made from the same things."""
        entries = self._kept.get(key, ())
        for entry in entries:
            if len(entry.made_from) == len(made_from) and all(map(_same, entry.made_from, made_from)):
                self._kept[key] = (entry, *(one for one in entries if one is not entry))
                return cast(T, entry.made)
        new = make()
        self._kept[key] = (_Made(made_from, new), *(entries[:1] if key[0] in _TWICE else ()))
        return new


_TWICE = ("coverage", "joins", "stitches")
"""What is kept as it was before, too: undo leads back to it."""
_TABLES: dict[type, Callable[[Derived, Any], Any]] = {
    JoinSet: Derived._join_table, StitchSet: Derived._stitch_table
}  # fmt: skip


def _same(one: Any, other: Any) -> bool:
    """Whether two things are one; numbers and tuples of plain values may also be equal."""
    return one is other or (isinstance(one, int | tuple) and bool(one == other))
