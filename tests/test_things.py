"""Things on prop layers: where they stand, what is drawn of them, and what is kept."""

import json
import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.grounds import duplicate_ground, resize_ground
from knitground.core.edits.layers import change_layer, remove_layer
from knitground.core.edits.merging import merge_twins
from knitground.core.edits.painting import Hand, stroke
from knitground.core.edits.placing import (
    SNAPS,
    about,
    align,
    bounds,
    carry,
    change,
    drawn_polygon,
    drawn_shape,
    duplicate,
    move,
    place,
    remove,
    reorder,
    scaled,
    snapped,
    spread,
    standing_in,
    thing_at,
    things_in,
)
from knitground.core.edits.reframing import crop_ground
from knitground.core.edits.thing_notes import (
    add_kind,
    change_kind,
    remove_kind,
    set_kind_property,
    set_thing_property,
    tag_things,
    untag_things,
)
from knitground.core.errors import BadProject, BadRequest
from knitground.core.grid import GRIDS
from knitground.core.grid.rect import CellRect
from knitground.core.layers.thing import Corner, Thing, outline, properties_of
from knitground.core.project.document import Document
from knitground.core.project.journal import Journal, replay
from knitground.core.tiles.alike import Twin
from knitground.core.tiles.notes import Property
from making import SIDE, tile
from placed import SPRITE, drawn, furnished, props


def sizes(ref) -> tuple[int, int]:
    return (SIDE, SIDE) if ref else (0, 0)


def test_the_order_is_by_feet_until_it_is_given_by_hand():
    document, layer = furnished()
    low, high = replace(SPRITE, y=50.0), replace(SPRITE, y=46.0, tile=tile(5, 2))
    ids = place(document, "ground", layer, [low, high])
    assert [one.id for one in props(document).in_order] == [ids[1], ids[0]]
    reorder(document, "ground", layer, [ids[0]], "up")
    assert [one.id for one in props(document).in_order] == [ids[1], ids[0]]
    reorder(document, "ground", layer, [ids[0]], "bottom")
    assert [one.id for one in props(document).in_order] == ids
    assert props(document).order == "hand"


@given(count=st.integers(2, 6), mine=st.sets(st.integers(0, 5), min_size=1), step=st.sampled_from(["up", "down"]))
@settings(deadline=None, max_examples=40)
def test_ordering_by_one_step_keeps_all_things(count, mine, step):
    document, layer = furnished()
    ids = place(document, "ground", layer, [replace(SPRITE, x=float(n)) for n in range(count)])
    change_layer(document, "ground", layer, "by hand", order="hand")
    chosen = {ids[n] for n in mine if n < count}
    reorder(document, "ground", layer, chosen, step)
    after = [one.id for one in props(document).things]
    assert sorted(after) == sorted(ids)
    others = [one for one in ids if one not in chosen]
    assert [one for one in after if one not in chosen] == others
    if len(chosen) == 1 and others:
        at = ids.index(next(iter(chosen)))
        assert after.index(next(iter(chosen))) == min(max(at + (1 if step == "up" else -1), 0), count - 1)


@pytest.mark.parametrize("grid", list(GRIDS))
def test_snapped_sprites_stand_as_tiles_do(grid):
    document, _ = furnished(grid)
    ground = document.project.grounds[0]
    box = ground.projection.box(6, 7)
    for dx, dy in ((0.2, 0.1), (-2.0, 1.5)):
        x, y = box.x + SIDE / 2 + dx, box.bottom + dy - 1
        assert snapped(ground, x, y, "cell") == (box.x + SIDE / 2, box.bottom)
    assert snapped(ground, 10.4, 3.6, "pixel") == (10.0, 4.0)
    assert snapped(ground, 10.417, 3.6, "free") == (10.42, 3.6)
    for snap in SNAPS:
        assert snapped(ground, *snapped(ground, 33.3, 41.7, snap), snap) == snapped(ground, 33.3, 41.7, snap)


