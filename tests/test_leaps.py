"""From platform to platform: what is told can be done, what is done by chance is told, and traps are found."""

import json
from dataclasses import replace

import networkx
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from calling import fails_with_one_sentence, knitground
from knitground.core.deliver import EXPORTERS
from knitground.core.edits.layers import add_layer
from knitground.core.edits.placing import place
from knitground.core.grid.filled import filled
from knitground.core.layers.thing import Corner, Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.tiles.notes import Property
from knitground.core.walk.figure import Figure
from knitground.core.walk.leaps import Leaps, leaps_of
from knitground.core.walk.motion import Spot
from knitground.core.walk.room import Foot
from knitground.core.walk.side import usual_strength
from knitground.core.walk.side_graph import side_graph
from knitground.core.walk.wayfinding import find_way_from_side
from making import SIDE, poke
from test_walk import SLOPE, WALL, strewn, with_shapes

BODY = Foot(5, 7)
ONE_WAY = {"one-way": Property("yes-no", True)}
KEYS = ("E", "W", "NE", "NW", "N", "", "S")


def from_side(rows: list[str], *things: Thing) -> Document:
    """A ground drawn in signs: # for a wall, / for a slope."""
    document = with_shapes(len(rows[0]), len(rows))
    codes = {"#": document.palette.code(WALL), "/": document.palette.code(SLOPE), ".": 0}
    poke(document, "things", "cells", np.s_[:], [[codes[sign] for sign in row] for row in rows])
    add_layer(document, "ground", "Props", kind="props")
    if things:
        place(document, "ground", document.project.grounds[0].layers[-1].id, things)
    ground = replace(document.project.grounds[0], properties={"view": Property("text", "side")})
    document.define("side", replace(document.project, grounds=(ground,)))
    return document


def leaps(document: Document, body: Foot = BODY) -> Leaps:
    ground = document.project.grounds[0]
    return leaps_of(Figure(Derived(document), ground, body, side=True), ground)


def at(column: int, row: int, name: str = "", role: str = "") -> Thing:
    """A point on the floor of a cell."""
    return Thing("new", (column + 0.5) * SIDE, (row + 1) * SIDE - 4.0, "point", name=name, tags=(role,) if role else ())


def platform(found: Leaps, column: int, row: int) -> int:
    return found.below(Spot((column + 0.5) * SIDE, (row + 1) * SIDE - 4.0), 4.0)


PIT = [
    "................",
    "................",
    "#####......#####",
    "#####......#####",
    "#####......#####",
    "#####......#####",
    "################",
]


def test_a_pit_deeper_than_a_jump_is_a_trap_and_a_step_in_it_mends_that():
    document = from_side(PIT, at(1, 1, "Hatch", "spawn"))
    found = leaps(document)
    top, bottom, far = (platform(found, *cell) for cell in ((2, 1), (7, 5), (13, 1)))
    assert -1 not in (top, bottom, far)
    assert found.reached(top) == {top, bottom}
    assert [leap.end for leap in found.traps(top)] == [bottom]
    told = [one for one in all_findings(Derived(document)) if one.kind == "trap"]
    assert told[0].row == 5
    assert "not back to “Hatch”" in told[0].sentence
    poke(document, "things", "cells", np.s_[4, 7:9], document.palette.code(WALL))
    again = leaps(document)
    assert again.reached(platform(again, 2, 1)) >= {platform(again, 13, 1), platform(again, 6, 5)}
    assert not again.traps(platform(again, 2, 1))
    assert not [one for one in all_findings(Derived(document)) if one.kind == "trap"]


def test_a_goal_to_which_no_jump_leads_is_a_finding_and_one_that_is_jumped_to_is_none():
    high = [*PIT[:5], "#####......#####", "################"]
    document = from_side(high, at(7, 5, "Hatch", "spawn"), at(13, 1, "Honey", "goal"), at(6, 5, "Jar", "goal"))
    told = [one for one in all_findings(Derived(document)) if one.kind == "reach"]
    assert [one.sentence for one in told] == ["no way was found to run and jump from “Hatch” to “Honey” on “Ground”"]
    assert (told[0].column, told[0].row) == (13, 1)


@pytest.mark.parametrize(("column", "told"), [(1, 0), (9, 1)])
def test_a_place_to_come_in_over_nothing_is_a_finding(column, told):
    # The lower border of the ground holds, too; beside it nothing does.
    document = from_side(["....", "....", "...."], at(column, 1, "Hatch", "spawn"))
    found = [one for one in all_findings(Derived(document)) if one.kind == "reach"]
    assert len(found) == told
    assert all("nothing to stand on lies below “Hatch”" in one.sentence for one in found)


def test_one_way_edges_are_jumped_onto_from_below_and_dropped_through():
    edge = Thing("new", 48.0, 4 * SIDE - 6.0, "line", points=(Corner(0, 0), Corner(40, 0)), properties=ONE_WAY)
    document = from_side(["." * 16] * 5 + ["#" * 16], edge)
    found = leaps(document)
    (ledge,) = [number for number, one in enumerate(found.platforms) if one.one_way]
    (floor,) = [number for number, one in enumerate(found.platforms) if not one.one_way]
    ways = {(leap.start, leap.end): leap for leap in found.leaps}
    assert set(ways) == {(ledge, floor), (floor, ledge)}
    assert found.platforms[ledge].left == 48 - BODY.width / 2


