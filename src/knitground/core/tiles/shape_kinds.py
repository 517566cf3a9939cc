"""Kinds of collision shapes: what stops feet, what stops sight, and what else a game asks for."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import ConfigDict, Field

from knitground.core.sheet.picture import Colour

FEET, SIGHT = "feet", "sight"
MOST_KINDS = 16


@dataclass(frozen=True)
class ShapeKind:
    """A kind of shapes that tiles have: its name, and the colour in which they are drawn."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: Annotated[str, Field(min_length=1, max_length=80)]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    colour: Colour = "#be343c"


USUAL_KINDS = (ShapeKind(FEET, "Stops feet", "#be343c"), ShapeKind(SIGHT, "Stops sight", "#5b55a8"))
"""Those that every project has; what they are called and how they look can be changed."""
