"""Finding sets in the window: outlines over the sheet, the proof of the one at the pointer, and taking them."""

from collections.abc import Mapping
from dataclasses import replace

from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen

from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.app.jobs import Job
from knitground.app.joins.joining import JOIN_SHARING
from knitground.app.joins.marks import draw_marks
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.core.edits.finding import Proposed, take_sets
from knitground.core.edits.found_on import FoundOn
from knitground.core.edits.joined_sets import sharing
from knitground.core.edits.joining import joined_again, taken_apart, whole_of
from knitground.core.edits.rare import told_of_rare
from knitground.core.edits.set_search import search_sets, searched_on
from knitground.core.ground.knitted import Knitted
from knitground.core.joins.sets import JoinSet
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.proofing import proof_ground
from knitground.core.sheet.picture import Sheet
from knitground.core.tiles.tile import TileRef


class Searching(QObject):
    """The sets that were found on a sheet and are being looked at, if there are any."""

    changed = Signal()

    def __init__(self, session: Session, panel: QObject) -> None:
        super().__init__(panel)  # what is still being looked for when the panel goes is told to nobody
        self._session = session
        self.proposed: list[Proposed] = []
        self.pointed: Proposed | None = None
        self._wholes: list[Proposed] = []
        self._proofs: tuple[Derived, dict[str, JoinSet]] | None = None
        self._found_on = FoundOn({})
        session.opened.connect(self.drop)
        session.defined.connect(self._drop_what_is_gone)

    def begin(self, sheet: Sheet) -> None:
        """Looks for sets on all parts of a sheet, or among the images of a collection, beside the interface.

        Raises
        ------
        BadRequest
            As `searched_on`.
        """
        project = self._session.document.project
        searched = searched_on(sheet, self._session.derived.sliced(), project.tiles)
        refs = [ref for one in searched for ref in one.refs.values()]
        self._found_on = FoundOn.of(project, refs)
        cuts = self._found_on.cuts
        self._session.run(Job("Looking for sets", lambda progress: search_sets(searched, cuts, progress)), self._done)

    def take(self, some: list[Proposed] | None = None) -> None:
        """Takes sets into the project: all, or some, the others staying proposed."""
        taken = self.proposed if some is None else some
        at_hand = taken.index(self.pointed) if self.pointed in taken else 0
        ids = take_sets(self._session.document, taken)
        rest, apart = [one for one in self.proposed if one not in taken], bool(self._wholes)
        self._show(rest, told=False)
        if ids:
            self._session.choose(join_set_id=ids[at_hand])
            sets = f"{len(ids)} join sets are" if len(ids) > 1 else f"“{taken[0].join_set.name}” is"
            below = any(one.hanging or one.faces for one in taken)
            hangs = ", with stitches for what lies below its rim" if below else ""
            seldom = told_of_rare({ref: weight for one in taken for ref, weight in one.rare.items()})
            lacks = self._session.derived.coverage(known(self._session.join_set)).lacking
            more = ["Make missing tiles…"] if lacks and len(ids) == 1 else []
            # Who took sets apart by hand a moment ago is not asked to join them.
            more += [JOIN_SHARING] if not apart and sharing(self._session.derived, ids[at_hand])[1] else []
            self._session.say(f"{sets} in the project now{hangs}{seldom}.", "Paint with this join set", *more)

    def rename(self, one: Proposed, name: str) -> None:
        """Gives a proposed set another name."""
        if name.strip() and one in self.proposed:
            self._put(one, one._replace(join_set=replace(one.join_set, name=name.strip()[:80])))

    def play(self, one: Proposed, moves: bool) -> None:
        """Takes the blocks that repeat a proposed set for frames, or for variants."""
        if one in self.proposed:
            self._put(one, one.playing(moves))
            self._proofs = None
            self._session.proof_wanted.emit(self._proof(known(self.pointed)))
            self.changed.emit()

    def whole(self, one: Proposed) -> Proposed | None:
        """The set that a proposed one is joined of others, or that could be joined of it and others; if there is."""
        return one if one.parts else whole_of(one, self._wholes, self.proposed)

    def join(self, one: Proposed, on: bool) -> None:
        """Takes sets that share a terrain for one, or for as many as were found."""
        whole = self.whole(one)
        if whole is None or on == bool(one.parts):
            return
        self._wholes = [*(one for one in self._wholes if one.join_set.id != whole.join_set.id), whole]
        self.proposed = joined_again(self.proposed, whole) if on else taken_apart(self.proposed, whole)
        self.pointed, self._proofs = None, None
        self.point_at(whole if on else whole.parts[0])

    def _put(self, one: Proposed, new: Proposed) -> None:
        self.proposed[self.proposed.index(one)] = new
        self.pointed = new

    def drop(self) -> None:
        """Puts the proposals away."""
        if self.proposed:
            self._show([], told=False)

    def point_at(self, one: Proposed | None) -> None:
        """Shows the proof of a set in the right half; with None what was there before."""
        if one is None or one is self.pointed:
            return
        self.pointed = one
        self._session.proof_wanted.emit(self._proof(one))
        self.changed.emit()

    def at(self, ref: TileRef | None) -> Proposed | None:
        """The proposed set that a tile belongs to."""
        return next((one for one in self.proposed if ref in one.tiles), None)

    def _drop_what_is_gone(self) -> None:
        if self.proposed and not self._found_on.holds(self._session.document.project):
            self.drop()

    def _done(self, proposed: list[Proposed]) -> None:
        if self._found_on.holds(self._session.document.project):
            self._show(proposed)
        else:
            self._session.say("The sheet was cut anew meanwhile; look for sets again.")

    def _show(self, proposed: list[Proposed], *, told: bool = True) -> None:
        self.proposed, self.pointed, self._proofs = proposed, None, None
        self._wholes = self._wholes if proposed and not told else []
        if proposed:
            self.point_at(proposed[0])
        else:
            self._session.proof_wanted.emit(None)
        if told and not proposed:
            self._session.say(
                "No set was found on this sheet; label some tiles, or read the labels of chosen cells.",
                "New join set…" if self._session.join_set is None else "Read labels off the pixels",
            )
        self.changed.emit()

    def _proof(self, one: Proposed) -> Knitted | None:
        if self._proofs is None:
            # The project as it would be with all of them taken; nothing of it is kept.
            document = Document(self._session.document.state, self._session.document.palette)
            made = take_sets(document, self.proposed)
            derived, sets = Derived(document), {join_set.id: join_set for join_set in document.project.join_sets}
            self._proofs = (
                derived,
                {found.join_set.id: sets[name] for found, name in zip(self.proposed, made, strict=True)},
            )
        derived, taken = self._proofs
        return proof_ground(derived, taken[one.join_set.id])


