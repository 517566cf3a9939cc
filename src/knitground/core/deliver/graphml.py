"""GraphML (U. Brandes and others, 2002): the graph of walkable places of a ground, for path finding in a game."""

from collections.abc import Callable, Iterator
from io import BytesIO
from typing import Any

from knitground.core.deliver.exporter import File, Order
from knitground.core.ground.ground import Ground
from knitground.core.project.derived import Derived
from knitground.core.walk.motion import TICKS
from knitground.core.walk.side import seen_from_side


def make(order: Order) -> Iterator[File]:
    """The graph: nodes with `x`, `y` (cell), `at_x`, `at_y` (middle, in units), `cost` and `part`, edges with `cost`.

    Of a ground seen from the side the edges are directed, and tell what `keys` are held.

    Raises
    ------
    BadRequest
        If the ground is too large.
    """
    # Slow to import, and needed here alone.
    import networkx

    ground = order.derived.knitted(order.ground_id).ground
    made = _from_side if seen_from_side(ground) else _from_above
    graph = made(order.derived, ground, order.progress)
    for _, node in graph.nodes(data=True):
        box = ground.projection.box(node["y"], node["x"])
        node["at_x"] = (box.x + box.width / 2) / order.per_unit
        node["at_y"] = (box.y + box.height / 2) / order.per_unit
    graph.graph["pixels_per_unit"] = order.per_unit
    data = BytesIO()
    networkx.write_graphml(graph, data)
    yield File(order.name("", ".graphml"), data.getvalue())


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
