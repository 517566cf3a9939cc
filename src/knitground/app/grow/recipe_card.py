"""A recipe: its steps as a row of pictures, the chosen one as a form, tried on the ground before it is kept."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QInputDialog, QScrollArea, QSizePolicy, QWidget

from knitground.app.allowed import NO_GROUND, NO_STEPS, a_menu, allow
from knitground.app.asking import show_once
from knitground.app.grow.alive import Alive
from knitground.app.grow.pairs_dialog import PairsDialog
from knitground.app.grow.step_form import StepForm
from knitground.app.grow.step_pictures import StepPictures
from knitground.app.grow.step_strip import HEIGHT, StepStrip
from knitground.app.grow.throws import Throws
from knitground.app.grow.trial import Trial
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.widgets import (
    ChoiceBox,
    Tick,
    button,
    column,
    fill_box,
    heading,
    icon_button,
    in_row,
    in_widget,
    number,
    quiet,
    row,
    set_quietly,
)
from knitground.core.chance import seed_for
from knitground.core.edits.growing import remove_recipe
from knitground.core.edits.recipes import copied, first_step, moved, new_recipe, on_ground, switched
from knitground.core.grow.recipe import MOST_STEPS, Recipe
from knitground.core.grow.steps import KINDS
from knitground.core.grow.steps.step import Step
from knitground.core.project.model import fresh_id

_FORM, _FORM_MOST = 60, 152


class _FormArea(QScrollArea):
    """Takes the height that the form asks for before the sheet gets more than a strip; scrolls on a low screen."""

    def __init__(self, form: QWidget) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumHeight(_FORM)
        self.setWidget(form)

    def sizeHint(self) -> QSize:
        form = self.widget()
        wanted = form.minimumSizeHint().height() if form is not None else 0
        return QSize(super().sizeHint().width(), min(max(_FORM, wanted), _FORM_MOST))


class RecipeCard(QWidget):
    """Edits the recipes of the chosen ground and tries them."""

    def __init__(self, session: Session, trial: Trial) -> None:
        super().__init__()
        self._session, self._trial = session, trial
        self._draft: Recipe | None = None
        self._recipe_id: str | None = None
        self._chosen = 0
        self._recipes = ChoiceBox("Recipe")
        self._recipes.activated.connect(lambda index: self._choose(self._recipes.itemData(index)))
        self._new = icon_button("plus", self.make_new, "New recipe: another list of steps for this ground")
        self._gone = icon_button("close", self._remove, "Remove this recipe; what it laid stays")
        self.strip = StepStrip()
        self.strip.chosen.connect(self._show_step)
        self.strip.moved.connect(lambda step, to: self._change(lambda one: moved(one, step, to), to))
        self.strip.switched.connect(lambda step: self._change(lambda one: switched(one, step)))
        self.strip.removed.connect(lambda step: self._change(lambda one: _without(one, step), max(0, step - 1)))
        self.pictures = StepPictures(session, trial, self, lambda: self._draft)
        self.pictures.drawn.connect(self.strip.show_pictures)
        self._told: dict[int, str] = {}
        self.pictures.told.connect(self._tell)
        self.form = StepForm(session, self._edited)
        self.form.pairs_wanted.connect(self.show_pairs)
        self._add = button("Add a step", self.offer_steps, "Another step, behind the chosen one", icon_name="plus")
        self._copy = button("Copy it", self._copy_step, "The chosen step once more, behind it")
        self._on = Tick("The step runs", "Whether the chosen step runs (Space on its picture)")
        self._on.clicked.connect(lambda: self._change(lambda one: switched(one, self.strip.step)))
        self.alive = Alive(session, trial, lambda: self._draft, self._change)
        self._once_more = button("Throw it again", self.throw_step, "Another throw of the chosen step alone")
        self._seed = number(0, 2**31 - 1, lambda value: self._reseed(), "seed")
        self._try = button("Try it", self.try_it, "Show it on the ground", name="primary")
        self._again = button("Throw again", self.throw_again, "Another seed for all steps (R)", icon_name="throw")
        self._nine = button("Nine throws", self.throws, "Nine throws side by side, to choose one")
        self._keep = button("Keep", trial.keep, "Accept what is shown (Return on the ground)", name="primary")
        self._drop = button("Drop", trial.drop, "Take back what is shown (Escape)")
        self._hint = quiet()
        self._confined = Tick("Only in what is selected", "Grow in the selected cells, not on all of the ground")
        self._confined.clicked.connect(self._confine)
        self._put_together()
        for signal in (session.defined, session.opened, trial.changed):
            signal.connect(self.refresh)
        session.changed.connect(self._look)
        session.on_choice(self.refresh, "ground_id", "layer_id", "selected", "confined")
        self.refresh()

    def _put_together(self) -> None:
        self._pictures = pictures = QScrollArea()
        pictures.setWidget(self.strip)
        pictures.setWidgetResizable(True)
        pictures.setFixedHeight(HEIGHT + 14)
        pictures.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        steps = row(pictures, in_widget(column(self._add, self._copy, self._once_more, spacing=4)), spacing=8)
        steps.setStretch(0, 1)
        self._seed.setFixedWidth(96)
        self._area = _FormArea(self.form)
        self.setLayout(
            column(
                in_row(heading("Recipe"), self._recipes, self._new, self._gone, None, self.alive.tick, self._on),
                in_widget(steps),
                self._area,
                in_row(
                    self._try,
                    self._again,
                    self._nine,
                    self._keep,
                    self._drop,
                    self._seed,
                    self._confined,
                    None,
                    self.alive.again,
                ),
                self._hint,
                spacing=6,
            )
        )

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.pictures.soon()

    def _tell(self, told: dict[int, str]) -> None:
        """Takes what is to be said of steps."""
        self._told = told
        self._hint.setText(self._says())

    def _look(self, *_: object) -> None:
        """What was done by hand on a ground that is alive shows in the card, too."""
        if self._draft is not None and self._draft.alive and self.isVisible():
            self.alive.refresh()
            self._hint.setText(self._says())
            self.pictures.soon()

    def refresh(self, *_: object) -> None:
        """Shows the recipe as it is, or as it is tried."""
        ground, tried = self._session.ground, self._trial.recipe
        if tried is not None and ground is not None and tried.ground != ground.id:
            # Who looks at another ground is done trying; this comes round once more.
            self._trial.drop()
            return
        mine = [one for one in self._session.document.project.recipes if ground and one.ground == ground.id]
        self._draft = recipe = self._trial.recipe or self._known(mine)
        running = self._trial.running
        entries = [(one.name, one.id) for one in mine]
        if recipe is not None and recipe.id not in [one.id for one in mine]:
            entries.append((recipe.name, recipe.id))
        grounds = {one.id: one.name for one in self._session.document.project.grounds}
        others = [one for one in self._session.document.project.recipes if one not in mine and ground is not None]
        entries += [(f"{one.name}, as on “{grounds[one.ground]}”", one.id) for one in others]
        fill_box(self._recipes, entries, recipe.id if recipe else "")
        steps = recipe.steps if recipe else ()
        at = min(self._chosen, max(0, len(steps) - 1))
        of_steps: tuple[QWidget, ...] = (
            self._seed, self._again, self._nine, self._try, self._copy, self._on, self._once_more,
        )  # fmt: skip
        for widget in of_steps:
            allow(widget, "" if steps else NO_STEPS)
        own = recipe is not None and recipe.id in [one.id for one in mine]
        allow(self._gone, "" if own else "It belongs to another ground." if recipe else "There is no recipe yet.")
        full = "" if len(steps) < MOST_STEPS else f"A recipe has at most {MOST_STEPS} steps."
        allow(self._add, full if ground is not None else NO_GROUND)
        allow(self._new, "" if ground is not None else NO_GROUND)
        both = self._try, self._again, self._keep, self._drop
        at_keys = any(one.hasFocus() for one in both)
        self._try.setVisible(not running)
        for widget in (self._again, self._keep, self._drop):
            widget.setVisible(running)
        if at_keys and not any(one.hasFocus() for one in both):
            (self._again if running else self._try).setFocus()
        allow(self._keep, "It still grows; wait for it, or drop it." if self._trial.growing else "")
        self.alive.refresh()
        self._confined.setVisible(self._session.selected is not None)
        self._confined.setChecked(self._session.choices.confined)
        self._hint.setText(self._says())
        self.strip.show_recipe(recipe, at)
        place = self.strip.place_of(at)
        self._pictures.ensureVisible(round(place.center().x()), 0, round(place.width()), 0)
        step = steps[at] if steps else None
        self.form.show_step(step)
        self._area.updateGeometry()
        self._on.setChecked(step is not None and step.on)
        if recipe is not None:
            set_quietly(self._seed, min(recipe.seed, 2**31 - 1))
        self.pictures.soon()

    def _says(self) -> str:
        told = self._told.get(self._chosen, "")
        if self._trial.growing:
            return "It grows beside the window and shows when it is done; “Drop” stops it."
        if self._trial.running:
            at = self._trial.until
            shown = "Shown on the ground" if at is None else f"The ground as of step {at + 1} is shown"
            return f"{shown}, not kept yet. {told}".rstrip()
        if self._session.ground is None:
            return f"A recipe grows a ground by steps. {NO_GROUND}"
        if self._draft is None:
            return "Noise lays terrain: add a terrain or stitched layer to the ground first, or add a step for tiles."
        if not self._draft.steps:
            return "Add a first step."
        step = self._draft.steps[min(self._chosen, len(self._draft.steps) - 1)]
        if told:
            return told
        if self.alive.by_hand:
            count = self.alive.by_hand
            return f"Done by hand at {count} place{'s' * (count > 1)}: that stays, whatever grows."
        return (
            "A larger ground would hold this one in its corner."
            if step.local
            else ("On a larger ground this step comes out otherwise.")
        )

    def try_it(self) -> None:
        """Lays the recipe for a look."""
        if self._draft is not None:
            self._session.attempt(lambda: self._trial.show(known(self._draft)))

    def throw_again(self) -> None:
        """Lays it with another seed; tries it first where nothing is shown."""
        if self._trial.running:
            self._session.attempt(self._trial.throw_again)
        else:
            self.try_it()

    def throws(self) -> None:
        """Shows nine throws side by side; the one that is clicked is tried."""
        if self._draft is None or not self._draft.steps:
            return
        below = self._trial.below or self._session.derived.at_this_moment()
        draft = self._draft

        def take(seed: int) -> None:
            self._session.attempt(lambda: self._trial.show(replace(draft, seed=seed)))

        show_once(Throws(self._session, below, draft, take, self))

    def show_pairs(self) -> None:
        """Opens the pairs of tiles, those of the chosen step first."""
        step = self._draft.steps[self.strip.step] if self._draft is not None and self._draft.steps else None
        show_once(PairsDialog(self._session, self, (step.set_id or "") if step is not None else ""))

    def _known(self, mine: list[Recipe]) -> Recipe | None:
        """The recipe that is chosen, or the ground's first; a new one where it has none that can run."""
        chosen = next((one for one in mine if one.id == self._recipe_id), None)
        if chosen is not None or self._session.ground is None:
            return chosen
        return (
            mine[0]
            if mine
            else new_recipe(self._session.document.project, self._session.ground, self._session.choices.layer_id)
        )

    def _choose(self, recipe_id: str) -> None:
        self._trial.drop()
        project, ground = self._session.document.project, self._session.ground
        other = next(
            (one for one in project.recipes if one.id == recipe_id and ground and one.ground != ground.id), None
        )
        if other is None or ground is None:
            self._recipe_id, self._chosen = recipe_id, 0
            self.refresh()
            return
        copy = self._session.attempt(lambda: on_ground(project, other, ground))
        if copy is not None:
            self._recipe_id, self._chosen = copy.id, 0
            self._session.put_recipe(copy)
            self._session.say(f"“{copy.name}” is a recipe of “{ground.name}” now, too; try it.")
        self.refresh()

    def make_new(self) -> None:
        """Asks for the name of a new recipe for the ground at hand, and makes it."""
        name, sure = QInputDialog.getText(self, "New recipe", "Name", text="Recipe")
        ground = self._session.ground
        if sure and name.strip() and ground is not None:
            project, name = self._session.document.project, name.strip()[:80]
            made = new_recipe(project, ground, self._session.choices.layer_id, name)
            made = made or Recipe(fresh_id(name, project.recipes), name, ground.id)
            self._trial.drop()
            self._recipe_id, self._chosen = made.id, 0
            self._session.put_recipe(made)

    def _remove(self) -> None:
        if self._draft is not None:
            gone = self._draft.id
            self._trial.drop()
            remove_recipe(self._session.document, gone)

    def offer_steps(self) -> None:
        """Lists the kinds of steps."""
        menu = a_menu(self)
        for kind in KINDS:
            entry = menu.addAction(f"{kind.title}: {kind.says}")
            entry.triggered.connect(lambda _=False, kind=kind: self._add_step(kind))
        menu.popup(self._add.mapToGlobal(self._add.rect().bottomLeft()))

    def _add_step(self, kind: type[Step]) -> None:
        ground = self._session.ground
        if ground is None:
            return
        project, layer_id, selected = (
            self._session.document.project,
            self._session.choices.layer_id,
            self._session.selected,
        )
        at_hand = None if selected is None or selected.ground != ground.id else selected.shape.window
        step = self._session.attempt(lambda: first_step(kind, project, ground, layer_id, at_hand))
        if step is not None:
            kept = [one.id for one in self._session.document.project.recipes]
            if self._draft is not None and not self._trial.running and self._draft.id not in kept:
                # What is only proposed was not asked for: the first step that is begins the list.
                self._draft = replace(self._draft, name="Recipe", steps=())
            at = self.strip.step + 1 if self._draft is not None and self._draft.steps else 0
            base = self._draft or Recipe(
                fresh_id("recipe", self._session.document.project.recipes), "Recipe", ground.id
            )
            self._draft = base
            self._change(lambda one: replace(one, steps=(*one.steps[:at], step, *one.steps[at:])), at)

    def _copy_step(self) -> None:
        self._change(lambda one: copied(one, self.strip.step), self.strip.step + 1)

    def throw_step(self) -> None:
        """Another throw of the chosen step, all others as they are."""
        if self._draft is not None and self._draft.steps:
            step = self._draft.steps[self.strip.step]
            self._edited(replace(step, throw=seed_for(step.throw, "throw") % 1_000_000))

    def _reseed(self) -> None:
        self._change(lambda one: replace(one, seed=self._seed.value()))

    def _edited(self, step: Step) -> None:
        """Takes over the chosen step as the form has it, and shows it on the ground at once."""
        at = self.strip.step
        self._change(lambda one: replace(one, steps=(*one.steps[:at], step, *one.steps[at + 1 :])))

    def _change(self, change: Callable[[Recipe], Recipe], step: int | None = None) -> None:
        if self._draft is None:
            return
        draft = change(self._draft)
        self._recipe_id = draft.id
        # What comes in between has fewer steps, maybe, and must not choose another one.
        self._chosen = self.strip.step if step is None else step
        if not draft.steps:
            self._trial.drop()
            self._session.put_recipe(draft)
            return
        self._draft = draft
        self._session.attempt(lambda: self._trial.show(draft))
        if not self._trial.running:
            # It can't be laid as it is; what was asked for still stands in the form, to be mended.
            self._session.put_recipe(draft)

    def _show_step(self, step: int) -> None:
        """Chooses a step; while something is tried, the ground shows as of there."""
        self._chosen = step
        last = self._draft is None or step == len(self._draft.steps) - 1
        self._trial.look_at(None if last else step)
        self.refresh()

    def _confine(self, confined: bool) -> None:
        """Grows in what is selected, or on all of the ground."""
        self._session.choose(confined=confined)
        if self._trial.running:
            self.try_it()


def _without(recipe: Recipe, step: int) -> Recipe:
    return replace(recipe, steps=recipe.steps[:step] + recipe.steps[step + 1 :])
