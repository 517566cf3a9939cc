"""Tiles that stand out of their cells, on a layer of an isometric ground that hides nothing of the layers above it.

Only layers that are stacked by depth are drawn together, cell by cell from the back to the front. One that is drawn as
a whole is a floor: what stands on the layers above is drawn over it, also what stands behind its walls. Where the floor
is made of low blocks, what is laid on one stands on it, and is rightly drawn over those before it.
"""

from collections.abc import Iterator, Sequence
from functools import cache, partial

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.check import DefinitionCheck, Facts, Finding, Sprite, many
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.tiles.tile import NUMBER_MASK

TILES = "drawn over what stands before it"
KNIT = "drawn over what is knit before it"
"""The same, where a set or stitches lay what stands before."""
_ROWS = 128
_FARTHEST = 12
"""Up to how many cells behind it a tile may reach."""
_FEW = 12
"""Up to how many pixels of one tile may lie over another by the shapes that artists draw."""
_MEND = {
    TILES: "Put what stands there on a layer of its own, which hides what is behind it.",
    KNIT: "Let “{}” be stacked by depth, in “Look, place and blocking…”, or put its walls on a layer above the floor.",
}


def _about(facts: Facts) -> Sequence[Ground]:
    return [ground for ground in facts.grounds if ground.isometric]


def _find(facts: Facts, ground: Ground) -> Iterator[Finding]:
    shown = [layer for layer in ground.shown() if layer.opacity > 0]
    for place, low in enumerate(shown):
        if (low.holds_tiles or low.knits) and not low.stands_in_depth:
            above = [layer for layer in shown[place + 1 :] if layer.stands_in_depth and _where(layer) == _where(low)]
            found = _over(facts, ground, low, above) if above else set()
            if found:
                (row, column), kind = min(found), TILES if low.holds_tiles else KNIT
                yield Finding(
                    kind, "ground",
                    f"{ground.name}, {low.name}: {many(len(found), 'upright tile hides', 'upright tiles hide')} "
                    f"nothing behind {'it' if len(found) == 1 else 'them'}, first at {column}, {row}",
                    ground.id, low.id, row, column, count=len(found), tiles=_upright(facts, ground, low),
                    mend=_MEND[kind].format(low.name),
                )  # fmt: skip


def _where(layer: Layer) -> tuple[float, ...]:
    return layer.offset_x, layer.offset_y, layer.parallax_x, layer.parallax_y


def _over(facts: Facts, ground: Ground, low: Layer, above: Sequence[Layer]) -> set[tuple[int, int]]:
    """The cells of a layer in which something stands that others, from behind it, are drawn over."""
    found: set[tuple[int, int]] = set()
    meets, highest = _Meets(facts, ground), 0
    tiles = [layer for layer in above if layer.holds_tiles or layer.knits]
    for rows in ground.board.whole.bands(_ROWS):
        facts.pulse()
        codes = facts.laid(ground.id, low.id, rows).codes
        rise = meets.rise(codes)
        down, across = np.nonzero(rise)
        highest = max(highest, int(rise.max()))
        cells = np.column_stack([down + rows.top, across + rows.left])
        for layer in tiles if len(cells) else ():
            covered = _covered(facts, ground, low, layer, meets, cells, codes[down, across])
            found.update((row, column) for row, column in cells[covered].tolist())
    steps = _steps(ground, highest)
    for props in filter(None, map(as_props, above)):
        for thing in props.things if steps else ():
            facts.pulse()
            if thing.tile is not None:
                found.update(_before(facts, ground, low, meets, steps, (thing.x, thing.y)))
    return found


