"""Frames of tiles of a join set that are in the set themselves, and so are laid as variants, standing still."""

from collections.abc import Iterator, Mapping
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.joins.sets import JoinSet
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.tile import TileRef

LAID_APART = "frames laid as variants"


def frames_laid(join_set: JoinSet, tiles: Mapping[TileRef, TileNotes]) -> list[TileRef]:
    """Tiles of a set that another of it, with the same labels, plays as frames, and that don't move themselves.

    Parameters
    ----------
    join_set : JoinSet
    tiles : mapping of TileRef to TileNotes
        What is said of tiles.
    """
    labels = join_set.labels
    played = {
        frame.tile: None
        for ref, notes in tiles.items()
        if notes.frames and ref in labels
        for frame in notes.frames
        if frame.tile != ref and labels.get(frame.tile) == labels[ref]
    }
    return [ref for ref in played if ref not in tiles or not tiles[ref].frames]


def _find(facts: Facts, join_set: JoinSet) -> Iterator[Finding]:
    found = frames_laid(join_set, facts.tiles)
    if found:
        told = many(len(found), "tile is a frame of another", "tiles are frames of others")
        yield Finding(
            LAID_APART, "joins", f"{join_set.name}: {told}, and laid as variants too, where nothing moves",
            join_set.id, count=len(found), tiles=tuple(map(str, found)),
            mend="Take their labels off, so that they show as frames only.",
        )  # fmt: skip


def _depends(facts: Facts, join_set: JoinSet) -> tuple[Any, ...]:
    return join_set, facts.tiles


CHECK = DefinitionCheck("frames", lambda facts: facts.join_sets, _depends, lambda *of: tuple(_find(*of)))
