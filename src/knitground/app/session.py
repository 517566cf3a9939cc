"""What the parts of the window share: the document, what is chosen in it, and a voice for messages."""

from collections.abc import Callable
from typing import Any, Literal, TypeVar

from PySide6.QtCore import QObject, QTimer, Signal

from knitground.app.choices import FIELDS, Choices
from knitground.app.clock import Clock
from knitground.app.jobs import Job, are_put_off, hold_jobs, wait_for_jobs, while_there
from knitground.app.known import known, with_id
from knitground.core.check.check import Finding
from knitground.core.edits.blocks import Block, pattern_of
from knitground.core.edits.grounds import is_under_others, paint_with
from knitground.core.edits.painting import Hand, Turning
from knitground.core.edits.pattern import Pattern
from knitground.core.edits.placing import SNAPS, Sizes, Snap
from knitground.core.edits.selecting import Selected
from knitground.core.edits.symmetry import WAYS, Symmetry
from knitground.core.edits.things import put
from knitground.core.errors import told
from knitground.core.grid.board import Board
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import Mix
from knitground.core.grow.recipe import Recipe
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import PropLayer, as_props
from knitground.core.project.derived import Derived
from knitground.core.project.document import Change, Document
from knitground.core.project.ledger import Answers, Ledger
from knitground.core.sheet.cut import tile_size
from knitground.core.stitches.rules import Stitch, StitchSet
from knitground.core.tiles.tile import TileRef

STAGES = ("sheet", "joins", "stitches", "ground", "grow", "deliver")
_SETTLE_MS, _SOON_MS = 250, 30
_SETS_OF_STAGE = {"joins": ("join_sets", "join_set_id"), "stitches": ("stitch_sets", "stitch_set_id")}

T = TypeVar("T")


