"""Sets whose blocks repeat: the frames of a terrain that moves, or variants."""

import json

import numpy as np
import pytest

from calling import knitground
from knitground.core.check.frames import LAID_APART
from knitground.core.edits.animations import blocks_from, run_of
from knitground.core.edits.finding import Proposed, named_apart, propose, take_sets
from knitground.core.edits.mending import mend
from knitground.core.edits.notes import animate
from knitground.core.edits.sheets import set_cut
from knitground.core.errors import BadRequest
from knitground.core.joins.find import find_sets
from knitground.core.joins.found import FoundSet
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.parts import look_over
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png

SIDE = 16
ORDER = [0, 1, 3, 2, 5, 15, 7, 10, 4, 12, 8, 6, 9, 11, 13, 14]
CUT = TileRef("shore", "tiles", 0, 0)


def sea(frame: int, frames: int, way: str) -> np.ndarray:
    """Water, (SIDE, SIDE, 3): waves that go on, glitter that is elsewhere in each frame, or all of it brighter."""
    ys, xs = np.mgrid[0:SIDE, 0:SIDE]
    water = np.full((SIDE, SIDE, 3), (38, 92, 150))
    if way == "waves":
        phase = 2 * np.pi * (xs / SIDE + frame / frames) + 1.5 * np.sin(2 * np.pi * ys / SIDE)
        water[np.cos(phase) > 0.75] = (120, 180, 220)
    elif way == "glitter":
        water[np.random.default_rng(frame).random((SIDE, SIDE)) < 0.08] = (200, 225, 240)
    else:
        water[np.random.default_rng(0).random((SIDE, SIDE)) < 0.1] = (26, 80, 136)
        water = water + round(14 * np.sin(2 * np.pi * frame / frames))
    return water


def shore(frames: int, way: str, sand: tuple[int, int, int] = (214, 190, 130)) -> np.ndarray:
    """The tiles of a set by its corners in all frames, (F, 16, SIDE, SIDE, 4)."""
    random = np.random.default_rng(3)
    beach = np.full((SIDE, SIDE, 3), sand)
    beach[random.random((SIDE, SIDE)) < 0.1] -= 18
    ys, xs = (np.mgrid[0:SIDE, 0:SIDE] + 0.5) / SIDE
    rough = random.normal(0, 0.15, (SIDE, SIDE)) * xs * (1 - xs) * ys * (1 - ys) * 4
    tiles = np.full((frames, 16, SIDE, SIDE, 4), 255, np.uint8)
    for number in range(16):
        nw, ne, sw, se = (number >> place & 1 for place in range(4))
        depth = nw * (1 - xs) * (1 - ys) + ne * xs * (1 - ys) + sw * (1 - xs) * ys + se * xs * ys + rough
        for frame in range(frames):
            foam = np.abs(depth - 0.5) < 0.06 + 0.03 * np.sin(2 * np.pi * frame / frames)
            art = np.where((depth > 0.5)[..., None], sea(frame, frames, way), beach)
            tiles[frame, number, ..., :3] = np.where(foam[..., None], (235, 240, 235), art).clip(0, 255)
    return tiles[:, ORDER]


def laid(tiles: np.ndarray, layout: str) -> np.ndarray:
    """Tiles in cells, (rows, columns, SIDE, SIDE, 4): blocks of 4 x 4 in a line, or each tile's frames in a row."""
    frames = len(tiles)
    blocks = tiles.reshape(frames, 4, 4, SIDE, SIDE, 4)
    if layout == "beside":
        return np.concatenate(list(blocks), axis=1)
    if layout == "below":
        return np.concatenate(list(blocks), axis=0)
    if layout == "apart":
        bare = np.zeros_like(blocks[0, :, :1])
        return np.concatenate([part for block in blocks for part in (block, bare)], axis=1)
    return np.ascontiguousarray(tiles.swapaxes(0, 1))


def sets_of(cells: np.ndarray) -> list[FoundSet]:
    return find_sets(cells, cells[..., 3].any(axis=(2, 3)))


def proposed_of(cells: np.ndarray) -> list[Proposed]:
    refs = {CUT._replace(column=x, row=y): cells[y, x] for y, x in np.ndindex(cells.shape[:2]) if cells[y, x].any()}
    return propose(sets_of(cells), refs, CUT)


def sheet_of(cells: np.ndarray) -> np.ndarray:
    rows, columns = cells.shape[:2]
    return cells.swapaxes(1, 2).reshape(rows * SIDE, columns * SIDE, 4)


