"""Lights take shade away, no farther than they reach, and not where something that stops sight lies between."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from knitground.core.deliver.things import thing_content
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.notes import set_collision
from knitground.core.edits.placing import place
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.layers.light import Light
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.lights import STEP_MS, dimmest, lamps_of, strength
from knitground.core.render.scale import Scale
from knitground.core.tiles.shape_kinds import SIGHT
from knitground.core.walk.sight import seen_from
from making import make_document, poke, tile

WHITE = Light(colour="#ffffff", reach=40.0, softness=0.5)
SHADE = 0x4A
XS = np.arange(120) + 0.5


def shaded(*lights: Thing, grid: str = "square") -> Document:
    """A white ground in deep shadow with lights."""
    document = make_document(20, 16)
    ground = replace(document.project.grounds[0], background="#ffffff", grid=grid, layers=())
    document.define("bare", replace(document.project, grounds=(ground,)))
    walls = add_layer(document, "ground", "Walls", kind="tiles")
    props = add_layer(document, "ground", "Lamps", kind="props")
    shade = add_layer(document, "ground", "Night", kind="shade")
    poke(document, shade, "corners", np.s_[:], 2)
    if lights:
        place(document, "ground", props, lights)
    document.ids = {"walls": walls, "props": props, "shade": shade}
    return document


def lamp(x: float, y: float, light: Light = WHITE) -> Thing:
    return Thing("new", x, y, form="point", light=light)


def seen(document: Document, scale: Scale = Scale()) -> np.ndarray:
    """What the ground looks like, (H, W, 3) uint8."""
    derived = Derived(document)
    width, height = derived.knitted("ground").ground.projection.size
    part = 2**scale.level * scale.cells
    return derived.pixels("ground", PixelRect(0, 0, width // part, height // part), scale)[..., :3]


def test_a_light_takes_all_shade_away_in_its_middle_and_none_beyond_its_reach():
    found = seen(shaded(lamp(80, 60)))
    ys, xs = np.indices(found.shape[:2]) + 0.5
    away = np.hypot(xs - 80, ys - 60)
    assert (found[away < 19] >= 254).all()
    assert (found[away > 41][:, 0] == SHADE).all()
    between = found[60, 80:121, 0].astype(int)
    assert (np.diff(between) <= 0).all()
    assert len(np.unique(between)) > 15


def test_a_coloured_light_takes_as_much_of_each_channel_as_it_has():
    red, green, blue = seen(shaded(lamp(80, 60, replace(WHITE, colour="#ff8000"))))[60, 80]
    assert (red, blue) == (255, 0x66)
    assert SHADE < green < red


def test_where_there_is_no_shade_a_light_changes_nothing():
    document = shaded(lamp(80, 60, replace(WHITE, colour="#ff0000")))
    poke(document, document.ids["shade"], "corners", np.s_[:], 0)
    assert (seen(document) == 255).all()


@pytest.mark.parametrize("scale", [Scale(1), Scale(2), Scale(3, 2)])
def test_from_farther_away_it_looks_alike(scale):
    document = shaded(lamp(80, 60))
    full, small = seen(document).astype(float), seen(document, scale).astype(float)
    part = 2**scale.level * scale.cells
    height, width = small.shape[:2]
    mean = full[: height * part, : width * part].reshape(height, part, width, part, 3).mean(axis=(1, 3))
    assert np.abs(mean - small).max() < 40
    assert np.abs(mean - small).mean() < 3


def test_a_round_of_light_is_flat_on_an_isometric_ground():
    document = shaded(grid="diamond")
    middle = document.project.grounds[0].projection.size[0] / 2, document.project.grounds[0].projection.size[1] / 2
    place(document, "ground", document.ids["props"], [lamp(*middle)])
    ground = document.project.grounds[0]
    lights = Derived(document).lights(ground)
    room = lights.room(lights.lamps[0])
    assert room.height / room.width == pytest.approx(ground.tile_height / ground.tile_width, abs=0.05)


def test_what_stops_sight_throws_a_shadow_until_it_is_taken_away():
    document = shaded(lamp(80, 60))
    set_collision(document, {tile(1, 1): "whole"}, SIGHT)
    walls = document.ids["walls"]
    poke(document, walls, "cells", np.s_[7, 12], document.palette.code(tile(1, 1)))
    # The cell at 12, 7 is a wall from 96 to 104, level with the lamp: behind it the ground stays dark.
    assert (seen(document)[58:62, 110:115, 0] == SHADE).all()
    assert (seen(document)[58:62, 60:66, 0] > 200).all()
    document.undo()
    assert (seen(document)[58:62, 98:100, 0] > SHADE + 40).all()
    poke(document, walls, "cells", np.s_[7, 12], document.palette.code(tile(1, 1)))
    props = document.project.grounds[0].layer(document.ids["props"]).things[0]
    dull = replace(props, light=replace(WHITE, shadows=False))
    change_layer(document, "ground", document.ids["props"], "no shadows", things=(dull,))
    assert (seen(document)[58:62, 105:109, 0] > SHADE).all()


def test_a_layer_may_stop_sight_as_a_whole_without_stopping_feet():
    document = shaded(lamp(80, 60))
    walls = document.ids["walls"]
    poke(document, walls, "cells", np.s_[:, 12], document.palette.code(tile(2, 1)))
    change_layer(document, "ground", walls, "sight", stops_sight=True)
    assert (seen(document)[40:80, 112:, 0] == SHADE).all()


def test_shadows_follow_an_edit_and_what_is_lit_otherwise_is_told():
    document = shaded(lamp(80, 60))
    set_collision(document, {tile(1, 1): "whole"}, SIGHT)
    derived = Derived(document)
    area = PixelRect(0, 0, 160, 128)
    before = derived.pixels("ground", area)
    walls, code = document.ids["walls"], document.palette.code(tile(1, 1))
    layer = document.project.grounds[0].layer(walls)
    document.paint(
        "lay", "ground", walls, layer.area_plane, Shape(CellRect(7, 12, 1, 1), np.ones((1, 1), dtype=bool)), code
    )
    after = derived.pixels("ground", area)
    ys, xs = np.nonzero((before != after).any(axis=2))
    assert len(ys)
    rooms = [room for ground, room in derived.relit if ground == "ground"]
    cell = PixelRect(96, 56, 8, 8)
    for y, x in zip(ys.tolist(), xs.tolist(), strict=True):
        assert any(r.x <= x < r.right and r.y <= y < r.bottom for r in (*rooms, cell))
    assert np.array_equal(after, Derived(document).pixels("ground", area))


half = st.integers(-120, 120).map(lambda number: number / 2)
side = st.integers(4, 60).map(lambda number: number / 2)
shapes = st.lists(st.tuples(half, half, side, side), min_size=1, max_size=6)


@settings(deadline=None, max_examples=60)
@given(boxes=shapes, seed=st.integers(0, 2**16))
def test_what_is_seen_is_what_no_line_to_the_eye_is_cut_to(boxes, seed):
    blocks = shapely.union_all([shapely.box(x, y, x + w, y + h) for x, y, w, h in boxes])
    blocks = shapely.union_all([one for one in shapely.get_parts(blocks) if not one.intersects(shapely.Point(0, 0))])
    assume(not blocks.is_empty)
    found = seen_from(0, 0, 50, blocks, 0.0)
    for x, y in np.random.default_rng(seed).uniform(-49, 49, (40, 2)).tolist():
        spot = shapely.Point(x, y)
        if blocks.boundary.distance(spot) < 0.01 or blocks.contains(spot) or found.boundary.distance(spot) < 0.01:
            continue
        assert found.contains(spot) != shapely.LineString([(0, 0), (x, y)]).intersects(blocks)


def test_a_lamp_shines_out_of_what_encloses_it():
    post = shapely.box(-4, -4, 4, 4)
    assert seen_from(0, 0, 20, post, 2.0).area == pytest.approx(1600)


def test_flicker_comes_and_goes_and_is_the_same_again():
    document = shaded(lamp(80, 60, replace(WHITE, flicker=0.6)), lamp(20, 20, replace(WHITE, flicker=0.6)))
    one, other = lamps_of(document.project.grounds[0].layers)
    times = range(0, 200 * STEP_MS, STEP_MS)
    first, second = ([strength(each, ms) for ms in times] for each in (one, other))
    assert first != second
    assert min(first) >= 0.4 - 1e-9
    assert max(first) <= 1
    assert max(first) - min(first) > 0.3
    assert first == [strength(one, ms + 1) for ms in times]
    assert strength(one._replace(light=WHITE), 500) == 1
    full, low = (
        Derived(document).lights(document.project.grounds[0]).left(XS, XS, levels) for levels in (None, dimmest([one]))
    )
    assert (full <= low + 1e-6).all()
    assert low[60, 80] == pytest.approx(1 - (1 - full[60, 80]) * 0.4, abs=1e-3)


def test_lights_are_kept_and_delivered(tmp_path):
    thing = lamp(80, 60, replace(WHITE, flicker=0.25))
    document = shaded(thing)
    document.save(tmp_path / "kept")
    ground = Document.load(tmp_path / "kept").project.grounds[0]
    assert [one.light for one in lamps_of(ground.layers)] == [thing.light]
    assert thing_content(thing, (), None)["light"] == {
        "colour": "#ffffff", "reach": 40.0, "softness": 0.5, "flicker": 0.25, "shadows": True,
    }  # fmt: skip
