"""The recipe's step: which terrain its noise lays where, tried on the ground before it is kept."""

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QSlider, QWidget

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
    in_row,
    number,
    quiet,
    set_quietly,
)
from knitground.core.grow.recipe import NoiseStep, Recipe
from knitground.core.layers.layer import Layer
from knitground.core.project.model import fresh_id

_SLIDERS = (
    ("Patches", "scale", 2, 64, 1.0, "{:.0f} cells across"),
    ("Share", "amount", 0, 100, 0.01, "{:.0%}"),
    ("Detail", "octaves", 1, 6, 1.0, "{:.0f} of 6"),
)


class RecipeCard(QWidget):
    """Edits the chosen ground's recipe and tries it."""

    def __init__(self, session: Session, trial: Trial) -> None:
        super().__init__()
        self._session, self._trial = session, trial
        self._draft: Recipe | None = None
        self._layers, self._terrain, self._over = ChoiceBox("Layer"), ChoiceBox("Lay"), ChoiceBox("Over")
        for box in (self._layers, self._terrain, self._over):
            box.activated.connect(self._edited)
        self._sliders: dict[str, QSlider] = {}
        self._values: dict[str, QLabel] = {}
        self._seed = number(0, 2**31 - 1, lambda value: self._edited(), "seed")
        self._try = button("Try it", self.try_it, "Show it on the ground", name="primary")
        self._again = button("Throw again", self.throw_again, "Another seed (R)", icon_name="throw")
        self._keep = button("Keep", trial.keep, "Accept what is shown (Return on the ground)", name="primary")
        self._drop = button("Drop", trial.drop, "Take back what is shown (Escape)")
        self._hint = quiet()
        self._confined = Tick("Only in what is selected", "Grow in the selected cells, not on all of the ground")
        self._confined.clicked.connect(self._confine)
        self.setLayout(
            column(
                heading("Recipe: noise lays terrain"),
                self._form(),
                in_row(self._try, self._again, self._keep, self._drop, self._confined, None),
                self._hint,
            )
        )
        for signal in (session.defined, session.opened, trial.changed):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, "ground_id", "layer_id", "selected", "confined")
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Shows the recipe as it is, or as it is tried."""
        ground = self._session.ground
        layers = [layer for layer in (ground.layers if ground else ()) if not layer.holds_tiles]
        recipe = self._trial.recipe or self._known()
        self._draft = recipe
        enabled = bool(layers) and recipe is not None
        for widget in (
            self._layers,
            self._terrain,
            self._over,
            self._seed,
            self._try,
            self._again,
            *self._sliders.values(),
        ):
            widget.setEnabled(enabled)
        self._try.setVisible(not self._trial.running)
        for widget in (self._again, self._keep, self._drop):
            widget.setVisible(self._trial.running)
        self._confined.setVisible(self._session.selected is not None)
        self._confined.setChecked(self._session.choices.confined)
        self._hint.setText(
            "Shown on the ground, not kept yet." if self._trial.running
            else "It wraps: the right edge goes on at the left." if enabled
            else "Noise lays terrain: add a terrain or stitched layer to the ground first."
        )  # fmt: skip
        if enabled:
            self._show(known(recipe), layers)

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

    def _confine(self, confined: bool) -> None:
        """Grows in what is selected, or on all of the ground."""
        self._session.choose(confined=confined)
        if self._trial.running:
            self.try_it()

    def _form(self) -> QWidget:
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(6)
        choices = (("On", self._layers), ("Lay", self._terrain), ("Over", self._over))
        for line, (title, box) in enumerate(choices):
            grid.addWidget(QLabel(title), line, 0)
            grid.addWidget(box, line, 1)
        for line, (title, name, low, high, _, _) in enumerate(_SLIDERS):
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(low, high)
            slider.setAccessibleName(title)
            slider.valueChanged.connect(self._edited)
            self._sliders[name], self._values[name] = slider, quiet()
            self._values[name].setFixedWidth(100)
            grid.addWidget(QLabel(title), line, 2)
            grid.addWidget(slider, line, 3)
            grid.addWidget(self._values[name], line, 4)
        grid.addWidget(QLabel("Seed"), 3, 0)
        grid.addWidget(self._seed, 3, 1)
        grid.setColumnStretch(3, 1)
        grid.setColumnMinimumWidth(1, 120)
        widget = QWidget()
        widget.setLayout(grid)
        return widget

    def _known(self) -> Recipe | None:
        """The recipe of the ground, or a new one for its first derived layer."""
        ground, project = self._session.ground, self._session.document.project
        if ground is None:
            return None
        names = [layer.id for layer in ground.layers if not layer.holds_tiles]
        for recipe in project.recipes:
            if recipe.ground == ground.id and recipe.steps and recipe.steps[0].layer in names:
                return recipe
        if not names:
            return None
        layer = self._session.choices.layer_id if self._session.choices.layer_id in names else names[0]
        count = len(self._session.terrains_of(ground.layer(layer)))
        return Recipe(
            fresh_id("weathering", project.recipes),
            "Weathering",
            ground.id,
            1,
            (NoiseStep(layer, min(2, max(1, count))),),
        )

    def _show(self, recipe: Recipe, layers: list[Layer]) -> None:
        step = recipe.steps[0]
        fill_box(self._layers, [(layer.name, layer.id) for layer in layers], step.layer)
        terrains = self._session.terrains_of(known(self._session.ground).layer(step.layer))
        names = [(terrain.name, str(number)) for number, terrain in enumerate(terrains, start=1)]
        fill_box(self._terrain, names, str(step.terrain))
        fill_box(
            self._over, [("everything", ""), ("nothing laid", "0"), *names], "" if step.over is None else str(step.over)
        )
        set_quietly(self._seed, recipe.seed)
        for _, name, _, _, unit, text in _SLIDERS:
            value = getattr(step, name)
            slider = self._sliders[name]
            slider.blockSignals(True)
            slider.setValue(round(value / unit))
            slider.blockSignals(False)
            self._values[name].setText(text.format(value))

    def _edited(self, *_: object) -> None:
        """Takes over what the controls say, and shows it on the ground at once."""
        if self._draft is None:
            return
        old = self._draft.steps[0]
        over = self._over.currentData()
        step = replace(
            old,
            layer=self._layers.currentData() or old.layer,
            terrain=int(self._terrain.currentData() or 1),
            over=int(over) if over else None,
            scale=float(self._sliders["scale"].value()),
            amount=self._sliders["amount"].value() / 100,
            octaves=self._sliders["octaves"].value(),
        )
        if step.layer != old.layer:
            step = replace(step, terrain=1, over=None)
        seed = self._seed.value()
        if seed == self._seed.maximum() < self._draft.seed:
            seed = self._draft.seed  # larger than the box can show, and not changed
        draft = replace(self._draft, seed=seed, steps=(step, *self._draft.steps[1:]))
        self._session.attempt(lambda: self._trial.show(draft))
