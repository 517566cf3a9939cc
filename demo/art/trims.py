"""Things in lines: copper gutters, plank walks, brick parapets and skylights."""

from art.brush import SIZE, Tile, rgb

NORTH, EAST, SOUTH, WEST = range(4)


def gutter(north: bool, east: bool, south: bool, west: bool) -> Tile:
    """A copper gutter that leaves the tile at these edges: 4 pixels wide, with verdigris at the joints."""
    tile = Tile()
    arms = (north, east, south, west)
    _run(tile, arms, 5, 6, "copper1")
    _run(tile, arms, 6, 4, "copper2")
    _run(tile, arms, 7, 2, "ink" if False else "copper1")
    if east or west:
        tile.rect(0 if west else 6, 6, (10 if east is False else 16) - (0 if west else 6), 1, "copper3")
    if north or south:
        tile.rect(6, 0 if north else 6, 1, (10 if not south else 16) - (0 if north else 6), "copper3")
    straight = arms in ((True, False, True, False), (False, True, False, True))
    if not straight:
        tile.rect(5, 5, 6, 6, "verdigris1").rect(6, 6, 4, 4, "verdigris2").rect(7, 7, 2, 2, "verdigris1")
    elif north:
        tile.rect(5, 3, 6, 1, "verdigris1").rect(5, 12, 6, 1, "verdigris1")
    else:
        tile.rect(3, 5, 1, 6, "verdigris1").rect(12, 5, 1, 6, "verdigris1")
    return tile.shadow(1, 1, 90)


def planks(north: bool, east: bool, south: bool, west: bool) -> Tile:
    """A walk of planks, 10 pixels wide; boards lie across the way one goes."""
    tile = Tile()
    arms = (north, east, south, west)
    _run(tile, arms, 2, 12, "wood1")
    _run(tile, arms, 3, 10, "wood2")
    along = (east or west) and not (north and south)
    for place in range(0, SIZE, 4):
        if along:
            _inside(tile, place, 3, 1, 10, "wood1")
            _inside(tile, place + 1, 3, 1, 10, "wood3")
        else:
            _inside(tile, 3, place, 10, 1, "wood3")
            _inside(tile, 3, place + 3, 10, 1, "wood1")
    nails = [(5, 4), (5, 11), (9, 4), (9, 11)] if along else [(4, 5), (11, 5), (4, 9), (11, 9)]
    for x, y in nails:
        _inside(tile, x, y, 1, 1, "wood4")
    return tile.shadow(1, 1, 90)


def parapet(north: bool, east: bool, south: bool, west: bool) -> Tile:
    """A low brick wall seen from above and a little from the south: a stone cap, and bricks below it."""
    tile = Tile()
    if not south:
        _bricks(tile, 0 if west else 3, 16 if east else 13)
    else:
        tile.rect(4, 8, 8, 8, "stone3").rect(4, 8, 1, 8, "stone4").rect(11, 8, 1, 8, "stone2")
        tile.rect(3, 8, 1, 8, "ink").rect(12, 8, 1, 8, "ink")
        if east or west:
            _bricks(tile, 0 if west else 13, 3 if west else 16)
            if west and east:
                _bricks(tile, 13, 16)
    if north:
        tile.rect(4, 0, 8, 8, "stone3").rect(4, 0, 1, 8, "stone4").rect(11, 0, 1, 8, "stone2")
        tile.rect(3, 0, 1, 8, "ink").rect(12, 0, 1, 8, "ink")
    left, right = (0 if west else 3), (16 if east else 13)
    tile.rect(left, 1 if not north else 2, right - left, 1, "ink") if not north else None
    tile.rect(left, 2, right - left, 7, "stone3")
    tile.rect(left, 2, right - left, 1, "stone4").rect(left, 8, right - left, 1, "stone1")
    if not west:
        tile.rect(3, 2, 1, 7, "ink").rect(4, 2, 1, 6, "stone4")
    if not east:
        tile.rect(12, 2, 1, 7, "ink")
    if north:
        tile.rect(4, 0, 8, 3, "stone3").rect(4, 0, 1, 3, "stone4").rect(11, 0, 1, 3, "stone2")
    if south:
        tile.rect(4, 8, 8, 1, "stone3").rect(4, 8, 1, 1, "stone4").rect(11, 8, 1, 1, "stone2")
    for x in (2, 9):
        if left <= x < right and not (north and south):
            tile.dot("stone2", (x, 4), (x + 1, 4), (x + 3, 6))
    return tile.shadow(2, 0, 90)


def skylight(north: bool, east: bool, south: bool, west: bool) -> Tile:
    """A pane of a skylight; a frame runs where it ends."""
    tile = Tile(ground="verdigris1")
    tile.rect(1, 1, 14, 14, "sky")
    tile.rect(1, 1, 14, 1, "verdigris2").rect(1, 1, 1, 14, "verdigris2")
    for step in range(9):
        tile.dot("cream", (12 - step, 2 + step), (13 - step, 2 + step))
        if step < 6:
            tile.dot("verdigris2", (13 - step, 7 + step), (12 - step, 7 + step))
    if not north:
        tile.rect(0, 0, 16, 1, "ink").rect(0, 1, 16, 2, "copper3").rect(0, 3, 16, 1, "copper1")
    if not south:
        tile.rect(0, 11, 16, 1, "copper3").rect(0, 12, 16, 3, "copper2").rect(0, 15, 16, 1, "ink")
    if not west:
        tile.rect(0, 0, 1, 16, "ink").rect(1, 0 if north else 1, 1, 16, "copper3").rect(
            2, 3 if not north else 0, 1, 16, "copper1"
        )
    if not east:
        tile.rect(14, 0 if north else 1, 1, 16, "copper2").rect(15, 0, 1, 16, "ink")
    if not south:
        tile.rect(0, 15, 16, 1, "ink")
    return tile


def _run(tile: Tile, arms: tuple[bool, ...], start: int, width: int, colour: str) -> None:
    """A band from the middle to each open edge."""
    end = start + width
    tile.rect(start, start, width, width, colour)
    if arms[NORTH]:
        tile.rect(start, 0, width, end, colour)
    if arms[SOUTH]:
        tile.rect(start, start, width, SIZE - start, colour)
    if arms[WEST]:
        tile.rect(0, start, end, width, colour)
    if arms[EAST]:
        tile.rect(start, start, SIZE - start, width, colour)


def _inside(tile: Tile, x: int, y: int, width: int, height: int, colour: str) -> None:
    """A rectangle, but only where the boards are already."""
    part = tile.pixels[y : y + height, x : x + width]
    on_boards = (part[..., :3] != rgb("wood1")).any(axis=-1) & (part[..., 3] > 0)
    part[on_boards] = (*rgb(colour), 255)


def _bricks(tile: Tile, left: int, right: int) -> None:
    """The front of a wall: two courses of bricks, and its foot in shadow."""
    tile.rect(left, 9, right - left, 6, "brick1")
    for x in range(left, right):
        upper, lower = x % 8, (x + 4) % 8
        if upper != 7:
            tile.dot("brick3", (x, 10)).dot("brick2", (x, 11))
        if lower != 7:
            tile.dot("brick3", (x, 13)).dot("brick2", (x, 14))
    tile.rect(left, 15, right - left, 1, "ink")
