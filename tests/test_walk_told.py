"""What is told of walking: routes, goals, ways and parts, on the command line, in the ledger and in files."""

import json
from dataclasses import replace

import networkx
import numpy as np
import pytest
import shapely

from calling import fails_with_one_sentence, knitground
from knitground.core.deliver import EXPORTERS
from knitground.core.edits.grounds import remove_ground
from knitground.core.edits.placing import place
from knitground.core.edits.routes import keep_route
from knitground.core.errors import BadRequest
from knitground.core.layers.thing import Thing, ThingKind
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.tiles.notes import Property, TileNotes
from knitground.core.walk.journey import (
    Leg,
    Route,
    legs_held,
    legs_of,
    route_of,
    speed,
)
from knitground.core.walk.motion import Mover, Spot
from knitground.core.walk.room import USUAL_FOOT
from knitground.core.walk.survey import surveyed
from making import SIDE, make_document, poke, tile
from test_walk import FOOT, WALL, travel, walled


def test_routes_are_read_as_they_are_written_and_nonsense_is_told():
    ground = make_document().project.grounds[0]
    legs = legs_of("E 10 s 4 NW 1.5", ground)
    assert [leg.way for leg in legs] == ["E", "S", "NW"]
    free = Mover(lambda area: shapely.Polygon(), shapely.box(0, 0, 160, 120), FOOT)
    assert travel(free, Spot(20.0, 20.0), legs[:2], speed(ground)).end == pytest.approx((100.0, 52.0), abs=0.2)
    for text in ("", "E", "E ten", "up 3", "E 3 S", "E -1", "E 1e9"):
        with pytest.raises(BadRequest):
            legs_of(text, ground)
    route = Route(x=3, y=4, legs=legs)
    assert route_of(route.model_dump_json().encode(), "r.json") == route
    for data in (
        b"",
        b"[]",
        b'{"x": 1}',
        b'{"x": 1, "y": NaN, "legs": []}',
        b'{"x":1,"y":1,"legs":[{"way":"Q","ticks":1}]}',
    ):
        with pytest.raises(BadRequest, match="holds no route"):
            route_of(data, "r.json")


def test_walking_and_reaching_on_the_command_line(tmp_path):
    document, _ = walled(3.0)
    place(document, "ground", "props", [Thing("new", 20.0, 20.0, "point", name="Gate", tags=("spawn",))])
    folder = tmp_path / "walk"
    document.save(folder)
    result = knitground("walk", folder, "--route", "E 3 S 9", "--figure", "4x3", "--json")
    told = json.loads(result.stdout)
    assert result.returncode == 1
    assert told["start"]["cell"] == [2, 2]
    assert told["blocked"][0]["way"] == "S"
    assert (told["blocked"][0]["by"], told["blocked"][0]["layer"]) == ("a box, shape 1", "Props")
    assert told["end"]["y"] == pytest.approx(58.5, abs=0.01)
    (tmp_path / "r.json").write_text(Route(x=20, y=20, legs=(Leg(way="E", ticks=60),)).model_dump_json())
    result = knitground("walk", folder, "--route", tmp_path / "r.json", "--figure", "4x3")
    assert (result.returncode, "ends at column" in result.stdout) == (0, True)
    result = knitground("reach", folder, "--from", "1,1", "--figure", "4x3", "--json")
    told = json.loads(result.stdout)
    assert result.returncode == 1
    assert [part["reached"] for part in told["parts"]] == [True, False]
    assert {cell["y"] for cell in told["unreachable"]} == set(range(9, 12))
    assert knitground("reach", folder, "--from", "1,1").returncode == 1
    for wrong, says in (
        (("walk", folder, "--route", "hop"), "no route"),
        (("walk", folder, "--route", "E 1", "--from", "99,1"), "off"),
        (("walk", folder, "--route", "E 1", "--from", "3,8"), "no room"),
        (("reach", folder, "--from", "1,1", "--figure", "0x4"), "can't walk"),
    ):
        assert says in fails_with_one_sentence(knitground(*wrong))


