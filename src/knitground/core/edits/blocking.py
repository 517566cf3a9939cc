"""What blocks as a whole: terrains, marks, tags and properties, switched one by one."""

from dataclasses import replace

from knitground.core.layers.blocking import BlockRules, TerrainOf
from knitground.core.project.document import Document
from knitground.core.project.model import Project
from knitground.core.tiles.notes import Property, as_typed

MOST_VALUES = 12


def block_terrain(document: Document, set_id: str, number: int, *, blocks: bool) -> None:
    """Lets a terrain of a join set, or a mark of a stitch set, block, or not."""
    rules, one = document.project.blocks, TerrainOf(set_id, number)
    kept = tuple(other for other in rules.terrains if other != one)
    _put(document, replace(rules, terrains=(*kept, one) if blocks else kept))


def block_tag(document: Document, tag: str, *, blocks: bool) -> None:
    """Lets all tiles with a tag block, or not."""
    rules = document.project.blocks
    kept = tuple(other for other in rules.tags if other != tag)
    _put(document, replace(rules, tags=(*kept, tag) if blocks else kept))


def block_property(document: Document, name: str, value: Property, *, blocks: bool) -> None:
    """Lets all tiles with a property of some value block, or not; of each property one value can."""
    kept = {other: one for other, one in document.project.blocks.properties.items() if other != name}
    _put(document, replace(document.project.blocks, properties=kept | {name: value} if blocks else kept))


def values_of(project: Project) -> list[tuple[str, Property]]:
    """All that properties of tiles say, in the order of the alphabet; of each at most `MOST_VALUES` values."""
    said: dict[str, dict[str, Property]] = {}
    for notes in project.tiles.values():
        for name, one in notes.properties.items():
            said.setdefault(name, {})[as_typed(one)] = one
    for name, one in project.blocks.properties.items():
        said.setdefault(name, {})[as_typed(one)] = one
    return [(name, said[name][text]) for name in sorted(said) for text in sorted(said[name])[:MOST_VALUES]]


def _put(document: Document, rules: BlockRules) -> None:
    document.define("what blocks", replace(document.project, blocks=rules))
