"""Join and stitch sets: adding them, and labelling tiles."""

from collections.abc import Iterable, Mapping
from dataclasses import replace

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.joins.sets import MOST_TERRAINS, JoinKind, JoinSet, Labels, Terrain, with_label, with_labels
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import TileRef

TERRAIN_COLOURS = ("#9db4d8", "#a5cf4f", "#e8cf9a", "#d98a7a", "#8fd0c4", "#c9a2e0", "#f0b25a", "#8a9a5b")
"""Colours that new terrains get in turn; all stand out on dark and light art."""


def add_join_set(document: Document, name: str, kind: JoinKind, terrains: Iterable[str]) -> str:
    """Adds a join set with terrains of these names; returns its id. Lines may end in nothing, areas do not."""
    project = document.project
    set_id = fresh_id(name, (*project.join_sets, *project.pair_sets))
    made: list[Terrain] = []
    for title in terrains:
        made.append(new_terrain(made, title))
    put(document, f"add {name}", "join_sets", JoinSet(set_id, name, kind, tuple(made), bare=kind != "corner"))
    return set_id


def add_stitch_set(document: Document, name: str, marks: Iterable[str]) -> str:
    """Adds a stitch set with marks of these names; returns its id."""
    set_id = fresh_id(name, document.project.stitch_sets)
    made: list[Terrain] = []
    for title in marks:
        made.append(new_terrain(made, title))
    put(document, f"add {name}", "stitch_sets", StitchSet(set_id, name, tuple(made)))
    return set_id


def new_terrain(others: Iterable[Terrain], name: str) -> Terrain:
    """A terrain with a letter and colour that none of the others has.

    Raises
    ------
    BadRequest
        If there are as many as a set may have.
    """
    known = list(others)
    if len(known) >= MOST_TERRAINS:
        raise BadRequest(f"A set has at most {MOST_TERRAINS} terrains; use another set for more.")
    letters = [terrain.letter for terrain in known]
    wished = [sign.upper() for sign in name if sign.isalpha()] + list("ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789")
    letter = next(sign for sign in wished if sign not in letters)
    return Terrain(name, letter, TERRAIN_COLOURS[len(known) % len(TERRAIN_COLOURS)])


def set_labels(document: Document, set_id: str, places: Iterable[tuple[TileRef, int]], terrain: int) -> None:
    """Labels places of tiles with a terrain, or takes the labels away where it is 0."""
    join_set = by_id(document.project.join_sets, set_id)
    for ref, place in places:
        join_set = replace(join_set, labels=with_label(join_set, ref, place, terrain))
    put(document, "label", "join_sets", join_set)


def label_tiles(document: Document, set_id: str, labels: Mapping[TileRef, Labels], label: str) -> None:
    """Labels whole tiles anew; only zeros take a tile out of the set."""
    join_set = by_id(document.project.join_sets, set_id)
    put(document, label, "join_sets", replace(join_set, labels=with_labels(join_set, labels)))
