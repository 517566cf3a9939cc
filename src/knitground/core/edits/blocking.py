"""What blocks as a whole: terrains, marks and tags, switched one by one."""

from dataclasses import replace

from knitground.core.layers.blocking import BlockRules, TerrainOf
from knitground.core.project.document import Document


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


def _put(document: Document, rules: BlockRules) -> None:
    document.define("what blocks", replace(document.project, blocks=rules))
