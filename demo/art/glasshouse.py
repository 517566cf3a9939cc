"""An isometric glasshouse: floors, panes, frames, doors and beds on a foot of 32 x 16 pixels, up to 40 high."""

import numpy as np

from art.brush import Tile

WIDTH, HEIGHT, TALL, APART = 32, 40, 22, 2
_FOOT = HEIGHT - 8
_LEFT, _TOP, _RIGHT, _BOTTOM = (0, _FOOT), (16, _FOOT - 8), (32, _FOOT), (16, HEIGHT)


def glasshouse() -> np.ndarray:
    """6 x 5 tiles: first with the floor they stand on, then alone, to be laid over one; the roofs last."""
    tiles = [
        _floor(), _pane(_floor(), "left"), _pane(_floor(), "right"), _pane(_pane(_floor(), "left"), "right"),
        _door("left", _floor()), _door("right", _floor()),
        _block(), _pane(_floor(), "back left"), _pane(_floor(), "back right"), _bed(_floor()), _table(_floor()),
        _stove(_floor()),
        _pane(_bare(), "left"), _pane(_bare(), "right"), _pane(_pane(_bare(), "left"), "right"),
        _pane(_bare(), "back left"), _pane(_bare(), "back right"), _pane(_pane(_bare(), "back left"), "back right"),
        _door("left", _bare()), _door("right", _bare()), _bed(_bare()), _table(_bare()), _stove(_bare()), _palm(),
        _roof(), _roof(gleam=True), _roof(vent=True), _bed(_bare(), flowers="honey"), _pots(), _bare(),
    ]  # fmt: skip
    sheet = np.zeros((5 * (HEIGHT + APART), 6 * (WIDTH + APART), 4), dtype=np.uint8)
    for number, tile in enumerate(tiles):
        top, left = number // 6 * (HEIGHT + APART), number % 6 * (WIDTH + APART)
        sheet[top : top + HEIGHT, left : left + WIDTH] = tile.pixels
    return sheet


def _floor() -> Tile:
    """Stone slabs, a diamond."""
    tile = Tile(WIDTH, HEIGHT)
    tile.poly("stone2", _LEFT, _TOP, _RIGHT, _BOTTOM)
    tile.poly("stone3", _LEFT, _TOP, (16, _FOOT)).poly("stone4", (16, _FOOT), _RIGHT, (24, _FOOT + 4), (8, _FOOT - 4))
    tile.line("stone1", (8, _FOOT - 4), (24, _FOOT + 3)).line("stone1", (8, _FOOT + 3), (23, _FOOT - 4))
    return tile


def _face(side: str) -> tuple[tuple[int, int], tuple[int, int]]:
    return {
        "left": (_LEFT, _BOTTOM),
        "right": (_BOTTOM, _RIGHT),
        "back left": (_LEFT, _TOP),
        "back right": (_TOP, _RIGHT),
    }[side]


def _pane(tile: Tile, side: str) -> Tile:
    """A wall of glass in a frame along one side of the foot; light falls on those that look left."""
    (ax, ay), (bx, by) = _face(side)
    light = side in ("left", "back right")
    frame, dark, glass, gleam = (
        ("cream", "stone3", "sky", "cream") if light else ("stone4", "stone1", "verdigris2", "sky")
    )

    def spot(along: float, up: float) -> tuple[float, float]:
        return ax + (bx - ax) * along, ay + (by - ay) * along - up

    def part(colour: str, start: float, end: float, low: float, high: float) -> None:
        tile.poly(colour, spot(start, low), spot(end, low), spot(end, high), spot(start, high))

    part(frame, 0, 1, 0, TALL)
    part("wood2" if light else "wood1", 0, 1, 0, 5)
    for start, end in ((0.1, 0.46), (0.56, 0.92)):
        for low, high in ((6, 13), (14.5, TALL - 1.5)):
            part(glass, start, end, low, high)
            part(gleam, start + 0.06, start + 0.14, low + 1, high - 1)
    part(dark, 0, 1, TALL - 1, TALL)
    part(dark, 0, 1, 5, 5.8)
    return tile


def _bare() -> Tile:
    return Tile(WIDTH, HEIGHT)


def _door(side: str, floor: Tile) -> Tile:
    tile = _pane(floor, side)
    (ax, ay), (bx, by) = _face(side)

    def spot(along: float, up: float) -> tuple[float, float]:
        return ax + (bx - ax) * along, ay + (by - ay) * along - up

    for colour, start, end, low, high in (
        ("verdigris1", 0.24, 0.78, 0, 19), ("verdigris2", 0.3, 0.72, 1, 18), ("sky", 0.36, 0.66, 8, 16.5), ("verdigris1", 0.36, 0.66, 2, 6.5),
    ):  # fmt: skip
        tile.poly(colour, spot(start, low), spot(end, low), spot(end, high), spot(start, high))
    return tile.dot("honey", tuple(int(part) for part in spot(0.68, 7)))


