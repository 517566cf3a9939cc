"""Kinds of shapes: each is drawn, checked, snapped, mended and delivered alike, and only feet are stopped by theirs."""

import json
from dataclasses import replace

import numpy as np
import pytest

from knitground.core.deliver import EXPORTERS
from knitground.core.edits.mending import mend
from knitground.core.edits.notes import notes_of, set_collision, set_walkable
from knitground.core.edits.shape_kinds import add_shape_kind, change_shape_kind, remove_shape_kind
from knitground.core.edits.snapping import snap_shapes, would_snap
from knitground.core.errors import BadProject, BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.tiles.notes import Point, TileNotes
from knitground.core.tiles.shape_kinds import FEET, MOST_KINDS, SIGHT
from knitground.core.walk.solid import Solids
from making import SIDE, make_document, poke, tile
from test_shapes_checked import box

GAP = box(2, 0, 6.5, 8)


def joined(document: Document):
    return list(document.project.join_sets[0].labels)[:2]


@pytest.fixture
def document() -> Document:
    return make_document()


def test_kinds_are_made_named_coloured_and_taken_out_with_their_shapes(document):
    kind = add_shape_kind(document, "Stops arrows")
    change_shape_kind(document, kind, name="Stops bees", colour="#123456")
    assert [(one.name, one.colour) for one in document.project.shape_kinds][2] == ("Stops bees", "#123456")
    set_collision(document, {tile(1, 1): "whole"}, kind)
    set_collision(document, {tile(1, 1): GAP}, SIGHT)
    assert remove_shape_kind(document, kind) == 1
    assert notes_of(document, tile(1, 1)) == TileNotes(shapes={SIGHT: GAP})
    document.undo()
    assert notes_of(document, tile(1, 1)).shape(kind) == "whole"
    for usual in (FEET, SIGHT):
        with pytest.raises(BadRequest, match="stays"):
            remove_shape_kind(document, usual)
    with pytest.raises(BadRequest, match="needs a name"):
        add_shape_kind(document, "  ")
    for number in range(MOST_KINDS - 3):
        add_shape_kind(document, f"Kind {number}")
    with pytest.raises(BadRequest, match="the most"):
        add_shape_kind(document, "One more")


def test_a_tile_of_which_only_shapes_were_said_is_plain_again_without_them(document):
    set_collision(document, {tile(1, 1): "whole"}, SIGHT)
    set_collision(document, {tile(1, 1): "none"}, SIGHT)
    assert tile(1, 1) not in document.project.tiles


@pytest.mark.parametrize("kind", [FEET, SIGHT])
def test_what_is_nearly_right_is_found_snapped_and_mended_in_any_kind(document, kind):
    one, other = joined(document)
    set_collision(document, {one: GAP, other: "whole"}, kind)
    found = [each for each in all_findings(Derived(document)) if each.kind == "gap between shapes"]
    assert [each.shape_kind for each in found] == [kind]
    assert ("(stops sight)" in found[0].sentence) == (kind == SIGHT)
    assert set(would_snap(document, one.sheet)) == {(one, kind)}
    assert mend(document, found[0]) == 1
    mended = notes_of(document, one).shape(kind)
    document.undo()
    assert snap_shapes(document, one.sheet) == 1
    assert notes_of(document, one).shape(kind) == mended
    assert not would_snap(document, one.sheet)


def test_mending_one_kind_leaves_the_others_alone(document):
    one, other = joined(document)
    set_collision(document, {one: GAP, other: "whole"}, SIGHT)
    set_collision(document, {one: box(2, 0, 6.5, 8)}, FEET)
    found = next(each for each in all_findings(Derived(document)) if each.shape_kind == SIGHT)
    mend(document, found)
    assert notes_of(document, one).collision == GAP


def test_each_kind_has_its_own_union_and_only_feet_mind_what_cannot_be_walked_on(document):
    codes = [document.palette.code(ref) for ref in (tile(1, 1), tile(2, 1), tile(3, 1))]
    poke(document, "things", "cells", np.s_[:], 0)
    poke(document, "things", "cells", np.s_[2, 2:5], codes)
    set_collision(document, {tile(1, 1): "whole"}, FEET)
    set_collision(document, {tile(2, 1): box(0, 0, 4, 8)}, SIGHT)
    set_walkable(document, [tile(3, 1)], False)
    area = PixelRect(0, 0, 200, 200)
    unions = {kind: Solids(Derived(document), "ground", kind).union(area) for kind in (FEET, SIGHT)}
    assert unions[FEET].area == 2 * SIDE * SIDE
    assert unions[SIGHT].bounds == (3 * SIDE, 2 * SIDE, 3 * SIDE + 4, 3 * SIDE)


def test_all_kinds_are_delivered_turned_as_their_tile_is(document, tmp_path):
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(1, 1), 1))
    set_collision(document, {tile(1, 1): box(0, 0, 4, 8)}, SIGHT)
    set_collision(document, {tile(1, 1): "whole"})
    EXPORTERS["json"].write(Derived(document), "ground", tmp_path / "map.json")
    held = json.loads((tmp_path / "map.json").read_text())
    (said,) = [one for one in held["tiles"].values() if "shapes" in one]
    assert said["collision"] == "whole"
    assert {tuple(point) for point in said["shapes"][SIGHT][0]} == {(0, 0), (8, 0), (8, 4), (0, 4)}
    assert held["shape_kinds"] == {SIGHT: {"name": "Stops sight", "colour": "#5b55a8"}}


def test_kinds_are_kept_and_a_file_that_names_others_is_refused(document, tmp_path):
    kind = add_shape_kind(document, "Stops arrows")
    set_collision(document, {tile(1, 1): GAP}, kind)
    document.save(tmp_path / "kept")
    again = Document.load(tmp_path / "kept")
    assert again.project.shape_kinds == document.project.shape_kinds
    assert notes_of(again, tile(1, 1)).shapes == {kind: GAP}
    path = tmp_path / "kept" / "knitground.json"
    whole = path.read_text()
    for old, new in ((f'"{kind}": [', '"gone": ['), ('"id": "sight"', '"id": "light"')):
        assert old in whole
        path.write_text(whole.replace(old, new))
        with pytest.raises(BadProject, match=r"kinds? "):
            Document.load(tmp_path / "kept")


def test_older_files_have_the_usual_kinds(document, tmp_path):
    document.save(tmp_path / "kept")
    path = tmp_path / "kept" / "knitground.json"
    raw = json.loads(path.read_text())
    del raw["project"]["shape_kinds"]
    raw["version"] = 8
    path.write_text(json.dumps(raw))
    assert [one.id for one in Document.load(tmp_path / "kept").project.shape_kinds] == [FEET, SIGHT]


def test_a_shape_of_no_kind_is_none():
    notes = TileNotes(collision=(tuple(map(Point._make, ((0, 0), (8, 0), (8, 8)))),))
    assert notes.shape("gone") == "none"
    assert replace(notes, collision="none").all_shapes() == {}
