"""What the parts of the window share: the document, what is chosen in it, and a voice for messages."""

import logging
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from knitground.app.clock import Clock
from knitground.app.jobs import Job, wait_for_jobs
from knitground.core.check.findings import Finding
from knitground.core.errors import KnitGroundError
from knitground.core.ground.layers import Ground, StitchedLayer, TerrainLayer, TileLayer
from knitground.core.grow.mix import Mix
from knitground.core.joins.layouts import Arrangement
from knitground.core.joins.sets import JoinSet, Labels, Terrain
from knitground.core.project.audit import definition_findings, ground_check
from knitground.core.project.derived import Derived
from knitground.core.project.document import Change, Document
from knitground.core.project.operations import put
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import TileRef

STAGES = ("sheet", "joins", "stitches", "ground", "grow", "deliver")
_SETTLE_MS = 250
_log = logging.getLogger(__name__)

AnyLayer = TileLayer | TerrainLayer | StitchedLayer


class Session(QObject):
    """The open document and the choices made in the window; parts listen to its signals.

    `changed` comes with every edit, `defined` only when definitions changed: panels that show no painted cells
    listen to the latter, so that a stroke costs no more than what it touches.
    """

    opened = Signal()
    changed = Signal(object)
    defined = Signal()
    chosen = Signal()
    stage_changed = Signal(str)
    findings_changed = Signal()
    said = Signal(str, bool)
    job_started = Signal(object)
    go_to = Signal(object)
    tool_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.stage = "sheet"
        self.findings: list[Finding] = []
        self._check: Job | None = None
        self.clock = Clock(self)
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._settle.timeout.connect(self.check_grounds)
        self.open(Document())

    def open(self, document: Document) -> None:
        """Takes a document over as the open one."""
        self.document = document
        self.derived = Derived(document)
        document.listeners.append(self._on_change)
        self.clock.follow(self.derived)
        self.sheet_id = self.ground_id = self.layer_id = self.join_set_id = self.stitch_set_id = ""
        self.mix_id = self.cut_id = ""
        self.tile: TileRef | None = None
        self.lays_mix = False
        self.terrain = 1
        self.radius = 0
        self.runs = False
        self.wanted: Labels | None = None
        self.arrangement: Arrangement | None = None
        self.selection: frozenset[TileRef] = frozenset()
        self.throw = 1
        self.backdrop = "checker"
        self._repair_choices()
        self.opened.emit()
        self.check()

    def choose(self, **choices: Any) -> None:
        """Sets some of the choices (ids, tile, terrain, radius, runs, throw, wanted and so on) and tells everybody."""
        for name, value in choices.items():
            setattr(self, name, value)
        self._repair_choices()
        if choices.get("tile") is not None:
            self.cut_id = self.tile.cut
        if "join_set_id" in choices:
            self.wanted = self.arrangement = None
        layer = self.layer if "layer_id" in choices else None
        if isinstance(layer, TerrainLayer):
            self.join_set_id = layer.join_set
        elif isinstance(layer, StitchedLayer):
            self.stitch_set_id = layer.stitch_set
        if "join_set_id" in choices or "layer_id" in choices:
            self._show_sheet_of_joins()
        self.chosen.emit()

    def _show_sheet_of_joins(self) -> None:
        """Turns to a sheet that holds tiles of the join set at hand, if the sheet that is shown holds none."""
        join_set = self.join_set
        sheets = [ref.sheet for ref in join_set.labels] if join_set and self.stage == "joins" else []
        if sheets and self.sheet_id not in sheets and any(s.id == sheets[0] for s in self.document.project.sheets):
            self.sheet_id = sheets[0]

    def set_stage(self, stage: str) -> None:
        """Goes to a stage of the work, and takes in hand a layer that shows what the stage is about."""
        if stage == self.stage:
            return
        self.stage = stage
        layers = self.ground.layers if self.ground else ()
        fitting = [
            layer.id
            for layer in layers
            if (stage == "joins" and isinstance(layer, TerrainLayer) and layer.join_set == self.join_set_id)
            or (stage == "stitches" and isinstance(layer, StitchedLayer) and layer.stitch_set == self.stitch_set_id)
        ]
        if fitting and self.layer_id not in fitting:
            self.choose(layer_id=fitting[0])
        self.stage_changed.emit(stage)

    @property
    def ground(self) -> Ground | None:
        """The ground that is shown."""
        return _by_id(self.document.project.grounds, self.ground_id)

    @property
    def layer(self) -> AnyLayer | None:
        """The layer that tools work on."""
        return _by_id(self.ground.layers, self.layer_id) if self.ground else None

    @property
    def join_set(self) -> JoinSet | None:
        """The join set at hand."""
        return _by_id(self.document.project.join_sets, self.join_set_id)

    @property
    def stitch_set(self) -> StitchSet | None:
        """The stitch set at hand."""
        return _by_id(self.document.project.stitch_sets, self.stitch_set_id)

    @property
    def mix(self) -> Mix | None:
        """The mix at hand."""
        return _by_id(self.document.project.mixes, self.mix_id)

    def terrains_of(self, layer: AnyLayer | None) -> tuple[Terrain, ...]:
        """What can be painted on a derived layer."""
        if isinstance(layer, TerrainLayer):
            join_set = _by_id(self.document.project.join_sets, layer.join_set)
            return join_set.terrains if join_set else ()
        if isinstance(layer, StitchedLayer):
            stitch_set = _by_id(self.document.project.stitch_sets, layer.stitch_set)
            return stitch_set.marks if stitch_set else ()
        return ()

    def put_mix(self, mix: Mix, label: str) -> None:
        """Adds a mix, or exchanges it for a changed one."""
        put(self.document, label, "mixes", mix)

    def attempt(self, act: Callable[[], Any]) -> Any:
        """Does something; if it cannot be done, says so in the window and gives None."""
        try:
            return act()
        except KnitGroundError as problem:
            self.said.emit(str(problem), True)
            return None

    def say(self, sentence: str) -> None:
        """Shows a sentence for a while."""
        self.said.emit(sentence, False)

    def run(self, job: Job, then: Callable[[Any], None]) -> Job:
        """Starts a job that shows in the window; `then` gets its result on the interface thread."""
        job.succeeded.connect(then)
        job.failed.connect(lambda sentence: self.said.emit(sentence, True))
        self.job_started.emit(job)
        job.start()
        return job

    def check(self) -> None:
        """Looks for findings: in definitions at once, on the grounds when the work pauses."""
        self.findings = definition_findings(self.derived) + [one for one in self.findings if _found_later(one)]
        self.findings_changed.emit()
        self._settle.start()

    def check_grounds(self) -> None:
        """Looks for findings on the grounds, beside the interface; a newer check replaces one that runs."""
        if self._check is not None:
            self._check.cancel()
        document = self.document
        self._check = Job("Checking the grounds", ground_check(self.derived))
        self._check.succeeded.connect(lambda found: self._take_findings(found) if document is self.document else None)
        self._check.start()

    def wait_for_checks(self) -> None:
        """Stops looking for findings, and waits until the check that runs has noticed."""
        self._settle.stop()
        if self._check is not None:
            self._check.cancel()
        wait_for_jobs()

    def _take_findings(self, found: list[Finding]) -> None:
        self.findings = [finding for finding in self.findings if not _found_later(finding)] + found
        self.findings_changed.emit()

    def _on_change(self, change: Change) -> None:
        if change.defined:
            self._repair_choices()
            self.findings = definition_findings(self.derived) + [one for one in self.findings if _found_later(one)]
            self.findings_changed.emit()
            self.clock.follow(self.derived)
            self.defined.emit()
        self._settle.start()
        self.changed.emit(change)

    def _repair_choices(self) -> None:
        """Lets every choice point to something that exists, where there is any."""
        project = self.document.project
        for name, things in (
            ("sheet_id", project.sheets), ("ground_id", project.grounds), ("join_set_id", project.join_sets),
            ("stitch_set_id", project.stitch_sets), ("mix_id", project.mixes),
        ):  # fmt: skip
            if _by_id(things, getattr(self, name)) is None:
                setattr(self, name, getattr(things[0], "id") if things else "")  # noqa: B009
        layers = self.ground.layers if self.ground else ()
        if _by_id(layers, self.layer_id) is None:
            self.layer_id = layers[0].id if layers else ""
        self.terrain = max(1, self.terrain)


def _found_later(finding: Finding) -> bool:
    """Whether a finding comes from the check that runs beside the interface."""
    return finding.stage == "ground" or finding.kind in ("seam", "fell away")


def _by_id(things: Any, wanted: str) -> Any:
    return next((thing for thing in things if thing.id == wanted), None)
