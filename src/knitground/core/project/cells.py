"""Planes as text: a row of numbers per line, or packed where there are very many.

A plain row is its numbers with spaces between, so that a difference between two versions of a file shows the
rows that were painted. Beyond `MOST_PLAIN` numbers a plane is packed: little-endian bytes, zlib, base64.
"""

import base64
import binascii
import zlib
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.errors import BadProject
from knitground.core.grid.plane import Plane

MOST_PLAIN = 256 * 256


@dataclass(frozen=True)
class Packed:
    """A plane, packed."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    packed: Annotated[str, Field(description="base64 of zlib of the numbers, row by row, little-endian")]


Rows = list[Annotated[str, Field(pattern=r"^\s*(-?[0-9]+(\s+-?[0-9]+)*)?\s*$")]]
Cells = Rows | Packed


def written(plane: Plane) -> Cells:
    """A plane as its file holds it."""
    array = np.asarray(plane)
    if plane.size <= MOST_PLAIN:
        return [" ".join(map(str, row)) for row in array.tolist()]
    little = array.astype(array.dtype.newbyteorder("<"), copy=False)
    return Packed(base64.b64encode(zlib.compress(little.tobytes(), 6)).decode("ascii"))


def read(cells: Cells, dtype: str, shape: tuple[int, int], where: str) -> Plane:
    """A plane from its file: what `numbers_in` gives."""
    return Plane.of(numbers_in(cells, dtype, shape, where))


def numbers_in(cells: Cells, dtype: str, shape: tuple[int, int], where: str) -> NDArray[np.generic]:
    """The numbers of a plane, (height, width), from its file; mostly without holding up other threads.

    Parameters
    ----------
    cells : list of str, or Packed
    dtype : str
        Of its numbers.
    shape : (int, int)
        What it must have.
    where : str
        For messages.

    Raises
    ------
    BadProject
        If the numbers are not as many as the shape says, or out of range.
    """
    exact = np.dtype(dtype).newbyteorder("<")
    if isinstance(cells, Packed):
        flat = np.frombuffer(_unpacked(cells, int(np.prod(shape)) * exact.itemsize, where), dtype=exact)
        return flat.reshape(shape).astype(dtype, copy=False)
    rows = [row.split() for row in cells]
    if len(rows) != shape[0] or any(len(row) != shape[1] for row in rows):
        raise BadProject(f"{where} should have {shape[0]} rows of {shape[1]} numbers; restore the file from a copy.")
    beyond = BadProject(f"{where} holds a number out of range; restore the file from a copy.")
    try:
        numbers = np.array(rows, dtype=np.object_).astype(np.int64).reshape(shape)
    except (ValueError, OverflowError):
        raise beyond from None
    limits = np.iinfo(exact)
    if numbers.size and (numbers.min() < limits.min or numbers.max() > limits.max):
        raise beyond
    return numbers.astype(dtype)


def _unpacked(cells: Packed, size: int, where: str) -> bytes:
    """The bytes of a packed plane; reads no more than it should hold, however much is packed in."""
    damaged = BadProject(f"{where} is packed with damage or in the wrong size; restore the file from a copy.")
    try:
        unpacker = zlib.decompressobj()
        data = unpacker.decompress(base64.b64decode(cells.packed, validate=True), size + 1)
    except (zlib.error, binascii.Error, ValueError):
        raise damaged from None
    if len(data) != size:
        raise damaged
    return data
