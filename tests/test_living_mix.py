"""Living mixes: what they lay follows what lies below, and pins stay."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.layers import remove_layer
from knitground.core.edits.mixing import add_living_mix, throw_living_mix
from knitground.core.edits.pins import pin
from knitground.core.edits.removing import remove_terrain
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import replaced
from making import CORNERED, make_document, poke, tile

MIX = Mix("m", "Mixed", (MixPart(tile(2, 3), 3), MixPart(tile(5, 3), 1), MixPart(None, 1)))


def with_mix(grid: str = "square") -> Document:
    document = make_document(40, 30, grid)
    document.define("mix", replace(document.project, mixes=(MIX,)))
    return document


def codes(derived: Derived, layer: str) -> np.ndarray:
    return derived.knitted("ground").codes(layer, CellRect(0, 0, 30, 40)).copy()


@pytest.mark.parametrize("grid", CORNERED)
def test_it_lies_where_the_terrain_lies_and_follows_it_at_once(grid):
    document = with_mix(grid)
    layer = add_living_mix(document, "ground", "m", "walls", 1)
    derived = Derived(document)
    assert not codes(derived, layer).any()
    poke(document, "walls", "plan", np.s_[:], 1)
    whole = codes(derived, layer)
    shares = [float((whole == derived.code(part.tile)).mean()) for part in MIX.parts]
    assert shares == pytest.approx([0.6, 0.2, 0.2], abs=0.05)
    poke(document, "walls", "plan", np.s_[:, 10:20], 2)
    part = codes(derived, layer)
    assert not part[:, 10:20].any()
    assert np.array_equal(np.delete(part, range(10, 20), axis=1), np.delete(whole, range(10, 20), axis=1))
    assert np.array_equal(part, codes(Derived(document), layer))


def test_on_areas_a_cell_has_to_be_wholly_of_the_terrain():
    document = with_mix()
    layer = add_living_mix(document, "ground", "m", "areas", 2)
    poke(document, "areas", "corners", np.s_[5:10, 5:12], 2)
    laid = np.argwhere(codes(Derived(document), layer))
    assert laid.min(axis=0).tolist() == [5, 5]
    assert laid.max(axis=0).tolist() == [8, 10]


def test_a_weight_and_another_throw_lay_anew_and_pins_stay():
    document = with_mix()
    derived = Derived(document)
    layer = add_living_mix(document, "ground", "m")
    before = codes(derived, layer)
    pinned = derived.code(tile(9, 2))
    pin(document, "ground", layer, Shape(CellRect(3, 3, 1, 1), np.ones((1, 1), dtype=bool)), pinned)
    throw_living_mix(document, "ground", document.project.grounds[0].layer(layer))
    thrown = codes(derived, layer)
    assert (thrown != before).mean() > 0.3
    weighed = replace(MIX, parts=(*MIX.parts[:2], replace(MIX.parts[2], weight=0.0), *MIX.parts[3:]))
    document.define("weigh", replace(document.project, mixes=replaced(document.project.mixes, weighed)))
    assert (codes(derived, layer) != 0).all()
    assert codes(derived, layer)[3, 3] == thrown[3, 3] == pinned
    assert "Mixed" in derived.why("ground", layer, 8, 8)
    with pytest.raises(BadRequest, match="no living mix"):
        throw_living_mix(document, "ground", document.project.grounds[0].layer("walls"))


def test_it_is_kept_in_the_file_and_survives_what_happens_to_what_it_follows(tmp_path):
    document = with_mix()
    layer = add_living_mix(document, "ground", "m", "areas", 2)
    document.save(tmp_path / "kept")
    kept = Document.load(tmp_path / "kept").project.grounds[0].layer(layer)
    assert kept == document.project.grounds[0].layer(layer)
    remove_terrain(document, "areas", 1)
    assert document.project.grounds[0].layer(layer).terrain == 1
    remove_layer(document, "ground", "areas")
    assert not codes(Derived(document), layer).any()
    empty = Mix("e", "Empty", (MixPart(None),))
    document.define("mix", replace(document.project, mixes=(MIX, empty)))
    with pytest.raises(BadRequest, match="has no tile to lay"):
        add_living_mix(document, "ground", "e")
