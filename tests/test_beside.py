"""Maps beside one another: what is painted on either is knit as if both were one."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from knitground.core.deliver import EXPORTERS
from knitground.core.edits.bordering import put_beside
from knitground.core.edits.foresee import foresee
from knitground.core.edits.grounds import duplicate_ground, remove_ground, resize_ground, set_wraps
from knitground.core.edits.layers import add_layer, put_layer
from knitground.core.edits.painting import Hand, stroke, stroke_shapes, values_of
from knitground.core.errors import BadRequest
from knitground.core.ground.beside import at_borders
from knitground.core.ground.ground import Neighbour, by_id
from knitground.core.project.derived import MANY_CELLS, Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME
from making import cell_set, make_document

HIGH, WIDE, MORE = 12, 10, 9
LAYERS = ("areas", "lines", "walls", "beds")


def maps(border: str = "east", shift: int = 0, grid: str = "square") -> Document:
    """Two maps beside each other, and one bare map that is as large as both together."""
    document = make_document(WIDE, HIGH, grid)
    project = document.project
    document.define("beds", replace(project, join_sets=(*project.join_sets, cell_set())))
    add_layer(document, "ground", "beds", "beds")
    other, whole = duplicate_ground(document, "ground"), duplicate_ground(document, "ground")
    if border in ("east", "west"):
        resize_ground(document, other, MORE, HIGH)
        resize_ground(document, whole, WIDE + MORE, HIGH)
    else:
        resize_ground(document, other, WIDE, MORE)
        resize_ground(document, whole, WIDE, HIGH + MORE)
    put_beside(document, "ground", border, other, shift)
    return document


def names(document: Document) -> tuple[str, str, str]:
    # A copy stands right behind what it was made of, so the last made comes first.
    first, whole, other = (one.id for one in document.project.grounds)
    return first, other, whole


def beside_of(document: Document, name: str) -> dict:
    return at_borders(document.project.grounds, by_id(document.project.grounds, name))


def codes(derived: Derived, ground_id: str, layer: str) -> np.ndarray:
    knitted = derived.knitted(ground_id)
    return np.array(knitted.codes(layer, knitted.ground.board.whole))


strokes = st.lists(
    st.tuples(
        st.booleans(),
        st.sampled_from(LAYERS),
        st.integers(0, HIGH - 1),
        st.integers(0, WIDE + MORE - 1),
        st.integers(-3, 3),
        st.integers(-3, 3),
        st.integers(1, 2),
    ),
    min_size=1,
    max_size=6,
)


@pytest.mark.parametrize(("ends", "many"), [(False, MANY_CELLS), (True, MANY_CELLS), (False, 0), (True, 10)])
@given(drawn=strokes)
@settings(deadline=None, max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_two_maps_are_knit_as_one_whatever_is_painted_on_either(monkeypatch, drawn, ends, many):
    monkeypatch.setattr("knitground.core.project.derived.MANY_CELLS", many)
    document = maps()
    first, other, whole = names(document)
    if ends:
        for ground in document.project.grounds:
            put_layer(document, ground.id, "ends", replace(ground.layer("beds"), beyond="nothing"))
    derived = Derived(document)
    for name in (first, other, whole):
        for layer in LAYERS:
            codes(derived, name, layer)
    for on_other, layer, y, x, down, across, terrain in drawn:
        hand = Hand(terrain=terrain, radius=1)
        x = x % WIDE if not on_other else WIDE + x % MORE
        for name, left in ((other if on_other else first, WIDE if on_other else 0), (whole, 0)):
            start, end = (y + 0.5, x + 0.5 - left), (y + down + 0.5, x + across + 0.5 - left)
            stroke(document, name, layer, hand, start, end)
    # What a stroke covers beyond the border of its own map is cut off there, so the large map is painted anew.
    copy_onto(document, first, other, whole)
    for layer in LAYERS:
        joined = codes(derived, whole, layer)
        assert np.array_equal(codes(derived, first, layer), joined[:, :WIDE]), layer
        assert np.array_equal(codes(derived, other, layer), joined[:, WIDE:]), layer
    anew = Derived(document)
    for name in (first, other):
        for layer in LAYERS:
            assert np.array_equal(codes(derived, name, layer), codes(anew, name, layer))


def copy_onto(document: Document, first: str, other: str, whole: str) -> None:
    """Paints the large map as the two are."""
    planes = document.state.planes
    for layer in LAYERS:
        changed = {}
        for plane, old in planes[whole][layer].items():
            one, two = np.asarray(planes[first][layer][plane]), np.asarray(planes[other][layer][plane])
            both = one.shape[1] + two.shape[1] - old.shape[1]
            assert np.array_equal(one[:, one.shape[1] - both :], two[:, :both]), (layer, plane)
            changed[plane] = type(old).of(np.concatenate([one, two[:, both:]], axis=1))
        document.put_planes("copy", whole, {layer: changed})


@pytest.mark.parametrize("border", ["west", "north", "east", "south"])
@pytest.mark.parametrize("grid", ["square", "diamond"])
def test_a_stroke_at_the_border_is_one_step_on_both_maps(border, grid):
    document = maps(border, 2, grid)
    first, other, _ = names(document)
    beside = beside_of(document, first)
    assert beside == {border: Neighbour(other, 2)}
    back = {"west": "east", "east": "west", "north": "south", "south": "north"}[border]
    assert beside_of(document, other) == {back: Neighbour(first, -2)}
    place = {"west": (6.0, 0.0), "east": (6.0, WIDE), "north": (0.0, 5.0), "south": (float(HIGH), 5.0)}[border]
    before = document.state
    stroke(document, first, "areas", Hand(terrain=2), place, place)
    for name in (first, other):
        assert (np.asarray(document.state.planes[name]["areas"]["corners"]) == 2).sum() == 1
    document.undo()
    assert document.state.planes == before.planes


def test_points_where_four_maps_meet_are_passed_on():
    document = make_document(6, 6)
    ids = ["ground", *(duplicate_ground(document, "ground") for _ in range(3))]
    put_beside(document, ids[0], "east", ids[1])
    put_beside(document, ids[0], "south", ids[2])
    put_beside(document, ids[2], "east", ids[3])
    stroke(document, ids[0], "areas", Hand(terrain=2), (6.0, 6.0), (6.0, 6.0))
    found = [np.argwhere(np.asarray(document.state.planes[name]["areas"]["corners"]) == 2).tolist() for name in ids]
    assert found == [[[6, 6]], [[6, 0]], [[0, 6]], [[0, 0]]]


def test_the_preview_looks_beyond_the_border():
    document = maps()
    first, other, _ = names(document)
    stroke(document, other, "beds", Hand(terrain=1, radius=1), (5.5, 0.5), (5.5, 0.5))
    derived = Derived(document)
    knitted = derived.knitted(first)
    layer, hand = knitted.ground.layer("beds"), Hand(terrain=1)
    at = (5.5, WIDE - 0.5)
    values = values_of(document.project, document.palette, knitted.ground.board, layer, hand, erase=False)
    board = knitted.ground.board
    found = foresee(knitted, "beds", stroke_shapes(board, layer, hand, at, at), lambda turn: values, board.whole)
    stroke(document, first, "beds", hand, at, at)
    assert np.array_equal(found.codes, derived.knitted(first).codes("beds", found.cells))
    assert derived.why(first, "beds", 5, WIDE - 1).count("W") == 0
    labels = document.project.join_sets[-1].labels[document.palette.ref(int(codes(derived, first, "beds")[5, -1]))]
    assert labels[5] == 1, "it goes on to the east"


def test_putting_maps_beside_each_other_makes_the_border_one_and_taking_apart_leaves_it():
    document = maps()
    first, other, _ = names(document)
    put_beside(document, first, "east", None)
    assert beside_of(document, first) == {}
    stroke(document, first, "areas", Hand(terrain=2), (4.0, WIDE), (7.0, WIDE))
    assert not (np.asarray(document.state.planes[other]["areas"]["corners"]) == 2).any()
    put_beside(document, other, "west", first)
    # The one whose border is chosen counts.
    assert not (np.asarray(document.state.planes[first]["areas"]["corners"]) == 2).any()
    document.undo()
    put_beside(document, first, "east", other)
    assert (np.asarray(document.state.planes[other]["areas"]["corners"])[4:8, 0] == 2).all()


def test_what_can_not_lie_beside_is_refused_in_a_sentence(tmp_path):
    document = maps()
    first, other, whole = names(document)
    cases = (
        (first, "is there", first, 0),
        (first, "would not touch", other, 40),
    )
    for name, says, beside, shift in cases:
        with pytest.raises(BadRequest, match=says):
            put_beside(document, name, "east", beside, shift)
    with pytest.raises(BadRequest, match="can't go round"):
        set_wraps(document, first, x=True)
    set_wraps(document, whole, x=True)
    with pytest.raises(BadRequest, match="goes round sideways"):
        put_beside(document, first, "west", whole)
    document.save(tmp_path)
    assert Document.load(tmp_path).project.grounds == document.project.grounds
    file = tmp_path / FILE_NAME
    file.write_text(file.read_text().replace(f'"ground": "{other}"', '"ground": "nowhere"'))
    with pytest.raises(Exception, match="choose one that is there"):
        Document.load(tmp_path)
    remove_ground(document, other)
    assert document.project.grounds[0].east is None


@pytest.mark.parametrize("grid", ["staggered", "hex-pointed"])
def test_grids_that_can_not_say_so(grid):
    document = make_document(8, 8, grid)
    other = duplicate_ground(document, "ground")
    with pytest.raises(BadRequest, match="this grid can't yet"):
        put_beside(document, "ground", "east", other)


def test_the_delivered_file_says_which_maps_lie_beside_it(tmp_path):
    document = maps("south", -3)
    first, other, _ = names(document)
    for name, beside in ((first, {"south": -3}), (other, {"north": 3})):
        EXPORTERS["json"].write(Derived(document), name, tmp_path / "map.json", lambda share: None)
        said = json.loads((tmp_path / "map.json").read_text())["neighbours"]
        assert {border: one["shift"] for border, one in said.items()} == beside
