"""The bar at the foot: findings at the left, what lies under the pointer at the right, and messages."""

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QAction, QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QLabel,
    QLineEdit,
    QListView,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from knitground.app.canvas.ground_view import GroundView
from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.leads import Leads
from knitground.app.session import Session
from knitground.app.widgets import Elided, button, icon_button, row
from knitground.core.check.check import Finding, many
from knitground.core.edits.mending import mend, mend_of
from knitground.core.edits.painting import Spot

_SHOWN_MS = 6000
_MANY, _SPACING = 12, 10
_PROBLEM_MS = 12000
_MOMENT_MS = 150
_ROOM, _LEAST_ROOM = 0.45, 240
"""How much of the bar the first finding takes at most: what is told of a tile needs room, too."""


class LedgerBar(QWidget):
    """Says what is wrong, and answers for the tile under the pointer."""

    def __init__(self, session: Session, view: GroundView) -> None:
        super().__init__()
        self.setObjectName("bar")
        self._session, self._view = session, view
        self._findings = button("", self.open_list, "All findings (Ctrl+L)", name="flat")
        self._message = Elided()
        self._message.setTextFormat(Qt.TextFormat.PlainText)
        self._leads = Leads(session)
        self._place, self._why, self._zoom = QLabel(), Elided(), QLabel("100%")
        self._zoom.setFixedWidth(48)
        self._zoom.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._zoom.setObjectName("quiet")
        self._work = Elided()
        self._work.setObjectName("quiet")
        self._progress = QProgressBar()
        self._progress.setFixedWidth(120)
        self._progress.setTextVisible(False)
        self._cancel = icon_button("close", self._stop, "Stop this")
        self._jobs: list[Job] = []
        layout = row(
            # What is said stays where it is when the findings come back beside it.
            self._message,
            self._leads,
            self._findings,
            None,
            self._work,
            self._progress,
            self._cancel,
            self._place,
            self._why,
            self._zoom,
            spacing=_SPACING,
        )
        layout.setContentsMargins(8, 2, 12, 2)
        self.setLayout(layout)
        self.setFixedHeight(36)
        self._message.setVisible(False)
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self._pass)
        self._answered = self._stays = False
        # Work that is done in a moment is not shown: the bar would only twitch.
        self._soon = QTimer(self, singleShot=True, interval=_MOMENT_MS)
        self._soon.timeout.connect(self._show_job)
        # Work may begin amid a paint event, and a bar draws its number at once: then both would be drawn at a time.
        self._named = QTimer(self, singleShot=True, interval=0)
        self._named.timeout.connect(self._name_job)
        self._show_job()
        session.findings_changed.connect(self._refresh)
        session.said.connect(self._show_message)
        session.led.connect(self._show_leads)
        self._leads.followed.connect(lambda: self._show_message("", False))
        session.changed.connect(self._answer)
        session.stage_changed.connect(self._answer)
        session.job_started.connect(self._start_job)
        view.pointed.connect(self._point)
        view.zoomed.connect(lambda zoom: self._zoom.setText(f"{zoom:.0%}" if zoom >= 0.01 else f"{zoom:.1%}"))
        self._refresh()

    def commands(self) -> list[Command]:
        """What one can do with findings."""
        return [Command("All findings", self.open_list, ("Ctrl+L",))]

    def lead_by(self, actions: Callable[[str], QAction]) -> None:
        """Lets what is said lead to commands, given how these are found by their names."""
        self._leads.lead_by(actions)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._refresh()

    def open_list(self) -> None:
        """Shows all findings over the bar; a click goes to the spot."""
        popup = QFrame(self, Qt.WindowType.Popup)
        popup.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        popup.setObjectName("popup")
        entries = QListWidget()
        entries.setWordWrap(True)
        entries.setResizeMode(QListView.ResizeMode.Adjust)
        entries.setAccessibleName("Findings")
        entries.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for finding in self._session.findings:
            item = QListWidgetItem(f"{finding.stage.capitalize()}:  {finding.sentence}")
            item.setToolTip(finding.mend)
            item.setData(Qt.ItemDataRole.UserRole, finding)
            entries.addItem(item)
        if not self._session.findings:
            entries.addItem("Nothing is wrong that the program can see.")
        entries.itemClicked.connect(lambda item: self._go(popup, item.data(Qt.ItemDataRole.UserRole)))
        entries.itemActivated.connect(lambda item: self._go(popup, item.data(Qt.ItemDataRole.UserRole)))
        mends = button("", lambda: self._mend_chosen(popup, entries), "")
        entries.currentItemChanged.connect(lambda item: _offer(mends, item))
        _offer(mends, None)
        layout = QVBoxLayout(popup)
        layout.setContentsMargins(8, 8, 8, 8)
        count = len(self._session.findings)
        if count > _MANY:
            layout.addWidget(_search(entries, count))
        layout.addWidget(entries)
        layout.addWidget(mends)
        popup.resize(640, min(360, 80 + 34 * max(1, count)))
        popup.move(self.mapToGlobal(QPoint(8, -popup.height() - 4)))
        popup.show()
        entries.setFocus()
        entries.setCurrentRow(0)

    def _go(self, popup: QFrame, finding: Finding | None) -> None:
        popup.close()
        if finding is None:
            return
        self._session.go_to.emit(finding)
        way = mend_of(finding)
        if way is not None:
            self._session.say(finding.sentence)
            self._leads.offer(way.title, lambda: self._mend(finding))
            self._timer.start(_PROBLEM_MS)
        elif finding.mend:
            self._session.say(finding.mend)

    def _mend_chosen(self, popup: QFrame, entries: QListWidget) -> None:
        finding: Finding | None = entries.currentItem().data(Qt.ItemDataRole.UserRole)
        popup.close()
        if finding is not None:
            self._mend(finding)

    def _mend(self, finding: Finding) -> None:
        """Mends a finding at once."""
        count, way = self._session.attempt(lambda: mend(self._session.document, finding)), mend_of(finding)
        if count and way is not None:
            self._session.go_to.emit(finding)
            self._session.say(f"Mended {many(count, *way.what)}.", "Undo")

    def _refresh(self) -> None:
        findings = self._session.findings
        if not findings:
            self._findings.setText("No findings")
            return
        count = f"{len(findings)} finding{'s' * (len(findings) > 1)}"
        says = count if self._stays else f"{count}: {findings[0].sentence}"
        room = max(_LEAST_ROOM, int(self.width() * _ROOM))
        self._findings.setText(self.fontMetrics().elidedText(says, Qt.TextElideMode.ElideRight, room))

    def _show_message(self, sentence: str, problem: bool) -> None:
        leads = self._leads.show_named(sentence)
        self._answered = self._stays = False
        # There is room for one line; who points at it reads all.
        self._message.setText(sentence.partition("\n")[0])
        self._message.setVisible(bool(sentence))
        self._message.setToolTip(sentence)
        self._message.setObjectName("warning" if problem else "")
        self._message.style().polish(self._message)
        self._refresh()
        for rest in (self._findings, self._place, self._why):
            rest.setVisible(not sentence)
        if sentence:
            self._timer.start(_PROBLEM_MS if problem or leads else _SHOWN_MS)

    def _pass(self) -> None:
        """Lets what was said go, as its time is over; what leads somewhere stays until something is done."""
        if self._leads.shown and self._leads.underMouse():
            self._timer.start(_SHOWN_MS)  # who is about to press it finds it there
        elif self._leads.shown and not self._answered:
            self._stays = True
            self._refresh()
            # Where what is said takes all of the bar, what it leads to would be moved away under the pointer.
            if self._has_room():
                for rest in (self._findings, self._place):
                    rest.setVisible(True)
        else:
            self._show_message("", False)

    def _has_room(self) -> bool:
        """Whether the findings fit beside what is said and what it leads to."""
        parts = (self._message, self._leads, self._findings, self._zoom)
        return sum(part.sizeHint().width() for part in parts) + _SPACING * len(parts) <= self.width()

    def _answer(self, *_: object) -> None:
        """Something was done since: an offer whose time is over goes."""
        self._answered = True
        if self._stays:
            self._show_message("", False)

    def _show_leads(self, names: tuple[str, ...]) -> None:
        if names:
            self._leads.show_commands(names)
            self._timer.start(_PROBLEM_MS)  # there is something to be done about it

    def _point(self, at: Spot | None) -> None:
        knitted = self._view.knitted
        cell = None if at is None or knitted is None else knitted.ground.board.cell_at(*at)
        if cell is None:
            self._place.setText("")
            self._why.setText("")
            self._zoom.setVisible(knitted is not None)
            return
        self._zoom.setVisible(True)
        row, column = cell
        self._place.setText(f"x {column}  y {row}")
        layer = self._session.layer
        if self._view.shows_proof or layer is None:
            self._why.setText("")
            return
        says = self._session.derived.why(self._session.choices.ground_id, layer.id, row, column)
        self._why.setText(says)
        self._why.setToolTip(f"Why this tile? {says}")

    def _start_job(self, job: Job) -> None:
        self._jobs.append(job)
        # Methods of the window's own: work that outlives the window tells nobody.
        job.progressed.connect(self._show_progress)
        job.ended.connect(self._end_job)
        self._named.start()
        self._soon.start()

    def _name_job(self) -> None:
        """Names the work that was begun last, if any goes on."""
        if self._jobs:
            self._progress.setValue(0)
            self._progress.setToolTip(self._jobs[-1].title)
            self._work.setText(self._jobs[-1].title)

    def _show_job(self) -> None:
        """Shows whether work goes on."""
        if not self._jobs and self._cancel.hasFocus():
            self._findings.setFocus()
        for one in (self._work, self._progress, self._cancel):
            one.setVisible(bool(self._jobs))

    def _show_progress(self, share: float) -> None:
        if self._jobs and self.sender() is self._jobs[-1]:
            self._progress.setValue(int(share * 100))

    def _end_job(self) -> None:
        ended, shown = self.sender(), self._jobs[-1:]
        # What begins when another ends may have begun before this is told.
        self._jobs = [job for job in self._jobs if job is not ended]
        if self._jobs[-1:] != shown:
            self._named.start()
        if not self._jobs:
            self._show_job()

    def _stop(self) -> None:
        if self._jobs:
            self._jobs[-1].cancel()


def _search(entries: QListWidget, count: int) -> QLineEdit:
    """A line that leaves only those findings in the list that hold all words typed."""
    line = QLineEdit()
    line.setPlaceholderText(f"Search {count:,} findings")
    line.setAccessibleName("Search the findings")

    def look(text: str) -> None:
        words = text.lower().split()
        every = [entries.item(number) for number in range(entries.count())]
        for item in every:
            item.setHidden(not all(word in item.text().lower() for word in words))
        entries.setCurrentRow(next((number for number, item in enumerate(every) if not item.isHidden()), -1))

    def go() -> None:
        if entries.currentRow() >= 0:
            entries.itemActivated.emit(entries.currentItem())

    line.textChanged.connect(look)
    line.returnPressed.connect(go)
    return line


def _offer(mends: QPushButton, item: QListWidgetItem | None) -> None:
    """Lets a button say how the finding at hand can be mended at once; it hides where it can't."""
    finding: Finding | None = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
    way = mend_of(finding) if finding is not None else None
    mends.setVisible(way is not None)
    mends.setText(way.title if way is not None else "")
    mends.setAccessibleName(mends.text())
