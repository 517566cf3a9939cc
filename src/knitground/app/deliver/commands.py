"""What one can do to hand over, by name."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from knitground.app.commands import Command
from knitground.app.session import Session
from knitground.core.deliver import EXPORTERS

if TYPE_CHECKING:
    from knitground.app.deliver.panel import DeliverPanel

_KEYS = {"png": ("Ctrl+E",), "json": ("Ctrl+Shift+E",)}
NO_GROUND_YET = "There is no ground to deliver yet."


def deliver_commands(session: Session, panel: Callable[[], "DeliverPanel"]) -> list[Command]:
    """The commands of the stage; its panel is asked for when one is done."""

    def none_kept() -> str:
        return "" if session.document.project.deliveries else "No delivery is kept yet; make one in stage 6."

    def no_ground() -> str:
        return "" if session.ground else NO_GROUND_YET

    def here(act: Callable[["DeliverPanel"], object]) -> Callable[[], object]:
        """Something that is done where it is seen."""

        def done() -> None:
            session.set_stage("deliver")
            act(panel())

        return done

    def once(name: str) -> Command:
        asked = here(lambda shown: shown.ask(name))
        return Command(f"Deliver {name.upper()}…", asked, _KEYS.get(name, ()), refused=no_ground)

    return [
        *(once(name) for name in EXPORTERS),
        Command("Run all deliveries", lambda: panel().run_all(), ("Alt+Shift+E",), refused=none_kept),
        Command("New delivery…", here(lambda shown: shown.offer())),
        Command("Switch the live link on or off", here(lambda shown: shown.live.tick.toggle()), refused=no_ground),
    ]
