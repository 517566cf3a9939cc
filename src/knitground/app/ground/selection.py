"""What can be done with what is selected, and with a block in hand: commands, keys and the clipboard."""

from collections.abc import Callable

from knitground.app.clipboard import BLOCK, clip, clipped
from knitground.app.commands import Command
from knitground.app.ground.thing_commands import ThingCommands
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.tools.select import SHAPES
from knitground.app.widgets import image_of
from knitground.core.edits.blocks import Block, cleared, lift, put, turned
from knitground.core.edits.clipping import as_text, from_text
from knitground.core.edits.painting import check_unlocked, fill_shape
from knitground.core.edits.pins import pin, pin_seen
from knitground.core.edits.placing import carry
from knitground.core.edits.selecting import NOTHING, grown, inverted
from knitground.core.edits.turned_forms import TurnedForms
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.grid.shapes import Shape
from knitground.core.render.compositor import render
from knitground.core.render.pixels import straight

Changed = dict[str, dict[str, Plane]]

_MOST_PICTURED = 1 << 22
_AT_ONCE = 1 << 20
"""Cells that are worked on while somebody waits; more are, beside the window."""
_COPIED_AT_ONCE = 200 * 200
_QUARTER = 90.0
_CELLS = "On a prop layer there are things, no cells; choose a layer of tiles or terrains for this."
_NOTHING = "No cell is selected; drag over the ground with Select (S) first."


