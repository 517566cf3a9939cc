"""Mixes of tiles, blocks, turned tiles and other mixes: what falls, whole, by weight, and the same in every window."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.blocks import lift
from knitground.core.edits.growing import grown_planes
from knitground.core.edits.keeping import keep_block, keep_tile
from knitground.core.edits.merging import moved_in
from knitground.core.edits.mixing import throw_again
from knitground.core.edits.painting import Hand, area
from knitground.core.errors import BadProject, BadRequest
from knitground.core.grid import GRIDS
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import MOST_DEEP, Mix, MixPart, holds, leaves, share_told
from knitground.core.grow.quality import repetition
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps import DressStep, FloodStep, ScatterStep
from knitground.core.grow.thrown import Cell, Throw, singles_of, throw_of, thrown
from knitground.core.layers.mixed import MixLayer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import make_document, plane_of, poke, tile

BOX = tuple(Cell(down, across, 10 + 3 * down + across) for down in (0, 1) for across in (0, 1, 2))
HOOK = (Cell(-1, 0, 20), Cell(0, 0, 21), Cell(0, 1, 22))
THROW = Throw(((Cell(0, 0, 1),), (Cell(0, 0, 2),), BOX, HOOK), (6.0, 2.0, 1.0, 1.0))


def ground(grid: str = "square", size: tuple[int, int] = (24, 30), wraps: bool = False) -> Ground:
    return Ground("g", "G", size[1], size[0], 32, 16, grid=grid, wraps_x=wraps, wraps_y=wraps)


def whole_pieces(board, codes: np.ndarray) -> None:
    """Every cell of a block has all others of its block round it."""
    for piece in (BOX, HOOK):
        for cell in piece:
            ys, xs = board.flat("cells", *np.nonzero(codes == cell.code))
            for other in piece:
                rows, columns = board.stored("cells", ys + other.down - cell.down, xs + other.across - cell.across)
                rows, columns = rows % board.height, columns % board.width
                assert (codes[rows, columns] == other.code).all()


@pytest.mark.parametrize("wraps", [False, True])
@pytest.mark.parametrize("grid", [grid for grid, kind in GRIDS.items() if kind.outline != "hexagon"])
@given(seed=st.integers(0, 2**32 - 1), free=st.integers(0, 99))
@settings(max_examples=12)
def test_blocks_lie_whole_in_free_cells_and_a_window_is_a_part_of_the_whole(grid, wraps, seed, free):
    board = ground(grid, wraps=wraps).board
    may = np.random.default_rng(free).random((24, 30)) < (1.0 if free < 20 else 0.9)
    codes = thrown(THROW, seed, board, board.whole, may)
    whole_pieces(board, codes)
    assert ((codes == -1) == ~may).all()
    assert {10, 20} <= set(np.unique(codes).tolist())
    part = CellRect(seed % 9, seed % 13, 8, 11)
    assert np.array_equal(thrown(THROW, seed, board, part, may), codes[part.rows, part.columns])
    at = np.random.default_rng(free + 1).random((24, 30)) < 0.2
    strewn = thrown(THROW, seed, board, board.whole, may, at)
    whole_pieces(board, strewn)
    singles = (strewn > 0) & (strewn < 10)
    assert not (singles & ~(at & may)).any()


def test_blocks_come_nearly_as_often_as_they_are_weighed_where_they_are_rare():
    board = ground(size=(300, 300)).board
    rare = Throw(((Cell(0, 0, 1),), BOX), (199.0, 1.0))
    codes = thrown(rare, 5, board, board.whole)
    assert (codes == 10).sum() / codes.size == pytest.approx(1 / 200, rel=0.1)
    only = thrown(Throw((BOX,), (1.0,)), 5, board, board.whole)
    assert set(np.unique(only).tolist()) == {-1, *(cell.code for cell in BOX)}
    whole_pieces(board, only)
    assert (only == 10).mean() * len(BOX) > 0.4


def test_a_block_that_would_meet_itself_round_a_small_ground_does_not_fall():
    board = ground(size=(3, 30), wraps=True).board
    assert (thrown(Throw((BOX,), (1.0,)), 1, board, board.whole) == -1).all()


def shed_codes(document: Document) -> np.ndarray:
    return np.array([[document.palette.code(tile(column, row)) for column in (1, 2, 3)] for row in (1, 2)])


def with_block() -> Document:
    document = make_document(30, 24)
    poke(document, "things", "cells", np.s_[0:2, 0:3], shed_codes(document))
    shape = Shape(CellRect(0, 0, 2, 3), np.ones((2, 3), dtype=bool))
    block, _ = lift(document.project.grounds[0], document.state.planes["ground"], ["things"], shape)
    poke(document, "things", "cells", np.s_[:], 0)
    keep_block(document, block, "Shed")
    keep_tile(document, tile(7, 3), 5, "Turned")
    inner = Mix("i", "Inner", (MixPart(tile(5, 3), 3), MixPart(None, 1)))
    outer = Mix(
        "m", "M", (MixPart(tile(2, 3), 4), MixPart(None, 4, mix="i"), MixPart(None, 1, swatch="shed"),
                   MixPart(None, 1, swatch="turned")),
    )  # fmt: skip
    document.define("mixes", replace(document.project, mixes=(inner, outer)))
    return document


def test_a_mix_in_a_mix_shares_its_weight():
    document = with_block()
    mix = document.project.mixes[1]
    shares = {(part.tile, part.swatch): weight for part, weight in leaves(mix, document.project.mixes)}
    assert shares == {
        (tile(2, 3), ""): 4, (tile(5, 3), ""): 3, (None, ""): 1, (None, "shed"): 1, (None, "turned"): 1
    }  # fmt: skip
    throw = throw_of(mix, document.project, document.palette.code)
    assert [len(piece) for piece in throw.pieces] == [1, 1, 1, 6, 1]
    assert throw.pieces[4][0].code == document.palette.code(tile(7, 3), 5)
    # Stitches lay single tiles of a mix; the block is left out, the turned tile is not.
    assert [one[:2] for one in singles_of(mix, document.project)] == [
        (tile(2, 3), 0), (tile(5, 3), 0), (None, 0), (tile(7, 3), 5)
    ]  # fmt: skip
    assert share_told(mix, 2, 1000) == "about 1 in 10 cells, some 100 on this ground"


def shed_is_whole(document: Document, codes: np.ndarray) -> int:
    """How many sheds lie there, each of them whole."""
    shed = shed_codes(document)
    corners = np.argwhere(codes == shed[0, 0])
    for row, column in corners:
        assert np.array_equal(codes[row : row + 2, column : column + 3], shed)
    assert np.isin(codes, shed).sum() == 6 * len(corners)
    return len(corners)


@pytest.mark.parametrize(
    "step",
    [
        FloodStep("things", mix="m"), FloodStep("things", mix="m", alike=False),
        ScatterStep("things", mix="m", apart=2.0), DressStep("things", 1, 1.0, mix="m"),
    ],
)  # fmt: skip
def test_steps_lay_blocks_whole_and_only_where_they_may(step):
    document = with_block()
    cells = [(row, 3, 27) for row in range(4, 20)]
    planes = grown_planes(Derived(document), Recipe("r", "R", "ground", 9, (replace(step, cells=tuple(cells)),)))
    codes = np.array(planes["things"]["cells"])
    assert shed_is_whole(document, codes) > 0
    codes[4:20, 3:27] = 0
    assert not codes.any()


def test_the_brush_area_lays_blocks_whole():
    document = with_block()
    area(document, "ground", "things", Hand(mix=document.project.mixes[1]), (2.5, 2.5), (19.5, 24.5))
    codes = plane_of(document, "things", "cells")
    assert shed_is_whole(document, codes) > 0
    codes = codes.copy()
    codes[2:20, 2:25] = 0
    assert not codes.any()


def test_a_living_mix_lays_blocks_whole_where_its_terrain_lies_and_follows_it():
    document = with_block()
    project = document.project
    layer = MixLayer("live", "Live", "m", on="walls", terrain=1)
    ground = replace(project.grounds[0], layers=(*project.grounds[0].layers, layer))
    planes = {**document.state.planes["ground"], "live": layer.blank(ground.board, project)}
    document.define("live", replace(project, grounds=(ground,)), planes={"ground": planes})
    poke(document, "walls", "plan", np.s_[2:20, 2:25], 1)
    derived = Derived(document)
    codes = derived.knitted("ground").codes("live", ground.board.whole)
    assert shed_is_whole(document, codes) > 0
    # What is painted later reaches as far as blocks do.
    poke(document, "walls", "plan", np.s_[8:12, 9:14], 0)
    after = derived.knitted("ground").codes("live", ground.board.whole)
    assert np.array_equal(after, Derived(document).knitted("ground").codes("live", ground.board.whole))
    shed_is_whole(document, after)
    assert (after[8:12, 9:14] == 0).all()


def test_throwing_again_keeps_what_is_held_and_what_is_none_of_the_mix():
    document = with_block()
    area(document, "ground", "things", Hand(mix=document.project.mixes[1]), (0.5, 0.5), (23.5, 29.5))
    other = document.palette.code(tile(0, 0))
    poke(document, "things", "cells", np.s_[5, 5], other)
    before = plane_of(document, "things", "cells").copy()
    held = Shape(CellRect(10, 10, 4, 4), np.ones((4, 4), dtype=bool))
    derived = Derived(document)
    throw_again(derived, "ground", "things", "m", 77, held=held)
    after = plane_of(document, "things", "cells")
    assert after[5, 5] == other
    assert np.array_equal(after[10:14, 10:14], before[10:14, 10:14])
    assert (after != before).mean() > 0.3
    within = Shape(CellRect(0, 0, 6, 30), np.ones((6, 30), dtype=bool))
    throw_again(derived, "ground", "things", "m", 78, within=within)
    last = plane_of(document, "things", "cells")
    assert np.array_equal(last[6:], after[6:])
    assert not np.array_equal(last[:6], after[:6])
    document.undo()
    assert np.array_equal(plane_of(document, "things", "cells"), after)
    with pytest.raises(BadRequest, match="nothing of"):
        throw_again(derived, "ground", "things", "i", 1, within=Shape(CellRect(5, 5, 1, 1), np.ones((1, 1), bool)))


def test_circles_are_told_and_lay_nothing_endless(tmp_path):
    document = with_block()
    one, other = document.project.mixes
    assert holds("m", "i", document.project.mixes)
    assert not holds("i", "m", document.project.mixes)
    circle = (replace(one, parts=(*one.parts, MixPart(None, 1, mix="m"))), other)
    assert sum(weight for _, weight in leaves(circle[1], circle)) < 20
    chain = tuple(Mix(f"c{n}", f"C{n}", (MixPart(None, 1, mix=f"c{n + 1}"),) * 2) for n in range(MOST_DEEP + 2))
    chain = (*chain, Mix(f"c{MOST_DEEP + 2}", "End", (MixPart(tile(2, 3)),)))
    for mixes, says in ((circle, "in itself"), (chain, "too deep"), ((other,), "not there")):
        document.define("mixes", replace(document.project, mixes=mixes))
        assert len(leaves(mixes[0], mixes)) < 600
        document.save(tmp_path / says)
        with pytest.raises(BadProject, match=says):
            Document.load(tmp_path / says)


def test_merged_tiles_leave_blocks_and_mixes_in_a_mix(tmp_path):
    document = with_block()
    after = moved_in(document.project, {tile(2, 3): (tile(5, 3), 0)}).mixes[1]
    assert [(part.tile, part.mix, part.swatch) for part in after.parts] == [
        (tile(5, 3), "", ""), (None, "i", ""), (None, "", "shed"), (None, "", "turned")
    ]  # fmt: skip
    document.save(tmp_path / "kept")
    assert Document.load(tmp_path / "kept").project.mixes == document.project.mixes


def test_no_rows_are_to_be_seen_in_a_throw():
    """Over many seeds: no lattice more often than shuffles show one, neighbours alike as often as weights say."""
    board = ground(size=(96, 96)).board
    throw = Throw(tuple((Cell(0, 0, code),) for code in (1, 2, 3, 4)), (4.0, 3.0, 2.0, 1.0))
    alike = sum((weight / 10) ** 2 for weight in throw.weights)
    seen, shares = 0, []
    for seed in range(10):
        codes = thrown(throw, seed * 7919 + 5, board, board.whole)
        found = repetition(codes)
        seen += found is not None and found.peak > found.fair
        for one, other in ((codes[:, 1:], codes[:, :-1]), (codes[1:], codes[:-1]), (codes[1:, 1:], codes[:-1, :-1])):
            shares.append(float((one == other).mean()))
        # No row or column holds more of a tile than chance lets it.
        for axis in (0, 1):
            rare = (codes == 4).mean(axis=axis)
            assert abs(rare - 0.1).max() < 5 * np.sqrt(0.1 * 0.9 / 96)
    assert seen <= 1
    assert np.mean(shares) == pytest.approx(alike, abs=0.005)
    assert np.ptp(shares) < 0.05
