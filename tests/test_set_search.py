"""Join sets among single images, which are looked at by their size and in the order of their names."""

import numpy as np
import pytest

from knitground.core.edits.animations import run_of
from knitground.core.edits.cuts import set_parts
from knitground.core.edits.finding import Proposed, take_sets
from knitground.core.edits.importing import add_collection
from knitground.core.edits.notes import animate
from knitground.core.edits.set_search import Searched, search_sets, searched_on
from knitground.core.edits.sheets import set_cut
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, sheet_of_tiles, together
from test_arms import as_diamond
from test_lines import EAST, WEST, drawn, fence
from test_moving import SIDE, shore
from test_roads import KINDS, on_grass

WAYS = [(1, 0, 1, 0), (0, 1, 0, 1), (1, 1, 0, 0), (0, 1, 1, 0), (0, 0, 1, 1), (1, 0, 0, 1), (1, 0, 0, 0), (0, 0, 0, 1)]
Images = dict[str, np.ndarray]


def shores() -> Images:
    """The sixteen tiles of a set by its corners."""
    return {f"bay {number:02}": one for number, one in enumerate(shore(1, "waves")[0])}


def fences() -> Images:
    """Pieces of a fence, on nothing."""
    return {f"fence {number}": fence(*np.flatnonzero(way).tolist()) for number, way in enumerate(WAYS)}


def things() -> Images:
    """Images of which no two are of one size."""
    random = np.random.default_rng(5)
    sizes = {"barrel": (9, 12), "gull": (13, 7), "mast": (8, 40)}
    return {name: random.integers(1, 255, (high, wide, 4), np.uint8) for name, (wide, high) in sizes.items()}


def opened(images: Images) -> Document:
    """A project with a collection of some images."""
    document = Document()
    add_collection(document, "harbour", together({f"{name}.png": images[name] for name in sorted(images)}))
    return document


def searched_in(document: Document) -> list[Searched]:
    return searched_on(document.project.sheets[0], Derived(document).sliced(), document.project.tiles)


def found_in(document: Document) -> list[Proposed]:
    return search_sets(searched_in(document), document.project.cuts, lambda share: None)


def names_of(one: Proposed) -> set[str]:
    """The images of a set."""
    return {ref.cut for ref in one.join_set.labels}


def test_sets_of_two_sizes_are_found_among_single_images_and_can_be_taken():
    document = opened(shores() | fences() | things())
    found = {one.join_set.kind: one for one in found_in(document)}
    assert {kind: names_of(one) for kind, one in found.items()} == {"corner": {*shores()}, "edge": {*fences()}}
    assert found["corner"].covered == 1
    ids = take_sets(document, found.values())
    derived = Derived(document)
    whole = {one.id: derived.coverage(one) for one in document.project.join_sets}
    assert [whole[one].lacking for one in ids] == [0, 15 - len(WAYS)]


def test_the_images_of_a_set_have_the_labels_that_its_tiles_have_on_a_sheet():
    tiles = shore(1, "waves")[0]
    sheet = Document()
    add_sheet(
        sheet, "bay.png", png(np.concatenate([np.concatenate(row, axis=1) for row in tiles.reshape(4, 4, 16, 16, 4)]))
    )
    set_cut(sheet, "bay", Cut("tiles", 16, 16))
    (as_sheet,), (single,) = found_in(sheet), found_in(opened(shores()))
    by_number = {4 * ref.row + ref.column: row for ref, row in as_sheet.join_set.labels.items()}
    assert {int(ref.cut.split()[1]): row for ref, row in single.join_set.labels.items()} == by_number
    assert single.join_set.name == as_sheet.join_set.name


@pytest.mark.parametrize(
    ("names", "found"),
    [
        (("fence end", "fence mid", "fence start", "mooring", "net"), 1),
        (("boom", "crate", "davit", "mooring", "net"), 0),
        (("tile 1", "tile 2", "tile 3", "tile 4", "tile 5"), 0),
    ],
)
def test_three_images_that_go_on_in_each_other_are_a_fence_if_they_are_called_so(names, found):
    arts = [fence(WEST), fence(EAST, WEST), fence(EAST), drawn((3, 3, 20, 21)), drawn((8, 2, 12, 22))]
    assert len(found_in(opened(dict(zip(names, arts, strict=True))))) == found


