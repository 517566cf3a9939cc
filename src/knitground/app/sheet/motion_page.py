"""How a tile moves: its frames, in their order, and how long each shows."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from knitground.app.allowed import NO_TILE, a_menu, allow, allow_entry
from knitground.app.file_dialogs import ask_files
from knitground.app.jobs import Job
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.stage import IMAGES
from knitground.app.widgets import (
    Tick,
    TilePicture,
    button,
    column,
    draw_backdrop,
    fitted,
    icon_button,
    image_of,
    in_row,
    in_widget,
    number,
    quiet,
    row,
    set_quietly,
)
from knitground.core.edits.animations import add_frames, blocks_from, change_frames, run_of
from knitground.core.edits.notes import animate, notes_of, play_apart
from knitground.core.errors import BadRequest
from knitground.core.sheet.frames import USUAL_MS, Shown, decode_frames
from knitground.core.sheet.picture import read_file
from knitground.core.tiles.notes import LONGEST_MS, SHORTEST_MS, Frame
from knitground.core.tiles.tile import TileRef

_PICTURE = 40


class MotionPage(QWidget):
    """The animation of the tile at hand."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.refs: list[TileRef] = []
        self.ref: TileRef | None = None
        self._listed_on: tuple[list[Frame], str] = ([], "")
        self.playing = TilePicture(96, "The tile as it moves")
        self.frames = QListWidget()
        self.frames.setObjectName("pictures")
        self.frames.setViewMode(QListWidget.ViewMode.IconMode)
        self.frames.setIconSize(QSize(_PICTURE, _PICTURE))
        self.frames.setMovement(QListWidget.Movement.Static)
        self.frames.setFlow(QListWidget.Flow.LeftToRight)
        self.frames.setWrapping(True)
        self.frames.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.frames.setMinimumHeight(60)
        self.frames.itemSelectionChanged.connect(self._show_ms)
        self.frames.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.frames.setAccessibleName("Frames")
        self.frames.setToolTip("Frames; choose some to time or remove them")
        self.ms = number(SHORTEST_MS, LONGEST_MS, self._set_ms, "milliseconds", " ms")
        self.ms.setToolTip("How long the chosen frames show; all of them if none is chosen")
        self.ms.setFixedWidth(84)
        self._make = button("Make of…", self._offer, "Take frames from tiles of the sheet or from files")
        self._earlier = icon_button("back", lambda: self.shift(-1), "Let the chosen frame show earlier (Alt+Left)")
        self._later = icon_button("onward", lambda: self.shift(1), "Let the chosen frame show later (Alt+Right)")
        self._remove = button("Remove", self._take_out, "Take the chosen frames out; all of them if none is chosen")
        self._plays = Tick("Play everywhere", "Let all animated tiles of the window move")
        self._plays.setChecked(True)
        self._plays.clicked.connect(lambda on: session.clock.pause(not on))
        alone = "Each cell and each thing begins with a frame of its own, so that not all move alike"
        self.apart = Tick("Begin apart", alone)
        self.apart.clicked.connect(self._play_apart)
        self._says = quiet()
        buttons = in_row(self._make, self._earlier, self._later, self._remove, None)
        times = in_row(self.ms, self.apart, None)
        side = column(buttons, self.frames, times, spacing=4)
        side.setStretch(1, 1)
        left = column(self.playing, self._says, self._plays, None, spacing=4)
        layout = row(in_widget(left), spacing=12)
        layout.addWidget(in_widget(side), 1)
        self.setLayout(layout)
        session.clock.ticked.connect(self._tick)

    def show_tiles(self, refs: list[TileRef]) -> None:
        """Shows the animation of the tile at hand."""
        self.refs = refs
        tile = self._session.choices.tile
        self.ref = tile if tile in refs else (refs[0] if refs else None)
        allow(self, "" if self.ref is not None else NO_TILE)
        frames = self._frames()
        kept = self._chosen()
        listed = [self.frames.item(place).data(Qt.ItemDataRole.UserRole) for place in range(self.frames.count())]
        shown = list(frames), self._session.choices.backdrop
        if listed != list(frames) or shown != self._listed_on:
            self._listed_on = shown
            self.frames.clear()
            for frame in frames:
                item = QListWidgetItem(self._icon(frame.tile), str(frame.ms))
                item.setData(Qt.ItemDataRole.UserRole, frame)
                self.frames.addItem(item)
            for place in kept:
                if place < self.frames.count():
                    self.frames.item(place).setSelected(True)
        lasts = sum(frame.ms for frame in frames)
        self._says.setText(f"{len(frames)} frames, {lasts} ms" if frames else "It stands still.")
        self.apart.setChecked(bool(frames) and notes_of(self._session.document, known(self.ref)).apart)
        for thing in (self.ms, self.apart, self._earlier, self._later, self._remove):
            allow(thing, "" if frames else "It has no frames yet; make some first.")
        self._show_ms()
        self._tick()

    def _show_ms(self) -> None:
        """The time of the chosen frames, or of all."""
        chosen = [item.data(Qt.ItemDataRole.UserRole) for item in self.frames.selectedItems()] or self._frames()
        set_quietly(self.ms, chosen[0].ms if chosen else USUAL_MS)

    def _play_apart(self, on: bool) -> None:
        moving = [ref for ref in self.refs if notes_of(self._session.document, ref).frames]
        self._session.attempt(lambda: play_apart(self._session.document, moving, apart=on))

    def _frames(self) -> tuple[Frame, ...]:
        return notes_of(self._session.document, self.ref).frames if self.ref else ()

    def _icon(self, ref: TileRef) -> QIcon:
        tile = self._session.derived.tile(ref)
        if tile is None:
            return QIcon()
        picture = QPixmap(_PICTURE, _PICTURE)
        room = QRectF(picture.rect())
        painter = QPainter(picture)
        draw_backdrop(painter, room, self._session.choices.backdrop)
        painter.drawImage(fitted(QSize(tile.shape[1], tile.shape[0]), room), image_of(tile))
        painter.end()
        return QIcon(picture)

    def _tick(self) -> None:
        if self.isVisible() or self.ref is None:
            now = self._session.clock.shown(self.ref) if self.ref else None
            self.playing.show_tile(self._session.derived.tile(now) if now else None, self._session.choices.backdrop)

    def showEvent(self, event: object) -> None:
        self._tick()

    def _offer(self) -> None:
        menu = a_menu(self)
        several = len(self.refs) > 1
        in_order = menu.addAction("The chosen tiles, in reading order", self.of_chosen)
        allow_entry(in_order, "" if several else "Choose several tiles first: hold Ctrl and click them.")
        what = "blocks from the chosen one" if several else "tiles from this one"
        menu.addAction(f"The {what} along {'their rows' if several else 'its row'}", lambda: self.of_line(down=False))
        menu.addAction(
            f"The {what} down {'their columns' if several else 'its column'}", lambda: self.of_line(down=True)
        )
        menu.addSeparator()
        menu.addAction("Files: several images, or a GIF or APNG…", self._ask_files)
        menu.popup(self._make.mapToGlobal(self._make.rect().bottomLeft()))

    def toggle(self) -> None:
        """Lets all animations of the window move, or holds them."""
        self._plays.click()

    def of_chosen(self) -> None:
        """Makes frames of all chosen tiles."""
        refs, first = self.refs, self.ref
        self._do(lambda: animate(self._session.document, {known(first): run_of(refs, USUAL_MS)}))

    def of_line(self, *, down: bool) -> None:
        """Makes frames of the tiles that follow this one, or of the blocks of them that follow the chosen ones."""
        session, refs = self._session, self.refs

        def put() -> None:
            runs = blocks_from(session.derived, refs, down=down)
            animate(session.document, {ref: run_of(run, USUAL_MS) for ref, run in runs.items()})
            if len(refs) > 1:  # the one at hand may be the one that stands still
                session.say(f"{len(refs)} tiles play {len(runs[refs[0]])} frames each.")

        self._do(put)

    def _ask_files(self) -> None:
        paths = ask_files(self, "Frames from files", IMAGES)
        if paths:
            self.of_files(paths)

    def of_files(self, paths: list[Path]) -> None:
        """Makes frames of image files, each with all that it holds, and lets the tile at hand play them."""
        ref, document = self.ref, self._session.document

        def read(report: Callable[[float], None]) -> list[Shown]:
            frames: list[Shown] = []
            for done, path in enumerate(paths, start=1):
                frames += decode_frames(read_file(path), path.name)
                report(done / len(paths))
            if len(frames) < 2:
                raise BadRequest(f"{paths[0].name} holds one picture only; choose several files, or one that moves.")
            return frames

        def put(frames: list[Shown]) -> None:
            if document is self._session.document:
                self._do(lambda: add_frames(document, paths[0].name, frames, ref))

        self._session.run(Job("Reading the frames", read), put)

    def _set_ms(self, ms: int) -> None:
        chosen = self._chosen()
        self._change(
            lambda frames: [
                Frame(one.tile, ms) if place in chosen or not chosen else one for place, one in enumerate(frames)
            ]
        )

    def no_frame(self) -> str:
        """Why no frame can be moved; empty where one can."""
        return "" if len(self.frames.selectedItems()) == 1 else "Choose one frame to move it."

    def shift(self, by: int) -> None:
        """Moves the chosen frame; only one, so that it is clear where it goes."""
        if refusal := self.no_frame():
            self._session.say(refusal)
            return
        place = next(iter(self._chosen()))
        target = min(max(place + by, 0), self.frames.count() - 1)

        def moved(frames: list[Frame]) -> list[Frame]:
            frames.insert(target, frames.pop(place))
            return frames

        self._change(moved)
        self.frames.clearSelection()
        self.frames.item(target).setSelected(True)

    def _take_out(self) -> None:
        chosen = self._chosen()
        self._change(lambda frames: [one for place, one in enumerate(frames) if chosen and place not in chosen])

    def _chosen(self) -> set[int]:
        return {self.frames.row(item) for item in self.frames.selectedItems()}

    def _change(self, change: Callable[[list[Frame]], list[Frame]]) -> None:
        """Changes the frames of the tile at hand, and of all others that are chosen and have as many."""
        refs = [known(self.ref), *(ref for ref in self.refs if ref != self.ref)]
        self._do(lambda: change_frames(self._session.document, refs, change))

    def _do(self, act: Callable[[], object]) -> None:
        self._session.attempt(act)
        self.show_tiles(self.refs)
