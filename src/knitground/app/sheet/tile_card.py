"""The card under the sheet while tiles are described: the chosen ones, large, and what is said of them."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knitground.app.allowed import a_menu, allow
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.mix_in_hand import fill_with_mix
from knitground.app.pages import Pages
from knitground.app.session import Session
from knitground.app.sheet.motion_page import MotionPage
from knitground.app.sheet.notes_page import NotesPage
from knitground.app.sheet.shape_page import ShapePage
from knitground.app.sheet.stand_page import StandPage
from knitground.app.theme.colours import theme
from knitground.app.widgets import Elided, button, card, column, draw_backdrop, in_widget, row
from knitground.core.edits.mixing import mix_of
from knitground.core.sheet.cut import tile_rect
from knitground.core.tiles.alike import like
from knitground.core.tiles.tile import TileRef

SIDE = 132
_AROUND = 0.45
_PAGE = 176


class Neighbourhood(QWidget):
    """The tile at hand, large, with what lies round it on the sheet."""

    def __init__(self, session: Session, view: SheetView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self.setFixedSize(SIDE, SIDE)
        self.setToolTip("The tile at hand, and its neighbours on the sheet")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, view, ref = QPainter(self), self._view, self._session.choices.tile
        room = QRectF(self.rect())
        painter.fillRect(room, theme().colour("well"))
        slices = self._session.derived.sliced().get((ref.sheet, ref.cut)) if ref else None
        if (
            slices is not None
            and view.sheet
            and known(ref).sheet == view.sheet.id
            and slices.holds(known(ref).column, known(ref).row)
        ):
            tile = QRectF(*tile_rect(slices.cut, known(ref).column, known(ref).row))
            scale = SIDE / (max(tile.width(), tile.height()) * (1 + 2 * _AROUND))
            painter.save()
            painter.translate(room.center() - tile.center() * scale)
            painter.scale(scale, scale)
            whole = QRectF(0, 0, *view.content_size())
            draw_backdrop(painter, whole, self._session.choices.backdrop)
            view.sharp(painter)
            painter.drawImage(QPointF(0, 0), view.image)
            veil = QPainterPath()
            veil.addRect(whole)
            veil.addRect(tile)
            painter.fillPath(veil, theme().colour("well", 150))
            pen = QPen(theme().colour("thread"), 2)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.drawRect(tile)
            painter.restore()
        painter.setPen(theme().colour("line"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class TileCard(QWidget):
    """Pages about the chosen tiles."""

    def __init__(self, session: Session, view: SheetView) -> None:
        super().__init__()
        self._session, self._view = session, view
        self._asked: tuple[object, ...] = (None,) * 4
        self._refs: list[TileRef] = []
        self.picture = Neighbourhood(session, view)
        self.notes = NotesPage(session)
        self.shape = ShapePage(session)
        self.motion = MotionPage(session)
        self.stand = StandPage(session, lambda: self.refs)
        self.pages = Pages({"Notes": self.notes, "Blocks": self.shape, "Moves": self.motion, "Stands": self.stand})
        self.pages.setFixedHeight(_PAGE)
        self._title = Elided()
        self._title.setObjectName("quiet")
        self._title.setFixedWidth(SIDE)
        says = "Choose all tiles of the project with these pixels, flipped and turned copies too (Ctrl+Shift+L)"
        alike = button("All like this", self.choose_alike, says)
        self._by_tag = button("By tag", self.offer_tags, "Choose all tiles that bear a tag")
        self._mix = button("Mix them", self.mix, "Lay any of the chosen tiles by chance")
        head = row(*self.pages.tabs.values(), None, self._mix, alike, self._by_tag, spacing=4)
        left = column(self.picture, self._title, None, spacing=4)
        body = row(in_widget(left), spacing=12)
        body.addWidget(self.pages, 1)
        self.setLayout(column(card(column(in_widget(head), in_widget(body), spacing=6), 10)))

    @property
    def refs(self) -> list[TileRef]:
        """The chosen tiles that there are, or the one at hand."""
        session = self._session
        chosen = session.choices.selection or frozenset({session.choices.tile} if session.choices.tile else ())
        asked = (chosen, session.choices.tile, session.document.project.sheets, session.document)
        if not all(one is other for one, other in zip(asked, self._asked, strict=True)):
            self._asked = asked
            usable = session.derived.usable(chosen)
            self._refs = sorted(usable, key=lambda ref: (ref.sheet, ref.cut, ref.row, ref.column))
        return self._refs

    def refresh(self) -> None:
        """Shows the tiles as they are."""
        refs = self.refs
        if not refs:
            self._title.setText("No tile chosen:\nclick one.")
        elif len(refs) == 1:
            ref = refs[0]
            tile = known(self._session.derived.tile(ref))
            place = ref.cut if self._is_image(ref) else self._placed(ref)
            self._title.setText(f"{place}\n{tile.shape[1]} x {tile.shape[0]} px")
        else:
            self._title.setText(f"{len(refs):,} tiles chosen")
        allow(self._mix, "" if len(refs) > 1 else "Choose two tiles or more; they are laid by chance then.")
        self._title.setToolTip(self._title.text())
        self.picture.update()
        for page in (self.notes, self.shape, self.motion, self.stand):
            page.show_tiles(refs)

    def _placed(self, ref: TileRef) -> str:
        """Where a tile lies; of a long name of its sheet as much as leaves room for that."""
        place, room = f" {ref.column}, {ref.row}", self._title.fontMetrics()
        left = SIDE - room.horizontalAdvance(place) - 2
        return room.elidedText(ref.sheet, Qt.TextElideMode.ElideRight, left) + place

    def choose_alike(self) -> None:
        """Chooses all tiles that look like the one at hand."""
        session = self._session
        if not self.refs:
            session.say("Choose a tile first.")
            return
        wanted = session.choices.tile if session.choices.tile in self.refs else self.refs[0]
        found = like(session.derived.all_tiles(), wanted)
        session.choose(tile=wanted, selection=frozenset(found))
        others = len(found) - 1
        session.say(f"{others} other tile{'s look' if others != 1 else ' looks'} like this one." if others else
                    "No other tile looks like this one.")  # fmt: skip

    def mix(self) -> None:
        """Takes a mix of the chosen tiles in hand."""
        session = self._session
        made = session.attempt(lambda: mix_of(session.document, self.refs))
        if made is not None:
            session.choose(mix_id=made)
            fill_with_mix(session, "Its tiles are weighed in Grow.", "Stage Grow")

    def _is_image(self, ref: TileRef) -> bool:
        return any(sheet.id == ref.sheet and sheet.images for sheet in self._session.document.project.sheets)

    def show_shapes(self, kind: str) -> None:
        """Shows what the tile at hand blocks, by the shapes of one kind."""
        self.pages.show_page("Blocks")
        self.shape.show_kind(kind)

    def trace(self) -> None:
        """Proposes a collision shape for the tile at hand."""
        self.pages.show_page("Blocks")
        self.shape.trace.click()

    def animate(self) -> None:
        """Lets the tile at hand play the chosen ones."""
        self.pages.show_page("Moves")
        if len(self.refs) < 2:
            self._session.say("Choose two tiles or more; they become the frames.")
        else:
            self.motion.of_chosen()

    def offer_tags(self) -> None:
        """Lists the tags; one that is chosen chooses its tiles."""
        tiles = self._session.document.project.tiles
        tags = sorted({tag for notes in tiles.values() for tag in notes.tags})
        if not tags:
            self._session.say("No tile bears a tag yet.")
            return
        menu = a_menu(self)
        for tag in tags:
            refs = frozenset(ref for ref, notes in tiles.items() if tag in notes.tags)
            menu.addAction(f"{tag}   {len(refs)}", lambda chosen=refs: self._choose(chosen))  # type: ignore[misc]
        menu.popup(self._by_tag.mapToGlobal(self._by_tag.rect().bottomLeft()))

    def _choose(self, refs: frozenset[TileRef]) -> None:
        here = [ref for ref in sorted(refs) if self._view.sheet and ref.sheet == self._view.sheet.id]
        first = (here or sorted(refs))[0]
        self._session.choose(selection=refs, tile=first, sheet_id=first.sheet)
