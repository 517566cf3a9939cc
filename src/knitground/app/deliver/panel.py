"""Stage 6: the list of deliveries, and what each of them is."""

import html
from pathlib import Path

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices, QShowEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from knitground.app.allowed import a_menu
from knitground.app.deliver.commands import NO_GROUND_YET
from knitground.app.deliver.delivery_card import DeliveryCard
from knitground.app.deliver.first import FirstDelivery
from knitground.app.deliver.live_switch import LiveSwitch
from knitground.app.deliver.runs import Runs
from knitground.app.file_dialogs import ask_where
from knitground.app.jobs import Job
from knitground.app.known import with_id
from knitground.app.session import Session
from knitground.app.stage import StagePanel
from knitground.app.widgets import button, card, column, heading, in_row, quiet, scrolling
from knitground.core.deliver import EXPORTERS
from knitground.core.edits.delivering import add_delivery
from knitground.core.project.delivery import Delivery
from knitground.core.project.model import fresh_id

_MOST_ROWS = 5
_WHEN = {"asked": "when asked", "save": "on every save", "change": "on every change"}


class DeliverPanel(StagePanel):
    """The left half while grounds are handed over."""

    def __init__(self, session: Session, runs: Runs) -> None:
        super().__init__()
        self._session, self.runs = session, runs
        self.list = QListWidget()
        self.list.setObjectName("deliveries")
        self.list.setAccessibleName("Deliveries")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda *_: self._show_card())
        self.list.itemActivated.connect(lambda item: self.runs.run(item.data(Qt.ItemDataRole.UserRole)))
        self.card = DeliveryCard(session, self.runs)
        self._frame = card(column(self.card))
        self._hint, self._done = quiet(), quiet()
        self._done.setOpenExternalLinks(False)
        self._done.linkActivated.connect(lambda link: QDesktopServices.openUrl(QUrl(link)))
        self.live = LiveSwitch(session)
        self._new = button("New delivery", self.offer, "Keep a delivery with the project", icon_name="plus")
        self._run = button("Run", self.run_chosen, "Write the files of the chosen delivery", name="primary")
        self._all = button("Run all", self.run_all, "Write the files of all deliveries (Alt+Shift+E)")
        self._below = scrolling(self._frame)
        self._first = FirstDelivery()
        self._first.chosen.connect(self.add)
        self._formats = card(column(scrolling(self._first)))
        layout = column(
            in_row(heading("Deliveries"), None, self._new, self.card.gone, self._run, self._all),
            self._hint,
            self._formats,
            self.list,
            self._done,
            self._below,
            self.live,
            spacing=10,
        )
        layout.setContentsMargins(12, 12, 12, 12)
        layout.setStretch(2, 1)
        layout.setStretch(5, 1)
        self.setLayout(layout)
        self._done.setVisible(False)
        for signal in (session.defined, session.opened, self.runs.changed):
            signal.connect(self.refresh)
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()  # how tall the lines are is known once they are dressed

    @property
    def chosen(self) -> Delivery | None:
        """The delivery that is chosen in the list."""
        item = self.list.currentItem()
        name = "" if item is None else item.data(Qt.ItemDataRole.UserRole)
        return with_id(self._session.document.project.deliveries, name)

    def refresh(self, *_: object) -> None:
        """Shows the deliveries that there are."""
        kept = self._session.document.project.deliveries
        wanted = self.chosen.id if self.chosen is not None else ""
        self.list.blockSignals(True)
        self.list.clear()
        for one in kept:
            item = QListWidgetItem(f"{one.name}   {self._told(one)}\n{self.runs.last_time(one)}")
            item.setToolTip(f"{self.runs.last_time(one)}\nReturn or a double click runs it")
            item.setData(Qt.ItemDataRole.UserRole, one.id)
            self.list.addItem(item)
            if one.id == wanted or self.list.currentItem() is None:
                self.list.setCurrentItem(item)
        rows = sum(self.list.sizeHintForRow(number) for number in range(min(_MOST_ROWS, len(kept))))
        self.list.setFixedHeight(rows + 4)
        self.list.blockSignals(False)
        for widget in (self.list, self._run, self._all, self.card.gone):
            widget.setVisible(bool(kept))
        first = not kept and bool(self._session.document.project.grounds)
        self._formats.setVisible(first)
        self._below.setVisible(not first)  # either has all the room there is
        self._hint.setText(self._hinted(bool(kept)))
        self._hint.setVisible(bool(self._hint.text()))
        self._show_card()

    def _told(self, one: Delivery) -> str:
        """What a delivery is, in a few words."""
        if self.runs.is_behind_others(one.id):
            return "waits for its turn…"
        if self.runs.is_running(one.id):
            return "running…"
        return f"{one.format.upper()} into {one.folder}, {_WHEN[one.when]}"

    def _hinted(self, kept: bool) -> str:
        if not self._session.document.project.grounds:
            return "There is no ground to deliver yet; make one in the Ground stage (Ctrl+4)."
        if not kept:
            return (
                "A delivery is kept with the project: a format, what goes into it and where to. It is run when you "
                "ask, on every save, or on every change. Choose what the first one is to be; Ctrl+E writes a PNG once."
            )
        if self._session.document.folder is None:
            return "Save the project first (Ctrl+S): deliveries lie beside it."
        return ""

    def _show_card(self) -> None:
        chosen = self.chosen
        self._frame.setVisible(chosen is not None)
        if chosen is not None:
            self.card.show_delivery(chosen)

    def offer(self) -> None:
        """Lets one choose the format of a new delivery."""
        menu = a_menu(self)
        for name, exporter in EXPORTERS.items():
            menu.addAction(exporter.title, lambda name=name: self.add(name))  # type: ignore[misc]
        menu.setActiveAction(menu.actions()[0])
        menu.popup(self._new.mapToGlobal(self._new.rect().bottomLeft()))

    def add(self, kind: str) -> None:
        """Keeps a new delivery of a format, and chooses it."""
        name = EXPORTERS[kind].title.partition(" (")[0]
        taken = {one.name for one in self._session.document.project.deliveries}
        number, free = 1, name
        while free in taken:
            number += 1
            free = f"{name} {number}"
        made = self._session.attempt(lambda: add_delivery(self._session.document, free, kind))
        if made is not None:
            self.choose(made)
            self.list.setFocus()

    def choose(self, delivery_id: str) -> None:
        """Chooses a delivery of the list."""
        for number in range(self.list.count()):
            if self.list.item(number).data(Qt.ItemDataRole.UserRole) == delivery_id:
                self.list.setCurrentRow(number)

    def run_chosen(self) -> None:
        """Runs the chosen delivery."""
        if self.chosen is not None:
            self.runs.run(self.chosen.id)

    def run_all(self) -> None:
        """Runs all deliveries."""
        self.runs.run(*(one.id for one in self._session.document.project.deliveries))

    def ask(self, name: str) -> None:
        """Asks where to, and delivers the ground at hand once."""
        exporter, ground = EXPORTERS[name], self._session.ground
        if ground is None:
            self._session.say(NO_GROUND_YET)
            return
        path = ask_where(
            self, f"Deliver {name.upper()}", f"{fresh_id(ground.id, ())}{exporter.ending}",
            f"{name.upper()} (*{exporter.ending})", "deliveries", self._session.document.folder,
        )  # fmt: skip
        if path is not None:
            self.deliver(name, path if path.suffix else path.with_suffix(exporter.ending))

    def deliver(self, name: str, path: Path) -> Job:
        """Delivers the ground at hand to a file once, beside the interface; work may go on meanwhile."""
        exporter, ground_id = EXPORTERS[name], self._session.choices.ground_id
        # The ground as it is now, whatever is painted while this runs.
        derived = self._session.derived.at_this_moment()
        job = Job("Delivering", lambda progress: exporter.write(derived, ground_id, path, progress))
        return self._session.run(job, self._on_done)

    def _on_done(self, written: list[Path]) -> None:
        names = " and ".join(path.name for path in written)
        folder = written[0].parent
        self._done.setText(f"Wrote {html.escape(names)} to <a href='{folder.as_uri()}'>{html.escape(str(folder))}</a>")
        self._done.setVisible(True)
        self._session.say(f"Wrote {names}.")
