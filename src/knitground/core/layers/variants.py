"""How a tile came to be chosen among those that stand in for one another."""

from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.layers.source import Source
from knitground.core.tiles.tile import ORIENTATION_SHIFT


def share_of(source: Source, join_set: JoinSet, labels: Labels, code: int) -> str:
    """How a tile came to be chosen among those of its combination, in words."""
    variants = source.coverage(join_set).tiles.get(labels, ())
    turned = " by turning" if code >> ORIENTATION_SHIFT else ""
    if len(variants) < 2:
        return f"the only one{turned}"
    weights = [source.weight(one.ref) for one in variants]
    chosen = [source.code(one.ref, one.orientation) for one in variants].index(code)
    share = weights[chosen] / sum(weights) if sum(weights) else 1 / len(weights)
    return f"one of {len(variants)}, {share:.0%} by weight{turned}"
