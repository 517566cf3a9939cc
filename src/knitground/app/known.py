"""What may be missing: saying that it is there, and looking for it."""

from collections.abc import Iterable
from typing import Protocol, TypeVar


class Named(Protocol):
    """Something with an id."""

    @property
    def id(self) -> str: ...


T = TypeVar("T")
N = TypeVar("N", bound=Named)


def known(thing: T | None) -> T:
    """Something that has to be there wherever this is asked; a bug if it is not."""
    assert thing is not None, "nothing is chosen"
    return thing


def with_id(things: Iterable[N], wanted: str) -> N | None:
    """The thing with an id, if there is one."""
    return next((thing for thing in things if thing.id == wanted), None)
