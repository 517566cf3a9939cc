"""Every operation on every kind of layer, on every grid, through the one interface."""

from contextlib import nullcontext, suppress
from dataclasses import replace

import numpy as np
import pytest
from pydantic import TypeAdapter, ValidationError

from knitground.core.edits.foresee import foresee
from knitground.core.edits.grounds import resize_ground, set_wraps
from knitground.core.edits.layers import add_layer, change_layer, move_layer, put_own_terrain, remove_layer
from knitground.core.edits.merging import moved_on_maps
from knitground.core.edits.painting import Hand, area, fill, pick, stroke, stroke_shapes, values_of
from knitground.core.edits.pins import bake_layer, pin, unpin_all
from knitground.core.edits.symmetry import Symmetry
from knitground.core.errors import BadRequest
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.joins.sets import Terrain
from knitground.core.layers import KINDS, kind_of, new_layers
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import Ledger
from knitground.core.render.compositor import render
from making import CORNERED, SIDE, cell_set, make_document, tile

WHOLE = CellRect(0, 0, 15, 20)
HAND = Hand(tile(3, 3), terrain=1, radius=1)


def furnished(grid: str) -> Document:
    """A document whose ground has a layer of every kind that there may be."""
    document = make_document(grid=grid)
    project = document.project
    walls = replace(project.stitch_sets[0], parts=("Tops",))
    sets = (*project.join_sets, cell_set())
    mixes = (Mix("mixed", "Mixed", (MixPart(tile(2, 3), 2), MixPart(tile(5, 3)))),)
    document.define("beds", replace(project, join_sets=sets, stitch_sets=(walls,), mixes=mixes))
    for _, name, set_id, kind in new_layers(document.project):
        # A ground of hexagons refuses what is painted on corners and edges.
        with nullcontext() if grid in CORNERED else suppress(BadRequest):
            add_layer(document, "ground", f"new {name}", set_id, kind)
    return document


def every_layer(*, painted: bool = False) -> pytest.MarkDecorator:
    """Runs a test on every grid with every layer that there may be there, or those that can be painted on."""
    cases = [
        (grid, layer.id)
        for grid in GRIDS
        for layer in furnished(grid).project.grounds[0].layers
        if not (painted and layer.refuses)
    ]
    return pytest.mark.parametrize(("grid", "layer_id"), cases)


def painted(document: Document, layer: str) -> dict[str, np.ndarray]:
    return {name: np.array(plane) for name, plane in document.state.planes["ground"][layer].items()}


def same(one: dict[str, np.ndarray], other: dict[str, np.ndarray]) -> bool:
    return one.keys() == other.keys() and all(np.array_equal(one[name], other[name]) for name in one)


def test_every_kind_is_among_the_layers_tried():
    kinds = {layer.kind for layer in furnished("square").project.grounds[0].layers}
    assert kinds == {kind_of(kind) for kind in KINDS}


@every_layer(painted=True)
def test_gestures_paint_are_undone_and_taken_in_hand_again(grid, layer_id):
    document = furnished(grid)
    layer = document.project.grounds[0].layer(layer_id)
    # On layers that are covered already the second terrain is laid.
    hand = replace(HAND, terrain=1 + layer.erased(document.project))
    y, x = document.project.grounds[0].board.flat("cells", 7, 9)
    states = [painted(document, layer_id)]
    for act in (
        lambda: stroke(document, "ground", layer_id, hand, (y + 0.5, x + 0.5), (y + 0.5, x + 3.5)),
        lambda: area(document, "ground", layer_id, hand, (y - 2, x - 2), (y + 2, x + 2)),
        lambda: stroke(document, "ground", layer_id, hand, (y - 2, x - 2), (y - 2, x - 1), erase=True),
    ):
        document.begin("act")
        act()
        document.commit()
        states.append(painted(document, layer_id))
        assert not same(*states[-2:])
    for before in reversed(states[:-1]):
        document.undo()
        assert same(painted(document, layer_id), before)
    for after in states[1:]:
        document.redo()
        assert same(painted(document, layer_id), after)
    document.undo()
    found = pick(document, "ground", layer_id, hand, (y + 0.2, x + 2.2))
    assert found is not None
    assert (found.tile, found.terrain) == ((hand.tile, None) if layer.holds_tiles else (None, hand.terrain))


@every_layer(painted=True)
def test_a_fill_covers_all_of_a_bare_layer_that_takes_areas(grid, layer_id):
    document = furnished(grid)
    layer = document.project.grounds[0].layer(layer_id)
    hand = replace(HAND, terrain=1 + layer.erased(document.project))
    y, x = document.project.grounds[0].board.flat("cells", 7, 9)
    fill(document, "ground", layer_id, hand, (y + 0.5, x + 0.5))
    if layer.takes_areas:
        plane = painted(document, layer_id)[layer.area_plane]
        board = document.project.grounds[0].board
        numbers = np.unique(np.concatenate([
            one.ravel() for one in board.around(plane, layer.specs[layer.area_plane].on, [(0, 0)], WHOLE)
        ]))  # fmt: skip
        wanted = document.palette.code(hand.tile) if layer.holds_tiles else hand.terrain
        assert numbers.tolist() == [wanted]


