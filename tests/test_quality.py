"""The quality of a ground in numbers."""

import json
import shutil

import numpy as np
import pytest

from calling import fails_with_one_sentence, knitground
from knitground.core.edits.measuring import quality, told
from knitground.core.edits.notes import set_walkable
from knitground.core.grow.quality import repetition
from knitground.core.project.derived import Derived
from making import DEMO, make_document, poke, tile


@pytest.mark.parametrize("seed", range(5))
def test_a_field_of_four_variants_by_chance_shows_no_lattice(seed):
    codes = np.random.default_rng(seed).choice(4, (64, 64), p=(0.6, 0.2, 0.1, 0.1)).astype(np.int32)
    found = repetition(codes)
    assert found is not None
    assert found.peak < found.fair * 1.25


@pytest.mark.parametrize("every", [4, 7])
def test_a_pattern_that_comes_again_is_told_with_its_distance(every):
    codes = np.random.default_rng(1).integers(0, 4, (60, 60)).astype(np.int32)
    codes[:, ::every] = 3
    found = repetition(codes)
    assert found is not None
    assert found.shows
    assert found.across % every == 0


def test_too_little_tells_nothing():
    assert repetition(np.zeros((40, 40), np.int32)) is None
    assert repetition(np.arange(9, dtype=np.int32).reshape(3, 3)) is None


def test_shares_seams_and_what_cannot_be_reached_are_told():
    document = make_document()
    derived = Derived(document)
    codes = np.zeros((15, 20), np.int32)
    codes[:] = derived.code(tile(2, 3))
    codes[:, 8] = derived.code(tile(5, 3))
    poke(document, "things", "cells", np.s_[:], codes)
    set_walkable(document, [tile(5, 3)], False)
    found = quality(derived, "ground")
    assert (found.walk.parts, found.walk.unreachable) == (2, 15 * 8)
    assert {layer.layer: layer.seams for layer in found.layers} == {"Areas": 0, "Lines": 0, "Walls": 0, "Things": 0}
    assert any(line.startswith("Things: 300 tiles") for line in told(found))


def test_quality_is_told_on_the_command_line(tmp_path):
    folder = shutil.copytree(DEMO, tmp_path / "apiary")
    told_json = json.loads(knitground("quality", folder, "--ground", "Glasshouse", "--json").stdout)
    assert told_json["layers"][0]["layer"] == "Floor"
    assert "walk: 252 cells" in knitground("quality", folder, "--ground", "Glasshouse").stdout
    assert "no ground" in fails_with_one_sentence(knitground("quality", folder, "--ground", "Nowhere"))
