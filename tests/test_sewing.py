"""Stitches as they are laid, against a slow reading of what a file says of them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.joins.sets import Terrain
from knitground.core.layers.onto import OntoLayer
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.stitches.charts import chart_of
from knitground.core.stitches.rules import Course, Piece, Places, Stitch, StitchSet, TileSign, View
from knitground.core.tiles.notes import TileNotes
from making import CORNERED, make_document, plane_of, tile
from slow_stitches import Slow, seed_of

MARKS = (Terrain("Wall", "W", "#808080"), Terrain("Door", "D", "#a06040"))
VIEWS = (
    View("Cover", "painted", "areas"),
    View(
        "Things", "tiles", signs=(TileSign("Low", "L", (tile(0, 3), tile(1, 3))), TileSign("Odd", "O", tags=("odd",)))
    ),
    View("So far", "laid", "Tops", (TileSign("Odd", "O", tags=("odd",)),)),
    View("Own so far", "laid", "", (TileSign("Low", "L", tuple(tile(n, 0) for n in range(6))),)),
)
MOST = {"": 2, "Cover": 2, "Things": 2, "So far": 1, "Own so far": 1}
JSON = TypeAdapter(StitchSet)
NOTES = {tile(n, row): TileNotes(tags=("odd",)) for n in range(1, 16, 2) for row in range(4)}
MIX = Mix("mix", "Mix", (MixPart(tile(0, 0), 2), MixPart(tile(1, 0), 1), MixPart(None, 1)))
patient = settings(deadline=None, suppress_health_check=list(HealthCheck), max_examples=20)


def a_word(draw, of, middle=False):
    if draw.random() < 0.25 and not middle:
        return draw.choice("V-")
    parts = [str(draw.randint(0, MOST[of])) for _ in range(draw.choice((1, 1, 1, 2)))]
    parts = [part + "~" if of and draw.random() < 0.4 else part for part in parts]
    parts += ["x"] if draw.random() < 0.1 else []
    return ("!" if draw.random() < 0.2 else "") + "/".join(parts)


def a_chart(draw, of):
    rows, columns = (draw.choice((1, 3, 3, 3, 5)) for _ in range(2))
    words = [["."] * columns for _ in range(rows)]
    for _ in range(draw.randint(0, 3)):
        words[draw.randrange(rows)][draw.randrange(columns)] = a_word(draw, of)
    if not of and draw.random() < 0.8:
        words[rows // 2][columns // 2] = a_word(draw, of, middle=True)
    return chart_of(words, of)


def a_piece(draw):
    onto = draw.choice(("", "", "Tops", "Shadows"))
    at = {"down": draw.randint(-1, 1), "across": draw.randint(-1, 1)} if draw.random() < 0.4 else {}
    kind = draw.random()
    if kind < 0.15:
        return Piece(mix="mix", orientation=draw.randrange(8), onto=onto, **at)
    if kind < 0.6:
        return Piece(
            draw.choice((tile(draw.randrange(16), draw.randrange(4)), None)), draw.randrange(8), onto=onto, **at
        )
    high, wide = draw.randint(1, 3), draw.randint(1, 3)
    rows = [[draw.choice(("1", "2", "2.1", "1.6", "-")) for _ in range(wide)] for _ in range(high)]
    rows[draw.randrange(high)][draw.randrange(wide)] = "1"
    return Piece(tiles=(tile(2, 2), tile(3, 2)), rows=tuple(" ".join(row) for row in rows), onto=onto, **at)


def a_place(draw):
    return Places(draw.randint(1, 2), draw.randint(1, 3), 0, draw.randint(0, 1), draw.random() < 0.5)


def a_stitch(draw, name):
    views = [view for view in MOST if draw.random() < (0.9 if not view else 0.15)]
    pieces = tuple(a_piece(draw) for _ in range(draw.choice((0, 1, 1, 1, 2))))
    rare = draw.random
    return Stitch(
        name, tuple(a_chart(draw, of) for of in views), pieces, active=rare() > 0.05,
        chance=draw.choice((100, 100, 100, 60, 20)), apart=draw.choice((0, 0, 0, 0, 1, 2)),
        places=a_place(draw) if rare() < 0.2 else Places(),
        spares_blocks=rare() < 0.3, turns=rare() < 0.3, mirrors_x=rare() < 0.2, mirrors_y=rare() < 0.2,
        as_drawn=rare() < 0.3, forms={draw.randint(1, 7): (a_piece(draw),)} if rare() < 0.15 else {},
    )  # fmt: skip


def a_set(draw, most=5):
    courses = tuple(
        Course(
            f"Course {n}", tuple(a_stitch(draw, f"s{n}-{m}") for m in range(draw.randint(1, most))), draw.random() > 0.1
        )
        for n in range(draw.choice((1, 1, 2, 3)))
    )
    otherwise = {draw.randint(1, 2): Piece(mix="mix") if draw.random() < 0.5 else Piece(tile(15, 3))}
    return StitchSet(
        "plan", "Plan", MARKS, courses, VIEWS, ("Tops", "Shadows"), otherwise if draw.random() < 0.5 else {}
    )


def a_document(draw, stitch_set, grid, wraps, size=None) -> Document:
    width, height = size or (2 * draw.randint(2, 6), 2 * draw.randint(2, 6))
    document = make_document(width, height, grid)
    ground = replace(document.project.grounds[0], wraps_y=wraps[0], wraps_x=wraps[1])
    added = StitchedLayer("plan", "Plan", "plan"), OntoLayer("tops", "Tops", "plan", "Tops"), OntoLayer(
        "shadows", "Shadows", "plan", "Shadows"
    )  # fmt: skip
    sets = (*document.project.stitch_sets, stitch_set)
    ground = replace(ground, layers=(*ground.layers, *added))
    project = replace(document.project, stitch_sets=sets, mixes=(MIX,), tiles=NOTES)
    planes = {layer.id: layer.blank(ground.board, project) for layer in ground.layers}
    random = np.random.Generator(np.random.PCG64(draw.randrange(2**32)))
    planes["plan"] = {"plan": Plane.of(random.choice(3, (height, width), p=(0.3, 0.5, 0.2)).astype(np.uint8))}
    corners = planes["areas"]["corners"].shape
    planes["areas"] = {"corners": Plane.of(random.choice((1, 2), corners, p=(0.7, 0.3)).astype(np.uint8))}
    codes = [0, *(document.palette.code(tile(n, 3)) for n in range(4))]
    planes["things"] = {"cells": Plane.of(random.choice(codes, (height, width)).astype(np.int32))}
    document.define("set", replace(project, grounds=(ground,)), planes={"ground": planes})
    return document


def laid_slowly(derived: Derived) -> Slow:
    document = derived.document
    ground = document.project.grounds[0]
    stitch_set = next(one for one in document.project.stitch_sets if one.id == "plan")
    board, palette = ground.board, document.palette
    corners, things = plane_of(document, "areas", "corners"), plane_of(document, "things", "cells")

    def signs(view, ref):
        return {
            number for number, sign in enumerate(view.signs, 1)
            if ref in sign.tiles or (ref in NOTES and set(sign.tags) & set(NOTES[ref].tags))
        } if ref else {0}  # fmt: skip

    def cover(row, column, slow):
        y, x = board.flat("cells", row, column)
        found = set()
        for down, right in ((0, 0), (0, 1), (1, 0), (1, 1)):
            at = [int(n) for n in board.stored("corners", y + down, x + right)]
            at[0] = at[0] % ground.height if ground.wraps_y else at[0]
            at[1] = at[1] % ground.width if ground.wraps_x else at[1]
            found.add(int(corners[tuple(at)]))
        return found, found if len(found) == 1 else set(), found

    def on_things(row, column, slow):
        code = int(things[row, column])
        ref = palette.ref(code) if code else None
        return ref, signs(VIEWS[1], ref), signs(VIEWS[1], ref)

    def so_far(view):
        def look(row, column, slow):
            ref = (slow.before[view.of].get((row, column)) or (None, 0))[0]
            return ref, signs(view, ref), signs(view, ref)

        return look

    seen = {"Cover": cover, "Things": on_things, "So far": so_far(VIEWS[2]), "Own so far": so_far(VIEWS[3])}
    mixes = {"mix": [(part.tile, part.weight) for part in MIX.parts]}

    def code(ref, orientation):
        if ref is None:
            return None
        column, row = (ref if not isinstance(ref, str) else tile(*map(int, ref.split("/")[-1].split(","))))[-2:]
        return tile(column, row), orientation

    written = JSON.dump_python(stitch_set, mode="json")
    seed = seed_of(document.project.seed, "plan")
    return Slow(written, plane_of(document, "plan", "plan"), board, seed, seen, mixes, code).run()


def look_at(document, codes):
    """What cell codes say, cell by cell."""
    palette = document.palette

    def one(code):
        return "gap" if code < 0 else (palette.ref(code & 0xFFFFFF), code >> 24) if code else None

    return {(row, column): one(int(codes[row, column])) for row, column in np.ndindex(codes.shape)}


def as_laid(derived: Derived) -> dict[str, dict]:
    knitted = derived.knitted("ground")
    whole = knitted.ground.board.whole
    return {part: look_at(derived.document, knitted.codes(layer, whole)) for layer, part in LAYERS.items()}


LAYERS = {"plan": "", "tops": "Tops", "shadows": "Shadows"}


def as_expected(slow: Slow) -> dict[str, dict]:
    return {part: {cell: slow.laid[part].get(cell) for cell in slow.cells()} for part in slow.parts}


@pytest.mark.parametrize("grid", CORNERED)
@given(draw=st.randoms(use_true_random=False), wraps=st.tuples(st.booleans(), st.booleans()))
@patient
def test_what_is_laid_is_what_the_rules_say(grid, draw, wraps):
    derived = Derived(a_document(draw, a_set(draw), grid, wraps))
    assert as_laid(derived) == as_expected(laid_slowly(derived))


@pytest.mark.parametrize("grid", CORNERED)
@given(draw=st.randoms(use_true_random=False), wraps=st.tuples(st.booleans(), st.booleans()))
@settings(patient, max_examples=6)
def test_laying_anew_what_an_edit_reaches_is_as_laying_all(grid, draw, wraps):
    size = 2 * draw.randint(4, 12), 2 * draw.randint(4, 12)
    document = a_document(draw, a_set(draw), grid, wraps, size)
    derived = Derived(document)
    before = as_laid(derived)
    for _ in range(4):
        layer = draw.choice(("plan", "plan", "areas", "things"))
        name = {"plan": "plan", "areas": "corners", "things": "cells"}[layer]
        plane = document.state.planes["ground"][layer][name]
        rows, columns = plane.shape
        rect = CellRect(draw.randrange(rows), draw.randrange(columns), draw.randint(1, 3), draw.randint(1, 3))
        value = draw.randint(0, 2) if layer == "plan" else draw.randint(1, 2)
        after = plane.written(rect.inside(CellRect(0, 0, rows, columns)), value)
        document.put_planes("paint", "ground", {layer: {name: after}})
        reached = derived.reached
        now = as_laid(derived)
        assert now == as_laid(Derived(document))
        for layer_id, part in LAYERS.items():
            for cell in before[part]:
                if now[part][cell] != before[part][cell]:
                    assert any(one.layer == layer_id and one.cells.holds(*cell) for one in reached)
        before = now
