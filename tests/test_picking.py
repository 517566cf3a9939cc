"""What is picked is what is seen."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.layers import add_layer, put_layer
from knitground.core.edits.painting import Hand
from knitground.core.edits.picking import pick_seen
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.render.compositor import render
from making import make_document, poke
from test_large import planted


@pytest.mark.parametrize("stacking", ["whole", "depth"])
@pytest.mark.parametrize("grid", list(GRIDS))
def test_the_tile_that_is_seen_is_picked_wherever_it_shows(grid, stacking):
    document, derived, colours = planted(make_document(20, 18, grid), 7, 40)
    ground = document.project.grounds[0]
    put_layer(document, "ground", "stack", replace(ground.layer("things"), stacking=stacking, offset_x=5, offset_y=-3))
    knitted = derived.knitted("ground")
    layer = knitted.ground.layer("things")
    projection = knitted.ground.projection
    seen = render(derived.scene(knitted, [layer]), PixelRect(0, 0, *projection.size))
    random, met = np.random.default_rng(1), 0
    for x, y in zip(*(random.integers(0, side, 400) for side in projection.size), strict=True):
        place = projection.place(x + 0.5 - 5, y + 0.5 + 3)
        if seen[y, x, 3] and knitted.ground.board.cell_at(*place) is not None:
            found = pick_seen(derived, "ground", "things", Hand(), place)
            assert found is not None
            assert colours[found.tile] == tuple(seen[y, x, :3].tolist())
            met += 1
    assert met > 30


def test_the_layer_at_hand_comes_first_and_what_is_hidden_last():
    document, derived, _ = planted(make_document(20, 18), 8, 60)
    code = document.palette.code(next(iter(document.project.join_sets[0].labels)))
    assert code
    found = pick_seen(derived, "ground", "areas", Hand(), (3.5, 3.5))
    assert found is None or found.layer == "areas"
    ground = document.project.grounds[0]
    put_layer(document, "ground", "hide", replace(ground.layer("things"), visible=False))
    assert pick_seen(derived, "ground", "walls", Hand(), (9.5, 9.5)) is None


@pytest.mark.parametrize("grid", list(GRIDS))
def test_a_layer_that_is_moved_up_lies_on_what_stands_in_its_cells(grid):
    document, derived, colours = planted(make_document(20, 18, grid), 9, 0)
    wall, roof, _ = colours
    add_tiles = add_layer(document, "ground", "Roofs")
    ground = document.project.grounds[0]
    for name, moved in (("things", 0), (add_tiles, -6)):
        put_layer(document, "ground", "stack", replace(ground.layer(name), stacking="depth", offset_y=moved))
    poke(document, "things", "cells", np.s_[9, 9], document.palette.code(wall))
    poke(document, add_tiles, "cells", np.s_[9, 9], document.palette.code(roof))
    knitted = derived.knitted("ground")
    projection = knitted.ground.projection
    seen = render(derived.scene(knitted), PixelRect(0, 0, *projection.size))[..., :3].reshape(-1, 3)
    roofs = (seen == colours[roof]).all(axis=1).sum()
    walls = (seen == colours[wall]).all(axis=1).sum()
    assert roofs == 24 * 22, "all of it that is not clear"
    assert walls == 20 * 6, "what looks out from below"
