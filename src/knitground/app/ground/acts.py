"""What can be done with grounds: making, naming, resizing, moving and stepping through them."""

import re
from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QInputDialog, QWidget

from knitground.app.asking import answered
from knitground.app.commands import Command
from knitground.app.ground.about_ground import AboutGround
from knitground.app.ground.beside_dialog import BesideDialog
from knitground.app.ground.drawn_map import add_drawn_map
from knitground.app.ground.new_ground import GroundDialog
from knitground.app.ground.usual_cell import usual_cell, usual_grid
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.sheet.single_images import MIX
from knitground.core.edits.first_on_ground import told_of_new_ground
from knitground.core.edits.fitting import fit_cells, fit_tile, misfit
from knitground.core.edits.grounds import (
    FIRST_SIZE,
    add_ground,
    duplicate_ground,
    furnish_ground,
    move_ground,
    remove_ground,
)
from knitground.core.edits.layers import prop_layer, tile_layer
from knitground.core.edits.reframing import crop_ground, framed, lost_places, reframe_ground, shift_ground
from knitground.core.edits.things import put
from knitground.core.grid import GridKind
from knitground.core.ground.ground import Ground, by_id
from knitground.core.project.document import Document


class GroundActs:
    """Acts on the grounds of a session; its dialogs open over a part of the window."""

    def __init__(self, session: Session, over: QWidget) -> None:
        self._session, self._over = session, over

    def on_the_ground(self) -> list[Command]:
        """What stands in the menu beside its name."""

        def acting(act: Callable[[str], object]) -> Callable[[], object]:
            return lambda: self._session.attempt(lambda: act(self._session.choices.ground_id))

        none, session, over = self.no_ground, self._session, self._over
        return [
            Command("New ground from a drawn map…", lambda: session.attempt(lambda: add_drawn_map(over, session))),
            Command("Duplicate the ground", acting(self._duplicate), refused=none),
            Command("Remove the ground", acting(self._remove), refused=none),
            Command("Crop the ground to what is selected", acting(self._crop), refused=self._nothing_selected),
            Command("Shift the ground, going round…", self._ask_shift, refused=none),
            Command(
                "Background, tags and properties of the ground…",
                lambda: answered(AboutGround(over, session)),
                refused=none,
            ),
            Command("Maps beside this one…", lambda: answered(BesideDialog(over, session)), refused=none),
            Command("Move the ground up in the list", acting(lambda one: self._move(one, -1)), refused=none),
            Command("Move the ground down in the list", acting(lambda one: self._move(one, 1)), refused=none),
        ]

    def to_tiles(self) -> None:
        """Goes to a layer on which the tile in hand can be laid."""
        self._to(tile_layer)

    def to_things(self) -> None:
        """Goes to a layer on which the tile in hand can stand as a thing."""
        self._to(prop_layer)

    def _to(self, wanted: Callable[[Document, str], str]) -> None:
        session = self._session
        layer_id = session.attempt(lambda: wanted(session.document, session.choices.ground_id))
        if layer_id is not None:
            session.choose(layer_id=layer_id, lays_mix=False)
            session.tool_wanted.emit("draw")
            what = (
                "takes the tile in hand; click on the ground" if session.choices.tile else "is at hand; click on a tile"
            )
            session.say(f"“{known(session.layer).name}” {what}.")

    def no_ground(self) -> str:
        """Why nothing can be done with a ground; nothing if it can."""
        return "" if self._session.ground is not None else "There is no ground yet; make one first."

    def _nothing_selected(self) -> str:
        return "" if self._session.selected is not None else "No cell is selected; drag over the ground first."

    def new_ground(self) -> None:
        """Asks for a new ground and makes it."""
        session = self._session
        name = f"Ground {len(session.document.project.grounds) + 1}"
        dialog = GroundDialog(
            self._over, "New ground", name, FIRST_SIZE, lambda grid: usual_cell(session, grid), usual_grid(session)
        )
        if answered(dialog) and dialog.name.text().strip():
            name = dialog.name.text().strip()
            session.attempt(lambda: self._make(name, dialog.grid, dialog.size_in_cells, dialog.tile_size))

    def _make(self, name: str, grid: GridKind, size: tuple[int, int], tile: tuple[int, int]) -> None:
        """A ground with a layer for all that can be laid, as one step."""
        document = self._session.document
        with document.step(f"new ground {name}"):
            made = add_ground(document, name, *size, tile, grid)
            furnish_ground(document, made)
        session = self._session
        session.choose(ground_id=made, layer_id="")
        chosen = session.choices
        told, mixes = told_of_new_ground(document, known(session.ground), chosen.stage, chosen.sheet_id)
        if told:
            session.say(told, *[MIX][:mixes])

    def edit(self) -> None:
        """Asks for the name and the size of the ground at hand."""
        ground, document = known(self._session.ground), self._session.document

        def lost(width: int, height: int, place: tuple[float, float]) -> int:
            return lost_places(document, ground.id, framed(ground, width, height, *place))

        dialog = GroundDialog(self._over, "Name and size", ground.name, (ground.width, ground.height), None, lost=lost)
        if answered(dialog):
            self._session.attempt(lambda: self._take_over(ground, dialog))

    def _take_over(self, ground: Ground, dialog: GroundDialog) -> None:
        """What a dialog says of a ground's name and size, as one step."""
        document = self._session.document
        with document.step("name and size"):
            if dialog.name.text().strip():
                put(document, "rename", "grounds", replace(ground, name=dialog.name.text().strip()))
            if dialog.size_in_cells != (ground.width, ground.height):
                renamed = by_id(document.project.grounds, ground.id)
                reframe_ground(document, ground.id, framed(renamed, *dialog.size_in_cells, *dialog.anchor.place))

    def step(self, by: int) -> None:
        """Takes another ground in hand, going round."""
        grounds = [one.id for one in self._session.document.project.grounds]
        place = grounds.index(self._session.choices.ground_id) + by
        self._session.choose(ground_id=grounds[place % len(grounds)])

    def fit(self, *, cells: bool) -> None:
        """Mends that the tile in hand is of another size than the cells, one way or the other."""
        session, ground, ref = self._session, self._session.ground, self._session.choices.tile
        if ground is None or ref is None or misfit(session.document.project, ground, ref) is None:
            session.say("The tile in hand fits the cells, or stands on them already.")
        elif cells:
            fit_cells(session.document, ground.id, ref)
        else:
            fit_tile(session.document, ref)

    def _duplicate(self, ground_id: str) -> None:
        self._session.choose(ground_id=duplicate_ground(self._session.document, ground_id))

    def _remove(self, ground_id: str) -> None:
        remove_ground(self._session.document, ground_id)

    def _crop(self, ground_id: str) -> None:
        selected = known(self._session.selected)
        crop_ground(self._session.document, ground_id, selected.shape.window)
        self._session.select(None)

    def _move(self, ground_id: str, by: int) -> None:
        move_ground(self._session.document, ground_id, by)

    def _ask_shift(self) -> None:
        """Asks how far, and moves all that lies on the ground."""
        text, ok = QInputDialog.getText(
            self._over,
            "Shift the ground",
            "Columns to the right and rows down, as in 8, -3; what leaves comes in opposite",
        )
        numbers = re.findall(r"-?[0-9]{1,6}", text)
        if ok and len(numbers) != 2:
            self._session.say("Give two whole numbers, columns and rows, as in 8, -3.")
        elif ok:
            across, down = map(int, numbers)
            session = self._session
            session.attempt(lambda: shift_ground(session.document, session.choices.ground_id, down, across))