def test_things_are_found_where_they_show():
    document, layer = furnished()
    ids = place(document, "ground", layer, [
        SPRITE, drawn_shape("box", (60, 20), (90, 40)), drawn_shape("round", (100, 20), (130, 60)),
        drawn_shape("line", (10, 90), (60, 110)), Thing("new", 140.0, 100.0, form="point"),
    ])  # fmt: skip
    spots = {ids[0]: (40, 44), ids[1]: (75, 30), ids[2]: (115, 40), ids[3]: (35, 100), ids[4]: (141, 101)}
    for wanted, (x, y) in spots.items():
        assert thing_at(props(document), x, y, 2, sizes).id == wanted
    assert thing_at(props(document), 101, 21, 1, sizes) is None
    assert set(things_in(props(document), 0, 0, 95, 60, sizes)) == {ids[0], ids[1]}


@given(turn=st.floats(0, 359), scale=st.floats(0.1, 4), mirrored=st.booleans())
@settings(deadline=None, max_examples=50)
def test_the_outline_turns_about_the_foot(turn, scale, mirrored):
    thing = replace(SPRITE, turn=turn, scale=scale, mirrored=mirrored)
    corners = outline(thing, (6, 10))
    far = sorted(math.dist(corner, (thing.x, thing.y)) for corner in corners)
    wanted = sorted(scale * math.hypot(3, down) for down in (0, 0, 10, 10))
    assert far == pytest.approx(wanted)


def test_things_turned_together_keep_their_distances():
    things = [replace(SPRITE, x=float(x), y=float(y)) for x, y in ((0, 0), (30, 10), (12, 40))]
    for how in ({"turn": 37.0}, {"mirror": True}):
        after = [about(one, (10, 10), **how) for one in things]
        for one, other in ((0, 1), (1, 2), (0, 2)):
            before = math.dist((things[one].x, things[one].y), (things[other].x, things[other].y))
            assert math.dist((after[one].x, after[one].y), (after[other].x, after[other].y)) == pytest.approx(
                before, abs=0.01
            )


def test_aligning_and_spreading_move_only_what_they_must():
    document, layer = furnished()
    things = [replace(SPRITE, x=float(x), y=float(y)) for x, y in ((20, 20), (50, 35), (110, 60))]
    ids = place(document, "ground", layer, things)
    for side in ("left", "right", "centre", "top", "bottom", "middle"):
        align(document, "ground", layer, ids, side, sizes)
        boxes = [bounds([one], sizes) for one in props(document).things]
        axis = 0 if side in ("left", "right", "centre") else 1
        assert len({(box[axis], box[axis + 2]) for box in boxes}) == 1
        document.undo()
    spread(document, "ground", layer, ids, across=True)
    assert [one.x for one in props(document).things] == [20, 65, 110]
    spread(document, "ground", layer, ids, across=False)
    assert [one.y for one in props(document).things] == [20, 40, 60]
    with pytest.raises(BadRequest, match="two things"):
        align(document, "ground", layer, ids[:1], "left", sizes)
    with pytest.raises(BadRequest, match="three things"):
        spread(document, "ground", layer, ids[:2], across=True)


def test_a_polygon_drawn_by_hand_keeps_its_shape_with_few_corners():
    way = [(50 + 30 * math.cos(t / 50), 40 + 20 * math.sin(t / 50)) for t in range(300)]
    thing = drawn_polygon(way)
    assert 6 <= len(thing.points) <= 40
    xs = [corner[0] for corner in outline(thing)]
    assert (min(xs), max(xs)) == pytest.approx((20, 80), abs=2)
    for poor in ([], [(0.0, 0.0)], [(0.0, 0.0), (9.0, 9.0)], [(0.0, 0.0), (5.0, 5.0), (9.0, 9.0)]):
        with pytest.raises(BadRequest, match="goes round"):
            drawn_polygon(poor)