def test_diamonds_are_found_by_what_stands_on_them_whatever_room_is_round_them():
    flat = [as_diamond(one) for one in shore(1, "waves")[0]]
    images = {f"bay {number:02}": np.pad(one, ((number % 4 * 9, 0), (0, 0), (0, 0))) for number, one in enumerate(flat)}
    (one,) = found_in(opened(images))
    assert names_of(one) == {*images}


def test_of_a_set_whose_tiles_move_the_frames_are_those_of_its_images():
    moving = shore(4, "waves")
    images = {f"bay {tile:02} {frame}": moving[frame, tile] for frame in range(4) for tile in range(16)}
    document = opened(images)
    (one,) = found_in(document)
    assert one.moves
    assert {ref.cut: [each.cut for each in run] for ref, run in one.frames.items()} == {
        f"bay {tile:02} 0": [f"bay {tile:02} {frame}" for frame in range(4)] for tile in range(16)
    }
    take_sets(document, [one])
    assert all(len(document.project.tiles[ref].frames) == 4 for ref in one.join_set.labels)


def test_of_images_that_play_others_already_the_first_are_looked_at_and_go_on_playing_them():
    moving = shore(4, "waves")
    images = {f"bay {tile:02} {frame}": moving[frame, tile] for frame in range(4) for tile in range(16)}
    document = opened(images | {"weed": fence(0, 1)[:SIDE, :SIDE]})
    assert not found_in(document)
    runs = {tile: [TileRef("harbour", f"bay {tile:02} {frame}", 0, 0) for frame in range(4)] for tile in range(16)}
    animate(document, {run[0]: run_of(run, 100) for run in runs.values()})
    (one,) = found_in(document)
    assert names_of(one) == {f"bay {tile:02} 0" for tile in range(16)}
    take_sets(document, [one])
    assert all(len(document.project.tiles[ref].frames) == 4 for ref in one.join_set.labels)


@pytest.mark.parametrize(
    ("make", "sentence"),
    [
        (lambda: opened(things()), "No two images"),
        (lambda: one_tile(), "no grid of tiles"),
        (lambda: hexes(), "hexagons"),
    ],
)
def test_where_there_is_nothing_to_look_among_a_sentence_says_so(make, sentence):
    with pytest.raises(BadRequest, match=sentence):
        searched_in(make())


def one_tile() -> Document:
    document = Document()
    add_sheet(document, "one.png", png(sheet_of_tiles(1, 1, seed=1)))
    return document


def hexes() -> Document:
    document = Document()
    add_sheet(document, "comb.png", png(sheet_of_tiles(3, 2, 28, seed=1)))
    set_cut(document, "comb", Cut(document.project.sheets[0].cuts[0].id, 28, 28, shape="hex-pointed"))
    return document


def test_a_lane_has_the_grass_of_another_part_of_its_sheet_though_not_what_has_other_colours():
    lane = on_grass(*KINDS["eleven"])
    grass, brick = on_grass((0, 0, 0, 0), seed=8)[0], np.full_like(lane[0], 255)
    sheet = np.zeros((120, 80, 4), np.uint8)
    for number, tile in enumerate([*lane, grass, brick]):
        # The second part lies below the first, off its grid.
        top, left = (number // 4 * 16, number % 4 * 16) if number < len(lane) else (79, 3 + (number - len(lane)) * 16)
        sheet[top : top + 16, left : left + 16] = tile
    document = Document()
    sheet_id = add_sheet(document, "lane.png", png(sheet))
    parts = Cut("lane", 16, 16, region=Rect(0, 0, 64, 48)), Cut("fields", 16, 16, region=Rect(3, 79, 32, 16))
    set_parts(document, sheet_id, parts)
    (found,) = found_in(document)
    assert found.join_set.labels[TileRef(sheet_id, "fields", 0, 0)] == (1, 1, 1, 1)
    assert len(found.join_set.labels) == len(lane) + 1
    assert not found.join_set.bare
