import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.errors import BadRecipe, Cancelled
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.grow.noise import wrapping_noise
from knitground.core.grow.thrown import Cell, Throw, thrown

BOARD = Ground("g", "G", 400, 400, 16, 16).board


def throw_mix(codes, weights, seed, rect) -> np.ndarray:
    return thrown(Throw(tuple((Cell(0, 0, code),) for code in codes), tuple(weights)), seed, BOARD, rect)


@given(seed=st.integers(0, 2**32 - 1), top=st.integers(0, 9), left=st.integers(0, 9))
def test_a_throw_of_a_window_is_part_of_the_throw_of_the_whole(seed, top, left):
    whole = throw_mix([1, 2, 3], [5, 1, 2], seed, CellRect(0, 0, 20, 20))
    part = throw_mix([1, 2, 3], [5, 1, 2], seed, CellRect(top, left, 7, 6))
    assert np.array_equal(part, whole[top : top + 7, left : left + 6])


def test_a_mix_comes_as_weighted_and_never_with_weight_zero():
    thrown = throw_mix([4, 0, 9], [3, 1, 0], 5, CellRect(0, 0, 300, 300))
    shares = [float((thrown == code).mean()) for code in (4, 0, 9)]
    assert np.allclose(shares, [0.75, 0.25, 0.0], atol=0.01)


def test_another_throw_is_another_and_the_same_throw_the_same():
    window = CellRect(3, 3, 30, 30)
    one, other, again = (throw_mix([1, 2], [1, 1], seed, window) for seed in (1, 2, 1))
    assert (one != other).mean() > 0.3
    assert np.array_equal(one, again)


@pytest.mark.parametrize("weights", [[], [0.0, 0.0]])
def test_a_mix_without_a_choice_says_what_to_do(weights):
    with pytest.raises(BadRecipe, match="weight above zero"):
        throw_mix([1, 2][: len(weights)], weights, 1, CellRect(0, 0, 2, 2))


@pytest.mark.parametrize("size", [(48, 64), (33, 50), (7, 200)])
def test_noise_goes_on_over_the_border_as_it_does_inside(size):
    noise = wrapping_noise(*size, scale=11, octaves=3, seed=8)
    for axis in (0, 1):
        inside = np.abs(np.diff(noise, axis=axis)).max()
        first, last = np.take(noise, 0, axis=axis), np.take(noise, -1, axis=axis)
        assert np.abs(first - last).max() <= inside * 1.2


def test_noise_is_the_same_for_a_seed_and_another_for_another():
    one, again, other = (wrapping_noise(40, 40, scale=8, octaves=2, seed=seed) for seed in (3, 3, 4))
    assert np.array_equal(one, again)
    assert abs(np.corrcoef(one.ravel(), other.ravel())[0, 1]) < 0.4


def test_noise_reports_progress_and_can_be_stopped():
    shares: list[float] = []
    wrapping_noise(600, 300, scale=20, octaves=2, seed=1, progress=shares.append)
    assert shares == sorted(shares)
    assert 0 < shares[0] < shares[-1] <= 1

    def stop(share: float) -> None:
        raise Cancelled("stopped")

    with pytest.raises(Cancelled):
        wrapping_noise(600, 300, scale=20, octaves=2, seed=1, progress=stop)
