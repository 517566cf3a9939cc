"""JSON as it is written for people: a row of the map on each line, a thing on each line, a tile on each line."""

import base64
import io
import json
import zlib
from collections.abc import Callable, Iterable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

PER_PULSE = 64
"""So many lines are written until it is told again that something goes on."""
_FEW = 2**16


def json_bytes(content: dict[str, Any], pulse: Callable[[], object] = lambda: None) -> bytes:
    """JSON in UTF-8 with one map row, one thing and one tile on each line; what holds them comes last.

    It is put together piece by piece: a large map made at once would let nobody else in until all of it is copied.

    Parameters
    ----------
    content : dict
    pulse : callable, optional
        Called now and then; may raise to stop.
    """
    out = io.BytesIO()
    for number, piece in enumerate(_pieces(content)):
        if number % PER_PULSE == 0:
            pulse()
        out.write(piece.encode("utf-8", "replace"))
    return out.getvalue()


def _pieces(content: dict[str, Any]) -> Iterator[str]:
    rest = dict(content)
    layers, tiles = rest.pop("layers"), rest.pop("tiles", None)
    yield "{\n"
    for name, value in rest.items():
        yield f" {json.dumps(name)}: {_short(value)},\n"
    yield ' "layers": [\n'
    for number, layer in enumerate(layers):
        yield ",\n" if number else ""
        yield from _layer(layer)
    yield "\n ]"
    if tiles is not None:
        lines = ",\n".join(f"  {json.dumps(number)}: {_short(said)}" for number, said in tiles.items())
        yield f',\n "tiles": {{\n{lines}\n }}' if tiles else ',\n "tiles": {}'
    yield "\n}\n"


def packed(numbers: NDArray[np.int64]) -> str:
    """Rows of numbers as base64 of zlib (RFC 1950) of their 32 bits, the least first.

    Parameters
    ----------
    numbers : (H, W) int64
        From 0 to 2^32 - 1.
    """
    return base64.b64encode(zlib.compress(numbers.astype("<u4").tobytes())).decode("ascii")


def _layer(layer: dict[str, Any]) -> Iterator[str]:
    named = {name: value for name, value in layer.items() if name not in ("rows", "things")}
    yield "  {" + ", ".join(f"{json.dumps(name)}: {_short(value)}" for name, value in named.items())
    if "things" in layer:
        lines = (json.dumps(thing, ensure_ascii=False, separators=(",", ":")) for thing in layer["things"])
        yield from _lines("things", lines)
    if "rows" in layer:
        yield from _lines("rows", (f"[{line}]" for line in written_rows(layer["rows"])))
    yield "}"


def _lines(name: str, lines: Iterable[str]) -> Iterator[str]:
    """A list of a layer behind others of its values, an entry on each line."""
    yield f', "{name}": [\n   '
    for number, line in enumerate(lines):
        yield f",\n   {line}" if number else line
    yield "\n  ]"


def written_rows(numbers: NDArray[np.int64]) -> Iterator[str]:
    """Rows of numbers with commas between them.

    Each number is written once, as there are many cells and few numbers, and rows are put together out of what was
    written as arrays are, ten times as fast as one number after another.

    Parameters
    ----------
    numbers : (H, W) int64
        From 0.
    """
    few = numbers.size == 0 or int(numbers.max()) < _FEW
    known = np.arange(int(numbers.max(initial=0)) + 1) if few else np.unique(numbers)
    words = np.array([f"{number}," for number in known.tolist()], dtype=bytes)
    for row in numbers:
        line = words[row if few else np.searchsorted(known, row)].tobytes()
        yield line.replace(b"\0", b"")[:-1].decode("ascii")


def _short(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)
