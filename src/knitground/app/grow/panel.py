"""Stage 5: mixes as bars, and the recipe; the sheet to choose tiles from."""

from dataclasses import replace

from PySide6.QtWidgets import QDoubleSpinBox, QInputDialog, QLabel

from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.commands import Command
from knitground.app.grow.mix_bar import MixBar
from knitground.app.grow.quality_card import QualityCard
from knitground.app.grow.recipe_card import RecipeCard
from knitground.app.grow.trial import Trial
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.stage import SheetTabs, StagePanel
from knitground.app.widgets import ChoiceBox, button, card, column, fill_box, heading, in_row, in_widget, quiet, row
from knitground.core.edits.mixing import add_living_mix, throw_living_mix
from knitground.core.grow.mix import Mix, MixPart, share_told, weighed
from knitground.core.project.model import fresh_id
from knitground.core.tiles.tile import TileRef


class GrowPanel(StagePanel):
    """The left half while things are left to chance."""

    def __init__(self, session: Session, tabs: SheetTabs, trial: Trial) -> None:
        super().__init__()
        self._session = session
        self.view = SheetView(session, PickMode(self._put_in, lambda: session.choices.tile))
        self.recipe = RecipeCard(session, trial)
        self.bar = MixBar(session)
        self.bar.part_chosen.connect(self.refresh)
        self._mixes = ChoiceBox("Mix")
        self._mixes.setMinimumWidth(104)
        self._mixes.activated.connect(lambda index: session.choose(mix_id=self._mixes.itemData(index)))
        new = button("New mix", self._new_mix, "Make a weighted group of tiles", icon_name="plus")
        self._bare = button("Add bare", lambda: self._add(None), "Leave some cells bare")
        self._out = button("Take out", self.bar.remove_part, "Take the chosen tile out of the mix (Delete)")
        self._use = button("Fill with it", self._fill, "Take this mix in hand, with the fill tool", name="primary")
        self._live = button(
            "Living layer",
            self._keep_alive,
            "A layer that lays this mix where the terrain in hand lies, and follows it",
        )
        self._hint = quiet()
        self.weight = QDoubleSpinBox()
        self.weight.setRange(0, 1e6)
        self.weight.setDecimals(2)
        self.weight.setKeyboardTracking(False)
        self.weight.setAccessibleName("Weight")
        self.weight.setToolTip("How often the chosen tile comes, relative to the others; weights need not add up")
        self.weight.setFixedWidth(110)
        self.weight.lineEdit().setTextMargins(6, 0, 0, 0)
        self.weight.valueChanged.connect(self._weigh)
        head = row(heading("Mix"), self._hint, QLabel("Weight"), self.weight)
        head.setStretch(1, 1)
        mix = card(
            column(
                in_widget(head),
                in_row(self._mixes, new, self._bare, self._out, None, self._live, self._use),
                self.bar,
                spacing=6,
            )
        )
        recipe = card(column(self.recipe))
        layout = column(mix, tabs, self.view, recipe)
        layout.setStretch(2, 1)
        self.setLayout(layout)
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, "mix_id", "tile", "layer_id")
        self.refresh()

    def commands(self) -> list[Command]:
        measure = Command("How good is this ground?", self._measure, ("Ctrl+Shift+Q",), refused=self._no_ground)
        again = Command("Throw the living mix again", self._throw_layer, ("Ctrl+Alt+L",), refused=self._no_living)
        return [*self.recipe.commands(), measure, again]

    def _no_ground(self) -> str:
        return "" if self._session.ground is not None else "There is no ground yet; make one first."

    def _measure(self) -> None:
        QualityCard(self._session, self).open()

    def refresh(self, *_: object) -> None:
        """Shows the mix as it is."""
        mix = self._session.mix
        fill_box(
            self._mixes,
            [(one.name, one.id) for one in self._session.document.project.mixes],
            self._session.choices.mix_id,
        )
        self._bare.setEnabled(mix is not None)
        self._out.setEnabled(mix is not None and bool(mix.parts))
        for laying in (self._use, self._live):
            laying.setEnabled(mix is not None and bool(mix.parts) and self._session.ground is not None)
        part = min(self.bar.part, len(mix.parts) - 1) if mix else -1
        self.weight.setEnabled(part >= 0)
        if mix is not None and part >= 0:
            ground = self._session.ground
            comes = share_told(mix, part, ground.width * ground.height if ground else 0)
            self._hint.setText(
                f"The chosen one comes in {comes}." if comes != "never" else "The chosen one never comes."
            )
            self.weight.blockSignals(True)
            self.weight.setValue(mix.parts[part].weight)
            self.weight.blockSignals(False)
        else:
            self._hint.setText(
                "Click a tile on the sheet to put it in." if mix else "A mix lays several tiles by weighted chance."
            )
        self.bar.update()

    def _weigh(self, weight: float) -> None:
        mix = self._session.mix
        if mix is not None and self.bar.part < len(mix.parts):
            self._session.put_mix(weighed(mix, self.bar.part, weight), "weigh mix")

    def _new_mix(self) -> None:
        name, ok = QInputDialog.getText(self, "New mix", "Name", text="Meadow")
        if ok and name.strip():
            mix_id = fresh_id(name, self._session.document.project.mixes)
            self._session.put_mix(Mix(mix_id, name.strip()[:80]), "add mix")
            self._session.choose(mix_id=mix_id)

    def _put_in(self, ref: TileRef) -> None:
        self._session.choose(tile=ref)
        if self._session.mix is None:
            self._session.put_mix(Mix("mix", "Mix"), "add mix")
            self._session.choose(mix_id="mix")
        parts = known(self._session.mix).parts
        there = [index for index, part in enumerate(parts) if part.tile == ref]
        if there:
            self.bar.part = there[0]
            self.bar.update()
        else:
            self._add(ref)

    def _add(self, ref: TileRef | None) -> None:
        mix = self._session.mix
        if mix is None or any(part.tile == ref for part in mix.parts):
            return
        weight = sum(part.weight for part in mix.parts) / max(1, len(mix.parts)) or 1.0
        self._session.put_mix(replace(mix, parts=(*mix.parts, MixPart(ref, round(weight, 3)))), "put into mix")
        self.bar.part = len(mix.parts)

    def _keep_alive(self) -> None:
        """Adds a layer of the mix that follows the terrain in hand on the layer at hand, or lies all over."""
        session, ground, layer, mix = self._session, self._session.ground, self._session.layer, self._session.mix
        if ground is None or mix is None:
            return
        terrains = session.terrains_of(layer) if layer is not None else ()
        on = layer if layer is not None and terrains else None
        number = min(session.choices.terrain, len(terrains))
        made = session.attempt(
            lambda: add_living_mix(session.document, ground.id, mix.id, on.id if on else "", number if on else 0)
        )
        if made is not None:
            session.choose(layer_id=made)
            where = f"wherever {terrains[number - 1].name} lies on “{on.name}”" if on else "all over the ground"
            session.say(f"“{mix.name}” lies {where}, and follows; pin tiles (N) that are to stay.")

    def _throw_layer(self) -> None:
        ground, layer = self._session.ground, self._session.layer
        if ground is not None and layer is not None:
            throw_living_mix(self._session.document, ground.id, layer)

    def _no_living(self) -> str:
        layer = self._session.layer
        return "" if layer is not None and layer.kind == "mix" else "The layer at hand is no living mix; choose one."

    def _fill(self) -> None:
        session = self._session
        session.choose(lays_mix=True)
        if session.ground and not (session.layer and session.layer.holds_tiles):
            for layer in reversed(session.ground.layers):
                if layer.holds_tiles:
                    session.choose(layer_id=layer.id)
                    break
            else:
                session.say("A mix lies on a tile layer; add one with the plus at the ground's right edge.")
                return
        session.tool_wanted.emit("fill")
        session.say("Move over the ground to see it, R throws again, a click lays it.")
