"""What blocks as a whole: terrains, marks, tags and properties, each a box to tick."""

from collections.abc import Callable

from PySide6.QtWidgets import QDialog, QWidget

from knitground.app.session import Session
from knitground.app.widgets import Tick, button, column, heading, in_row, in_widget, quiet, scrolling
from knitground.core.edits.blocking import block_property, block_tag, block_terrain, values_of
from knitground.core.edits.tile_search import tags_of
from knitground.core.layers.blocking import TerrainOf
from knitground.core.tiles.notes import Property, as_typed

_NONE = "There is no terrain, tag or property yet. Tags and properties are given to tiles under Sheet, Tiles."


class RulesDialog(QDialog):
    """Every tick is one step of the history, and shows on the ground at once."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self._ticks: list[tuple[str, Property, Tick]] = []
        self.setWindowTitle("What blocks")
        self.resize(420, 520)
        project = session.document.project
        parts: list[QWidget | None] = []
        sets = [(one.id, one.name, one.terrains) for one in project.join_sets]
        sets += [(one.id, one.name, one.marks) for one in project.stitch_sets]
        for set_id, name, terrains in sets:
            parts.append(heading(name))
            for number, terrain in enumerate(terrains, start=1):
                parts.append(self._row_of(terrain.name, set_id, number))
        tags = tags_of(project)
        if tags:
            parts.append(heading("Tiles tagged"))
        parts += [self._of_tag(tag) for tag in tags]
        values = values_of(project)
        if values:
            parts.append(heading("Tiles of which is said"))
        parts += [self._of_value(name, value) for name, value in values]
        says = quiet(
            "Besides the shapes of tiles these block: cells that are wholly of a ticked terrain, tiles with a ticked "
            "tag, and tiles with a ticked property, one value of each. "
            "Right click a layer for what of it blocks; a walk layer says it place by place."
        )
        if not parts:
            self.resize(420, 200)
        layout = column(
            says,
            scrolling(in_widget(column(*parts, None, spacing=2))) if parts else quiet(_NONE),
            in_row(None, button("Close", self.accept, "Escape", name="primary")),
        )
        layout.setStretch(1, 1)
        layout.setContentsMargins(16, 12, 16, 12)
        self.setLayout(layout)

    def _row_of(self, name: str, set_id: str, number: int) -> Tick:
        document = self._session.document
        blocks = TerrainOf(set_id, number) in document.project.blocks.terrains
        return self._tick(name, blocks, lambda wanted: block_terrain(document, set_id, number, blocks=wanted))

    def _of_tag(self, tag: str) -> Tick:
        document = self._session.document
        blocks = tag in document.project.blocks.tags
        return self._tick(tag, blocks, lambda wanted: block_tag(document, tag, blocks=wanted))

    def _of_value(self, name: str, value: Property) -> Tick:
        document = self._session.document
        blocks = document.project.blocks.properties.get(name) == value
        tick = self._tick(
            f"{name}: {as_typed(value)}", blocks, lambda wanted: self._block_value(name, value, blocks=wanted)
        )
        self._ticks.append((name, value, tick))
        return tick

    def _block_value(self, name: str, value: Property, *, blocks: bool) -> None:
        block_property(self._session.document, name, value, blocks=blocks)
        for other, said, tick in self._ticks:
            if other == name and said != value:
                tick.setChecked(False)

    def _tick(self, name: str, checked: bool, act: Callable[[bool], None]) -> Tick:
        tick = Tick(name)
        tick.setAccessibleName(f"{name} blocks")
        tick.setChecked(checked)
        tick.clicked.connect(lambda blocks: self._session.attempt(lambda: act(blocks)))
        return tick