@every_layer()
def test_layers_are_resized_renumbered_moved_and_removed(grid, layer_id):
    document = furnished(grid)
    before = painted(document, layer_id)
    resize_ground(document, "ground", 24, 11)
    ground = document.project.grounds[0]
    layer = ground.layer(layer_id)
    for name, plane in painted(document, layer_id).items():
        assert plane.shape == ground.board.shape(layer.specs[name].on)
    document.undo()
    assert same(painted(document, layer_id), before)
    planes = document.state.planes["ground"][layer_id]
    assert layer.renumbered(planes, list(range(33))).keys() == planes.keys()
    assert moved_on_maps(document, {})["ground"].keys() == document.state.planes["ground"].keys()
    move_layer(document, "ground", layer_id, 0)
    assert document.project.grounds[0].layers[0].id == layer_id
    remove_layer(document, "ground", layer_id)
    assert layer_id not in document.state.planes["ground"]
    document.undo()
    assert same(painted(document, layer_id), before)


@every_layer(painted=True)
def test_every_layer_is_drawn_told_checked_pinned_and_baked(grid, layer_id):
    document = furnished(grid)
    derived = Derived(document)
    layer = document.project.grounds[0].layer(layer_id)
    hand = replace(HAND, terrain=1 + layer.erased(document.project), radius=3)
    ledger = Ledger(derived)
    y, x = document.project.grounds[0].board.flat("cells", 7, 9)
    stroke(document, "ground", layer_id, hand, (y, x - 2), (y, x + 2))
    knitted = derived.knitted("ground")
    below = np.full((60, 60, 4), 200, np.uint8)
    left, top = knitted.ground.projection.corner(7, 9)
    area_seen = PixelRect(left - 20, top - 20, 60, 60)
    seen = render(derived.scene(knitted, [layer]), area_seen, below=below)
    # What is marked for walking is seen by who works on it, and in no picture.
    assert np.array_equal(seen, below) is layer.marks_walking
    assert derived.why("ground", layer_id, 7, 9) not in ("", "bare")
    ledger.define()
    assert ledger.look(10_000) or ledger.waiting
    shape = knitted.ground.board.box("cells", (y, x), (y, x))
    if layer.pinnable:
        code = document.palette.code(tile(5, 3))
        pin(document, "ground", layer_id, shape, code)
        assert derived.knitted("ground").codes(layer_id, CellRect(7, 9, 1, 1))[0, 0] == code
        unpin_all(document, "ground", layer_id)
    else:
        with pytest.raises(BadRequest, match="nothing to pin"):
            pin(document, "ground", layer_id, shape, 1)
    if layer.knits:
        bake_layer(derived, "ground", layer_id)
        assert document.project.grounds[0].layer(layer_id).holds_tiles


@pytest.mark.parametrize("grid", list(GRIDS))
def test_a_ground_with_every_kind_comes_back_from_its_file(grid, tmp_path):
    document = furnished(grid)
    for layer in list(document.project.grounds[0].layers):
        changes = {"opacity": 0.5, "tint": "#ff8800", "offset_x": 3, "parallax_y": 0.5, "group": "A/B"}
        change_layer(document, "ground", layer.id, "look", **changes, stacking="depth", locked=True)
    document.save(tmp_path)
    again = Document.load(tmp_path)
    assert again.project == document.project
    for layer in document.project.grounds[0].layers:
        kept, back = document.state.planes["ground"][layer.id], again.state.planes["ground"][layer.id]
        assert all(np.array_equal(kept[name], back[name]) for name in kept)


def test_a_locked_layer_takes_nothing_and_says_so(document):
    change_layer(document, "ground", "things", "lock", locked=True)
    with pytest.raises(BadRequest, match="is locked"):
        stroke(document, "ground", "things", HAND, (1, 1), (1, 1))
    assert document.undo_label == "lock"


@pytest.mark.parametrize(
    "header", [{"opacity": 1.5}, {"tint": "red"}, {"offset_x": 10**6}, {"parallax_x": float("inf")}, {"stacking": "up"}]
)
def test_headers_out_of_range_are_refused(header):
    layer = {"id": "a", "name": "A", "kind": "tiles", **header}
    with pytest.raises(ValidationError):
        TypeAdapter(Ground).validate_python(
            {"id": "g", "name": "G", "width": 3, "height": 3, "tile_width": 8, "tile_height": 8, "layers": [layer]}
        )


def test_a_layers_own_shades_are_added_changed_and_taken_out(document):
    shade = add_layer(document, "ground", "Shade", kind="shade")
    area(document, "ground", shade, Hand(terrain=2), (1, 1), (5, 5))
    area(document, "ground", shade, Hand(terrain=3), (8, 8), (9, 9))
    put_own_terrain(document, "ground", shade, 4, Terrain("Night", "N", "#101030"))
    assert document.project.grounds[0].layer(shade).shades[3].name == "Night"
    put_own_terrain(document, "ground", shade, 2, None)
    corners = painted(document, shade)["corners"]
    assert (corners[2, 2], corners[8, 8]) == (0, 2)
    for _ in range(2):
        put_own_terrain(document, "ground", shade, 1, None)
    with pytest.raises(BadRequest, match="at least one"):
        put_own_terrain(document, "ground", shade, 1, None)


