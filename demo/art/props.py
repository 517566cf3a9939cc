"""Single things: hives, chimneys, pots, smokers, a washing line, and small plants."""

from art.brush import Tile


def all_props() -> list[list[Tile | None]]:
    """The props sheet, row by row; a tall thing takes two tiles, the upper above the lower."""
    hive_top, hive_foot = _halves(_tall_hive())
    chimney_top, chimney_foot = _halves(_chimney())
    left, middle, right = _washing_line()
    return [
        [hive_top, chimney_top, _hive("cream"), _hive("honey"), _hive("sky"), _smoker(), _pot("rose"), _pot("moss4")],
        [hive_foot, chimney_foot, left, middle, right, _can(), _crate(), _vent()],
        [_clover(), _daisies(), _tuft(), _poppy(), _seedlings(), _bees(0), _bees(1), _lavender()],
    ]


def _halves(tall: Tile) -> tuple[Tile, Tile]:
    upper, lower = Tile(), Tile()
    upper.pixels[:], lower.pixels[:] = tall.pixels[:16], tall.pixels[16:]
    return upper, lower


def _hive(paint: str) -> Tile:
    """A wooden hive with a tin roof and a flight board."""
    tile = Tile()
    tile.rect(3, 3, 10, 3, "stone3").rect(3, 3, 10, 1, "cream").rect(3, 5, 10, 1, "stone1")
    tile.rect(4, 6, 8, 7, paint).rect(4, 9, 8, 1, "wood2").rect(11, 6, 1, 7, "wood2").rect(4, 12, 8, 1, "wood1")
    tile.rect(6, 10, 4, 1, "ink").rect(5, 13, 6, 1, "wood3")
    return tile.outline().shadow(2, 1)


def _tall_hive() -> Tile:
    tile = Tile(16, 32)
    tile.rect(2, 5, 12, 4, "stone3").rect(2, 5, 12, 1, "cream").rect(2, 8, 12, 1, "stone1")
    for top, paint in ((9, "rose"), (15, "cream"), (21, "honey")):
        tile.rect(3, top, 10, 6, paint).rect(12, top, 1, 6, "wood2").rect(3, top + 5, 10, 1, "wood1")
        tile.rect(6, top + 2, 4, 1, "wood1")
    tile.rect(5, 25, 6, 1, "ink").rect(4, 27, 8, 2, "wood3").rect(4, 28, 8, 1, "wood1")
    return tile.outline().shadow(2, 1)


