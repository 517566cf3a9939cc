"""What one can do with mixes and recipes, by name."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from knitground.app.commands import Command
from knitground.app.grow.trial import Trial
from knitground.app.session import Session
from knitground.app.stage import Late

if TYPE_CHECKING:
    from knitground.app.grow.panel import GrowPanel


def grow_commands(session: Session, trial: Trial, panel: "Late[GrowPanel]") -> list[Command]:
    """The commands of the stage; its panel is asked for when one is done."""

    def no_mix() -> str:
        return "" if session.mix is not None else "There is no mix yet; click tiles on the sheet to make one."

    def no_ground() -> str:
        return "" if session.ground is not None else "There is no ground yet; make one first."

    def no_living() -> str:
        layer = session.layer
        return "" if layer is not None and layer.kind == "mix" else "The layer at hand is no living mix; choose one."

    def no_steps() -> str:
        ground, recipes = session.choices.ground_id, session.document.project.recipes
        tried = trial.recipe is not None and bool(trial.recipe.steps)
        there = tried or any(one.ground == ground and one.steps for one in recipes)
        return "" if there else "This ground has no recipe with a step yet."

    def there(act: Callable[["GrowPanel"], object]) -> Callable[[], None]:
        return panel.there(session, "grow", act)

    return [
        Command("New mix…", there(lambda grow: grow.new_mix())),
        Command("Rename the mix…", lambda: panel().rename_mix(), refused=no_mix),
        Command("Remove the mix", lambda: panel().remove_mix(), refused=no_mix),
        Command("New recipe…", there(lambda grow: grow.recipe.make_new()), refused=no_ground),
        Command("Add a step to the recipe…", there(lambda grow: grow.recipe.offer_steps()), refused=no_ground),
        Command("Nine throws of the recipe", lambda: panel().recipe.throws(), ("Ctrl+Shift+R",), refused=no_steps),
        Command("Pairs of tiles", lambda: panel().recipe.show_pairs(), ("Ctrl+Alt+P",)),
        Command("Throw the step again", lambda: panel().recipe.throw_step(), ("Ctrl+Alt+R",), refused=no_steps),
        Command("How good is this ground?", lambda: panel().measure(), ("Ctrl+Shift+Q",), refused=no_ground),
        Command("Throw the living mix again", lambda: panel().throw_layer(), ("Ctrl+Alt+L",), refused=no_living),
        Command("Throw the mix again where it lies", lambda: panel().throw_laid(), ("Ctrl+Alt+T",), refused=no_mix),
        Command(
            "Throw the mix again, but hold what is selected", lambda: panel().throw_laid(hold=True), refused=no_mix
        ),
    ]
