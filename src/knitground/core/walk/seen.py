"""What walking asks of a project."""

from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.knitted import Knitted
from knitground.core.tiles.tile import TileRef


class Seen(Protocol):
    """A project with all that follows from it, as `knitground.core.project.derived.Derived` is."""

    @property
    def document(self) -> Any:
        """The project's definitions (`project`), and its palette of tiles (`palette`)."""

    def knitted(self, ground_id: str) -> Knitted:
        """The tiles of a ground."""

    def tile(self, ref: TileRef) -> NDArray[np.uint8] | None:
        """Pixels of one tile, (height, width, 4) uint8 with straight alpha; none where its sheet lacks it.

        Parameters
        ----------
        ref : TileRef

        Returns
        -------
        pixels : (height, width, 4) uint8, or None
        """

    def tile_name(self, code: int) -> str:
        """What a cell code is called in sentences."""
