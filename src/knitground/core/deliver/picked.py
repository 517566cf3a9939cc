"""A project with fewer layers shown: what a delivery that names layers is made of."""

from collections.abc import Collection
from dataclasses import replace

from knitground.core.ground.ground import Ground, by_id
from knitground.core.project.derived import Derived


def picked(derived: Derived, ground_id: str, names: Collection[str]) -> Derived:
    """The same project, of one ground of which just the layers of some names show; all that show if none is named."""
    if not names:
        return derived
    ground = by_id(derived.document.project.grounds, ground_id)
    chosen = replace(ground, layers=tuple(replace(layer, visible=layer.name in names) for layer in ground.layers))
    return derived.with_planes(ground_id, {}, chosen)


def has_any(ground: Ground, names: Collection[str]) -> bool:
    """Whether a ground has layers of some names; any ground has if none is named."""
    return not names or any(layer.name in names for layer in ground.layers)
