"""Stage 6: each way to deliver as a card."""

from pathlib import Path

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QFileDialog

from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.stage import StagePanel
from knitground.app.widgets import button, card, column, heading, in_row, quiet
from knitground.core.deliver import EXPORTERS
from knitground.core.project.model import fresh_id


class DeliverPanel(StagePanel):
    """The left half while the ground is delivered."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._what, self._done = quiet(), quiet()
        self._done.setOpenExternalLinks(False)
        self._done.linkActivated.connect(lambda link: QDesktopServices.openUrl(QUrl(link)))
        self._buttons = []
        cards = []
        for name, exporter in EXPORTERS.items():
            go = button(
                f"Deliver {name.upper()}…",
                lambda n=name: self.ask(n),  # type: ignore[misc]
                f"Write {exporter.title.lower()}",
                name="primary",
            )
            self._buttons.append(go)
            cards.append(card(column(heading(exporter.title), quiet(exporter.about), in_row(go, None))))
        layout = column(heading("Deliver"), self._what, *cards, self._done, None, spacing=12)
        layout.setContentsMargins(12, 12, 12, 12)
        self.setLayout(layout)
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, "ground_id")
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Says what would be delivered."""
        ground = self._session.ground
        for go in self._buttons:
            go.setEnabled(ground is not None)
        if ground is None:
            self._what.setText("There is no ground to deliver yet.")
            return
        width, height = ground.projection.size
        cells = f"{ground.width} x {ground.height} cells"
        self._what.setText(f"“{ground.name}”, {cells}, {width} x {height} px; hidden layers stay out.")

    def commands(self) -> list[Command]:
        keys = {"png": ("Ctrl+E",), "json": ("Ctrl+Shift+E",)}

        def deliver(name: str) -> Command:
            return Command(
                f"Deliver {name.upper()}…", lambda: self._ask_here(name), keys.get(name, ()), refused=self._no_ground
            )

        return [deliver(name) for name in EXPORTERS]

    def _no_ground(self) -> str:
        return "" if self._session.ground else "There is no ground to deliver yet."

    def _ask_here(self, name: str) -> None:
        self._session.set_stage("deliver")
        self.ask(name)

    def ask(self, name: str) -> None:
        """Asks where to, and delivers."""
        exporter, ground = EXPORTERS[name], self._session.ground
        if ground is None:
            self._session.say(self._no_ground())
            return
        folder = self._session.document.folder or Path.home()
        start = str(folder / f"{fresh_id(ground.id, ())}{exporter.ending}")
        chosen, _ = QFileDialog.getSaveFileName(
            self, f"Deliver {name.upper()}", start, f"{name.upper()} (*{exporter.ending})"
        )
        if chosen:
            path = Path(chosen)
            self.deliver(name, path if path.suffix else path.with_suffix(exporter.ending))

    def deliver(self, name: str, path: Path) -> Job:
        """Delivers to a file, beside the interface; work may go on meanwhile."""
        exporter, ground_id = EXPORTERS[name], self._session.choices.ground_id
        # The ground as it is now, whatever is painted while this runs.
        derived = self._session.derived.at_this_moment()
        job = Job("Delivering", lambda progress: exporter.write(derived, ground_id, path, progress))
        return self._session.run(job, self._on_done)

    def _on_done(self, written: list[Path]) -> None:
        names = " and ".join(path.name for path in written)
        self._done.setText(f"Wrote {names} to <a href='{written[0].parent.as_uri()}'>{written[0].parent}</a>")
        self._session.say(f"Wrote {names}.")
