"""Steps of recipes: what each lays, on every kind of layer and grid, round the borders, and only where it may."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.growing import grow, grown_planes, steps_after
from knitground.core.edits.recipes import copied, first_step, moved, new_recipe, switched
from knitground.core.errors import BadRecipe
from knitground.core.grid import GRIDS
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.grow.places import linked, places_of
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.region import Where
from knitground.core.grow.steps import (
    KINDS,
    CavesStep,
    ConnectStep,
    DressStep,
    ExampleStep,
    FitStep,
    FloodStep,
    IslandStep,
    MazeStep,
    MirrorStep,
    NoiseStep,
    PathStep,
    PictureStep,
    RoomsStep,
    RunStep,
    ScatterStep,
    TidyStep,
)
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import add_sheet, make_document, plane_of, png, poke, tile

PARTS = (MixPart(tile(2, 3), 3), MixPart(tile(5, 3), 1), MixPart(tile(7, 3), 1))
SHAPES = (CavesStep, RoomsStep, IslandStep, PathStep, MazeStep)


def with_mix(document: Document) -> Document:
    document.define("mix", replace(document.project, mixes=(Mix("m", "M", PARTS),)))
    return document


def round_about(width: int, height: int) -> Document:
    document = make_document(width, height)
    ground = replace(document.project.grounds[0], wraps_x=True, wraps_y=True)
    document.define("round", replace(document.project, grounds=(ground,)))
    return document


def laid(document: Document, *steps, seed: int = 5, plane: str = "") -> np.ndarray:
    """What lies on the layer of the last step after a recipe."""
    derived = Derived(document)
    planes = grown_planes(derived, Recipe("r", "R", "ground", seed, steps))[steps[-1].layer]
    name = plane or document.project.grounds[0].layer(steps[-1].layer).area_plane
    return np.asarray(planes[name])


def parts(document: Document, mask: np.ndarray, on: str = "cells") -> int:
    return places_of(document.project.grounds[0].board, on).parts(mask)[0]


@pytest.mark.parametrize("layer", ["areas", "walls", "lines"])
@pytest.mark.parametrize("amount", [0.0, 0.25, 1.0])
def test_noise_covers_the_share_it_was_given(layer, amount):
    document = make_document(60, 50)
    found = laid(document, NoiseStep(layer, 1, amount=0.0, elsewhere=2 if layer == "areas" else 0),
                 NoiseStep(layer, 1, scale=9.0, amount=amount))  # fmt: skip
    assert float((found == 1).mean()) == pytest.approx(amount, abs=0.05)


def test_a_band_lies_round_what_noise_lays():
    found = laid(
        make_document(60, 50), NoiseStep("walls", 1, scale=9.0, amount=0.3, band=2, band_amount=0.2, elsewhere=3)
    )
    assert [float((found == number).mean()) for number in (1, 2, 3)] == pytest.approx([0.3, 0.2, 0.5], abs=0.02)
    core, far = found == 1, found == 3
    beside = (core[:, :-1] & far[:, 1:]) | (far[:, :-1] & core[:, 1:])
    borders = (core[:, :-1] != core[:, 1:]).mean()
    assert beside.mean() < 0.5 * borders


@pytest.mark.parametrize("kind", [NoiseStep, *SHAPES, TidyStep, ConnectStep, MirrorStep])
def test_the_lattice_closes_so_that_a_ground_goes_round(kind):
    document = round_about(24, 18)
    found = laid(document, NoiseStep("areas", 2, scale=6.0, elsewhere=1), kind("areas", 2))
    assert np.array_equal(found[0], found[-1])
    assert np.array_equal(found[:, 0], found[:, -1])


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind not in (FitStep, ExampleStep, PictureStep)])
def test_a_step_touches_only_what_it_may(kind):
    document = with_mix(make_document(40, 30))
    layer = "things" if kind.takes_tiles else "walls"
    more = {"mix": "m"} if hasattr(kind, "mix") else {"reads": "areas"} if hasattr(kind, "reads") else {}
    before = NoiseStep("walls", 1, scale=20.0, amount=0.6, elsewhere=0)
    region = laid(document, before) == 1
    step = kind(layer, 2, **more, where=Where("walls", 1))
    derived = Derived(document)
    after = steps_after(derived, Recipe("r", "R", "ground", 5, (before, step)))
    name = "cells" if layer == "things" else "plan"
    first, last = (np.asarray(one.planes.get(layer, document.state.planes["ground"][layer])[name]) for one in after)
    changed = first != last
    assert not (changed & ~region).any()
    if kind not in (ConnectStep, TidyStep, MirrorStep):
        assert changed.any()


def test_inside_and_outside_keep_away_from_a_border():
    document = with_mix(make_document(40, 30))
    before = NoiseStep("walls", 1, scale=14.0, amount=0.5, elsewhere=0)
    region = laid(document, before) == 1
    places = places_of(document.project.grounds[0].board, "cells")
    for outside, away in ((False, places.shrunk(region, 2)), (True, places.shrunk(~region, 2))):
        step = FloodStep("things", mix="m", where=Where("walls", 1, inside=2, outside=outside))
        assert np.array_equal(laid(document, before, step) != 0, away)


@pytest.mark.parametrize("grid", GRIDS)
@pytest.mark.parametrize("kind", [CavesStep, RoomsStep])
def test_caves_and_rooms_hang_together(grid, kind):
    document = make_document(40, 30, grid)
    board = document.project.grounds[0].board
    on = "cells"
    places = places_of(board, on)
    from knitground.core.grow.steps.step import Canvas

    may = np.ones((places.height, places.width), dtype=bool)
    canvas = Canvas(np.zeros(may.shape, np.uint8), places, may, board.spacing, (False, False), 3, None)
    there = kind("plan", 1, elsewhere=0).marks(canvas) == 1
    assert 0.1 < there.mean() < 0.8
    assert places.parts(there)[0] == 1


def test_caves_have_rooms_of_the_sizes_asked_for():
    document = make_document(60, 50)
    found = laid(document, CavesStep("walls", 1, elsewhere=0, least=30, joined=False)) == 1
    _, rooms = places_of(document.project.grounds[0].board, "cells").parts(found)
    assert np.bincount(rooms.ravel())[1:].min() >= 30
    small = laid(document, CavesStep("walls", 1, elsewhere=0, least=4, greatest=120, joined=False)) == 1
    _, rooms = places_of(document.project.grounds[0].board, "cells").parts(small)
    assert np.bincount(rooms.ravel())[1:].max() <= 120


@settings(deadline=None, max_examples=20)
@given(seed=st.integers(0, 1000), share=st.floats(0.05, 0.6))
def test_linking_joins_all_parts_and_takes_nothing_away(seed, share):
    board = make_document(30, 22).project.grounds[0].board
    places = places_of(board, "cells")
    random = np.random.default_rng(seed)
    mask = random.random((22, 30)) < share
    found = linked(places, mask, 1 + random.random(mask.shape))
    assert (found | mask == found).all()
    assert places.parts(found)[0] == min(1, int(mask.any()))


@pytest.mark.parametrize("wraps", [False, True])
def test_all_of_a_maze_is_reached_by_one_way_and_has_no_open_field(wraps):
    document = (round_about if wraps else make_document)(40, 30)
    found = laid(document, MazeStep("walls", 1, loops=0.0, elsewhere=0)) == 1
    assert parts(document, found) == 1
    one, other = places_of(document.project.grounds[0].board, "cells").links
    ways = found.ravel()[one] & found.ravel()[other]
    # A tree has one link less than places; each link is told from both ends.
    assert ways.sum() // 2 == found.sum() - 1


@pytest.mark.parametrize("goes", ["across", "down"])
@pytest.mark.parametrize("width", [1, 2, 3])
def test_a_way_goes_from_border_to_border_and_bridges_what_it_crosses(goes, width):
    document = make_document(40, 30)
    walls = NoiseStep("walls", 1, scale=10.0, elsewhere=0)
    before, found = (
        laid(document, walls),
        laid(document, walls, PathStep("walls", 2, width=width, goes=goes, crossed=1, bridge=3)),
    )
    way = (found == 2) | (found == 3)
    assert way[:, [0, -1]].any(axis=0).all() if goes == "across" else way[[0, -1]].any(axis=1).all()
    assert parts(document, way) == 1
    assert np.array_equal(found == 3, way & (before == 1))


def test_an_island_keeps_off_the_borders_and_has_its_coast_all_round():
    found = laid(make_document(50, 40), IslandStep("walls", 1, elsewhere=3, coast=2, coast_width=1))
    assert not (found[[0, -1]] == 1).any()
    assert not (found[:, [0, -1]] == 1).any()
    land = found == 1
    assert 0.3 < land.mean() < 0.6
    sea = found == 3
    assert not (land[:, :-1] & sea[:, 1:]).any()
    assert not (land[:-1] & sea[1:]).any()


def test_tidying_grows_shrinks_and_clears():
    document = make_document(40, 30)
    start = NoiseStep("walls", 1, scale=6.0, octaves=5, amount=0.4, elsewhere=0)
    before = laid(document, start) == 1

    def after(**how) -> np.ndarray:
        return laid(document, start, TidyStep("walls", 1, **how)) == 1

    assert (after(does="grow") | before == after(does="grow")).all()
    assert (after(does="shrink") & before == after(does="shrink")).all()
    places = places_of(document.project.grounds[0].board, "cells")
    for does, mask in (("specks", after(does="specks", amount=6)), ("holes", ~after(does="holes", amount=6))):
        assert np.bincount(places.parts(mask)[1].ravel())[1:].min() > 6, does
    assert places.parts(after(does="smooth", amount=4))[0] <= places.parts(before)[0]


@pytest.mark.parametrize("does", ["specks", "shrink", "smooth"])
def test_what_tidying_takes_away_becomes_what_lies_beside_it(does):
    document = make_document(40, 30)
    start = NoiseStep("walls", 1, scale=6.0, octaves=5, amount=0.5, elsewhere=2)
    before = laid(document, start)
    after = laid(document, start, TidyStep("walls", 1, does=does, amount=2))
    assert (after != before).any()
    assert (after[after != before] == 2).all() if does != "smooth" else set(np.unique(after)) == {1, 2}


def test_scattered_things_keep_their_distance_and_follow_the_mix():
    document = with_mix(make_document(60, 50))
    found = laid(document, ScatterStep("things", mix="m", apart=4.0))
    rows, columns = np.nonzero(found)
    away = np.hypot(rows[:, None] - rows, columns[:, None] - columns)
    assert (away[~np.eye(len(rows), dtype=bool)] >= 4.0).all()
    # As many as fit: no place is free of all of them.
    every = np.argwhere(found == 0)
    assert all(np.hypot(rows - row, columns - column).min() < 4.0 for row, column in every)
    chance = laid(document, ScatterStep("things", mix="m", apart=4.0, spread="by chance"))
    assert (chance != 0).sum() > 20
    gathered = laid(document, ScatterStep("things", mix="m", apart=2.0, clusters=0.8))
    assert 0 < (gathered != 0).mean() < 0.5 * (laid(document, ScatterStep("things", mix="m", apart=2.0)) != 0).mean()


def test_a_mix_laid_so_that_no_two_are_alike_still_keeps_its_shares():
    document = with_mix(make_document(80, 60))
    found = laid(document, FloodStep("things", mix="m", alike=False))
    assert not (found[:, :-1] == found[:, 1:]).any()
    assert not (found[:-1] == found[1:]).any()
    plain = laid(document, FloodStep("things", mix="m"))
    codes = np.unique(plain)
    assert [float((plain == code).mean()) for code in codes] == pytest.approx([0.6, 0.2, 0.2], abs=0.03)


@pytest.mark.parametrize("at", ["border", "corners", "ends"])
def test_dressing_lies_along_borders_in_corners_and_at_dead_ends(at):
    document = with_mix(make_document(40, 30))
    maze = MazeStep("walls", 1, loops=0.0, elsewhere=0)
    way = laid(document, maze) == 1
    found = laid(document, maze, DressStep("things", mix="m", at=at, amount=1.0, where=Where("walls", 1))) != 0
    padded = np.pad(way, 1, mode="edge")
    closed = sum((~padded[1 + down : 31 + down, 1 + right : 41 + right]).astype(int)
                 for down, right in ((0, 1), (1, 0), (0, -1), (-1, 0)))  # fmt: skip
    assert found.any()
    assert not (found & ~way).any()
    assert np.array_equal(found, way & (closed == 3)) if at == "ends" else (closed[found] >= 1).all()


@pytest.mark.parametrize("how", ["left-right", "up-down", "both", "turned"])
def test_symmetry_repeats_one_half(how):
    found = laid(make_document(20, 15), NoiseStep("walls", 1, scale=5.0, elsewhere=0), MirrorStep("walls", how=how))
    images = {"left-right": [found[:, ::-1]], "up-down": [found[::-1]], "both": [found[::-1], found[:, ::-1]],
              "turned": [found[::-1, ::-1]]}[how]  # fmt: skip
    # The middle row of an odd height has no partner to be turned onto.
    rows = np.s_[:7] if how == "turned" else np.s_[:]
    assert all(np.array_equal(found[rows], image[rows]) for image in images)
    assert len(np.unique(found)) == 2


def test_more_of_a_piece_holds_only_what_the_piece_holds():
    document = make_document(40, 30)
    start = NoiseStep("walls", 1, scale=6.0, elsewhere=0)
    example = laid(document, start)[4:16, 4:16]
    found = laid(document, start, ExampleStep("walls", top=4, left=4, blocks=2))
    blocks = [{window.tobytes() for window in np.lib.stride_tricks.sliding_window_view(plane, (2, 2)).reshape(-1, 4)}
              for plane in (found.astype(np.uint8), example)]  # fmt: skip
    assert blocks[0] <= blocks[1]


def test_bright_parts_of_a_picture_become_terrain():
    document = make_document(40, 30)
    picture = np.zeros((60, 80, 4), np.uint8)
    picture[..., 3] = 255
    picture[:, 40:, :3] = 255
    picture[:30, :40, :3] = 110
    add_sheet(document, "hills", png(picture))
    step = PictureStep("walls", 1, 0.5, 0.2, sheet="hills", band=2, elsewhere=3)
    found = laid(document, step)
    assert (found[:, 20:] == 1).all()
    assert (found[:15, :20] == 2).all()
    assert (found[15:, :20] == 3).all()
    assert (laid(document, replace(step, takes="dark"))[15:, :20] == 1).all()
    with pytest.raises(BadRecipe, match="picture that is not there"):
        laid(document, replace(step, sheet="gone"))


def test_filling_to_fit_is_a_step_like_any_other():
    document = make_document()
    recipe = Recipe("r", "R", "ground", 5, (FitStep("areas", join_set="areas", where=Where("walls", 0, outside=True)),))
    grow(Derived(document), recipe)
    codes = Derived(document).knitted("ground").laid("areas", document.project.grounds[0].board.whole)
    assert not codes.unmet.any()
    assert len(np.unique(codes.codes)) > 8


def test_a_throw_changes_one_step_and_one_that_is_off_is_left_out():
    document = make_document(40, 30)
    one, two = NoiseStep("walls", 1, scale=8.0, elsewhere=0), NoiseStep("areas", 2, scale=8.0, elsewhere=1)
    derived = Derived(document)

    def both(*steps) -> tuple[np.ndarray, np.ndarray]:
        planes = grown_planes(derived, Recipe("r", "R", "ground", 5, steps))
        return np.asarray(planes["walls"]["plan"]), np.asarray(planes["areas"]["corners"])

    walls, areas = both(one, two)
    thrown = both(one, replace(two, throw=3))
    assert np.array_equal(thrown[0], walls)
    assert not np.array_equal(thrown[1], areas)
    recipe = switched(Recipe("r", "R", "ground", 5, (one, two)), 1)
    assert set(grown_planes(derived, recipe)) == {"walls"}


def test_the_list_is_moved_copied_and_begun_with_what_there_is():
    document = with_mix(make_document())
    project, ground = document.project, document.project.grounds[0]
    recipe = new_recipe(project, ground, "walls")
    assert recipe is not None
    assert recipe.steps[0].layer == "walls"
    both = replace(recipe, steps=(*recipe.steps, first_step(ScatterStep, project, ground, "things")))
    assert [step.kind for step in moved(both, 1, 0).steps] == ["scatter", "noise"]
    assert [step.kind for step in copied(both, 0).steps] == ["noise", "noise", "scatter"]
    assert first_step(FitStep, project, ground, "lines").join_set == "lines"
    assert first_step(FloodStep, project, ground, "areas").layer == "things"
    assert first_step(ScatterStep, project, ground, "areas").layer == "things", "a mix is there to be strewn"
    assert first_step(ScatterStep, make_document().project, ground, "areas").layer == "areas"
    with pytest.raises(BadRecipe, match="mix"):
        first_step(FloodStep, make_document().project, ground, "things")


@pytest.mark.parametrize(
    ("step", "says"),
    [
        (NoiseStep("things"), "single tiles"),
        (CavesStep("lines"), "takes no areas"),
        (FloodStep("areas", mix="m"), "lays tiles"),
        (FloodStep("things", mix="gone"), "mix that is not there"),
        (FitStep("areas", join_set="gone"), "join set or pairs that are not there"),
        (NoiseStep("gone"), "not on this ground"),
        (NoiseStep("walls", where=Where("gone")), "region names a layer"),
        (ExampleStep("walls", top=4000), "off this ground"),
        (RunStep("things", reads="gone"), "not on this ground"),
    ],
)
def test_what_a_step_cannot_do_is_told(step, says):
    with pytest.raises(BadRecipe, match=says):
        laid(with_mix(make_document()), step)


def test_all_kinds_are_kept_in_the_file(tmp_path):
    document = with_mix(make_document())
    steps = tuple(kind("walls", 2, where=Where("things", inside=1), throw=4, on=False) for kind in KINDS)
    document.define("recipe", replace(document.project, recipes=(Recipe("r", "R", "ground", 5, steps),)))
    document.save(tmp_path / "kept")
    assert Document.load(tmp_path / "kept").project.recipes[0].steps == steps
    assert plane_of(document, "walls", "plan").sum() == 0


LOCAL = (
    FloodStep("things", mix="m"), DressStep("things", mix="m", where=Where("walls", 1)),
    ScatterStep("things", mix="m", spread="by chance"), TidyStep("walls", 1, does="grow"),
    TidyStep("walls", 1, does="shrink"), TidyStep("walls", 1, does="smooth"),
)  # fmt: skip


@pytest.mark.parametrize("step", LOCAL)
def test_a_larger_ground_holds_the_smaller_one_where_a_step_says_so(step):
    small, large = (with_mix(make_document(*size)) for size in ((24, 20), (40, 30)))
    for document in (small, large):
        poke(document, "walls", "plan", np.s_[4:9, 3:15], 1)
    assert step.local
    # Along the far border of the smaller one it may differ, as more goes on beyond it.
    assert np.array_equal(laid(small, step)[:18, :22], laid(large, step)[:18, :22])


@pytest.mark.parametrize("kind", [NoiseStep, CavesStep, RoomsStep, IslandStep, PathStep])
def test_steps_that_depend_on_the_whole_ground_say_so(kind):
    one, other = (laid(make_document(*size), kind("walls", 1))[:18, :22] for size in ((24, 20), (40, 30)))
    assert not kind("walls", 1).local
    assert not np.array_equal(one, other)
