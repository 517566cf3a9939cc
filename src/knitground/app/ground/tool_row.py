"""The tool row: the tools, the choices that belong to the one in hand, and what it lays on which layer."""

from collections.abc import Iterable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QButtonGroup, QSlider, QToolButton, QWidget

from knitground.app.canvas.ground_view import GroundView
from knitground.app.commands import Command
from knitground.app.ground.selection import SelectionCommands
from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import icon
from knitground.app.tools import Tool
from knitground.app.widgets import Elided, TilePicture, column, draw_thread, icon_button, in_widget, row
from knitground.core.edits.forms import FORMS
from knitground.core.edits.painting import on_points
from knitground.core.edits.symmetry import WAYS as SYMMETRIES
from knitground.core.grow.mix import Mix
from knitground.core.joins.sets import Terrain
from knitground.core.layers.layer import Layer

LARGEST_RADIUS = 12
WAYS = {
    "box": "what is dragged over", "lasso": "what a line goes round", "touching": "what hangs together",
    "alike": "all that is alike", "tagged": "all tiles that share a tag",
}  # fmt: skip


MIRRORED = {
    "none": "nowhere", "across": "at either side", "down": "above and below", "both": "on all four sides",
    "turned": "at every quarter turn", "wrapping": "beyond the opposite border",
}  # fmt: skip
TURNED = {"as it is": "as they are", "mirrored": "mirrored by chance", "turned": "turned by chance"}
SNAPPED = {"cell": "cells", "half": "half cells", "pixel": "whole pixels", "free": "nothing"}


class ToolButton(QToolButton):
    """A tool's icon with its key small in the corner."""

    def __init__(self, tool: type[Tool]) -> None:
        super().__init__()
        self._key = tool.key
        self.setIcon(icon(tool.icon))
        self.setIconSize(QSize(19, 19))
        self.setCheckable(True)
        self.setFixedSize(32, 34)
        self.setToolTip(f"{tool.tip} ({tool.key})")
        self.setAccessibleName(tool.title)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        font = painter.font()
        font.setPixelSize(9)
        painter.setFont(font)
        painter.setPen(theme().colour("on_thread" if self.isChecked() else "quiet"))
        painter.drawText(
            self.rect().adjusted(0, 0, -4, -2), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, self._key
        )


