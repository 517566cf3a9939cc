"""The page of a stitch that says what it looks at: a chart for each layer, and the signs to write it with."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QInputDialog, QMenu, QWidget

from knitground.app.allowed import a_menu
from knitground.app.session import Session
from knitground.app.stitches.chart_editor import ChartEditor
from knitground.app.stitches.live import layer_of
from knitground.app.stitches.signs import SignPalette, named_in
from knitground.app.widgets import (
    ChoiceBox,
    Elided,
    button,
    column,
    fill_box,
    icon_button,
    in_row,
    in_widget,
    scrolling,
)
from knitground.core.edits.chart_reading import chart_like
from knitground.core.edits.signs import sign_for
from knitground.core.edits.stitching import let_see, with_chart, with_numbers, with_view, without_chart, without_view
from knitground.core.layers.stitched import fits_view, seen_by
from knitground.core.stitches.charts import blank_chart
from knitground.core.stitches.rules import Stitch, StitchSet, View

_PLAN = "the plan"
_ASKED = {
    "tile": "Name of the sign",
    "tag": "Tag that the tiles bear",
    "property": "Property and value, as in blocks = yes",
}


class ChartPage(QWidget):
    """Shows one chart of the stitch at hand at a time."""

    changed = Signal(object, str)
    """The stitch as it is to be, and what was done."""
    set_changed = Signal(object, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._of = ""
        self._shown: tuple[str, str] | None = None
        self.editor = ChartEditor()
        self.editor.changed.connect(lambda chart: self._put(lambda one: with_chart(one, chart), "change chart"))
        self.palette_of_signs = SignPalette()
        self.palette_of_signs.chosen.connect(self._take)
        self._views = ChoiceBox("Layer that the chart looks at")
        self._views.activated.connect(lambda index: self.look_at(self._views.itemData(index)))
        self._more = button("Look at…", self._offer, "Let charts look at another layer, or take one out")
        self._seen = ChoiceBox("Layer of this ground that the view sees")
        self._seen.setToolTip("Which layer of the ground at hand this view sees")
        self._seen.activated.connect(lambda index: self._let_see(self._seen.itemData(index)))
        self._about = Elided("")
        self._about.setObjectName("quiet")
        left = in_widget(column(self.editor, self._about, None, spacing=4))
        legend = scrolling(in_widget(column(self.palette_of_signs, None)))
        like = icon_button("way_box", self.paste, "Like selection: ask for what lies in the selected cells (Ctrl+V)")
        self.editor.pasted.connect(self.paste)
        layout = column(in_row(self._views, self._seen, self._more, like, None), in_row(left, legend), spacing=6)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def look_at(self, of: str) -> None:
        """Shows the chart of another view."""
        self._of = of
        self.refresh()

    def refresh(self) -> None:
        """Shows the stitch at hand."""
        session, stitch, owner = self._session, self._session.stitch, self._session.stitch_set
        if owner is None:
            return
        if self._of and owner.view(self._of) is None:
            self._of = ""
        shown = (owner.id, stitch.id) if stitch else None
        if stitch and stitch.charts and shown != self._shown and stitch.chart(self._of) is None:
            self._of = stitch.charts[0].of  # another stitch is at hand, which looks elsewhere
        self._shown = shown
        used = {chart.of for chart in stitch.charts} if stitch else set()
        entries = [(_PLAN, "")] + [(view.name, view.name) for view in owner.views]
        fill_box(self._views, [(name + (" •" if of in used and of else ""), of) for name, of in entries], self._of)
        named = named_in(session.document.project, owner, self._of)
        view = owner.view(self._of)
        chart = stitch.chart(self._of) if stitch else None
        self.editor.show_chart((chart or blank_chart(self._of)) if stitch else None, named)
        self.palette_of_signs.show_choices(
            named, partly=view is not None and view.sees == "painted", word=self.editor.word
        )
        self._show_seen(view)
        rows, columns = (chart or blank_chart()).size
        self._about.setText(f"{columns} x {rows}; drag its border (Shift+arrows)")

    def _show_seen(self, view: View | None) -> None:
        """Shows which layer of the ground at hand a view sees, where it sees one."""
        session, layer = self._session, layer_of(self._session)
        entries: list[tuple[str, str]] = []
        if view is not None and view.sees != "laid" and layer is not None and session.ground is not None:
            found = seen_by(replace(layer, sees={}), view, session.ground.layers)
            by_itself = session.ground.layer(found.layer).name if found else "no layer"
            entries = [(f"sees {by_itself}", "")]
            entries += [(f"sees {one.name}", one.id) for one in session.ground.layers if fits_view(one, view)]
        chosen = layer.sees.get(view.name, "") if layer is not None and view is not None else ""
        fill_box(self._seen, entries if len(entries) > 1 else [], chosen)

    def _let_see(self, layer_id: str) -> None:
        session, layer, ground = self._session, layer_of(self._session), self._session.ground
        if layer is not None and ground is not None:
            document, of = session.document, self._of
            session.attempt(lambda: let_see(document, ground.id, layer, of, layer_id or None))
            self.refresh()

    def paste(self) -> None:
        """Lets the chart ask for what lies in the selected cells."""
        session, owner, stitch, layer = (
            self._session, self._session.stitch_set, self._session.stitch, layer_of(self._session)
        )  # fmt: skip
        if owner is None or stitch is None or layer is None:
            session.say(
                "The ground at hand has no plan of this set; “Paint with it” adds one.", "Paint with this stitch set"
            )
            return
        of = self._of
        chart = session.attempt(lambda: chart_like(session.derived, session.selected, layer, owner, of))
        if chart is not None:
            self.changed.emit(with_chart(stitch, chart), "read chart off the ground")

    def _take(self, word: str) -> None:
        self.editor.word = word
        self.refresh()

    def _put(self, change: Callable[[Stitch], Stitch], label: str) -> None:
        stitch = self._session.stitch
        if stitch is not None:
            self.changed.emit(change(stitch), label)

    def _offer(self) -> None:
        owner = self._session.stitch_set
        if owner is None:
            return
        menu = a_menu(self)
        for title, found in self._views_to_add(owner):
            menu.addAction(title, partial(self._add, found))
        menu.addSeparator()
        view = owner.view(self._of)
        if view is not None:
            if view.sees != "painted":
                self._offer_signs(menu, view)
            menu.addAction(f"Don't look at “{view.name}” in this stitch", lambda: self._forget(view.name))
            menu.addAction(f"Take the view “{view.name}” out", lambda: self._remove(view.name))
        menu.popup(self._more.mapToGlobal(QPoint(0, self._more.height())))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)

    def _views_to_add(self, owner: StitchSet) -> list[tuple[str, View]]:
        """The layers that charts do not look at yet, and what a menu calls them."""
        session, project = self._session, self._session.document.project
        found = [(f"What “{one.name}” paints", View(one.name[:60], "painted", one.id)) for one in project.join_sets]
        found += [
            (f"The plan of “{one.name}”", View(one.name[:60], "painted", one.id))
            for one in project.stitch_sets
            if one.id != owner.id
        ]
        found += [
            (f"The tiles on “{layer.name}”", View(layer.name[:60], "tiles"))
            for layer in (session.ground.layers if session.ground else ())
            if layer.set_id != owner.id and (layer.holds_tiles or layer.knits)
        ]
        for part in ("", *owner.parts):
            name = f"Laid so far{f' on {part}' if part else ''}"[:60]
            found.append((name, View(name, "laid", part)))
        known = {view.name for view in owner.views}
        return [(title, view) for title, view in found if view.name not in known]

    def _add(self, view: View) -> None:
        owner = self._session.stitch_set
        if owner is None:
            return
        self._of = view.name
        self.set_changed.emit(with_view(owner, view), f"look at {view.name}")
        if view.sees != "painted":
            self._session.say("“Look at…” adds signs for tiles and tags; “nothing” and “the same” are there already.")

    def _offer_signs(self, menu: QMenu, view: View) -> None:
        """What can be done about the signs by which charts name tiles."""
        menu.addAction("Add a sign for the tile at hand…", lambda: self._add_sign(view, "tile"))
        menu.addAction("Add a sign for a tag…", lambda: self._add_sign(view, "tag"))
        menu.addAction("Add a sign for a property…", lambda: self._add_sign(view, "property"))
        number = int(self.editor.word) if self.editor.word.isdecimal() else 0
        if 0 < number <= len(view.signs):
            sign = view.signs[number - 1]
            menu.addAction(f"Let “{sign.name}” name the tile at hand, too", lambda: self._widen(view, number))
            menu.addAction(f"Take the sign “{sign.name}” out", lambda: self._take_out(view, number))

    def _add_sign(self, view: View, kind: str) -> None:
        session, owner = self._session, self._session.stitch_set
        tile = session.choices.tile
        if owner is None or (kind == "tile" and tile is None):
            session.say("Choose a tile on the sheet first.")
            return
        first = session.derived.called(tile) if kind == "tile" and tile else ""
        typed, ok = QInputDialog.getText(self, "Add a sign", _ASKED[kind], text=first)
        if not ok or not typed.strip():
            return
        made = session.attempt(lambda: sign_for(session.document.project, view, kind, typed, tile))
        if made is not None:
            self.set_changed.emit(with_view(owner, replace(view, signs=(*view.signs, made))), f"add sign {made.name}")
            self._take(str(len(view.signs) + 1))

    def _widen(self, view: View, number: int) -> None:
        owner, tile = self._session.stitch_set, self._session.choices.tile
        if owner is not None and tile is not None:
            signs = list(view.signs)
            sign = signs[number - 1]
            signs[number - 1] = replace(sign, tiles=tuple(dict.fromkeys((*sign.tiles, tile))))
            self.set_changed.emit(with_view(owner, replace(view, signs=tuple(signs))), "change sign")

    def _take_out(self, view: View, number: int) -> None:
        owner = self._session.stitch_set
        if owner is not None:
            kept = {one: one - (one > number) for one in range(len(view.signs) + 1) if one != number}
            signs = tuple(sign for place, sign in enumerate(view.signs, start=1) if place != number)
            fewer = with_view(with_numbers(owner, view.name, kept), replace(view, signs=signs))
            self.set_changed.emit(fewer, "take out sign")

    def _forget(self, of: str) -> None:
        stitch: Stitch | None = self._session.stitch
        if stitch is not None:
            self.changed.emit(without_chart(stitch, of), f"do not look at {of}")

    def _remove(self, name: str) -> None:
        owner = self._session.stitch_set
        if owner is not None:
            self._of = ""
            self.set_changed.emit(without_view(owner, name), f"take out view {name}")
