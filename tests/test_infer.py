from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.reading import read_labels, take_proposal
from knitground.core.edits.sets import add_join_set
from knitground.core.errors import BadRequest
from knitground.core.joins.coverage import coverage, is_formed
from knitground.core.joins.infer import infer_labels
from knitground.core.joins.rims import read_rims
from knitground.core.joins.sets import JoinKind, JoinSet, Terrain
from knitground.core.joins.turning import turned_labels
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.tile import orient
from making import DEMO, block, tile

SIDE = 16


def drawn(labels: tuple[int, ...], kind: JoinKind, colours: np.ndarray, noise: np.ndarray) -> np.ndarray:
    """A tile that shows its labels: quarters for corners, bars for edges, a patch for both."""
    at = (np.arange(SIDE) + 0.5) / SIDE - 0.5
    y, x = at[:, None], at[None, :]
    shown = np.zeros((SIDE, SIDE), dtype=int)
    if kind == "corner":
        places = np.where(y < 0, np.where(x < 0, 0, 1), np.where(x < 0, 3, 2))
        shown = np.array(labels)[places]
    elif kind == "edge":
        for (down, across), label in zip(((-1, 0), (0, 1), (1, 0), (0, -1)), labels, strict=True):
            along = np.clip(y * down + x * across, 0, 0.5)
            shown[np.hypot(y - along * down, x - along * across) < 0.16] += label
        shown = np.minimum(shown, 1)
    else:
        third = (np.digitize(y, (-0.3, 0.3)), np.digitize(x, (-0.3, 0.3)))
        spots = {(0, 0): 0, (0, 2): 1, (2, 2): 2, (2, 0): 3, (0, 1): 4, (1, 2): 5, (2, 1): 6, (1, 0): 7}
        grid = np.ones((3, 3), dtype=int)
        for spot, place in spots.items():
            grid[spot] = labels[place]
        shown = grid[third]
    pixels = np.full((SIDE, SIDE, 4), 255.0)
    pixels[..., :3] = colours[shown] + noise
    return np.clip(pixels, 0, 255).astype(np.uint8)


def same_names(found: np.ndarray, truth: list[tuple[int, ...]]) -> bool:
    """Whether labels agree up to the names of the terrains."""
    pairs = set(zip(found.ravel().tolist(), np.array(truth).ravel().tolist(), strict=True))
    return len(pairs) == len({one for one, _ in pairs}) == len({other for _, other in pairs})


def combinations(kind: JoinKind) -> list[tuple[int, ...]]:
    if kind == "full":
        return [row for row in product((0, 1), repeat=8) if is_formed(row)]
    return list(product((0, 1), repeat=4))


@given(data=st.data(), kind=st.sampled_from(["corner", "edge", "full"]), told=st.booleans(), grain=st.integers(0, 14))
@settings(max_examples=15, deadline=None)
def test_a_made_set_with_noise_variants_and_turns_gives_its_labels_back(data, kind, told, grain):
    seed = data.draw(st.integers(0, 2**16))
    random = np.random.Generator(np.random.PCG64(seed))
    colours = np.array([[90, 150, 70], [190, 150, 100]]) + random.integers(-25, 26, (2, 3))
    rows = combinations(kind) + [combinations(kind)[n] for n in random.integers(0, 16, 4)]
    tiles = [drawn(row, kind, colours, random.normal(0, grain, (SIDE, SIDE, 1))) for row in rows]
    for number in random.integers(0, len(rows), 4):
        orientation = int(random.integers(1, 8))
        rows.append(turned_labels(rows[number], kind, orientation))
        tiles.append(orient(tiles[number], orientation))
    order = random.permutation(len(rows))
    found = infer_labels(np.stack(tiles)[order], kind, terrains=2 if told else None)
    assert same_names(found.labels, [rows[place] for place in order])
    assert ((found.confidence >= 0) & (found.confidence <= 1)).all()


