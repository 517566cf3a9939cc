"""GraphML (U. Brandes and others, 2002): the graph of walkable places of a ground, for path finding in a game."""

from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

from knitground.core.ground.ground import Ground
from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived
from knitground.core.walk.motion import TICKS
from knitground.core.walk.side import seen_from_side


def deliver(
    derived: Derived, ground_id: str, path: Path, progress: Callable[[float], None] = lambda share: None
) -> list[Path]:
    """Writes the graph: nodes with `x`, `y` (cell), `cost` and `part`, edges with `cost`; returns the files written.

    Of a ground seen from the side the edges are directed, and tell what `keys` are held.

    Raises
    ------
    BadRequest
        If the ground is too large.
    CannotWrite
        If the file cannot be written.
    """
    # Slow to import, and needed here alone.
    import networkx

    ground = derived.knitted(ground_id).ground
    made = _from_side if seen_from_side(ground) else _from_above
    graph = made(derived, ground, progress)
    data = BytesIO()
    networkx.write_graphml(graph, data)
    write_atomically(path, data.getvalue())
    progress(1.0)
    return [path]


def _from_above(derived: Derived, ground: Ground, progress: Callable[[float], None]) -> Any:
    """Cells with room, and the ways between them, which lead both ways."""
    import networkx

    from knitground.core.walk.graph import graph_of
    from knitground.core.walk.room import USUAL_FOOT
    from knitground.core.walk.survey import surveyed

    survey = surveyed(derived, ground.id, USUAL_FOOT, progress=lambda share: progress(share * 0.4))
    found = graph_of(derived, survey)
    graph: Any = networkx.Graph()
    for number, ((row, column), part, cost) in enumerate(
        zip(found.cells.tolist(), found.part.tolist(), found.cost.tolist(), strict=True)
    ):
        graph.add_node(number, x=column, y=row, cost=cost, part=part)
    progress(0.6)
    graph.add_weighted_edges_from(
        (
            (one, other, length)
            for (one, other), length in zip(found.ways.tolist(), found.lengths.tolist(), strict=True)
        ),
        weight="cost",
    )
    return graph


def _from_side(derived: Derived, ground: Ground, progress: Callable[[float], None]) -> Any:
    """Places to stand, and the ways of running, jumping and falling, each in its direction; the cost is in seconds."""
    import networkx

    from knitground.core.walk.figure import Figure
    from knitground.core.walk.leaps import leaps_of
    from knitground.core.walk.side_graph import side_graph

    figure = Figure(derived, ground, side=True)
    found = side_graph(leaps_of(figure, ground, lambda share: progress(share * 0.8)), ground, figure.strength.run)
    graph: Any = networkx.DiGraph()
    for number, ((row, column), platform, part) in enumerate(
        zip(found.cells.tolist(), found.platform.tolist(), found.part.tolist(), strict=True)
    ):
        graph.add_node(number, x=column, y=row, cost=1.0, part=part, platform=platform)
    for (one, other), ticks, keys in zip(found.ways.tolist(), found.ticks.tolist(), found.keys, strict=True):
        known = graph.get_edge_data(one, other)
        if known is None or known["cost"] > ticks / TICKS:
            graph.add_edge(one, other, cost=ticks / TICKS, **({"keys": keys} if keys else {}))
    return graph
