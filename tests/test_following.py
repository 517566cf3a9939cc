"""Layers whose tiles follow from other layers, and what of them can't be."""

import json
from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.chart_reading import chart_like
from knitground.core.edits.layers import add_layer, remove_layer
from knitground.core.edits.pins import pin
from knitground.core.edits.removing import remove_join_set, remove_terrain
from knitground.core.edits.selecting import Selected, boxed
from knitground.core.edits.stitching import add_part, let_see, put_set, with_view
from knitground.core.errors import BadProject, BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.joins.sets import Terrain
from knitground.core.layers.onto import OntoLayer
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.project.derived import MANY_CELLS, Derived
from knitground.core.project.document import Document
from knitground.core.project.file import document_bytes, read_document
from knitground.core.project.ledger import all_findings
from knitground.core.project.model import replaced
from knitground.core.stitches.charts import blank_chart, chart_of
from knitground.core.stitches.rules import Piece, Stitch, StitchSet, TileSign, View
from making import make_document, one_course, poke, tile, with_stitches

MARKS = (Terrain("Wall", "W", "#808080"),)


@pytest.fixture
def document() -> Document:
    return make_document()


def looking(name: str, at: str, lays: int) -> StitchSet:
    """A set that lays a tile wherever something lies on another layer."""
    seen = Stitch(f"{name}-1", (chart_of((("!0",),), at),), (Piece(tile(lays, 3)),))
    return replace(one_course(name, name.title(), MARKS, seen), views=(View(at, "tiles"),))


def with_sets(document: Document, *sets: StitchSet) -> None:
    """Adds sets, and a stitched layer for each, of its name."""
    for one in sets:
        put_set(document, "x", one)
        add_layer(document, "ground", one.name, one.id)


def codes(derived: Derived, layer: str) -> np.ndarray:
    return derived.knitted("ground").codes(layer, CellRect(0, 0, 15, 20))


@pytest.mark.parametrize("many", [MANY_CELLS, 0])
def test_a_chain_of_layers_follows_the_first_one_at_once(monkeypatch, document, many):
    monkeypatch.setattr("knitground.core.project.derived.MANY_CELLS", many)
    with_sets(document, looking("first", "Things", 1), looking("second", "First", 2), looking("third", "Second", 3))
    derived = Derived(document)
    assert not codes(derived, "third").any()
    poke(document, "things", "cells", np.s_[4, 5], document.palette.code(tile(0, 0)))
    assert np.argwhere(codes(derived, "third")).tolist() == [[4, 5]]
    assert {one.layer for one in derived.reached} == {"things", "first", "second", "third"}
    document.undo()
    assert not codes(derived, "third").any()


def test_layers_that_would_look_at_one_another_in_a_circle_are_refused_by_name(document):
    with_sets(document, looking("first", "Second", 1))
    put_set(document, "x", one_course("second", "Second", MARKS))
    add_layer(document, "ground", "Second", "second")
    with pytest.raises(BadRequest, match=r"“First” would look at “Second”,|“Second” would look at “First”,"):
        put_set(document, "x", looking("second", "First", 2))
    layer = document.project.grounds[0].layer("first")
    with pytest.raises(BadRequest, match="its own tiles"):
        let_see(document, "ground", layer, "Second", "first")
    let_see(document, "ground", layer, "Second", "things")
    put_set(document, "x", looking("second", "First", 2))


def test_a_circle_that_came_about_all_the_same_is_told_and_does_no_harm(document):
    with_sets(document, looking("first", "Nowhere", 1), looking("second", "First", 2))
    ground = document.project.grounds[0]
    second = replace(ground.layer("second"), name="Nowhere")
    grounds = (replace(ground, layers=replaced(ground.layers, second)),)
    document.define("rename", replace(document.project, grounds=grounds))
    derived = Derived(document)
    assert not codes(derived, "first").any()
    assert any(one.kind == "circle" and "“First”" in one.sentence for one in all_findings(derived))
    again, _ = read_document(document_bytes(document.state, document.palette), _path(), lambda _: _picture(document))
    assert again.project.grounds == document.project.grounds, "and the file opens"


def _path():
    from pathlib import Path

    return Path("knitground.json")


def _picture(document: Document):
    return document.state.pictures["art"]


