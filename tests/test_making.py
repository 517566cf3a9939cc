"""Arrangements, tiles that are made, pins, baking and reading back."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from knitground.core.edits.made_tiles import add_made_tiles
from knitground.core.edits.pins import bake_layer, pin, pin_seen, read_back, unpin_all
from knitground.core.edits.sets import label_tiles
from knitground.core.edits.things import put
from knitground.core.errors import BadProject, BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.joins.cells import combinations
from knitground.core.joins.coverage import coverage, is_formed
from knitground.core.joins.layouts import arranged, known_arrangements, learned
from knitground.core.joins.make import make_missing
from knitground.core.joins.quarters import Quarters, five_of_block, of_five
from knitground.core.joins.sets import JoinSet, Terrain, formed
from knitground.core.joins.turning import turned_labels
from knitground.core.layers.layer import PINS
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.tile import orient
from making import ground_art, make_document, poke, rectangle, tile, with_labels_removed

WHOLE = CellRect(0, 0, 15, 20)
TERRAINS = (Terrain("Moss", "M", "#80a040"), Terrain("Slate", "S", "#8090b0"))


def shown(derived: Derived, layer: str) -> np.ndarray:
    return derived.knitted("ground").codes(layer, WHOLE).copy()


@pytest.mark.parametrize("arrangement", known_arrangements(), ids=lambda one: one.id)
def test_a_known_arrangement_holds_each_of_its_combinations_once(arrangement):
    rows = list(arrangement.tiles.values())
    assert len(set(rows)) == len(rows)
    whole = {"corner": 16, "edge": 16, "full": 47, "cell": 47 if any(any(row[:4]) for row in rows) else 16}
    assert len(rows) == (13 if "patch" in arrangement.id else whole[arrangement.kind])
    assert all(is_formed(row) for row in rows if arrangement.kind == "full")
    assert all(formed(row, 0) == row for row in rows if arrangement.kind == "cell")
    columns, height = arrangement.size
    assert len(rows) <= columns * height


def test_neighbours_in_the_joined_arrangement_join():
    joined = known_arrangements()[0]
    for column, row in product(range(4), repeat=2):
        here, east = joined.tiles[f"{column},{row}"], joined.tiles[f"{(column + 1) % 4},{row}"]
        south = joined.tiles[f"{column},{(row + 1) % 4}"]
        assert (here[1], here[2]) == (east[0], east[3])
        assert (here[3], here[2]) == (south[0], south[1])


def test_an_arrangement_learned_from_a_block_labels_the_next_one():
    labels = {tile(3, 2): (1, 1, 2, 2), tile(4, 2): (2, 2, 2, 2), tile(3, 3): (1, 2, 1, 2)}
    known = learned("Mine", "mine", "corner", labels)
    assert known.size == (2, 2)
    found = arranged(known, tile(10, 5), [4], 3)
    assert found == {tile(10, 5): (3, 3, 4, 4), tile(11, 5): (4, 4, 4, 4), tile(10, 6): (3, 4, 3, 4)}
    assert arranged(known, tile(3, 2), [2], 1) == labels


def five_tiles(side: int = 8) -> list[np.ndarray]:
    """Base tiles whose every pixel tells from which of them it is."""
    return [np.full((side, side, 4), 40 * number + 10, dtype=np.uint8) for number in range(5)]


def test_quarters_follow_the_labels_round_them():
    lone, level, upright, crossing, whole = range(10, 210, 40)
    made = Quarters(of_five(five_tiles())).tile((0, 0, 0, 0, 0, 0, 0, 0))
    assert np.unique(made).tolist() == [lone]
    assert np.unique(Quarters(of_five(five_tiles())).tile((1,) * 8)).tolist() == [whole]
    # north-west corner of a patch, and an inner corner at the south-east
    of_two_sizes = Quarters([*of_five(five_tiles()), ((1,) * 8, np.zeros((4, 6, 4), np.uint8))])
    assert np.unique(of_two_sizes.tile((1,) * 8)).tolist() == [whole]
    made = Quarters(of_five(five_tiles())).tile((0, 0, 0, 0, 0, 1, 1, 0))[..., 0]
    assert (made[0, 0], made[0, 7], made[7, 0], made[7, 7]) == (lone, level, upright, crossing)


def test_five_base_tiles_make_all_47_and_the_block_of_six_gives_the_five():
    block = np.arange(6, dtype=np.uint8).reshape(3, 2, 1, 1, 1) * np.ones((8, 8, 4), dtype=np.uint8)
    lone, level, upright, crossing, whole = five_of_block(block)
    assert (lone[0, 0, 0], lone[0, 7, 0], lone[7, 0, 0], lone[7, 7, 0]) == (2, 3, 4, 5)
    assert (level[0, 0, 0], upright[0, 0, 0], whole[0, 0, 0]) == (3, 4, 5)
    assert np.unique(crossing).tolist() == [1]
    empty = JoinSet("f", "F", "full", TERRAINS[:1], True)
    document = make_document()
    put(document, "x", "join_sets", empty)
    made = make_missing(empty, Derived(document).coverage(empty), {}, five_tiles())
    assert len(made) == 46
    assert {one.way for one in made} == {"quarters"}
    add_made_tiles(document, "f", made)
    derived = Derived(document)
    found = derived.coverage(document.project.join_sets[-1])
    assert found.lacking == 0
    assert {found.group(labels) for labels in found.tiles} == {"made"}


def test_tiles_of_other_sizes_than_most_lend_nothing_and_base_tiles_must_be_of_one():
    random = np.random.default_rng(3)
    rows = [(1, 1, 1, 1), (2, 2, 2, 2), (1, 2, 2, 1), (1, 1, 2, 2), (2, 1, 1, 1)]
    sizes = [(16, 16), (16, 16), (12, 20), (16, 16), (9, 9)]
    labels = {tile(number % 4, number // 4): row for number, row in enumerate(rows)}
    drawn = {ref: random.integers(0, 256, (*size, 4), np.uint8) for ref, size in zip(labels, sizes, strict=True)}
    join_set = JoinSet("c", "C", "corner", TERRAINS, labels=labels)
    document = make_document()
    put(document, "x", "join_sets", join_set)
    made = make_missing(join_set, Derived(document).coverage(join_set), drawn)
    assert made
    assert {one.pixels.shape for one in made} == {(16, 16, 4)}
    refs = add_made_tiles(document, "c", made)
    assert len(refs) == len(made)
    with pytest.raises(BadRequest, match="not all of one size"):
        make_missing(join_set, Derived(document).coverage(join_set), drawn, [*five_tiles()[:4], drawn[tile(0, 1)]])


def test_a_turned_tile_stands_in_and_pixels_turn_with_labels():
    labels = {tile(0, 0): (2, 1, 1, 1), tile(1, 0): (1, 1, 1, 1)}
    join_set = JoinSet("c", "C", "corner", TERRAINS, labels=labels)
    document = make_document()
    put(document, "x", "join_sets", join_set)
    derived = Derived(document)
    made = {one.labels: one for one in make_missing(join_set, derived.coverage(join_set), derived.drawn(join_set))}
    assert set(made) == {(1, 2, 1, 1), (1, 1, 2, 1), (1, 1, 1, 2)}
    source = derived.tile(tile(0, 0))
    for row, one in made.items():
        fits = [n for n in range(8) if turned_labels((2, 1, 1, 1), "corner", n) == row]
        assert any(np.array_equal(one.pixels, orient(source, n)) for n in fits)


def test_two_plain_tiles_make_a_whole_corner_set():
    labels = {tile(0, 0): (1, 1, 1, 1), tile(1, 0): (2, 2, 2, 2)}
    join_set = JoinSet("c", "C", "corner", TERRAINS, labels=labels)
    document = make_document()
    put(document, "x", "join_sets", join_set)
    derived = Derived(document)
    drawn = derived.drawn(join_set)
    made = make_missing(join_set, derived.coverage(join_set), drawn)
    assert len(made) == 14
    corners = ((0, 0), (0, -1), (-1, -1), (-1, 0))
    for one in made:
        for label, spot in zip(one.labels, corners, strict=True):
            assert np.array_equal(one.pixels[spot], drawn[tile(label - 1, 0)][spot])
    refs = add_made_tiles(document, "c", made)
    assert Derived(document).coverage(document.project.join_sets[-1]).lacking == 0
    assert document.state.pictures[refs[0].sheet].pixels.shape == (8, 16 * 8, 4)
    more = add_made_tiles(document, "c", made[:3])
    assert len({*refs, *more}) == 17
    document.undo()
    document.undo()
    assert [sheet.id for sheet in document.project.sheets] == ["art"]


def test_a_made_tile_gives_way_to_a_drawn_one_and_is_saved_with_the_project(tmp_path):
    document = make_document()
    areas = document.project.join_sets[0]
    label_tiles(document, "areas", {tile(9, 0): (0, 0, 0, 0)}, "unlabel")
    gone, areas, derived = areas.labels[tile(9, 0)], document.project.join_sets[0], Derived(document)
    made = make_missing(areas, derived.coverage(areas), derived.drawn(areas))
    (ref,) = add_made_tiles(document, "areas", made)
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (0, 0), (15, 20)), 1)
    for label, spot in zip(gone, ((0, 0), (0, 1), (1, 1), (1, 0)), strict=True):
        poke(document, "areas", "corners", np.s_[spot], label)
    document.save(tmp_path / "p")
    again = Document.load(tmp_path / "p")
    derived = Derived(again)
    assert shown(derived, "areas")[0, 0] == again.palette.code(ref)
    label_tiles(again, "areas", {tile(9, 3): gone}, "label")
    assert shown(derived, "areas")[0, 0] == again.palette.code(tile(9, 3))


def test_pins_stay_through_every_change_and_are_saved(tmp_path):
    document = make_document()
    derived = Derived(document)
    before = shown(derived, "areas")
    code = document.palette.code(tile(7, 3))
    pin(document, "ground", "areas", rectangle((15, 20), (3, 4), (3, 6)), code)
    assert (shown(derived, "areas")[3, 4:7] == code).all()
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (2, 2), (6, 8)), 2)
    with_labels_removed(document, 3)
    assert (shown(derived, "areas")[3, 4:7] == code).all()
    assert "pinned" in derived.why("ground", "areas", 3, 5)
    document.save(tmp_path / "p")
    again = Document.load(tmp_path / "p")
    assert np.array_equal(
        shown(Derived(again), "areas") == again.palette.code(tile(7, 3)), shown(derived, "areas") == code
    )
    for _ in range(3):
        document.undo()
    assert np.array_equal(shown(derived, "areas"), before)
    assert PINS not in document.state.planes["ground"]["areas"]


def test_what_is_seen_can_be_pinned_and_let_go():
    document = make_document()
    derived = Derived(document)
    before = shown(derived, "areas")
    pin_seen(derived, "ground", "areas", rectangle((15, 20), (2, 2), (6, 6)))
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (0, 0), (15, 20)), 2)
    after = shown(derived, "areas")
    assert np.array_equal(after[2:7, 2:7], before[2:7, 2:7])
    assert (after[8:] != before[8:]).all()
    unpin_all(document, "ground", "areas")
    assert (shown(derived, "areas") != before).all()


@pytest.mark.parametrize(("layer", "set_id"), [("areas", "areas"), ("lines", "lines")])
def test_a_baked_layer_can_be_read_back_to_what_was_painted(layer, set_id):
    document = make_document()
    derived = Derived(document)
    random = np.random.Generator(np.random.PCG64(3))
    for name, plane in document.state.planes["ground"][layer].items():
        low = 1 if name == "corners" else 0
        poke(document, layer, name, np.s_[:], random.integers(low, low + 2, plane.shape))
    painted = document.state.planes["ground"][layer]
    before = shown(derived, layer)
    bake_layer(derived, "ground", layer)
    assert isinstance(document.project.grounds[0].layer(layer), TileLayer)
    assert np.array_equal(shown(derived, layer), before)
    with pytest.raises(BadRequest, match="single tiles already"):
        bake_layer(derived, "ground", layer)
    poke(document, layer, "cells", np.s_[4, 4], document.palette.code(tile(9, 3)))
    read = read_back(derived, "ground", layer, set_id)
    planes = document.state.planes["ground"][read]
    assert all(np.array_equal(planes[name][1:-1, 1:-1], plane[1:-1, 1:-1]) for name, plane in painted.items())
    assert shown(derived, read)[4, 4] == document.palette.code(tile(9, 3))
    assert np.array_equal(np.asarray(planes[PINS]) > 0, np.isin(np.arange(300).reshape(15, 20), 4 * 20 + 4))
    for _ in range(3):
        document.undo()
    assert np.array_equal(shown(derived, layer), before)


def test_reading_back_needs_tiles_of_the_set():
    document = make_document()
    with pytest.raises(BadRequest, match="no tile of"):
        read_back(Derived(document), "ground", "things", "areas")
    with pytest.raises(BadRequest, match="painted already"):
        read_back(Derived(document), "ground", "areas", "areas")


def test_a_set_says_why_another_tile_is_laid_instead():
    document = make_document()
    derived = Derived(document)
    areas = document.project.join_sets[0]
    kept = {ref: row for ref, row in areas.labels.items() if row != (1, 2, 2, 1)}
    put(document, "x", "join_sets", replace(areas, labels=kept))
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (0, 10), (15, 20)), 2)
    says = derived.why("ground", "areas", 7, 9)
    assert "laid instead, as no tile for A B B A" in says
    assert (shown(derived, "areas") > 0).all()


def test_labels_with_the_wrong_number_of_places_are_refused(tmp_path):
    document = make_document()
    document.save(tmp_path / "p")
    path = tmp_path / "p" / "knitground.json"
    path.write_text(path.read_text().replace("[1, 1, 1, 1]", "[1, 1, 1, 1, 1, 1]", 1))
    with pytest.raises(BadProject, match="6 labels instead of 4"):
        Document.load(tmp_path / "p")


def test_a_block_of_nine_lends_its_quarters_to_what_has_no_nooks_and_two_nooks_theirs_to_the_rest():
    places = (0, 0), (0, 2), (2, 2), (2, 0), (0, 1), (1, 2), (2, 1), (1, 0)

    def art(row: tuple[int, ...]) -> np.ndarray:
        cells = np.ones((3, 3), bool)
        for place, label in zip(places, row, strict=False):
            cells[place] = label
        return ground_art(cells)[24:48, 24:48]

    whole = {tile(number, 0): row for number, row in enumerate(combinations([(1,) * 9], 0))}
    drawn = {ref: art(row) for ref, row in whole.items()}

    def made(*more: tuple[int, ...]) -> dict[tuple[int, ...], np.ndarray]:
        """What is made of the nine and of more."""
        nine = [
            (*(edges[place - 1] & edges[place] for place in range(4)), *edges, 1)
            for edges in product((0, 1), repeat=4)
            if edges[0] | edges[2] and edges[1] | edges[3]
        ]
        labels = {ref: row for ref, row in whole.items() if row in (*nine, *more)}
        join_set = JoinSet("block", "Block", "cell", TERRAINS[:1], True, labels=labels)
        found = make_missing(join_set, coverage(join_set), drawn)
        assert {one.way for one in found} == {"quarters"}
        return {one.labels: one.pixels for one in found}

    assert len(made()) == 16 - 9
    found = made((0, 1, 1, 1, 1, 1, 1, 1, 1), (1, 1, 1, 0, 1, 1, 1, 1, 1))
    assert len(found) == 47 - 9 - 2
    for ref, row in whole.items():
        if row in found:
            assert (found[row][..., 3] != drawn[ref][..., 3]).mean() < 0.04, row
