"""How the chosen things shine, or with none chosen those that are placed next."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QColorDialog, QLabel, QSlider, QWidget

from knitground.app.allowed import allow
from knitground.app.chosen_things import ChosenThings
from knitground.app.session import Session
from knitground.app.widgets import Tick, button, column, in_row, number, quiet, set_quietly
from knitground.core.edits.placing import change
from knitground.core.layers.light import FARTHEST_REACH, Light

_PER_CENT = 100


class LightPage(QWidget):
    """Colour, reach, softness and flicker, and whether what stops sight throws a shadow."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._chosen = session, ChosenThings(session)
        self.shines = Tick("Shines", "A light takes away the shade round it")
        self.shines.clicked.connect(self._switch)
        self.colour = button("", self._ask_colour, "Choose the colour of the light")
        self.colour.setAccessibleName("Colour of the light")
        self.reach = number(
            1, FARTHEST_REACH, lambda value: self._change(lambda one: replace(one, reach=float(value))),
            "How far the light reaches, in pixels", " px",
        )  # fmt: skip
        self.softness = self._slider("Softness: how gradually it fades", "softness")
        self.flicker = self._slider("Flicker: how much of its brightness comes and goes", "flicker")
        self.shadows = Tick("Throws shadows", "What stops sight keeps the light off what lies behind it")
        self.shadows.clicked.connect(lambda on: self._change(lambda one: replace(one, shadows=on)))
        self._says = quiet()
        new = button("New light", self.take_in_hand, "Then click on the ground where it is to stand")
        self._parts: tuple[QWidget, ...] = (self.colour, self.reach, self.softness, self.flicker, self.shadows)
        self.setLayout(
            column(
                in_row(self.shines, self.colour, QLabel("Reach"), self.reach, None, new),
                in_row(QLabel("Softness"), self.softness, QLabel("Flicker"), self.flicker, None),
                in_row(self.shadows, None),
                self._says,
                None,
                spacing=6,
            )
        )

    def refresh(self) -> None:
        """Shows the light of the first thing that is chosen."""
        light, some = self._light, bool(self._chosen.ids)
        for tick, on in ((self.shines, light is not None), (self.shadows, light is not None and light.shadows)):
            tick.setChecked(on)
        why_not = "" if light is not None else "Tick “Shines” first." if some else "Choose a thing on the map first."
        for part in self._parts:
            allow(part, why_not)
        shown = light or Light()
        patch = QPixmap(14, 14)
        patch.fill(QColor(shown.colour))
        self.colour.setIcon(QIcon(patch))
        set_quietly(self.reach, round(shown.reach))
        for slider, share in ((self.softness, shown.softness), (self.flicker, shown.flicker)):
            slider.blockSignals(True)
            slider.setValue(round(share * _PER_CENT))
            slider.blockSignals(False)
        self._says.setText(self._about(some=some, shines=light is not None))

    def take_in_hand(self) -> None:
        """Lets the next click place a light alone."""
        session = self._session
        session.choose(tile=None, lays_mix=False, things=frozenset(), light=self._light or Light())
        session.tool_wanted.emit("draw")
        session.say("Click on the ground where the light is to stand.")

    @property
    def _light(self) -> Light | None:
        chosen = self._chosen.things
        return chosen[0].light if chosen else self._session.choices.light

    def _about(self, *, some: bool, shines: bool) -> str:
        ground = self._session.ground
        shaded = ground is not None and any(layer.kind == "shade" and layer.visible for layer in ground.layers)
        if shines and not shaded:
            return "Light shows where there is shade: add a shade layer above and paint some."
        return "" if some else "No thing is chosen: this is for those that are placed next."

    def _switch(self, on: bool) -> None:
        self._put("let things shine" if on else "put lights out", lambda old: (old or Light()) if on else None)

    def _change(self, act: Callable[[Light], Light]) -> None:
        self._put("change lights", lambda old: None if old is None else act(old))

    def _put(self, label: str, act: Callable[[Light | None], Light | None]) -> None:
        if not self._chosen.ids:
            self._session.choose(light=act(self._session.choices.light))
            return
        here, ids = self._chosen.here, self._chosen.ids
        self._session.attempt(lambda: change(*here, ids, label, lambda one: replace(one, light=act(one.light))))

    def _ask_colour(self) -> None:
        light = self._light or Light()
        colour = QColorDialog.getColor(QColor(light.colour), self, "Colour of the light")
        if colour.isValid():
            self._change(lambda one: replace(one, colour=colour.name()))

    def _slider(self, name: str, field: str) -> QSlider:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, _PER_CENT)
        slider.setFixedWidth(110)
        slider.setAccessibleName(name)
        slider.setToolTip(name)

        def moved(value: int) -> None:
            changes: dict[str, Any] = {field: value / _PER_CENT}
            self._change(lambda one: replace(one, **changes))

        slider.valueChanged.connect(moved)
        slider.sliderPressed.connect(self._begin)
        slider.sliderReleased.connect(lambda: self._session.document.commit())
        return slider

    def _begin(self) -> None:
        """What a slider does until it is let go is one step."""
        if self._chosen.ids:
            self._session.document.begin("change lights")