def test_what_lacks_a_layer_to_see_or_to_lay_onto_is_told(document):
    lays = Stitch("a", (blank_chart(middle="1"),), (Piece(tile(1, 3), onto="Tops"),))
    sees = Stitch("b", (blank_chart(middle="1"), blank_chart("Sky", "!0")), ())
    one = replace(one_course("s", "S", MARKS, lays, sees), parts=("Tops",), views=(View("Sky", "tiles"),))
    with_sets(document, one)
    kinds = {finding.kind for finding in all_findings(Derived(document))}
    assert {"nowhere to lay", "nothing to see"} <= kinds
    add_layer(document, "ground", "Sky")
    add_layer(document, "ground", "Tops", "s\nTops")
    kinds = {finding.kind for finding in all_findings(Derived(document))}
    assert not {"nowhere to lay", "nothing to see"} & kinds


def test_blocks_that_stick_out_and_stitches_that_fire_nowhere_are_told_where(document):
    block = Stitch("a", (blank_chart(middle="1"),), (Piece(tiles=(tile(1, 3),), rows=("1 1",)),))
    idle = Stitch("b", (chart_of((("0", "1", "0"),)),), (Piece(tile(2, 3)),))
    with_sets(document, one_course("s", "S", MARKS, idle, block))
    poke(document, "s", "plan", np.s_[7:9, 19], 1)
    found = {finding.kind: finding for finding in all_findings(Derived(document)) if finding.subject in ("s", "ground")}
    assert (found["block sticks out"].row, found["block sticks out"].column) == (7, 19)
    assert found["idle stitch"].index == 0


def test_pins_hold_on_a_layer_that_stitches_lay_and_go_again(document):
    add_part(document, "walls", "Tops")
    layer = next(one for one in document.project.grounds[0].layers if one.name == "Tops")
    derived = Derived(document)
    shape = boxed(document.project.grounds[0].board, (3.5, 4.5), (3.5, 4.5))
    pin(document, "ground", layer.id, shape, document.palette.code(tile(5, 3)))
    assert codes(derived, layer.id)[3, 4] == document.palette.code(tile(5, 3))
    pin(document, "ground", layer.id, shape, 0)
    document.undo()
    document.undo()
    assert not codes(derived, layer.id).any()
    remove_layer(document, "ground", "walls")
    assert not codes(derived, layer.id).any()


def test_sets_that_are_looked_at_stay_and_their_terrains_go_out_of_charts(document):
    chart = chart_of((("1", "2", "2~/1"),), "Areas")
    one = replace(one_course("s", "S", MARKS, Stitch("a", (chart,))), views=(View("Areas", "painted", "areas"),))
    put_set(document, "x", one)
    for layer in ("areas",):
        remove_layer(document, "ground", layer)
    with pytest.raises(BadRequest, match="look at what is painted by this set"):
        remove_join_set(document, "areas")
    remove_terrain(document, "areas", 1)
    assert document.project.stitch_sets[-1].stitches[0].charts[0].rows == (". 1 1~",)


def test_charts_are_read_off_what_is_painted_and_off_tiles(document):
    signs = (TileSign("Low", "L", (tile(0, 3),)),)
    one = one_course("s", "S", MARKS)
    for view in (View("Areas", "painted", "areas"), View("Things", "tiles", signs=signs)):
        one = with_view(one, view)
    with_sets(document, one)
    poke(document, "areas", "corners", np.s_[:, 5:], 2)
    poke(document, "things", "cells", np.s_[3, 3], document.palette.code(tile(0, 3)))
    poke(document, "things", "cells", np.s_[3, 4], document.palette.code(tile(9, 3)))
    derived, layer = Derived(document), document.project.grounds[0].layer("s")
    board = document.project.grounds[0].board
    selected = Selected("ground", boxed(board, (3.5, 3.5), (3.5, 5.5)))
    assert chart_like(derived, selected, layer, one, "Areas").rows == ("1 1~/2~ 2",)
    assert chart_like(derived, selected, layer, one, "Things").rows == ("1 . 0",)
    assert chart_like(derived, selected, layer, one).rows == ("0 0 0",)
    with pytest.raises(BadRequest, match="Select"):
        chart_like(derived, None, layer, one)


def as_file(document: Document) -> dict:
    return json.loads(document_bytes(document.state, document.palette))


def read(document: Document, raw: dict) -> Document:
    state, palette = read_document(json.dumps(raw).encode(), _path(), lambda _: _picture(document))
    return Document(state, palette)


