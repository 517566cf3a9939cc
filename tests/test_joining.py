"""Sets that share a terrain: found as one, painted on one layer, with what they share between the others."""

import sys
from dataclasses import replace
from itertools import product
from pathlib import Path

import numpy as np

from knitground.core.edits.finding import Proposed, propose, take_sets
from knitground.core.edits.grounds import paint_with
from knitground.core.edits.joined_sets import join_sharing
from knitground.core.edits.joining import join_alike, joined_again, taken_apart, whole_of
from knitground.core.edits.sets import add_join_set
from knitground.core.edits.sheets import remove_sheet, set_cut
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import by_id
from knitground.core.joins.coverage import coverage
from knitground.core.joins.find import find_sets
from knitground.core.joins.sets import JoinSet
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, cell_pixels, plane_of, png, poke

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "bench"))
from shared_cases import joined_sets, make_shared_case

SIDE = 16
CUT = TileRef("moor", "tiles", 0, 0)
HEATH, SLATE, ROSE, SAGE = (132, 112, 86), (58, 66, 82), (176, 84, 120), (150, 160, 150)
CORNERS = list(product((0, 1), repeat=4))


def meeting(below: tuple[int, ...], above: tuple[int, ...], seed: int) -> list[np.ndarray]:
    """The sixteen tiles of two terrains, in the order of `CORNERS`."""
    random = np.random.default_rng(seed)
    ys, xs = (np.mgrid[0:SIDE, 0:SIDE] + 0.5) / SIDE
    tiles = []
    for nw, ne, se, sw in CORNERS:
        depth = nw * (1 - xs) * (1 - ys) + ne * xs * (1 - ys) + se * xs * ys + sw * (1 - xs) * ys
        tile = np.full((SIDE, SIDE, 4), 255, np.uint8)
        grain = random.normal(0, 5, (SIDE, SIDE, 1))
        tile[..., :3] = np.clip(np.where((depth > 0.5)[..., None], above, below) + grain, 0, 255)
        tiles.append(tile)
    return tiles


def sheet(*sets: list[np.ndarray]) -> np.ndarray:
    """Sets in blocks of 4 x 4 beside one another, (4, 4 n, SIDE, SIDE, 4)."""
    return np.concatenate([np.stack(one).reshape(4, 4, SIDE, SIDE, 4) for one in sets], axis=1)


def found_on(tiles: np.ndarray, cut: TileRef = CUT) -> list[Proposed]:
    held = tiles[..., 3].any(axis=(2, 3))
    refs = {cut._replace(column=x, row=y): tiles[y, x] for y, x in np.argwhere(held).tolist()}
    return join_alike(
        propose(find_sets(tiles, held), refs, cut), refs, {(cut.sheet, cut.cut): Cut("tiles", SIDE, SIDE)}
    )


def moor() -> np.ndarray:
    return sheet(meeting(HEATH, SLATE, 1), meeting(ROSE, HEATH, 2), meeting(HEATH, SAGE, 3))


def shown(join_set: JoinSet) -> dict[tuple[int, int], tuple[str, ...]]:
    """What each tile shows, by the names of terrains."""
    names = [terrain.name for terrain in join_set.terrains]
    return {(ref.column, ref.row): tuple(names[label - 1] for label in row) for ref, row in join_set.labels.items()}


def test_sets_on_one_ground_are_one_with_the_ground_first():
    (one,) = found_on(moor())
    assert len(one.join_set.terrains) == 4
    assert one.covered == 1.0
    assert len({terrain.letter for terrain in one.join_set.terrains}) == 4
    ground = one.join_set.terrains[0].name
    whole = shown(one.join_set)
    assert len(whole) == 48
    for column, row in product(range(12), range(4)):
        corners = CORNERS[4 * row + column % 4]
        heath = int(4 <= column < 8)
        assert [name == ground for name in whole[column, row]] == [label == heath for label in corners]
    assert [part.join_set.terrains[0].name for part in one.parts] == [ground] * 3
    assert {at: names for part in one.parts for at, names in shown(part.join_set).items()} == whole


