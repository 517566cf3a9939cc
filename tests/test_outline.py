"""Collision shapes: traced, mirrored, turned, checked."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import ndimage

from knitground.core.errors import BadRequest
from knitground.core.tiles.notes import MOST_POINTS, Point
from knitground.core.tiles.outline import checked, mirrored, snapped, trace, turned
from knitground.core.tiles.tile import orient

masks = hnp.arrays(bool, st.tuples(st.integers(1, 9), st.integers(1, 9)))
SQUARE = (Point(1, 2), Point(5, 2), Point(5, 6), Point(1, 6))


def picture(mask: np.ndarray) -> np.ndarray:
    pixels = np.zeros((*mask.shape, 4), dtype=np.uint8)
    pixels[mask] = 255
    return pixels


TOOTHED = np.pad(np.array([[1, 0, 1, 0], [1, 0, 1, 1]], bool), ((0, 3), (0, 3)), constant_values=True)


def covered(shapes, height: int, width: int) -> np.ndarray:
    """Which pixels have their middle inside one of some shapes."""
    rows, columns = np.mgrid[0:height, 0:width] + 0.5
    inside = np.zeros((height, width), dtype=bool)
    for shape in shapes:
        inside |= shapely.contains_xy(shapely.Polygon(shape), columns, rows)
    return inside


@given(mask=masks)
def test_a_traced_outline_covers_exactly_what_is_seen_and_what_it_encloses(mask):
    shapes = trace(picture(mask))
    inside = covered(shapes, *mask.shape)
    # A hole that is open at a corner only may be filled or not.
    assert inside[mask].all()
    assert not inside[~ndimage.binary_fill_holes(mask)].any()
    for shape in shapes:
        assert shapely.Polygon(shape).is_valid


@given(
    place=st.lists(st.tuples(st.integers(1, 20), st.integers(1, 20), st.integers(2, 8), st.integers(2, 8)), max_size=5)
)
def test_holes_that_one_could_stand_in_stay_open_and_small_ones_are_filled(place):
    mask = np.ones((24, 24), dtype=bool)
    for top, left, height, width in place:
        mask[top : min(top + height, 23), left : min(left + width, 23)] = False
    shapes = trace(picture(mask))
    labels, count = ndimage.label(~mask)
    inside = covered(shapes, *mask.shape)
    assert inside[mask].all()
    for number in range(1, count + 1):
        hole = labels == number
        assert inside[hole].all() == (hole.sum() < 16)
        assert inside[hole].any() == (hole.sum() < 16)
    assert sum(shapely.Polygon(shape).area for shape in shapes) == pytest.approx(inside.sum())


@given(mask=masks, simplify=st.floats(0, 3))
@example(
    mask=np.pad(np.array([[1, 0, 1, 0], [1, 0, 1, 1]], bool), ((0, 3), (0, 3)), constant_values=True), simplify=2.5
)
def test_a_simplified_outline_strays_no_further_than_allowed_and_stays_sound(mask, simplify):
    exact, simple = trace(picture(mask)), trace(picture(mask), simplify)
    assert sum(map(len, simple)) <= sum(map(len, exact))
    for shape in simple:
        nearest = min(
            shapely.Polygon(one).exterior.hausdorff_distance(shapely.Polygon(shape).exterior) for one in exact
        )
        # Half a pixel's diagonal for the rounding to half pixels.
        assert nearest <= simplify * np.sqrt(2) + 0.5 or len(exact) > 1
        assert all(x * 2 == int(x * 2) and y * 2 == int(y * 2) for x, y in shape)


def test_a_jagged_tile_has_no_more_points_than_a_shape_may():
    mask = np.ones((200, 200), dtype=bool)
    mask[:100] = np.indices((100, 200)).sum(axis=0) % 2 == 0
    shapes = trace(picture(mask))
    assert shapes
    assert max(map(len, shapes)) <= MOST_POINTS


def test_nothing_seen_has_no_outline():
    assert trace(np.zeros((8, 8, 4), dtype=np.uint8)) == ()


@given(mask=masks, orientation=st.integers(0, 7))
def test_a_shape_turns_with_its_tile(mask, orientation):
    height, width = mask.shape
    shapes = trace(picture(mask))
    pixels = orient(picture(mask), orientation)
    expected = covered(trace(pixels), *pixels.shape[:2])
    assert np.array_equal(covered(turned(shapes, (width, height), orientation), *pixels.shape[:2]), expected)


def test_mirroring_twice_changes_nothing():
    shapes = (SQUARE,)
    for across in (True, False):
        once = mirrored(shapes, (8, 9), across=across)
        assert once != shapes
        assert mirrored(once, (8, 9), across=across) == shapes
    assert mirrored("whole", (8, 8), across=True) == "whole"


def test_points_snap_to_whole_or_half_pixels_inside_the_tile():
    assert snapped(3.3, 4.7, 1.0, (8, 8)) == (3, 5)
    assert snapped(3.3, 4.7, 0.5, (8, 8)) == (3.5, 4.5)
    assert snapped(-2, 11, 1.0, (8, 8)) == (0, 8)


@pytest.mark.parametrize(
    ("shape", "says"),
    [(SQUARE[:2], "three points"), ((SQUARE[0], SQUARE[2], SQUARE[1], SQUARE[3]), "crosses itself"),
     ((Point(0, 0), Point(4, 4), Point(2, 2)), "no area")],
)  # fmt: skip
def test_shapes_that_cannot_block_are_refused(shape, says):
    with pytest.raises(BadRequest, match=says):
        checked([shape])
    assert checked([SQUARE]) == (SQUARE,)
