"""What a stitch is.

A stitched layer holds a plan: a mark in each cell, or none. A stitch looks at a cell and what lies round it, on the
plan and on other layers; where its charts fit, it lays tiles. The first stitch of a course that fits a cell fires
there, and the courses of a set run one after another, each over what the earlier ones left.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, model_serializer, model_validator

from knitground.core.joins.sets import MOST_TERRAINS, Terrains
from knitground.core.stitches.charts import ANY, Chart, chart_of
from knitground.core.tiles.notes import LONGEST_NAME, Property, Tag
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

NEIGHBOURS = ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1))
"""Row and column steps to the neighbours, in reading order."""
MOST_STITCHES, MOST_COURSES, MOST_PIECES = 512, 16, 16
MOST_VIEWS, MOST_PARTS, MOST_SIGNS = 8, 8, 32
LARGEST_BLOCK, FARTHEST = 32, 32
FARTHEST_APART = 32

Name = Annotated[str, Field(min_length=1, max_length=60)]
Id = Annotated[str, Field(min_length=1, max_length=80)]
Mark = Annotated[int, Field(ge=1, le=MOST_TERRAINS)]
Offset = Annotated[int, Field(ge=-FARTHEST, le=FARTHEST)]
Stride = Annotated[int, Field(ge=1, le=64)]
Shift = Annotated[int, Field(ge=0, le=63)]
Sees = Literal["painted", "tiles", "laid"]
_BLOCK_WORD = r"(?:-|[1-9]\d{0,3}(?:\.[0-7])?)"


@dataclass(frozen=True)
class Piece:
    """What a stitch lays: one tile, one of a mix, or a block; without any of these it clears the cell.

    A block is written as rows of words: a dash for a cell that is no part of it, *n* or *n*.*o* for the *n*-th of its
    `tiles` in orientation *o*. Its first cell lies `down` rows and `across` columns from where the stitch fires, on the
    part `onto` of the set, or on the stitched layer itself. With `thing`, the id of a kind of things, a single tile is
    handed over as a thing of that kind, with its properties.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    tile: TileRef | None = None
    orientation: Annotated[int, Field(ge=0, le=7)] = 0
    mix: Annotated[str, Field(max_length=80)] = ""
    tiles: Annotated[tuple[TileRef, ...], Field(max_length=LARGEST_BLOCK**2)] = ()
    rows: Annotated[
        tuple[Annotated[str, Field(max_length=8 * LARGEST_BLOCK, pattern=f"^{_BLOCK_WORD}(?: {_BLOCK_WORD})*$")], ...],
        Field(max_length=LARGEST_BLOCK),
    ] = ()
    onto: Annotated[str, Field(max_length=60)] = ""
    thing: Annotated[str, Field(max_length=80)] = ""
    down: Offset = 0
    across: Offset = 0

    @model_validator(mode="after")
    def _one_thing(self) -> "Piece":
        if (self.tile is not None) + bool(self.mix) + bool(self.rows) > 1:
            raise ValueError("a piece is one tile, one mix or one block")
        if self.thing and self.rows:
            raise ValueError("a block is no thing; lay a single tile or a mix as one")
        if bool(self.rows) != bool(self.tiles):
            raise ValueError("a block needs both its tiles and its rows")
        lines = [row.split(" ") for row in self.rows]
        if len({len(line) for line in lines}) > 1:
            raise ValueError("all rows of a block need as many words")
        words = [word for line in lines for word in line if word != "-"]
        if any(int(word.partition(".")[0]) > len(self.tiles) for word in words) or (lines and not words):
            raise ValueError("a block names a tile that it does not list, or none at all")
        if lines and len(lines[0]) > LARGEST_BLOCK:
            raise ValueError(f"a block is at most {LARGEST_BLOCK} cells wide")
        return self

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    @property
    def cells(self) -> dict[tuple[int, int], tuple[TileRef | None, int]]:
        """The tile and orientation of each of its cells, by rows down and columns right from where it fires."""
        if not self.rows:
            return {(self.down, self.across): (self.tile, self.orientation)}
        found: dict[tuple[int, int], tuple[TileRef | None, int]] = {}
        for y, row in enumerate(self.rows):
            for x, word in enumerate(row.split(" ")):
                if word != "-":
                    number, _, orientation = word.partition(".")
                    found[y + self.down, x + self.across] = self.tiles[int(number) - 1], int(orientation or 0)
        return found

    @property
    def refs(self) -> tuple[TileRef, ...]:
        """The tiles that it names."""
        return self.tiles or (() if self.tile is None else (self.tile,))

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "Piece":
        """The piece with its tiles exchanged."""
        return replace(
            self,
            tile=None if self.tile is None else exchanged(self.tile),
            tiles=tuple(exchanged(ref) for ref in self.tiles),
        )


