"""What checks ask of a project, answered from what follows from it."""

from collections.abc import Callable, Collection, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.check import Sprite
from knitground.core.check.seams import Seam
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.sets import JoinSet
from knitground.core.layers.blocking import BlockRules
from knitground.core.layers.layer import Laid, Planes
from knitground.core.layers.thing import ThingKind
from knitground.core.project.derived import Derived
from knitground.core.project.naming import named_tiles, users
from knitground.core.render.upper_face import floor_height
from knitground.core.sheet.cut import tile_size
from knitground.core.sheet.picture import Sheet
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.shape_kinds import ShapeKind
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.figure import Figure
from knitground.core.walk.journey import Journey, KeptRoute, Route
from knitground.core.walk.leaps import Leaps, leaps_of
from knitground.core.walk.motion import Spot
from knitground.core.walk.reach import Reach
from knitground.core.walk.room import USUAL_FOOT
from knitground.core.walk.solid import Solids
from knitground.core.walk.survey import blamed, surveyed

_ANY_SIZE = -1


class ProjectFacts:
    """A project as checks see it; what is expensive is worked out once for as long as it stays true."""

    def __init__(self, derived: Derived) -> None:
        self.derived = derived
        self._known: dict[str, tuple[tuple[Any, ...], Any]] = {}
        self.pulse: Callable[[], None] = lambda: None
        """Called again and again while something long is looked at; may raise to stop it."""
        self._sizes_since: tuple[object, NDArray[np.int32]] = object(), np.zeros((0, 2), dtype=np.int32)

    def at_this_moment(self) -> "ProjectFacts":
        """The same for the project as it is now, for work beside the interface."""
        frozen = ProjectFacts(self.derived.at_this_moment())
        frozen._known, frozen._sizes_since = dict(self._known), self._sizes_since
        return frozen

    @property
    def sheets(self) -> tuple[Sheet, ...]:
        return self.derived.document.project.sheets

    @property
    def join_sets(self) -> tuple[JoinSet, ...]:
        return self.derived.document.project.join_sets

    @property
    def stitch_sets(self) -> tuple[StitchSet, ...]:
        return self.derived.document.project.stitch_sets

    @property
    def grounds(self) -> tuple[Ground, ...]:
        return self.derived.document.project.grounds

    @property
    def tiles_laid(self) -> int:
        """How many tiles have been laid somewhere; each may be one that is lost, or of another size."""
        return len(self.derived.document.palette.refs)

    @property
    def tile_sizes(self) -> NDArray[np.int32]:
        """Width and height of each palette number's tile, (N + 1, 2): 0 where it is on no sheet, -1 for any size."""
        sizes: NDArray[np.int32] = self._keep("sizes", self._palette_key(), self._tile_sizes)
        return sizes

    @property
    def sizes_since(self) -> object:
        since, known = self._sizes_since
        sizes = self.tile_sizes
        if sizes is not known:
            same = len(sizes) >= len(known) and np.array_equal(sizes[: len(known)], known)
            self._sizes_since = since if same else object(), sizes
        return self._sizes_since[0]

    @property
    def lost(self) -> Mapping[TileRef, int | None]:
        return self._lost()[0]

    @property
    def lost_by_sheet(self) -> Mapping[str, Mapping[str, int]]:
        return self._lost()[1]

    @property
    def tiles(self) -> Mapping[TileRef, TileNotes]:
        return self.derived.document.project.tiles

    @property
    def thing_kinds(self) -> tuple[ThingKind, ...]:
        return self.derived.document.project.thing_kinds

    @property
    def shape_kinds(self) -> tuple[ShapeKind, ...]:
        return self.derived.document.project.shape_kinds

    @property
    def block_rules(self) -> BlockRules:
        return self.derived.document.project.blocks

    def blocking_since(self, ground: Ground) -> tuple[Any, ...]:
        project, planes = self.derived.document.project, self.derived.document.state.planes[ground.id]
        sets = project.join_sets, project.stitch_sets, project.mixes
        about = ground, project.tiles, project.blocks, project.thing_kinds, project.seed, self.derived.sliced(), *sets
        return *about, *(planes[layer.id] for layer in ground.layers)

    @property
    def routes(self) -> tuple[KeptRoute, ...]:
        return self.derived.document.project.routes

    def walked(self, ground: Ground, route: Route) -> Journey:
        return Figure(self.derived, ground).travel(Spot(route.x, route.y), route.legs)

    def blamed(self, ground: Ground, spot: Spot) -> str:
        piece = blamed(Solids(self.derived, ground.id), USUAL_FOOT, *spot)
        return f"{piece.says} on “{piece.layer}”" if piece is not None else "the border of the ground"

    def reach(self, ground: Ground) -> Reach:
        return surveyed(self.derived, ground.id, USUAL_FOOT, progress=lambda share: self.pulse()).reach

    def leaps(self, ground: Ground) -> Leaps:
        return leaps_of(Figure(self.derived, ground, side=True), ground, lambda share: self.pulse())

    def picture(self, sheet: Sheet) -> NDArray[np.uint8]:
        """A sheet's picture with what counts as transparent made so.

        Parameters
        ----------
        sheet : Sheet
            One of the project's.

        Returns
        -------
        picture : (H, W, 4) uint8
            Straight alpha; not to be written to.
        """
        return self.derived.document.state.pictures[sheet.id].cleared(sheet)

    def usable(self, refs: Collection[TileRef]) -> Collection[TileRef]:
        return self.derived.usable(refs)

    def ready(self, owner: StitchSet) -> Any:
        return self.derived.table(owner)

    def coverage(self, owner: JoinSet) -> Coverage:
        return self.derived.coverage(owner)

    def seams(self, owner: JoinSet) -> Callable[[], list[Seam]]:
        return self.derived.seams(owner)

    def table(self, ground_id: str, layer_id: str) -> Any:
        return self.derived.knitted(ground_id).tables.get(layer_id)

    def planes(self, ground_id: str, layer_id: str) -> Planes:
        return self.derived.document.state.planes[ground_id][layer_id]

    def laid(self, ground_id: str, layer_id: str, cells: CellRect) -> Laid:
        return self.derived.knitted(ground_id).laid(layer_id, cells)

    def lies_flat(self, ground: Ground, codes: NDArray[np.int32]) -> NDArray[np.bool_]:
        atlas = self.derived.atlas(ground)
        sprites = atlas.ids(codes)  # first, as the atlas may grow by it
        return atlas.flat[sprites]

    def sprite(self, ground: Ground, code: int) -> Sprite:
        pixels, left, top = self.derived.atlas(ground).sprite(code)
        return Sprite(pixels[..., 3], left, top)

    def floor_height(self, ground: Ground, code: int) -> int:
        return floor_height(self.derived.atlas(ground), code)

    def ref(self, number: int) -> TileRef:
        return self.derived.document.palette.ref(number)

    def _palette_key(self) -> tuple[Any, ...]:
        return self.derived.sliced(), len(self.derived.document.palette.refs)

    def _tile_sizes(self) -> NDArray[np.int32]:
        refs, cuts = self.derived.document.palette.refs, self.derived.document.project.cuts
        usable = self.derived.usable(refs)
        sizes = np.zeros((len(refs) + 1, 2), dtype=np.int32)
        for number, ref in enumerate(refs, start=1):
            if ref in usable:
                cut = cuts[ref.sheet, ref.cut]
                # Tiles with an anchor are of another size than the cells on purpose.
                sizes[number] = _ANY_SIZE if cut.anchor else tile_size(cut, ref.column, ref.row)
        return sizes

    def _lost(self) -> tuple[Mapping[TileRef, int | None], Mapping[str, Mapping[str, int]]]:
        project = self.derived.document.project
        sets = (
            project.join_sets,
            project.stitch_sets,
            project.mixes,
            project.pair_sets,
            project.recipes,
            project.swatches,
        )
        key = (*self._palette_key(), project.tiles, *sets, project.grounds)
        found: tuple[Mapping[TileRef, int | None], Mapping[str, Mapping[str, int]]] = self._keep(
            "lost", key, self._find_lost
        )
        return found

    def _find_lost(self) -> tuple[dict[TileRef, int | None], dict[str, dict[str, int]]]:
        project, palette = self.derived.document.project, self.derived.document.palette
        numbers = {ref: number for number, ref in enumerate(list(palette.refs), start=1)}
        sheets = {sheet.id for sheet in project.sheets}
        known = {ref for ref in {*numbers, *named_tiles(project)} if ref.sheet in sheets}
        lost = known - self.derived.usable(known)
        by_sheet: dict[str, list[TileRef]] = {}
        for ref in lost:
            by_sheet.setdefault(ref.sheet, []).append(ref)
        return (
            {ref: numbers.get(ref) for ref in lost},
            {sheet: users(project, refs) for sheet, refs in by_sheet.items()},
        )

    def _keep(self, name: str, made_from: tuple[Any, ...], make: Callable[[], Any]) -> Any:
        known = self._known.get(name)
        if known is not None and all(
            a is b or (isinstance(a, int) and a == b) for a, b in zip(known[0], made_from, strict=True)
        ):
            return known[1]
        new = make()
        if known is not None and _alike(known[1], new):
            new = known[1]  # the same object, so that what was made from it stays true
        self._known[name] = made_from, new
        return new


def _alike(one: Any, other: Any) -> bool:
    if isinstance(one, np.ndarray):
        return bool(np.array_equal(one, other))
    return bool(one == other)
