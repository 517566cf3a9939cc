"""Where a sheet is looked at while sets are found on it and taken in hand."""

from collections.abc import Iterable

from knitground.app.canvas.pixel_view import Place
from knitground.app.canvas.sheet_view import SheetView
from knitground.core.joins.sets import JoinSet
from knitground.core.tiles.tile import TileRef

_MOST = 0.5


class Following:
    """Shows what was found and, after that, the set at hand; who looks elsewhere meanwhile is left alone."""

    def __init__(self, view: SheetView) -> None:
        self._view = view
        self._moved: tuple[Place, Place] | None = None
        self._shown = ""

    def look_at(self, refs: Iterable[TileRef]) -> None:
        """Brings what was found into view."""
        before = self._view.place
        self._view.show_tiles(refs)
        self._moved = before, self._view.place

    def return_to(self, join_set: JoinSet | None) -> None:
        """Looks where one looked before, if nobody moved meanwhile, or at a set that is newly at hand."""
        new = self._moved is not None or (join_set.id if join_set else "") != self._shown
        if self._moved is not None:
            before, shown = self._moved
            if self._view.is_at(shown):
                # Labels are painted where they were painted before.
                self._view.return_to(before)
            self._moved = None
        self._shown = join_set.id if join_set else ""
        if new and join_set is not None and self._view.sheet is not None:
            rects = self._view.rects_of(join_set.labels)
            seen = self._view.rects_of(rects, in_view=True)
            if len(seen) < _MOST * len(rects):
                self._view.show_tiles(rects)
