"""A tile's identity, and how a cell of a map holds it.

A tile is named by (sheet, cut, column, row), which no later edit of the sheet shifts. Maps hold *cell codes*:
int32 numbers of the project's palette of tiles with the orientation in the bits above.
"""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import GetCoreSchemaHandler
from pydantic_core import core_schema

EMPTY = 0
GAP = -1
ORIENTATION_SHIFT = 24
NUMBER_MASK = (1 << ORIENTATION_SHIFT) - 1
MIRRORED = 4
"""The bit of an orientation that says that the tile is mirrored left to right before it is turned."""


class TileRef(NamedTuple):
    """Which tile: written ``sheet/cut/column,row`` in files."""

    sheet: str
    cut: str
    column: int
    row: int

    def __str__(self) -> str:
        return f"{self.sheet}/{self.cut}/{self.column},{self.row}"

    @classmethod
    def parse(cls, text: str) -> "TileRef":
        """The tile that a written reference names.

        Raises
        ------
        ValueError
            If the text is not of the form ``sheet/cut/column,row``.
        """
        try:
            sheet, cut, place = text.split("/")
            column, row = (int(part) for part in place.split(","))
        except ValueError:
            raise ValueError(f"“{text}” is not a tile; write sheet/cut/column,row") from None
        if not (0 <= column < 2**16 and 0 <= row < 2**16):
            raise ValueError(f"“{text}” has a column or row out of range")
        return cls(sheet, cut, column, row)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        return core_schema.no_info_after_validator_function(
            lambda text: text if isinstance(text, TileRef) else cls.parse(text),
            core_schema.union_schema(
                [
                    core_schema.str_schema(pattern=r"^[^/]+/[^/]+/[0-9]+,[0-9]+$"),
                    core_schema.is_instance_schema(cls),
                ]
            ),
            serialization=core_schema.plain_serializer_function_ser_schema(str, return_schema=core_schema.str_schema()),
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: Any, handler: Any) -> dict[str, str]:
        return {
            "type": "string",
            "pattern": "^[^/]+/[^/]+/[0-9]+,[0-9]+$",
            "description": "sheet/cut/column,row",
        }


def cell_code(number: int, orientation: int = 0) -> int:
    """Code of a palette number in one of the eight orientations (see `orient`)."""
    return number | orientation << ORIENTATION_SHIFT


def orientations_of(width: int, height: int) -> tuple[int, ...]:
    """The orientations in which something so wide and high takes as much room as before (see `orient`)."""
    return tuple(range(8)) if width == height else (0, 2, 4, 6)


def turned_codes(codes: NDArray[np.int32], orientation: int) -> NDArray[np.int32]:
    """Cell codes after each was turned further where it lies; bare cells and gaps stay what they are.

    Parameters
    ----------
    codes : (...) int32
    orientation : int
    """
    then = np.array([cell_code(0, turned_further(first, orientation)) for first in range(8)], dtype=np.int32)
    return np.where(codes > 0, (codes & NUMBER_MASK) | then[(codes >> ORIENTATION_SHIFT) & 7], codes).astype(np.int32)


def turned_further(first: int, then: int) -> int:
    """The orientation that comes of one orientation and another after it (see `orient`)."""
    # Mirroring after turning by q is turning by -q after mirroring.
    turns = (first & 3) + (then & 3) if not then & 4 else (then & 3) - (first & 3)
    return (turns & 3) | ((first ^ then) & 4)


def orient(pixels: NDArray[np.uint8], orientation: int) -> NDArray[np.uint8]:
    """Pixels of a tile in one of the eight symmetries of the square.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
    orientation : int
        Quarter turns clockwise in the low two bits, after a mirroring left to right if bit 2 is set.

    Returns
    -------
    pixels : (H, W, 4) or, after an odd number of turns, (W, H, 4) uint8
    """
    mirrored = pixels[:, ::-1] if orientation & 4 else pixels
    return np.rot90(mirrored, -(orientation & 3))
