"""Stage 5: mixes as bars, and the recipe; the sheet to choose tiles from."""

from collections.abc import Callable

from PySide6.QtWidgets import QDoubleSpinBox, QInputDialog, QLabel

from knitground.app.allowed import NO_GROUND, a_menu, allow
from knitground.app.asking import show_once
from knitground.app.canvas.pick_mode import PickMode
from knitground.app.canvas.sheet_view import SheetView
from knitground.app.grow.mix_bar import MixBar
from knitground.app.grow.quality_card import QualityCard
from knitground.app.grow.recipe_card import RecipeCard
from knitground.app.grow.trial import Trial
from knitground.app.mix_in_hand import fill_with_mix
from knitground.app.session import Session
from knitground.app.stage import SheetTabs, StagePanel
from knitground.app.widgets import ChoiceBox, button, card, column, fill_box, heading, in_row, in_widget, quiet, row
from knitground.core.edits.mixing import (
    add_living_mix,
    put_into,
    remove_mix,
    rename_mix,
    throw_again,
    throw_living_mix,
)
from knitground.core.grow.mix import Mix, MixPart, share_told
from knitground.core.project.model import fresh_id
from knitground.core.tiles.tile import TileRef

_STRIP = 80


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
        self._mixes.setMinimumWidth(96)
        self._mixes.activated.connect(lambda index: session.choose(mix_id=self._mixes.itemData(index)))
        new = button("New mix", self.new_mix, "Make a weighted group of tiles", icon_name="plus")
        self._more = button("Add…", self._offer, "Put bare cells, another mix, or a block of the tray into the mix")
        self._do = button("More…", self._offer_acts, "What else to do with the mix: throw it again, rename it…")
        self._use = button(
            "Fill with it", lambda: fill_with_mix(session), "Take this mix in hand, with the fill tool", name="primary"
        )
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
                in_row(self._mixes, new, self._more, self._do, None, self._live, self._use),
                self.bar,
                spacing=6,
            )
        )
        recipe = card(column(self.recipe))
        # On a low screen the form scrolls and the sheet becomes a strip.
        self.view.setMinimumHeight(_STRIP)
        layout = column(mix, tabs, self.view, recipe)
        layout.setStretch(2, 1)
        self.setLayout(layout)
        for signal in (session.defined, session.opened):
            signal.connect(self.refresh)
        session.on_choice(self.refresh, "mix_id", "tile", "layer_id")
        self.refresh()

    def measure(self) -> None:
        """Shows how good the ground is."""
        show_once(QualityCard(self._session, self))

    def refresh(self, *_: object) -> None:
        """Shows the mix as it is."""
        mix = self._session.mix
        fill_box(
            self._mixes,
            [(one.name, one.id) for one in self._session.document.project.mixes],
            self._session.choices.mix_id,
        )
        no_mix = "" if mix is not None else "Make a mix first."
        allow(self._more, no_mix)
        allow(self._do, no_mix)
        for laying in (self._use, self._live):
            bare = no_mix or ("" if mix is not None and mix.parts else "Put a tile into the mix first.")
            allow(laying, bare or ("" if self._session.ground is not None else NO_GROUND))
        part = min(self.bar.part, len(mix.parts) - 1) if mix else -1
        allow(self.weight, no_mix or ("" if part >= 0 else "Put a tile into the mix first."))
        if mix is not None and part >= 0:
            ground = self._session.ground
            comes = share_told(mix, part, ground.width * ground.height if ground else 0)
            several = len([one for one in self.bar.chosen if one < len(mix.parts)])
            told = f"The chosen one comes in {comes}." if comes != "never" else "The chosen one never comes."
            self._hint.setText(f"{several} parts are chosen, and are weighed together." if several > 1 else told)
            self.weight.blockSignals(True)
            self.weight.setValue(mix.parts[part].weight)
            self.weight.blockSignals(False)
        else:
            self._hint.setText(
                "Click a tile on the sheet to put it in." if mix else "A mix lays several tiles by weighted chance."
            )
        self.bar.update()

    def _weigh(self, weight: float) -> None:
        if self._session.mix is not None:
            self.bar.weigh(weight)

    def new_mix(self) -> None:
        """Asks for the name of a new mix, and makes it."""
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
        self._add(MixPart(ref))

    def _add(self, part: MixPart) -> None:
        """Puts something into the mix, or chooses it where it is in it already."""
        session, mix = self._session, self._session.mix
        if mix is not None:
            place = session.attempt(lambda: put_into(session.document, mix.id, part))
            if place is not None:
                self.bar.choose(place)

    def _offer(self) -> None:
        """Lists what else can be put into the mix."""
        project, mix = self._session.document.project, self._session.mix
        menu = a_menu(self)
        entries = [("Bare cells", MixPart(None))]
        entries += [(f"Mix “{one.name}”", MixPart(None, mix=one.id)) for one in project.mixes if one is not mix]
        entries += [(f"“{one.name}” of the tray", MixPart(None, swatch=one.id)) for one in project.swatches]
        for text, part in entries:
            menu.addAction(text).triggered.connect(lambda _=False, part=part: self._add(part))
        if not project.swatches:
            menu.addAction("Blocks: keep some on the tray of the ground stage first").setEnabled(False)
        menu.popup(self._more.mapToGlobal(self._more.rect().bottomLeft()))

    def _offer_acts(self) -> None:
        """Lists what can be done with the mix."""
        menu = a_menu(self)
        acts: list[tuple[str, Callable[[], object]]] = [
            ("Throw again where it lies", self.throw_laid),
            ("Throw again, but hold what is selected", lambda: self.throw_laid(hold=True)),
            ("Make the parts even", self.bar.even), ("Take the chosen out", self.bar.remove_parts),
            ("Rename the mix…", self.rename_mix), ("Remove the mix", self.remove_mix),
        ]  # fmt: skip
        for text, act in acts:
            menu.addAction(text).triggered.connect(lambda _=False, act=act: act())
        menu.popup(self._do.mapToGlobal(self._do.rect().bottomLeft()))

    def throw_laid(self, *, hold: bool = False) -> None:
        """Another throw of the mix where it lies: in what is selected, or everywhere but there."""
        session, mix, ground, layer = self._session, self._session.mix, self._session.ground, self._session.layer
        if mix is None or ground is None or layer is None:
            return
        selected = session.selected.shape if session.selected and session.selected.ground == ground.id else None
        if hold and selected is None:
            session.say("Nothing is selected; select the cells that are to be held first.")
            return
        session.choose(throw=session.choices.throw + 1)
        within, held = (None, selected) if hold else (selected, None)
        session.attempt(
            lambda: throw_again(
                session.derived, ground.id, layer.id, mix.id, session.choices.throw, within=within, held=held
            )
        )

    def rename_mix(self) -> None:
        """Asks for another name of the mix at hand."""
        mix = self._session.mix
        if mix is not None:
            name, sure = QInputDialog.getText(self, "Rename the mix", "Name", text=mix.name)
            if sure:
                self._session.attempt(lambda: rename_mix(self._session.document, mix.id, name))

    def remove_mix(self) -> None:
        """Takes the mix at hand out of the project."""
        mix = self._session.mix
        if mix is not None:
            self._session.attempt(lambda: remove_mix(self._session.document, mix.id))

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
            session.say(f"“{mix.name}” lies {where}, and follows; pin tiles that are to stay.", "Tool: Pin")

    def throw_layer(self) -> None:
        """Another throw of the living mix at hand."""
        ground, layer = self._session.ground, self._session.layer
        if ground is not None and layer is not None:
            throw_living_mix(self._session.document, ground.id, layer)
