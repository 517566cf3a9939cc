"""What one can do with joins, by name."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from knitground.app.commands import Command
from knitground.app.session import Session

if TYPE_CHECKING:
    from knitground.app.joins.panel import JoinsPanel


def joins_commands(session: Session, panel: Callable[[], "JoinsPanel"]) -> list[Command]:
    """The commands of the stage; its panel is asked for when one is done."""

    def no_set() -> str:
        return "" if session.join_set else "Make a join set first, in the stage of joins."

    return [
        Command("Read labels off the pixels", lambda: panel().read_labels(), refused=no_set),
        Command("Find sets on this cut", lambda: panel().find_sets()),
        Command("Make missing tiles…", lambda: panel().make_missing(), refused=no_set),
        Command("Paint with this join set", lambda: panel().paint_with(), refused=no_set),
    ]