def test_the_demo_is_read_as_it_was_labelled():
    document = Document.load(DEMO)
    derived = Derived(document)
    for join_set, terrains in ((document.project.join_sets[0], 4), (document.project.join_sets[1], 2)):
        tiles = np.stack([derived.tile(ref) for ref in join_set.labels])
        found = infer_labels(tiles, join_set.kind, terrains=terrains)
        truth = list(join_set.labels.values())
        naming = {}
        for mine, theirs in zip(found.labels.ravel().tolist(), np.array(truth).ravel().tolist(), strict=True):
            naming.setdefault(mine, []).append(theirs)
        common = {mine: max(set(some), key=some.count) for mine, some in naming.items()}
        right = [tuple(common[n] for n in row) == want for row, want in zip(found.labels.tolist(), truth, strict=True)]
        assert np.mean(right) > 0.95


def test_terrains_that_a_reading_adds_are_called_and_coloured_as_their_art_is():
    document = Document()
    set_id = add_join_set(document, "Meadow", "corner", ())
    rows = combinations("corner")
    tiles = [
        drawn(row, "corner", np.array([[98, 150, 60], [216, 192, 142]]), np.zeros((SIDE, SIDE, 1))) for row in rows
    ]
    refs = [tile(number, 0) for number in range(len(rows))]
    take_proposal(document, set_id, read_labels(document.project.join_sets[0], refs, tiles, 2))
    first, second = document.project.join_sets[0].terrains
    assert {first.name, second.name} == {"Leafy green", "Sandy"}
    assert first.letter != second.letter
    green = first if first.name == "Leafy green" else second
    red, middle, blue = (int(green.colour[at : at + 2], 16) for at in (1, 3, 5))
    assert middle > red > blue


def test_a_tile_that_fits_neither_terrain_is_told_to_be_unsure():
    colours = np.array([[60, 120, 60], [200, 170, 120]])
    rows = combinations("corner")
    tiles = [drawn(row, "corner", colours, np.zeros((SIDE, SIDE, 1))) for row in rows]
    between = drawn((0, 0, 0, 0), "corner", colours.mean(axis=0)[None].repeat(2, axis=0), np.zeros((SIDE, SIDE, 1)))
    found = infer_labels(np.stack([*tiles, between]), "corner", terrains=2)
    assert found.confidence[-1] < 0.5 < found.confidence[:-1].min()


