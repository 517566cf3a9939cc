"""What is in hand: every choice made in the window, typed, with one event for each field.

`choices.events.radius.connect(act)` calls `act` with the new value whenever that field changes, and only then. Who
looks at several fields asks the session (`Session.on_choice`), which calls once for all that change together.
"""

from dataclasses import dataclass, field, fields
from typing import Any, ClassVar

from psygnal import SignalGroupDescriptor

from knitground.core.edits.blocks import Block
from knitground.core.edits.selecting import Selected
from knitground.core.joins.layouts import Arrangement
from knitground.core.joins.sets import Labels
from knitground.core.layers.light import Light
from knitground.core.tiles.tile import TileRef


@dataclass
class Choices:
    """The choices of one window; ids are empty where nothing is chosen.

    Attributes
    ----------
    stage : str
    sheet_id, cut_id, ground_id, layer_id, join_set_id, stitch_set_id, stitch_id, mix_id : str
        What is at hand of each kind.
    tile : TileRef, or None
    orientation : int
        In which the tile is laid.
    lays_mix : bool
        Whether the mix is laid instead of the tile.
    throw : int
        Which throw of the mix.
    terrain : int
        Number of the terrain, mark or shade to paint with, from 1.
    radius : int
        Of the brush, in cells.
    runs : bool
        Whether runs along edges are laid where a layer takes areas too.
    form : str
        What areas are: box, frame, round, ring or line.
    alike : bool
        Whether a fill goes to all that is alike, wherever it lies.
    density : float
        The share that is laid where tiles are scattered.
    selecting : str
        How cells are selected: box, lasso, touching, alike or tagged.
    confined : bool
        Whether a recipe grows only in the cells that are selected, where there are some.
    across : bool
        Whether what is selected is taken off all layers that show, not only off the one at hand.
    selected : Selected, or None
        The cells of a ground that are selected.
    lifted : Block, or None
        A piece of a ground in hand, to be laid.
    repeats : bool
        Whether that piece is laid as a pattern, in place of the tile.
    holds_block : bool
        Whether it was taken in hand later than the tile.
    wanted : Labels, or None
        A combination that the next tile clicked is to get.
    arrangement : Arrangement, or None
        Labels to be laid over a block of cells.
    selection : frozenset of TileRef
        The tiles that are described together.
    symmetry : str
        Where strokes and areas fall once more: none, across, down, both, turned or wrapping.
    turning : str
        How tiles are turned by chance as they are laid: as it is, mirrored or turned.
    things : frozenset of str
        The things that are chosen on the prop layer at hand, by their ids.
    snap : str
        What things snap to: cell, half, pixel or free.
    thing_kind : str
        The kind of things that are placed next; empty for none.
    light : Light, or None
        How things that are placed next shine.
    turn, mirrored : float, bool
        How the next sprite is turned, in degrees, and whether it is mirrored.
    backdrop : str
        What is shown behind transparent art on sheets.
    """

    stage: str = "sheet"
    sheet_id: str = ""
    cut_id: str = ""
    ground_id: str = ""
    layer_id: str = ""
    join_set_id: str = ""
    stitch_set_id: str = ""
    stitch_id: str = ""
    mix_id: str = ""
    tile: TileRef | None = None
    orientation: int = 0
    lays_mix: bool = False
    throw: int = 1
    terrain: int = 1
    radius: int = 0
    runs: bool = False
    form: str = "box"
    alike: bool = False
    density: float = 0.15
    selecting: str = "box"
    confined: bool = True
    across: bool = False
    selected: Selected | None = None
    lifted: Block | None = None
    repeats: bool = False
    holds_block: bool = False
    wanted: Labels | None = None
    arrangement: Arrangement | None = None
    selection: frozenset[TileRef] = field(default_factory=frozenset)
    symmetry: str = "none"
    turning: str = "as it is"
    things: frozenset[str] = frozenset()
    snap: str = "cell"
    thing_kind: str = ""
    light: Light | None = None
    turn: float = 0.0
    mirrored: bool = False
    backdrop: str = "checker"

    events: ClassVar[SignalGroupDescriptor] = SignalGroupDescriptor()

    def update(self, changes: dict[str, Any]) -> frozenset[str]:
        """Sets some fields; returns the names of those that are others now. AttributeError for an unknown one.

        What is asked for of one join set is forgotten with the next.
        """
        changed = set()
        if changes.get("join_set_id", self.join_set_id) != self.join_set_id:
            changes = {"wanted": None, "arrangement": None, **changes}
        for name, value in changes.items():
            if getattr(self, name) != value:
                setattr(self, name, value)
                changed.add(name)
        return frozenset(changed)


FIELDS = tuple(one.name for one in fields(Choices))
SHOWN_ON_SHEETS = (
    "sheet_id", "cut_id", "tile", "selection", "join_set_id", "terrain", "wanted", "arrangement", "lays_mix", "mix_id",
    "layer_id", "backdrop", "stitch_set_id",
)  # fmt: skip
"""The choices by which a sheet looks, and what stands beside it."""
