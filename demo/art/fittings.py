"""What belongs to walls: rails on top of them, the shade beside them, gates with their arches, and what grows there."""

from art.brush import SIZE, Tile, rgb

COLUMNS = 8


def fittings() -> list[Tile]:
    """Two rows: four rails, three shades and a fern; three gates, their three arches, ivy and flowers."""
    rails = [rail(left, right) for left, right in ((False, False), (False, True), (True, True), (True, False))]
    shades = [shade(right=True, below=False), shade(right=False, below=True), shade(right=True, below=True)]
    gates = [gate(True, True), gate(True, False), gate(False, True)]
    arches = [arch(7.5, 7), arch(15.5, 15), arch(-0.5, 15)]
    return [*rails, *shades, fern(), *gates, *arches, ivy(), flowers()]


def rail(left: bool, right: bool) -> Tile:
    """A copper rail that stands on the wall in the cell below and goes on to these sides."""
    tile = Tile()
    first, last = (0 if left else 4), (SIZE if right else 12)
    tile.rect(first, 9, last - first, 1, "copper3").rect(first, 10, last - first, 1, "copper1")
    tile.rect(first, 13, last - first, 1, "copper2")
    for x in (4, 11):
        tile.rect(x, 7, 1, 9, "copper1").dot("copper3", (x, 7)).dot("honey", (x, 6))
    return tile


def shade(*, right: bool, below: bool) -> Tile:
    """The shade of a wall that stands to the left of a cell, above it, or both."""
    tile = Tile()
    dark = (*rgb("ink"), 62)
    if right:
        tile.pixels[:, :4] = dark
        tile.pixels[:, 4] = (*rgb("ink"), 40)
    if below:
        tile.pixels[:5, :] = dark
        tile.pixels[5, :] = (*rgb("ink"), 40)
    return tile


def gate(first: bool, last: bool) -> Tile:
    """A wooden gate, or the first or last half of one that is two cells wide."""
    tile = Tile(ground="wood1")
    tile.rect(0, 0, SIZE, 2, "ink").rect(0, 15, SIZE, 1, "ink")
    for x in range(0, SIZE, 4):
        tile.rect(x, 2, 3, 13, "wood2").rect(x, 2, 1, 13, "wood3")
    tile.rect(0, 4, SIZE, 2, "copper1").rect(0, 4, SIZE, 1, "copper2").rect(0, 11, SIZE, 2, "copper1")
    if first:
        tile.rect(0, 0, 3, SIZE, "stone2").rect(0, 0, 1, SIZE, "ink").rect(1, 1, 1, 14, "stone4")
    if last:
        tile.rect(13, 0, 3, SIZE, "stone2").rect(15, 0, 1, SIZE, "ink").rect(13, 1, 1, 14, "stone4")
    handle = 11 if first and last else 14 if first else 1
    return tile.dot("honey", (handle, 8), (handle, 9))


def arch(middle: float, reach: float) -> Tile:
    """The arch above a gate, of which this tile shows a part."""
    tile = Tile()
    tile.ellipse(middle, 16, reach + 1.2, 12, "ink").ellipse(middle, 16, reach, 11, "stone3")
    tile.ellipse(middle, 16.5, reach, 10.5, "stone2").ellipse(middle, 17, reach - 3, 8.5, "ink")
    tile.ellipse(middle, 17.5, reach - 3.6, 8, "wood1")
    return tile


def fern() -> Tile:
    """A fern that likes the lee of a wall."""
    tile = Tile()
    for reach, side in ((6, -1), (6, 1), (4, -1), (4, 1)):
        tile.line("moss2", (7.5, 13), (7.5 + side * reach, 13 - (11 - reach)))
    for x, y in ((3, 8), (5, 6), (10, 6), (12, 8), (7, 5), (8, 4)):
        tile.dot("moss4", (x, y), (x + 1, y)).dot("moss3", (x, y + 1), (x + 1, y + 1))
    tile.rect(7, 6, 2, 7, "moss3").rect(7, 6, 1, 7, "moss4")
    return tile.outline("moss1").shadow(1, 1, 80)


def ivy() -> Tile:
    """Ivy that hangs over the front of a wall."""
    tile = Tile()
    for x, length in ((1, 9), (4, 13), (8, 7), (11, 12), (14, 6)):
        for y in range(3, 3 + length):
            tile.dot("moss2" if (x + y) % 3 else "moss4", (x + (y % 3 == 0), y), (x - (y % 4 == 0), y))
    for x, y in ((2, 6), (5, 10), (9, 7), (12, 9), (4, 4), (13, 5)):
        tile.dot("moss3", (x, y), (x + 1, y), (x, y + 1)).dot("moss5", (x, y))
    return tile


def flowers() -> Tile:
    """Flowers that somebody sowed along a wall."""
    tile = Tile()
    for x, y, colour in ((3, 9, "rose"), (7, 6, "honey"), (11, 10, "rose"), (9, 12, "cream"), (5, 12, "honey")):
        tile.line("moss2", (x, y + 1), (x, min(14, y + 4))).dot(colour, (x, y), (x - 1, y), (x + 1, y), (x, y - 1))
        tile.dot("cream" if colour != "cream" else "honey", (x, y))
    return tile.shadow(1, 1, 70)