def test_what_is_painted_of_one_does_not_hide_another_and_their_ground_lies_between():
    tiles = moor()
    document = Document()
    name = add_sheet(document, "moor.png", png(tiles.swapaxes(1, 2).reshape(4 * SIDE, 12 * SIDE, 4)))
    cut = document.project.sheets[0].cuts[0]
    (set_id,) = take_sets(document, found_on(tiles, TileRef(name, cut.id, 0, 0)))
    ground, layer, _ = paint_with(document, None, set_id, "join_sets")
    assert (plane_of(document, layer, "corners", ground) == 1).all()
    corners = np.ones((12, 12), np.uint8)
    corners[2:10, 2:6], corners[2:10, 6:10] = 2, 3
    poke(document, layer, "corners", (slice(12), slice(12)), corners, ground)
    knitted = Derived(document).knitted(ground)
    assert (knitted.laid(layer, CellRect(0, 0, 11, 11)).codes > 0).all()
    colours = cell_pixels(Derived(document), CellRect(5, 0, 1, 11), ground)[..., :3].astype(float)
    columns = colours.mean(axis=0)
    near = {other: np.abs(columns - other).sum(axis=-1) < 40 for other in (HEATH, SLATE, ROSE, SAGE)}
    shown = [len(set(np.flatnonzero(near[other]) // SIDE)) for other in near]
    assert shown[0] >= 2, "the ground lies on both sides, and between the two"
    assert sum(count >= 2 for count in shown[1:]) == 2
    assert {one.kind for one in all_findings(Derived(document))} <= {"seam"}, "nothing is missing, nothing unmet"


def test_what_is_drawn_in_two_ways_is_not_mixed():
    rocky = [tile.copy() for tile in meeting(HEATH, SLATE, 5)]
    for tile, (nw, ne, se, sw) in zip(rocky, CORNERS, strict=True):
        if len({nw, ne, se, sw}) == 2:
            tile[6:10, 6:10, :3] = (240, 240, 60)
    found = found_on(sheet(meeting(HEATH, SLATE, 1), rocky))
    assert not any(one.parts for one in found)


def test_a_chain_of_sets_is_one_and_a_ring_of_three_too():
    chain = [meeting(HEATH, SLATE, 1), meeting(SLATE, ROSE, 2), meeting(ROSE, SAGE, 3)]
    (one,) = found_on(sheet(*chain))
    assert (len(one.parts), len(one.join_set.terrains), one.covered) == (3, 4, 1.0)
    (one,) = found_on(sheet(*chain[:2], meeting(ROSE, HEATH, 4)))
    assert (len(one.parts), len(one.join_set.terrains)) == (3, 3)
    assert one.covered < 1, "three may meet in a point, and no tile shows that"


def test_what_may_border_on_nothing_or_is_of_another_size_stays_a_set_of_its_own():
    clear = meeting(HEATH, SLATE, 1)
    for tile in clear:
        tile[np.abs(tile[..., 0].astype(int) - SLATE[0]) < 25] = 0
    found = found_on(sheet(clear, meeting(HEATH, ROSE, 2)))
    assert sorted((one.join_set.bare, len(one.parts)) for one in found) == [(False, 0), (True, 0)]
    (first,), (second,) = (found_on(sheet(meeting(HEATH, other, 3))) for other in (ROSE, SAGE))
    moved = {ref._replace(cut="others"): row for ref, row in second.join_set.labels.items()}
    second = second._replace(join_set=replace(second.join_set, labels=moved))
    of = {"tiles": sheet(meeting(HEATH, ROSE, 3)), "others": sheet(meeting(HEATH, SAGE, 3))}
    tiles = {ref: of[ref.cut][ref.row, ref.column] for one in (first, second) for ref in one.join_set.labels}
    for side, joined in ((SIDE, 1), (SIDE * 2, 2)):
        cuts = {("moor", "tiles"): Cut("tiles", SIDE, SIDE), ("moor", "others"): Cut("others", side, SIDE)}
        assert len(join_alike([first, second], tiles, cuts)) == joined


def test_a_joined_set_is_taken_apart_and_joined_again_until_a_part_is_gone():
    (one,) = found_on(moor())
    apart = taken_apart([one], one)
    assert apart == list(one.parts)
    assert whole_of(apart[1], [one], apart) is one
    assert joined_again(apart, one) == [one]
    assert whole_of(apart[1], [one], apart[1:]) is None


def test_most_families_on_made_up_sheets_are_joined_and_nothing_else_is():
    right = families = 0
    for seed in (100, 102, 106):
        tiles, held, there = make_shared_case(seed)
        found = list(joined_sets(tiles, held))
        for family in there:
            if len(family) > 1:
                families += 1
                right += any(
                    all(len(cells.keys() & every) >= 0.8 * len(cells) for cells in family) for every, _ in found
                )
        for every, parts in found:
            of = {n for n, some in enumerate(there) for cells in some if len(cells.keys() & every) > 0.5 * len(cells)}
            assert len(parts) == 1 or len(of) == 1
    assert right >= 0.75 * families


def two_sheets() -> Document:
    """A project with a set on each of three sheets, of which two lie on one ground."""
    document = Document()
    for name, tiles in (
        ("slate", meeting(HEATH, SLATE, 1)),
        ("rose", meeting(ROSE, HEATH, 2)),
        ("other", meeting(SAGE, (20, 90, 200), 3)),
    ):
        sheet_id = add_sheet(document, f"{name}.png", png(np.concatenate(tiles, axis=1)))
        set_cut(document, sheet_id, Cut("tiles", SIDE, SIDE))
        take_sets(document, found_on(np.stack(tiles)[None], TileRef(sheet_id, "tiles", 0, 0)))
    return document


def test_sets_of_several_sheets_are_joined_when_one_says_so():
    document = two_sheets()
    slate, rose, other = document.project.join_sets
    assert len(join_sharing(Derived(document), slate.id)) == 1
    joined, left = document.project.join_sets
    assert (joined.id, left, len(joined.terrains), len(joined.labels)) == (slate.id, other, 3, 32)
    for ref, row in slate.labels.items():
        named = [[one.terrains[label - 1].name for label in one.labels[ref]] for one in (slate, joined)]
        assert named[0] == named[1], row
    assert sum(1 in row for row in joined.labels.values()) == 30, "the ground is first: two tiles show none of it"
    assert coverage(joined).lacking == 0
    assert join_sharing(Derived(document), joined.id) == []
    document.undo()
    assert document.project.join_sets == (slate, rose, other)


def test_what_is_painted_of_a_set_stays_what_it_is_when_others_are_joined_to_it():
    document = two_sheets()
    for one in document.project.join_sets[:2]:
        paint_with(document, None, one.id, "join_sets")
        join_sharing(Derived(document), one.id)
        joined = by_id(document.project.join_sets, one.id)
        assert joined.terrains[:2] == one.terrains
        assert {ref: joined.labels[ref] for ref in one.labels} == dict(one.labels)
        document.undo()


def test_a_set_that_a_layer_is_knit_from_stays_when_it_is_joined_to_another():
    document = two_sheets()
    slate, rose, other = document.project.join_sets
    paint_with(document, None, rose.id, "join_sets")
    join_sharing(Derived(document), slate.id)
    assert [one.id for one in document.project.join_sets] == [slate.id, rose.id, other.id]
    assert document.project.join_sets[1] == rose


def test_sets_without_tiles_or_without_their_sheet_share_nothing():
    document = two_sheets()
    empty = add_join_set(document, "Empty", "corner", ("A",))
    assert join_sharing(Derived(document), empty) == []
    slate = document.project.join_sets[0]
    remove_sheet(document, "rose")
    assert join_sharing(Derived(document), slate.id) == []
