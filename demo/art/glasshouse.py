"""An isometric glasshouse: floors, panes, frames, doors and beds on a foot of 32 x 16 pixels, up to 40 high."""

import numpy as np

from art.brush import Tile

WIDTH, HEIGHT, TALL, APART = 32, 40, 22, 2
_FOOT = HEIGHT - 8
_LEFT, _TOP, _RIGHT, _BOTTOM = (0, _FOOT), (16, _FOOT - 8), (32, _FOOT), (16, HEIGHT)


def glasshouse() -> np.ndarray:
    """6 x 2 tiles."""
    tiles = [
        _floor(), _pane(_floor(), "left"), _pane(_floor(), "right"), _pane(_pane(_floor(), "left"), "right"),
        _door("left"), _door("right"),
        _block(), _pane(_floor(), "back left"), _pane(_floor(), "back right"), _bed(), _table(), _stove(),
    ]  # fmt: skip
    sheet = np.zeros((2 * (HEIGHT + APART), 6 * (WIDTH + APART), 4), dtype=np.uint8)
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


def _door(side: str) -> Tile:
    tile = _pane(_floor(), side)
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


def _bed() -> Tile:
    tile = _raised(_raised(_floor(), 6, "wood4", "wood3", "wood1"), 6, "soil2", "wood3", "wood1", 0.66)
    for x, y in ((10, 26), (16, 23), (22, 26), (16, 29), (13, 25), (19, 28)):
        tile.ellipse(x, y, 2.2, 2.2, "moss2").dot("moss4", (x - 1, y - 1), (x, y - 2)).dot("rose", (x + 1, y))
    return tile


def _table() -> Tile:
    tile = _raised(_floor(), 9, "wood4", "wood2", "wood1", 0.7)
    for x, y in ((12, 22), (18, 21), (16, 25)):
        tile.rect(x - 1, y - 1, 4, 3, "copper2").dot("copper3", (x - 1, y - 1)).ellipse(x + 0.5, y - 3, 2, 1.6, "moss3")
    return tile


def _stove() -> Tile:
    tile = _raised(_floor(), 12, "slate3", "slate2", "slate1", 0.5)
    tile.rect(14, 2, 3, 18, "slate2").rect(14, 2, 1, 18, "slate4").rect(13, 1, 5, 2, "slate3")
    return tile.dot("honey", (11, 27), (12, 27)).dot("copper3", (11, 28), (12, 28))
