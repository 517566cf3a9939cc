"""What a file holds of a thing."""

from collections.abc import Callable, Collection
from dataclasses import MISSING, fields
from typing import Any


def only_what_is_said(
    thing: Any, handler: Callable[[Any], dict[str, Any]], always: Collection[str] = ()
) -> dict[str, Any]:
    """The fields of a thing without those that are as they are by default.

    The serializer's own way to leave out defaults holds for a whole document, and would drop the field that tells the
    kinds of a thing apart.

    Parameters
    ----------
    thing : dataclass instance
    handler : callable
        Pydantic's, which gives all fields.
    always : collection of str
        Fields that are written whatever they are.
    """
    plain = {one.name: one.default for one in fields(thing) if one.default is not MISSING}
    plain |= {one.name: one.default_factory() for one in fields(thing) if one.default_factory is not MISSING}
    return {
        name: value
        for name, value in handler(thing).items()
        if name in always or name not in plain or getattr(thing, name) != plain[name]
    }
