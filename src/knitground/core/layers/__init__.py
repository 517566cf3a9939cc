"""Layers: one module for each kind, behind one interface (`Layer`).

A new kind is a module here and a line in `KINDS`; its panel, if it needs one, and its test. `shade.py` is the example.
"""

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field

from knitground.core.layers.cells import CellLayer
from knitground.core.layers.layer import Layer
from knitground.core.layers.mixed import MixLayer
from knitground.core.layers.onto import OntoLayer
from knitground.core.layers.props import PropLayer
from knitground.core.layers.shade import ShadeLayer
from knitground.core.layers.source import Sets
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.layers.tiles import TileLayer
from knitground.core.layers.walking import WalkLayer

KINDS: tuple[type[Layer], ...] = (
    TileLayer, TerrainLayer, CellLayer, StitchedLayer, OntoLayer, MixLayer, ShadeLayer, PropLayer, WalkLayer,
)  # fmt: skip

if TYPE_CHECKING:
    FiledLayer = Layer
else:
    # Any kind of layer, as files hold it.
    FiledLayer = Annotated[Union[KINDS], Field(discriminator="kind")]  # noqa: UP007


def make_layer(layer_id: str, name: str, set_id: str | None, sets: Sets, kind: str | None = None) -> Layer:
    """A new layer of a kind; if none is asked for, of the one that lays tiles by the set (none: single tiles).

    Raises
    ------
    KeyError
        If the kind does not take the set.
    """
    for one in KINDS:
        if kind in (None, kind_of(one)):
            made = one.made(layer_id, name, set_id, sets)
            if made is not None:
                return made
    raise KeyError(set_id)


def new_layers(sets: Sets) -> list[tuple[str, str, str | None, str]]:
    """What new layers there may be: how a menu names each, its first name, its set and its kind."""
    return [(*choice, kind_of(kind)) for kind in KINDS for choice in kind.choices(sets)]


def kind_of(layer: type[Layer]) -> str:
    """What files call a kind of layer."""
    return str(layer.__dataclass_fields__["kind"].default)
