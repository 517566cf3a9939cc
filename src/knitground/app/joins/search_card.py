"""The card of sets that were found: what they are, and what can be done with them."""

from PySide6.QtWidgets import QLineEdit

from knitground.app.joins.searching import Searching
from knitground.app.widgets import Tick, button, column, heading, in_row, in_widget, quiet
from knitground.core.edits.finding import Proposed

_AS_ONE = (
    "Sets that share a terrain are one, painted on one layer, with what they share between the others; else each is a "
    "set of its own, on a layer that hides those below"
)


class SearchCard:
    """What was found, the name of the set at the pointer, and what can be done."""

    def __init__(self, searching: Searching) -> None:
        self._searching = searching
        self._title, self._says, self._name = heading("Sets found"), quiet(), QLineEdit()
        self._name.setAccessibleName("Name of the set at the pointer")
        self._name.setMaxLength(80)
        self._name.editingFinished.connect(self._rename)
        self._moves, self._whole = Tick("Frames", ""), Tick("As one", _AS_ONE)
        self._moves.clicked.connect(self._play)
        self._whole.clicked.connect(self._join)
        _keep_room(self._moves, True)
        self.widget = in_widget(
            column(
                in_row(self._title, None, self._moves, self._whole),
                self._says,
                in_row(
                    self._name,
                    button(
                        "Take all",
                        lambda: searching.take(),
                        "Add all these sets to the project (Return on the sheet)",
                        name="primary",
                    ),
                    button("Drop", searching.drop, "Leave the project as it is (Escape)"),
                ),
                None,
                spacing=6,
            )
        )
        searching.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Says what is proposed."""
        count, one = len(self._searching.proposed), self._searching.pointed
        self._title.setText(f"{count} set{'s' * (count != 1)} found")
        if one is None:
            return
        tiles = len(set(one.join_set.labels.values()))
        variants = len(one.join_set.labels) - tiles
        also = f" and {variants} variant{'s' * (variants != 1)}" if variants else ""
        of = f"It is {len(one.parts)} sets that share a terrain. " if one.parts else ""
        plays = f"Its tiles play {len(next(iter(one.frames.values())))} frames. " if one.moves else ""
        hangs = f"Stitches lay {len(one.hanging)} more that hang from its rim. " if one.hanging else ""
        rows = len(one.faces)
        hangs += f"Below it stitches lay the face of a wall, {rows} row{'s' * (rows != 1)} high. " if rows else ""
        self._says.setText(
            f"{one.join_set.kind.capitalize()} joins of {tiles} tiles{also}; "
            f"{one.covered:.0%} covered, {one.confidence:.0%} sure. {of}{plays}{hangs}A click on the sheet takes it."
        )
        wholes = [self._searching.whole(other) is not None for other in self._searching.proposed]
        _keep_room(self._whole, any(wholes))
        self._whole.setVisible(self._searching.whole(one) is not None)
        self._whole.setChecked(bool(one.parts))
        self._moves.setVisible(bool(one.frames))
        self._moves.setChecked(one.moves)
        self._moves.setToolTip(_told_of_blocks(one))
        self._name.setText(one.join_set.name)
        self._name.setCursorPosition(0)  # of a long name the beginning shows
        self._name.setToolTip(f"Its name: {one.join_set.name}")

    def _rename(self) -> None:
        if self._searching.pointed is not None:
            self._searching.rename(self._searching.pointed, self._name.text())

    def _play(self, on: bool) -> None:
        if self._searching.pointed is not None:
            self._searching.play(self._searching.pointed, on)

    def _join(self, on: bool) -> None:
        if self._searching.pointed is not None:
            self._searching.join(self._searching.pointed, on)


def _keep_room(tick: Tick, keep: bool) -> None:
    """Lets a tick take its room while it is hidden, so that nothing jumps as the pointer goes from set to set."""
    policy = tick.sizePolicy()
    policy.setRetainSizeWhenHidden(keep)
    tick.setSizePolicy(policy)


def _told_of_blocks(one: Proposed) -> str:
    """What other blocks repeat a set, and what that may mean."""
    more = len(next(iter(one.frames.values()), ())) - 1
    others = f"{more} more blocks repeat" if more > 1 else "Another block repeats"
    return f"{others} it tile for tile: frames that its tiles play if ticked, else variants that are laid by chance"
