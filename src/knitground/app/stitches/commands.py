"""What one can do with stitches, by name."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from knitground.app.commands import Command
from knitground.app.session import Session
from knitground.app.stage import Late

if TYPE_CHECKING:
    from knitground.app.stitches.panel import StitchesPanel


def stitches_commands(session: Session, panel: "Late[StitchesPanel]") -> list[Command]:
    """The commands of the stage; its panel is asked for when one is done."""

    def no_set() -> str:
        return "" if session.stitch_set else "Make a stitch set first, in the stage of stitches."

    def there(act: Callable[["StitchesPanel"], object]) -> Callable[[], None]:
        return panel.there(session, "stitches", act)

    return [
        Command("New stitch set…", there(lambda stitches: stitches.new_set())),
        Command("Add a stitch", there(lambda stitches: stitches.add()), refused=no_set),
        Command("Copy the stitch at hand", there(lambda stitches: stitches.copy()), refused=no_set),
        Command("Stitches from the selected example…", there(lambda one: one.from_example()), refused=no_set),
        Command("Remove this stitch set", lambda: panel().remove_set(), refused=no_set),
        Command("Paint with this stitch set", lambda: panel().paint_with(), refused=no_set),
    ]
