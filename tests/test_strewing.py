"""Strewing things with a recipe: where they may stand, what they are, and that they are strewn anew, not twice."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.blocks import lift
from knitground.core.edits.foreshown import picture_with
from knitground.core.edits.growing import After, go_to_step, grow, steps_after
from knitground.core.edits.keeping import keep_block, keep_tile
from knitground.core.edits.layers import add_layer
from knitground.core.edits.placing import move, place
from knitground.core.edits.recipes import first_step, suits
from knitground.core.edits.selecting import boxed
from knitground.core.errors import BadRecipe
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.region import Where
from knitground.core.grow.steps import CavesStep, DressStep, FloodStep, NoiseStep, ScatterStep
from knitground.core.layers.thing import Thing, ThingKind
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import SIDE, make_document, tile

SCATTER = ScatterStep("props", mix="m", apart=3.0)


def with_props(grid: str = "square") -> Document:
    document = make_document(30, 24, grid)
    add_layer(document, "ground", "Props", kind="props")
    mix = Mix("m", "M", (MixPart(tile(2, 3), 3), MixPart(tile(5, 3), 1, 5), MixPart(None, 1)))
    document.define("mix", replace(document.project, mixes=(mix,), thing_kinds=(ThingKind("bee", "Bee"),)))
    return document


def recipe(*steps, seed: int = 4, recipe_id: str = "r") -> Recipe:
    return Recipe(recipe_id, "R", "ground", seed, steps)


def things(document: Document) -> tuple[Thing, ...]:
    return next(layer for layer in document.project.grounds[0].layers if layer.id == "props").things


def cells(document: Document) -> np.ndarray:
    """In which cells things stand."""
    ground = document.project.grounds[0]
    found = np.zeros((ground.height, ground.width), dtype=int)
    for thing in things(document):
        found[ground.board.cell_at(*ground.projection.place(thing.x, thing.y))] += 1
    return found


@pytest.mark.parametrize("grid", ["square", "diamond", "staggered", "hex-pointed"])
def test_things_stand_one_in_a_cell_and_are_strewn_anew_not_twice(grid):
    document = with_props(grid)
    derived = Derived(document)
    grow(derived, recipe(SCATTER))
    first = things(document)
    assert len(first) > 20
    assert cells(document).max() == 1
    assert {thing.tile for thing in first} == {tile(2, 3), tile(5, 3)}
    assert {(thing.turn, thing.mirrored) for thing in first if thing.tile == tile(5, 3)} == {(90.0, True)}
    assert len({thing.id for thing in first}) == len(first)
    grow(derived, recipe(SCATTER))
    assert things(document) == first
    grow(derived, recipe(SCATTER, seed=5))
    assert {(one.x, one.y) for one in things(document)} != {(one.x, one.y) for one in first}
    assert cells(document).max() == 1
    document.undo()
    assert things(document) == first


def test_what_was_placed_or_moved_by_hand_and_what_others_strewed_stays():
    document = with_props()
    derived = Derived(document)
    place(document, "ground", "props", [Thing("new", 40.0, 40.0, "point", name="Well")])
    grow(derived, recipe(SCATTER))
    grow(derived, recipe(replace(SCATTER, apart=8.0), recipe_id="other"))
    mine = [thing for thing in things(document) if thing.grown == "r"]
    move(document, "ground", "props", [mine[0].id], (3.0, 2.0))
    grow(derived, recipe(replace(SCATTER, amount=0.0)))
    left = things(document)
    assert [thing.name for thing in left if not thing.grown] == ["Well", ""]
    assert (mine[0].x + 3.0, mine[0].y + 2.0) in [(one.x, one.y) for one in left]
    assert {thing.grown for thing in left} == {"", "other"}


def test_things_stand_only_where_they_may():
    document = with_props()
    derived = Derived(document)
    walls = NoiseStep("walls", 1, scale=8.0, amount=0.5, elsewhere=0)
    grow(derived, recipe(walls, replace(SCATTER, apart=1.0, where=Where("walls", 1))))
    plan = np.asarray(document.state.planes["ground"]["walls"]["plan"])
    stand = cells(document) > 0
    assert stand.sum() > 100
    assert not (stand & (plan != 1)).any()
    within = boxed(document.project.grounds[0].board, (0.5, 0.5), (7.5, 9.5))
    after = steps_after(derived, recipe(replace(SCATTER, apart=1.0)), within)
    inside = [one for one in after[-1].props[0].things if one not in things(document)]
    assert inside
    assert all(one.x < 10 * SIDE and one.y < 8 * SIDE for one in inside)
    dressed = with_props()
    grow(Derived(dressed), recipe(walls, DressStep("props", 1, 1.0, mix="m", where=Where("walls", 1))))
    assert 0 < (cells(dressed) > 0).sum() < (plan == 1).sum()


def test_things_of_the_tray_are_strewn_with_what_is_said_of_them_and_stay_together():
    document = with_props()
    pair = [Thing("new", 12.0, 14.0, "sprite", tile(2, 3)), Thing("new", 14.0, 12.0, "point", kind="bee", name="Bee")]
    ids = place(document, "ground", "props", pair)
    ground = document.project.grounds[0]
    block, _ = lift(ground, document.state.planes["ground"], ["props"], boxed(ground.board, (1, 1), (1, 1)))
    assert len(block.things) == len(ids)
    keep_block(document, block, "Hive")
    keep_tile(document, tile(7, 3), 4, "Turned")
    mix = Mix("m", "M", (MixPart(None, 1, swatch="hive"), MixPart(None, 1, swatch="turned")))
    document.define("mix", replace(document.project, mixes=(mix,)))
    grow(Derived(document), recipe(replace(SCATTER, apart=6.0)))
    strewn = [thing for thing in things(document) if thing.grown]
    bees = [thing for thing in strewn if thing.form == "point"]
    assert bees
    assert {(bee.kind, bee.name) for bee in bees} == {("bee", "Bee")}
    sprites = {(one.x, one.y) for one in strewn if one.tile == tile(2, 3)}
    assert all(any(abs(x + 2 - bee.x) < 0.1 for x, _ in sprites) for bee in bees)
    assert any(one.tile == tile(7, 3) and one.mirrored for one in strewn)


def test_small_pictures_show_what_is_strewn_and_files_keep_it(tmp_path):
    document = with_props()
    derived = Derived(document)
    after = steps_after(derived, recipe(SCATTER))
    bare = picture_with(derived, "ground", after[-1]._replace(props=()), 96)
    assert not np.array_equal(picture_with(derived, "ground", after[-1], 96), bare)
    grow(derived, recipe(SCATTER), after[-1])
    document.save(tmp_path / "kept")
    assert things(Document.load(tmp_path / "kept")) == things(document)


def test_what_strews_nothing_is_told():
    document = with_props()
    project, ground = document.project, document.project.grounds[0]
    props = ground.layer("props")
    assert [suits(kind, props) for kind in (ScatterStep, DressStep, FloodStep, CavesStep)] == [True, True, False, False]
    assert first_step(ScatterStep, project, ground, "props").layer == "props"
    derived = Derived(document)
    for step, says in (
        (CavesStep("props"), "strews none"),
        (replace(SCATTER, mix="gone"), "not there"),
    ):
        with pytest.raises(BadRecipe, match=says):
            grow(derived, recipe(step))
    document.define("bare", replace(project, mixes=(Mix("m", "M", (MixPart(None),)),)))
    with pytest.raises(BadRecipe, match="no thing to strew"):
        grow(derived, recipe(SCATTER))


@pytest.mark.parametrize("order", [(0, 2, 1, None), (None, 0, None, 1), (1, -1, 2, 0)])
def test_going_from_step_to_step_of_what_is_tried_shows_what_each_lays_and_keeping_is_one_step_back(order):
    tried = recipe(
        NoiseStep("walls", 1, scale=8.0, amount=0.5, elsewhere=0), replace(SCATTER, apart=2.0), CavesStep("areas", 1)
    )
    document = with_props()
    place(document, "ground", "props", [Thing("new", 40.0, 40.0, "point", name="Well")])
    derived, below = Derived(document), document.state
    after = steps_after(derived.at_this_moment(), tried)
    document.begin("grow R")
    grow(derived, tried, after[-1])
    document.seal()
    for until in order:
        go_to_step(document, "ground", below, after, until)
        fresh = with_props()
        fresh.state = below
        shown = [one for one in after if until is None or one.step <= until]
        grow(Derived(fresh), tried, shown[-1] if shown else After(-1, {}))
        assert document.state.planes == fresh.state.planes
        assert document.project == fresh.project
    document.commit()
    assert document.undo() == "grow R"
    assert document.state.planes == below.planes
    assert document.project == below.project
