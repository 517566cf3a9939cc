"""Everything a project defines, as one immutable tree; what was painted is kept beside it in arrays."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from threading import Lock
from typing import Annotated, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground
from knitground.core.ground.swatch import Swatch
from knitground.core.grow.mix import Mix
from knitground.core.grow.pairs import PairSet
from knitground.core.grow.recipe import Recipe
from knitground.core.joins.layouts import Arrangement
from knitground.core.joins.sets import JoinSet
from knitground.core.layers.blocking import BlockRules
from knitground.core.layers.layer import Name, Planes
from knitground.core.layers.thing import ThingKind
from knitground.core.project.delivery import MOST_DELIVERIES, Delivery
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.picture import Clearing, Colour, Sheet, cleared, decode_picture
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.shape_kinds import MOST_KINDS, USUAL_KINDS, ShapeKind
from knitground.core.tiles.tile import TileRef, cell_code
from knitground.core.walk.camera import Screen
from knitground.core.walk.journey import KeptRoute

T = TypeVar("T")

UNTITLED = "Untitled"
"""What a project is called that nobody has named."""


@dataclass(frozen=True)
class Project:
    """The definitions of a project."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    name: Name = UNTITLED
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = 1
    sheets: tuple[Sheet, ...] = ()
    tiles: Mapping[TileRef, TileNotes] = field(default_factory=dict)
    join_sets: tuple[JoinSet, ...] = ()
    arrangements: tuple[Arrangement, ...] = ()
    stitch_sets: tuple[StitchSet, ...] = ()
    mixes: tuple[Mix, ...] = ()
    pair_sets: tuple[PairSet, ...] = ()
    thing_kinds: tuple[ThingKind, ...] = ()
    shape_kinds: Annotated[tuple[ShapeKind, ...], Field(max_length=MOST_KINDS)] = USUAL_KINDS
    swatches: tuple[Swatch, ...] = ()
    colours: Mapping[Colour, Annotated[str, Field(max_length=200)]] = field(default_factory=dict)
    screen: Screen | None = None
    blocks: BlockRules = field(default_factory=BlockRules)
    recipes: tuple[Recipe, ...] = ()
    routes: tuple[KeptRoute, ...] = ()
    grounds: tuple[Ground, ...] = ()
    deliveries: Annotated[tuple[Delivery, ...], Field(max_length=MOST_DELIVERIES)] = ()

    @property
    def cuts(self) -> dict[tuple[str, str], Cut]:
        """All cuts by (sheet, cut)."""
        return {(sheet.id, cut.id): cut for sheet in self.sheets for cut in sheet.cuts}


class Picture:
    """A sheet's image: the bytes of its file and its pixels; of a collection, of each image, and where it lies."""

    def __init__(
        self, data: bytes | tuple[bytes, ...], pixels: NDArray[np.uint8], places: tuple[Rect, ...] = ()
    ) -> None:
        self.files = (data,) if isinstance(data, bytes) else data
        self.pixels = pixels
        self.places = places
        self._seen = {Clearing(): pixels}

    @classmethod
    def decode(cls, data: bytes, name: str) -> "Picture":
        """From the bytes of an image file; BadSheet if they are none."""
        return cls(data, decode_picture(data, name))

    @property
    def nbytes(self) -> int:
        """Bytes that it takes."""
        return self.pixels.nbytes + sum(len(data) for data in self.files)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.pixels.shape[1], self.pixels.shape[0]

    def cleared(self, sheet: Sheet) -> NDArray[np.uint8]:
        """The pixels with what counts as transparent on a sheet made so; the last two results are kept.

        Parameters
        ----------
        sheet : Sheet
            Whose picture this is.

        Returns
        -------
        pixels : (H, W, 4) uint8
            Straight alpha; not to be written to.
        """
        seen = self._seen.get(sheet.clearing)
        if seen is None:
            seen = cleared(self.pixels, sheet.clearing)
            # In place of the dictionary, not in it: another thread may be reading that.
            self._seen = {**dict(list(self._seen.items())[-1:]), sheet.clearing: seen}
        return seen


class State(NamedTuple):
    """A project at one moment: definitions, images by sheet, and planes by ground and layer.

    Nothing in it is ever changed, so that keeping a state is a snapshot, whatever the size of the project.
    """

    project: Project
    pictures: Mapping[str, Picture]
    planes: Mapping[str, Mapping[str, Planes]]

    def with_planes(self, ground: str, changed: Mapping[str, Mapping[str, Plane]]) -> "State":
        """The state with some planes of a ground's layers exchanged or added."""
        layers = dict(self.planes[ground])
        for layer, planes in changed.items():
            layers[layer] = {**layers[layer], **planes}
        return self._replace(planes={**self.planes, ground: layers})


class Palette:
    """Numbers for tiles, so that maps can hold them; numbers are given once and never change.

    A file holds only the tiles that its maps lay, under numbers that stay the same from save to save.
    """

    def __init__(self, refs: Iterable[TileRef] = ()) -> None:
        self.refs = list(refs)
        self._filed = list(self.refs)
        self._numbers = {ref: number for number, ref in enumerate(self.refs, start=1)}
        self._lock = Lock()

    def number(self, ref: TileRef) -> int:
        """The number of a tile, from 1; a new tile gets the next one, whatever thread asks first."""
        known = self._numbers.get(ref)
        if known is not None:
            return known
        with self._lock:
            if ref not in self._numbers:
                self.refs.append(ref)
                self._numbers[ref] = len(self.refs)
            return self._numbers[ref]

    def code(self, ref: TileRef | None, orientation: int = 0) -> int:
        """The cell code of a tile in an orientation, or of no tile."""
        return 0 if ref is None else cell_code(self.number(ref), orientation)

    def filed(self, used: NDArray[np.bool_]) -> tuple[tuple[TileRef, ...], NDArray[np.int32]]:
        """The tiles for a file, and the number in the file of each number here.

        Parameters
        ----------
        used : (len(refs) + 1,) bool
            Which numbers the maps hold.
        """
        # The palette may grow while a file is written; what came later is in no map that is being written.
        refs, known = self.refs[: len(used) - 1], set(self._filed)
        self._filed += [ref for ref, laid in zip(refs, used[1:].tolist(), strict=True) if laid and ref not in known]
        places = {ref: place for place, ref in enumerate(self._filed, start=1)}
        numbers = [0, *(places.get(ref, 0) for ref in refs)]
        return tuple(self._filed), np.array(numbers, dtype=np.int32)

    def ref(self, number: int) -> TileRef:
        """The tile that has a number."""
        return self.refs[number - 1]


def replaced(things: tuple[T, ...], new: T) -> tuple[T, ...]:
    """The same things with the one of `new`'s id exchanged for it, or with it added at the end."""
    wanted = getattr(new, "id")  # noqa: B009 - any of the model's things
    known = any(getattr(thing, "id") == wanted for thing in things)  # noqa: B009
    if not known:
        return (*things, new)
    return tuple(new if getattr(thing, "id") == wanted else thing for thing in things)  # noqa: B009


def fresh_id(wanted: str, things: Iterable[object]) -> str:
    """An id after a wished name that none of the things bears: lower case, words joined by hyphens."""
    plain = "".join(letter if letter.isalnum() else "-" for letter in wanted.lower()).strip("-") or "one"
    taken = {getattr(thing, "id", None) for thing in things}
    number, name = 1, plain
    while name in taken:
        number += 1
        name = f"{plain}-{number}"
    return name
