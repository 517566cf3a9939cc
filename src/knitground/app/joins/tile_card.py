"""The card under the sheet while joins are made: the tile at hand, large, with what it meets and its weight."""

from PySide6.QtWidgets import QDoubleSpinBox, QLabel, QSizePolicy, QWidget

from knitground.app.allowed import NO_SHEET, NO_TILE, allow
from knitground.app.joins.tile_marks import TileMarks
from knitground.app.joins.variant_bar import VariantBar
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.widgets import Elided, column, in_row, in_widget, quiet, row
from knitground.core.edits.notes import set_weight
from knitground.core.joins.sets import letters
from knitground.core.tiles.notes import TileNotes

_SIDE = 116


class TileCard:
    """Shows the tile of the session."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.marks = TileMarks(session, _SIDE)
        self._title, self._meets = Elided("No tile chosen"), quiet()
        self._title.setObjectName("heading")
        self.weight = QDoubleSpinBox()
        self.weight.setRange(0, 1_000_000)
        self.weight.setDecimals(2)
        self.weight.setKeyboardTracking(False)
        self.weight.lineEdit().setTextMargins(6, 0, 0, 0)
        self.weight.setToolTip("How often this tile comes among those with the same labels")
        self.weight.setAccessibleName("Weight")
        self.weight.setFixedWidth(84)
        self.weight.valueChanged.connect(self._set_weight)
        self.share = quiet()
        self.share.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.bar = VariantBar(session)
        weight = in_row(QLabel("Weight"), self.weight, self.share)
        text = column(self._title, self._meets, weight, self.bar, None, spacing=4)
        layout = row(self.marks, spacing=12)
        layout.addLayout(text, 1)
        self.widget: QWidget = in_widget(layout)

    def refresh(self) -> None:
        """Shows the tile as it is."""
        session, ref = self._session, self._session.choices.tile
        known = ref is not None and session.derived.tile(ref) is not None
        allow(self.weight, "" if known else NO_TILE)
        self.marks.update()
        self.bar.refresh()
        if ref is None or not known:
            self._title.setText("No tile chosen")
            self._meets.setText("Click a tile on the sheet." if session.document.project.sheets else NO_SHEET)
            self.share.setText("")
            self.weight.clear()
            return
        made = any(sheet.id == ref.sheet and sheet.made for sheet in session.document.project.sheets)
        self._title.setText(f"{session.derived.called(ref)}{', until one is drawn' if made else ''}")
        self._title.setToolTip(self._title.text())
        weight = session.document.project.tiles.get(ref, TileNotes()).weight
        self.weight.blockSignals(True)
        self.weight.setValue(weight)
        self.weight.blockSignals(False)
        self._show_labels()

    def _show_labels(self) -> None:
        session, join_set, ref = self._session, self._session.join_set, self._session.choices.tile
        labels = join_set.labels.get(known(ref)) if join_set else None
        if join_set is None or labels is None:
            self._meets.setText("Not labelled in this set.")
            self.share.setText("")
            return
        names = [join_set.terrains[number - 1].name if number else "nothing" for number in labels]
        if len(set(names)) == 1:
            says = f"{names[0]} all round"
        else:
            where: dict[str, list[str]] = {}
            for place, name in zip(join_set.places, names, strict=True):
                where.setdefault(name, []).append(_short(place))
            says = ", ".join(f"{name} {' '.join(places)}" for name, places in where.items())
        self._meets.setText(f"{letters(join_set, labels)}: {says}")
        notes = session.document.project.tiles
        same = [other for other, row_ in join_set.labels.items() if row_ == labels]
        total = sum(notes.get(other, TileNotes()).weight for other in same)
        weight = notes.get(known(ref), TileNotes()).weight
        self.share.setText(
            f"{weight / total:.0%} of {len(same)} variants" if len(same) > 1 and total else "has no variants"
        )

    def _set_weight(self, weight: float) -> None:
        tile = self._session.choices.tile
        if self.bar.variants():
            self.bar.weigh(weight)
        elif tile:
            self._session.attempt(lambda: set_weight(self._session.document, [tile], weight))


def _short(place: str) -> str:
    """A compass point in one or two letters."""
    return "".join(word[0].upper() for word in place.split("-"))
