"""A mix as a bar: its tiles, blocks and other mixes."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QKeyEvent

from knitground.app.allowed import NO_SHEET
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.weight_bar import BarPart, WeightBar
from knitground.app.widgets import image_of
from knitground.core.edits.keeping import swatch_picture
from knitground.core.grow.mix import MixPart, leaves
from knitground.core.tiles.tile import MIRRORED, orient, turned_further

_TURNS = {Qt.Key.Key_T: 1, Qt.Key.Key_M: MIRRORED}
_MOST_SHOWN = 4


class MixBar(WeightBar):
    """Shows the mix that is chosen in the session."""

    label = "weigh mix"

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Mix", tip="; T turns, M mirrors")
        self._blocks: dict[str, tuple[object, QImage | None]] = {}

    def parts(self) -> Sequence[BarPart]:
        mix = self._session.mix
        return [BarPart(self._pictures(part), self._says(part), part.weight) for part in mix.parts] if mix else ()

    def empty_says(self) -> str:
        return "Click tiles on the sheet to put them in" if self._session.document.project.sheets else NO_SHEET

    def put(self, weights: Mapping[int, float]) -> None:
        parts = tuple(
            replace(part, weight=weights[index]) if index in weights else part
            for index, part in enumerate(known(self._session.mix).parts)
        )
        self._session.put_mix(replace(known(self._session.mix), parts=parts), self.label)

    def remove_parts(self) -> None:
        """Takes the chosen parts out of the mix."""
        mix = self._session.mix
        if mix is not None:
            kept = tuple(part for index, part in enumerate(mix.parts) if index not in self.chosen)
            if kept != mix.parts:
                self._session.put_mix(replace(mix, parts=kept), "take out of mix")
                self.choose(max(0, min(self.chosen) - 1))

    def even(self) -> None:
        """Gives the chosen parts, or all where one is chosen, what they weigh together in equal shares."""
        mix = self._session.mix
        if mix is not None and mix.parts:
            chosen = self.chosen if len(self.chosen) > 1 else set(range(len(mix.parts)))
            mine = [part.weight for index, part in enumerate(mix.parts) if index in chosen]
            self.put(dict.fromkeys(chosen, round(sum(mine) / len(mine), 3)))
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _TURNS and self._session.mix and not event.modifiers():
            self._turn(_TURNS[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Delete and self._session.mix:
            self.remove_parts()
        else:
            super().keyPressEvent(event)

    def _turn(self, by: int) -> None:
        """Turns or mirrors the chosen tiles; one that is not square is turned by half."""
        mix = known(self._session.mix)
        parts = list(mix.parts)
        for index in sorted(self.chosen):
            tile = parts[index].tile if index < len(parts) else None
            pixels = self._session.derived.tile(tile) if tile is not None else None
            if pixels is not None:
                step = 2 if by == 1 and pixels.shape[0] != pixels.shape[1] else by
                parts[index] = replace(parts[index], orientation=turned_further(parts[index].orientation, step))
        self._session.put_mix(replace(mix, parts=tuple(parts)), "turn in mix")
        self.update()

    def _pictures(self, part: MixPart) -> list[QImage]:
        """What a part looks like: its tile or block, or the first of the mix that it is."""
        project = self._session.document.project
        inner = next((one for one in project.mixes if one.id == part.mix), None) if part.mix else None
        found: list[MixPart] = [part]
        if inner is not None:
            found = [one for one, _ in leaves(inner, project.mixes)][:_MOST_SHOWN]
        images = [self._block(one.swatch) if one.swatch else self._tile(one) for one in found]
        return [image for image in images if image is not None]

    def _tile(self, part: MixPart) -> QImage | None:
        pixels = self._session.derived.tile(part.tile) if part.tile is not None else None
        return None if pixels is None else image_of(orient(np.array(pixels), part.orientation))

    def _block(self, swatch_id: str) -> QImage | None:
        """The picture of a swatch, drawn once for as long as all that it shows stays the same."""
        project = self._session.document.project
        swatch = next((one for one in project.swatches if one.id == swatch_id), None)
        about = swatch, project.sheets
        if swatch is None:
            return None
        if swatch_id not in self._blocks or self._blocks[swatch_id][0] != about:
            pixels = swatch_picture(self._session.derived, swatch)
            drawn = None if pixels is None else image_of(pixels, premultiplied=True)
            self._blocks[swatch_id] = about, drawn
        return self._blocks[swatch_id][1]

    def _says(self, part: MixPart) -> str:
        project = self._session.document.project
        if part.bare:
            return "bare"
        names = {one.id: one.name for one in (project.mixes if part.mix else project.swatches)}
        return names.get(part.mix or part.swatch, "gone")