def test_transparent_counts_as_a_terrain_and_one_plain_tile_as_one():
    solid = np.full((3, SIDE, SIDE, 4), 200, dtype=np.uint8)
    assert infer_labels(solid, "corner").labels.max() == 0
    solid[2, :, : SIDE // 2] = 0
    found = infer_labels(solid, "corner")
    assert found.labels.tolist() == [[0] * 4, [0] * 4, [1, 0, 0, 1]]


@pytest.mark.parametrize(("count", "terrains"), [(0, None), (1, None), (700, None), (2, 30), (2, 0)])
def test_what_cannot_be_read_is_said(count, terrains):
    with pytest.raises(BadRequest, match="cells"):
        infer_labels(np.zeros((count, 4, 4, 4), dtype=np.uint8), "corner", terrains=terrains)


def test_diamonds_are_read_for_a_set_that_may_border_on_nothing():
    side = 24
    y, x = np.mgrid[0:side, 0 : 2 * side]
    down, across = (y + 0.5) / side, (x + 0.5) / (2 * side)
    u, v = across + down - 0.5, down - across + 0.5
    inside = (u >= 0) & (u < 1) & (v >= 0) & (v < 1)
    rows = list(product((0, 1), repeat=4))
    tiles, refs = [], []
    for number, labels in enumerate(rows):
        pixels = np.zeros((side, 2 * side, 4), dtype=np.uint8)
        places = np.where(v < 0.5, np.where(u < 0.5, 0, 1), np.where(u < 0.5, 3, 2))
        pixels[inside & (np.array(labels)[places] == 1)] = (120, 160, 90, 255)
        tiles.append(pixels)
        refs.append(tile(number, 0))
    join_set = JoinSet("s", "S", "corner", (Terrain("Moss", "M", "#80a040"),), True)
    found = read_labels(join_set, refs, tiles, shape="isometric")
    assert found.labels == dict(zip(refs, rows, strict=True))
    assert found.terrains == 1
    known = JoinSet(
        "s", "S", "corner", (*join_set.terrains, Terrain("Lawn", "L", "#80a0a0")), True, {refs[3]: (0, 0, 2, 2)}
    )
    assert read_labels(known, refs, tiles, shape="isometric").labels[refs[15]] == (2, 2, 2, 2)


@pytest.mark.parametrize(("clear", "bare"), [(False, False), (True, True)])
def test_a_new_set_borders_on_nothing_only_where_its_tiles_do(clear, bare):
    document = Document()
    set_id = add_join_set(document, "Lines", "edge", ("Path",))
    rows = combinations("edge")
    colours = np.array([[60, 120, 60], [200, 170, 120]])
    tiles = [drawn(row, "edge", colours, np.zeros((SIDE, SIDE, 1))) for row in rows]
    for pixels in tiles if clear else ():
        pixels[(pixels[..., 0] == 60)] = 0
    refs = [tile(number, 0) for number in range(len(rows))]
    take_proposal(document, set_id, read_labels(document.project.join_sets[0], refs, tiles))
    taken = document.project.join_sets[0]
    assert taken.bare is bare
    assert coverage(taken).lacking == 0
    document.undo()
    assert document.project.join_sets[0].bare


@pytest.mark.parametrize("seed", range(4))
def test_a_block_on_clear_ground_is_read_by_where_it_draws_back_from_the_sides(seed):
    joins = JoinSet("b", "Bank", "cell", (Terrain("Bank", "B", "#806040"),))
    refs = [tile(column, row) for row in range(4) for column in range(4)]
    proposal = read_labels(joins, refs, block(seed))
    assert (proposal.terrains, dict(proposal.added)) == (1, {})
    for ref in refs:
        north, east, south, west = ref.row > 0, ref.column < 3, ref.row < 3, ref.column > 0
        corners = (north and west, north and east, south and east, south and west)
        row = (*corners, north, east, south, west, True)
        # What the moss hangs into belongs below it, and nowhere else.
        hangs = ref.row == 1
        assert proposal.labels[ref] == ((0,) * 9 if hangs else row), ref
        assert not hangs or ref in proposal.unsure()


def test_paths_on_clear_ground_are_not_taken_for_a_block():
    tiles = np.zeros((16, 24, 24, 4), np.uint8)
    for number, one in enumerate(tiles):
        one[8:16, 8:16] = (90, 80, 60, 255)
        for bit, (down, across) in enumerate(((slice(0, 8), slice(8, 16)), (slice(8, 16), slice(16, 24)),
                                              (slice(16, 24), slice(8, 16)), (slice(8, 16), slice(0, 8)))):  # fmt: skip
            if number >> bit & 1:
                one[down, across] = (90, 80, 60, 255)
    assert read_rims(tiles) is None
    found = infer_labels(tiles, "cell")
    assert (found.labels[15, 4:8] == found.labels[15, 8]).all()
    assert found.labels[0, 4] != found.labels[0, 8]


def test_ground_with_holes_that_ends_nowhere_is_still_ground():
    tiles = [one for place, one in enumerate(block(5, 6, 6)) if 0 < place // 6 < 5 and 0 < place % 6 < 5]
    for one in tiles:
        one[9:14, 9:14] = 0
    assert read_rims(np.stack(tiles)) is None
    joins = JoinSet("b", "Bank", "cell", (Terrain("Bank", "B", "#806040"),))
    refs = [tile(number, 0) for number in range(len(tiles))]
    labels = read_labels(joins, refs, tiles).labels
    assert all(all(row[:8]) for row in labels.values())
