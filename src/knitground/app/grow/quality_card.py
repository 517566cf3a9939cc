"""The quality of the ground at hand, measured beside the interface and told in a card."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QScrollArea, QWidget

from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.widgets import button, column, heading, in_row, quiet
from knitground.core.edits.measuring import Quality, quality, told


class QualityCard(QDialog):
    """Measures when it opens; closing it stops that."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("How good is this ground?")
        self.resize(620, 420)
        self.text = quiet("Measuring …")
        self.text.setAlignment(Qt.AlignmentFlag.AlignTop)
        derived, ground = session.derived.at_this_moment(), session.ground
        room = QScrollArea()
        room.setWidgetResizable(True)
        room.setWidget(self.text)
        layout = column(
            heading(ground.name if ground else ""),
            quiet("A lattice that stands out more than in 99 of 100 shuffles of the same tiles is one that is seen."),
            room,
            in_row(None, button("Close", self.reject, "Escape")),
        )
        layout.setContentsMargins(12, 12, 12, 12)
        self.setLayout(layout)
        if ground is None:
            return
        name = ground.id

        def work(progress: Callable[[float], None]) -> Quality:
            return quality(derived, name, progress)

        self._job = Job("Measuring", work, stands_back=True)
        self._job.succeeded.connect(self._show)
        self._job.failed.connect(self.text.setText)
        self.finished.connect(self._end)
        self._job.start()

    def _show(self, found: Quality) -> None:
        self.text.setText("\n\n".join(told(found)))

    def _end(self, result: int) -> None:
        self._job.cancel()
        self.deleteLater()
