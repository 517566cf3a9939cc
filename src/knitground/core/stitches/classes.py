"""How the cells of a view are told apart by the signs of charts."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from knitground.core.stitches.charts import Sign


@dataclass(frozen=True, eq=False)
class Classes:
    """How the cells of a view are told apart.

    Attributes
    ----------
    kinds : int
    named : tuple of int
        Of what is painted: the terrains that charts name. The kind of a cell has a bit for each that it bears, and
        one above them for all others.
    signs : (kinds, N + 1) bool
        Of tiles: which signs the tiles of a kind bear; kind 0 is no tile.
    by_number : (M,) uint16
        Of tiles: the kind of each palette number; the last is that of all further ones.
    """

    kinds: int
    named: tuple[int, ...] = ()
    signs: NDArray[np.bool_] | None = None
    by_number: NDArray[np.uint16] | None = None
    _allowed: dict[Sign, int] = field(default_factory=dict, repr=False)

    def allowed(self, sign: Sign) -> int:
        """The kinds that a sign allows, a bit for each; those off the map behind those on it."""
        if sign not in self._allowed:
            fits = sum(1 << kind for kind, fit in enumerate(self.fits(sign)) if fit)
            all_kinds = (1 << self.kinds) - 1
            bits = fits | ((all_kinds if sign.off else fits) << self.kinds)
            self._allowed[sign] = ~bits & ((1 << 2 * self.kinds) - 1) if sign.none_of else bits
        return self._allowed[sign]

    def fits(self, sign: Sign) -> NDArray[np.bool_]:
        """The kinds that a sign names, (kinds,) bool.

        Parameters
        ----------
        sign : Sign
        """
        kinds = np.arange(self.kinds)
        if self.signs is not None:
            known = [number for number in sign.named if number < self.signs.shape[1]]
            return np.asarray(self.signs[:, known].any(axis=1), dtype=np.bool_)
        if not self.named:
            return np.isin(kinds, list(sign.named))
        whole = [1 << self.named.index(number) for number in sign.numbers]
        some = sum(1 << self.named.index(number) for number in sign.some)
        return np.asarray(np.isin(kinds, whole) | (kinds & some != 0), dtype=np.bool_)
