"""JSON as it is written for people: a row of the map on each line, a thing on each line, a tile on each line."""

import base64
import json
import zlib
from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray


def json_text(content: dict[str, Any]) -> str:
    """JSON with one map row, one thing and one tile on each line; what holds them comes last."""
    rest = dict(content)
    layers, tiles = rest.pop("layers"), rest.pop("tiles", None)
    parts = [f" {json.dumps(name)}: {_short(value)}" for name, value in rest.items()]
    parts.append(' "layers": [\n' + ",\n".join(_layer(layer) for layer in layers) + "\n ]")
    if tiles is not None:
        lines = ",\n".join(f"  {json.dumps(number)}: {_short(said)}" for number, said in tiles.items())
        parts.append(f' "tiles": {{\n{lines}\n }}' if tiles else ' "tiles": {}')
    return "{\n" + ",\n".join(parts) + "\n}\n"


def packed(numbers: NDArray[np.int64]) -> str:
    """Rows of numbers as base64 of zlib (RFC 1950) of their 32 bits, the least first.

    Parameters
    ----------
    numbers : (H, W) int64
        From 0 to 2^32 - 1.
    """
    return base64.b64encode(zlib.compress(numbers.astype("<u4").tobytes())).decode("ascii")


def _layer(layer: dict[str, Any]) -> str:
    named = {name: value for name, value in layer.items() if name not in ("rows", "things")}
    said = [f"{json.dumps(name)}: {_short(value)}" for name, value in named.items()]
    if "things" in layer:
        lines = (json.dumps(thing, ensure_ascii=False, separators=(",", ":")) for thing in layer["things"])
        said.append(_lines("things", lines))
    if "rows" in layer:
        words = _Words()
        said.append(_lines("rows", (f"[{','.join(map(words.__getitem__, row))}]" for row in layer["rows"])))
    return "  {" + ", ".join(said) + "}"


def _lines(name: str, lines: Iterable[str]) -> str:
    """A list of a layer, an entry on each line."""
    held = ",\n   ".join(lines)
    return f'"{name}": [\n   {held}\n  ]'


class _Words(dict[int, str]):
    """Numbers as they are written, each of which is made once: there are many cells, and few numbers."""

    def __missing__(self, number: int) -> str:
        word = self[number] = json.dumps(number)
        return word


def _short(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)