def test_the_graph_is_delivered_as_graphml(tmp_path):
    document, _ = walled(3.0)
    document.define("cost", replace(document.project, tiles={
        **document.project.tiles, tile(6, 1): TileNotes(properties={"cost": Property("number", 3.0)})
    }))  # fmt: skip
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(6, 1)))
    [path] = EXPORTERS["graphml"].write(Derived(document), "ground", tmp_path / "g.graphml", lambda share: None)
    graph = networkx.read_graphml(path)
    nodes = {(data["x"], data["y"]): (name, data) for name, data in graph.nodes(data=True)}
    assert nodes[2, 2][1]["cost"] == 3.0
    assert nodes[4, 4][1]["cost"] == 1.0
    assert nodes[2, 2][1]["part"] != nodes[2, 10][1]["part"]
    assert not networkx.has_path(graph, nodes[2, 2][0], nodes[2, 10][0])
    assert networkx.has_path(graph, nodes[2, 2][0], nodes[14, 2][0])
    assert graph.edges[nodes[4, 4][0], nodes[5, 4][0]]["cost"] == pytest.approx(SIDE)
    assert graph.edges[nodes[2, 2][0], nodes[3, 2][0]]["cost"] == pytest.approx(2 * SIDE)


@pytest.mark.parametrize(("gap", "lost"), [(8.0, True), (30.0, False)])
def test_goals_that_cannot_be_reached_are_findings_with_their_spot(gap, lost):
    document, derived = walled(gap)
    document.define("kinds", replace(document.project, thing_kinds=(
        ThingKind("in", "Way in", properties={"role": Property("text", "spawn")}),
    )))  # fmt: skip
    place(document, "ground", "props", [
        Thing("new", 20.0, 20.0, "point", name="Gate", kind="in"),
        Thing("new", 100.0, 84.0, "point", name="Hive", tags=("goal",)),
        Thing("new", 20.0, 64.0, "point", name="In the wall", kind="in"),
    ])  # fmt: skip
    found = [finding for finding in all_findings(derived) if finding.kind == "reach"]
    says = [finding.sentence for finding in found]
    assert says[0].startswith("a figure of 10 x 6 pixels has no room at “In the wall”")
    assert (len(says) == 2) is lost
    if lost:
        assert "“Hive” can't be reached from “Gate” on “Ground”" in says[1]
        assert (found[1].row, found[1].column, found[1].layer) == (10, 12, "props")


def test_a_route_that_leads_elsewhere_after_a_change_is_a_finding(tmp_path):
    document, _ = walled(40.0)
    route = Route(x=80.0, y=30.0, legs=(Leg(way="S", ticks=120),))
    ground = document.project.grounds[0]
    end = travel(
        surveyed(Derived(document), "ground", USUAL_FOOT).mover(), Spot(80.0, 30.0), route.legs, speed(ground)
    ).end
    assert keep_route(document, "ground", "Through the gap", route, end) == "through-the-gap"
    routes = [finding for finding in all_findings(Derived(document)) if finding.kind == "route"]
    assert routes == []
    poke(document, "things", "cells", np.s_[7, 10], document.palette.code(WALL))
    [found] = [finding for finding in all_findings(Derived(document)) if finding.kind == "route"]
    assert "“Through the gap” on “Ground” ends at column 10, row 6 and not at column 10, row 8" in found.sentence
    assert "last blocked by art 3, 1 on “Things”" in found.sentence
    document.save(tmp_path / "kept")
    assert Document.load(tmp_path / "kept").project.routes == document.project.routes
    for name, nothing in (("", route), ("Nowhere", Route(x=1, y=1))):
        with pytest.raises(BadRequest):
            keep_route(document, "ground", name, nothing, end)
    remove_ground(document, "ground")
    assert document.project.routes == ()


def test_what_was_held_becomes_legs():
    assert legs_held(["E", "E", "", "S", "S", "S", "E"]) == (
        Leg(way="E", ticks=2), Leg(way="", ticks=1), Leg(way="S", ticks=3), Leg(way="E", ticks=1)
    )  # fmt: skip
