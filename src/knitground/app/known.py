"""Say that something which may be missing is there."""

from typing import TypeVar

T = TypeVar("T")


def known(thing: T | None) -> T:
    """Something that has to be there wherever this is asked; a bug if it is not."""
    assert thing is not None, "nothing is chosen"
    return thing
