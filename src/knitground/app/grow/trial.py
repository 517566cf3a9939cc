"""Trying a recipe: what it lays shows on the ground, and is kept or dropped."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.chance import seed_for
from knitground.core.edits.growing import After, go_to_step, grow, steps_after
from knitground.core.errors import BadRecipe
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.warm import is_warm, warm_up
from knitground.core.project.derived import Derived

_AT_ONCE = 300 * 300


class Trial(QObject):
    """A recipe that is laid but not yet accepted: an open gesture of the document."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.recipe: Recipe | None = None
        self.after: list[After] = []
        """What lay on the ground after each step of what is shown."""
        self.below: Derived | None = None
        """The ground as it was before anything was tried."""
        self.until: int | None = None
        """The step up to which it is shown; none for all."""
        self._job: Job | None = None
        session.opened.connect(self._forget)
        session.changed.connect(lambda change: self._look())
        self._gesture: int | None = None
        self._laying = False

    def commands(self) -> list[Command]:
        """What one can do with what is tried."""
        return [
            Command("Keep what is tried", self.keep, ("Ctrl+Return",), refused=self._too_early),
            Command("Drop what is tried", self.drop, ("Ctrl+Backspace",), refused=self._nothing),
        ]

    def _nothing(self) -> str:
        return "" if self.running else "Nothing is being tried; a recipe is, in the stage where things grow."

    def _too_early(self) -> str:
        return "It still grows; wait for it, or drop it." if self.growing else self._nothing()

    @property
    def running(self) -> bool:
        """Whether something is shown that is not accepted yet."""
        return self.recipe is not None

    @property
    def growing(self) -> bool:
        """Whether it is still being laid, beside the interface."""
        return self._job is not None

    def show(self, recipe: Recipe, until: int | None = None) -> None:
        """Lays a recipe, or its steps up to one, for a look; what was shown before is taken back first."""
        self._take_back()
        try:
            self._begin(recipe, until)
        finally:
            self.changed.emit()

    def _begin(self, recipe: Recipe, until: int | None) -> None:
        """Lays a recipe on the ground as it is; a large one beside the interface."""
        derived = self._session.derived.at_this_moment()
        planes = derived.document.state.planes.get(recipe.ground, {})
        steps = [step for step in recipe.steps if step.on]
        if any(step.layer not in planes for step in steps):
            raise BadRecipe("The recipe's layer is not on this ground; choose another layer for its step.")
        selected, chosen = self._session.selected, self._session.choices
        within = None if selected is None or not chosen.confined or selected.ground != recipe.ground else selected.shape

        cold = any(step.compiled for step in steps) and not is_warm()

        def work(progress: Callable[[float], None]) -> list[After]:
            if cold:
                warm_up()
            return steps_after(derived, recipe, within, progress=progress)

        cells = sum(plane.size for step in steps for plane in planes[step.layer].values())
        small = cells <= _AT_ONCE and not cold
        after = work(lambda share: None) if small else []
        self.recipe, self.below, self.until = recipe, derived, until
        if small:
            self._lay(recipe, after)
        else:
            self._job = self._session.run(
                Job("Getting ready to fill, once" if cold else "Growing", work), lambda after: self._lay(recipe, after)
            )
            self._job.failed.connect(lambda sentence: self._forget())

    def look_at(self, until: int | None) -> None:
        """Shows the ground as it is after a step of what is tried; none for the last."""
        if self.recipe is not None and self.below is not None and self._job is None and until != self.until:
            self.until = until
            self._laying = True
            try:
                go_to_step(self._session.document, self.recipe.ground, self.below.document.state, self.after, until)
            finally:
                self._laying = False
            self.changed.emit()

    def keep(self) -> None:
        """Accepts the whole recipe as one step of the history."""
        if self.recipe is not None and self._job is None:
            self.look_at(None)
            self._forget_only()
            self._session.document.commit()
            self.changed.emit()

    def drop(self) -> None:
        """Takes back what is shown."""
        if self.recipe is not None or self._job is not None:
            self._take_back()
            self.changed.emit()

    def _take_back(self) -> None:
        if self._job is not None:
            self._job.cancel()
        elif self.recipe is not None:
            self._laying = True
            self._session.document.roll_back()
            self._laying = False
        self._forget_only()

    def throw_again(self) -> None:
        """Shows the recipe with another seed, the next of a fixed row of seeds."""
        if self.recipe is not None:
            self.show(replace(self.recipe, seed=seed_for(self.recipe.seed, "throw again") % 1_000_000), self.until)

    def _lay(self, recipe: Recipe, after: list[After]) -> None:
        self._job = None
        if self.recipe is not recipe:
            return
        self.after = after
        shown = [one for one in after if self.until is None or one.step <= self.until]
        document = self._session.document
        self._laying = True
        self._gesture = document.begin(f"grow {recipe.name}")
        try:
            grow(self._session.derived, recipe, shown[-1] if shown else After(-1, {}))
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
            self._forget_only()
            self.changed.emit()

    def _forget_only(self) -> None:
        self.recipe = self._job = self.below = self.until = None
        self.after = []
