"""Grids: the cells of a ground and the lattices round them, and where they lie on the screen.

A kind of grid is one module with a board (what lies beside what, and where arrays hold it) and a projection (which
pixels a cell covers), and a line in `GRIDS`. Gestures and neighbours are reckoned in *flat* places, where every grid
is a plain square lattice: a cell has a row y and a column x, its north-west corner is the point (y, x), its north
edge and its west edge bear its own numbers.
"""

from typing import Literal, NamedTuple

from knitground.core.grid.board import Board
from knitground.core.grid.diamond import DiamondProjection
from knitground.core.grid.lying import LyingBoard, LyingProjection
from knitground.core.grid.pointed import PointedBoard, PointedProjection
from knitground.core.grid.projection import Projection
from knitground.core.grid.square import SquareBoard, SquareProjection
from knitground.core.grid.staggered import StaggeredBoard, StaggeredProjection

GridKind = Literal["square", "diamond", "staggered", "hex-pointed", "hex-flat"]
Outline = Literal["box", "diamond", "pointed", "lying"]
"""What part of its box a cell is."""


class Grid(NamedTuple):
    """A kind of grid: what it is called, how its cells hang together, where they are drawn, and what they look like."""

    title: str
    board: type[Board]
    projection: type[Projection]
    outline: Outline


GRIDS: dict[GridKind, Grid] = {
    "square": Grid("Square", SquareBoard, SquareProjection, "box"),
    "diamond": Grid("Isometric, a diamond", SquareBoard, DiamondProjection, "diamond"),
    "staggered": Grid("Isometric, staggered rows", StaggeredBoard, StaggeredProjection, "diamond"),
    "hex-pointed": Grid("Hexagons with pointed tops", PointedBoard, PointedProjection, "pointed"),
    "hex-flat": Grid("Hexagons with flat tops", LyingBoard, LyingProjection, "lying"),
}