class ThreadMark(QWidget):
    """A short thread of a terrain's colour."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(28, 20)
        self.colour = "#ffffff"

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QRectF(self.rect()).center().y()
        draw_thread(painter, QPointF(7, middle), QPointF(21, middle), self.colour)


class ToolRow(QWidget):
    """What is under the ground; it follows the choices and the tool in hand."""

    tool_chosen = Signal(str)
    thrown = Signal()

    def __init__(self, session: Session, view: GroundView, tools: Iterable[type[Tool]]) -> None:
        super().__init__()
        self._session, self._view = session, view
        self._selection = SelectionCommands(session, lambda: view.tool is not None and view.tool.lays_tile)
        self._buttons = self._tool_buttons(tools)
        self._radius = QSlider(Qt.Orientation.Horizontal)
        self._radius.setRange(0, LARGEST_RADIUS)
        self._radius.setFixedWidth(46)
        self._radius.setAccessibleName("Brush size")
        self._radius.setToolTip("Brush size ([ and ])")
        self._radius.valueChanged.connect(lambda value: self._session.choose(radius=value))
        self._session.choices.events.radius.connect(self._show_radius)
        self._density = QSlider(Qt.Orientation.Horizontal)
        self._density.setRange(1, 100)
        self._density.setFixedWidth(46)
        self._density.setAccessibleName("Density in per cent")
        self._density.valueChanged.connect(lambda value: self._session.choose(density=value / 100))
        self._session.choices.events.density.connect(self._show_density)
        self._show_density(self._session.choices.density)
        self._form = icon_button("form_box", self.next_form, "")
        self._alike = icon_button("alike", self.toggle_alike, "Fill all that is alike, wherever it lies (Shift+F)")
        self._alike.setCheckable(True)
        self._selecting = icon_button("way_box", self._selection.next_way, "")
        self._across = icon_button("across", self.toggle_across, "Take from all layers that show (Shift+B)")
        self._across.setCheckable(True)
        self._symmetry = icon_button("symmetry_none", self.next_symmetry, "")
        self._turning = icon_button("turning_as_it_is", self.next_turning, "")
        self._snap = icon_button("snap_cell", self.next_snap, "")
        self._picture, self._thread, self._lays = TilePicture(28), ThreadMark(), Elided()
        self._again = icon_button("throw", self.thrown.emit, "Throw the mix again (R)")
        self._runs = icon_button("run", lambda: None, "Lay runs along edges instead of areas (W)")
        self._runs.setCheckable(True)
        self._runs.clicked.connect(lambda checked: self._session.choose(runs=checked))
        self._verb, self._where = "lays", ""
        self._says = Elided()
        self._says.setObjectName("quiet")
        told = in_widget(column(None, self._lays, self._says, None, spacing=0))
        bar = row(
            *self._buttons.values(),
            self._form,
            self._alike,
            self._selecting,
            self._across,
            self._snap,
            self._symmetry,
            self._turning,
            self._radius,
            self._density,
            self._runs,
            self._picture,
            self._thread,
            told,
            self._again,
            spacing=3,
        )
        bar.setStretchFactor(told, 1)
        bar.setContentsMargins(0, 0, 0, 0)
        self.setLayout(bar)

    def commands(self) -> list[Command]:
        """What one can choose here."""
        return [
            Command("Smaller brush", lambda: self.change_radius(-1), ("[",), "ground"),
            Command("Larger brush", lambda: self.change_radius(1), ("]",), "ground"),
            Command("Areas, or runs along edges", self.toggle_runs, ("W",), "ground"),
            Command("Symmetry while drawing: the next way", self.next_symmetry, ("Shift+M",), "ground"),
            Command("Tiles as they are, mirrored or turned by chance", self.next_turning, ("Alt+T",), "ground"),
            Command("Next form of areas", self.next_form, ("Shift+A",), "ground"),
            Command("What is selected: of one layer, or of all that show", self.toggle_across, ("Shift+B",), "ground"),
            *self._selection.commands(),
            Command("Fill what hangs together, or all that is alike", self.toggle_alike, ("Shift+F",), "ground"),
        ]

    def toggle_runs(self) -> None:
        """Changes over between areas and runs, where a layer takes both."""
        self._session.choose(runs=not self._session.choices.runs)

    def next_form(self) -> None:
        """Another form for areas."""
        forms = list(FORMS)
        self._session.choose(form=forms[(forms.index(self._session.choices.form) + 1) % len(forms)])

    def toggle_alike(self) -> None:
        """Changes over between filling what hangs together and all that is alike."""
        self._session.choose(alike=not self._session.choices.alike)

    def toggle_across(self) -> None:
        """Changes over between the layer at hand and all that show."""
        self._session.choose(across=not self._session.choices.across)

    def next_symmetry(self) -> None:
        """Another way in which strokes fall once more."""
        way = [*map(str, SYMMETRIES)].index(self._session.choices.symmetry)
        self._session.choose(symmetry=SYMMETRIES[(way + 1) % len(SYMMETRIES)])

    def next_turning(self) -> None:
        """Another way in which tiles are turned by chance."""
        ways = list(TURNED)
        self._session.choose(turning=ways[(ways.index(self._session.choices.turning) + 1) % len(ways)])

    def next_snap(self) -> None:
        """Something else that things snap to."""
        self._selection.next_snap()

    def change_radius(self, step: int) -> None:
        """A larger or smaller brush."""
        self._session.choose(radius=min(max(0, self._session.choices.radius + step), LARGEST_RADIUS))

    def refresh(self) -> None:
        """Shows what is at hand."""
        if self._view.tool is not None:
            self._buttons[self._view.tool.name].setChecked(True)
        self._show_laid()

    def _tool_buttons(self, tools: Iterable[type[Tool]]) -> dict[str, ToolButton]:
        group, found = QButtonGroup(self), {}
        for kind in tools:
            found[kind.name] = entry = ToolButton(kind)
            entry.clicked.connect(lambda _=False, name=kind.name: self.tool_chosen.emit(name))
            group.addButton(entry)
        return found

    def _lays_what(self, layer: Layer) -> str:
        """What of a terrain a gesture lays: points between cells, cells, or runs along edges."""
        hand = self._session.hand
        if layer.lays_runs(hand.runs):
            return "lays runs"
        return "lays points" if on_points(layer, hand) else "lays cells"

    def _show_radius(self, radius: int) -> None:
        self._radius.setValue(radius)

    def _show_density(self, density: float) -> None:
        self._density.setValue(round(density * 100))
        self._density.setToolTip(f"Density: {density:.0%} of the places that a stroke goes over")

    def _show_options(self) -> None:
        """Only what belongs to the tool in hand."""
        chosen, tool = self._session.choices, self._view.tool
        options = tool.options if tool else ()
        for name, part in (
            ("radius", self._radius), ("density", self._density), ("form", self._form), ("alike", self._alike),
            ("selecting", self._selecting), ("across", self._across), ("snap", self._snap),
            ("symmetry", self._symmetry),
        ):  # fmt: skip
            part.setVisible(name in options)
        if FORMS[chosen.form].solid:
            self._radius.setVisible("radius" in options and "form" not in options)
        self._form.setIcon(icon(f"form_{chosen.form}"))
        self._form.setToolTip(f"Form: {chosen.form} (Shift+A for the next)")
        self._form.setAccessibleName(f"Form: {chosen.form}")
        self._alike.setChecked(chosen.alike)
        self._selecting.setIcon(icon(f"way_{chosen.selecting}"))
        self._selecting.setToolTip(f"Selects {WAYS[chosen.selecting]} (Shift+S for the next way)")
        self._selecting.setAccessibleName(f"Selects {WAYS[chosen.selecting]}")
        self._across.setChecked(chosen.across)
        self._turning.setVisible("turning" in options and self._session.layer is not None
                                 and self._session.layer.holds_tiles)  # fmt: skip
        self._turning.setIcon(icon(f"turning_{self._session.turning.replace(' ', '_')}"))
        self._turning.setToolTip(f"Tiles are laid {TURNED[self._session.turning]} (Alt+T for the next)")
        self._turning.setAccessibleName(f"Tiles are laid {TURNED[self._session.turning]}")
        self._symmetry.setIcon(icon(f"symmetry_{chosen.symmetry}"))
        self._symmetry.setToolTip(f"Falls once more: {MIRRORED[chosen.symmetry]} (Shift+M for the next)")
        self._symmetry.setAccessibleName(f"Falls once more: {MIRRORED[chosen.symmetry]}")
        self._snap.setIcon(icon(f"snap_{self._session.snap}"))
        self._snap.setToolTip(f"Snaps to {SNAPPED[self._session.snap]} (Shift+G for the next)")
        self._snap.setAccessibleName(f"Snaps to {SNAPPED[self._session.snap]}")

    def _show_laid(self) -> None:
        """What is in hand, and what is done with it where."""
        self._show_at_hand()
        self._says.setText(f"{self._verb} {self._where}".strip())
        for label in (self._lays, self._says):
            label.setToolTip(label.text())

    def _show_at_hand(self) -> None:
        session, layer, tool = self._session, self._session.layer, self._view.tool
        self._show_options()
        self._show_layer(layer)
        self._runs.setVisible(layer is not None and layer.takes_areas and layer.takes_runs)
        self._runs.setChecked(session.choices.runs)
        pins = tool is not None and tool.pins and layer is not None and layer.pinnable
        by_tile = pins or layer is None or layer.holds_tiles
        terrains = () if pins else session.terrains_of(layer)
        if tool is not None and tool.lays_tile:
            self._verb = tool.verb
            self._show_tile(session.mix if session.choices.lays_mix else None)
            self._show_parts(self._picture, self._lays, *([self._again] if session.choices.lays_mix else []))
        elif tool is not None and tool.verb:
            self._verb = tool.verb
            self._show_parts()
        elif terrains:
            terrain: Terrain = terrains[min(session.choices.terrain, len(terrains)) - 1]
            self._verb = self._lays_what(known(layer))
            self._thread.colour = terrain.colour
            self._thread.update()
            self._lays.setText(terrain.name)
            self._show_parts(self._thread, self._lays)
        elif layer is None:
            self._verb = "no layer to work on"
            self._lays.setText("lays nothing")
            self._show_parts(self._lays)
        else:
            self._verb = "pins" if pins else "lays"
            mixes = by_tile and session.choices.lays_mix and not pins
            self._show_tile(session.mix if mixes else None)
            if session.pattern is not None and not pins:
                self._lays.setText("the block, repeated")
                self._show_parts(self._lays)
                return
            self._show_parts(self._picture, self._lays, *([self._again] if mixes else []))

    def _show_parts(self, *wanted: QWidget) -> None:
        for part in (self._picture, self._thread, self._lays, self._again):
            part.setVisible(part in wanted)

    def _show_tile(self, mix: Mix | None) -> None:
        """The mix or the tile that would be laid."""
        session, ref = self._session, self._session.choices.tile
        if mix is not None:
            ref = next((part.tile for part in mix.parts if part.tile), None)
            self._lays.setText(f"{mix.name}, throw {session.choices.throw}")
        else:
            bare = "a light" if session.choices.light and session.props is not None else "no tile chosen"
            self._lays.setText(session.derived.called(ref) if ref else bare)
        pixels = session.derived.tile(ref) if ref else None
        self._picture.show_tile(None if pixels is None else np.array(pixels))

    def _show_layer(self, layer: Layer | None) -> None:
        """The layer that is worked on, and why nothing can be laid there or would be seen."""
        self._where = ""
        if layer is None:
            return
        doubt = ", locked" if layer.locked else ", hidden" if not layer.visible else ""
        tool = self._view.tool
        self._where = (tool.where(layer) if tool else f"on {layer.name}") + doubt