def test_platforms_follow_slopes_and_end_at_walls():
    document = from_side(["............", "............", ".....#......", "..../#......", "############"])
    found = leaps(document)
    low = found.platforms[platform(found, 1, 3)]
    assert low.height_at(1.0 * SIDE) == pytest.approx(4 * SIDE - BODY.height / 2)
    assert low.right < 5 * SIDE
    assert low.height_at(low.right) < 4 * SIDE - BODY.height / 2 - 2


@settings(max_examples=1, deadline=None)
@given(seed=st.integers(0, 2**20))
def test_whatever_leap_is_told_is_done_by_the_same_keys(seed):
    document = strewn(seed, 0.22)
    ground = document.project.grounds[0]
    found = leaps(document)
    figure = Figure(Derived(document), ground, BODY, side=True)
    for leap in found.leaps[::8]:
        now = figure.begin(leap.begin)
        for _ in range(3):
            now = figure.tick(now, "")
        for leg in leap.legs:
            for _ in range(leg.ticks):
                now = figure.tick(now, leg.way)
        end = found.platforms[leap.end]
        assert end.left - 2 <= now.spot.x <= end.right + 2
        assert abs(float(end.height_at(now.spot.x)) - now.spot.y) <= 2.5


@pytest.mark.parametrize("seed", [11])
def test_random_play_gets_nowhere_that_is_not_told(seed):
    random = np.random.default_rng(seed)
    rows = np.where(random.random((12, 20)) < 0.16, "#", ".")
    rows[-1] = "#"
    rows[:2] = "."
    document = from_side(["".join(row) for row in rows])
    found = leaps(document)
    figure = Figure(Derived(document), document.project.grounds[0], BODY, side=True)
    start = max(range(len(found.platforms)), key=lambda number: found.platforms[number].right)
    one = found.platforms[start]
    now = figure.begin(Spot((one.left + one.right) / 2, float(one.height_at((one.left + one.right) / 2)) - 0.01))
    there, stood = found.reached(start), set()
    for _ in range(120):
        key = KEYS[random.integers(len(KEYS))]
        for _ in range(int(random.integers(5, 60))):
            now = figure.tick(now, key)
            stood |= {
                number
                for number, each in enumerate(found.platforms)
                if now.stands and each.left <= now.spot.x <= each.right
                and abs(float(each.height_at(now.spot.x)) - now.spot.y) < 0.5
            }  # fmt: skip
    assert len(stood) > 1
    assert stood <= there


def test_the_delivered_graph_is_directed_and_leads_where_the_jumps_do(tmp_path):
    document = from_side(PIT)
    EXPORTERS["graphml"].write(Derived(document), "ground", tmp_path / "g.graphml")
    graph = networkx.read_graphml(tmp_path / "g.graphml")
    assert graph.is_directed()
    spots = {(data["x"], data["y"]): node for node, data in graph.nodes(data=True)}
    top, bottom, far = spots[2, 1], spots[7, 5], spots[13, 1]
    assert networkx.has_path(graph, top, bottom)
    assert not networkx.has_path(graph, bottom, top)
    assert not networkx.has_path(graph, top, far)
    assert graph.nodes[top]["part"] != graph.nodes[bottom]["part"]
    assert any(data.get("keys") for *_, data in graph.edges(data=True))
    found = leaps(document)
    ways = side_graph(found, document.project.grounds[0], 0.4)
    assert len(ways.ways) == len(ways.ticks) == len(ways.keys)


def test_a_way_from_the_side_leads_over_leaps_and_not_back_out_of_a_pit():
    document = from_side(PIT)
    found, ground = leaps(document), document.project.grounds[0]
    top, low = Spot(20, 12), Spot(60, 44)
    strength = usual_strength(ground)
    down = find_way_from_side(found, ground, strength, top, low)
    assert "with 1 leap." in down.says
    assert down.spots[-1].y > down.spots[0].y + 20
    assert down.cost > 0
    assert "No way was found" in find_way_from_side(found, ground, strength, low, top).says
    on_tile = find_way_from_side(found, ground, strength, Spot(20, 2 * SIDE + 2), low)
    assert on_tile.spots[0] == down.spots[0], "who points at the floor means what stands on it"
    assert find_way_from_side(found, ground, strength, top, Spot(36, 12)).cost == pytest.approx(16 / 0.4 / 120, rel=0.3)


def test_reach_tells_platforms_on_the_command_line(tmp_path):
    document = from_side(PIT)
    document.save(tmp_path / "pit")
    arguments = ("reach", tmp_path / "pit", "--from", "2,1", "--figure", "5x7")
    result = knitground(*arguments)
    assert result.returncode == 1
    assert "1 platform not reached from column 2, row 1" in result.stdout
    assert "was not found to get back" in result.stdout
    held = json.loads(knitground(*arguments, "--json").stdout)
    assert [one["reached"] for one in held["platforms"]].count(False) == 1
    assert len(held["traps"]) == 1
    assert "seen from above" in fails_with_one_sentence(knitground(*arguments, "--dead-ends"))


@settings(deadline=None, max_examples=20)
@given(seed=st.integers(0, 2**16))
def test_shapes_in_holes_of_shapes_are_drawn_as_they_lie(seed):
    random = np.random.default_rng(seed)
    boxes = [shapely.box(x, y, x + w, y + h) for x, y, w, h in random.integers(1, 14, (5, 4)).tolist()]
    shape = boxes[0]
    for box in boxes[1:]:
        shape = shape.symmetric_difference(box)
    pixels = filled(shape, 30, 30)
    ys, xs = np.indices((30, 30)) + 0.5
    assert np.array_equal(pixels, shapely.contains_xy(shape, xs, ys))
