"""Hypotheses of how a sheet is cut, along one axis and along both, and how usual their numbers are."""

from typing import NamedTuple

USUAL = {16: 1.3, 32: 1.3, 24: 1.15, 48: 1.15, 64: 1.2, 8: 1.08, 128: 1.1, 40: 1.08, 12: 1.06, 20: 1.06}
"""How much more usual some sizes of tiles are than others."""


class Axis(NamedTuple):
    """A hypothesis along one axis; the score is in standard errors."""

    tile: int
    margin: int
    spacing: int
    score: float

    @property
    def pitch(self) -> int:
        """Pixels from one tile to the next."""
        return self.tile + self.spacing

    def left_over(self, length: int) -> int:
        """Pixels behind the last whole tile, on a picture so many pixels long."""
        return (length - self.margin + self.spacing) % self.pitch

    def fits(self, length: int) -> bool:
        """Whether whole tiles reach to the far edge, or to a margin there as wide as the near one."""
        return self.left_over(length) in (0, self.margin)

    def repeats(self, length: int) -> int:
        """How many tiles there are."""
        return (length - self.margin + self.spacing) // self.pitch


Pair = tuple[float, Axis, Axis]
"""Both axes, with the score of the two together."""


def prior(tile: int, margin: int, spacing: int, length: int) -> float:
    """How much more usual some numbers are than others: round sizes, exact fits, a margin like the spacing."""
    left_over = Axis(tile, margin, spacing, 0.0).left_over(length)
    likely = USUAL.get(tile, 1.04 if tile % 8 == 0 else 1.0)
    likely *= 1.2 if left_over == margin else 1.15 if left_over == 0 else 0.85 if left_over > tile // 3 else 1.0
    likely *= 1.1 if margin == 0 else 1.06 if margin == spacing else 1.0
    likely *= 1.02 if spacing == 0 else 1.0 if spacing <= 2 else 0.97 if spacing <= 4 else 0.88
    return likely
