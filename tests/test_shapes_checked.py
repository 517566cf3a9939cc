"""Collision shapes that are nearly right are found, and snapped."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.check.check import Finding
from knitground.core.edits.mending import mend
from knitground.core.edits.notes import set_collision
from knitground.core.edits.snapping import snap_shapes, would_snap
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.tiles.faults import NEAR, gap_between, reaches, snapped_to_borders, sticks_out
from knitground.core.tiles.notes import Point
from making import SIDE, make_document

SIZE = (SIDE, SIDE)


def box(left: float, top: float, right: float, bottom: float) -> tuple[tuple[Point, ...], ...]:
    return ((Point(left, top), Point(right, top), Point(right, bottom), Point(left, bottom)),)


def kinds(document: Document) -> set[str]:
    return {one.kind for one in all_findings(Derived(document)) if one.stage == "sheet" or "variants" in one.kind}


def shaped(first, second) -> Document:
    """Two tiles of a join set with a shape each."""
    document = make_document()
    one, other = list(document.project.join_sets[0].labels)[:2]
    set_collision(document, {one: first, other: second})
    return document


NEARLY_RIGHT = pytest.mark.parametrize(
    ("first", "second", "says"),
    [
        (box(2, 0, 6.5, 8), "whole", "gap between shapes"),
        (box(0, 3, 8, 8), box(0, 4.5, 8, 8), "step between shapes"),
        (box(0, 4, 9, 8), "whole", "shape sticks out"),
        (box(3, 3, 3.5, 7), "whole", "sliver"),
    ],
)


@NEARLY_RIGHT
def test_what_is_nearly_right_is_a_finding(first, second, says):
    document = shaped(first, second)
    assert says in kinds(document)
    document.undo()
    assert kinds(document) == set()


def test_shapes_that_are_right_and_single_things_are_no_findings():
    assert kinds(shaped(box(0, 4, 8, 8), box(0, 0, 8, 8))) == set()
    document = make_document()
    sets = document.project.join_sets, document.project.stitch_sets
    named = {ref for one in sets[0] for ref in one.labels} | {ref for one in sets[1] for ref in one.refs}
    lone = next(ref for ref in Derived(document).all_tiles() if ref not in named)
    set_collision(document, {lone: box(1, 1, 7, 7)})
    assert kinds(document) == set()


@NEARLY_RIGHT
def test_what_is_nearly_right_is_mended_at_once_and_only_once(first, second, says):
    document = shaped(first, second)
    before = document.project.tiles
    found = next(one for one in all_findings(Derived(document)) if one.kind == says)
    assert mend(document, found) > 0
    assert says not in kinds(document)
    with pytest.raises(BadRequest, match="Nothing is left"):
        mend(document, found)
    document.undo()
    assert document.project.tiles == before


def test_variants_are_let_block_as_most_of_them_do():
    document = make_document()
    join_set = document.project.join_sets[0]
    one, other, third = list(join_set.labels)[:3]
    labels = {**join_set.labels, other: join_set.labels[one], third: join_set.labels[one]}
    sets = (replace(join_set, labels=labels), *document.project.join_sets[1:])
    document.define("variants", replace(document.project, join_sets=sets))
    set_collision(document, {one: "whole", third: "whole"})
    found = next(one for one in all_findings(Derived(document)) if one.kind == "variants block differently")
    mend(document, found)
    assert document.project.tiles[other].collision == "whole"
    assert "variants block differently" not in kinds(document)


def test_what_cannot_be_mended_at_once_says_how_to():
    with pytest.raises(BadRequest, match="by a path"):
        mend(make_document(), Finding("route", "ground", "no way", "ground", mend="Lay it by a path."))


def test_variants_that_block_differently_are_a_finding():
    document = make_document()
    join_set = document.project.join_sets[0]
    one, other = list(join_set.labels)[:2]
    labels = {**join_set.labels, other: join_set.labels[one]}
    sets = (replace(join_set, labels=labels), *document.project.join_sets[1:])
    document.define("variants", replace(document.project, join_sets=sets))
    assert kinds(document) == set()
    set_collision(document, {one: "whole"})
    assert kinds(document) == {"variants block differently"}
    set_collision(document, {other: "whole"})
    assert kinds(document) == set()


def test_snapping_mends_gaps_and_what_sticks_out_as_one_step():
    document = shaped(box(2, 0, 6.5, 9), "whole")
    sheet = document.project.sheets[0].id
    assert len(would_snap(document, sheet)) == 1
    assert snap_shapes(document, sheet) == 1
    assert kinds(document) == set()
    with pytest.raises(BadRequest, match="lie well"):
        snap_shapes(document, sheet)
    document.undo()
    assert "gap between shapes" in kinds(document)


@given(st.lists(st.tuples(*[st.integers(-4, 20).map(lambda n: n / 2)] * 2), min_size=3, max_size=6))
def test_snapping_leaves_no_gap_nothing_that_sticks_out_and_is_done_at_once(points):
    shape = (tuple(Point(*point) for point in points),)
    after = snapped_to_borders(shape, SIZE)
    assert snapped_to_borders(after, SIZE) == after
    if after != shape:
        assert not sticks_out(after, SIZE)
        assert all(one.away in (0, NEAR) or one.away > NEAR or after[0] == shape[0] for one in reaches(after, SIZE))
        found = list(reaches(after, SIZE))
        assert all(gap_between(a, b) == 0 for a in found for b in found if a.away == b.away == 0)
