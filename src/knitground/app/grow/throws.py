"""Nine throws of a recipe side by side, to choose one."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QDialog, QGridLayout, QProgressBar, QWidget

from knitground.app.allowed import allow
from knitground.app.guard import guarded
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import button, column, fitted, image_of, in_widget, quiet, row
from knitground.core.edits.foreshown import Pixels, throws
from knitground.core.grow.recipe import Recipe
from knitground.core.project.derived import Derived

_COUNT, _ACROSS = 9, 3
_WIDTH, _HEIGHT = 264, 186


class _Throw(QAbstractButton):
    """One throw; a click takes it."""

    def __init__(self, number: int) -> None:
        super().__init__()
        self.setFixedSize(QSize(_WIDTH, _HEIGHT))
        self.setAccessibleName(f"Throw {number + 1}")
        self.setToolTip(f"Try this throw ({number + 1})")
        allow(self, "It is still being thrown.")
        self._image: QImage | None = None

    def show_throw(self, pixels: Pixels) -> None:
        """Shows a small picture, (h, w, 4) uint8 premultiplied."""
        self._image = image_of(pixels, premultiplied=True)
        allow(self, "")
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        room = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        painter.fillRect(room, theme().colour("well"))
        if self._image is not None:
            painter.drawImage(fitted(self._image.size(), room.adjusted(2, 2, -2, -2)), self._image)
        lit = self.hasFocus() or self.underMouse()
        painter.setPen(
            QPen(theme().colour("focus" if self.hasFocus() else "thread" if lit else "line"), 2 if lit else 1)
        )
        painter.drawRoundedRect(room, 4, 4)


class _News(QObject):
    """What tells of each throw; it lasts as long as the work does, even where the dialog is closed meanwhile."""

    made = Signal(object, object)


class Throws(QDialog):
    """Makes the throws beside the interface; one that is chosen is handed on by its seed."""

    def __init__(
        self, session: Session, below: Derived, recipe: Recipe, take: Callable[[int], None], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Throws of {recipe.name}")
        self._take, self._recipe = take, recipe
        self.pictures = [_Throw(number) for number in range(_COUNT)]
        self.seeds: list[int] = []
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        for number, picture in enumerate(self.pictures):
            picture.clicked.connect(lambda _=False, number=number: self._choose(number))
            grid.addWidget(picture, number // _ACROSS, number % _ACROSS)
        self._bar = QProgressBar()
        self._bar.setMaximum(100)
        self._bar.setTextVisible(False)
        self._bar.setFixedWidth(160)
        self._hint = quiet("The first is the throw that there is; a click, or its number, tries one on the ground.")
        close = button("Close", self.reject, "Leave it as it is (Escape)")
        foot = row(self._hint, self._bar, close)
        foot.setStretch(0, 1)
        layout = column(in_widget(grid), in_widget(foot))
        layout.setContentsMargins(12, 12, 12, 12)
        self.setLayout(layout)

        news = _News()

        def work(progress: Callable[[float], None]) -> None:
            for number, (seed, pixels) in enumerate(throws(below, recipe, _COUNT, _WIDTH)):
                progress((number + 1) / _COUNT)
                news.made.emit(seed, pixels)

        self._job = Job("Throwing", work)
        # Bound methods end with the dialog, whatever is still on its way to it then.
        self._job.progressed.connect(self._advance)
        self._job.succeeded.connect(self._all_there)
        news.made.connect(self._show)
        self._job.failed.connect(self._hint.setText)
        self.finished.connect(self._end)
        self._job.start()
        self.pictures[0].setFocus(Qt.FocusReason.OtherFocusReason)

    def _advance(self, share: float) -> None:
        self._bar.setValue(round(100 * share))

    def _all_there(self, result: object) -> None:
        self._bar.hide()

    def _end(self, result: int) -> None:
        self._job.cancel()
        self.deleteLater()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        number = event.key() - Qt.Key.Key_1
        if 0 <= number < len(self.seeds):
            self._choose(number)
        else:
            super().keyPressEvent(event)

    def _show(self, seed: int, pixels: Pixels) -> None:
        """Shows the next throw."""
        self.pictures[len(self.seeds)].show_throw(pixels)
        self.seeds.append(seed)

    def _choose(self, number: int) -> None:
        self.accept()
        self._take(self.seeds[number])
