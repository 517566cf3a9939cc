"""Sets found on whole sheets, made as unkind as the bench makes them."""

import sys
from pathlib import Path

import numpy as np
import pytest

from knitground.core.joins.find import find_sets

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "bench"))
from infer_cases import same_up_to_names
from set_cases import make_case, make_isometric_case


@pytest.mark.parametrize(("made", "shape"), [(make_case, "square"), (make_isometric_case, "isometric")])
def test_most_sets_are_found_with_their_labels_and_little_else_is_proposed(made, shape):
    met = sets = wrong = proposals = 0
    for seed in range(700, 703):
        tiles, held, there = made(seed)
        found = find_sets(tiles, held, shape=shape)
        taken = [cell for one in found for cell in map(tuple, one.cells.tolist())]
        assert len(taken) == len(set(taken))
        assert [one.confidence for one in found] == sorted((one.confidence for one in found), reverse=True)
        for kind, cells in there:
            sets += 1
            for one in found:
                mine = dict(zip(map(tuple, one.cells.tolist()), map(tuple, one.labels.tolist()), strict=True))
                both = [cell for cell in cells if cell in mine]
                if one.kind == kind and len(both) >= 0.9 * len(cells):
                    met += same_up_to_names([mine[cell] for cell in both], [cells[cell] for cell in both]).mean() >= 0.9
        proposals += len(found)
        wrong += sum(
            not any(sum(tuple(cell) in cells for cell in one.cells.tolist()) > len(one.cells) / 2 for _, cells in there)
            for one in found
        )
    assert met >= 0.8 * sets
    assert wrong <= 0.2 * proposals


@pytest.mark.parametrize("pixels", [np.zeros((64, 64, 4), np.uint8), np.full((64, 64, 4), 200, np.uint8)])
def test_a_sheet_of_one_colour_holds_no_set(pixels):
    tiles = pixels.reshape(4, 16, 4, 16, 4).swapaxes(1, 2)
    assert find_sets(tiles, tiles[..., 3].any(axis=(2, 3))) == []


def test_tiles_that_have_nothing_in_common_are_no_set():
    random = np.random.Generator(np.random.PCG64(3))
    tiles = random.integers(0, 256, (8, 8, 16, 16, 4)).astype(np.uint8)
    assert find_sets(tiles, np.ones((8, 8), bool)) == []


def test_looking_tells_how_far_it_is_and_can_be_stopped():
    tiles, held, _ = make_case(700)
    told = []
    find_sets(tiles, held, progress=told.append)
    assert told == sorted(told)
    assert told[-1] == 1

    def stop(share: float) -> None:
        raise InterruptedError

    with pytest.raises(InterruptedError):
        find_sets(tiles, held, progress=stop)
