"""Keys for the first nine terrains, marks or shades of the layer at hand."""

from knitground.app.commands import Command
from knitground.app.session import Session
from knitground.app.terrain_list import MOST_NUMBERED


def terrain_commands(session: Session) -> list[Command]:
    """A command for each, by its number in the list."""
    return [_command(session, number) for number in range(1, MOST_NUMBERED + 1)]


def _command(session: Session, number: int) -> Command:
    def refused() -> str:
        there = number <= len(session.terrains_of(session.layer))
        return "" if there else f"The layer at hand has no terrain {number}; choose another layer."

    return Command(
        f"Paint with terrain {number} of the layer",
        lambda: session.choose(terrain=number),
        (str(number),),
        "ground",
        refused,
    )