def _chimney() -> Tile:
    tile = Tile(16, 32)
    tile.rect(3, 10, 10, 18, "brick2")
    for y in range(11, 28, 3):
        tile.rect(3, y, 10, 2, "brick3").rect(11, y, 2, 2, "brick2")
        for x in range(3 + (y // 3 % 2) * 3, 13, 6):
            tile.rect(x, y, 1, 2, "brick1")
    tile.rect(2, 7, 12, 3, "stone3").rect(2, 7, 12, 1, "stone4").rect(2, 9, 12, 1, "stone1")
    for x in (4, 9):
        tile.rect(x, 2, 3, 5, "copper2").rect(x, 2, 1, 5, "copper3").rect(x, 2, 3, 1, "ink")
    return tile.outline().shadow(2, 1)


def _pot(flower: str) -> Tile:
    tile = Tile()
    tile.rect(5, 8, 6, 5, "copper2").rect(5, 8, 1, 5, "copper3").rect(10, 8, 1, 5, "copper1")
    tile.rect(4, 7, 8, 2, "copper3").rect(4, 8, 8, 1, "copper1")
    tile.ellipse(7.5, 4.5, 4, 3, "moss2").ellipse(6.5, 3.8, 2.5, 2, "moss3")
    tile.dot(flower, (5, 3), (8, 2), (10, 4), (7, 5), (4, 5), (9, 6)).dot("cream", (8, 3), (5, 4))
    return tile.outline().shadow(2, 1)


def _smoker() -> Tile:
    """The beekeeper's smoker: a can with a spout, bellows at its back."""
    tile = Tile()
    tile.rect(4, 7, 5, 6, "slate4").rect(4, 7, 1, 6, "cream").rect(8, 7, 1, 6, "slate2")
    tile.rect(5, 5, 3, 2, "slate3").rect(3, 4, 3, 2, "slate4")
    tile.rect(10, 7, 2, 6, "copper2").rect(10, 7, 1, 6, "copper3")
    tile.outline()
    return tile.dot("cream", (2, 2), (3, 1), (4, 2), (2, 0)).shadow(2, 1)


def _can() -> Tile:
    """A watering can."""
    tile = Tile()
    tile.rect(6, 7, 6, 6, "verdigris1").rect(6, 7, 2, 6, "verdigris2").rect(6, 6, 6, 1, "verdigris2")
    tile.dot("verdigris1", (5, 10), (4, 9), (3, 8), (2, 7), (3, 7), (4, 10)).dot("verdigris2", (2, 6), (3, 6))
    tile.dot("verdigris1", (7, 4), (8, 3), (9, 3), (10, 3), (11, 4), (12, 5), (13, 7), (13, 8), (12, 9))
    return tile.outline().shadow(2, 1)


def _crate() -> Tile:
    """A crate of honey jars."""
    tile = Tile()
    for x in (3, 6, 9):
        tile.rect(x, 4, 3, 4, "honey").rect(x, 3, 3, 1, "cream").dot("wood4", (x, 5))
        tile.rect(x + 2, 4, 1, 4, "copper3")
    tile.rect(2, 8, 11, 5, "wood2").rect(2, 8, 11, 1, "wood4").rect(2, 10, 11, 1, "wood1").rect(2, 12, 11, 1, "wood1")
    return tile.outline().shadow(2, 1)


def _vent() -> Tile:
    """A tin vent with a hood."""
    tile = Tile()
    tile.rect(5, 7, 6, 6, "slate3").rect(5, 7, 1, 6, "slate4").rect(9, 7, 2, 6, "slate2")
    tile.ellipse(7.5, 5, 5, 2.5, "slate4").ellipse(7.0, 4.4, 3.6, 1.3, "cream")
    return tile.outline().shadow(2, 1)


def _washing_line() -> tuple[Tile, Tile, Tile]:
    left, middle, right = Tile(), Tile(), Tile()
    for tile, x in ((left, 5), (right, 10)):
        tile.rect(x, 1, 2, 13, "wood2").rect(x, 1, 1, 13, "wood3").outline()
    left.rect(7, 3, 9, 1, "cream")
    right.rect(0, 3, 10, 1, "cream")
    middle.rect(0, 3, 16, 1, "cream")
    left.rect(9, 4, 5, 7, "rose").rect(9, 4, 1, 7, "cream").rect(9, 10, 5, 1, "brick2")
    middle.rect(1, 4, 6, 8, "sky").rect(1, 4, 6, 1, "cream").rect(6, 4, 1, 8, "verdigris2").rect(
        1, 11, 6, 1, "verdigris1"
    )
    middle.rect(9, 4, 2, 6, "honey").rect(12, 4, 2, 6, "honey").rect(9, 4, 5, 2, "honey").rect(9, 4, 5, 1, "cream")
    right.rect(2, 4, 6, 6, "cream").rect(7, 4, 1, 6, "stone3").rect(2, 9, 6, 1, "stone3")
    return left.shadow(1, 2, 80), middle.shadow(1, 2, 80), right.shadow(1, 2, 80)


def _plant(stems: list[tuple[int, int]], head: str, heart: str, leaf: str = "moss2") -> Tile:
    """Flowers: a head with four petals on a stem."""
    tile = Tile()
    for x, y in stems:
        tile.dot(leaf, (x, y + 1), (x, y + 2), (x - 1, y + 2), (x + 1, y + 3), (x, y + 3))
        tile.dot("moss1", (x + 1, y + 4), (x, y + 4))
        tile.dot(head, (x - 1, y), (x + 1, y), (x, y - 1), (x, y + 1)).dot(heart, (x, y))
    return tile


def _daisies() -> Tile:
    return _plant([(4, 4), (11, 6), (6, 10)], "cream", "honey")


def _poppy() -> Tile:
    return _plant([(5, 5), (10, 9)], "rose", "ink")


def _clover() -> Tile:
    return _plant([(4, 5), (8, 9), (12, 4)], "moss4", "cream", "moss3")


def _lavender() -> Tile:
    tile = Tile()
    for x, y in ((4, 5), (7, 3), (10, 6), (12, 4)):
        tile.rect(x, y, 1, 9 - y // 2, "moss2").rect(x, y - 2, 1, 5, "rose").dot("slate4", (x - 1, y), (x + 1, y - 1))
    return tile


def _tuft() -> Tile:
    tile = Tile()
    for x, y, height in ((4, 6, 5), (6, 4, 7), (8, 6, 5), (10, 8, 4), (5, 9, 3), (9, 5, 6)):
        tile.rect(x, y, 1, height, "moss3").dot("moss5", (x, y))
    return tile.dot("moss1", (5, 11), (6, 11), (7, 11), (8, 11), (9, 11), (10, 12))


def _seedlings() -> Tile:
    tile = Tile()
    for x, y in ((3, 4), (8, 4), (13, 4), (3, 11), (8, 11), (13, 11)):
        tile.dot("moss3", (x, y), (x - 1, y - 1), (x + 1, y - 1)).dot("moss5", (x - 1, y - 2), (x + 1, y - 2))
        tile.dot("soil1", (x, y + 1), (x + 1, y + 1))
    return tile


def _bees(phase: int) -> Tile:
    tile = Tile()
    for x, y in ((3 + phase, 4), (10, 7 - phase), (6, 12 - phase)):
        tile.dot("honey", (x, y), (x + 2, y)).dot("ink", (x + 1, y), (x + 3, y)).dot(
            "cream", (x + 1, y - 1), (x + 2, y - 1)
        )
    return tile
