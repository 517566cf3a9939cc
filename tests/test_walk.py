"""What blocks on a ground, what hangs together for a figure, and how it moves: the three agree to the last pixel."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.notes import add_tag, set_collision, set_walkable
from knitground.core.edits.placing import place
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.shapes import inside_polygon
from knitground.core.layers.blocking import BlockRules, TerrainOf
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.notes import Point, Property, TileNotes
from knitground.core.walk.borders import along_borders
from knitground.core.walk.figure import Figure
from knitground.core.walk.graph import cost_of, graph_of, way_between
from knitground.core.walk.journey import (
    WAYS,
    Journey,
    Leg,
    Stopped,
    speed,
    step_of,
)
from knitground.core.walk.motion import Mover, Spot
from knitground.core.walk.room import Foot
from knitground.core.walk.solid import Solids
from knitground.core.walk.survey import surveyed
from knitground.core.walk.wayfinding import find_way
from making import SIDE, make_document, poke, tile

POST, SLOPE, WALL, LOW = tile(1, 1), tile(2, 1), tile(3, 1), tile(4, 1)
SHAPES = {
    POST: ((Point(2, 2), Point(6, 2), Point(6, 6), Point(2, 6)),),
    SLOPE: ((Point(0, 8), Point(8, 0), Point(8, 8)),),
    WALL: "whole",
    LOW: ((Point(0, 0), Point(3.5, 0), Point(3.5, 8), Point(0, 8)), (Point(5, 5), Point(8, 5), Point(8, 8))),
}  # fmt: skip
FOOT = Foot(4, 3)


def with_shapes(width: int = 16, height: int = 12) -> Document:
    document = make_document(width, height)
    set_collision(document, SHAPES)
    return document


def strewn(seed: int, share: float = 0.35, size: tuple[int, int] = (16, 12)) -> Document:
    """A ground with tiles of all shapes here and there, turned all ways."""
    document, rng = with_shapes(*size), np.random.default_rng(seed)
    codes = [document.palette.code(ref, turn) for ref in SHAPES for turn in range(8)]
    laid = np.where(rng.random(size[::-1]) < share, rng.choice(codes, size[::-1]), 0)
    poke(document, "things", "cells", np.s_[:], laid)
    return document


def travel(mover: Mover, start: Spot, legs, length: float, each=lambda spot: None) -> Journey:
    """Where a route leads a foot that goes so far in a step."""
    spot, stopped = start, []
    for number, leg in enumerate(legs):
        for _ in range(leg.ticks):
            went = mover.walked(spot, *step_of(leg.way, length))
            stopped += [Stopped(number, went.touched)] if went.touched is not None else []
            spot = went.spot
            each(spot)
    return Journey(spot, tuple(stopped))


def whole(document: Document) -> PixelRect:
    return PixelRect(0, 0, *document.project.grounds[0].projection.size)


def overlaps(survey, union, spot: Spot) -> bool:
    """Whether a foot lies on something, told by its box and what blocks alone."""
    across, down = survey.foot.half
    foot = shapely.box(spot.x - across, spot.y - down, spot.x + across, spot.y + down)
    size = survey.solids.ground.projection.size
    outside = spot.x < -1e-6 or spot.y < -1e-6 or spot.x > size[0] + 1e-6 or spot.y > size[1] + 1e-6
    return outside or (shapely.intersects(union, foot) and shapely.intersection(foot, union).area > 1e-6)


@settings(max_examples=10)
@given(seed=st.integers(0, 2**20))
def test_what_blocks_is_what_a_reading_pixel_by_pixel_says(seed):
    document = strewn(seed)
    union = Solids(Derived(document), "ground").union(whole(document))
    ys, xs = np.mgrid[0 : 12 * SIDE, 0 : 16 * SIDE] + np.array([0.31, 0.37])[:, None, None]
    found = shapely.contains_xy(union, xs, ys)
    wanted = np.zeros_like(found)
    codes = np.asarray(document.state.planes["ground"]["things"]["cells"])
    for (row, column), code in np.ndenumerate(codes):
        if not code:
            continue
        turn, shapes = code >> 24, SHAPES[document.palette.ref(code & 0xFFFFFF)]
        y, x = ys[:SIDE, :SIDE], xs[:SIDE, :SIDE]
        # The place in the tile as it is drawn that lies there after it is turned.
        for _ in range(turn & 3):
            y, x = SIDE - x, y
        x = SIDE - x if turn & 4 else x
        inside = np.full((SIDE, SIDE), shapes == "whole")
        for shape in () if shapes == "whole" else shapes:
            inside |= inside_polygon(np.array([(point.y, point.x) for point in shape]), y, x)
        wanted[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE] = inside
    assert (found != wanted).sum() == 0


@settings(max_examples=10, deadline=None)
@given(
    seed=st.integers(0, 2**20), keys=st.lists(st.sampled_from([way for way in WAYS if way]), min_size=5, max_size=25)
)
def test_a_figure_never_ends_inside_of_what_blocks_and_its_way_is_always_the_same(seed, keys):
    document = strewn(seed)
    survey = surveyed(Derived(document), "ground", FOOT)
    mover = survey.mover()
    start = mover.nearest(Spot(64.0, 48.0))
    if not mover.fits(start):
        return
    legs = [Leg(way=way, ticks=30) for way in keys]
    length, union = speed(survey.solids.ground), survey.solids.union(whole(document))
    shapely.prepare(union)
    spots: list[Spot] = []
    journey = travel(mover, start, legs, length, spots.append)
    bad = [spot for spot in spots[::3] if overlaps(survey, union, spot)]
    assert bad == []
    again = travel(survey.mover(), start, legs, length)
    assert again == journey


@settings(max_examples=5, deadline=None)
@given(seed=st.integers(0, 2**20), walk=st.integers(0, 2**20))
def test_the_parts_agree_with_walking(seed, walk):
    document = strewn(seed, 0.4, (10, 8))
    derived = Derived(document)
    survey = surveyed(derived, "ground", FOOT)
    mover, rng = survey.mover(), np.random.default_rng(walk)
    spot = mover.nearest(Spot(*rng.uniform(0, 60, 2).tolist()))
    part = survey.reach.part_at(spot)
    if part < 0:
        return
    length = speed(survey.solids.ground)
    for _ in range(30):
        way = str(rng.choice([way for way in WAYS if way]))
        spot = travel(mover, spot, [Leg(way=way, ticks=40)], length).end  # type: ignore[arg-type]
        assert survey.reach.part_at(spot) == part


@settings(max_examples=8, deadline=None)
@given(seed=st.integers(0, 2**20))
def test_where_the_graph_leads_one_can_walk(seed):
    document = strewn(seed, 0.35, (10, 8))
    derived = Derived(document)
    survey = surveyed(derived, "ground", FOOT)
    graph = graph_of(derived, survey)
    mover, length = survey.mover(), speed(survey.solids.ground)
    assert all(mover.fits(Spot(*spot)) for spot in graph.spots.tolist())
    rng = np.random.default_rng(seed)
    for one, other in rng.permutation(graph.ways)[:25].tolist():
        assert graph.part[one] == graph.part[other]
        spot, aim = Spot(*graph.spots[one].tolist()), graph.spots[other]
        for _ in range(200):
            way = aim - spot
            far = float(np.hypot(*way))
            if far < 1e-6:
                break
            step = way / far * min(far, length)
            spot = mover.moved(spot, *step.tolist()).spot
        assert np.hypot(*(aim - spot)) < 0.05
    ones = [Spot(*spot) for spot in graph.spots[graph.part == 0].tolist()]
    if len(ones) > 1:
        found = way_between(derived, survey, ones[0], ones[-1])
        assert found is not None
        assert found[0][0] == ones[0]
        assert found[0][-1] == ones[-1]


@settings(max_examples=6, deadline=None)
@given(seed=st.integers(0, 2**20))
def test_along_what_blocks_there_is_always_a_way_between_what_hangs_together(seed):
    survey = surveyed(Derived(strewn(seed, 0.4, (20, 10))), "ground", FOOT)
    spots = np.random.default_rng(seed).uniform(0, 80, (5, 2)).tolist()
    places = [(Spot(*spot), survey.reach.part_at(Spot(*spot))) for spot in spots]
    for one, part in places:
        for other, its in places:
            if one != other and min(part, its) >= 0:
                assert (along_borders(survey.reach, one, other) is not None) == (part == its)


def walled(gap: float) -> tuple[Document, Derived]:
    """A wall across the ground with a gap so many pixels wide, made by things."""
    document = with_shapes()
    add_layer(document, "ground", "Props", kind="props")
    said = {"blocks": Property("yes-no", True)}
    walls = [
        Thing("new", 30.0, 64.0, "box", width=60.0, height=8.0, properties=said),
        Thing("new", 60.0 + gap + 40.0, 64.0, "box", width=80.0, height=8.0, properties=said),
    ]
    place(document, "ground", "props", walls)
    return document, Derived(document)


@pytest.mark.parametrize(("gap", "passes"), [(3.9, False), (4.0, False), (4.1, True), (9.0, True)])
def test_a_gap_is_passed_by_a_figure_that_is_narrower_than_it_and_by_no_other(gap, passes):
    _, derived = walled(gap)
    survey = surveyed(derived, "ground", FOOT)
    mover = survey.mover()
    above, below = Spot(60.0 + gap / 2, 30.0), Spot(60.0 + gap / 2, 90.0)
    assert (survey.reach.part_at(above) == survey.reach.part_at(below)) is passes
    end = travel(mover, above, [Leg(way="S", ticks=600)], 0.4).end
    assert (end.y > 80) is passes
    assert (way_between(derived, survey, above, below) is not None) is passes
    if not passes:
        assert survey.blamed(end.x, end.y + 0.01).says.startswith("a box")


def test_a_figure_slides_along_slopes_and_round_corners_of_what_it_meets():
    document = with_shapes()
    poke(document, "things", "cells", np.s_[6, 5], document.palette.code(SLOPE))
    poke(document, "things", "cells", np.s_[3, 5], document.palette.code(WALL))
    survey = surveyed(Derived(document), "ground", FOOT)
    mover = survey.mover()
    up = travel(mover, Spot(30.0, 53.0), [Leg(way="E", ticks=120)], 0.2).end
    assert up.y < 51
    assert up.x > 40
    # Straight at the edge of a wall: it gets round without any other key.
    past = travel(mover, Spot(30.0, 25.2), [Leg(way="E", ticks=300)], 0.2).end
    assert past.x > 60
    dead = travel(mover, Spot(30.0, 28.0), [Leg(way="E", ticks=300)], 0.2).end
    assert 37 < dead.x < 39


def test_layers_terrains_tags_properties_and_marks_block_as_they_say():
    document = with_shapes()
    add_layer(document, "ground", "Walk", kind="walk")
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(WALL))
    poke(document, "things", "cells", np.s_[2, 4], document.palette.code(tile(7, 3)))
    poke(document, "walls", "plan", np.s_[8, 8:12], 1)

    def blocked() -> set[tuple[int, int]]:
        union = Solids(Derived(document), "ground").union(whole(document))
        return {
            (row, column)
            for row, column in np.ndindex(12, 16)
            if shapely.contains_xy(union, column * SIDE + 4, row * SIDE + 4)
        }

    assert blocked() == {(2, 2)}
    set_walkable(document, [tile(7, 3)], False)
    assert blocked() == {(2, 2), (2, 4)}
    document.undo()
    tagged = {**document.project.tiles, tile(7, 3): TileNotes(tags=("deep",), properties={"wet": Property("whole", 3)})}
    document.define("said", replace(document.project, tiles=tagged))
    for rules in (BlockRules(tags=("deep",)), BlockRules(properties={"wet": Property("whole", 3)})):
        document.define("rules", replace(document.project, blocks=rules))
        assert blocked() == {(2, 2), (2, 4)}
        document.undo()
    rules = BlockRules(terrains=(TerrainOf(document.project.grounds[0].layer("walls").set_id, 1),))
    document.define("rules", replace(document.project, blocks=rules))
    assert blocked() == {(2, 2), *((8, column) for column in range(8, 12))}
    poke(document, "walk", "cells", np.s_[8, 9], 2)
    poke(document, "walk", "cells", np.s_[5, 5], 1)
    assert blocked() == {(2, 2), (5, 5), (8, 8), (8, 10), (8, 11)}
    change_layer(document, "ground", "things", "solid", solid="none")
    assert (2, 2) not in blocked()
    change_layer(document, "ground", "things", "solid", solid="whole")
    assert {(2, 2), (2, 4)} <= blocked()


@settings(max_examples=6, deadline=None)
@given(seed=st.integers(0, 2**20), row=st.integers(0, 11), column=st.integers(0, 69))
def test_a_survey_that_follows_an_edit_is_the_one_made_anew(seed, row, column):
    document = strewn(seed, 0.3, (70, 12))
    derived = Derived(document)
    before = surveyed(derived, "ground", FOOT)
    old = int(np.asarray(document.state.planes["ground"]["things"]["cells"])[row, column])
    poke(document, "things", "cells", np.s_[row, column], 0 if old else document.palette.code(WALL))
    changed = [PixelRect(column * SIDE, row * SIDE, SIDE, SIDE)]
    after = surveyed(Derived(document), "ground", FOOT, before, changed)
    fresh = surveyed(Derived(document), "ground", FOOT)
    assert after.reach.sizes == pytest.approx(fresh.reach.sizes)
    assert sum(after.reach.rooms[key] is before.reach.rooms[key] for key in after.reach.rooms) >= 1
    spots = np.random.default_rng(seed).uniform(0, 90, (40, 2))
    assert [after.reach.part_at(Spot(*spot)) for spot in spots.tolist()] == [
        fresh.reach.part_at(Spot(*spot)) for spot in spots.tolist()
    ]


def gone_round(seed: int = 0, *, x: bool = True, y: bool = True, share: float = 0.25) -> Document:
    """A strewn ground that goes round."""
    document = strewn(seed, share, (20, 16))
    ground = replace(document.project.grounds[0], wraps_x=x, wraps_y=y)
    document.define("round", replace(document.project, grounds=(ground,)))
    return document


def test_who_walks_over_a_border_comes_in_at_the_other_side_unless_something_stands_there():
    document = with_shapes(10, 8)
    walker = Figure(Derived(document), document.project.grounds[0], FOOT)
    assert walker.travel(Spot(70, 30), (Leg(way="E", ticks=60),)).end.x == pytest.approx(80 - 2, abs=0.01)
    ground = replace(document.project.grounds[0], wraps_x=True)
    document.define("round", replace(document.project, grounds=(ground,)))
    walker = Figure(Derived(document), ground, FOOT)
    journey = walker.travel(Spot(70, 30), (Leg(way="E", ticks=60),))
    assert journey.end == pytest.approx((70 + 60 / 3 - 80, 30), abs=0.01)
    assert not journey.stopped
    assert walker.travel(Spot(40, 60), (Leg(way="S", ticks=60),)).end.y == pytest.approx(64 - 1.5, abs=0.01)
    poke(document, "things", "cells", np.s_[3, 0], document.palette.code(WALL))
    blocked = Figure(Derived(document), ground, FOOT).travel(Spot(70, 28), (Leg(way="E", ticks=60),))
    assert blocked.end.x == pytest.approx(80 - 2, abs=0.01)
    assert len(blocked.stopped) == 1


@settings(max_examples=4, deadline=None)
@given(seed=st.integers(0, 2**20), ways=st.lists(st.sampled_from(list(WAYS)), min_size=8, max_size=30))
def test_parts_hang_together_over_the_borders_as_one_walks(seed, ways):
    document = gone_round(seed)
    derived, ground = Derived(document), document.project.grounds[0]
    survey = surveyed(derived, "ground", FOOT)
    figure = Figure(derived, ground, FOOT)
    now = figure.begin(figure.mover.nearest(Spot(80.0, 60.0)))
    if not figure.mover.fits(now.spot):
        return
    part = survey.reach.part_at(now.spot)
    for way in ways:
        for _ in range(60):
            now = figure.tick(now, way)
        assert 0 <= now.spot.x <= 160
        assert 0 <= now.spot.y <= 128
        assert survey.reach.part_at(now.spot) == part


def test_a_way_leads_over_the_border_where_that_is_shorter_and_the_graph_does_too():
    document = with_shapes(20, 12)
    ground = replace(document.project.grounds[0], wraps_x=True, wraps_y=True)
    document.define("round", replace(document.project, grounds=(ground,)))
    derived = Derived(document)
    survey = surveyed(derived, "ground", FOOT)
    found = find_way(derived, survey, Spot(12, 44), Spot(148, 44))
    assert found.cost == pytest.approx(24, abs=0.5)
    assert [len(line) > 1 for line in found.lines] == [True, True]
    graph = graph_of(derived, survey, neighbours=4)
    assert len(graph.ways) == 4 * 20 * 12
    assert graph.lengths == pytest.approx(SIDE)
    poke(document, "things", "cells", np.s_[:, 0], document.palette.code(WALL))
    closed = Derived(document)
    far = find_way(closed, surveyed(closed, "ground", FOOT), Spot(12, 44), Spot(148, 44))
    assert far.cost == pytest.approx(136, abs=1)
    assert len(far.lines) == 1


def test_a_survey_of_a_ground_that_goes_round_follows_an_edit_at_its_border():
    document = gone_round(7, share=0.3)
    before = surveyed(Derived(document), "ground", FOOT)
    poke(document, "things", "cells", np.s_[5:9, 19], document.palette.code(WALL))
    changed = [PixelRect(19 * SIDE, 5 * SIDE, SIDE, 4 * SIDE)]
    after = surveyed(Derived(document), "ground", FOOT, before, changed)
    assert after.reach.sizes == pytest.approx(surveyed(Derived(document), "ground", FOOT).reach.sizes)


@pytest.mark.parametrize(
    ("notes", "cost"),
    [
        (TileNotes(tags=("mud", "cost 2.5")), 2.5),
        (TileNotes(tags=("cost:3",)), 3.0),
        (TileNotes(tags=("cost 9",), properties={"cost": Property("whole", 4)}), 4.0),
        (TileNotes(tags=("costly", "cost many")), None),
        (TileNotes(properties={"cost": Property("text", "much")}), None),
    ],
)
def test_what_is_dear_is_said_by_a_property_or_a_tag(notes, cost):
    assert cost_of(notes) == cost


def test_a_way_goes_round_what_is_dear():
    document = with_shapes(20, 12)
    mud = tile(6, 1)
    poke(document, "things", "cells", np.s_[2:10, 8:12], document.palette.code(mud))
    direct = way_between(Derived(document), surveyed(Derived(document), "ground", FOOT), Spot(44, 44), Spot(124, 44))
    add_tag(document, [mud], "cost 6")
    derived = Derived(document)
    spots, _ = way_between(derived, surveyed(derived, "ground", FOOT), Spot(44, 44), Spot(124, 44))
    assert not any(64 < spot.x < 96 and 16 < spot.y < 80 for spot in spots)
    assert any(64 < spot.x < 96 and 16 < spot.y < 80 for spot in direct[0])
