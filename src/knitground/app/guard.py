"""Keeping faults in paint events from ending the program: Qt can't hand them on."""

import functools
import logging
from collections.abc import Callable
from typing import Any, TypeVar

_log = logging.getLogger(__name__)
_told: set[str] = set()

F = TypeVar("F", bound=Callable[..., None])


def guarded(paint: F) -> F:
    """A paint event that goes to the log instead of ending the program when it fails; each fault is told once."""

    @functools.wraps(paint)
    def paint_event(self: Any, event: Any) -> None:
        try:
            paint(self, event)
        except Exception:  # whatever it is, the window and the work in it must live on
            where = f"{type(self).__name__}.{paint.__name__}"
            if where not in _told:
                _told.add(where)
                _log.exception("%s failed", where)

    return paint_event  # type: ignore[return-value]
