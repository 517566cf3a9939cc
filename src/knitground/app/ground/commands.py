"""What one can do with grounds, by name."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from knitground.app.commands import Command, Where
from knitground.app.ground.acts import GroundActs
from knitground.app.ground.terrain_keys import terrain_commands
from knitground.app.mix_in_hand import mix_block, no_block
from knitground.app.session import Session

if TYPE_CHECKING:
    from knitground.app.ground.panel import GroundPanel


def ground_commands(session: Session, over: QWidget, panel: Callable[[], "GroundPanel"]) -> list[Command]:
    """The commands of the stage; its panel is asked for when one is done there."""
    acts = GroundActs(session, over)
    none = acts.no_ground
    here: Where = "ground"
    return [
        Command("New ground…", acts.new_ground),
        Command("Name and size of the ground…", acts.edit, refused=none),
        *acts.on_the_ground(),
        Command("The next ground", lambda: acts.step(1), ("Ctrl+PgDown",), refused=none),
        Command("Lay the tile in hand on a layer of tiles", acts.to_tiles, refused=none),
        Command("Let the tile in hand stand as a thing", acts.to_things, refused=none),
        Command("Lay any tile of the block in hand", lambda: mix_block(session), refused=lambda: no_block(session)),
        Command("Give the cells the size of the tile in hand", lambda: acts.fit(cells=True), ("Alt+C",), here),
        Command("Let the tiles in hand stand on their cells", lambda: acts.fit(cells=False), ("Alt+F",), here),
        Command("The tray, or the sheets again", lambda: panel().toggle_tray(), ("Shift+T",), here),
        Command(
            "Keep on the tray what is selected or in hand",
            lambda: session.attempt(panel().tray.keep),
            ("Shift+K",),
            here,
        ),
        Command("Find tiles by tag or name", lambda: panel().at_hand.ask(), ("Ctrl+F",), here),
        Command("The ground before", lambda: acts.step(-1), ("Ctrl+PgUp",), refused=none),
        *terrain_commands(session),
    ]
