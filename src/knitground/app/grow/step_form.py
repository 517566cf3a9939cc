"""The form of a step of a recipe, made of what its kind tells of itself."""

from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QSlider, QWidget

from knitground.app.session import Session
from knitground.app.widgets import ChoiceBox, clear, fill_box, quiet
from knitground.core.edits.recipes import suits
from knitground.core.edits.tile_search import tags_of
from knitground.core.grid.shapes import Shape
from knitground.core.grow.region import Where, cells_said, runs_of, spots_of
from knitground.core.grow.steps.step import Knob, Role, Step
from knitground.core.tiles.called import called

_EVERYWHERE, _KEPT, _SELECTED, _PAIRS = "", "kept", "selected", "/pairs"


class StepForm(QWidget):
    """Boxes at the left, sliders at the right; every change is told at once."""

    pairs_wanted = Signal()

    def __init__(self, session: Session, changed: Callable[[Step], None]) -> None:
        super().__init__()
        self._session, self._changed = session, changed
        self._step: Step | None = None
        self._kind: Any = None
        self._boxes: dict[str, ChoiceBox] = {}
        self._sliders: dict[str, QSlider] = {}
        self._values: dict[str, QLabel] = {}
        self._lies: list[Where] = []
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(6)
        self._grid.setHorizontalSpacing(8)
        for column, stretch in ((1, 4), (3, 4), (5, 2)):
            self._grid.setColumnStretch(column, stretch)
        self.setLayout(self._grid)

    def show_step(self, step: Step | None) -> None:
        """Shows a step as it is."""
        made_for = (type(step), step.where is not None, self._on_tiles(step)) if step is not None else None
        if made_for != self._kind:
            self._kind = made_for
            self._build(step)
        self._step = step
        if step is not None:
            self._fill(step)

    def _build(self, step: Step | None) -> None:
        """Makes the controls of a kind of step."""
        clear(self._grid)
        self._boxes, self._sliders, self._values = {}, {}, {}
        if step is None:
            return
        on_tiles = self._on_tiles(step)
        names = [("layer", "On")]
        names += [] if on_tiles else [(role.name, role.title) for role in step.roles]
        names += [("mix", "Mix")] if step.mix_id is not None and on_tiles else []
        names += [("join_set", "With")] if step.set_id is not None else []
        names += [("sheet", "Picture")] if step.sheet_id is not None else []
        names += [("reads", "Of")] if step.read_layer is not None else []
        names += [(choice.name, choice.title) for choice in step.choices]
        names += [("spots", step.asks_spots.title)] if step.asks_spots is not None else []
        names += [("over", "Over")] if step.set_id is None else []
        names += [("cells", "Within"), ("where", "Only where")]
        names += [("where lies", "there is"), ("where inside", "at least")] if step.where is not None else []
        for line, (name, title) in enumerate(names):
            box = ChoiceBox(title)
            box.setMinimumWidth(104)
            box.activated.connect(lambda _, name=name: self._picked(name))
            self._boxes[name] = box
            down, across = divmod(line, 2)
            self._grid.addWidget(QLabel(title), down, 2 * across)
            self._grid.addWidget(box, down, 2 * across + 1)
        for line, knob in enumerate(step.knobs):
            self._add_slider(line, knob)
        self._grid.setRowStretch(max(-(-len(names) // 2), len(step.knobs)), 1)

    def _add_slider(self, line: int, knob: Knob) -> None:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(round(knob.low / knob.unit), round(knob.high / knob.unit))
        slider.setAccessibleName(knob.title)
        slider.valueChanged.connect(lambda value, knob=knob: self._slid(knob, value))
        value = quiet()
        value.setWordWrap(False)
        value.setFixedWidth(48)
        self._sliders[knob.name], self._values[knob.name] = slider, value
        for column, widget in ((4, QLabel(knob.title)), (5, slider), (6, value)):
            self._grid.addWidget(widget, line, column)

    def _fill(self, step: Step) -> None:
        """Shows the values of a step in the controls that there are."""
        ground, project = self._session.ground, self._session.document.project
        if ground is None:
            return
        layers = [(layer.name, layer.id) for layer in ground.layers if suits(step, layer)]
        fill_box(self._boxes["layer"], layers, step.layer)
        terrains = self._terrains(step.layer)
        for role in [role for role in step.roles if role.name in self._boxes]:
            self._fill_role(role, terrains, getattr(step, role.name))
        if "over" in self._boxes:
            entries = [("everything", ""), ("what is bare", "0"), *terrains]
            fill_box(self._boxes["over"], entries, "" if step.over is None else str(step.over))
        lists = {
            "mix": [(one.name, one.id) for one in project.mixes],
            "join_set": [
                *((one.name, one.id) for one in project.join_sets),
                *((f"pairs “{one.name}”", one.id) for one in project.pair_sets if self._on_tiles(step)),
                ("pairs of tiles…", _PAIRS),
            ],
            "sheet": [(one.id, one.id) for one in project.sheets],
            "reads": [(one.name, one.id) for one in ground.layers if one.knits and one.id != step.layer],
        }
        for name in lists.keys() & self._boxes.keys():
            fill_box(self._boxes[name], lists[name], getattr(step, name))
        for choice in step.choices:
            entries = [(text, str(value)) for text, value in choice.values]
            fill_box(self._boxes[choice.name], entries, str(getattr(step, choice.name)))
        self._fill_cells(step)
        self._fill_where(step.where)
        for knob in step.knobs:
            slider, value = self._sliders[knob.name], getattr(step, knob.name)
            slider.blockSignals(True)
            slider.setValue(round(value / knob.unit))
            slider.blockSignals(False)
            self._values[knob.name].setText(knob.text.format(value))

    def _fill_role(self, role: Role, terrains: list[tuple[str, str]], value: int | None) -> None:
        box = self._boxes[role.name]
        entries = [*([(role.none, "")] if role.none else []), ("nothing", "0"), *terrains]
        fill_box(box, entries, "" if value is None else str(value))

    def _fill_cells(self, step: Step) -> None:
        entries = [("the ground", _EVERYWHERE)]
        if step.cells is not None:
            entries.append((f"{cells_said(step.cells)} selected for it", _KEPT))
        if self._selected() is not None:
            entries.append(("what is selected now", _SELECTED))
        fill_box(self._boxes["cells"], entries, _EVERYWHERE if step.cells is None else _KEPT)
        if step.asks_spots is not None:
            spots = getattr(step, "spots")  # noqa: B009 - of kinds that ask for some
            entries = [(step.asks_spots.none, _EVERYWHERE)]
            if spots:
                entries.append((f"{len(spots)} place{'s' * (len(spots) > 1)} of the ground", _KEPT))
            if self._selected() is not None:
                entries.append(("what is selected now", _SELECTED))
            fill_box(self._boxes["spots"], entries, _KEPT if spots else _EVERYWHERE)

    def _selected(self) -> Shape | None:
        """What is selected on the ground."""
        selected, ground = self._session.selected, self._session.ground
        return selected.shape if selected is not None and ground and selected.ground == ground.id else None

    def _fill_where(self, where: Where | None) -> None:
        ground = self._session.ground
        if ground is None:
            return
        entries = [("everywhere", _EVERYWHERE)]
        entries += [(f"on “{one.name}”", one.id) for one in ground.layers if one.specs]
        fill_box(self._boxes["where"], entries, where.layer if where else _EVERYWHERE)
        if where is not None:
            lies = self._lying(where)
            self._lies = [one for _, one in lies]
            entries = [(text, str(number)) for number, (text, _) in enumerate(lies)]
            entries += [(f"not {text}", f"-{number}") for number, (text, _) in enumerate(lies) if number]
            entries.insert(1, ("nothing", "-0"))
            chosen = self._lies.index(replace(where, inside=0, outside=False))
            fill_box(self._boxes["where lies"], entries, f"{'-' if where.outside else ''}{chosen}")
            cells = [("to its border", "0"), *((f"{n} cell{'s' * (n > 1)} inside", str(n)) for n in range(1, 9))]
            fill_box(self._boxes["where inside"], cells, str(where.inside))

    def _lying(self, where: Where) -> list[tuple[str, Where]]:
        """What may be asked for on a layer, by what it is called; first anything that lies there."""
        project, at_hand = self._session.document.project, self._session.choices.tile
        plain = Where(where.layer)
        found = [("anything", plain)]
        found += [(name, replace(plain, terrain=int(number))) for name, number in self._terrains(where.layer)]
        found += [(f"a tile tagged “{tag}”", replace(plain, tag=tag)) for tag in tags_of(project)]
        tiles = dict.fromkeys(one for one in (where.tile, at_hand) if one is not None)
        found += [(f"the tile {called(project.sheets, one)}", replace(plain, tile=one)) for one in tiles]
        mine = replace(where, inside=0, outside=False)
        return found if mine in [one for _, one in found] else [*found, ("what is not there any more", mine)]

    def _on_tiles(self, step: Step) -> bool:
        """Whether it works on a layer of single tiles or things, where there are no terrains to choose."""
        ground = self._session.ground
        layers = ground.layers if ground else ()
        return any(one.id == step.layer and (one.holds_tiles or one.places_things) for one in layers)

    def _terrains(self, layer_id: str) -> list[tuple[str, str]]:
        ground = self._session.ground
        if ground is None or layer_id not in [one.id for one in ground.layers]:
            return []
        found = self._session.terrains_of(ground.layer(layer_id))
        return [(terrain.name, str(number)) for number, terrain in enumerate(found, start=1)]

    def _picked(self, name: str) -> None:
        """Takes over what was chosen in a box."""
        step = self._step
        if step is None:
            return
        data = self._boxes[name].currentData()
        if name.startswith("where"):
            self._changed(step.changed({"where": self._where(name, data, step.where)}))
            return
        if name in ("cells", "spots"):
            self._take_selected(step, name, data)
            return
        values = {choice.name: {str(value): value for _, value in choice.values} for choice in step.choices}
        if name in values:
            self._changed(step.changed({name: values[name][data]}))
        elif data == _PAIRS:
            self._fill(step)
            self.pairs_wanted.emit()
        elif name in ("mix", "join_set", "sheet", "reads"):
            self._changed(step.changed({name: data}))
        elif name == "layer":
            known = {field.name for field in fields(step)}
            back = {role.name: None for role in step.roles if role.none and role.name in known}
            self._changed(step.changed({"layer": data, "terrain": 1, "over": None, **back}))
        else:
            self._changed(step.changed({name: int(data) if data else None}))

    def _take_selected(self, step: Step, name: str, data: str) -> None:
        """Keeps the cells that are selected, or the middles of their parts, with the step."""
        selected = self._selected()
        if data == _SELECTED and selected is not None:
            self._changed(step.changed({name: runs_of(selected) if name == "cells" else spots_of(selected)}))
        elif data == _EVERYWHERE:
            self._changed(step.changed({name: None if name == "cells" else ()}))

    def _where(self, name: str, data: str, where: Where | None) -> Where | None:
        if name == "where":
            return Where(data) if data else None
        if where is None:
            return None
        if name == "where lies":
            return replace(self._lies[abs(int(data))], inside=where.inside, outside=data.startswith("-"))
        return replace(where, inside=int(data))

    def _slid(self, knob: Knob, value: int) -> None:
        if self._step is not None:
            number = value * knob.unit
            whole = isinstance(getattr(self._step, knob.name), int)
            self._changed(self._step.changed({knob.name: round(number) if whole else round(number, 4)}))
