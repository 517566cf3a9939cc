"""Running, jumping and falling seen from the side."""

import json
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from calling import knitground
from knitground.core.edits.layers import add_layer
from knitground.core.edits.placing import place
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.thing import Corner, Thing
from knitground.core.project.derived import Derived
from knitground.core.tiles.notes import Property
from knitground.core.walk.figure import Figure
from knitground.core.walk.journey import Leg
from knitground.core.walk.motion import Mover, Spot
from knitground.core.walk.room import Foot, grown
from knitground.core.walk.side import Edge, Moving, SideMover, edges_of, seen_from_side, usual_strength
from making import SIDE, make_document, poke
from test_walk import SLOPE, WALL, strewn, with_shapes

BODY = Foot(6, 10)
WAYS = ("E", "W", "N", "NE", "NW", "S", "")
FLOOR = 80.0


def on_floor(*blocks, edges=(), body: Foot = BODY) -> SideMover:
    """A floor, and what stands on it."""
    ground = make_document(40, 12).project.grounds[0]
    shape = grown(shapely.union_all([shapely.box(-50, FLOOR, 400, 120), *blocks]), body)
    mover = Mover(lambda area: shape, shapely.box(0, -200, 320, 120), body)
    return SideMover(mover, edges, usual_strength(ground))


def stand(x: float, height: float = 0.0) -> Moving:
    return Moving(Spot(x, FLOOR - 5 - height - 0.002))


def run(mover: SideMover, now: Moving, way: str, ticks: int) -> list[Moving]:
    found = [now]
    for _ in range(ticks):
        found.append(mover.tick(found[-1], way))  # type: ignore[arg-type]
    return found


def test_a_body_falls_stands_runs_and_stops_at_a_wall():
    mover = on_floor(shapely.box(100, 40, 110, 80))
    fallen = run(mover, Moving(Spot(40, 20)), "", 200)[-1]
    assert fallen.stands
    assert fallen.spot == pytest.approx((40, FLOOR - 5), abs=0.01)
    ran = run(mover, fallen, "E", 300)[-1]
    assert ran.spot == pytest.approx((97, FLOOR - 5), abs=0.01)
    assert ran.touched is not None
    assert run(mover, fallen, "", 50)[-1].spot == fallen.spot


def test_a_jump_is_as_high_as_it_says_and_lower_where_the_key_is_let_go():
    mover = on_floor()
    strength = usual_strength(make_document().project.grounds[0])
    still = run(mover, stand(40), "", 3)[-1]
    flight = run(mover, still, "N", 130)
    high = still.spot.y - min(one.spot.y for one in flight)
    assert high == pytest.approx(strength.jump, rel=0.05)
    assert flight[-1].stands, "one press is one jump"
    short = run(mover, run(mover, still, "N", 8)[-1], "", 120)
    assert still.spot.y - min(one.spot.y for one in short) < 0.6 * high


@pytest.mark.parametrize(("height", "gets"), [(16.0, True), (24.0, False)])
def test_what_is_higher_than_a_jump_is_not_got_onto(height, gets):
    mover = on_floor(shapely.box(80, FLOOR - height, 400, 80))
    still = run(mover, stand(70), "", 3)[-1]
    end = run(mover, run(mover, still, "NE", 60)[-1], "E", 120)[-1]
    assert (end.spot.x > 90) is gets
    assert (end.spot.y < FLOOR - height - 4) is gets


def test_a_jump_counts_a_little_after_an_edge_and_a_little_before_landing():
    mover = on_floor(shapely.box(0, 40, 60, 80))
    still = run(mover, Moving(Spot(50, 34.9)), "", 5)[-1]
    over = run(mover, still, "E", 90)
    off = next(place for place, one in enumerate(over) if place > 3 and not one.stands)
    late = run(mover, over[off + 6], "NE", 20)
    assert min(one.spot.y for one in late) < over[off].spot.y - 4, "it had just run over the edge"
    too_late = run(mover, over[off + 25], "NE", 20)
    assert min(one.spot.y for one in too_late) >= over[off].spot.y - 0.01
    falling = run(mover, Moving(Spot(150, 40)), "", 200)
    landed = next(place for place, one in enumerate(falling) if one.stands)
    early = run(mover, run(mover, falling[landed - 6], "N", 1)[-1], "N", 30)
    assert min(one.spot.y for one in early[12:]) < FLOOR - 12


