"""The small pictures of the ground after each step of a recipe, drawn beside the interface."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from knitground.app.grow.trial import Trial
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.session import Session
from knitground.core.edits.foreshown import Pixels, pictures_after, told_after
from knitground.core.edits.growing import steps_after
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.ground import Ground
from knitground.core.grow.recipe import Recipe

_PICTURE = 96
_SOON_MS = 250
_MOST_PICTURED = 400
"""How many cells are shown of a ground that is larger than a square of so many, across and down."""


class StepPictures(QObject):
    """Draws them a moment after the last change, while the card that shows them is seen."""

    drawn = Signal(object, str)
    """Pictures by the numbers of steps, and what is said where there are none."""
    told = Signal(object)
    """What is to be said of steps, by their numbers."""

    def __init__(self, session: Session, trial: Trial, card: QWidget, recipe: Callable[[], Recipe | None]) -> None:
        super().__init__(card)
        self._session, self._trial, self._card, self._recipe = session, trial, card, recipe
        self._drawn_of: object = None
        self._job: Job | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_SOON_MS)
        self._timer.timeout.connect(self._draw)

    def soon(self) -> None:
        """Draws them anew in a moment, if something changed."""
        self._timer.start()

    def _draw(self) -> None:
        recipe = self._recipe()
        if recipe is None or not self._card.isVisible() or recipe.ground != getattr(self._session.ground, "id", None):
            return
        ground = known(self._session.ground)
        large = ground.width * ground.height > _MOST_PICTURED**2
        if large and not self._trial.after:
            self._drawn_of = None
            self.drawn.emit({}, "seen once it is tried")
            return
        below = self._trial.below or self._session.derived.at_this_moment()
        about = recipe, below.document.state.planes.get(recipe.ground), below.document.project
        if about == self._drawn_of:
            return
        self._drawn_of = about
        if self._job is not None:
            self._job.cancel()
        after, part = list(self._trial.after), self._part(ground) if large else None

        def work(progress: Callable[[float], None]) -> tuple[dict[int, Pixels], dict[int, str]]:
            found = after or steps_after(below, recipe, progress=lambda share: progress(share / 2))
            pictures = pictures_after(below, recipe, found, _PICTURE, lambda share: progress(0.5 + share / 2), part)
            drawn = {one.step: picture for one, picture in zip(found, pictures[1:], strict=True)}
            return drawn, told_after(below, recipe, found)

        self._job = Job("Drawing the steps", work, stands_back=True)
        self._job.succeeded.connect(self._hand_on)
        self._job.start()

    def _part(self, ground: Ground) -> PixelRect:
        """What is looked at of a large ground, and round it."""
        width, height = ground.projection.size
        wide = min(width, _MOST_PICTURED * ground.tile_width)
        high = min(height, _MOST_PICTURED * ground.tile_height)
        x, y = self._session.looked_at
        return PixelRect(
            min(max(round(x) - wide // 2, 0), width - wide),
            min(max(round(y) - high // 2, 0), height - high),
            wide,
            high,
        )

    def _hand_on(self, found: tuple[dict[int, Pixels], dict[int, str]]) -> None:
        self.drawn.emit(found[0], "")
        self.told.emit(found[1])
