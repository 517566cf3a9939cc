"""Adding a thing to one of the project's lists, or exchanging it."""

from dataclasses import replace
from typing import Any

from knitground.core.project.document import Document
from knitground.core.project.model import replaced


def put(document: Document, label: str, field: str, thing: object) -> None:
    """Adds a thing to one of the project's lists, or exchanges the one that has its id."""
    changes: dict[str, Any] = {field: replaced(getattr(document.project, field), thing)}
    document.define(label, replace(document.project, **changes))
