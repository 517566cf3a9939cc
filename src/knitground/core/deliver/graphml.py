"""GraphML (U. Brandes and others, 2002): the graph of walkable places of a ground, for path finding in a game."""

from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived


def deliver(
    derived: Derived, ground_id: str, path: Path, progress: Callable[[float], None] = lambda share: None
) -> list[Path]:
    """Writes the graph: nodes with `x`, `y` (cell), `cost` and `part`, edges with `cost`; returns the files written.

    Raises
    ------
    BadRequest
        If the ground is too large.
    CannotWrite
        If the file cannot be written.
    """
    # Slow to import, and needed here alone.
    import networkx

    from knitground.core.walk.graph import graph_of
    from knitground.core.walk.room import USUAL_FOOT
    from knitground.core.walk.survey import surveyed

    survey = surveyed(derived, ground_id, USUAL_FOOT, progress=lambda share: progress(share * 0.4))
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
    data = BytesIO()
    networkx.write_graphml(graph, data)
    write_atomically(path, data.getvalue())
    progress(1.0)
    return [path]