def _steps(ground: Ground, rise: int) -> list[tuple[int, int]]:
    """From a cell to those before it whose tiles may reach over it, on the flat grid, if they rise so far."""
    most = min(2 * _FARTHEST, -(-2 * rise // ground.tile_height) + 1) if rise else 0
    return [
        (down, along - down) for along in range(1, most + 1) for down in range(along + 1) if abs(2 * down - along) < 2
    ]


def _covered(
    facts: Facts,
    ground: Ground,
    low: Layer,
    layer: Layer,
    meets: "_Meets",
    cells: NDArray[np.intp],
    codes: NDArray[np.int32],
) -> NDArray[np.bool_]:
    """Which cells, (n, 2), of a low layer hold tiles that those of another from behind them are drawn over."""
    ys, xs = ground.board.flat("cells", *cells.T)
    rise = meets.rise(codes)
    covered = np.zeros(len(cells), dtype=bool)
    for step in _steps(ground, int(rise.max())):
        reaches = 2 * rise >= (sum(step) - 1) * ground.tile_height
        numbers = np.flatnonzero(reaches & ground.board.there("cells", ys - step[0], xs - step[1]))
        if not len(numbers):
            continue
        rows, columns = ground.board.stored("cells", ys[numbers] - step[0], xs[numbers] - step[1])
        top, left = int(rows.min()), int(columns.min())
        rect = CellRect(top, left, int(rows.max()) + 1 - top, int(columns.max()) + 1 - left)
        behind, under = (facts.laid(ground.id, one.id, rect).codes[rows - top, columns - left] for one in (layer, low))
        stands = ~meets.same_floor(codes[numbers], under)
        numbers, behind = numbers[stands], behind[stands]
        pairs, which = np.unique(codes[numbers].astype(np.int64) << 32 | behind, return_inverse=True)
        twos = zip((pairs >> 32).tolist(), pairs.astype(np.int32).tolist(), strict=True)
        covered[numbers] |= np.array([other > 0 and meets.tile(one, other, step) for one, other in twos], dtype=bool)[
            which
        ]
    return covered


def _before(
    facts: Facts,
    ground: Ground,
    low: Layer,
    meets: "_Meets",
    steps: Sequence[tuple[int, int]],
    foot: tuple[float, float],
) -> Iterator[tuple[int, int]]:
    """The cells of a layer that hold what should hide the foot of a thing."""
    (x, y), place = foot, ground.projection.place(foot[0], foot[1] - 0.5)
    own = ground.board.cell_at(*place)

    def code_in(cell: tuple[int, int]) -> NDArray[np.int32]:
        return np.asarray(facts.laid(ground.id, low.id, CellRect(*cell, 1, 1)).codes[0])

    under = code_in(own) if own is not None else np.zeros(1, dtype=np.int32)
    for down, across in steps:
        cell = ground.board.cell_at(float(place[0]) + down, float(place[1]) + across)
        if cell is not None:
            there = code_in(cell)
            code = int(there[0])
            left, top = ground.projection.corner(*cell)
            # A floor may be drawn a pixel over its cell, as far as the foot of what stands on the next.
            stands = code > 0 and meets.rise(there)[0] > 0 and not meets.same_floor(there, under)[0]
            if stands and meets.pixel(code, int(x - left), int(y - 1 - top)):
                yield cell


def _upright(facts: Facts, ground: Ground, layer: Layer) -> tuple[str, ...]:
    """All tiles of a layer that stand out of their cells."""
    found: set[int] = set()
    meets = _Meets(facts, ground)
    for rows in ground.board.whole.bands(_ROWS):
        facts.pulse()
        codes = np.unique(facts.laid(ground.id, layer.id, rows).codes)
        found.update((codes[meets.rise(codes) > 0] & NUMBER_MASK).tolist())
    return tuple(sorted(str(facts.ref(number)) for number in found))


class _Meets:
    """Where tiles would be drawn over each other; worked out once for each two."""

    def __init__(self, facts: Facts, ground: Ground) -> None:
        self._facts, self._ground = facts, ground
        self._known: dict[tuple[int, int, tuple[int, int]], bool] = {}
        self._sprites: dict[int, Sprite] = {}
        self._floor = cache(partial(facts.floor_height, ground))

    def rise(self, codes: NDArray[np.int32]) -> NDArray[np.intp]:
        """How far tiles stand out of their cells; 0 where that is no more than what floors are drawn over theirs."""
        kinds, which = np.unique(codes, return_inverse=True)
        rise = np.zeros(len(kinds), dtype=np.intp)
        for number, code in enumerate(kinds.tolist()):
            if code > 0:
                sprite = self._sprite(code)
                rows = np.flatnonzero(sprite.alpha.any(axis=1))
                out = -sprite.top - int(rows[0]) if rows.size else 0
                rise[number] = out if out > self._ground.overdrawn else 0
        return np.asarray(rise[which].reshape(codes.shape))

    def same_floor(self, codes: NDArray[np.int32], under: NDArray[np.int32]) -> NDArray[np.bool_]:
        """Whether tiles, (n,), are blocks of a floor that is no higher than what lies under what is behind them."""
        high, own = (self._floors(some) for some in (codes, under))
        return np.asarray((high > 0) & (high <= own))

    def _floors(self, codes: NDArray[np.int32]) -> NDArray[np.intp]:
        kinds, which = np.unique(codes, return_inverse=True)
        return np.array([self._floor(code) for code in kinds.tolist()], dtype=np.intp)[which]

    def tile(self, stands: int, behind: int, step: tuple[int, int]) -> bool:
        """Whether a tile is drawn over one that stands so many flat cells before it."""
        key = stands, behind, step
        if key not in self._known:
            self._known[key] = self._overlap(*key) > _FEW
        return self._known[key]

    def pixel(self, stands: int, x: int, y: int) -> bool:
        """Whether a tile covers a pixel, counted from the left top corner of its cell's box."""
        alpha, left, top = self._sprite(stands)
        return 0 <= y - top < alpha.shape[0] and 0 <= x - left < alpha.shape[1] and bool(alpha[y - top, x - left])

    def _sprite(self, code: int) -> Sprite:
        if code not in self._sprites:
            self._sprites[code] = self._facts.sprite(self._ground, code)
        return self._sprites[code]

    def _overlap(self, stands: int, behind: int, step: tuple[int, int]) -> int:
        one, other = (self._sprite(code) for code in (stands, behind))
        right = (step[1] - step[0]) * self._ground.tile_width // 2
        down = (step[0] + step[1]) * self._ground.tile_height // 2
        # Both in pixels from the box of the cell behind.
        tops, lefts = (one.top + down, other.top), (one.left + right, other.left)
        bottom = min(tops[0] + one.alpha.shape[0], tops[1] + other.alpha.shape[0])
        end = min(lefts[0] + one.alpha.shape[1], lefts[1] + other.alpha.shape[1])
        top, left = max(tops), max(lefts)
        if bottom <= top or end <= left:
            return 0
        parts = (
            sprite.alpha[top - high : bottom - high, left - near : end - near] > 0
            for sprite, high, near in zip((one, other), tops, lefts, strict=True)
        )
        return int(np.logical_and(*parts).sum())


CHECK = DefinitionCheck(
    "upright", _about, lambda facts, ground: facts.blocking_since(ground), lambda *of: tuple(_find(*of)), at_once=False
)
