"""CSV (RFC 4180): a file for each layer, a line for each row of the map; things as a list.

Numbers of tiles are those of the JSON of the same ground, and a table beside them tells which tile each is.
"""

import csv
import io
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from knitground.core.deliver.exporter import File, Order
from knitground.core.deliver.game_json import JsonOptions, MadeMap
from knitground.core.deliver.json_text import PER_PULSE, written_rows
from knitground.core.edits.colours import name_of
from knitground.core.edits.rows import rows_of
from knitground.core.layers.layer import Layer
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT


@dataclass(frozen=True)
class CsvOptions:
    """What can be chosen of tables."""

    holds: Annotated[
        Literal["numbers", "names", "painted"],
        Field(
            title="Holds",
            description="numbers of the tiles that lie there, their names, or the names of what was painted",
        ),
    ] = "numbers"


_THING_COLUMNS = ("id", "name", "kind", "form", "x", "y", "width", "height", "turn", "scale", "mirrored", "tile")

_LENGTHS = ("x", "y", "width", "height")


def make(order: Order) -> Iterator[File]:
    """A table for each layer that shows, and with numbers one of the tiles that they stand for."""
    said: CsvOptions = order.options
    made = MadeMap(order._replace(options=JsonOptions()))
    taken: set[str] = set()
    for layer in made.ground.shown():
        if layer.places_things:
            lines: Iterable[Sequence[Any]] = _things(made, layer, order.per_unit)
        elif layer.id in made.codes and said.holds == "painted" and not layer.takes_runs:
            text = rows_of(order.derived.document, order.ground_id, layer.id)
            yield File(order.name(_unlike(layer.name, taken), ".csv"), text.encode())
            continue
        elif said.holds == "numbers":
            yield File(order.name(_unlike(layer.name, taken), ".csv"), _numbers(made, layer))
            continue
        elif layer.id in made.codes:
            lines = _tile_names(made, layer)
        else:
            lines = _painted(made, layer)
        yield File(order.name(_unlike(layer.name, taken), ".csv"), _csv(lines, made.pulse))
    if said.holds == "numbers":
        yield File(order.name(_unlike("tiles", taken), ".csv"), _csv(_tiles(made), made.pulse))


def _unlike(name: str, taken: set[str]) -> str:
    """The name, with a number behind it where another table has it."""
    number, found = 1, name
    while found in taken:
        number += 1
        found = f"{name} {number}"
    taken.add(found)
    return found


def _numbers(made: MadeMap, layer: Layer) -> bytes:
    """The rows of a layer as numbers: none of them needs quotes."""
    held = made.held(layer)
    assert held is not None  # the layer holds no things
    out = io.BytesIO()
    for number, line in enumerate(written_rows(held)):
        if number % PER_PULSE == 0:
            made.pulse()
        out.write(f"{line}\n".encode())
    return out.getvalue()


def _tile_names(made: MadeMap, layer: Layer) -> Iterable[Sequence[Any]]:
    # What is painted in runs along edges has no row of cells; there the names of its tiles stand.
    names = ["", *(_tile_name(made, code) for code in made.pictures.used.tolist())]
    table = np.array(names, dtype=object)
    return (table[row].tolist() for row in made.numbers(made.codes[layer.id]))


def _painted(made: MadeMap, layer: Layer) -> Iterable[Sequence[Any]]:
    """The names of what is painted on a layer that lays no tiles."""
    plane = np.asarray(made.derived.knitted(made.ground.id).planes[layer.id][layer.area_plane])
    document = made.derived.document
    names = ["", *(name_of(document, layer, number) for number in range(1, int(plane.max(initial=0)) + 1))]
    table = np.array(names, dtype=object)
    return (table[row].tolist() for row in plane)


def _things(made: MadeMap, layer: Layer, per_unit: float) -> Iterator[list[Any]]:
    """The things of a layer, places and sizes in units of the game."""
    yield list(_THING_COLUMNS)
    for thing in made.written_things(layer):
        told = thing | {name: thing[name] / per_unit for name in _LENGTHS if name in thing}
        yield [told.get(name, "") for name in _THING_COLUMNS]


def _tiles(made: MadeMap) -> Iterator[list[Any]]:
    """Which tile each number stands for."""
    yield ["number", "sheet", "cut", "column", "row", "quarter turns", "mirrored first"]
    for number, code in enumerate(made.pictures.used.tolist(), start=1):
        ref, turn = made.derived.document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
        yield [number, ref.sheet, ref.cut, ref.column, ref.row, turn & 3, int(turn >= 4)]


def _tile_name(made: MadeMap, code: int) -> str:
    turn = code >> ORIENTATION_SHIFT
    name = str(made.derived.document.palette.ref(code & NUMBER_MASK))
    return f"{name} turned {turn}" if turn else name


def _csv(lines: Iterable[Sequence[Any]], pulse: Callable[[], object]) -> bytes:
    out = io.BytesIO()
    text = io.TextIOWrapper(out, encoding="utf-8", newline="")
    writer = csv.writer(text, lineterminator="\n")
    for number, line in enumerate(lines):
        # All at once would let nobody else in until a large map is written.
        writer.writerow(line)
        if number % PER_PULSE == 0:
            pulse()
    text.flush()
    return out.getvalue()
