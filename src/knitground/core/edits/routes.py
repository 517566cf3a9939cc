"""Keeping routes that were walked."""

from dataclasses import replace

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.walk.journey import MOST_LEGS, KeptRoute, Route
from knitground.core.walk.motion import Spot


def keep_route(document: Document, ground_id: str, name: str, route: Route, end: Spot) -> str:
    """Keeps a route with the project; returns its id.

    Raises
    ------
    BadRequest
        If it has no name, or leads nowhere.
    """
    if not name.strip():
        raise BadRequest("A route needs a name; write one such as “to the last hive”.")
    if not route.legs or len(route.legs) > MOST_LEGS:
        raise BadRequest("Nothing was walked; walk somewhere while the route is recorded.")
    made = fresh_id(name, document.project.routes)
    kept = KeptRoute(made, name.strip()[:80], ground_id, route, round(end.x, 3), round(end.y, 3))
    put(document, f"keep route {kept.name}", "routes", kept)
    return made


def remove_route(document: Document, route_id: str) -> None:
    """Takes a route out."""
    project = document.project
    document.define("remove route", replace(project, routes=tuple(r for r in project.routes if r.id != route_id)))
