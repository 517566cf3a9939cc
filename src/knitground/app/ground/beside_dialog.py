"""Which maps lie beside the one at hand."""

from functools import partial

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QSpinBox, QWidget

from knitground.app.allowed import allow
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.widgets import ChoiceBox, column, fill_box, in_widget, number, quiet, set_quietly
from knitground.core.edits.bordering import put_beside
from knitground.core.ground.beside import BORDERS, Border, at_borders
from knitground.core.ground.ground import LARGEST_GROUND, Ground

_TITLES: dict[Border, str] = {"west": "Left", "north": "Above", "east": "Right", "south": "Below"}
_FURTHER: dict[Border, str] = {
    "west": "cells further down", "north": "cells further right", "east": "cells further down",
    "south": "cells further right",
}  # fmt: skip


class BesideDialog(QDialog):
    """A map for each border; each choice is a step that can be undone."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle(f"Maps beside “{self._ground.name}”")
        grid = QGridLayout()
        grid.setVerticalSpacing(8)
        self.maps: dict[Border, ChoiceBox] = {}
        self.shifts: dict[Border, QSpinBox] = {}
        for line, border in enumerate(BORDERS):
            box = ChoiceBox(_TITLES[border])
            box.setMinimumWidth(180)
            put = partial(self._put, border)
            box.activated.connect(put)
            shift = number(-LARGEST_GROUND, LARGEST_GROUND, put, f"shift {border}")
            self.maps[border], self.shifts[border] = box, shift
            for place, widget in enumerate((QLabel(_TITLES[border]), box, shift, quiet(_FURTHER[border]))):
                grid.addWidget(widget, line, place)
        self._says = quiet(
            "What is painted on the common border belongs to both. Choosing a map gives its border what lies on "
            "this one's; joins are knit across it, and it shows dimmed beside this one."
        )
        self._says.setWordWrap(True)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close, self)
        close.rejected.connect(self.reject)
        layout = column(in_widget(grid), self._says, None, close)
        layout.setContentsMargins(12, 12, 12, 12)
        self.setLayout(layout)
        self.resize(560, 260)
        self._refresh()

    @property
    def _ground(self) -> Ground:
        return known(self._session.ground)

    def _put(self, border: Border, *_: object) -> None:
        session, chosen = self._session, self.maps[border].currentData()
        shift = self.shifts[border].value() if chosen else 0
        at = at_borders(session.document.project.grounds, self._ground).get(border)
        if (at is None and not chosen) or (at is not None and (at.ground, at.shift) == (chosen, shift)):
            return
        session.attempt(lambda: put_beside(session.document, self._ground.id, border, chosen or None, shift))
        self._refresh()

    def _refresh(self) -> None:
        project, ground = self._session.document.project, self._ground
        there = at_borders(project.grounds, ground)
        others = [(one.name, one.id) for one in project.grounds if _fits(ground, one)]
        for border in BORDERS:
            at = there.get(border)
            fill_box(self.maps[border], [("No map", ""), *others], at.ground if at else "")
            set_quietly(self.shifts[border], at.shift if at else 0)
            allow(self.shifts[border], "" if at is not None else "Choose the map that lies there first.")


def _fits(ground: Ground, other: Ground) -> bool:
    """Whether a map could lie beside one."""
    same = (ground.grid, ground.tile_width, ground.tile_height) == (other.grid, other.tile_width, other.tile_height)
    return same and other.id != ground.id
