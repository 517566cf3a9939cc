"""Kinds of collision shapes: made, renamed, coloured and taken out."""

from dataclasses import replace

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.shape_kinds import FEET, MOST_KINDS, SIGHT, ShapeKind

_COLOURS = ("#2f7f8f", "#b8862b", "#5a7d2a", "#8a5a9a", "#3d5fa0", "#a0522d")


def add_shape_kind(document: Document, name: str) -> str:
    """Adds a kind of shapes; returns its id."""
    kinds = document.project.shape_kinds
    if len(kinds) >= MOST_KINDS:
        raise BadRequest(f"There are {MOST_KINDS} kinds of shapes, which is the most; take one out first.")
    name = _checked(name)
    colour = next((one for one in _COLOURS if one not in {kind.colour for kind in kinds}), _COLOURS[0])
    kind = ShapeKind(fresh_id(name, kinds), name, colour)
    put(document, f"add kind of shapes {name}", "shape_kinds", kind)
    return kind.id


def change_shape_kind(document: Document, kind_id: str, name: str | None = None, colour: str | None = None) -> None:
    """Gives a kind of shapes another name or colour."""
    kind = by_id(document.project.shape_kinds, kind_id)
    changed = replace(kind, name=kind.name if name is None else _checked(name), colour=colour or kind.colour)
    put(document, f"change kind of shapes {kind.name}", "shape_kinds", changed)


def remove_shape_kind(document: Document, kind_id: str) -> int:
    """Takes a kind of shapes out, and its shapes with it; returns how many tiles had some.

    Raises
    ------
    BadRequest
        If it is one of those that every project has.
    """
    project = document.project
    kind = by_id(project.shape_kinds, kind_id)
    if kind_id in (FEET, SIGHT):
        raise BadRequest(f"“{kind.name}” is what walking and light go by, and stays; give it another name if you like.")
    described = {ref: notes.with_shape(kind_id, "none") for ref, notes in project.tiles.items()}
    count = sum(kind_id in notes.shapes for notes in project.tiles.values())
    kinds = tuple(one for one in project.shape_kinds if one.id != kind_id)
    tiles = {ref: notes for ref, notes in described.items() if notes != PLAIN}
    document.define(f"remove kind of shapes {kind.name}", replace(project, shape_kinds=kinds, tiles=tiles))
    return count


def _checked(name: str) -> str:
    name = name.strip()[:80]
    if not name:
        raise BadRequest("A kind of shapes needs a name; write one such as “Stops arrows”.")
    return name
