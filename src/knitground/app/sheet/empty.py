"""What an empty project says: its own first step."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from knitground.app.guard import guarded
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.stage import SheetTabs
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import button, in_row, quiet

_FIRST_STEP = "Drop a sprite sheet here, or a folder"


class EmptySheet(QWidget):
    """A place to drop the first sheet on."""

    def __init__(self, session: Session, tabs: SheetTabs) -> None:
        super().__init__()
        self._jobs: list[Job] = []
        self._title = QLabel(_FIRST_STEP)
        self._title.setObjectName("heading")
        self._title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        what = quiet(
            "PNG, GIF, WebP or BMP. The grid of a sheet is guessed,\n"
            "or several on parts of it, and you drag them right."
        )
        what.setAlignment(Qt.AlignmentFlag.AlignCenter)
        choose = in_row(
            button("Choose a file…", tabs.ask, "Choose an image file (Ctrl+I)"),
            button(
                "Choose a folder…",
                tabs.ask_folder,
                "Choose a folder: sheets in it are cut, single images become one tileset",
            ),
        )
        layout = QVBoxLayout(self)
        layout.addStretch(5)
        layout.addSpacing(56)
        for thing in (self._title, what):
            layout.addWidget(thing)
        layout.addSpacing(8)
        layout.addWidget(choose, 0, Qt.AlignmentFlag.AlignCenter)
        layout.addStretch(5)
        session.job_started.connect(self._start_job)

    def _start_job(self, job: Job) -> None:
        self._jobs.append(job)
        job.ended.connect(self._end_job)
        self._show()

    def _end_job(self) -> None:
        self._jobs = [job for job in self._jobs if job.running]
        self._show()

    def _show(self) -> None:
        """Says what goes on, where one looks for it, or what there is to do."""
        self._title.setText(f"{self._jobs[-1].title}…" if self._jobs else _FIRST_STEP)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QRectF(self.rect()).center()
        frame = QRectF(middle.x() - 210, middle.y() - 120, 420, 240)
        painter.setPen(QPen(theme().colour("quiet"), 2, Qt.PenStyle.DashLine, Qt.PenCapStyle.RoundCap))
        painter.setBrush(theme().colour("panel", 120))
        painter.drawRoundedRect(frame, 12, 12)
        draw_icon(painter, "drop", QRectF(middle.x() - 24, middle.y() - 92, 48, 48), theme().colour("thread"))