def test_one_way_edges_hold_from_above_let_pass_from_below_and_are_dropped_through():
    mover = on_floor(edges=[Edge(60, 64, 120, 64)])
    below = run(mover, stand(90), "", 3)[-1]
    up = run(mover, below, "N", 150)[-1]
    assert up.stands
    assert up.spot.y == pytest.approx(59, abs=0.02)
    assert run(mover, up, "", 60)[-1].spot.y == pytest.approx(59, abs=0.02)
    down = run(mover, run(mover, up, "S", 10)[-1], "", 100)[-1]
    assert down.spot.y == pytest.approx(FLOOR - 5, abs=0.02)
    assert run(mover, up, "E", 300)[-1].spot.y == pytest.approx(FLOOR - 5, abs=0.02)


def test_slopes_are_climbed_and_followed_down_and_too_steep_ones_are_not():
    hill = shapely.Polygon([(60, 80), (100, 60), (140, 60), (180, 80)])
    mover = on_floor(hill)
    way = run(mover, run(mover, stand(40), "", 3)[-1], "E", 420)
    assert way[-1].spot.x > 190
    assert min(one.spot.y for one in way) == pytest.approx(55, abs=0.1)
    assert all(one.stands for one in way[5:]), "it never leaves the ground, uphill or downhill"
    cliff = on_floor(shapely.Polygon([(60, 80), (66, 40), (100, 40), (100, 80)]))
    assert run(cliff, run(cliff, stand(40), "", 3)[-1], "E", 300)[-1].spot.x < 62


@settings(max_examples=8, deadline=None)
@given(seed=st.integers(0, 2**20), keys=st.lists(st.sampled_from(WAYS), min_size=4, max_size=14))
def test_a_body_never_ends_inside_of_what_blocks_and_falls_always_alike(seed, keys):
    document = strewn(seed, 0.25)
    ground = document.project.grounds[0]
    figure = Figure(Derived(document), ground, BODY, side=True)
    start = figure.mover.nearest(Spot(64.0, 48.0))
    if not figure.mover.fits(start):
        return
    now, spots = figure.begin(start), list[Spot]()
    for way in keys:
        for _ in range(40):
            now = figure.tick(now, way)
            spots.append(now.spot)
    closed = figure.solids.closed(PixelRect(0, 0, *ground.projection.size), BODY).buffer(-1e-6)
    assert not any(shapely.contains_xy(closed, *spot) for spot in spots[::4])
    legs = [Leg(way=way, ticks=40) for way in keys]
    assert Figure(Derived(document), ground, BODY, side=True).travel(start, legs).end == now.spot


def test_a_ground_seen_from_the_side_is_walked_so_on_the_command_line(tmp_path):
    document = with_shapes(30, 12)
    poke(document, "things", "cells", np.s_[10, :], document.palette.code(WALL))
    poke(document, "things", "cells", np.s_[9, 12], document.palette.code(SLOPE))
    poke(document, "things", "cells", np.s_[9, 13:16], document.palette.code(WALL))
    add_layer(document, "ground", "Props", kind="props")
    said = {"one-way": Property("yes-no", True)}
    line = Thing("new", 180.0, 56.0, "line", points=(Corner(0, 0), Corner(40, 0)), properties=said)
    place(document, "ground", "props", [line, Thing("new", 20.0, 60.0, "point", tags=("spawn",))])
    ground = document.project.grounds[0]
    assert edges_of(ground, ()) == [Edge(180.0, 56.0, 220.0, 56.0)]
    assert not seen_from_side(ground)
    ground = replace(ground, properties={"view": Property("text", "side")})
    document.define("side", replace(document.project, grounds=(ground,)))
    assert seen_from_side(document.project.grounds[0])
    document.save(tmp_path / "side")
    result = knitground("walk", tmp_path / "side", "--route", "E 10", "--figure", "6x10", "--view", "side", "--json")
    end = json.loads(result.stdout)["end"]
    assert end["y"] == pytest.approx(9 * SIDE - 5, abs=0.02), "up the slope, onto the block"
    again = knitground("walk", tmp_path / "side", "--route", "E 10", "--figure", "6x10", "--json")
    assert json.loads(again.stdout)["end"] == end, "the ground says from where it is seen"
    top = knitground("walk", tmp_path / "side", "--route", "E 3", "--view", "top", "--figure", "6x10", "--json")
    assert json.loads(top.stdout)["end"]["y"] == 60.0
