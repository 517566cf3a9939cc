"""Variants that are another tile with something on it."""

import numpy as np

from knitground.core.edits.finding import propose, take_sets
from knitground.core.edits.notes import notes_of, set_weight
from knitground.core.edits.rare import rare_weights, told_of_rare
from knitground.core.edits.reading import read_labels, take_proposal
from knitground.core.edits.sets import add_join_set
from knitground.core.joins.adorned import adorned
from knitground.core.joins.found import FoundSet
from knitground.core.project.document import Document
from knitground.core.tiles.tile import TileRef
from test_infer import SIDE, combinations, drawn

GREENS = np.array([[60, 110, 50, 255], [70, 124, 58, 255], [82, 138, 66, 255]], np.uint8)
RED = (214, 60, 70, 255)


def grass(seed: int) -> np.ndarray:
    return GREENS[np.random.default_rng(seed).integers(0, len(GREENS), (16, 16))]


def with_flower(tile: np.ndarray, at: int) -> np.ndarray:
    flower = tile.copy()
    flower[at : at + 4, at : at + 4] = RED
    return flower


def test_a_flower_on_the_grass_is_told_from_grass_that_was_drawn_anew():
    plain, anew = grass(1), grass(2)
    little = plain.copy()
    little[3:7, 2:9] = anew[3:7, 2:9]
    tiles = np.stack([with_flower(plain, 2), plain, anew, little, with_flower(anew, 9), with_flower(grass(3), 5)])
    assert adorned(tiles, np.zeros((6, 4), np.intp)).tolist() == [True, False, False, False, True, True]


def test_a_flower_is_told_on_grass_of_which_each_colour_was_kept_nearly():
    plain, random = grass(1), np.random.default_rng(4)
    decked = with_flower(plain, 4)
    decked[..., :3] += random.integers(0, 4, (16, 16, 3), dtype=np.uint8)
    assert adorned(np.stack([decked, plain]), np.zeros((2, 4), np.intp)).tolist() == [True, False]


def test_flat_things_on_a_rough_ground_are_told_though_they_change_less_than_it_does():
    random = np.random.default_rng(3)
    rough = np.clip(np.array([120, 130, 90]) + random.normal(0, 16, (5, 24, 24, 1)), 0, 255).astype(np.uint8)
    tiles = np.concatenate([rough, np.full((5, 24, 24, 1), 255, np.uint8)], axis=3)
    for tile, colour in zip(tiles, [(40, 200, 140), (200, 40, 120)], strict=False):
        tile[5:17, 5:17, :3] = colour
    assert adorned(tiles, np.zeros((5, 4), np.intp)).tolist() == [True, True, False, False, False]


def test_the_same_flower_on_tiles_that_meet_otherwise_is_no_variant():
    tiles = np.stack([grass(1), with_flower(grass(1), 2)])
    assert not adorned(tiles, np.array([[0, 0], [0, 1]])).any()


def test_found_tiles_with_something_on_them_are_rare_unless_their_weight_was_given():
    plain = grass(1)
    pixels = [plain, with_flower(plain, 2), with_flower(plain, 5), with_flower(plain, 9), grass(7)]
    refs = [TileRef("meadow", "tiles", column, 0) for column in range(5)]
    cells, labels = np.array([(column, 0) for column in range(5)]), np.array([[0] * 4] * 4 + [[1] * 4])
    found = FoundSet("corner", cells, labels, np.ones(5), 1.0, 0.9)
    proposed = propose([found], dict(zip(refs, pixels, strict=True)), refs[0])
    document = Document()
    set_weight(document, [refs[3]], 3.0)
    take_sets(document, proposed)
    weights = [notes_of(document, ref).weight for ref in refs]
    assert weights[0] == weights[4] == 1.0
    assert weights[1] == weights[2] < 0.2
    assert weights[3] == 3.0
    document.undo()
    assert notes_of(document, refs[1]).weight == 1.0


def test_a_floor_of_other_colours_drawn_anew_hides_no_thing_nor_is_one():
    smaller = grass(3)
    smaller[5:8, 5:8] = RED
    assert not adorned(np.stack([grass(1), smaller]), np.zeros((2, 4), np.intp)).any(), "so little may be of its kind"
    other = GREENS[..., [2, 0, 1, 3]][np.random.default_rng(5).integers(0, 3, (16, 16))]
    assert not adorned(np.stack([grass(1), other]), np.zeros((2, 4), np.intp)).any()


def test_labels_read_of_tiles_with_something_on_them_let_these_come_seldom_where_they_are_taken():
    document = Document()
    set_id = add_join_set(document, "Meadow", "corner", ())
    rows = combinations("corner")
    pixels = [
        drawn(row, "corner", np.array([[98, 150, 60], [216, 192, 142]]), np.zeros((SIDE, SIDE, 1))) for row in rows
    ]
    plain = [at for at, row in enumerate(rows) if len(set(row)) == 1]
    # One flower on grass, and two on the other terrain; of the last, somebody gave one a weight.
    decked = [with_flower(pixels[plain[0]], 3), with_flower(pixels[plain[1]], 3), with_flower(pixels[plain[1]], 8)]
    refs = [TileRef("meadow", "tiles", number, 0) for number in range(len(rows) + 3)]
    set_weight(document, refs[-1:], 2.0)
    proposal = read_labels(document.project.join_sets[0], refs, pixels + decked, 2)
    assert set(proposal.rare) == set(refs[-3:])
    take_proposal(document, set_id, proposal, refs[:-3])
    assert {notes_of(document, ref).weight for ref in refs[:-1]} == {1.0}
    take_proposal(document, set_id, proposal)
    assert [notes_of(document, ref).weight for ref in refs[-3:]] == [0.2, 0.2, 2.0]
    document.undo()
    assert notes_of(document, refs[-2]).weight == 1.0


def test_a_line_that_leads_nowhere_is_laid_by_hand_alone():
    wood = (150, 110, 60, 255)

    def with_line(tile: np.ndarray, north: int, east: int, south: int, west: int) -> np.ndarray:
        drawn = tile.copy()
        drawn[6:10, 6:10] = wood
        parts = np.s_[:8, 6:10], np.s_[6:10, 8:], np.s_[8:, 6:10], np.s_[6:10, :8]
        for goes, part in zip((north, east, south, west), parts, strict=True):
            if goes:
                drawn[part] = wood
        return drawn

    rows = [(0, 0, 0, 0)] * 4 + [(1, 0, 1, 0), (0, 1, 0, 1), (1, 1, 0, 0), (1, 1, 1, 1), (1, 1, 1, 1)]
    tiles = [grass(1), grass(2), with_flower(grass(1), 1), *(with_line(grass(1), *row) for row in rows[3:])]
    tiles[-1][1:5, 1:5] = RED
    refs = [TileRef("meadow", "tiles", column, 0) for column in range(len(rows))]
    told = rare_weights("edge", refs, np.stack(tiles), np.array(rows))
    assert {ref.column: weight for ref, weight in told.items()} == {2: 0.2, 3: 0.0, 8: 0.2}
    assert told_of_rare(told) == (
        "; 2 tiles with something on top come seldom; a line that leads nowhere is laid by hand alone"
    )
    assert rare_weights("corner", refs, np.stack(tiles), np.array(rows))[refs[3]] > 0
