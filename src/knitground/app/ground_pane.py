"""The right half: the ground or the proof, its layers, and the tools with what they will lay."""

import re
from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QInputDialog, QLabel, QPushButton, QSplitter, QWidget

from knitground.app.allowed import allow
from knitground.app.canvas.ground_view import GroundView
from knitground.app.commands import Command
from knitground.app.ground.tool_row import ToolRow
from knitground.app.grow.trial import Trial
from knitground.app.layers.column import LayersColumn
from knitground.app.session import Session
from knitground.app.tools import Tool
from knitground.app.tools.area import Area
from knitground.app.tools.fill import Fill
from knitground.app.tools.paint import Draw, Erase, Spray
from knitground.app.tools.pick import Pick
from knitground.app.tools.pin import Pin
from knitground.app.tools.place import Place
from knitground.app.tools.select import Select
from knitground.app.tools.things import EraseThings, PickThing, PlaceThing, ShapeThings, ThingTool, Unfit
from knitground.app.tools.things_chosen import ChooseThings
from knitground.app.tools.things_strewn import StrewThings
from knitground.app.widgets import button, column, icon_button, in_row, in_widget, quiet, row
from knitground.core.grid.rect import CellRect
from knitground.core.ground.knitted import Knitted
from knitground.core.project.proofing import LAYER, proof_ground, proof_of_stitches
from knitground.core.tiles.tile import NUMBER_MASK

TOOLS: tuple[type[Tool], ...] = (Draw, Spray, Erase, Fill, Area, Select, Place, Pick, Pin)
TOOLS_FOR_THINGS: tuple[type[ThingTool], ...] = (
    PlaceThing, StrewThings, EraseThings, ShapeThings, ChooseThings, PickThing,
)  # fmt: skip

_TITLE = 260
_PROOF_ALONE = "The proof has no layers; change over to the ground (Ctrl+P) to work on them."


