"""Signs of knitting charts: how each is drawn, and a palette to take one in hand."""

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QWidget

from knitground.app.guard import guarded
from knitground.app.one_of import OneOf
from knitground.app.theme.colours import theme
from knitground.app.widgets import clear, draw_button_frame
from knitground.core.joins.sets import Terrain
from knitground.core.project.model import Project
from knitground.core.stitches.charts import ANY, OFF, OTHER, SAME, Sign, read_sign, write_sign
from knitground.core.stitches.rules import StitchSet

_INK = QColor(22, 17, 15)
_MOST_LETTERS = 4


class Named(NamedTuple):
    """Something that charts name by a number: its name, its letter, and its colour if it has one."""

    name: str
    letter: str
    colour: str


class Choice(NamedTuple):
    """An entry of the palette."""

    word: str
    title: str
    tip: str


def named_in(project: Project, stitch_set: StitchSet, of: str) -> tuple[Named, ...]:
    """What the numbers in charts of a view, or of the plan, stand for, from 1."""
    view = stitch_set.view(of) if of else None
    if of and view is None:
        return ()
    if view is not None and view.sees != "painted":
        return tuple(Named(sign.name, sign.letter, "") for sign in view.signs)
    terrains: tuple[Terrain, ...] = stitch_set.marks
    if view is not None:
        known = {one.id: one.terrains for one in project.join_sets}
        known |= {one.id: one.marks for one in project.stitch_sets if one.id not in known}
        terrains = known.get(view.of, ())
    return tuple(Named(one.name, one.letter, one.colour) for one in terrains)


def choices_for(named: Sequence[Named], *, partly: bool) -> list[Choice]:
    """What a cell of a chart can say, the plainest first."""
    found = [
        Choice(SAME, "the same", "V: the cell bears the same as the middle (V)"),
        Choice(OTHER, "another", "A dash: the cell bears something else than the middle (-)"),
        Choice(ANY, "anything", "Blank: whatever lies there (. or the right button)"),
        Choice("0", "nothing", "A ring: nothing lies there (0)"),
        Choice(OFF, "off map", "Hatched: the cell lies off the map (X)"),
    ]
    for number, one in enumerate(named, start=1):
        found.append(Choice(str(number), one.name, f"{one.letter}: the cell is {one.name} ({one.letter})"))
    if partly:
        found += [
            Choice(f"{number}~", f"some {one.name}", f"{one.letter} on a wave: the cell bears {one.name} in some part")
            for number, one in enumerate(named, start=1)
        ]
    return found


def said(word: str, named: Sequence[Named]) -> str:
    """What a word of a chart means, in words."""
    sign = read_sign(word)
    plain = {SAME: "the same as the middle", OTHER: "something else than the middle", ANY: "anything"}
    if sign.word:
        return plain[sign.word]

    def name(number: int) -> str:
        if number == 0:
            return "nothing"
        return named[number - 1].name if number <= len(named) else f"number {number}"

    parts = [name(number) for number in sorted(sign.numbers)] + [f"some {name(one)}" for one in sorted(sign.some)]
    parts += ["off the map"] if sign.off else []
    return ("none of: " if sign.none_of else "") + " or ".join(parts)