def test_every_change_is_one_step_that_is_undone():
    document, layer = furnished()
    ids = place(document, "ground", layer, [SPRITE, replace(SPRITE, x=70.0)])
    states = [document.project]
    for act in (
        lambda: move(document, "ground", layer, ids, (3, 4)),
        lambda: duplicate(document, "ground", layer, ids, (8, 8)),
        lambda: change(document, "ground", layer, ids[:1], "scale", lambda one: scaled(one, 2.0)),
        lambda: tag_things(document, "ground", layer, ids, "lost"),
        lambda: set_thing_property(document, "ground", layer, ids, "age", Property("whole", 3)),
        lambda: untag_things(document, "ground", layer, ids[:1], "lost"),
        lambda: remove(document, "ground", layer, ids[1:]),
        lambda: remove_layer(document, "ground", layer),
    ):
        act()
        states.append(document.project)
        assert states[-1] != states[-2]
    for before in reversed(states[:-1]):
        document.undo()
        assert document.project == before
        drawn(document)
    for after in states[1:]:
        document.redo()
        assert document.project == after
        drawn(document)


def test_what_a_kind_says_holds_for_all_that_do_not_say_otherwise():
    document, layer = furnished()
    kind = add_kind(document, "Spawn point")
    set_kind_property(document, kind, "bees", Property("whole", 10))
    ids = place(document, "ground", layer, [replace(SPRITE, kind=kind), replace(SPRITE, kind=kind)])
    set_thing_property(document, "ground", layer, ids[:1], "bees", Property("whole", 99))
    set_kind_property(document, kind, "bees", Property("whole", 20))
    change_kind(document, kind, name="Way in")

    def bees():
        kinds = document.project.thing_kinds
        return [properties_of(one, kinds)["bees"].value for one in props(document).things]

    assert bees() == [99, 20]
    set_thing_property(document, "ground", layer, ids[:1], "bees", None)
    assert bees() == [20, 20]
    remove_kind(document, kind)
    assert bees() == [20, 20]
    assert {one.kind for one in props(document).things} == {""}


@pytest.mark.parametrize("grid", list(GRIDS))
def test_things_stay_at_their_cells_when_the_ground_grows_or_is_cropped(grid):
    document, layer = furnished(grid)
    ground = document.project.grounds[0]
    box = ground.projection.box(6, 7)
    place(document, "ground", layer, [replace(SPRITE, x=box.x + SIDE / 2, y=float(box.bottom))])
    resize_ground(document, "ground", 31, 22)
    box = document.project.grounds[0].projection.box(6, 7)
    assert (props(document).things[0].x, props(document).things[0].y) == (box.x + SIDE / 2, box.bottom)
    crop_ground(document, "ground", CellRect(4, 2, 9, 10))
    box = document.project.grounds[0].projection.box(2, 5)
    assert (props(document).things[0].x, props(document).things[0].y) == (box.x + SIDE / 2, box.bottom)


def test_a_copied_ground_keeps_its_things_and_merged_tiles_are_followed():
    document, layer = furnished()
    place(document, "ground", layer, [SPRITE])
    copy = duplicate_ground(document, "ground")
    assert document.project.grounds[1].layer("props").things == props(document).things
    assert copy == document.project.grounds[1].id
    merge_twins(document, [[Twin(tile(6, 3), 0), Twin(SPRITE.tile, 0)]])
    assert {one.layer("props").things[0].tile for one in document.project.grounds} == {tile(6, 3)}


def test_things_come_back_from_the_file_and_from_the_journal(tmp_path):
    document, layer = furnished()
    journal = Journal(tmp_path / "journal")
    journal.begin(document.state, document.palette.refs, None, None)
    kind = add_kind(document, "Zone")
    shapes = [
        drawn_shape("box", (1, 2), (30, 40)),
        Thing("n", 4.5, 6.25, "polygon", points=(Corner(0, 0), Corner(9, 0), Corner(0, 9))),
    ]
    place(document, "ground", layer, [SPRITE, *(replace(one, kind=kind, name="Here") for one in shapes)])
    journal.add(document.state, document.palette)
    document.save(tmp_path / "project")
    assert Document.load(tmp_path / "project").project == document.project
    found = replay(tmp_path / "journal")
    assert found is not None
    assert found.project == document.project