class SearchMode(SheetMode):
    """Outlines round the sets that were found; a click takes one."""

    smallest_tile = 24

    def __init__(self, searching: Searching) -> None:
        self._searching = searching

    def paint(self, painter: QPainter, view: SheetView) -> None:
        view.draw_lines(painter)
        for one in self._searching.proposed:
            at_hand = one is self._searching.pointed
            rects = view.rects_of(one.tiles, in_view=True)
            if at_hand:
                labels = one.join_set.labels
                marked = [(face, labels[ref]) for ref, face in view.faces_of(rects).items() if ref in labels]
                draw_marks(painter, marked, one.join_set.kind, one.join_set.terrains)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            outline, style = _around(view, rects), Qt.PenStyle.SolidLine if at_hand else Qt.PenStyle.DashLine
            painter.setPen(QPen(theme().colour("panel"), 5))
            painter.drawPath(outline)
            painter.setPen(QPen(theme().colour("thread" if at_hand else "focus"), 3, style))
            painter.drawPath(outline)

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        one = self._searching.at(view.ref_at(point))
        if one is not None:
            self._searching.take([one])

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        if point is not None:
            self._searching.point_at(self._searching.at(view.ref_at(point)))

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Escape:
            self._searching.drop()
            return True
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._searching.take()
            return True
        return False


def _around(view: SheetView, rects: Mapping[TileRef, QRectF]) -> QPainterPath:
    """The outline of tiles of a sheet, gutters between them included; of several pieces where they lie apart."""
    cuts = {slices.cut.id: slices.cut for slices in view.all_slices}
    outline = QPainterPath()
    outline.setFillRule(Qt.FillRule.WindingFill)
    for ref, rect in rects.items():
        across, down = ((gap * view.zoom + 1) / 2 for gap in (cuts[ref.cut].spacing_x, cuts[ref.cut].spacing_y))
        outline.addRect(rect.adjusted(-across, -down, across, down))
    return outline.simplified()
