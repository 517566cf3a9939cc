"""Reading labels off pixels in the window: a proposal that is looked at on the sheet, then taken or dropped."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QLabel, QSpinBox

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.widgets import Tick, button, column, heading, in_row, in_widget, quiet
from knitground.core.edits.found_on import FoundOn
from knitground.core.edits.rare import told_of_rare
from knitground.core.edits.reading import Proposal, read_labels, take_proposal
from knitground.core.edits.sets import new_terrain
from knitground.core.edits.standing import cuts_of
from knitground.core.errors import BadRequest
from knitground.core.joins.sets import Terrain
from knitground.core.sheet.isometric import on_foot
from knitground.core.tiles.tile import TileRef

_BY_ITSELF = 1


class Reading(QObject):
    """The proposal that is being looked at, if there is one."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.proposal: Proposal | None = None
        self._set_id = ""
        self._found_on = FoundOn({})
        session.opened.connect(self.drop)
        session.defined.connect(self._drop_what_is_gone)
        session.on_choice(lambda: self.drop() if session.choices.join_set_id != self._set_id else None, "join_set_id")

    @property
    def terrains(self) -> tuple[Terrain, ...]:
        """The set's terrains, and those that taking the proposal would add."""
        join_set = self._session.join_set
        shown = list(join_set.terrains) if join_set else []
        highest = max((max(row) for row in self.proposal.labels.values()), default=0) if self.proposal else 0
        added = self.proposal.added if self.proposal else {}
        while len(shown) < highest:
            number = len(shown) + 1
            shown.append(added.get(number) or new_terrain(shown, f"Terrain {number}"))
        return tuple(shown)

    @property
    def isometric(self) -> bool:
        """Whether what is proposed was read off diamonds."""
        cuts = self._session.document.project.cuts
        return self.proposal is not None and any(cuts[key].shape == "isometric" for key in self.cuts)

    @property
    def cuts(self) -> list[tuple[str, str]]:
        """The cuts whose tiles are proposed for."""
        return cuts_of(self._session.document, self.proposal.labels) if self.proposal is not None else []

    def begin(self, refs: list[TileRef], terrains: int | None) -> None:
        """Reads the labels of tiles for the set at hand, beside the interface."""
        session, join_set = self._session, self._session.join_set
        if join_set is None:
            raise BadRequest("There is no join set yet; make one at the right of the sheet first.")
        cuts = session.document.project.cuts
        tiles = {
            ref: np.array(on_foot(pixels, cuts[ref.sheet, ref.cut]))
            for ref in refs
            if (pixels := session.derived.tile(ref)) is not None
        }
        if len(tiles) < 2:
            raise BadRequest("Labels are read by comparing tiles; choose two or more with Ctrl and a drag.")
        self._set_id, self._found_on = join_set.id, FoundOn.of(session.document.project, tiles)
        shape = cuts[next(iter(tiles))[:2]].shape

        def work(progress: Callable[[float], None]) -> Proposal:
            return read_labels(join_set, list(tiles), list(tiles.values()), terrains, shape, progress)

        session.run(Job("Reading labels", work), self._done)

    def take(self, refs: list[TileRef] | None = None) -> None:
        """Takes what is proposed: for all tiles, or for some, the rest staying proposed."""
        if self.proposal is None:
            return
        proposal = self.proposal
        take_proposal(self._session.document, self._set_id, proposal, refs)
        taken = [ref for ref in proposal.labels if refs is None or ref in refs]
        if rare := {ref: proposal.rare[ref] for ref in taken if ref in proposal.rare}:
            self._session.say(f"{len(taken):,} tiles are labelled{told_of_rare(rare)}.")
        rest = {ref: row for ref, row in proposal.labels.items() if refs is not None and ref not in refs}
        self.proposal = (
            replace(proposal, labels=rest, confidence={ref: proposal.confidence[ref] for ref in rest}) if rest else None
        )
        self.changed.emit()

    def drop(self) -> None:
        """Puts the proposal away."""
        if self.proposal is not None:
            self.proposal = None
            self.changed.emit()

    def _drop_what_is_gone(self) -> None:
        if self.proposal is not None and not self._holds():
            self.drop()

    def _holds(self) -> bool:
        """Whether the tiles and the set are there that labels are read for."""
        project = self._session.document.project
        return self._found_on.holds(project) and any(one.id == self._set_id for one in project.join_sets)

    def _done(self, proposal: Proposal) -> None:
        if not self._holds():
            self._session.say("The tiles were cut anew meanwhile, or their set is gone; read the labels again.")
            return
        self.proposal = proposal
        self.changed.emit()


class ReadingCard:
    """What is said of the proposal, with what can be done with it."""

    def __init__(self, reading: Reading, again: Callable[[], object], lie: Callable[[bool], object]) -> None:
        self._reading = reading
        self._title, self._says = heading("Labels read off the pixels"), quiet()
        self.terrains = QSpinBox()
        self.terrains.setRange(_BY_ITSELF, 12)
        self.terrains.setSpecialValueText("find out")
        self.terrains.setAccessibleName("Terrains to tell apart")
        self.terrains.setToolTip("How many terrains to tell apart, nothing being one where it shows")
        self.terrains.setKeyboardTracking(False)
        self.terrains.lineEdit().setTextMargins(6, 0, 0, 0)
        self.terrains.valueChanged.connect(lambda value: again())
        self.diamonds = Tick(
            "Isometric diamonds", "The tiles are diamonds seen from a corner; their north-west corner is on top"
        )
        self.diamonds.clicked.connect(lie)
        self.widget = in_widget(
            column(
                self._title,
                self._says,
                in_row(QLabel("Terrains"), self.terrains, self.diamonds, None),
                in_row(
                    button("Take all", reading.take, "Label all these tiles as shown", name="primary"),
                    button("Drop", reading.drop, "Leave the labels as they are"),
                    None,
                ),
                None,
                spacing=6,
            )
        )
        reading.changed.connect(self.refresh)

    @property
    def wanted(self) -> int | None:
        """How many terrains to tell apart, if that was said."""
        return self.terrains.value() if self.terrains.value() > _BY_ITSELF else None

    def refresh(self) -> None:
        """Says what is proposed."""
        proposal = self._reading.proposal
        if proposal is not None:
            self.diamonds.setChecked(self._reading.isometric)
            unsure = len(proposal.unsure())
            look = f"look at the {unsure} framed ones" if unsure else "all are clear"
            terrains = "1 terrain" if proposal.terrains == 1 else f"{proposal.terrains} terrains"
            self._says.setText(f"{len(proposal.labels)} tiles, {terrains}; {look}. A click or a drag takes some alone.")