def _block() -> Tile:
    """A closed part with a flat glass roof."""
    tile = _pane(_pane(Tile(WIDTH, HEIGHT), "left"), "right")
    lift = TALL
    corners = [(x, y - lift) for x, y in (_LEFT, _TOP, _RIGHT, _BOTTOM)]
    tile.poly("cream", *corners)
    middle = (16, _FOOT - lift)
    for colour, shift in (("sky", 0.82), ("verdigris2", 0.0)):
        if shift:
            tile.poly(colour, *(((x - 16) * shift + 16, (y - middle[1]) * shift + middle[1]) for x, y in corners))
    tile.line("cream", (8, middle[1] - 4), (24, middle[1] + 3)).line("cream", (8, middle[1] + 3), (23, middle[1] - 4))
    return tile.line("verdigris2", (12, middle[1] - 3), (14, middle[1] - 4)).line(
        "cream", (13, middle[1]), (17, middle[1] - 2)
    )


def _raised(tile: Tile, high: int, top: str, left: str, right: str, shrink: float = 0.8) -> Tile:
    """A low block on the floor."""

    def corner(place: tuple[int, int], up: float) -> tuple[float, float]:
        return (place[0] - 16) * shrink + 16, (place[1] - _FOOT) * shrink + _FOOT - up

    for colour, one, other in ((left, _LEFT, _BOTTOM), (right, _BOTTOM, _RIGHT)):
        tile.poly(colour, corner(one, 0), corner(other, 0), corner(other, high), corner(one, high))
    return tile.poly(top, *(corner(place, high) for place in (_LEFT, _TOP, _RIGHT, _BOTTOM)))


def _bed(floor: Tile, flowers: str = "rose") -> Tile:
    tile = _raised(_raised(floor, 6, "wood4", "wood3", "wood1"), 6, "soil2", "wood3", "wood1", 0.66)
    for x, y in ((10, 26), (16, 23), (22, 26), (16, 29), (13, 25), (19, 28)):
        tile.ellipse(x, y, 2.2, 2.2, "moss2").dot("moss4", (x - 1, y - 1), (x, y - 2)).dot(flowers, (x + 1, y))
    return tile


def _table(floor: Tile) -> Tile:
    tile = _raised(floor, 9, "wood4", "wood2", "wood1", 0.7)
    for x, y in ((12, 22), (18, 21), (16, 25)):
        tile.rect(x - 1, y - 1, 4, 3, "copper2").dot("copper3", (x - 1, y - 1)).ellipse(x + 0.5, y - 3, 2, 1.6, "moss3")
    return tile


def _stove(floor: Tile) -> Tile:
    tile = _raised(floor, 12, "slate3", "slate2", "slate1", 0.5)
    tile.rect(14, 2, 3, 18, "slate2").rect(14, 2, 1, 18, "slate4").rect(13, 1, 5, 2, "slate3")
    return tile.dot("honey", (11, 27), (12, 27)).dot("copper3", (11, 28), (12, 28))


def _palm() -> Tile:
    """A fan of leaves in a copper tub."""
    tile = _raised(_bare(), 7, "copper3", "copper2", "copper1", 0.42)
    tile.rect(15, 14, 2, 12, "wood2").rect(15, 14, 1, 12, "wood3")
    leaves = ((5, 15), (8, 8), (15, 4), (23, 8), (27, 15), (10, 19), (22, 19))
    for number, (x, y) in enumerate(leaves):
        tile.line("moss2", (16, 14), (x, y + 1)).line("moss3" if number % 2 else "moss4", (15, 13), (x, y))
        tile.line("moss4", (16, 13), (x + 1, y))
    return tile.dot("moss5", (15, 5), (16, 6), (9, 9), (22, 9), (6, 15))


def _pots() -> Tile:
    """A few pots that wait on the floor."""
    tile = _bare()
    for x, y, leaf in ((10, 31, "moss3"), (17, 34, "moss4"), (21, 30, "rose")):
        tile.ellipse(x + 1.5, y + 3, 2.6, 1.2, "stone1").rect(x, y, 4, 4, "copper2").dot("copper3", (x, y), (x, y + 1))
        tile.ellipse(x + 1.5, y - 1.5, 2.4, 1.8, leaf)
    return tile


def _roof(*, gleam: bool = False, vent: bool = False) -> Tile:
    """Glass in a frame, as high above the floor as the walls are."""
    tile = Tile(WIDTH, HEIGHT)
    middle = _FOOT - TALL
    corners = [(x, y - TALL) for x, y in (_LEFT, _TOP, _RIGHT, _BOTTOM)]
    tile.poly("cream", *corners)
    tile.poly("sky", *(((x - 16) * 0.86 + 16, (y - middle) * 0.86 + middle) for x, y in corners))
    tile.line("cream", (8, middle - 4), (24, middle + 3)).line("cream", (8, middle + 3), (23, middle - 4))
    if gleam:
        tile.line("cream", (9, middle), (14, middle - 3)).line("cream", (12, middle + 1), (19, middle - 3))
    if vent:
        pane = [((x - 16) * 0.4 + 19, (y - middle) * 0.4 + middle - 3) for x, y in corners]
        tile.poly("verdigris1", *pane).poly("sky", *((x, y - 2) for x, y in pane))
        tile.line("cream", pane[0], pane[3])
    return tile
