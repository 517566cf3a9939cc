"""Trying a recipe: what it lays shows on the ground, and is kept or dropped."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.chance import seed_for
from knitground.core.edits.growing import Grown, grow, grown_planes
from knitground.core.errors import BadRecipe
from knitground.core.grow.recipe import Recipe

_AT_ONCE = 300 * 300


class Trial(QObject):
    """A recipe that is laid but not yet accepted: an open gesture of the document."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.recipe: Recipe | None = None
        self._job: Job | None = None
        session.opened.connect(self._forget)
        session.changed.connect(lambda change: self._look())
        self._gesture: int | None = None
        self._laying = False

    def commands(self) -> list[Command]:
        """What one can do with what is tried."""
        return [
            Command("Keep what is tried", self.keep, ("Ctrl+Return",), refused=self._nothing),
            Command("Drop what is tried", self.drop, ("Ctrl+Backspace",), refused=self._nothing),
        ]

    def _nothing(self) -> str:
        return "" if self.running else "Nothing is being tried; a recipe is, in the stage where things grow."

    @property
    def running(self) -> bool:
        """Whether something is shown that is not accepted yet."""
        return self.recipe is not None

    def show(self, recipe: Recipe) -> None:
        """Lays a recipe for a look; what was shown before is taken back first."""
        self.drop()
        state = self._session.document.state
        planes = state.planes.get(recipe.ground, {})
        if any(step.layer not in planes for step in recipe.steps):
            raise BadRecipe("The recipe's layer is not on this ground; choose another layer for its step.")
        self.recipe = recipe

        selected, chosen = self._session.selected, self._session.choices
        within = None if selected is None or not chosen.confined or selected.ground != recipe.ground else selected.shape

        def work(progress: Callable[[float], None]) -> Grown:
            return grown_planes(state, recipe, within, progress=progress)

        cells = sum(plane.size for step in recipe.steps for plane in planes[step.layer].values())
        if cells <= _AT_ONCE:
            self._lay(recipe, work(lambda share: None))
        else:
            self._job = self._session.run(Job("Growing", work), lambda laid: self._lay(recipe, laid))
        self.changed.emit()

    def keep(self) -> None:
        """Accepts what is shown as one step of the history."""
        if self.recipe is not None and self._job is None:
            self.recipe = None
            self._session.document.commit()
            self.changed.emit()

    def drop(self) -> None:
        """Takes back what is shown."""
        if self._job is not None:
            self._job.cancel()
        elif self.recipe is not None:
            self._laying = True
            self._session.document.roll_back()
            self._laying = False
        self._forget()

    def throw_again(self) -> None:
        """Shows the recipe with another seed, the next of a fixed row of seeds."""
        if self.recipe is not None:
            self.show(replace(self.recipe, seed=seed_for(self.recipe.seed, "throw again") % 1_000_000))

    def _lay(self, recipe: Recipe, grown: Grown) -> None:
        self._job = None
        if self.recipe is not recipe:
            return
        document = self._session.document
        self._laying = True
        self._gesture = document.begin(f"grow {recipe.name}")
        try:
            grow(document, recipe, grown)
        except BaseException:  # whatever stops it, no gesture may stay open; it goes on up
            document.roll_back()
            self._forget()
            raise
        finally:
            self._laying = False
        document.seal()
        self.changed.emit()

    def _look(self) -> None:
        """Another edit has accepted what was shown."""
        if not self._laying and self._job is None and self._session.document.gesture != self._gesture:
            self._forget()

    def _forget(self) -> None:
        if self.recipe is not None or self._job is not None:
            self.recipe = self._job = None
            self.changed.emit()
