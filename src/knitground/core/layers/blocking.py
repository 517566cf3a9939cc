"""What blocks as a whole, besides the shapes of tiles: tags, properties, terrains."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any

from pydantic import ConfigDict, Field, model_serializer

from knitground.core.joins.sets import MOST_TERRAINS
from knitground.core.tiles.notes import LONGEST_NAME, Property, Tag, TileNotes
from knitground.core.written import only_what_is_said


@dataclass(frozen=True)
class TerrainOf:
    """A terrain of a join set, or a mark of a stitch set."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    of: Annotated[str, Field(min_length=1, max_length=80)]
    number: Annotated[int, Field(ge=1, le=MOST_TERRAINS)]


@dataclass(frozen=True)
class BlockRules:
    """Tiles with one of the tags, or with one of the properties at this value, block wholly.

    Cells that are all of one of the terrains do, too.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    tags: tuple[Tag, ...] = ()
    properties: Mapping[Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)], Property] = field(
        default_factory=dict
    )
    terrains: tuple[TerrainOf, ...] = ()

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    def hold(self, notes: TileNotes) -> bool:
        """Whether a tag or a property lets a tile block."""
        if any(tag in self.tags for tag in notes.tags):
            return True
        return any(notes.properties.get(name) == value for name, value in self.properties.items())
