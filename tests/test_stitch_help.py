"""What helps in writing stitches: proofs, tables of neighbourhoods, stitches out of examples and out of joins."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.edits.examples import shape_of, stitches_from, stitches_of_joins
from knitground.core.edits.plans import planned
from knitground.core.edits.selecting import Selected, boxed
from knitground.core.edits.stitching import put_set
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.square import SquareBoard
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.proofing import LAYER, proof_of_stitches
from knitground.core.stitches.audit import dead_stitches
from knitground.core.stitches.charts import chart_of
from knitground.core.stitches.neighbourhoods import neighbourhoods
from knitground.core.stitches.rules import Piece, Stitch, StitchSet, around
from knitground.core.tiles.tile import TileRef
from making import DEMO, make_document, one_course, poke, tile
from test_sewing import NOTES, VIEWS, a_chart

MARKS = (Terrain("Wall", "W", "#808080"), Terrain("Door", "D", "#a06040"))


def documented(stitch_set: StitchSet):
    document = make_document()
    document.define("set", replace(document.project, stitch_sets=(*document.project.stitch_sets, stitch_set)))
    return document


def fires(knitted) -> set[int]:
    """The stitches that fire somewhere on a ground of one plan, by their places in the set."""
    table = knitted.tables[LAYER]
    more = knitted.laid(LAYER, knitted.ground.board.whole).more
    found = set()
    for course, fired in zip(table.courses, more[table.parts - 1 :], strict=True):
        found |= {course.numbers[course.variants[n - 1].stitch] for n in np.unique(fired[fired > 0]).tolist()}
    return found


@given(draw=st.randoms(use_true_random=False), count=st.integers(1, 8))
@settings(deadline=None, max_examples=60)
def test_on_the_proof_every_stitch_that_can_fire_does(draw, count):
    stitches = [
        Stitch(f"s{n}", (a_chart(draw, ""),), (Piece(tile(n, 0)),), chance=draw.choice((100, 100, 5)))
        for n in range(count)
    ]
    derived = Derived(documented(one_course("p", "P", MARKS, *stitches)))
    knitted, proof = proof_of_stitches(derived, derived.document.project.stitch_sets[-1])
    sure = [replace(one, chance=100.0) for one in stitches]
    alone = Derived(documented(one_course("p", "P", MARKS, *sure)))
    dead = {one.index for one in dead_stitches(alone.table(alone.document.project.stitch_sets[-1]))}
    assert set(range(count)) - dead - set(proof.lacking) <= fires(knitted)
    # One that others hide when they are sure may fire where they do so by chance.
    hidden = {one.index for one in dead_stitches(derived.table(derived.document.project.stitch_sets[-1]))}
    assert not fires(knitted) & hidden
    # Off the map lies what stands at the border, which may be more than a sign off the map and a mark allow together;
    # such a sign of an earlier stitch, too, may lead to an arrangement that no plan can give.
    signs = [any("x" in row for row in one.charts[0].rows) for one in stitches]
    assert all(any(signs[: number + 1]) for number in proof.lacking)


def test_the_proof_of_the_demo_holds_all_its_stitches():
    derived = Derived(Document.load(DEMO))
    for stitch_set in derived.document.project.stitch_sets:
        knitted, proof = proof_of_stitches(derived, stitch_set)
        assert fires(knitted) == set(range(len(stitch_set.stitches)))
        assert proof.lacking == (), "also those that look at the cover"
        assert knitted.ground.width * knitted.ground.height < 40_000


@given(plan=hnp.arrays(np.uint8, st.tuples(st.integers(1, 9), st.integers(1, 9)), elements=st.integers(0, 2)))
def test_neighbourhoods_are_told_as_one_counts_them(plan):
    board = SquareBoard(*plan.shape)
    plane = Plane.of(plan)
    unmet = (plan == 2).astype(np.uint8)
    codes = plan.astype(np.int32)
    found = neighbourhoods(board, lambda area: board.read(plane, area), codes, unmet, board.whole)
    padded = np.pad(plan, 1, mode="edge")
    counted: dict[tuple[int, ...], int] = {}
    for row, column in product(*map(range, plan.shape)):
        if plan[row, column]:
            marks = tuple(padded[row : row + 3, column : column + 3].ravel().tolist())
            counted[marks] = counted.get(marks, 0) + 1
    assert {one.marks: one.cells for one in found} == counted
    for one in found:
        assert tuple(padded[one.row : one.row + 3, one.column : one.column + 3].ravel().tolist()) == one.marks
        assert one.untaken == (one.cells if one.marks[4] == 2 else 0)
    assert [one.untaken > 0 for one in found] == sorted((one.untaken > 0 for one in found), reverse=True)


def laid_by(stitches, plan: np.ndarray) -> np.ndarray:
    derived = Derived(documented(one_course("p", "P", MARKS, *stitches)))
    knitted = planned(derived, derived.document.project.stitch_sets[-1], plan)
    codes = knitted.codes("plan", knitted.ground.board.whole)

    def name(code: int) -> str:
        return "gap" if code < 0 else str(derived.document.palette.ref(code)) if code else "bare"

    return np.array([[name(int(code)) for code in row] for row in codes.tolist()])


@given(
    plan=hnp.arrays(np.uint8, (7, 9), elements=st.integers(0, 2)),
    rules=st.lists(st.tuples(st.integers(1, 2), st.text("V-....", min_size=8, max_size=8)), min_size=1, max_size=5),
)
@settings(deadline=None, max_examples=50)
def test_stitches_out_of_an_example_lay_the_example(plan, rules):
    original = [around(f"o{n}", mark, chart, tile(n, 0)) for n, (mark, chart) in enumerate(rules)]
    document = documented(one_course("p", "P", MARKS, *original))
    whole = np.zeros((15, 20), dtype=np.uint8)
    whole[:7, :9] = plan
    sets = document.project.stitch_sets
    put_set(document, "x", replace(sets[0], marks=MARKS))
    poke(document, "walls", "plan", np.s_[:, :], whole)
    wanted = laid_by(original, whole)
    codes = np.array([
        [0 if one in ("bare", "gap") else document.palette.code(TileRef.parse(one)) for one in row]
        for row in wanted.tolist()
    ])  # fmt: skip
    poke(document, "things", "cells", np.s_[:, :], codes)
    derived = Derived(document)
    selected = Selected("ground", boxed(document.project.grounds[0].board, (0.5, 0.5), (14.5, 19.5)))
    if not whole.any():
        with pytest.raises(BadRequest, match="bears a mark"):
            stitches_from(derived, selected, "walls", "things")
        return
    found = stitches_from(derived, selected, "walls", "things")
    again = laid_by([one.stitch for one in found], whole)
    assert (again == np.where(wanted == "gap", "bare", wanted)).all()
    cells = sorted(cell for one in found for cell in one.cells)
    assert cells == sorted(map(tuple, np.argwhere(whole).tolist()))
    assert all(shape_of(one).mask.sum() == len(one.cells) for one in found)


def test_without_a_selection_no_example_can_be_had():
    with pytest.raises(BadRequest, match="Select a piece"):
        stitches_from(Derived(make_document()), None, "walls", "things")


@pytest.mark.parametrize("kind", ["edge", "cell", "corner"])
@given(plan=hnp.arrays(np.uint8, (6, 7), elements=st.integers(0, 1)))
@settings(deadline=None, max_examples=25)
def test_a_join_set_as_stitches_shows_what_its_tiles_show(kind, plan):
    size = {"edge": 4, "corner": 4, "cell": 8}[kind]
    rows = list(product((0, 1), repeat=size))
    if kind == "cell":
        rows = [row for row in rows if all(not row[c] or (row[4 + c - 1 if c else 7] and row[4 + c]) for c in range(4))]
        rows = [(*row, 1) for row in rows]
    labels = {tile(n % 16, n // 16): row for n, row in enumerate(rows) if any(row)}
    join_set = JoinSet("j", "J", kind, MARKS[:1], True, labels)
    laid = laid_by(stitches_of_joins(join_set, 1, 1), plan)
    padded = np.pad(plan, 1, mode="edge") == 1
    for row, column in np.argwhere(plan).tolist():
        near = padded[row : row + 3, column : column + 3]
        sides = tuple(int(near[at]) for at in ((0, 1), (1, 2), (2, 1), (1, 0)))
        corners = tuple(int(near[at].all()) for at in (np.s_[:2, :2], np.s_[:2, 1:], np.s_[1:, 1:], np.s_[1:, :2]))
        wanted = {"edge": sides, "corner": corners, "cell": (*corners, *sides, 1)}[kind]
        expected = next((str(ref) for ref, one in labels.items() if one == wanted), "gap")
        assert laid[row, column] == expected


def test_the_whole_cell_rect_is_where_a_proposal_lies():
    document = make_document()
    poke(document, "walls", "plan", np.s_[2:4, 3:6], 1)
    selected = Selected("ground", boxed(document.project.grounds[0].board, (0.5, 0.5), (14.5, 19.5)))
    found = stitches_from(Derived(document), selected, "walls", "things")
    assert [one.stitch.pieces for one in found] == [()], "cells that stay bare are a stitch, too"
    assert shape_of(found[0]).window == CellRect(2, 3, 2, 3)
    assert found[0].stitch.charts == (chart_of(((".",) * 3, (".", "1", "."), (".",) * 3)),)


@given(draw=st.randoms(use_true_random=False), count=st.integers(1, 5))
@settings(deadline=None, max_examples=40)
def test_a_proof_shows_what_stitches_see_on_other_layers_and_says_where_it_can_not(draw, count):
    stitches = []
    for n in range(count):
        charts = [a_chart(draw, of) for of in ("", draw.choice(("Cover", "Things")))]
        stitches.append(Stitch(f"s{n}", tuple(charts), (Piece(tile(n, 0)),)))
    one = replace(one_course("p", "P", MARKS, *stitches), views=VIEWS[:2])
    document = documented(one)
    document.define("say", replace(document.project, tiles=NOTES))
    derived = Derived(document)
    knitted, proof = proof_of_stitches(derived, document.project.stitch_sets[-1])
    dead = {one.index for one in dead_stitches(derived.table(document.project.stitch_sets[-1]))}
    assert set(proof.spots) | set(proof.lacking) == set(range(count)) - dead
    assert set(proof.spots) <= fires(knitted)
    assert knitted.ground.layer(LAYER).takes_terrains_of == "stitch_sets"


def test_a_sign_for_tiles_is_shown_by_one_of_them():
    sees = Stitch("a", (chart_of((("1",),)), chart_of((("0", "1", "2"),), "Things")), (Piece(tile(9, 3)),))
    document = documented(replace(one_course("p", "P", MARKS, sees), views=VIEWS[:2]))
    document.define("say", replace(document.project, tiles=NOTES))
    knitted, proof = proof_of_stitches(Derived(document), document.project.stitch_sets[-1])
    assert (set(proof.spots), proof.lacking) == ({0}, ())
    row, column = proof.spots[0]
    shown = knitted.codes("proof of Things", CellRect(row, column - 1, 1, 3))[0]
    names = [document.palette.ref(int(code)) if code else None for code in shown]
    assert names[0] is None
    assert names[1] in (tile(0, 3), tile(1, 3))
    assert "odd" in NOTES[names[2]].tags