@pytest.mark.parametrize(
    ("layout", "way"),
    [("beside", "waves"), ("below", "waves"), ("apart", "glow"), ("each in a row", "glow"), ("beside", "glitter")],
)
def test_blocks_that_repeat_a_set_in_other_frames_are_told_as_its_frames(way, layout):
    cells = laid(shore(4, way), layout)
    (found,) = sets_of(cells)
    assert (found.moves, found.covered, len(found.cells)) == (True, 1.0, 16)
    step = {"beside": (4, 0), "below": (0, 4), "apart": (5, 0), "each in a row": (1, 0)}[layout]
    assert (np.diff(found.frames, axis=1) == step).all()
    assert {tuple(run[0]) for run in found.frames.tolist()} == {tuple(cell) for cell in found.cells.tolist()}


def test_a_set_that_is_drawn_twice_is_one_with_variants_until_it_is_said_to_move():
    (one,) = proposed_of(laid(shore(2, "glitter"), "beside"))
    assert (one.moves, len(one.frames)) == (False, 16)
    labels = one.join_set.labels
    assert len(labels) == 32 - sum(not any(row) for row in labels.values())
    assert all(labels[ref] == labels[ref._replace(column=ref.column + 4)] for ref in one.frames)
    moving = one.playing(True)
    assert set(moving.join_set.labels) == {ref for ref in labels if ref.column < 4}
    assert moving.playing(False).join_set.labels == labels


def test_a_set_in_other_colours_is_a_set_of_its_own():
    blocks = [shore(1, "waves", sand) for sand in ((214, 190, 130), (232, 238, 244), (120, 150, 60))]
    found = sets_of(laid(np.concatenate(blocks), "beside"))
    assert len(found) == 3
    assert not any(one.frames.size for one in found)


def test_who_takes_a_set_that_moves_has_its_tiles_animated_as_one_step():
    proposed = proposed_of(laid(shore(3, "waves"), "beside"))
    document = Document()
    take_sets(document, proposed)
    (join_set,) = document.project.join_sets
    assert len(join_set.labels) == 16
    for ref in join_set.labels:
        frames = document.project.tiles[ref].frames
        assert [frame.tile for frame in frames] == [ref._replace(column=ref.column + 4 * n) for n in range(3)]
    document.undo()
    assert not document.project.join_sets
    assert not document.project.tiles


@pytest.mark.parametrize("layout", ["beside", "below"])
def test_blocks_of_tiles_that_repeat_are_cut_into_tiles_and_not_into_blocks(layout):
    best = look_over(sheet_of(laid(shore(4, "waves"), layout))).guesses[0]
    assert (best.tile_width, best.tile_height) == (SIDE, SIDE)


def test_the_command_line_tells_the_frames(tmp_path):
    (tmp_path / "shore.png").write_bytes(png(sheet_of(laid(shore(4, "waves"), "beside"))))
    call = "sets", tmp_path / "shore.png", "--tile", "16x16"
    assert "corner joins of 16 tiles, each with 4 frames, columns 0 to 3, rows 0 to 3" in knitground(*call).stdout
    (told,) = json.loads(knitground(*call, "--json").stdout)
    assert told["moves"]
    assert [{"column": 4 * n, "row": 0} for n in range(4)] in told["frames"]


def test_sets_that_share_a_terrain_are_named_after_the_other_first():
    # Of several cuts, as parts of a sheet are.
    each = [proposed_of(laid(shore(1, "waves", sand), "beside")) for sand in ((214, 190, 130), (120, 150, 60))]
    proposed = named_apart([one for some in each for one in some])
    shared, *_ = set.intersection(*({one.name for one in each.join_set.terrains} for each in proposed))
    assert len({each.join_set.name for each in proposed}) == 2
    assert all(each.join_set.name.lower().endswith(f"and {shared.lower()}") for each in proposed)


def test_frames_that_are_laid_as_variants_are_told_and_taken_out_of_the_set():
    cells = laid(shore(3, "waves"), "beside")
    document = Document()
    add_sheet(document, "shore.png", png(sheet_of(cells)))
    set_cut(document, "shore", Cut("tiles", SIDE, SIDE))
    take_sets(document, [one.playing(False) for one in proposed_of(cells)])
    first = [ref for ref in document.project.join_sets[0].labels if ref.column < 4]
    runs = blocks_from(Derived(document), first, down=False)
    animate(document, {ref: run_of(run, 100) for ref, run in runs.items()})
    (finding,) = [one for one in all_findings(Derived(document)) if one.kind == LAID_APART]
    assert "32 tiles are frames of others" in finding.sentence
    assert (mend(document, finding), set(document.project.join_sets[0].labels)) == (32, set(first))
    assert not any(one.kind == LAID_APART for one in all_findings(Derived(document)))
    with pytest.raises(BadRequest, match="Nothing is left to mend"):
        mend(document, finding)
    document.undo()
    assert len(document.project.join_sets[0].labels) == 48