@pytest.mark.parametrize("grid", CORNERED)
def test_what_is_painted_beyond_a_border_comes_in_at_the_other_where_the_ground_goes_round(grid):
    document = make_document(20, 14, grid)
    set_wraps(document, "ground", x=True)
    board = document.project.grounds[0].board
    y, x = board.flat("cells", 6, 0)
    stroke(document, "ground", "things", replace(HAND, radius=2), (y + 0.5, x + 0.5), (y + 0.5, x + 0.5))
    cells = painted(document, "things")["cells"] > 0
    shifted = np.roll(cells, 10, axis=1)
    assert shifted[:, 5:15].any()
    assert cells[:, -1].any()
    assert shifted.sum() == cells.sum()
    fresh = make_document(20, 14, grid)
    y, x = board.flat("cells", 6, 10)
    stroke(fresh, "ground", "things", replace(HAND, radius=2), (y + 0.5, x + 0.5), (y + 0.5, x + 0.5))
    assert np.array_equal(painted(fresh, "things")["cells"] > 0, shifted)


def test_a_staggered_ground_goes_round_upwards_only_with_an_even_number_of_rows():
    document = make_document(20, 15, "staggered")
    with pytest.raises(BadRequest, match="even number of rows"):
        set_wraps(document, "ground", y=True)
    resize_ground(document, "ground", 20, 14)
    set_wraps(document, "ground", y=True)
    with pytest.raises(BadRequest, match="even number of rows"):
        resize_ground(document, "ground", 20, 13)


@pytest.mark.parametrize("kind", ["corner", "edge"])
@pytest.mark.parametrize("grid", CORNERED)
def test_tiles_carry_the_labels_round_their_cells_and_join_their_neighbours(grid, kind):
    document = make_document(grid=grid)
    layer_id = {"corner": "areas", "edge": "lines"}[kind]
    random = np.random.Generator(np.random.PCG64(4))
    board = document.project.grounds[0].board
    for _ in range(12):
        row, column = int(random.integers(0, 15)), int(random.integers(0, 20))
        start, end = board.flat("cells", row, column), board.flat("cells", 14 - row, 19 - column)
        stroke(document, "ground", layer_id, Hand(terrain=1 + (kind == "corner")), start, end)
    codes = Derived(document).knitted("ground").codes(layer_id, WHOLE)
    assert (codes >= 0).all()
    labels = document.project.join_sets[kind == "edge"].labels
    sides = {"corner": (((1, 2), (0, 3)), ((3, 2), (0, 1))), "edge": (((1,), (3,)), ((2,), (0,)))}[kind]

    def label(row: int, column: int) -> tuple[int, ...]:
        code = int(codes[row, column])
        return labels[document.palette.ref(code)] if code else (0,) * 4

    joined = 0
    for row in range(15):
        for column in range(20):
            y, x = board.flat("cells", row, column)
            for (mine, theirs), (down, right) in zip(sides, ((0, 1), (1, 0)), strict=True):
                other = board.cell_at(y + down, x + right)
                if other is not None:
                    ours, beside = label(row, column), label(*other)
                    assert [ours[place] for place in mine] == [beside[place] for place in theirs]
                    joined += 1
    assert joined > 400
    assert document.project.grounds[0].tile_width == SIDE


@pytest.mark.parametrize(("wraps", "way"), [(False, "none"), (True, "none"), (False, "both"), (False, "turned")])
@every_layer(painted=True)
def test_what_a_gesture_would_change_is_foreseen_exactly(grid, layer_id, wraps, way):
    document = furnished(grid)
    if wraps:
        set_wraps(document, "ground", x=True, y=False)
    ground = document.project.grounds[0]
    layer, derived = ground.layer(layer_id), Derived(document)
    hand = replace(HAND, terrain=1 + layer.erased(document.project), symmetry=Symmetry(way, ground.projection))

    def values(turn):
        return values_of(document.project, document.palette, ground.board, layer, hand.turned(turn), erase=False)

    for row, column in ((7, 9), (3, 0), (0, 19)):
        y, x = (float(place) + 0.4 for place in ground.board.flat("cells", row, column))
        knitted = derived.knitted("ground")
        before = knitted.codes(layer_id, WHOLE).copy()
        found = foresee(knitted, layer_id, stroke_shapes(ground.board, layer, hand, (y, x), (y, x)), values, WHOLE)
        assert np.array_equal(knitted.codes(layer_id, WHOLE), before)
        stroke(document, "ground", layer_id, hand, (y, x), (y, x))
        after = derived.knitted("ground").codes(layer_id, WHOLE)
        foreseen = before.copy()
        if found is not None:
            part = foreseen[found.cells.rows, found.cells.columns]
            part[found.changed] = found.codes[found.changed]
        assert np.array_equal(foreseen, after)