def test_sets_of_older_files_are_read_as_one_course(document):
    raw = as_file(document)
    raw["version"] = 5
    raw["project"]["stitch_sets"] = [{
        "id": "walls", "name": "Walls", "marks": [{"name": "Wall", "letter": "W", "colour": "#808080"}],
        "stitches": [{"mark": 1, "chart": "......-.", "tile": "art/tiles/0,2"}, {"mark": 1, "chart": "........"}],
    }]  # fmt: skip
    found = read(document, raw).project.stitch_sets[0]
    assert [one.charts[0].rows for one in found.stitches] == [(". . .", ". 1 .", ". - ."), (". . .", ". 1 .", ". . .")]
    assert [one.pieces for one in found.stitches] == [(Piece(tile(0, 2)),), ()]
    for wrong in ({"mark": "1"}, {"chart": "V"}, {"more": 1}, 7):
        bad = json.loads(json.dumps(raw))
        entry = bad["project"]["stitch_sets"][0]["stitches"][0]
        bad["project"]["stitch_sets"][0]["stitches"][0] = wrong if wrong == 7 else {**entry, **wrong}
        with pytest.raises(BadProject):
            read(document, bad)


@pytest.mark.parametrize(
    "change",
    [
        {"charts": [{"rows": ["1 1"]}]},
        {"charts": [{"rows": ["9"]}]},
        {"charts": [{"rows": ["1"], "of": "Sky"}]},
        {"charts": [{"rows": ["1"]}, {"rows": ["1"]}]},
        {"charts": [{"rows": ["1 " * 5000 + "1"]}]},
        {"pieces": [{"tile": "art/tiles/0,0", "mix": "m"}]},
        {"pieces": [{"tiles": ["art/tiles/0,0"], "rows": ["2"]}]},
        {"pieces": [{"tiles": ["art/tiles/0,0"], "rows": ["-"]}]},
        {"pieces": [{"rows": ["1"]}]},
        {"pieces": [{"tile": "art/tiles/0,0", "onto": "Tops"}]},
        {"pieces": [{"tile": "art/tiles/0,0", "down": 99}]},
        {"pieces": [{"mix": "none such"}]},
        {"chance": 101},
        {"chance": "NaN"},
        {"apart": -1},
        {"places": {"rows": 0}},
        {"forms": {"8": []}},
        {"id": ""},
        {"turns": "perhaps"},
    ],
)
def test_what_is_impossible_in_a_file_is_one_sentence(document, change):
    raw = as_file(document)
    raw["project"]["stitch_sets"][0]["courses"][0]["stitches"][0] |= change
    with pytest.raises(BadProject) as told:
        read(document, raw)
    assert len(str(told.value)) < 500


def test_a_layer_of_an_unknown_part_or_set_is_refused(document):
    raw = as_file(document)
    for layer in ({"stitch_set": "walls", "part": "Attic"}, {"stitch_set": "none", "part": "Tops"}):
        bad = json.loads(json.dumps(raw))
        bad["project"]["grounds"][0]["layers"].append({"id": "x", "name": "X", "kind": "onto", **layer})
        with pytest.raises(BadProject, match="layer “X”"):
            read(document, bad)


def test_a_saved_set_is_read_as_it_was(document):
    add_part(document, "walls", "Tops")
    walls = document.project.stitch_sets[0]
    one = replace(
        walls.stitches[0], name="Front", group="G", chance=12.5, apart=2, turns=True, as_drawn=True,
        forms={1: (Piece(tile(3, 3), onto="Tops", down=-1),)},
    )  # fmt: skip
    changed = replace(with_stitches(walls, one, *walls.stitches[1:]), otherwise={1: Piece(tile(4, 3))})
    put_set(document, "x", changed)
    again = read(document, as_file(document)).project
    assert again.stitch_sets == document.project.stitch_sets
    assert [type(layer) for layer in again.grounds[0].layers].count(OntoLayer) == 1
    assert any(isinstance(layer, StitchedLayer) for layer in again.grounds[0].layers)


def test_what_many_courses_would_take_in_memory_is_told_before_it_is_taken(document):
    raw = as_file(document)
    raw["project"]["stitch_sets"][0]["courses"] = [{"name": f"C{n}"} for n in range(16)]
    ground = raw["project"]["grounds"][0]
    ground["width"] = ground["height"] = 4096
    ground["layers"] = [{"id": f"l{n}", "name": "L", "kind": "stitched", "stitch_set": "walls"} for n in range(4)]
    raw["maps"] = {}
    with pytest.raises(BadProject, match="GiB of memory"):
        read(document, raw)
