"""Learning from an example: what comes out is made of what the example holds, and nothing else."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from calling import fails_with_one_sentence, knitground
from knitground.core.errors import BadRecipe
from knitground.core.grow.learning import CannotGoOn, learn, more_of, more_or_advice, turns_of, usage
from knitground.core.grow.pictured import in_tiles
from knitground.core.grow.places import places_of
from knitground.core.grow.steps import ExampleStep, NoiseStep
from knitground.core.project.derived import Derived
from knitground.core.tiles.tile import NUMBER_MASK, cell_code
from making import make_document, png, poke, sheet_of_tiles, tile
from test_steps import laid


def coast(size: int, seed: int) -> np.ndarray:
    """An example as of tiles with four corners of two terrains, (size, size) int32."""
    random = np.random.default_rng(seed)
    corners = np.repeat(np.repeat(random.integers(0, 2, (size // 3 + 2,) * 2), 3, axis=0), 3, axis=1)
    corners = corners[: size + 1, : size + 1]
    return (corners[:-1, :-1] * 8 + corners[:-1, 1:] * 4 + corners[1:, 1:] * 2 + corners[1:, :-1]).astype(np.int32)


def blocks_of(codes: np.ndarray, size: int) -> set[bytes]:
    windows = np.lib.stride_tricks.sliding_window_view(codes, (size, size))
    return {window.tobytes() for window in np.ascontiguousarray(windows).reshape(-1, size * size)}


def pairs_of(codes: np.ndarray) -> set[tuple[int, int, int]]:
    found = {(0, a, b) for a, b in zip(codes[:, :-1].ravel(), codes[:, 1:].ravel(), strict=True)}
    return found | {(1, a, b) for a, b in zip(codes[:-1].ravel(), codes[1:].ravel(), strict=True)}


@settings(deadline=None, max_examples=15)
@given(seed=st.integers(0, 1000), wraps=st.booleans())
def test_what_lies_side_by_side_lies_so_in_the_example(seed, wraps):
    example = coast(14, seed)
    try:
        made = more_of(learn([example]), 30, 25, seed, wraps=wraps)
    except BadRecipe:
        assert wraps  # not every example can go round
        return
    assert made.shape == (30, 25)
    seen = np.pad(made, ((0, 1), (0, 1)), mode="wrap") if wraps else made
    assert pairs_of(seen) <= pairs_of(example)


@pytest.mark.parametrize("size", [2, 3])
@pytest.mark.parametrize("wraps", [False, True])
def test_every_block_is_one_of_the_example(size, wraps):
    example = coast(16, 5)
    made = more_of(learn([example], size), 40, 33, 2, wraps=wraps)
    seen = np.pad(made, ((0, size - 1), (0, size - 1)), mode="wrap") if wraps else made
    assert blocks_of(seen, size) <= blocks_of(example, size)


def test_a_given_piece_stays():
    example = coast(16, 5)
    given_codes = np.full((20, 20), -1, dtype=np.int32)
    given_codes[6:9, 4:10] = example[3:6, 2:8]
    made = more_of(learn([example], 2), 20, 20, 1, given=given_codes)
    assert np.array_equal(made[6:9, 4:10], example[3:6, 2:8])


def test_what_was_left_out_or_used_too_much_is_told():
    example = np.array([[0, 0, 1], [0, 0, 0], [2, 0, 0]], dtype=np.int32)
    told = usage(example, np.array([[0, 1], [1, 1]], dtype=np.int32))
    assert [(one.code, one.got) for one in told] == [(2, 0.0), (1, 0.75), (0, 0.25)]


def test_what_would_go_on_instead_is_found_by_trying():
    example = coast(8, 5)
    with pytest.raises(CannotGoOn, match="without going round or in blocks of 2 x 2 or side by side") as told:
        more_or_advice([example], 3, 24, 24, 5, wraps=True)
    assert "in blocks of 3 x 3 as in it" in str(told.value)
    made = more_or_advice([example], 2, 24, 24, 5, wraps=True)
    assert blocks_of(np.pad(made, ((0, 1), (0, 1)), mode="wrap"), 2) <= blocks_of(example, 2)
    alone = np.arange(16, dtype=np.int32).reshape(4, 4)
    with pytest.raises(CannotGoOn, match=r"may lie together\.$"):
        more_or_advice([alone], 2, 24, 24, 1)


def test_turned_examples_are_those_of_the_turned_picture():
    picture = sheet_of_tiles(4, 3)
    cut = in_tiles(picture, 8, 8, turns=True)
    turned = list(turns_of(cut.codes, cut.turned))
    assert [one.shape for one in turned] == [(3, 4), (4, 3)] * 4
    for orientation, codes in enumerate(turned):
        shown = cut.tiles[codes].swapaxes(1, 2).reshape(codes.shape[0] * 8, codes.shape[1] * 8, 4)
        mirrored = picture[:, ::-1] if orientation >= 4 else picture
        assert np.array_equal(shown, np.rot90(mirrored, -(orientation % 4)))


def test_a_picture_of_a_map_becomes_a_larger_one_on_the_command_line(tmp_path):
    tiles = sheet_of_tiles(16, 1).reshape(8, 16, 8, 4).swapaxes(0, 1)
    example = coast(12, 3)
    (tmp_path / "small.png").write_bytes(png(tiles[example].swapaxes(1, 2).reshape(96, 96, 4)))
    wanted = ("--tile", "8x8", "--size", "30x20", "--seed", 4, "-o", tmp_path / "large.png")
    result = knitground("learn", tmp_path / "small.png", *wanted)
    assert result.returncode == 0, result.stderr
    assert "30 x 20 tiles" in result.stdout
    made = np.asarray(Image.open(tmp_path / "large.png"))
    assert made.shape == (160, 240, 4)
    looks = {tile.tobytes(): number for number, tile in enumerate(np.ascontiguousarray(tiles))}
    cells = made.reshape(20, 8, 30, 8, 4).swapaxes(1, 2).reshape(-1, 8, 8, 4)
    codes = np.array([looks[np.ascontiguousarray(cell).tobytes()] for cell in cells]).reshape(20, 30)
    assert pairs_of(codes) <= pairs_of(example)
    first = (tmp_path / "large.png").read_bytes()
    knitground("learn", tmp_path / "small.png", *wanted)
    assert (tmp_path / "large.png").read_bytes() == first


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("--tile", "7x8", "--size", "9x9"), "no whole number of tiles"),
        (("--tile", "8x8", "--size", "nine"), "--size"),
        (("--tile", "8x8", "--size", "0x4"), "out of range"),
        (("--tile", "8x8", "--size", "99999x99999"), "too many"),
        (("--tile", "8x8", "--size", "40x40", "--patterns", "3"), "No way was found"),
        (("--tile", "32x8", "--size", "4x4"), "at least"),
    ],
)
def test_what_cannot_be_learned_is_told_in_one_sentence(tmp_path, arguments, says):
    (tmp_path / "small.png").write_bytes(png(sheet_of_tiles(4, 3)))
    result = knitground("learn", tmp_path / "small.png", *arguments, "-o", tmp_path / "large.png")
    assert says in fails_with_one_sentence(result)
    assert not (tmp_path / "large.png").exists()


def test_more_of_a_piece_of_tiles_turns_the_tiles_with_it():
    document, code = make_document(12, 12), Derived(make_document()).code(tile(2, 3))
    # A row of tiles in a bare piece: only turned does it go down as well as across.
    poke(document, "things", "cells", np.s_[2, 0:4], code)
    piece = {"top": 0, "left": 0, "rows": 4, "columns": 4, "blocks": 2}
    as_it_lies = laid(document, ExampleStep("things", **piece), seed=2)
    assert set(np.unique(as_it_lies).tolist()) <= {0, code}
    rows = {tuple(row) for row in as_it_lies.tolist()}
    assert rows <= {(0,) * 12, (code,) * 12}
    turned = laid(document, ExampleStep("things", **piece, turns=True), seed=2)
    seen = np.unique(turned[turned > 0])
    assert set(seen.tolist()) <= {cell_code(code & NUMBER_MASK, orientation) for orientation in range(8)}
    lying = np.isin(turned, [cell_code(code, orientation) for orientation in (0, 2, 4, 6)])
    assert not (lying[:, :-1] & (turned[:, 1:] == 0)).any()


@pytest.mark.parametrize("grid", ["staggered", "hex-pointed", "hex-flat"])
def test_more_of_a_piece_holds_over_every_side_on_any_grid(grid):
    document = make_document(24, 18)
    ground = replace(document.project.grounds[0], grid=grid)
    document.define("grid", replace(document.project, grounds=(ground,)))
    start = NoiseStep("walls", 1, scale=5.0, elsewhere=0, amount=0.3, band=2, band_amount=0.3)
    before = laid(document, start)
    found = laid(document, start, ExampleStep("walls", top=4, left=4, rows=9, columns=9, blocks=1))
    sides = places_of(ground.board, "cells").sides
    piece = np.zeros(before.shape, dtype=bool)
    piece[4:13, 4:13] = True
    assert len(np.unique(found)) > 1
    for beside in sides:
        one = np.flatnonzero(beside >= 0)
        within = one[piece.ravel()[one] & piece.ravel()[beside[one]]]
        seen = set(zip(before.ravel()[within].tolist(), before.ravel()[beside[within]].tolist(), strict=True))
        assert set(zip(found.ravel()[one].tolist(), found.ravel()[beside[one]].tolist(), strict=True)) <= seen
    with pytest.raises(BadRecipe, match="side by side"):
        laid(document, start, ExampleStep("walls", blocks=2))
