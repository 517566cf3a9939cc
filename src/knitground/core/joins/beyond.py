"""Saying which combinations a set is not expected to have a tile for, or seldom needs."""

from knitground.core.joins.coverage import Axis, Coverage
from knitground.core.joins.sets import JoinSet

_WAYS: dict[Axis, str] = {
    "across": "it goes across alone: no tile leads up or down",
    "down": "it goes up and down alone: no tile leads across",
}


def told_beyond(join_set: JoinSet, coverage: Coverage) -> str:
    """Terrains of a set that stand apart and where its lines do not go, as the end of a sentence; may be empty.

    Parameters
    ----------
    join_set : JoinSet
    coverage : Coverage
        Its own.
    """
    told = [] if coverage.one_way is None else [_WAYS[coverage.one_way]]
    pairs = coverage.apart
    if pairs:
        names = ["nothing", *(terrain.name for terrain in join_set.terrains)]
        (one, other), *more = pairs
        which = f"{len(pairs)} pairs of terrains" if more else f"{names[one]} and {names[other]}"
        told.append(f"{which} never meet: what lies between them is laid there")
    return "; ".join(told)


def told_narrow(coverage: Coverage) -> str:
    """How many of the missing combinations most areas never come to, as a part of a sentence; may be empty.

    Parameters
    ----------
    coverage : Coverage
    """
    narrow = coverage.narrow
    many = "all" if narrow == coverage.lacking else f"{narrow:,} of these"
    return f"{many} where an area is one cell wide or turns twice beside a cell" if narrow else ""
