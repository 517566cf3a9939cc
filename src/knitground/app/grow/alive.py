"""Keeping a recipe alive on its layers, and letting what was done by hand there grow again."""

from collections.abc import Callable
from dataclasses import replace

from knitground.app.allowed import NO_STEPS, allow
from knitground.app.grow.trial import Trial
from knitground.app.session import Session
from knitground.app.widgets import Tick, button
from knitground.core.edits.alive import changed_by_hand, forget_hands, let_go
from knitground.core.edits.growing import grow
from knitground.core.grow.recipe import Recipe


class Alive:
    """A tick and a button for the recipe that is shown."""

    def __init__(
        self,
        session: Session,
        trial: Trial,
        recipe: Callable[[], Recipe | None],
        change: Callable[[Callable[[Recipe], Recipe]], None],
    ) -> None:
        self._session, self._trial, self._recipe, self._change = session, trial, recipe, change
        self.by_hand = 0
        """How many places stay as they were done by hand."""
        self.tick = Tick(
            "Stays alive", "It grows anew on its layers whenever it changes; what you do there by hand stays on top"
        )
        self.tick.clicked.connect(self._keep)
        self.again = button(
            "Grow here again", self._forget, "Let what was done by hand grow again: in what is selected, or all"
        )

    def refresh(self) -> None:
        """Shows the recipe as it is."""
        recipe = self._recipe()
        allow(self.tick, "" if recipe is not None and recipe.steps else NO_STEPS)
        self.tick.setChecked(recipe is not None and recipe.alive)
        alive = recipe is not None and recipe.alive
        self.by_hand = changed_by_hand(self._session.document, recipe) if recipe is not None and alive else 0
        at_keys = self.again.hasFocus()
        self.again.setVisible(self.by_hand > 0 and not self._trial.running)
        if at_keys and self.again.isHidden():
            self.tick.setFocus()

    def _keep(self, wanted: bool) -> None:
        """Lets the recipe grow anew whenever it changes, or no more."""
        recipe, document = self._recipe(), self._session.document
        if recipe is None:
            return
        if not wanted and recipe.id in [one.id for one in document.project.recipes]:
            self._trial.drop()
            self._session.attempt(lambda: let_go(document, recipe))
        else:
            self._change(lambda one: replace(one, alive=wanted))
        self.refresh()

    def _forget(self) -> None:
        """Lets what was done by hand grow again, in what is selected or everywhere."""
        recipe, selected = self._recipe(), self._session.selected
        if recipe is None:
            return
        within = selected.shape if selected is not None and selected.ground == recipe.ground else None

        def act() -> None:
            with self._session.document.step("let it grow again"):
                forget_hands(self._session.document, recipe, within)
                grow(self._session.derived, recipe)

        self._session.attempt(act)