def draw_sign(painter: QPainter, cell: QRectF, word: str, named: Sequence[Named]) -> None:
    """Draws a sign of a chart into its cell."""
    sign = read_sign(word)
    if sign.word == ANY:
        return
    if sign.word:
        _stroke(painter, cell, sign.word)
        return
    if sign.off:
        _hatch(painter, cell)
    numbers = [*sorted(sign.numbers), *sorted(sign.some)]
    shown = numbers[:_MOST_LETTERS]
    across = 1 if len(shown) == 1 else 2
    down = -(-len(shown) // 2) or 1
    for place, number in enumerate(shown):
        part = QRectF(
            cell.x() + place % across * cell.width() / across,
            cell.y() + place // across * cell.height() / down,
            cell.width() / across,
            cell.height() / down,
        )
        _name(painter, part, number, named, partly=place >= len(sign.numbers))
    if sign.none_of:
        painter.setPen(QPen(theme().colour("ink"), 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        inner = cell.adjusted(3, 3, -3, -3)
        painter.drawLine(inner.bottomLeft(), inner.topRight())


def _name(painter: QPainter, part: QRectF, number: int, named: Sequence[Named], *, partly: bool) -> None:
    if number == 0:
        radius = min(part.width(), part.height()) * 0.24
        painter.setPen(QPen(theme().colour("ink"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(part.center(), radius, radius)
        return
    one = named[number - 1] if number <= len(named) else Named("?", "?", "")
    if one.colour:
        painter.fillRect(part.adjusted(1, 1, -1, -1), QColor(one.colour))
    painter.setPen(_INK if one.colour else theme().colour("ink"))
    font = painter.font()
    font.setPixelSize(max(7, int(min(part.height() * 0.62, part.width() * 0.9, 15))))
    painter.setFont(font)
    painter.drawText(part, Qt.AlignmentFlag.AlignCenter, one.letter)
    if partly:
        low, step = part.bottom() - 3, part.width() / 6
        wave = [QPointF(part.x() + n * step, low - 2 * (n % 2)) for n in range(1, 6)]
        painter.setPen(QPen(_INK if one.colour else theme().colour("ink"), 1.4))
        painter.drawPolyline(wave)


def _stroke(painter: QPainter, cell: QRectF, word: str) -> None:
    """V and dash as strokes, in one line weight."""
    middle, reach = cell.center(), cell.width() * 0.26
    colour = theme().colour("thread" if word == SAME else "ink")
    painter.setPen(QPen(colour, 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    if word == SAME:
        painter.fillRect(cell.adjusted(1, 1, -1, -1), theme().colour("thread", 40))
        painter.drawPolyline(
            [middle + QPointF(-reach, -reach), middle + QPointF(0, reach), middle + QPointF(reach, -reach)]
        )
    else:
        painter.drawLine(middle - QPointF(reach, 0), middle + QPointF(reach, 0))


def _hatch(painter: QPainter, cell: QRectF) -> None:
    painter.fillRect(cell.adjusted(1, 1, -1, -1), theme().colour("line"))
    painter.fillRect(cell.adjusted(1, 1, -1, -1), Qt.BrushStyle.BDiagPattern)


class _Entry(OneOf):
    """A sign of the palette, with its name."""

    def __init__(self, choice: Choice, named: Sequence[Named]) -> None:
        super().__init__()
        self.choice = choice
        self._named = named
        self.setToolTip(choice.tip)
        self.setAccessibleName(choice.title)
        self.setFixedHeight(28)
        self.setMinimumWidth(70)

    def sizeHint(self) -> QSize:
        return QSize(104, 28)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_button_frame(painter, self)
        cell = QRectF(5, 5, 18, 18)
        painter.save()
        draw_sign(painter, cell, self.choice.word, self._named)
        painter.restore()
        painter.setPen(QPen(theme().colour("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(cell)
        painter.setPen(theme().colour("ink"))
        room = self.rect().adjusted(30, 0, -4, 0)
        text = painter.fontMetrics().elidedText(self.choice.title, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)


class SignPalette(QWidget):
    """The legend of a chart, from which a sign is taken in hand."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._layout = QGridLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(3)
        self._group = QButtonGroup(self)
        self._shown: tuple[object, ...] = ()

    def show_choices(self, named: Sequence[Named], *, partly: bool, word: str) -> None:
        """Shows what a cell can say, one of it in hand."""
        known = tuple(named), partly
        if self._shown != known:
            self._shown = known
            clear(self._layout)
            self._group = QButtonGroup(self)
            for place, choice in enumerate(choices_for(named, partly=partly)):
                entry = _Entry(choice, named)
                entry.clicked.connect(lambda _=False, one=choice.word: self.chosen.emit(one))
                self._group.addButton(entry)
                self._layout.addWidget(entry, place // 2, place % 2)
        for button in self._group.buttons():
            button.setChecked(isinstance(button, _Entry) and button.choice.word == word)


def with_another(word: str, more: str) -> str:
    """A word that names what both name: one of several."""
    one, other = read_sign(word), read_sign(more)
    if one.word or other.word:
        return more
    return write_sign(Sign("", one.numbers | other.numbers, one.some | other.some, one.off or other.off, one.none_of))


def turned_round(word: str) -> str:
    """A word that says the contrary."""
    sign = read_sign(word)
    plain = {SAME: OTHER, OTHER: SAME, ANY: ANY}
    return plain[sign.word] if sign.word else write_sign(sign._replace(none_of=not sign.none_of))
