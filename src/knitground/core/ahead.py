"""Libraries that are slow to import and not needed at first, brought in beside the interface once that is up."""

from importlib import import_module

_LATER = ("scipy.ndimage", "scipy.sparse.csgraph", "scipy.spatial", "scipy.optimize", "networkx")


def bring_in() -> None:
    """Imports what the first stroke, check or search would otherwise have to wait for."""
    for name in _LATER:
        import_module(name)