class GroundPane(QWidget):
    """The half that is always live."""

    new_ground_wanted = Signal()

    def __init__(self, session: Session, trial: Trial) -> None:
        super().__init__()
        self._trial = trial
        self.setObjectName("half")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Ground")
        self._session = session
        self.view = GroundView(session)
        self.view.moved.connect(self._note_place)
        self.second: GroundView | None = None
        """Another view of the same ground, shown while the view is split; made when it is first wanted."""
        self._views = QSplitter(Qt.Orientation.Vertical)
        self._views.addWidget(self.view)
        self._views.setChildrenCollapsible(False)
        self.layers = LayersColumn(session, self.view)
        self._proved, self._laying = "", "draw"
        self._proves_by_itself = True
        self._tools = {kind.name: kind(session) for kind in TOOLS}
        self._thing_tools: dict[str, Tool] = {kind.name: Unfit(session, kind) for kind in TOOLS}
        self._thing_tools |= {kind.name: kind(session) for kind in TOOLS_FOR_THINGS}
        self._title, self._size = QLabel(), quiet()
        self._title.setObjectName("heading")
        self._size.setWordWrap(False)
        self.tools = ToolRow(session, self.view, TOOLS)
        self.tools.tool_chosen.connect(self.choose_tool)
        self.tools.thrown.connect(self.throw_again)
        layout = column(self._head(), in_widget(self._middle()), self.tools, spacing=8)
        layout.setContentsMargins(8, 6, 8, 8)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        self.choose_tool("draw")
        self.view.cell_clicked.connect(self._on_click)
        session.tool_wanted.connect(self._take_in_hand)
        session.proof_wanted.connect(self._show_other)
        session.stage_changed.connect(self._on_stage)
        session.defined.connect(lambda: self.refresh(defined=True))
        for signal in (session.opened,):
            signal.connect(self.refresh)
        session.on_choice(
            self.refresh,
            "ground_id",
            "layer_id",
            "join_set_id",
            "tile",
            "orientation",
            "mix_id",
            "lays_mix",
            "throw",
            "terrain",
            "runs",
            "form",
            "alike",
            "selecting",
            "across",
            "selected",
            "lifted",
            "repeats",
            "things",
            "symmetry",
            "turning",
            "snap",
            "thing_kind",
            "turn",
            "mirrored",
        )
        self.refresh()

    def commands(self) -> list[Command]:
        """What one can do on the ground."""
        view = self.view

        def tool(kind: type[Tool]) -> Command:
            return Command(f"Tool: {kind.title}", lambda: self.choose_tool(kind.name), (kind.key,), "ground")

        return [
            Command(
                "Show the proof, or the ground again",
                lambda: self.change_over(to_proof=not view.shows_proof),
                ("Ctrl+P",),
            ),
            Command("Zoom in", lambda: self._looked_at.zoom_by(1), ("Ctrl++", "Ctrl+=")),
            Command("Zoom out", lambda: self._looked_at.zoom_by(-1), ("Ctrl+-",)),
            Command("Zoom to 100%", lambda: self._looked_at.set_zoom(1), ("Ctrl+0",)),
            Command("See the whole ground", lambda: self._looked_at.fit(), ("Ctrl+9",)),
            Command("Split the view on two places, or join it again", self.toggle_split, ("Ctrl+7",)),
            Command("Zoom to what is selected", self.zoom_to_selected, ("Ctrl+8",)),
            Command("Go to a cell…", self.go_to_cell, ("Ctrl+G",)),
            *(tool(kind) for kind in TOOLS),
            Command("Show or hide the grid", self.toggle_grid, ("G",), "ground"),
            Command("Show or hide the overview", self.toggle_overview, ("O",), "ground"),
            Command("Show or hide the rulers", self.toggle_rulers, ("Shift+R",), "ground"),
            Command("Show the ground again and again where it goes round", self.toggle_repeats, ("Shift+W",), "ground"),
            *self.tools.commands(),
            *self.layers.commands(),
            Command("Throw again", self.throw_again, ("R",), "ground"),
        ]

    def take_focus(self) -> None:
        """Lets keys count here: on the ground, or where it will be while there is none."""
        (self.view if self.view.knitted is not None else self).setFocus()

    def show_cell(self, row: int, column: int) -> None:
        """Leads to a cell of the ground."""
        self.show_proof(False)
        self.view.mark_cell(row, column)

    def choose_tool(self, name: str) -> None:
        """Takes a tool in hand."""
        self.show_proof(False)
        tool = self._fitting(name)
        if tool.lays:
            self._laying = name
        self._hand_over(tool)
        self.tools.refresh()

    def _hand_over(self, tool: Tool) -> None:
        """Gives all views a tool."""
        for view in (self.view, self.second):
            if view is not None:
                view.set_tool(tool)

    def _fitting(self, name: str) -> Tool:
        """The tool of a name that works on what the layer at hand holds."""
        layer = self._session.layer
        return (self._thing_tools if layer is not None and layer.places_things else self._tools)[name]

    def _follow_layer(self) -> None:
        """Things are worked on with tools of their own, under the same names and keys."""
        tool = self.view.tool
        if tool is not None and self._fitting(tool.name) is not tool:
            self._hand_over(self._fitting(tool.name))

    def _take_in_hand(self, name: str) -> None:
        """Takes a tool in hand, or without a name the one that laid something last."""
        self.choose_tool(name or self._laying)
        self.view.setFocus()

    def change_over(self, *, to_proof: bool) -> None:
        """Shows the proof or the ground, as asked for; where there is no ground, that is where one is made."""
        self._proves_by_itself = to_proof
        self.show_proof(to_proof)

    def show_proof(self, wanted: bool) -> None:
        """Shows the proof of the set at hand, or the ground."""
        proof = self._proof_at_hand() if wanted else None
        if wanted and proof is None:
            first = "add a stitch that lays a tile" if self._of_stitches else "label some tiles of a join set"
            where = "Stage Stitches" if self._of_stitches else "Stage Joins"
            self._session.say(f"There is no proof yet: {first} first.", where)
        if proof is not None or self.view.shows_proof:
            self.view.set_proof(proof)
            self._proved = self._set_at_hand
        self.refresh()

    @property
    def _of_stitches(self) -> bool:
        """Whether the proof is that of the stitch set at hand."""
        return self._session.choices.stage == "stitches"

    @property
    def _set_at_hand(self) -> str:
        """What tells the set whose proof is shown from others."""
        chosen = self._session.choices
        return f"stitches {chosen.stitch_set_id}" if self._of_stitches else chosen.join_set_id

    def _proof_at_hand(self) -> Knitted | None:
        session = self._session
        if self._of_stitches:
            found = proof_of_stitches(session.derived, session.stitch_set) if session.stitch_set else None
            if found and found[1].lacking:
                numbers = ", ".join(str(number + 1) for number in found[1].lacking[:8])
                session.say(f"The proof holds no place for the stitches {numbers}; they look at more than it can show.")
            return found[0] if found else None
        return proof_ground(session.derived, session.join_set) if session.join_set else None

    def _show_other(self, proof: Knitted | None) -> None:
        """Shows the proof of what is only proposed; with None what belongs there."""
        if proof is not None:
            self.view.set_proof(proof)
            self._proved = LAYER
        elif self._proved == LAYER:
            self.view.set_proof(None)
            self._proved = ""
        self.refresh()

    def zoom_to_selected(self) -> None:
        """Shows what is selected as large as it fits; all of the ground where nothing is."""
        selected, ground = self._session.selected, self._session.ground
        if selected is None or ground is None:
            self.view.fit()
            return
        self.show_proof(False)
        self.view.fit_part(QRectF(*ground.projection.bounds(selected.shape.window)))

    def go_to_cell(self) -> None:
        """Asks for a cell and leads there."""
        ground = self._session.ground
        if ground is None:
            self._session.say("There is no ground yet; make one first.", "New ground…")
            return
        text, ok = QInputDialog.getText(self, "Go to a cell", "Column and row, as in 12, 7")
        if not ok:
            return
        numbers = [part for part in re.split(r"[^0-9]+", text) if part]
        cell = (int(numbers[1]), int(numbers[0])) if len(numbers) == 2 and max(map(len, numbers)) < 9 else None
        if cell is None or not ground.board.whole.holds(*cell):
            last = f"{ground.width - 1}, {ground.height - 1}"
            self._session.say(f"There is no such cell; give a column and a row from 0, 0 to {last}.")
            return
        self.show_cell(*cell)

    def throw_again(self) -> None:
        """Another throw of what is shown by chance: the recipe that is tried, or the mix in hand."""
        if self._trial.running:
            self._session.attempt(self._trial.throw_again)
            return
        self._session.choose(throw=self._session.choices.throw + 1)
        self.view.update()

    def refresh(self, *, defined: bool = False) -> None:
        """Shows what is at hand."""
        self._follow_proof(defined)
        self._follow_layer()
        knitted, nothing = self.view.knitted, self.view.knitted is None
        self._proof_tab.setChecked(self.view.shows_proof)
        self._ground_tab.setChecked(not self.view.shows_proof)
        name = knitted.ground.name if knitted else "No ground yet"
        room = self._title.fontMetrics()
        self._title.setText(room.elidedText(name, Qt.TextElideMode.ElideRight, _TITLE))
        self._title.setToolTip(name)
        self._size.setText(f"{knitted.ground.width} x {knitted.ground.height}" if knitted else "")
        self._empty.setVisible(nothing)
        self.view.setVisible(not nothing)
        self._views.setVisible(not nothing)
        allow(self.layers, _PROOF_ALONE if self.view.shows_proof else "")
        self.tools.refresh()

    def _follow_proof(self, changed: bool) -> None:
        """Knits the proof anew if it is shown; while joins are made and there is no ground, it shows by itself."""
        session, join_set = self._session, self._session.join_set
        labelled = join_set is not None and bool(join_set.labels)
        alone = self._proves_by_itself and session.ground is None and session.choices.stage == "joins" and labelled
        if self._proved == LAYER and self.view.shows_proof:
            return  # something is looked at that is no set yet
        other = self.view.shows_proof and self._set_at_hand != self._proved
        if alone or other or (changed and self.view.shows_proof):
            proof = self._proof_at_hand()
            self.view.set_proof(proof, keep_place=self.view.shows_proof and not other)
            self._proved = self._set_at_hand

    def _head(self) -> QWidget:
        self._ground_tab = self._tab(
            "Ground", lambda: self.change_over(to_proof=False), "Show the ground (Ctrl+P changes over)"
        )
        self._proof_tab = self._tab(
            "Proof", lambda: self.change_over(to_proof=True), "Show every join, or stitch, of the set at once (Ctrl+P)"
        )
        group = QButtonGroup(self)
        group.addButton(self._ground_tab)
        group.addButton(self._proof_tab)
        self._grid = icon_button("grid", self.toggle_grid, "Show the grid (G)")
        self._grid.setCheckable(True)
        return in_row(
            self._ground_tab, self._proof_tab, self._title, self._size, None, self._grid,
            icon_button("minus", lambda: self.view.zoom_by(-1), "Zoom out (Ctrl+-)"),
            icon_button("plus", lambda: self.view.zoom_by(1), "Zoom in (Ctrl++)"),
        )  # fmt: skip

    def _tab(self, text: str, act: Callable[[], None], tip: str) -> QPushButton:
        return button(text, act, tip, name="tab")

    @property
    def _looked_at(self) -> GroundView:
        """The view that keys are for."""
        return self.second if self.second is not None and self.second.hasFocus() else self.view

    def toggle_split(self) -> None:
        """Shows another view of the ground below, at a place of its own; or only one again."""
        if self.second is not None and not self.second.isHidden():
            self.second.hide()
            self.second.show_again()
            return
        if self.second is None:
            self.second = GroundView(self._session)
            self.second.setAccessibleName("Ground, another place")
            self.second.pointed.connect(self.view.pointed)
            self._views.addWidget(self.second)
        self.second.show()
        self._views.setSizes([1, 1])
        if self.view.tool is not None:
            self.second.set_tool(self.view.tool)
        middle = self.view.visible_content().center()
        self.second.set_zoom(self.view.zoom)
        self.second.centre_on(middle.x(), middle.y())

    def _note_place(self) -> None:
        middle = self.view.visible_content().center()
        self._session.looked_at = middle.x(), middle.y()

    def toggle_overview(self) -> None:
        """Shows or hides the small picture of the whole ground."""
        self.view.overview.place()
        self.view.overview.setVisible(self.view.overview.isHidden())

    def toggle_rulers(self) -> None:
        """Shows or hides the numbers of columns and rows."""
        self.view.rulers = not self.view.rulers
        self.view.update()

    def toggle_repeats(self) -> None:
        """Shows a ground that goes round repeated on all sides, or once."""
        ground = self._session.ground
        if ground is None or not (ground.wraps_x or ground.wraps_y or self.view.repeats):
            self._session.say("This ground does not go round; tick “Goes round” beside it first.", "Stage Ground")
            return
        self.view.repeats = not self.view.repeats
        self.view.update()

    def toggle_grid(self) -> None:
        """Shows or hides the grid."""
        self.view.grid = not self.view.grid
        self._grid.setChecked(self.view.grid)
        self.view.update()

    def _middle(self) -> QHBoxLayout:
        says = quiet("A ground is a map. It shows here, always live.")
        says.setAlignment(Qt.AlignmentFlag.AlignCenter)
        make = button("New ground…", self.new_ground_wanted.emit, "Make a map of any size", icon_name="plus")
        self._empty = in_widget(column(None, says, in_row(None, make, None), None))
        middle = row(self._views, self._empty, self.layers, spacing=6)
        middle.setStretch(0, 1)
        middle.setStretch(1, 1)
        return middle

    def _on_stage(self, stage: str) -> None:
        """The joins stage shows the proof of its set; the others the ground."""
        join_set = self._session.join_set
        self._proves_by_itself = True
        self.show_proof(stage == "joins" and join_set is not None and bool(join_set.labels))

    def _on_click(self, y: float, x: float) -> None:
        """On the proof, a click goes to the tile."""
        knitted = self.view.knitted
        if not self.view.shows_proof or knitted is None:
            return
        cell = knitted.ground.board.cell_at(y, x)
        if cell is not None:
            code = int(knitted.codes(LAYER, CellRect(*cell, 1, 1))[0, 0])
            if code > 0:
                ref = self._session.document.palette.ref(code & NUMBER_MASK)
                self._session.choose(tile=ref, sheet_id=ref.sheet)
