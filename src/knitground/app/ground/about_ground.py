"""What is said of a ground: its background, tags and properties."""

from dataclasses import replace

from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QColorDialog, QDialog, QDialogButtonBox, QWidget

from knitground.app.allowed import allow
from knitground.app.known import known
from knitground.app.said import SaidFields
from knitground.app.session import Session
from knitground.app.widgets import button, column, in_row, scrolling
from knitground.core.edits.notes import checked_name, checked_tag
from knitground.core.edits.things import put
from knitground.core.ground.ground import Ground
from knitground.core.tiles.notes import Property


class AboutGround(QDialog):
    """Fields that are written as they are changed; each change is a step that can be undone."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle(f"About “{self._ground.name}”")
        self.resize(440, 320)
        self._colour = button("Background", self._ask, "Choose the colour that lies below all layers")
        self._none = button("No background", lambda: self._put("background", background=None), "Leave it clear")
        self.said = SaidFields(session, self, "this ground")
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close, self)
        close.rejected.connect(self.reject)
        layout = column(in_row(self._colour, self._none, None), scrolling(self.said), close)
        layout.setStretch(1, 1)
        layout.setContentsMargins(12, 12, 12, 12)
        self.setLayout(layout)
        self._refresh()

    def add_tag(self, tag: str) -> None:
        """Gives the ground a tag."""
        self._put("tag", tags=tuple(sorted({*self._ground.tags, checked_tag(tag)})))

    def remove_tag(self, tag: str) -> None:
        """Takes a tag off the ground."""
        self._put("tag", tags=tuple(one for one in self._ground.tags if one != tag))

    def set_property(self, name: str, value: Property) -> None:
        """Gives the ground a property."""
        kept = {**self._ground.properties, checked_name(name): value}
        self._put(f"property {name}", properties=dict(sorted(kept.items())))

    def remove_property(self, name: str) -> None:
        """Takes a property off the ground."""
        kept = {key: one for key, one in self._ground.properties.items() if key != name}
        self._put(f"property {name}", properties=kept)

    @property
    def _ground(self) -> Ground:
        return known(self._session.ground)

    def _ask(self) -> None:
        colour = QColorDialog.getColor(QColor(self._ground.background or "#808080"), self, "Background")
        if colour.isValid():
            self._put("background", background=colour.name())

    def _put(self, label: str, **changes: object) -> None:
        put(self._session.document, label, "grounds", replace(self._ground, **changes))  # type: ignore[arg-type]
        self._refresh()

    def _refresh(self) -> None:
        ground = self._ground
        patch = QPixmap(16, 16)
        patch.fill(QColor(ground.background) if ground.background else QColor(0, 0, 0, 0))
        self._colour.setIcon(QIcon(patch))
        allow(self._none, "" if ground.background is not None else "There is no colour behind this ground.")
        self.said.show_said([(ground.tags, ground.properties, 1)])
