"""What one can do with joins, by name."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from knitground.app.commands import Command
from knitground.app.joins.joining import JOIN_SHARING, join_sharing_of
from knitground.app.joins.next_step import why_no_search, why_no_set
from knitground.app.known import with_id
from knitground.app.session import Session
from knitground.app.stage import Late
from knitground.core.sheet.picture import Sheet

if TYPE_CHECKING:
    from knitground.app.joins.panel import JoinsPanel


def joins_commands(session: Session, panel: "Late[JoinsPanel]") -> list[Command]:
    """The commands of the stage; its panel is asked for when one is done."""

    def no_set() -> str:
        return "" if session.join_set else "Make a join set first, in the stage of joins."

    def sheet() -> Sheet | None:
        return with_id(session.document.project.sheets, session.choices.sheet_id)

    def there(act: Callable[["JoinsPanel"], object]) -> Callable[[], None]:
        return panel.there(session, "joins", act)

    return [
        Command("New join set…", there(lambda joins: joins.offer_new()), refused=lambda: why_no_set(sheet())),
        Command("Rename the join set…", there(lambda joins: joins.rename()), refused=no_set),
        Command("Remove the join set", lambda: panel().remove_set(), refused=no_set),
        Command("Read labels off the pixels", there(lambda joins: joins.read_labels()), refused=no_set),
        Command(
            "Find sets on this sheet", there(lambda joins: joins.find_sets()), refused=lambda: why_no_search(sheet())
        ),
        Command("Make missing tiles…", there(lambda joins: joins.make_missing()), refused=no_set),
        Command(JOIN_SHARING, there(lambda joins: join_sharing_of(session)), refused=no_set),
        Command("Paint with this join set", lambda: panel().paint_with(), refused=no_set),
    ]
