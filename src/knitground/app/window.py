"""The window: stages over two halves, and the ledger at the foot."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QSettings, QSize, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QIcon, QKeySequence, QShowEvent
from PySide6.QtWidgets import QFrame, QMainWindow, QSplitter, QStackedWidget, QWidget

from knitground.app.allowed import a_menu, allow_entry
from knitground.app.commands import Command, Commands
from knitground.app.deliver.commands import deliver_commands
from knitground.app.deliver.runs import Runs
from knitground.app.finder import Finder
from knitground.app.ground.commands import ground_commands
from knitground.app.ground_pane import GroundPane
from knitground.app.grow.commands import grow_commands
from knitground.app.grow.trial import Trial
from knitground.app.joins.commands import joins_commands
from knitground.app.keeper import Keeper
from knitground.app.keys.pointer import KeyPointer
from knitground.app.keys.tab_order import go_on
from knitground.app.known import known
from knitground.app.leads import go_to
from knitground.app.ledger import LedgerBar
from knitground.app.session import STAGES, Session
from knitground.app.sheet.panel import SheetPanel
from knitground.app.stage import Late, P, Panels, SheetTabs
from knitground.app.stitches.commands import stitches_commands
from knitground.app.strip import StageStrip
from knitground.app.theme.colours import dress
from knitground.app.theme.icons import app_icon
from knitground.app.tools.aside import places_still_offered
from knitground.app.walk.blocked import Blocked
from knitground.app.walk.routes import Routes
from knitground.app.walk.tightness import Tightness
from knitground.app.walk.walker import Walker
from knitground.app.walk.wayfinder import Wayfinder
from knitground.app.widgets import button, column, in_row, in_widget
from knitground.core.check.check import Finding
from knitground.core.project.file import FILE_NAME
from knitground.core.project.named import Named, everything

if TYPE_CHECKING:
    # They come in when they are first shown: the window opens a tenth sooner without them.
    from knitground.app.deliver.panel import DeliverPanel
    from knitground.app.ground.panel import GroundPanel
    from knitground.app.grow.panel import GrowPanel
    from knitground.app.joins.panel import JoinsPanel
    from knitground.app.stitches.panel import StitchesPanel

_SIDE_OF_HEADER = 200
_STAGE = 612
_IN_PROJECT_MENU = ("New project", "Open a project…", "Save", "Save in another folder…", "Add a sprite sheet…")


class _Stages(QStackedWidget):
    """The left halves of all stages, one shown; none of them moves the divider by what it holds."""

    def minimumSizeHint(self) -> QSize:
        return QSize(_STAGE, super().minimumSizeHint().height())


class Window(QMainWindow):
    """Puts the parts together; each brings its own commands."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowIcon(QIcon(app_icon()))
        self.session = Session(self)
        self.keeper = Keeper(self.session, self)
        self.trial = Trial(self.session)
        self._whole: int | None = None
        self._kept_halves: QByteArray | None = None
        self.ground = GroundPane(self.session, self.trial)
        self.ledger = LedgerBar(self.session, self.ground.view)
        self._build()
        dress(self)
        self.commands = Commands(self, self.ground)
        self._gather()
        self.commands.lend_keys(self._sheet().view)
        self.setAcceptDrops(True)
        # Room is left for the frame that the window manager draws.
        self.resize(QSize(1280, 800).boundedTo(self.screen().availableSize() - QSize(0, 30)))
        self.session.stage_changed.connect(self._show_stage)
        self.session.go_to.connect(self._go_to)
        for signal in (self.session.opened, self.session.changed, self.keeper.saved):
            signal.connect(self._refresh)
        self.trial.changed.connect(self._refresh)
        works_on = "selected", "lifted", "ground_id", "layer_id", "things", "sheet_id", "selection", "tile"
        self.session.on_choice(self.commands.refresh, *works_on)
        self.ground.new_ground_wanted.connect(self.commands.action("New ground…").trigger)
        self._restore_layout()
        self._refresh()
        self.session.opened.connect(self.ground.take_focus)
        # Without this the first keys of an empty start would go to the project's menu.
        self.ground.take_focus()

    def _build(self) -> None:
        self.walker = Walker(self.session, self.ground.view)
        self.routes = Routes(self.session, self.walker)
        self.blocked = Blocked(self.session, self.ground.view)
        self.tightness = Tightness(self.session, self.ground.view, self.blocked)
        self.wayfinder = Wayfinder(self.session, self.ground.view, self.blocked)
        self.pointer = KeyPointer(self.session, self.ground.view, self)
        self._runs = Runs(self.session)
        self.keeper.saved.connect(self._runs.saved)
        self._stack = _Stages()
        self._sheet = Late(self._make_sheet)
        self._joins = Late(self._make_joins)
        self._stitches = Late(self._make_stitches)
        self._ground = Late(self._make_ground)
        self._grow = Late(self._make_grow)
        self._deliver = Late(self._make_deliver)
        late = self._sheet, self._joins, self._stitches, self._ground, self._grow, self._deliver
        self.panels = Panels(dict(zip(STAGES, late, strict=True)))
        self._show_stage(self.session.choices.stage)
        define = QFrame()
        define.setObjectName("half")
        inner = column(self._stack)
        inner.setContentsMargins(8, 8, 8, 8)
        define.setLayout(inner)
        self._halves = QSplitter()
        self._halves.setHandleWidth(8)
        self._halves.setChildrenCollapsible(False)
        self._halves.addWidget(define)
        self._halves.addWidget(self.ground)
        self._halves.setSizes([640, 640])
        middle = column(self._halves)
        middle.setContentsMargins(8, 0, 8, 0)
        whole = QWidget()
        parts = column(self._header(), in_widget(middle), self.ledger, spacing=0)
        parts.setStretch(1, 1)
        whole.setLayout(parts)
        self.setCentralWidget(whole)

    def _placed(self, panel: P) -> P:
        """Puts a left half beside the others."""
        self._stack.addWidget(panel)
        return panel

    def _make_sheet(self) -> SheetPanel:
        return self._placed(SheetPanel(self.session, self._tabs()))

    def _make_joins(self) -> "JoinsPanel":
        from knitground.app.joins.panel import JoinsPanel

        return self._placed(JoinsPanel(self.session, self._tabs()))

    def _make_stitches(self) -> "StitchesPanel":
        from knitground.app.stitches.panel import StitchesPanel

        made = StitchesPanel(self.session, self._tabs())
        made.follow(self.ground.view)
        made.table.cell_wanted.connect(self.ground.show_cell)
        return self._placed(made)

    def _make_ground(self) -> "GroundPanel":
        from knitground.app.ground.panel import GroundPanel

        made = GroundPanel(self.session, self._tabs())
        self.commands.lend_keys(made.view)
        return self._placed(made)

    def _make_grow(self) -> "GrowPanel":
        from knitground.app.grow.panel import GrowPanel

        made = GrowPanel(self.session, self._tabs(), self.trial)
        self.commands.lend_keys(made.view)
        return self._placed(made)

    def _make_deliver(self) -> "DeliverPanel":
        from knitground.app.deliver.panel import DeliverPanel

        made = DeliverPanel(self.session, self._runs)
        made.live.show_on(self.ground.view)
        return self._placed(made)

    def _tabs(self) -> SheetTabs:
        made = SheetTabs(self.session)
        made.add_wanted.connect(lambda names: self.keeper.adder.add_sheet_files([Path(name) for name in names]))
        made.folder_wanted.connect(lambda name: self.keeper.adder.add_folder(Path(name)))
        made.collection_wanted.connect(lambda names: self.keeper.adder.add_images([Path(name) for name in names]))
        made.more_wanted.connect(
            lambda sheet, names: self.keeper.adder.add_more_images(sheet, [Path(name) for name in names])
        )
        return made

    def _header(self) -> QWidget:
        self._project = button("", self._project_menu, "Open, save, recent projects (Alt+P)", name="flat")
        self._project.setAccessibleName("Project")
        self._project.setStyleSheet("font-weight: 600; text-align: left;")
        self._find = button("Find   Ctrl+K", self.find_anything, "Every action, and all that has a name (Ctrl+K)")
        parts = in_row(self._project, None, StageStrip(self.session), None, self._find)
        if (layout := parts.layout()) is not None:
            layout.setContentsMargins(8, 2, 8, 2)
        # As wide as one another, so that the strip stays in the middle whatever the project is called.
        for side in (self._project, self._find):
            side.setFixedWidth(_SIDE_OF_HEADER)
        parts.setFixedHeight(46)
        return parts

    def _gather(self) -> None:
        """All commands: those of the window, then those of its parts."""
        self.commands.extend(self.keeper.commands())
        self.commands.extend(self._own_commands())
        for commands in (
            self._sheet().commands(),
            joins_commands(self.session, self._joins),
            stitches_commands(self.session, self._stitches),
            ground_commands(self.session, self, self._ground),
            grow_commands(self.session, self.trial, self._grow),
            deliver_commands(self.session, self._deliver),
        ):
            self.commands.extend(commands)
        for part in (
            self.ground,
            self.walker,
            self.routes,
            self.blocked,
            self.tightness,
            self.wayfinder,
            self.pointer,
            self.trial,
            self.ledger,
        ):
            self.commands.extend(part.commands())
        self.commands.extend([Command("Quit", self.close, ("Ctrl+Q",))])
        self.ledger.lead_by(self.commands.action)
        self.walker.changed.connect(self.commands.refresh)
        # Plain keys keep and drop what is tried, but only on the ground.
        keys = {"Keep what is tried": "Return", "Drop what is tried": "Escape"}
        self._on_trial = [self._trial_key(name, key) for name, key in keys.items()]

    def _own_commands(self) -> list[Command]:
        def stage(name: str) -> None:
            self.session.set_stage(name)

        stages = [
            Command(f"Stage {name.capitalize()}", lambda name=name: stage(name), (f"Ctrl+{number}",))  # type: ignore[misc]
            for number, name in enumerate(STAGES, start=1)
        ]
        return [
            Command("Undo", self.undo, ("Ctrl+Z",), refused=self._nothing_to_undo),
            Command("Redo", self.redo, ("Ctrl+Y", "Ctrl+Shift+Z"), refused=self._nothing_to_redo),
            *stages,
            Command("Only the left half, or both", lambda: self._take_whole(0), ("F7",)),
            Command("Only the ground, or both", lambda: self._take_whole(1), ("F8",)),
            Command("The project's menu", self._project_menu, ("Alt+P",)),
            Command("Find a command or a name", self.find_anything, ("Ctrl+K",)),
        ]

    def _trial_key(self, name: str, key: str) -> QAction:
        """A plain key for a command, which counts on the ground while something is tried."""
        on_ground = QAction(self.ground)
        on_ground.setShortcut(QKeySequence(key))
        on_ground.setShortcutContext(self.commands.action("Throw again").shortcutContext())
        on_ground.triggered.connect(self.commands.action(name).trigger)
        self.ground.addAction(on_ground)
        return on_ground

    def _nothing_to_undo(self) -> str:
        there = self.session.document.undo_label is not None or self.trial.running
        return "" if there else "There is nothing to undo."

    def _nothing_to_redo(self) -> str:
        return "" if self.session.document.redo_label is not None else "There is nothing to do again."

    def undo(self) -> None:
        """Takes the last step back; what is only tried is dropped first."""
        if self.trial.running:
            self.trial.drop()
            return
        if self.session.document.gesture is not None:
            return  # a stroke or a drag is under way; Escape takes that back
        label = self.session.document.undo()
        offered = places_still_offered(self.session)
        self.session.say(f"Undid: {label}" if label else "There is nothing to undo.", *offered)

    def redo(self) -> None:
        """Does the last step again."""
        if self.session.document.gesture is not None:
            return
        label = self.session.document.redo()
        self.session.say(f"Did again: {label}" if label else "There is nothing to do again.")

    def find_anything(self) -> None:
        """Opens the finder below its button."""
        self.commands.refresh()
        finder = Finder(self, self.commands.actions, everything(self.session.document.project), self._go_to_named)
        finder.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        corner = self._find.mapToGlobal(self._find.rect().bottomRight())
        finder.move(corner.x() - finder.width(), corner.y() + 4)
        finder.show()

    def _project_menu(self) -> None:
        self.commands.refresh()
        menu = a_menu(self)
        for name in _IN_PROJECT_MENU:
            menu.addAction(self.commands.action(name))
        recent = [path for path in self.keeper.recent() if path != self.session.document.folder]
        if recent:
            menu.addSeparator()
        for path in recent:
            menu.addAction(
                f"{path.name}   {path.parent}",
                lambda p=path: self.keeper.may_close() and self.keeper.open_path(p),  # type: ignore[misc]
            )
        for names in (("Undo", "Redo"), ("Quit",)):
            menu.addSeparator()
            for name in names:
                menu.addAction(self.commands.action(name))
        menu.popup(self._project.mapToGlobal(self._project.rect().bottomLeft()))

    def _take_whole(self, half: int) -> None:
        """Gives one half the whole window, or gives it back."""
        self._whole = None if self._whole == half else half
        for index in (0, 1):
            known(self._halves.widget(index)).setVisible(self._whole in (None, index))

    def _show_stage(self, stage: str) -> None:
        self._stack.setCurrentWidget(self.panels[stage])

    def _go_to(self, finding: Finding) -> None:
        """Leads to what a finding is about."""
        self.session.set_stage(finding.stage)
        self.panels[finding.stage].show_finding(finding)
        if finding.row is not None and finding.column is not None:
            self.ground.show_cell(finding.row, finding.column)

    def _go_to_named(self, to: Named) -> None:
        go_to(self.session, to)
        if to.at is not None:
            self.ground.show_proof(False)
            self.ground.view.centre_on(*to.at)

    def _refresh(self, *_: object) -> None:
        document = self.session.document
        changed = " •" if document.changed else ""
        only = " (read only)" if self.keeper.read_only else ""
        self._project.setText(f"{document.title}{changed}")
        self.setWindowTitle(f"{document.title}{changed}{only} – Knit Ground")
        self.commands.refresh()
        for action in self._on_trial:
            allow_entry(action, "" if self.trial.running else "Nothing is being tried.")

    def focusNextPrevChild(self, onwards: bool) -> bool:
        return go_on(self, back=not onwards) or super().focusNextPrevChild(onwards)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        event.acceptProposedAction()
        pictures = []
        for path in paths:
            if path.is_dir() and not (path / FILE_NAME).exists():
                self.keeper.adder.add_folder(path)
                continue
            if path.is_dir() or path.suffix == ".json":
                if self.keeper.may_close():
                    self.keeper.open_path(path)
                return
            pictures.append(path)
        self.keeper.adder.add_sheet_files(pictures)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        # What the halves ask for at the least is only known once they are dressed and shown.
        if self._kept_halves is not None:
            self._halves.restoreState(self._kept_halves)
            self._kept_halves = None

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.keeper.may_close():
            event.ignore()
            return
        if self._deliver.made is not None:
            self._deliver.made.live.stop()
        self.session.wait_for_checks()
        self.keeper.closed()
        settings = QSettings()
        settings.setValue("geometry", self.saveGeometry())
        settings.setValue("halves", self._halves.saveState())
        event.accept()

    def _restore_layout(self) -> None:
        settings = QSettings()
        geometry, halves = settings.value("geometry"), settings.value("halves")
        if geometry is not None and halves is not None:
            self.restoreGeometry(geometry)
            self._kept_halves = halves