class Session(QObject):
    """The open document and the choices made in the window; parts listen to its signals.

    `changed` comes with every edit, `defined` only when definitions changed: panels that show no painted cells
    listen to the latter, so that a stroke costs no more than what it touches. `chosen` comes with the names of the
    choices that changed together; see `on_choice`.
    """

    opened = Signal()
    changed = Signal(object)
    defined = Signal()
    chosen = Signal(object)
    stage_changed = Signal(str)
    findings_changed = Signal()
    said = Signal(str, bool)
    job_started = Signal(object)
    led = Signal(tuple)
    go_to = Signal(object)
    tool_wanted = Signal(str)
    """The name of a tool, or nothing for the one that laid something last."""
    proof_wanted = Signal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.choices = Choices()
        self.findings: list[Finding] = []
        self._check: Job | None = None
        self.clock = Clock(self)
        self.looked_at = 0.0, 0.0
        """The place of the ground, in its pixels, that is in the middle of its view."""
        self.advised: set[tuple[str, ...]] = set()
        """What was told once and need not be told again while the document is open."""
        self.stroke_ended = 0.0, 0.0
        """Where the pointer was on the ground when a stroke was laid last."""
        self._patterned: tuple[tuple[Block, str, Board], Pattern | None] | None = None
        # Findings near a stroke are right again at once; what takes longer waits until the work pauses.
        self._soon = QTimer(self, singleShot=True, interval=_SOON_MS)
        self._soon.timeout.connect(self._look_at_few)
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._settle.timeout.connect(self.check_grounds)
        for signal in (self.opened, self.defined, self.chosen, self.stage_changed):
            signal.connect(hold_jobs)
        self.open(Document())

    def open(self, document: Document, ledger: Ledger | None = None) -> None:
        """Takes a document over as the open one, with what was found of it beside the interface, if anything was."""
        self.document = document
        self.ledger = ledger or Ledger(Derived(document))
        self.derived = self.ledger.derived
        self._dropped = 0
        self.advised.clear()
        document.listeners.append(self._on_change)
        self.clock.follow(self.derived)
        plain = Choices()
        self.choices.update({name: getattr(plain, name) for name in FIELDS if name != "stage"})
        self._repair_choices()
        self.opened.emit()
        self._show_findings()
        self._settle.start()

    def choose(self, **choices: Any) -> None:
        """Sets some of the choices (see `Choices`), and tells who looks at those that changed."""
        changed = self.choices.update(choices) | self._repair_choices()
        if choices.get("tile") is not None:
            more = {"cut_id": choices["tile"].cut, "orientation": 0, "repeats": False}
            changed |= self.choices.update({name: value for name, value in more.items() if name not in choices})
        if choices.get("tile") is not None or choices.get("lifted") is not None:
            self.choices.update({"holds_block": choices.get("lifted") is not None})
        layer = self.layer if "layer_id" in choices else None
        for things, name in _SETS_OF_STAGE.values():
            if layer is not None and layer.takes_terrains_of == things and layer.set_id:
                changed |= self.choices.update({name: layer.set_id})
        if ("join_set_id" in choices or "layer_id" in choices) and "sheet_id" not in choices:
            changed |= self._show_sheet_of_joins()
        if changed:
            self.chosen.emit(changed)
        if "layer_id" not in choices and _SETS_OF_STAGE.get(self.choices.stage, ("", ""))[1] in choices:
            self._take_fitting_layer()

    def on_choice(self, act: Callable[[], object], *names: str) -> None:
        """Calls a function once whenever some of these choices changed."""
        wanted = frozenset(names)
        if not wanted <= set(FIELDS):
            raise ValueError(f"no such choice among {names}")
        self.chosen.connect(lambda changed: act() if wanted & changed else None)

    def _show_sheet_of_joins(self) -> frozenset[str]:
        """Turns to a sheet that holds tiles of the join set at hand, if the sheet that is shown holds none."""
        join_set = self.join_set
        sheets = [ref.sheet for ref in join_set.labels] if join_set and self.choices.stage == "joins" else []
        known = {sheet.id for sheet in self.document.project.sheets}
        if sheets and sheets[0] in known and self.choices.sheet_id not in sheets:
            return self.choices.update({"sheet_id": sheets[0]})
        return frozenset()

    def set_stage(self, stage: str) -> None:
        """Goes to a stage of the work, and takes in hand a layer that shows what the stage is about."""
        if stage == self.choices.stage:
            return
        self.choices.update({"stage": stage})
        self._take_fitting_layer()
        self.stage_changed.emit(stage)

    def _take_fitting_layer(self) -> None:
        """Takes a layer in hand that shows the set that the stage is about, if there is one."""
        things, chosen = _SETS_OF_STAGE.get(self.choices.stage, ("", ""))
        fitting = [
            layer.id
            for layer in (self.ground.layers if self.ground and chosen else ())
            if layer.takes_terrains_of == things and layer.set_id == getattr(self.choices, chosen)
        ]
        if fitting and self.choices.layer_id not in fitting:
            self.choose(layer_id=fitting[0])

    @property
    def hand(self) -> Hand:
        """What is in hand, as gestures take it."""
        chosen = self.choices
        mix = self.mix if chosen.lays_mix else None
        return Hand(
            chosen.tile, chosen.orientation, mix, chosen.throw, chosen.terrain, chosen.radius, chosen.runs,
            form=chosen.form, alike=chosen.alike, pattern=self.pattern, symmetry=self.symmetry, turning=self.turning,
        )  # fmt: skip

    @property
    def turning(self) -> Turning:
        """How tiles are turned by chance; where cells are not square, they are only mirrored."""
        wanted, ground = self.choices.turning, self.ground
        if wanted == "as it is" or ground is None:
            return "as it is"
        square = ground.tile_width == ground.tile_height and ground.outline == "box"
        return "turned" if wanted == "turned" and square else "mirrored"

    @property
    def symmetry(self) -> Symmetry | None:
        """Where gestures on the ground at hand fall once more."""
        way = next((one for one in WAYS if one == self.choices.symmetry), WAYS[0])
        return None if way == "none" or self.ground is None else Symmetry(way, self.ground.projection)

    @property
    def pattern(self) -> Pattern | None:
        """What the block in hand repeats on the layer at hand, if it is to be laid so."""
        layer, block = self.layer, self.choices.lifted
        if not self.choices.repeats or block is None or layer is None or not layer.holds_tiles:
            return None
        about = block, layer.area_plane, known(self.ground).board
        if self._patterned is None or self._patterned[0] != about:
            self._patterned = about, pattern_of(block, layer, about[2])
        return self._patterned[1]

    @property
    def ground(self) -> Ground | None:
        """The ground that is shown."""
        return with_id(self.document.project.grounds, self.choices.ground_id)

    @property
    def layer(self) -> Layer | None:
        """The layer that tools work on."""
        return with_id(self.ground.layers, self.choices.layer_id) if self.ground else None

    @property
    def selected(self) -> Selected | None:
        """The cells of the ground at hand that are selected."""
        chosen, ground = self.choices.selected, self.ground
        if chosen is None or ground is None or chosen.ground != ground.id:
            return None
        # The ground may have become smaller since.
        return chosen if chosen.shape.window.inside(ground.board.whole) == chosen.shape.window else None

    def select(self, shape: Shape | None) -> None:
        """Selects cells of the ground at hand, or none."""
        ground = self.ground
        empty = shape is None or shape.window.is_empty or not shape.mask.any()
        self.choose(selected=None if empty or ground is None or shape is None else Selected(ground.id, shape))

    @property
    def layers_worked_on(self) -> list[str]:
        """The layers off which what is selected is taken: the one at hand, or all that show and can be changed."""
        ground, layer = self.ground, self.layer
        if ground is None or layer is None:
            return []
        return [one.id for one in ground.shown() if not one.locked] if self.choices.across else [layer.id]

    @property
    def props(self) -> PropLayer | None:
        """The prop layer at hand."""
        layer = self.layer
        return None if layer is None else as_props(layer)

    @property
    def snap(self) -> Snap:
        """What things snap to."""
        return next((one for one in SNAPS if one == self.choices.snap), SNAPS[0])

    @property
    def thing_kind(self) -> str:
        """The kind of things that are placed next, if there is one."""
        kind = with_id(self.document.project.thing_kinds, self.choices.thing_kind)
        return "" if kind is None else kind.id

    def sizes(self) -> Sizes:
        """A function that gives the width and height of tiles in pixels; (0, 0) where there is none."""
        sliced, known = self.derived.sliced(), dict[Any, tuple[int, int]]()

        def size(ref: TileRef | None) -> tuple[int, int]:
            if ref not in known:
                slices = None if ref is None else sliced.get((ref.sheet, ref.cut))
                there = ref is not None and slices is not None and slices.holds(ref.column, ref.row)
                known[ref] = tile_size(slices.cut, ref.column, ref.row) if there and slices and ref else (0, 0)
            return known[ref]

        return size

    @property
    def join_set(self) -> JoinSet | None:
        """The join set at hand."""
        return with_id(self.document.project.join_sets, self.choices.join_set_id)

    @property
    def stitch_set(self) -> StitchSet | None:
        """The stitch set at hand."""
        return with_id(self.document.project.stitch_sets, self.choices.stitch_set_id)

    @property
    def stitch(self) -> Stitch | None:
        """The stitch at hand."""
        return with_id(self.stitch_set.stitches, self.choices.stitch_id) if self.stitch_set else None

    @property
    def mix(self) -> Mix | None:
        """The mix at hand."""
        return with_id(self.document.project.mixes, self.choices.mix_id)

    def terrains_of(self, layer: Layer | None) -> tuple[Terrain, ...]:
        """What can be painted on a layer."""
        return layer.terrains(self.document.project) if layer else ()

    def paint_with(self, set_id: str, things: Literal["join_sets", "stitch_sets"]) -> None:
        """Goes to the ground with a set in hand, on a layer that it lays."""
        ground = self.ground.id if self.ground else None
        made = self.attempt(lambda: paint_with(self.document, ground, set_id, things))
        if made is not None:
            self.set_stage("ground")
            self.choose(ground_id=made[0], layer_id=made[1], terrain=made[2])
            self.tool_wanted.emit("draw")
            below = ", below all that it would hide" if is_under_others(self.document, *made[:2]) else ""
            self.say(f"“{known(self.layer).name}” is in hand{below}; paint on the ground.")

    def put_mix(self, mix: Mix, label: str) -> None:
        """Adds a mix, or exchanges it for a changed one."""
        put(self.document, label, "mixes", mix)

    def put_recipe(self, recipe: Recipe) -> None:
        """Adds a recipe, or exchanges it for a changed one."""
        put(self.document, "change recipe", "recipes", recipe)

    def attempt(self, act: Callable[[], T]) -> T | None:
        """Does something; if it cannot be done, says so in the window and gives None."""
        try:
            return act()
        except Exception as problem:
            sentence = told(problem)
            if sentence is None:
                raise
            self.said.emit(str(sentence), True)
            return None

    def say(self, sentence: str, *leads: str) -> None:
        """Shows a sentence for a while; beside it the commands that lead to what it names."""
        self.said.emit(sentence, False)
        self.led.emit(leads)

    def run(self, job: Job, then: Callable[[Any], None]) -> Job:
        """Starts a job that shows in the window; `then` gets its result on the interface thread."""
        # Qt drops a method together with its part of the window; a plain function it would call afterwards, too.
        bound = isinstance(getattr(then, "__self__", None), QObject)
        job.succeeded.connect(then if bound else while_there(self, then))
        job.failed.connect(while_there(self, lambda sentence: self.said.emit(sentence, True)))
        self.job_started.emit(job)
        job.start()
        return job

    def check_grounds(self) -> None:
        """Looks for findings where nobody has looked yet; if that is much, beside the interface."""
        if are_put_off():
            self._settle.start()
            return
        if self._check is not None:
            self._check.cancel()
        if self.ledger.look():
            self._show_findings()
            return
        ledger, look = self.ledger, self.ledger.job()
        self._check = Job("Checking the grounds", lambda report: (ledger, look(report)), stands_back=True)
        self._check.succeeded.connect(self._take_answers)
        self._check.start()

    def _take_answers(self, found: tuple[Ledger, Answers]) -> None:
        if found[0] is self.ledger:  # another project may have been opened meanwhile
            self.ledger.take(found[1])
            self._show_findings()

    def wait_for_checks(self) -> None:
        """Stops looking for findings, and waits until the check that runs has noticed."""
        self._settle.stop()
        self._soon.stop()
        if self._check is not None:
            self._check.cancel()
        wait_for_jobs()

    def _look_at_few(self) -> None:
        if self.ledger.look():
            self._settle.stop()
        self._show_findings()

    def _show_findings(self) -> None:
        found = self.ledger.findings
        if found != self.findings:
            self.findings = found
            self.findings_changed.emit()

    def _on_change(self, change: Change) -> None:
        if change.defined:
            repaired = self._repair_choices()
            self.ledger.define()
            self._show_findings()
            self.clock.follow(self.derived)
            self.defined.emit()
            if repaired:
                self.chosen.emit(repaired)
        else:
            self.ledger.reach(self.derived.reached)
        self._soon.start()
        self._settle.start()
        self.changed.emit(change)
        if self.document.history.dropped > self._dropped:
            self._dropped = self.document.history.dropped
            self.say("The history is full: the oldest step can't be undone any more.")

    def _repair_choices(self) -> frozenset[str]:
        """Lets every choice point to something that exists, where there is any; the names of those that changed."""
        project = self.document.project
        of_project = (
            ("sheet_id", project.sheets), ("ground_id", project.grounds), ("join_set_id", project.join_sets),
            ("stitch_set_id", project.stitch_sets), ("mix_id", project.mixes),
        )  # fmt: skip
        lost = [(name, things) for name, things in of_project if with_id(things, getattr(self.choices, name)) is None]
        changed = self.choices.update({name: getattr(things[0], "id", "") if things else "" for name, things in lost})
        if (tile := self.choices.tile) is not None and (tile.sheet, tile.cut) not in project.cuts:
            changed |= self.choices.update({"tile": None})
        layers = self.ground.layers if self.ground else ()
        if with_id(layers, self.choices.layer_id) is None:
            changed |= self.choices.update({"layer_id": layers[0].id if layers else ""})
        if self.choices.things:
            there = {thing.id for thing in self.props.things} if self.props else set()
            changed |= self.choices.update({"things": self.choices.things & there})
        return changed | self.choices.update({"terrain": max(1, self.choices.terrain)})
