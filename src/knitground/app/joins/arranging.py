"""The menu of arrangements: labels for a whole block of cells, known or learned."""

from collections.abc import Callable

from PySide6.QtWidgets import QInputDialog, QWidget

from knitground.app.allowed import a_menu, allow_entry
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.known import known
from knitground.app.session import Session
from knitground.core.edits.things import put
from knitground.core.joins.layouts import Arrangement, known_arrangements, learned
from knitground.core.project.model import fresh_id


class Arranging:
    """Takes an arrangement in hand, or learns one from the chosen cells."""

    def __init__(
        self,
        session: Session,
        view: SheetView,
        five: Callable[[], object],
        make_missing: Callable[[], object],
    ) -> None:
        self._session, self._view, self._five, self._make_missing = session, view, five, make_missing

    def open_menu(self, below: QWidget) -> None:
        """What blocks can be labelled in one go, below a button."""
        menu, session, join_set = a_menu(below), self._session, self._session.join_set
        for one in (*known_arrangements(), *session.document.project.arrangements):
            if join_set is not None and one.kind == join_set.kind:
                menu.addAction(one.name, lambda a=one: self._take_arrangement(a))  # type: ignore[misc]
        if join_set is not None and join_set.kind in ("full", "cell"):
            menu.addAction("Quarters in a block of 2 x 3: make 47 of them…", self._from_quarters)
        menu.addSeparator()
        learn = menu.addAction("Learn the arrangement of the chosen cells…", self._learn)
        labelled = join_set is not None and any(ref in join_set.labels for ref in session.choices.selection)
        allow_entry(learn, "" if labelled else "Choose labelled tiles on the sheet first.")
        menu.popup(below.mapToGlobal(below.rect().topLeft()))

    def _from_quarters(self) -> None:
        if self._session.attempt(self._five):
            self._make_missing()
        else:
            self._session.say("Choose the block of 2 x 3 cells first: Ctrl and a drag, inner corners at its top right.")

    def _take_arrangement(self, arrangement: Arrangement) -> None:
        self._session.choose(arrangement=arrangement, wanted=None)
        self._session.say(f"{arrangement.name}: click its first cell on the sheet, or Escape.")
        self._view.setFocus()

    def _learn(self) -> None:
        session, join_set = self._session, known(self._session.join_set)
        labels = {ref: join_set.labels[ref] for ref in session.choices.selection if ref in join_set.labels}
        name, ok = QInputDialog.getText(
            self._view, "Learn this arrangement", "Name", text=f"{known(join_set).name} block"
        )
        if ok and name.strip():
            made = session.document.project.arrangements
            put(
                session.document, "learn arrangement", "arrangements",
                learned(name.strip()[:80], fresh_id(name, made), known(join_set).kind, labels),
            )  # fmt: skip
            session.say(f"Learned “{name.strip()}”; it stands among the arrangements now.")
