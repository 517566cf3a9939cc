"""What the chosen things are to a figure that walks: where it comes in, a goal, in its way, or to stand on."""

from PySide6.QtWidgets import QLabel, QWidget

from knitground.app.allowed import allow
from knitground.app.chosen_things import ChosenThings
from knitground.app.session import Session
from knitground.app.widgets import ChoiceBox, Tick, column, fill_box, in_row, quiet
from knitground.core.edits.thing_notes import say_of_things
from knitground.core.layers.thing import properties_of
from knitground.core.tiles.notes import Property, PropertyKind
from knitground.core.walk.goals import GOAL, ROLE, SPAWN, role_of
from knitground.core.walk.side import ONE_WAY
from knitground.core.walk.solid import BLOCKS

_ROLES = [("nothing more", ""), ("where it comes in", SPAWN), ("a goal", GOAL)]
_SHAPES = ("box", "round", "polygon")


class FigurePage(QWidget):
    """Says in plain words what is kept as properties, which the page of notes shows, too."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._chosen = session, ChosenThings(session)
        self.role = ChoiceBox("What it is to a figure")
        self.role.setToolTip("A figure comes in at such things (F5); goals that it can't reach are findings")
        self.role.activated.connect(lambda index: self._set(ROLE, "text", self.role.itemData(index)))
        self.blocks = Tick("Blocks", "A figure can't walk through it")
        self.blocks.clicked.connect(lambda on: self._set(BLOCKS, "yes-no", on))
        self.holds = Tick(
            "Holds from above", "From the side a figure stands on this line, and jumps through it from below"
        )
        self.holds.clicked.connect(lambda on: self._set(ONE_WAY, "yes-no", on))
        self._says = quiet()
        self.setLayout(
            column(
                in_row(QLabel("To a figure it is"), self.role, None), in_row(self.blocks, self.holds, None),
                self._says, None, spacing=6,
            )
        )  # fmt: skip

    def refresh(self) -> None:
        """Shows what the first thing that is chosen is."""
        chosen = self._chosen.things
        kinds = self._session.document.project.thing_kinds
        said = properties_of(chosen[0], kinds) if chosen else {}
        fill_box(self.role, _ROLES, role_of(chosen[0], kinds) if chosen else "")
        self.blocks.setChecked(BLOCKS in said and said[BLOCKS].value is True)
        self.holds.setChecked(ONE_WAY in said and said[ONE_WAY].value is True)
        forms = {one.form for one in chosen}
        none = "" if chosen else "Choose a thing on the map first."
        allow(self.role, none)
        fits = forms <= {*_SHAPES, "sprite"}
        allow(self.blocks, none or ("" if fits else "Only boxes, rounds, polygons and sprites block."))
        allow(self.holds, none or ("" if forms == {"line"} else "Only lines hold from above; draw one with Area (A)."))
        self._says.setText("" if chosen else "No thing is chosen; click one with Select (S).")

    def _set(self, name: str, kind: PropertyKind, value: str | bool) -> None:
        if self._chosen.ids:
            wanted = Property(kind, value)
            self._session.attempt(lambda: say_of_things(*self._chosen.here, self._chosen.ids, name, wanted))