@dataclass(frozen=True)
class Places:
    """Where a stitch may fire at all: in every so many rows and columns, or on the squares of a chessboard."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    rows: Stride = 1
    columns: Stride = 1
    first_row: Shift = 0
    first_column: Shift = 0
    chequered: bool = False

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


EVERYWHERE = Places()


@dataclass(frozen=True)
class Stitch:
    """A rule: where its charts fit and chance and place allow, its pieces are laid.

    `chance` is in percent, `apart` how many cells in any direction must lie free of the same stitch. `turns`,
    `mirrors_x` and `mirrors_y` let it stand for its quarter turns and mirrors too; its tiles are turned then, unless
    they are laid `as_drawn` or `forms` names what is laid in an orientation. With `spares_blocks` it lays nothing on
    cells of blocks.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: Id
    charts: Annotated[tuple[Chart, ...], Field(max_length=MOST_VIEWS + 1)] = ()
    pieces: Annotated[tuple[Piece, ...], Field(max_length=MOST_PIECES)] = ()
    name: Annotated[str, Field(max_length=60)] = ""
    group: Annotated[str, Field(max_length=60)] = ""
    active: bool = True
    chance: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 100.0
    apart: Annotated[int, Field(ge=0, le=FARTHEST_APART)] = 0
    places: Places = EVERYWHERE
    spares_blocks: bool = False
    turns: bool = False
    mirrors_x: bool = False
    mirrors_y: bool = False
    as_drawn: bool = False
    forms: Mapping[Annotated[int, Field(ge=1, le=7)], Annotated[tuple[Piece, ...], Field(max_length=MOST_PIECES)]] = (
        field(default_factory=dict)
    )

    @model_validator(mode="after")
    def _one_chart_each(self) -> "Stitch":
        if len({chart.of for chart in self.charts}) != len(self.charts):
            raise ValueError("a stitch has one chart for each layer that it looks at")
        return self

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    @property
    def all_pieces(self) -> tuple[Piece, ...]:
        """What it lays in any orientation."""
        return (*self.pieces, *(piece for pieces in self.forms.values() for piece in pieces))

    def with_pieces(self, exchanged: Callable[[Piece], Piece]) -> "Stitch":
        """The stitch with each of its pieces exchanged."""
        forms = {key: tuple(exchanged(piece) for piece in pieces) for key, pieces in self.forms.items()}
        return replace(self, pieces=tuple(exchanged(piece) for piece in self.pieces), forms=forms)

    def chart(self, of: str = "") -> Chart | None:
        """Its chart of one view."""
        return next((chart for chart in self.charts if chart.of == of), None)


@dataclass(frozen=True)
class Course:
    """Stitches in order, of which the first that fits a cell fires there."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    name: Name = "Stitches"
    stitches: Annotated[tuple[Stitch, ...], Field(max_length=MOST_STITCHES)] = ()
    active: bool = True

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


@dataclass(frozen=True)
class TileSign:
    """A sign of charts for some tiles: those that are listed, bear one of the tags, or have one of the properties."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    name: Name
    letter: Annotated[str, Field(min_length=1, max_length=1)]
    tiles: Annotated[tuple[TileRef, ...], Field(max_length=4096)] = ()
    tags: Annotated[tuple[Tag, ...], Field(max_length=64)] = ()
    properties: Annotated[
        Mapping[Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)], Property], Field(max_length=64)
    ] = field(default_factory=dict)

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


