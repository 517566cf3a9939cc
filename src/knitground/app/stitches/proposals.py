"""Stitches that are proposed, to be taken all or one by one."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QListWidget, QListWidgetItem, QMenu, QWidget

from knitground.app.allowed import a_menu
from knitground.app.session import Session
from knitground.app.stitches.row import StitchRow
from knitground.app.widgets import column, quiet
from knitground.core.edits.examples import Proposal, shape_of, stitches_from, stitches_of_joins
from knitground.core.edits.selecting import Selected
from knitground.core.stitches.rules import Stitch, StitchSet

Taken = Callable[[list[Stitch]], object]


class Proposals(QDialog):
    """Shows proposed stitches; the ground stays in reach, so that one sees the cells that each comes from."""

    taken = Signal(object)

    def __init__(
        self, parent: QWidget, session: Session, stitch_set: StitchSet, proposals: Sequence[Proposal], says: str
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Stitches to take")
        self.resize(460, 480)
        self._session = session
        self._proposals = list(proposals)
        self._ground = session.choices.ground_id
        self._list = QListWidget()
        self._list.setObjectName("cards")
        self._list.setAccessibleName("Proposed stitches")
        self._list.currentRowChanged.connect(self._show_cells)
        self._rows: list[StitchRow] = []
        for number, proposal in enumerate(self._proposals):
            line = StitchRow(session, number, proposal.stitch, stitch_set)
            line.say(f"from {len(proposal.cells)} cells" if proposal.cells else "")
            item = QListWidgetItem(self._list)
            item.setSizeHint(line.sizeHint())
            self._list.setItemWidget(item, line)
            self._rows.append(line)
        buttons = QDialogButtonBox(self)
        take = buttons.addButton("Take those that are ticked", QDialogButtonBox.ButtonRole.AcceptRole)
        take.setObjectName("primary")
        buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._take)
        buttons.rejected.connect(self.reject)
        layout = column(quiet(says), self._list, buttons)
        layout.setContentsMargins(12, 12, 12, 12)
        self.setLayout(layout)

    @property
    def rows(self) -> list[StitchRow]:
        """A line for each proposal."""
        return self._rows

    def _take(self) -> None:
        chosen = zip(self._rows, self._proposals, strict=True)
        self.taken.emit([proposal.stitch for line, proposal in chosen if line.is_on])
        self.accept()

    def _show_cells(self, place: int) -> None:
        """Selects the cells that a proposal comes from."""
        if 0 <= place < len(self._proposals) and self._proposals[place].cells:
            self._session.choose(selected=Selected(self._ground, shape_of(self._proposals[place])))


def offer(parent: QWidget, session: Session, taken: Taken) -> QMenu:
    """A menu of what stitches can be had from; `taken` is called with those that are taken."""
    menu = a_menu(parent)
    menu.addAction("The example that is selected on the ground…", lambda: from_example(parent, session, taken))
    for one in session.document.project.join_sets:
        for number, terrain in enumerate(one.terrains, start=1):
            menu.addAction(
                f"The tiles of “{one.name}” for {terrain.name}…",
                partial(from_joins, parent, session, one.id, number, taken),
            )
    return menu


def from_example(parent: QWidget, session: Session, taken: Taken) -> "Proposals | None":
    """Proposes the stitches that lay what is selected on the tile layer at hand."""
    owner, ground, layer = session.stitch_set, session.ground, session.layer
    if owner is None or ground is None or layer is None:
        session.say("Make a stitch set and a ground first.")
        return None
    plans = [one.id for one in ground.layers if one.set_id == owner.id and one.takes_terrains_of == "stitch_sets"]
    tiles = layer if layer.holds_tiles else next((one for one in reversed(ground.layers) if one.holds_tiles), None)
    if not plans or tiles is None:
        session.say(
            "The ground needs a plan of this set, and a tile layer with what was laid by hand.",
            "Paint with this stitch set",
        )
        return None
    known = [stitch.id for stitch in owner.stitches]
    found = session.attempt(lambda: stitches_from(session.derived, session.selected, plans[0], tiles.id, known))
    if found is None:
        return None
    says = f"These lay what lies on “{tiles.name}”. A click on one selects the cells that it comes from."
    return _open(parent, session, owner, found, says, taken)


def from_joins(parent: QWidget, session: Session, set_id: str, terrain: int, taken: Taken) -> "Proposals | None":
    """Proposes the tiles of a join set as stitches for the mark at hand."""
    owner = session.stitch_set
    if owner is None:
        session.say("Make a stitch set first.")
        return None
    join_set = next(one for one in session.document.project.join_sets if one.id == set_id)
    mark = min(max(1, session.choices.terrain), len(owner.marks))
    made = stitches_of_joins(join_set, mark, terrain, [stitch.id for stitch in owner.stitches])
    if not made:
        session.say(f"No tile of “{join_set.name}” shows that terrain alone; label some first.")
        return None
    says = (
        f"The tiles of “{join_set.name}” for the mark {owner.marks[mark - 1].name}, those that show most of it first."
    )
    return _open(parent, session, owner, [Proposal(one, ()) for one in made], says, taken)


def _open(
    parent: QWidget, session: Session, owner: StitchSet, found: Sequence[Proposal], says: str, taken: Taken
) -> Proposals:
    dialog = Proposals(parent, session, owner, found, says)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.taken.connect(taken)
    dialog.show()
    return dialog