class SelectionCommands:
    """Copy, cut, paste, clear, fill; all, none, others, wider, narrower; turn and mirror the block in hand."""

    def __init__(self, session: Session, places: Callable[[], bool]) -> None:
        self._session, self._places = session, places
        self._things = ThingCommands(session)

    def commands(self) -> list[Command]:
        """What one can do with what is selected."""

        things = self._things

        def acting(act: Callable[[], object], on_things: Callable[[], object] | None = None) -> Callable[[], object]:
            def chosen() -> object:
                return on_things() if on_things is not None and things.at_hand else act()

            return lambda: self._session.attempt(chosen)

        def refusing(cells: Callable[[], str], of_things: Callable[[], str] = lambda: _CELLS) -> Callable[[], str]:
            return lambda: of_things() if things.at_hand else cells()

        turns = refusing(self._no_block, str)
        both, selected = refusing(self._refused, things.refused), refusing(self._refused)
        return [
            Command("Copy what is selected", acting(self.copy, things.copy), ("Ctrl+C",), "ground", both),
            Command("Cut what is selected", acting(self.cut, things.cut), ("Ctrl+X",), "ground", both),
            Command("Paste a block", acting(self.paste, things.paste), ("Ctrl+V",), "ground"),
            Command("Take what is selected in hand", acting(self.take, things.take), ("Ctrl+D",), "ground", both),
            Command("Clear what is selected", acting(self.clear, things.clear), ("Delete",), "ground", both),
            Command("Fill what is selected", acting(self.fill), ("Shift+Return",), "ground", selected),
            Command("Select all", acting(self.select_all, things.choose_all), ("Ctrl+A",), "ground"),
            Command("Select nothing", self.select_nothing, ("Ctrl+Shift+A",), "ground", both),
            Command("Select all others", acting(self.invert, things.invert), ("Shift+I",), "ground", both),
            Command("Select wider by a cell", lambda: self.widen(1), ("Shift+]",), "ground", selected),
            Command("Select narrower by a cell", lambda: self.widen(-1), ("Shift+[",), "ground", selected),
            Command("Hold what is selected as it is", acting(self.hold), ("Alt+B",), "ground", selected),
            Command("Knit what is selected anew", acting(self.reknit), ("Alt+K",), "ground", selected),
            Command("Next way to select", self.next_way, ("Shift+S",), "ground"),
            Command(
                "Turn what is in hand, or chosen",
                acting(lambda: self.turn(1), self._turn_things),
                ("T",),
                "ground",
                turns,
            ),
            Command(
                "Mirror what is in hand, or chosen",
                acting(lambda: self.turn(4), lambda: self._turn_things(mirror=True)),
                ("M",),
                "ground",
                turns,
            ),
            *things.commands(),
        ]

    def copy(self) -> None:
        """Puts what is selected on the clipboard: as a block, and as a picture for paint programs."""
        session, block = self._session, self._lifted()[0]
        palette, picture, count = session.document.palette, self._picture(), known(session.selected).count
        session.choose(lifted=block)

        def take(text: str) -> None:
            clip(BLOCK, text, picture)
            session.say(f"{count:,} cells copied.", "Paste a block")

        if count <= _COPIED_AT_ONCE:
            take(as_text(block, palette))
        else:
            session.run(Job("Copying", lambda progress: as_text(block, palette)), take)

    def cut(self) -> None:
        """Copies what is selected, and clears it."""
        self.copy()
        self.clear()

    def paste(self) -> None:
        """Takes the block on the clipboard in hand."""
        session = self._session
        text = clipped(BLOCK)
        sheets = [sheet.id for sheet in session.document.project.sheets]
        self._hold(from_text(text, session.document.palette, sheets))

    def take(self) -> None:
        """Takes a copy of what is selected in hand."""
        self._hold(self._lifted()[0])

    def clear(self) -> None:
        """Empties the cells that are selected."""
        session, shape = self._session, self._shape()
        ground = known(session.ground)
        layers, document, before = session.layers_worked_on, session.document, session.document.state

        def work(progress: Callable[[float], None]) -> Changed:
            return cleared(before.project, ground, before.planes[ground.id], layers, shape)

        def empty(changed: Changed) -> None:
            if document is not session.document or document.state is not before:
                raise BadRequest("The project was changed meanwhile, so nothing was cleared; clear it once more.")
            with document.step("clear selection"):
                put(document, "clear selection", ground.id, changed)
                carry(document, ground.id, layers, shape, None)

        if known(session.selected).count <= _AT_ONCE:
            empty(work(lambda share: None))
        else:
            session.run(Job("Clearing", work), lambda changed: session.attempt(lambda: empty(changed)))

    def fill(self) -> None:
        """Lays what is in hand on all cells that are selected."""
        session = self._session
        chosen = session.choices
        fill_shape(session.document, chosen.ground_id, chosen.layer_id, session.hand, self._shape())

    def hold(self) -> None:
        """Pins the tiles of the cells that are selected, on all derived layers that are worked on."""
        self._pins(lambda ground, layer, shape: pin_seen(self._session.derived, ground, layer, shape))

    def reknit(self) -> None:
        """Takes the pins out of the cells that are selected, so that they are knit again."""
        self._pins(lambda ground, layer, shape: pin(self._session.document, ground, layer, shape, 0, "knit anew"))

    def _pins(self, act: Callable[[str, str, Shape], None]) -> None:
        session, shape, ground = self._session, self._shape(), known(self._session.ground)
        derived = [name for name in session.layers_worked_on if ground.layer(name).pinnable]
        if not derived:
            raise BadRequest("Only terrains and plans are knit; choose a layer of one of them first.")
        with session.document.step("pin or knit what is selected"):
            for name in derived:
                check_unlocked(ground.layer(name))
                act(ground.id, name, shape)

    def select_all(self) -> None:
        """Selects the whole ground."""
        ground = self._session.ground
        if ground is not None:
            self._session.select(inverted(ground.board, NOTHING))

    def select_nothing(self) -> None:
        """Selects no cell and chooses no thing."""
        self._session.select(None)
        self._session.choose(things=frozenset())

    def _turn_things(self, *, mirror: bool = False) -> None:
        if self._places():
            self._things.turn_next(_QUARTER, mirror=mirror)
        else:
            self._things.turn(_QUARTER, mirror=mirror)

    def invert(self) -> None:
        """Selects the cells that are not selected."""
        self._session.select(inverted(known(self._session.ground).board, self._shape()))

    def widen(self, steps: int) -> None:
        """Selects some cells more or fewer all round."""
        self._session.select(grown(known(self._session.ground).board, self._shape(), steps))

    def next_snap(self) -> None:
        """Something else that things snap to."""
        self._things.next_snap()

    def next_way(self) -> None:
        """Another way to select."""
        way = SHAPES.index(self._session.choices.selecting)
        self._session.choose(selecting=SHAPES[(way + 1) % len(SHAPES)])

    def turn(self, orientation: int) -> None:
        """Turns or mirrors the block in hand."""
        session = self._session
        ground = session.ground
        if ground is not None and ground.isometric and orientation & 1:
            session.say("On isometric grounds a block can be mirrored, but its tiles can't be turned.")
            return
        if ground is not None and not ground.projection.straight:
            session.say("On grounds of hexagons a block can't be turned or mirrored yet; lay its tiles one by one.")
            return
        forms = None if ground is not None and ground.isometric else TurnedForms(session.derived)
        session.choose(lifted=turned(known(session.choices.lifted), orientation, forms))

    def _hold(self, block: Block) -> None:
        self._session.choose(lifted=block)
        self._session.tool_wanted.emit("place")

    def _lifted(self) -> tuple[Block, tuple[int, int]]:
        session = self._session
        ground = known(session.ground)
        return lift(ground, session.document.state.planes[ground.id], session.layers_worked_on, self._shape())

    def _shape(self) -> Shape:
        selected = self._session.selected
        if selected is None:
            raise BadRequest(_NOTHING)
        return selected.shape

    def _picture(self) -> object | None:
        """What is selected as it looks, if that is no huge picture."""
        session = self._session
        ground, shape = known(session.ground), self._shape()
        area = ground.projection.bounds(shape.window)
        if area.width * area.height > _MOST_PICTURED:
            return None
        return image_of(straight(render(session.derived.scene(session.derived.knitted(ground.id)), area)))

    def _refused(self) -> str:
        return "" if self._session.selected is not None else _NOTHING

    def _no_block(self) -> str:
        return "" if self._session.choices.lifted is not None else "No block is in hand; copy or paste one first."