@dataclass(frozen=True)
class View:
    """Another layer that charts look at.

    Attributes
    ----------
    name : str
    sees : str
        What is *painted* there, in the terrains of the set `of`; which *tiles* lie there, or on the layer of the set
        `of`; or, of the stitched layer itself, what the earlier courses have *laid* on the part `of` (nothing: on
        itself).
    of : str
    signs : tuple of TileSign
        By which charts name tiles.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    name: Name
    sees: Sees
    of: Annotated[str, Field(max_length=80)] = ""
    signs: Annotated[tuple[TileSign, ...], Field(max_length=MOST_SIGNS)] = ()

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


@dataclass(frozen=True)
class StitchSet:
    """Marks to plan with, and courses of rules.

    `views` are the other layers that charts look at, `parts` the names of further layers that tiles are laid onto, and
    `otherwise` is what cells with a mark get where no stitch fires: a tile or a mix by the mark's number.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    marks: Terrains
    courses: Annotated[tuple[Course, ...], Field(max_length=MOST_COURSES)] = ()
    views: Annotated[tuple[View, ...], Field(max_length=MOST_VIEWS)] = ()
    parts: Annotated[tuple[Name, ...], Field(max_length=MOST_PARTS)] = ()
    otherwise: Mapping[Mark, Piece] = field(default_factory=dict)

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    @property
    def stitches(self) -> tuple[Stitch, ...]:
        """The stitches of all courses."""
        return tuple(stitch for course in self.courses for stitch in course.stitches)

    @property
    def pieces(self) -> Iterator[Piece]:
        """All that it may lay."""
        for stitch in self.stitches:
            yield from stitch.all_pieces
        yield from self.otherwise.values()

    @property
    def refs(self) -> set[TileRef]:
        """The tiles that it names."""
        looked_at = {ref for view in self.views for sign in view.signs for ref in sign.tiles}
        return looked_at | {ref for piece in self.pieces for ref in piece.refs}

    @property
    def mixes(self) -> set[str]:
        """The mixes that it names."""
        return {piece.mix for piece in self.pieces if piece.mix}

    def view(self, name: str) -> View | None:
        """One of the layers that its charts look at."""
        return next((view for view in self.views if view.name == name), None)

    def with_pieces(self, exchanged: Callable[[Piece], Piece]) -> "StitchSet":
        """The set with each piece that it lays exchanged."""
        courses = tuple(
            replace(course, stitches=tuple(stitch.with_pieces(exchanged) for stitch in course.stitches))
            for course in self.courses
        )
        otherwise = {mark: exchanged(piece) for mark, piece in self.otherwise.items()}
        return replace(self, courses=courses, otherwise=otherwise)

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "StitchSet":
        """The set with its tiles exchanged."""
        views = tuple(
            replace(
                view,
                signs=tuple(replace(sign, tiles=tuple(exchanged(ref) for ref in sign.tiles)) for sign in view.signs),
            )
            for view in self.views
        )
        return replace(self.with_pieces(lambda piece: piece.with_tiles(exchanged)), views=views)


def around(stitch_id: str, mark: int, chart: str, tile: TileRef | None = None) -> Stitch:
    """A stitch of three by three cells for cells with a mark: eight signs for the neighbours in reading order."""
    signs = [*chart[:4], str(mark), *chart[4:]]
    pieces = () if tile is None else (Piece(tile),)
    return Stitch(stitch_id, (chart_of([signs[at : at + 3] for at in (0, 3, 6)]),), pieces)


def new_stitch(stitch_id: str, mark: int, tile: TileRef | None = None) -> Stitch:
    """A stitch that looks at nothing but the mark."""
    return around(stitch_id, mark, ANY * 8, tile)
