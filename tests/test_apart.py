"""Terrains that no tile shows together: what is expected of a set then, and its proof."""

import json
from dataclasses import replace
from itertools import product

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from calling import knitground
from knitground.core.joins.beyond import told_beyond
from knitground.core.joins.coverage import Coverage, coverage, is_formed
from knitground.core.joins.lattice import SPOTS
from knitground.core.joins.make import make_missing
from knitground.core.joins.proof_apart import proof_of_groups
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.project.proofing import planes_of_proof
from making import make_document, tile

TERRAINS = tuple(Terrain(name, name[0], "#808080") for name in ("Heath", "Slate", "Rose"))


def on_heath(*others: int) -> JoinSet:
    """Corner tiles of heath with each of some other terrains."""
    rows = dict.fromkeys(row for other in others for row in product((1, other), repeat=4))
    labels = {tile(n % 16, n // 16): row for n, row in enumerate(rows)}
    return JoinSet("moor", "Moor", "corner", TERRAINS, False, labels)


def test_terrains_on_one_ground_lack_nothing_though_they_never_meet():
    found = coverage(on_heath(2, 3))
    assert (found.total, found.present, found.lacking) == (31, 31, 0)
    assert found.apart == [(2, 3)]
    assert found.beyond == 81 - 31
    assert len(list(found.rest())) == 50
    assert all({2, 3} <= set(row) for row in found.rest())
    assert told_beyond(on_heath(2, 3), found) == "Slate and Rose never meet: what lies between them is laid there"
    more = replace(on_heath(2, 3, 4), terrains=(*TERRAINS[:3], Terrain("Fern", "F", "#448844")))
    assert told_beyond(more, coverage(more)) == "3 pairs of terrains never meet: what lies between them is laid there"


def test_as_long_as_nothing_leads_from_one_to_the_other_all_is_missing():
    plain = JoinSet("moor", "Moor", "corner", TERRAINS, False, {tile(n, 0): (n + 1,) * 4 for n in range(3)})
    found = coverage(plain)
    assert (found.total, found.present, found.apart, found.beyond) == (81, 3, [], 0)
    assert not list(found.rest())
    meet = {tile(4, 0): (1, 1, 2, 2), tile(5, 0): (1, 1, 3, 3), tile(6, 0): (2, 2, 3, 3)}
    assert coverage(on_heath(2, 3)).apart
    whole = JoinSet("moor", "Moor", "corner", TERRAINS, False, {**plain.labels, **meet})
    assert coverage(whole).total == 81, "each pair meets on some tile"


@st.composite
def coverages(draw) -> Coverage:
    """What some tiles of two terrains each cover."""
    kind = draw(st.sampled_from(["corner", "edge", "full"]))
    numbers = range(draw(st.integers(0, 1)), draw(st.integers(2, 3 if kind == "full" else 4)) + 1)
    pairs = draw(st.lists(st.tuples(st.sampled_from(numbers), st.sampled_from(numbers)), min_size=1, max_size=7))
    places = 8 if kind == "full" else 4
    rows = [tuple(draw(st.sampled_from(pair)) for _ in range(places)) for pair in pairs]
    return Coverage(kind, {row: () for row in rows if any(row) and (kind != "full" or is_formed(row))}, numbers)


@given(coverages())
@settings(deadline=None, max_examples=60)
def test_the_total_is_what_is_listed_and_the_rest_what_else_there_is(found):
    listed = list(found.combinations())
    assert found.total == len(set(listed)) == len(listed)
    for labels in found.tiles:
        assert labels in listed
    every = Coverage(found.kind, {}, found.numbers)
    assert found.total + found.beyond == every.total
    for row in found.rest():
        turns = (any(row[0::2]) and any(row[1::2])) or found.one_way != ("down" if any(row[0::2]) else "across")
        own = _places(row, found)
        assert not found.together[np.ix_(own, own)].all() or (found.one_way and turns)


def _places(row: tuple[int, ...], found: Coverage) -> list[int]:
    return [number - found.numbers.start for number in set(row)]


@given(coverages().filter(lambda found: found.apart or found.one_way))
@settings(deadline=None, max_examples=40)
def test_a_proof_holds_what_meets_and_nothing_else_and_goes_round(found):
    planes = planes_of_proof(found)
    name, plane = next(iter(planes.items()))
    height, width = plane.shape[0] - (name in ("corners", "across")), plane.shape[1] - (name in ("corners", "along"))
    seen = {
        tuple(int(planes[on][row + down, column + across]) for on, (down, across) in SPOTS[found.kind])
        for row in range(height)
        for column in range(width)
    }
    wanted = set(found.combinations())
    assert wanted <= seen
    assert not any(any(labels) for labels in seen - wanted)
    for on, plane in planes.items():
        assert on == "along" or (plane[0] == plane[-1]).all()
        assert on == "across" or (plane[:, 0] == plane[:, -1]).all()


def test_each_group_of_a_proof_is_as_small_as_its_own():
    found = coverage(on_heath(2, 3))
    planes = proof_of_groups(found.together, found.numbers, lambda numbers: {"corners": np.array([numbers, numbers])})
    assert planes["corners"].shape == (4, 2 * 3 + 1)


def test_what_never_meets_is_made_only_where_nothing_is_missing():
    join_set = on_heath(2, 3)
    drawn = {ref: np.full((8, 8, 4), 60 * row[0], np.uint8) for ref, row in join_set.labels.items()}
    made = make_missing(join_set, coverage(join_set), drawn)
    assert len(made) == 50
    assert all({2, 3} <= set(one.labels) for one in made)
    fewer = replace(join_set, labels={ref: row for ref, row in join_set.labels.items() if row != (1, 1, 2, 1)})
    assert [one.labels for one in make_missing(fewer, coverage(fewer), drawn)] == [(1, 1, 2, 1)]


def test_the_command_line_says_which_terrains_never_meet(tmp_path):
    document = make_document()
    document.define("add", replace(document.project, join_sets=(on_heath(2, 3),), grounds=()))
    document.save(tmp_path / "moor")
    result = knitground("coverage", tmp_path / "moor", "--set", "moor")
    assert result.returncode == 0
    assert "Slate and Rose never meet" in result.stdout
    found = json.loads(knitground("coverage", tmp_path / "moor", "--set", "moor", "--json").stdout)
    assert (found["apart"], found["missing"], found["missing_combinations"]) == ([[2, 3]], 0, [])
