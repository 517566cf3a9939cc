"""Lays the glasshouse: an isometric ground with floor, walls, doors and roof on layers of their own."""

from definitions import GLASSHOUSE, part
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.edits.placing import place
from knitground.core.layers.light import Light
from knitground.core.layers.thing import Thing
from knitground.core.project.document import Document

_TOP, _LEFT, _BOTTOM, _RIGHT = 3, 3, 9, 12
"""Cells of the house."""
_DOOR = 7
_SLABS, _LAWN = 1, 2
_EVENING, _SHADOW = 1, 2
_LAMPS = (((6.5, 7.5), "#ffd08a", 118.0), ((10.2, 6.4), "#ffb46a", 84.0), ((5.2, 13.6), "#a8d0ff", 76.0))
"""Row and column, colour and reach of each."""
_BEDS = [(5, 5), (5, 6), (5, 8), (5, 9), (7, 5), (7, 6)]
_HONEY_BEDS = [(7, 9), (7, 10)]
_PALMS = [(4, 4), (4, 11), (8, 4), (12, 2), (2, 13), (11, 13), (1, 2)]
_TABLES = [(8, 9), (8, 10), (5, 11)]
_POTS = [(9, 14), (10, 3), (6, 4), (4, 8), (11, 10)]


def lay_glasshouse(document: Document) -> None:
    """Paints every layer of the glasshouse, from bare planes."""
    _floor(document)
    for row in range(_TOP, _BOTTOM + 1):
        _put(document, "back-walls", row, _LEFT, part(3, 2))
        _put(document, "walls", row, _RIGHT, part(1, 2))
    for column in range(_LEFT, _RIGHT + 1):
        _put(document, "back-walls", _TOP, column, part(4, 2))
        _put(document, "walls", _BOTTOM, column, part(0, 2))
    _put(document, "back-walls", _TOP, _LEFT, part(5, 2))
    _put(document, "walls", _BOTTOM, _RIGHT, part(2, 2))
    _put(document, "walls", _BOTTOM, _DOOR, None)
    _put(document, "doors", _BOTTOM, _DOOR, part(0, 3))
    _put(document, "walls", 6, _RIGHT, None)
    _put(document, "doors", 6, _RIGHT, part(1, 3))
    for spots, ref in (
        (_BEDS, part(2, 3)), (_HONEY_BEDS, part(3, 4)), (_PALMS, part(5, 3)), (_TABLES, part(3, 3)), (_POTS, part(4, 4)),
        ([(4, 10)], part(4, 3)),
    ):  # fmt: skip
        for row, column in spots:
            _put(document, "plants", row, column, ref)
    _roof(document)
    _evening(document)


def _floor(document: Document) -> None:
    area(document, GLASSHOUSE, "floor", Hand(terrain=_LAWN), (0, 0), (14, 18))
    area(document, GLASSHOUSE, "floor", Hand(terrain=_SLABS), (_TOP, _LEFT), (_BOTTOM + 1, _RIGHT + 1))
    path = Hand(terrain=_SLABS, radius=1)
    stroke(document, GLASSHOUSE, "floor", path, (_BOTTOM, _DOOR + 0.4), (14, _DOOR + 0.4))
    stroke(document, GLASSHOUSE, "floor", path, (6.4, _RIGHT), (6.4, 18))


def _roof(document: Document) -> None:
    for row in range(_TOP, _TOP + 3):
        for column in range(_LEFT, _RIGHT + 1):
            kind = 2 if (row, column) in ((4, 6), (4, 9)) else (row * 3 + column * 5) % 4 == 0
            _put(document, "roof", row, column, part(int(kind), 4))


def _evening(document: Document) -> None:
    area(document, GLASSHOUSE, "evening", Hand(terrain=_EVENING), (0, 0), (14, 18))
    area(document, GLASSHOUSE, "evening", Hand(terrain=_SHADOW), (_BOTTOM + 2, _LEFT + 2), (_BOTTOM + 2, _RIGHT + 1))
    area(document, GLASSHOUSE, "evening", Hand(terrain=_SHADOW), (_TOP + 2, _RIGHT + 2), (_BOTTOM + 2, _RIGHT + 2))
    projection = next(one for one in document.project.grounds if one.id == GLASSHOUSE).projection
    place(document, GLASSHOUSE, "lamps", [
        Thing("new", *map(float, projection.point(*spot)), form="point", name="Lamp",
              light=Light(colour, reach, flicker=0.2 * (colour == _LAMPS[1][1])))
        for spot, colour, reach in _LAMPS
    ])  # fmt: skip


def _put(document: Document, layer: str, row: int, column: int, ref: object) -> None:
    spot = row + 0.5, column + 0.5
    stroke(document, GLASSHOUSE, layer, Hand(ref), spot, spot, erase=ref is None)  # type: ignore[arg-type]
