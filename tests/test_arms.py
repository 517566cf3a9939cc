"""Ends, bends, forks and crossings of a road, made of its straight tiles."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.joins.coverage import coverage
from knitground.core.joins.make import make_missing
from knitground.core.joins.sets import JoinSet, Labels, Terrain
from knitground.core.tiles.tile import orient
from making import tile

SIDE = 20
TWO = (Terrain("Moss", "M", "#3a6b35"), Terrain("Walk", "W", "#b08a5a"))
WALK, RIM = (176, 138, 90), (70, 50, 40)
Across = tuple[int, int]
"""From which column a road goes down, up to which."""


def moss(grain: int = 0) -> np.ndarray:
    """A ground with a grain of its own."""
    art = np.full((SIDE, SIDE, 4), (58, 107, 53, 255), np.uint8)
    art[np.random.default_rng(grain).random((SIDE, SIDE)) < 0.2] = (66, 120, 60, 255)
    return art


def down(across: Across, ground: np.ndarray) -> np.ndarray:
    """A road with rims that leads down."""
    art, (low, high) = ground.copy(), across
    art[:, low:high, :3] = WALK
    art[:, [low, high - 1], :3] = RIM
    return art


def level(across: Across, ground: np.ndarray) -> np.ndarray:
    """A road with rims that leads across."""
    return down(across, ground.transpose(1, 0, 2)).transpose(1, 0, 2)


def made_of(art: dict[Labels, np.ndarray], *, bare: bool = False, isometric: bool = False) -> dict[Labels, np.ndarray]:
    """What is made of straight tiles, by its labels."""
    refs = {tile(n, 0): row for n, row in enumerate(art)}
    walks = JoinSet("walks", "Walks", "edge", TWO, bare=bare, labels=refs)
    drawn = {ref: art[row] for ref, row in refs.items()}
    made = make_missing(walks, coverage(walks), drawn, isometric=isometric)
    return {one.labels: one.pixels for one in made if one.way == "straight ones"}


def as_diamond(square: np.ndarray) -> np.ndarray:
    """A square tile seen from a corner; its north side is that at the upper right."""
    side = len(square)
    y, x = np.mgrid[:side, : 2 * side]
    south, east = (y + 0.5) / side, (x + 0.5) / (2 * side)
    across, along = ((east + south - 0.5) * side // 1).astype(int), ((south - east + 0.5) * side // 1).astype(int)
    inside = (across >= 0) & (across < side) & (along >= 0) & (along < side)
    art = square[np.clip(along, 0, side - 1), np.clip(across, 0, side - 1)]
    return art * inside[..., None].astype(np.uint8)


roads = st.tuples(st.integers(3, 9), st.integers(4, 7)).map(lambda road: (road[0], sum(road)))


@given(roads, roads, st.booleans())
def test_what_is_made_leads_to_its_sides_as_the_straight_tiles_do_and_to_no_other(across, along, own_grain):
    art = {
        (1, 1, 1, 1): moss(),
        (2, 1, 2, 1): down(across, moss(own_grain)),
        (1, 2, 1, 2): level(along, moss(2 * own_grain)),
    }
    made = made_of(art)
    assert made.keys() == set(product((1, 2), repeat=4)) - art.keys()
    shown = {
        side: np.flatnonzero((art[row][line] != art[1, 1, 1, 1][line]).any(axis=-1) & (art[row][line][:, 0] > 66))
        for side, row, line in (
            (0, (2, 1, 2, 1), np.s_[0]),
            (1, (1, 2, 1, 2), np.s_[:, -1]),
            (2, (2, 1, 2, 1), np.s_[-1]),
            (3, (1, 2, 1, 2), np.s_[:, 0]),
        )
    }
    for labels, pixels in made.items():
        for side, line in enumerate((np.s_[0], np.s_[:, -1], np.s_[-1], np.s_[:, 0])):
            row = (2, 1, 2, 1) if side % 2 == 0 else (1, 2, 1, 2)
            at = shown[side]
            same = pixels[line][at] == (art[row] if labels[side] == 2 else art[1, 1, 1, 1])[line][at]
            assert same.all(), (labels, side)


@given(roads)
def test_an_end_is_round_and_its_rim_goes_round_it(across):
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): down(across, moss())}
    made = made_of(art)
    assert made.keys() == {(2, 1, 1, 1), (1, 1, 2, 1)}
    end = made[2, 1, 1, 1]
    walk, rim = (end[..., :3] == WALK).all(axis=-1), (end[..., :3] == RIM).all(axis=-1)
    assert walk[SIDE // 2 - 1].any()
    assert not (walk | rim)[SIDE // 2 + (across[1] - across[0]) // 2 + 1 :].any()
    beside = np.zeros_like(walk)
    beside[1:] |= walk[:-1]
    beside[:-1] |= walk[1:]
    beside[:, 1:] |= walk[:, :-1]
    beside[:, :-1] |= walk[:, 1:]
    assert (walk | rim)[beside].all()


def test_the_rim_of_no_arm_goes_on_through_another():
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): down((6, 14), moss()), (1, 2, 1, 2): level((6, 14), moss())}
    crossing = made_of(art)[2, 2, 2, 2]
    assert (crossing[7:13, 1:-1, :3] == WALK).all()
    assert (crossing[1:-1, 7:13, :3] == WALK).all()
    assert (crossing[6, :6, :3] == RIM).all()
    assert (crossing[:6, 6, :3] == RIM).all()


def test_the_tip_has_the_light_of_the_rim_across():
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): down((6, 14), moss()), (1, 2, 1, 2): level((6, 14), moss())}
    art[1, 2, 1, 2][6, :, :3] = 240
    ends = made_of(art)
    lit = [(ends[labels][..., :3] == 240).all(axis=-1) for labels in ((1, 1, 2, 1), (2, 1, 1, 1))]
    assert lit[0].any()
    assert not lit[1].any()


def test_a_row_of_stones_ends_in_whole_stones():
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): moss()}
    y, x = np.mgrid[:SIDE, :SIDE]
    stones = np.hypot(y % 10 - 4.5, x - 9.5) < 4
    art[2, 1, 2, 1][stones, :3] = 150
    end = (made_of(art)[2, 1, 1, 1][..., :3] == 150).all(axis=-1)
    np.testing.assert_array_equal(end, stones & (y < 10))


@pytest.mark.parametrize("labels", [(2, 1, 1, 1), (2, 2, 1, 1), (2, 2, 2, 1), (2, 2, 2, 2)])
def test_what_is_made_of_diamonds_is_what_is_made_of_squares_seen_from_a_corner(labels):
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): down((5, 14), moss()), (1, 2, 1, 2): level((5, 14), moss())}
    flat = as_diamond(made_of(art)[labels])
    seen = made_of({row: as_diamond(one) for row, one in art.items()}, isometric=True)[labels]
    assert (seen[..., 3] == flat[..., 3]).all()
    assert (seen != flat).any(axis=-1).mean() < 0.03


def test_a_walk_on_nothing_is_made_on_nothing():
    clear = np.zeros((SIDE, SIDE, 4), np.uint8)
    walk = down((6, 14), clear)
    walk[:, 6:14, 3] = 255
    made = made_of({(2, 0, 2, 0): walk}, bare=True)
    assert made.keys() == {(2, 0, 0, 0), (0, 0, 2, 0)}
    assert not made[2, 0, 0, 0][16:].any()
    assert made[2, 0, 0, 0][:10, 6:14, 3].all()


def test_a_broad_walk_with_a_shadow_crosses_another_without_its_shadow_on_it():
    clear = np.zeros((SIDE, SIDE, 4), np.uint8)
    art = {(2, 0, 2, 0): down((2, 17), clear), (0, 2, 0, 2): level((2, 17), clear)}
    for one in art.values():
        one[one[..., 0] > 0, 3] = 255
    art[2, 0, 2, 0][:, 17] = art[0, 2, 0, 2][17] = (0, 0, 0, 90)
    crossing = made_of(art, bare=True)[2, 2, 2, 2]
    assert (crossing[3:16, :, :3] == WALK).all(axis=-1)[:, 4:15].all()
    assert (crossing[2:17, :, 3] == 255).all()
    assert (crossing[:2, 17, 3] == 90).all()


@pytest.mark.parametrize("bare", [False, True])
@pytest.mark.parametrize("isometric", [False, True])
def test_a_walk_whose_ground_lies_nowhere_alone_ends_on_what_lies_beside_it(bare, isometric):
    ground = moss()
    ground[:, ::4, :3] = (40, 80, 40)
    whole = {(2, 1, 2, 1): down((6, 14), ground), (1, 2, 1, 2): level((5, 13), ground)}
    seen = {row: as_diamond(one) for row, one in whole.items()} if isometric else whole
    rows = {tuple(label - bare for label in row): one for row, one in seen.items()}
    alone, plain = (1 - bare,) * 4, as_diamond(ground) if isometric else ground
    made, known = (made_of(art, bare=bare, isometric=isometric) for art in (rows, rows | {alone: plain}))
    assert made.keys() - {alone} == known.keys()
    assert (alone in made) != bare
    for labels, pixels in made.items():
        expected = plain if labels == alone else known[labels]
        assert (pixels[..., 3] == expected[..., 3]).all()
        assert (np.abs(pixels.astype(int) - expected).max(axis=-1) > 30).mean() < 0.1


def test_what_a_road_hides_of_its_ground_is_filled_with_what_suits_it():
    ground = moss()
    ground[2::6, :, :3] = (30, 60, 30)
    made = made_of({(2, 1, 2, 1): down((6, 14), ground), (1, 2, 1, 2): level((6, 14), ground)})[1, 1, 1, 1]
    assert ((made == (30, 60, 30, 255)).all(axis=-1)[2::6]).all()


def halves() -> dict[Labels, np.ndarray]:
    """Tiles whose terrains meet beside the sides: no road."""
    art = down((0, 7), moss())
    art[:, 13:, :3] = WALK
    return {(1, 1, 1, 1): moss(), (2, 1, 2, 1): art}


def without_ground() -> dict[Labels, np.ndarray]:
    """Straight tiles that show no ground in their corners, and no plain one."""
    art = {(2, 1, 2, 1): down((6, 14), moss()), (1, 2, 1, 2): level((6, 14), moss())}
    for one in art.values():
        one[:2, :2] = 0
    return art


def broken() -> dict[Labels, np.ndarray]:
    """A road that does not go on through its tile."""
    art = down((6, 14), moss())
    art[8:12] = moss()[8:12]
    return {(1, 1, 1, 1): moss(), (2, 1, 2, 1): art}


def tiny() -> dict[Labels, np.ndarray]:
    """Tiles of a few pixels."""
    art = moss()[:4, :4].copy()
    art[:, 1:3, :3] = WALK
    return {(1, 1, 1, 1): moss()[:4, :4], (2, 1, 2, 1): art}


@pytest.mark.parametrize("art", [halves, without_ground, broken, tiny])
def test_nothing_is_made_of_what_is_no_road_on_a_ground(art):
    assert not made_of(art())


def test_of_what_stands_up_from_a_diamond_nothing_is_made():
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): down((5, 14), moss())}
    tall = {row: np.pad(as_diamond(one), ((12, 0), (0, 0), (0, 0))) for row, one in art.items()}
    assert made_of({row: as_diamond(one) for row, one in art.items()}, isometric=True)
    assert not made_of(tall, isometric=True)


def test_turned_tiles_are_taken_before_others_are_made():
    art = {(1, 1, 1, 1): moss(), (2, 1, 2, 1): down((6, 14), moss()), (2, 1, 1, 1): orient(moss(), 2)}
    assert (1, 1, 2, 1) not in made_of(art)
