"""A part of a sheet with the numbers that are likeliest for it, and those of several parts weighed together."""

from math import prod
from typing import NamedTuple

from knitground.core.sheet.cut import Cut, grid_of, tile_rect
from knitground.core.sheet.laid import NEAR, Side

_SURE, _HALFWAY, _ENOUGH = 0.6, 0.3, 6
_ODDS = 4.0
"""How much likelier parts of a sheet have the same spacing than another."""


class Part(NamedTuple):
    """A side with the numbers that are likeliest for it."""

    side: Side
    cut: Cut
    confidence: float
    likely: dict[Cut, float]
    """All that was weighed for it, with how likely each is."""

    @property
    def sure_of_pitch(self) -> float:
        """How likely all that has its pitch is, of all that was weighed."""
        alike = sum(share for cut, share in self.likely.items() if pitch_of(cut) == pitch_of(self.cut))
        return alike / max(sum(self.likely.values()), 1e-9)

    @property
    def can_be_gone_by(self) -> bool:
        """Whether it is sure enough, and has enough tiles, to hold against it what lies beside it."""
        sure = self.confidence >= _HALFWAY and max(self.confidence, self.sure_of_pitch) >= _SURE
        return sure and self.has_enough_tiles

    @property
    def has_enough_tiles(self) -> bool:
        """Whether it has so many tiles that they tell something; a few may be anything that lies in a row."""
        grid = grid_of(self.cut, self.side.room.x + self.side.room.width, self.side.room.y + self.side.room.height)
        return grid.columns * grid.rows >= _ENOUGH


def in_one_manner(parts: list[Part]) -> list[Cut]:
    """The cuts of parts, with one spacing wherever it is hardly less likely: sheets are mostly laid out in one way."""

    def best(part: Part, spacing: tuple[int, int]) -> Cut:
        alike = [cut for cut in part.likely if _spacing(cut) == spacing and pitch_of(cut) == pitch_of(part.cut)]
        there = max(alike, key=lambda cut: part.likely[cut], default=part.cut)
        return there if part.likely[there] * _ODDS >= part.likely[part.cut] else part.cut

    def odds(spacing: tuple[int, int]) -> float:
        cuts = [best(part, spacing) for part in parts]
        return prod(
            part.likely[cut] / (1 if _spacing(cut) == spacing else _ODDS) for part, cut in zip(parts, cuts, strict=True)
        )

    usual = max(sorted({_spacing(cut) for part in parts for cut in part.likely}), key=odds)
    return [best(part, usual) for part in parts]


def pitch_of(cut: Cut) -> tuple[int, int]:
    """Pixels from one column and one row to the next."""
    return cut.pitch_x, cut.pitch_y


def _spacing(cut: Cut) -> tuple[int, int]:
    return cut.spacing_x, cut.spacing_y


def one_grid(one: Cut, other: Cut) -> bool:
    """Whether two cuts are pieces of one grid, or so near that art which does not fill its tiles may be the cause."""
    if (one.tile_width, one.tile_height, one.pitch_x, one.pitch_y) != (
        other.tile_width, other.tile_height, other.pitch_x, other.pitch_y,
    ):  # fmt: skip
        return False
    return begin_together(one, other)


def begin_together(one: Cut, other: Cut) -> bool:
    """Whether tiles of two cuts of one pitch begin in the same places, or hardly elsewhere."""
    first, second = tile_rect(one, 0, 0), tile_rect(other, 0, 0)
    across, down = (first.x - second.x) % one.pitch_x, (first.y - second.y) % one.pitch_y
    return min(across, one.pitch_x - across) <= NEAR and min(down, one.pitch_y - down) <= NEAR
