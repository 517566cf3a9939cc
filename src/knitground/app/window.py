"""The window: stages over two halves, and the ledger at the foot."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings, QSize, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import QFrame, QMainWindow, QMenu, QSplitter, QStackedWidget, QWidget

from knitground.app.deliver.panel import DeliverPanel
from knitground.app.finder import Finder
from knitground.app.ground.panel import GroundPanel
from knitground.app.ground_pane import TOOLS, GroundPane
from knitground.app.grow.panel import GrowPanel
from knitground.app.grow.trial import Trial
from knitground.app.joins.panel import JoinsPanel
from knitground.app.keeper import Keeper
from knitground.app.ledger import LedgerBar
from knitground.app.session import STAGES, Session
from knitground.app.sheet.panel import SheetPanel
from knitground.app.stage import SheetTabs
from knitground.app.stitches.panel import StitchesPanel
from knitground.app.strip import StageStrip
from knitground.app.widgets import button, column, held, held_layout
from knitground.core.check.check import Finding
from knitground.core.project.file import FILE_NAME

_SIDE_OF_HEADER = 200


class Window(QMainWindow):
    """Puts the parts together and gives every action its name and key."""

    def __init__(self) -> None:
        super().__init__()
        self.session = Session()
        self.keeper = Keeper(self.session, self)
        self.trial = Trial(self.session)
        self.ground = GroundPane(self.session)
        self.ledger = LedgerBar(self.session, self.ground.view)
        self._commands: list[QAction] = []
        self._whole: int | None = None
        self._build()
        self._make_actions()
        self.setAcceptDrops(True)
        # Room is left for the frame that the window manager draws.
        self.resize(QSize(1280, 800).boundedTo(self.screen().availableSize() - QSize(0, 30)))
        self.session.stage_changed.connect(self._show_stage)
        self.session.go_to.connect(self._go_to)
        for signal in (self.session.opened, self.session.changed, self.keeper.saved):
            signal.connect(self._refresh)
        self.trial.changed.connect(self._refresh)
        self.ground.new_ground_wanted.connect(self.panels["ground"].new_ground)
        self._restore_layout()
        self._refresh()
        self.session.opened.connect(self.ground.view.setFocus)

    def _build(self) -> None:
        def tabs() -> SheetTabs:
            made = SheetTabs(self.session)
            made.add_wanted.connect(lambda name: self.keeper.add_sheet_file(Path(name)))
            made.collection_wanted.connect(lambda names: self.keeper.add_images([Path(name) for name in names]))
            return made

        self.panels: dict[str, QWidget] = {
            "sheet": SheetPanel(self.session, tabs()),
            "joins": JoinsPanel(self.session, tabs()),
            "stitches": StitchesPanel(self.session, tabs()),
            "ground": GroundPanel(self.session, tabs()),
            "grow": GrowPanel(self.session, tabs(), self.trial),
            "deliver": DeliverPanel(self.session),
        }
        self._stack = QStackedWidget()
        for panel in self.panels.values():
            self._stack.addWidget(panel)
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
        whole.setLayout(column(self._header(), held_layout(middle), self.ledger, spacing=0))
        whole.layout().setStretch(1, 1)
        self.setCentralWidget(whole)

    def _header(self) -> QWidget:
        self._project = button("", self._project_menu, "Open, save, recent projects (Alt+P)", name="flat")
        self._project.setStyleSheet("font-weight: 600; text-align: left;")
        self._project.setShortcut("Alt+P")
        self._find = button("Find a command   Ctrl+K", self.find_command, "Every action by its name (Ctrl+K)")
        header = held(self._project, None, StageStrip(self.session), None, self._find)
        header.layout().setContentsMargins(8, 2, 8, 2)
        # As wide as one another, so that the strip stays in the middle whatever the project is called.
        for side in (self._project, self._find):
            side.setFixedWidth(_SIDE_OF_HEADER)
        header.setFixedHeight(46)
        return header

    def _make_actions(self) -> None:
        session, view = self.session, self.ground.view
        self._add("New project", "Ctrl+N", self.keeper.new)
        self._add("Open a project…", "Ctrl+O", self.keeper.ask_open)
        self._add("Save", "Ctrl+S", self.keeper.save)
        self._add("Save in another folder…", "Ctrl+Shift+S", self.keeper.save_as)
        self._add("Add a sprite sheet…", "Ctrl+I", self.panels["sheet"].findChild(SheetTabs).ask)
        self._undo = self._add("Undo", "Ctrl+Z", self.undo)
        self._redo = self._add("Redo", "Ctrl+Y", self.redo)
        self._redo.setShortcuts([QKeySequence("Ctrl+Y"), QKeySequence("Ctrl+Shift+Z")])
        for index, stage in enumerate(STAGES):
            self._add(f"Stage {stage.capitalize()}", f"Ctrl+{index + 1}", lambda s=stage: session.set_stage(s))
        self._add("Cut the sheet, or describe its tiles", "F2", self._change_sheet_work)
        sheet = self.panels["sheet"]
        tile_card = sheet.tile_card
        tabs = sheet.findChild(SheetTabs)
        self._add("Add several images as one tileset…", "", tabs.ask_images)
        self._add("Add a folder of images as one tileset…", "", tabs.ask_folder)
        self._add(
            "Cut a part of the sheet by numbers of its own", "", lambda: self._on_sheet("Cut", sheet.cut_card.add.click)
        )
        self._add("Loose pieces, or a grid", "", lambda: self._on_sheet("Cut", sheet.cut_card.grid.loose.click))
        self._add("Guess the numbers of the cut", "", lambda: self._on_sheet("Cut", sheet.cut_card.grid.guess))
        self._add("All tiles like this", "", tile_card.choose_alike)
        self._add("Choose tiles by their tag", "", lambda: self._on_sheet("Tiles", tile_card.offer_tags))
        self._add("Trace a collision shape", "", lambda: self._on_sheet("Tiles", tile_card.trace))
        self._add(
            "Copy the collision shape to all chosen tiles", "", lambda: self._on_sheet("Tiles", tile_card.shape.copy)
        )
        self._add("Animate the chosen tiles", "", lambda: self._on_sheet("Tiles", tile_card.animate))
        self._add("Play animations, or hold them", "", tile_card.motion.toggle)
        self._add("Exchange the picture of the sheet…", "", self.panels["sheet"].exchange)
        self._add("Pack the sheet anew…", "", self.panels["sheet"].pack_anew)
        self._add("Tiles that look the same…", "", self.panels["sheet"].show_twins)
        self._add("New ground…", "", self.panels["ground"].new_ground)
        self._add("Read labels off the pixels", "", self.panels["joins"].read_labels)
        self._add("Make missing tiles…", "", self.panels["joins"].make_missing)
        self._add("Add a stitch", "", self.panels["stitches"].add)
        self._add("Show the proof, or the ground again", "Ctrl+P", lambda: self.ground.show_proof(not view.shows_proof))
        self._add("Zoom in", "Ctrl++", lambda: view.zoom_by(1)).setShortcuts(
            [QKeySequence("Ctrl++"), QKeySequence("Ctrl+=")]
        )
        self._add("Zoom out", "Ctrl+-", lambda: view.zoom_by(-1))
        self._add("Zoom to 100 %", "Ctrl+0", lambda: view.set_zoom(1))
        self._add("See the whole ground", "Ctrl+9", view.fit)
        self._add("Only the left half, or both", "F7", lambda: self._take_whole(0))
        self._add("Only the ground, or both", "F8", lambda: self._take_whole(1))
        self._add("All findings", "Ctrl+L", self.ledger.open_list)
        self._add("Deliver a PNG…", "Ctrl+E", lambda: self._deliver("png"))
        self._add("Deliver JSON…", "Ctrl+Shift+E", lambda: self._deliver("json"))
        self._add("Find a command", "Ctrl+K", self.find_command)
        self._quit = self._add("Quit", "Ctrl+Q", self.close)
        for tool in TOOLS:
            self._add_on_ground(f"Tool: {tool.title}", tool.key, lambda n=tool.name: self.ground.choose_tool(n))
        self._add_on_ground("Show or hide the grid", "G", self.ground.toggle_grid)
        self._add_on_ground("Smaller brush", "[", lambda: self.ground.change_radius(-1))
        self._add_on_ground("Larger brush", "]", lambda: self.ground.change_radius(1))
        self._add_on_ground("Areas, or runs along edges", "W", self.ground.toggle_runs)
        self._add_on_ground("Throw again", "R", self.throw_again)
        self._keep = self._add("Keep what is tried", "Ctrl+Return", self.trial.keep)
        self._drop = self._add("Drop what is tried", "Ctrl+Backspace", self.trial.drop)
        self._on_trial = [self._trial_key(self._keep, "Return"), self._trial_key(self._drop, "Escape")]

    def _on_sheet(self, work: str, act: Callable[[], object]) -> None:
        """Does something on the sheet stage, where it is seen."""
        if self.session.document.project.sheets:
            self.session.set_stage("sheet")
            self.panels["sheet"].show_work(work)
            act()
        else:
            self.session.say("Add a sprite sheet first.")

    def _change_sheet_work(self) -> None:
        if self.session.choices.stage == "sheet":
            self.panels["sheet"].change_over()
        self.session.set_stage("sheet")

    def throw_again(self) -> None:
        """Another throw of what is shown by chance: the recipe that is tried, or the mix in hand."""
        if self.trial.running:
            self.session.attempt(self.trial.throw_again)
        else:
            self.ground.throw_again()

    def undo(self) -> None:
        """Takes the last step back; what is only tried is dropped first."""
        if self.trial.running:
            self.trial.drop()
            return
        if self.session.document.gesture is not None:
            return  # a stroke or a drag is under way; Escape takes that back
        label = self.session.document.undo()
        self.session.say(f"Undid: {label}" if label else "There is nothing to undo.")

    def redo(self) -> None:
        """Does the last step again."""
        if self.session.document.gesture is not None:
            return
        label = self.session.document.redo()
        self.session.say(f"Did again: {label}" if label else "There is nothing to do again.")

    def find_command(self) -> None:
        """Opens the command finder below its button."""
        finder = Finder(self, self._commands)
        corner = self._find.mapToGlobal(self._find.rect().bottomRight())
        finder.move(corner.x() - finder.width(), corner.y() + 4)
        finder.show()

    def _add(self, text: str, keys: str, act: Callable[[], object]) -> QAction:
        action = QAction(text, self)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda checked=False: act())
        self.addAction(action)
        self._commands.append(action)
        return action

    def _add_on_ground(self, text: str, key: str, act: Callable[[], object]) -> QAction:
        """An action whose plain key counts while the right half has the focus."""
        action = self._add(text, key, act)
        action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        self.removeAction(action)
        self.ground.addAction(action)
        return action

    def _trial_key(self, action: QAction, key: str) -> QAction:
        """A plain key for an action, which counts on the ground while something is tried."""
        on_ground = QAction(self.ground)
        on_ground.setShortcut(QKeySequence(key))
        on_ground.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        on_ground.triggered.connect(action.trigger)
        self.ground.addAction(on_ground)
        return on_ground

    def _project_menu(self) -> None:
        menu = QMenu(self)
        for action in self._commands[:5]:
            menu.addAction(action)
        recent = [path for path in self.keeper.recent() if path != self.session.document.folder]
        if recent:
            menu.addSeparator()
        for path in recent:
            menu.addAction(
                f"{path.name}   {path.parent}", lambda p=path: self.keeper.may_close() and self.keeper.open_path(p)
            )
        menu.addSeparator()
        for action in (self._undo, self._redo):
            menu.addAction(action)
        menu.addSeparator()
        menu.addAction(self._quit)
        menu.popup(self._project.mapToGlobal(self._project.rect().bottomLeft()))

    def _deliver(self, name: str) -> None:
        if self.session.ground is None:
            self.session.say("There is no ground to deliver yet.")
            return
        self.session.set_stage("deliver")
        self.panels["deliver"].ask(name)

    def _take_whole(self, half: int) -> None:
        """Gives one half the whole window, or gives it back."""
        self._whole = None if self._whole == half else half
        for index in (0, 1):
            self._halves.widget(index).setVisible(self._whole in (None, index))

    def _show_stage(self, stage: str) -> None:
        self._stack.setCurrentWidget(self.panels[stage])

    def _go_to(self, finding: Finding) -> None:
        """Leads to what a finding is about."""
        self.session.set_stage(finding.stage)
        if finding.stage == "sheet":
            self.session.choose(sheet_id=finding.subject)
        elif finding.stage == "joins":
            self.session.choose(join_set_id=finding.subject)
            if finding.tiles:
                self.panels["joins"].show_seam(finding)
        elif finding.stage == "stitches":
            self.session.choose(stitch_set_id=finding.subject)
            self.panels["stitches"].list.setCurrentRow(finding.index or 0)
        elif finding.row is not None and finding.column is not None:
            self.session.choose(ground_id=finding.subject, layer_id=finding.layer)
            self.ground.show_proof(False)
            self.ground.view.mark_cell(finding.row, finding.column)

    def _refresh(self, *_: object) -> None:
        document = self.session.document
        changed = " •" if document.changed else ""
        self._project.setText(f"{document.project.name}{changed}")
        self.setWindowTitle(f"{document.project.name}{changed} – Knit Ground")
        self._undo.setEnabled(document.undo_label is not None or self.trial.running)
        self._redo.setEnabled(document.redo_label is not None)
        self._keep.setEnabled(self.trial.running)
        self._drop.setEnabled(self.trial.running)
        for action in self._on_trial:
            action.setEnabled(self.trial.running)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        event.acceptProposedAction()
        for path in paths:
            if path.is_dir() and not (path / FILE_NAME).exists():
                self.keeper.add_images([path])
                continue
            if path.is_dir() or path.suffix == ".json":
                if self.keeper.may_close():
                    self.keeper.open_path(path)
                return
            self.keeper.add_sheet_file(path)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.keeper.may_close():
            event.ignore()
            return
        self.session.wait_for_checks()
        self.keeper.closed()
        settings = QSettings()
        settings.setValue("geometry", self.saveGeometry())
        settings.setValue("halves", self._halves.saveState())
        event.accept()

    def _restore_layout(self) -> None:
        settings = QSettings()
        if settings.contains("geometry"):
            self.restoreGeometry(settings.value("geometry"))
            self._halves.restoreState(settings.value("halves"))
