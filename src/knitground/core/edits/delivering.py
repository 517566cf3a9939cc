"""The list of deliveries: made, changed and taken out."""

from dataclasses import replace
from typing import Any

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.delivery import MOST_DELIVERIES, Delivery
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id


def add_delivery(document: Document, name: str, kind: str, **said: Any) -> str:
    """Adds a delivery of a format; returns its id."""
    known = document.project.deliveries
    if len(known) >= MOST_DELIVERIES:
        raise BadRequest(f"There are {MOST_DELIVERIES} deliveries, which is the most; take one out first.")
    made = fresh_id(name, known)
    put(document, f"add delivery {name}", "deliveries", Delivery(made, name, kind, **said))
    return made


def change_delivery(document: Document, delivery_id: str, **said: Any) -> None:
    """Says something else of a delivery."""
    delivery = by_id(document.project.deliveries, delivery_id)
    changed = replace(delivery, **said)
    if changed != delivery:
        put(document, f"change delivery {delivery.name}", "deliveries", changed)


def set_option(document: Document, delivery_id: str, name: str, value: Any, plain: Any) -> None:
    """Chooses an option of a delivery's format; what is as usual is not kept."""
    options = {**by_id(document.project.deliveries, delivery_id).options, name: value}
    if value == plain:
        del options[name]
    change_delivery(document, delivery_id, options=options)


def remove_delivery(document: Document, delivery_id: str) -> None:
    """Takes a delivery out; what it wrote stays where it is."""
    project = document.project
    left = tuple(one for one in project.deliveries if one.id != delivery_id)
    name = by_id(project.deliveries, delivery_id).name
    document.define(f"remove delivery {name}", replace(project, deliveries=left))
