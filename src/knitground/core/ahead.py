"""Libraries that are slow to import and not needed at first, brought in beside the interface once that is up."""

from collections.abc import Iterable
from importlib import import_module

_LATER = ("scipy.ndimage", "scipy.sparse.csgraph", "scipy.spatial", "scipy.optimize", "networkx")


def bring_in(more: Iterable[str] = ()) -> None:
    """Imports what the first stroke, check or search would otherwise have to wait for, and more by their names."""
    for name in (*more, *_LATER):
        import_module(name)
