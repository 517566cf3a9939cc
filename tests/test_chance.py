import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.chance import chance, chance_bits, choose, fill_chance_bits, seed_for

cells = st.integers(-10_000, 10_000)


@given(seed=st.integers(), top=cells, left=cells)
def test_a_window_agrees_with_the_whole(seed, top, left):
    rows, columns = np.arange(top, top + 8)[:, None], np.arange(left, left + 8)
    whole = chance(seed, rows, columns)
    assert np.array_equal(whole[2:5, 3:7], chance(seed, rows[2:5], columns[3:7]))


@given(seed=st.integers(), top=cells, left=cells)
def test_filling_a_buffer_gives_the_same_bits(seed, top, left):
    rows, columns = np.arange(top, top + 3), np.arange(left, left + 5)
    out, scratch = np.empty((3, 5), np.uint32), np.empty((3, 5), np.uint32)
    fill_chance_bits(seed, rows, columns, out, scratch)
    assert np.array_equal(out, chance_bits(seed, rows[:, None], columns))


def test_shares_come_out_as_weighted_and_without_stripes():
    numbers = chance(7, np.arange(512)[:, None], np.arange(512))
    counts = np.bincount(choose([3, 1, 0, 4], numbers).ravel(), minlength=4)
    assert np.allclose(counts / counts.sum(), [0.375, 0.125, 0, 0.5], atol=0.005)
    assert abs(np.corrcoef(numbers[:, :-1].ravel(), numbers[:, 1:].ravel())[0, 1]) < 0.01


@pytest.mark.parametrize("weights", [[], [0, 0], [1, -1], [float("nan")], [float("inf")]])
def test_weights_without_a_choice_are_refused(weights):
    with pytest.raises(ValueError, match="weights"):
        choose(weights, np.zeros(3))


def test_layers_of_one_seed_do_not_repeat_one_another():
    rows, columns = np.arange(64)[:, None], np.arange(64)
    one, other = (chance(seed_for(5, name), rows, columns) for name in ("grass", "paths"))
    assert abs(np.corrcoef(one.ravel(), other.ravel())[0, 1]) < 0.05
