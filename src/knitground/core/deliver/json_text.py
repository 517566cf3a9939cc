"""JSON as it is written for people: a row of the map on each line, a thing on each line, a tile on each line."""

import base64
import io
import json
import zlib
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray


def json_bytes(content: dict[str, Any]) -> bytes:
    """JSON in UTF-8 with one map row, one thing and one tile on each line; what holds them comes last.

    It is put together piece by piece: a large map made at once would let nobody else in until all of it is copied.
    """
    out = io.BytesIO()
    for piece in _pieces(content):
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
        words = _Words()
        yield from _lines("rows", (f"[{','.join(map(words.__getitem__, row))}]" for row in layer["rows"]))
    yield "}"


def _lines(name: str, lines: Iterable[str]) -> Iterator[str]:
    """A list of a layer behind others of its values, an entry on each line."""
    yield f', "{name}": [\n   '
    for number, line in enumerate(lines):
        yield f",\n   {line}" if number else line
    yield "\n  ]"


class _Words(dict[int, str]):
    """Numbers as they are written, each of which is made once: there are many cells, and few numbers."""

    def __missing__(self, number: int) -> str:
        word = self[number] = json.dumps(number)
        return word


def _short(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)
