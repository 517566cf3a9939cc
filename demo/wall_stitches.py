"""The stitches of the demo: walls with their tops and shade, gates in them, skylights, and what grows along the walls."""

from art.fittings import COLUMNS
from art.sheets import ARMS, SKYLIGHTS
from knitground.core.joins.sets import Terrain
from knitground.core.stitches.charts import Chart, chart_of
from knitground.core.stitches.rules import Course, Piece, Stitch, StitchSet, View
from knitground.core.tiles.tile import TileRef

PARAPET, SKYLIGHT, GATE = 1, 2, 3
_MOSS = 2
_WALL, _NO_WALL = f"{PARAPET}/{GATE}", f"!{PARAPET}/{GATE}"
_RAIL, _SHADE_RIGHT, _SHADE_BELOW, _FERN, _IVY, _FLOWERS = 0, 4, 5, 7, 14, 15
_GATE, _ARCH = 8, 11


def walls() -> StitchSet:
    """All that is laid by the plan of the walls."""
    marks = (
        Terrain("Parapet", "B", "#d99775"),
        Terrain("Skylight", "K", "#a9d9e2"),
        Terrain("Gate", "G", "#a37648"),
    )
    courses = Course("Walls", (*_gates(), *_parapets(), *_skylights())), Course("Dressing", _dressing())
    views = (View("Cover", "painted", "cover"),)
    return StitchSet("walls", "Walls and skylights", marks, courses, views, ("Shade", "Tops", "Dressing"))


def _gates() -> tuple[Stitch, ...]:
    """A gate of two cells is one block, with another one for its arch; what is left over is a gate of one cell."""
    wide = chart_of(((".", ".", "."), (f"!{GATE}", str(GATE), str(GATE)), (".", ".", f"!{GATE}")))
    halves, arches = (_fitting(_GATE + 1), _fitting(_GATE + 2)), (_fitting(_ARCH + 1), _fitting(_ARCH + 2))
    block = Piece(tiles=halves, rows=("1 2",)), Piece(tiles=arches, rows=("1 2",), onto="Tops", down=-1)
    single = Piece(_fitting(_GATE)), Piece(_fitting(_ARCH), onto="Tops", down=-1)
    return (
        Stitch("wide-gate", (wide,), block, "Wide gate"),
        Stitch("gate", (chart_of(((str(GATE),),)),), single, "Gate"),
    )


def _parapets() -> tuple[Stitch, ...]:
    found = []
    for number, (north, east, south, west) in enumerate(ARMS):
        pieces = [Piece(_trim(32 + number))]
        if not north:
            pieces.append(Piece(_fitting(_RAIL + (0, 3, 1, 2)[west + 2 * east]), onto="Tops", down=-1))
        if not east:
            pieces.append(Piece(_fitting(_SHADE_RIGHT), onto="Shade", across=1))
        if not south:
            pieces.append(Piece(_fitting(_SHADE_BELOW), onto="Shade", down=1))
        chart = _arms(PARAPET, _WALL, _NO_WALL, (north, east, south, west))
        found.append(Stitch(f"parapet-{number}", (chart,), tuple(pieces)))
    return tuple(found)


def _skylights() -> tuple[Stitch, ...]:
    return tuple(
        Stitch(f"skylight-{number}", (_arms(SKYLIGHT, "V", "-", tuple(map(bool, arms))),), (Piece(_trim(48 + number)),))
        for number, arms in enumerate(SKYLIGHTS)
    )


def _dressing() -> tuple[Stitch, ...]:
    """What grows where moss meets a wall."""
    front = chart_of(((".", ".", "."), (".", str(PARAPET), "."), (".", "0", ".")))
    below = chart_of(((".", ".", "."), (".", ".", "."), (".", f"{_MOSS}~", ".")), "Cover")
    lee = chart_of((
        (".", ".", ".", ".", "."), (".", _WALL, str(PARAPET), _WALL, "."), (".", "0", "0", "0", "."),
        (".", ".", "0", ".", "."), (".", ".", ".", ".", "."),
    ))  # fmt: skip
    green = chart_of((
        (".", ".", ".", ".", "."), (".", ".", ".", ".", "."), (f"{_MOSS}~", f"{_MOSS}~", str(_MOSS), ".", "."),
        (".", ".", str(_MOSS), ".", "."), (".", ".", f"{_MOSS}~", ".", "."),
    ), "Cover")  # fmt: skip
    foot = chart_of(((".", str(PARAPET), "."), (".", "0", "."), (".", ".", ".")))
    moss = chart_of((
        (".", ".", ".", ".", "."), (".", ".", ".", ".", "."), (".", f"{_MOSS}~", str(_MOSS), f"{_MOSS}~", "."),
        (".", ".", f"{_MOSS}~", ".", "."), (".", ".", "!3/4", ".", "."),
    ), "Cover")  # fmt: skip
    return (
        Stitch("ivy", (front, below), (Piece(_fitting(_IVY), onto="Dressing"),), "Ivy over the front", chance=45),
        Stitch("flowers", (lee, green), (Piece(_fitting(_FLOWERS), onto="Dressing"),), "Flowers in the lee", chance=60),
        Stitch(
            "fern", (foot, moss), (Piece(_fitting(_FERN), onto="Dressing"),), "Fern at the foot", chance=80, apart=1
        ),
    )


def _arms(mark: int, on: str, off: str, arms: tuple[bool, ...]) -> Chart:
    north, east, south, west = (on if arm else off for arm in arms)
    return chart_of(((".", north, "."), (west, str(mark), east), (".", south, ".")))


def _trim(number: int) -> TileRef:
    return TileRef("trims", "lines", number % 8, number // 8)


def _fitting(number: int) -> TileRef:
    return TileRef("fittings", "parts", number % COLUMNS, number // COLUMNS)
