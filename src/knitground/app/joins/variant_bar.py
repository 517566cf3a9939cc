"""The variants of the tile at hand as a bar: how often each comes among those with the same labels."""

from collections.abc import Mapping, Sequence

from knitground.app.session import Session
from knitground.app.weight_bar import BarPart, WeightBar
from knitground.app.widgets import image_of
from knitground.core.edits.notes import notes_of, set_weights
from knitground.core.tiles.tile import TileRef

_BAND = 22


class VariantBar(WeightBar):
    """Shows the tiles that share their labels with the session's tile; choosing one takes it in hand."""

    label = "weigh variants"

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Variants", _BAND)
        self.part_chosen.connect(self._take)

    def variants(self) -> Sequence[TileRef]:
        """The tiles with the same labels as the one at hand; none where it is the only one."""
        join_set, tile = self._session.join_set, self._session.choices.tile
        labels = join_set.labels.get(tile) if join_set is not None and tile is not None else None
        found = [ref for ref, row in join_set.labels.items() if row == labels] if join_set and labels else []
        return found if len(found) > 1 else ()

    def parts(self) -> Sequence[BarPart]:
        derived = self._session.derived
        pictures = {ref: derived.tile(ref) for ref in self.variants()}
        return [
            BarPart([] if pixels is None else [image_of(pixels)], "gone", notes_of(self._session.document, ref).weight)
            for ref, pixels in pictures.items()
        ]

    def put(self, weights: Mapping[int, float]) -> None:
        variants = self.variants()
        chosen = {variants[index]: weight for index, weight in weights.items()}
        self._session.attempt(lambda: set_weights(self._session.document, chosen))

    def refresh(self) -> None:
        """Shows the variants as they are, the tile at hand chosen."""
        variants, tile = self.variants(), self._session.choices.tile
        self.setVisible(bool(variants))
        if tile is not None and tile in variants:
            place = list(variants).index(tile)
            if place not in self.chosen:
                self.chosen = {place}
            self.part = place
        self.update()

    def _take(self, part: int) -> None:
        variants = self.variants()
        if part < len(variants):
            self._session.choose(tile=variants[part])
