"""JSON as it is written for people: a row of the map on each line, a thing on each line, a tile on each line."""

import base64
import json
import zlib
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
    for held in ("things", "rows"):
        if held in layer:
            lines = ",\n   ".join(json.dumps(row, ensure_ascii=False, separators=(",", ":")) for row in layer[held])
            said.append(f'"{held}": [\n   {lines}\n  ]')
    return "  {" + ", ".join(said) + "}"


def _short(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)