@given(data=st.data())
@settings(deadline=None, max_examples=20)
def test_a_journal_follows_things_step_by_step(data, tmp_path_factory):
    folder = tmp_path_factory.mktemp("journal") / "one"
    document, layer = furnished()
    ids = place(document, "ground", layer, [replace(SPRITE, x=float(n)) for n in range(40)])
    journal = Journal(folder)
    journal.begin(document.state, document.palette.refs, None, None)
    whole, first = journal.add(document.state, document.palette), len(document.history.done)
    for _ in range(data.draw(st.integers(1, 6))):
        some = data.draw(st.sets(st.sampled_from(ids), min_size=1, max_size=4))
        act = data.draw(st.sampled_from(["move", "remove", "duplicate", "order", "rename layer", "undo"]))
        if act == "move":
            move(document, "ground", layer, some, (1, 2))
        elif act == "remove":
            remove(document, "ground", layer, some)
        elif act == "duplicate":
            duplicate(document, "ground", layer, some, (3, 3))
        elif act == "order":
            reorder(document, "ground", layer, some, "top")
        elif act == "rename layer":
            change_layer(document, "ground", layer, "rename", name="Other things")
        elif len(document.history.done) > first:
            document.undo()
        size = journal.add(document.state, document.palette)
        if act in ("move", "remove", "duplicate"):
            assert size < whole / 4
    found = replay(folder)
    assert found is not None
    assert found.project == document.project
    journal.forget()


DAMAGED = {
    "the same id": lambda things, raw: things.append(dict(things[0])),
    "no kind": lambda things, raw: things[0].update(kind="nowhere"),
    "a sprite without a tile": lambda things, raw: things[0].pop("tile"),
    "a scale of nothing": lambda things, raw: things[0].update(scale=0),
    "a turn without end": lambda things, raw: things[0].update(turn=float("inf")),
    "far away": lambda things, raw: things[0].update(x=1e300),
    "too few corners": lambda things, raw: things[0].update(form="line", points=[[0, 0]]),
    "a wrong field": lambda things, raw: things[0].update(colour="red"),
}


@pytest.mark.parametrize("how", DAMAGED)
def test_damaged_things_are_told_in_a_sentence(tmp_path, how):
    document, layer = furnished()
    place(document, "ground", layer, [SPRITE])
    document.save(tmp_path)
    path = tmp_path / "knitground.json"
    raw = json.loads(path.read_text())
    DAMAGED[how](raw["project"]["grounds"][0]["layers"][-1]["things"], raw)
    path.write_text(json.dumps(raw))
    with pytest.raises(BadProject):
        Document.load(tmp_path)


def test_what_cannot_be_is_refused():
    document, layer = furnished()
    with pytest.raises(BadRequest, match="prop layers"):
        place(document, "ground", "things", [SPRITE])
    with pytest.raises(BadRequest, match="holds things"):
        stroke(document, "ground", layer, Hand(tile(1, 1)), (3, 3), (3, 3))
    with pytest.raises(BadRequest, match="out of range"):
        scaled(SPRITE, 99)
    change_layer(document, "ground", layer, "lock", locked=True)
    with pytest.raises(BadRequest, match="locked"):
        place(document, "ground", layer, [SPRITE])
    assert props(document).things == ()


@pytest.mark.parametrize("grid", list(GRIDS))
def test_things_go_along_with_the_cells_in_which_they_stand(grid):
    document, layer = furnished(grid)
    ground = document.project.grounds[0]
    box, other = ground.projection.box(6, 7), ground.projection.box(10, 12)
    feet = [(one.x + SIDE / 2, float(one.bottom)) for one in (box, other)]
    ids = place(document, "ground", layer, [replace(SPRITE, x=x, y=y) for x, y in feet])
    y, x = ground.board.flat("cells", 6, 7)
    shape = ground.board.box("cells", (y, x), (y, x))
    assert standing_in(ground, ground.layer("things"), shape) == frozenset()
    assert standing_in(ground, props(document), shape) == {ids[0]}
    carry(document, "ground", ["things", layer], shape, (2, 1))
    to_y, to_x = ground.projection.corner(*ground.board.stored("cells", y + 2, x + 1))[::-1]
    assert (props(document).things[0].x, props(document).things[0].y) == (to_x + SIDE / 2, to_y + SIDE)
    assert (props(document).things[1].x, props(document).things[1].y) == feet[1]
    document.undo()
    carry(document, "ground", ["things", layer], shape, None)
    assert [one.id for one in props(document).things] == ids[1:]
