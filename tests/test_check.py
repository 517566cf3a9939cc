from dataclasses import replace

import numpy as np
import pytest

from knitground.core.check.seams import find_seams
from knitground.core.edits.notes import set_weight
from knitground.core.edits.sets import add_join_set, set_labels
from knitground.core.edits.sheets import set_cut
from knitground.core.edits.things import put
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import Ledger, all_findings
from knitground.core.project.proofing import LAYER, proof_ground
from knitground.core.stitches.rules import around
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.tile import GAP, TileRef
from making import DEMO, SIDE, poke, rectangle, tile, with_labels_removed, with_stitches


def findings_but_seams(document):
    """The findings, but for the seams between the test sheet's tiles, which have a colour each."""
    return [finding for finding in all_findings(Derived(document)) if finding.kind != "seam"]


def kinds(document) -> list[str]:
    return [finding.kind for finding in findings_but_seams(document)]


def test_a_clean_project_has_no_findings(document):
    assert kinds(document) == []


def test_the_demo_is_honest_about_the_one_join_that_is_not_drawn_and_the_hive_that_is_overgrown():
    findings = all_findings(Derived(Document.load(DEMO)))
    assert [(finding.kind, finding.subject) for finding in findings] == [
        ("missing join", "walks"),
        ("reach", "long-roof"),
        ("idle stitch", "walls"),
    ]
    assert "“Hive 18” can't be reached" in findings[1].sentence
    assert "P P P P" in findings[0].sentence


def test_a_missing_join_and_its_gaps_are_found_where_they_are(document):
    with_labels_removed(document, 1)
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (4, 6), (6, 9)), 2)
    findings = findings_but_seams(document)
    assert [finding.kind for finding in findings] == ["missing join", "gap"]
    assert "B B B B" in findings[0].sentence
    assert (findings[1].layer, findings[1].row, findings[1].column, findings[1].count) == ("areas", 4, 6, 6)


def test_a_hidden_stitch_is_found_with_what_hides_it(document):
    walls = document.project.stitch_sets[0]
    broad = around("broad", 1, "........", tile(2, 2))
    put(document, "x", "stitch_sets", with_stitches(walls, broad, *walls.stitches))
    sentences = [finding.sentence for finding in all_findings(Derived(document)) if finding.stage == "stitches"]
    assert sentences == [
        "Walls: stitches 1 and 3 look at the same and lay different things",
        "Walls: stitch 2 never fires, hidden by 1",
    ]


def test_a_plan_without_a_fitting_stitch_is_a_gap(document):
    walls = document.project.stitch_sets[0]
    put(document, "x", "stitch_sets", with_stitches(walls, *walls.stitches[:1]))
    document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (2, 2), (4, 4)), 1)
    findings = findings_but_seams(document)
    assert [(finding.kind, finding.count) for finding in findings] == [("gap", 6)]
    assert "without a stitch" in findings[0].sentence


def test_tiles_of_another_size_and_lost_tiles_are_found(document):
    small = replace(document.project.sheets[0].cuts[0], id="small", tile_width=4, tile_height=4)
    sheet = document.project.sheets[0]
    put(document, "x", "sheets", replace(sheet, cuts=(*sheet.cuts, small)))
    poke(document, "things", "cells", np.s_[3, 4], document.palette.code(tile(1, 1)._replace(cut="small")))
    poke(document, "things", "cells", np.s_[5, 6], document.palette.code(tile(99, 1)))
    findings = {finding.kind: finding for finding in findings_but_seams(document)}
    assert set(findings) == {"tile size", "lost tile", "fell away"}
    assert "1 cell of Ground, Things, first at 6, 5" in findings["fell away"].sentence
    assert (findings["tile size"].row, findings["tile size"].column) == (3, 4)
    assert (findings["lost tile"].row, findings["lost tile"].column) == (5, 6)


def test_a_cut_that_leaves_pixels_over_is_found(document):
    cut = document.project.sheets[0].cuts[0]
    set_cut(document, "art", replace(cut, tile_width=SIDE - 1))
    found = Ledger(Derived(document)).findings
    assert found[0].kind == "left over"
    assert "at the right" in found[0].sentence


def test_labels_off_the_sheet_are_found(document):
    areas = document.project.join_sets[0]
    labels = {**areas.labels, tile(3, 40): (1, 1, 2, 2)}
    put(document, "x", "join_sets", replace(areas, labels=labels))
    assert kinds(document) == ["lost tile", "fell away"]


@pytest.mark.parametrize(
    ("layer", "row", "column", "says"),
    [
        ("areas", 1, 1, "corner joins “Areas”, A A A A, the only one"),
        ("areas", 5, 5, "corner joins “Areas”, A A B A"),
        ("lines", 3, 3, "bare"),
        ("lines", 7, 7, "edge joins “Lines”, · L · ·"),
        ("walls", 9, 9, "stitch 1 of “Walls”, Wall"),
        ("things", 2, 2, "art 3, 3, laid by hand"),
    ],
)
def test_every_tile_says_why_it_is_there(document, layer, row, column, says):
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (6, 6), (8, 8)), 2)
    poke(document, "lines", "along", np.s_[7, 8], 1)
    document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (9, 9), (9, 9)), 1)
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(3, 3)))
    assert says in Derived(document).why("ground", layer, row, column)


def test_a_gap_and_a_variant_say_so_too(document):
    areas = document.project.join_sets[0]
    labels = {**areas.labels, tile(0, 3): (1, 1, 1, 1)}
    put(document, "x", "join_sets", replace(areas, labels=labels))
    set_weight(document, [tile(0, 0)], 3)
    derived = Derived(document)
    says = derived.why("ground", "areas", 0, 0)
    assert "one of 2" in says
    assert ("75%" in says) == says.startswith("art 0, 0")
    assert ("25%" in says) == says.startswith("art 0, 3")
    with_labels_removed(document, 17)
    assert "no tile" in derived.why("ground", "areas", 0, 0)
    with pytest.raises(IndexError):
        derived.why("ground", "areas", 99, 0)


def test_the_proof_is_knit_from_the_set_as_it_is(document):
    derived = Derived(document)
    proof = proof_ground(derived, document.project.join_sets[0])
    whole = (0, 0, proof.ground.height, proof.ground.width)
    from knitground.core.grid.rect import CellRect

    codes = proof.codes(LAYER, CellRect(*whole))
    assert len(np.unique(codes)) == 16
    with_labels_removed(document, 2)
    holes = proof_ground(derived, document.project.join_sets[0]).codes(LAYER, CellRect(*whole))
    assert np.array_equal(holes == GAP, np.isin(codes, [document.palette.code(tile(n, 0)) for n in (14, 15)]))


def test_a_tile_labelled_in_part_is_told_and_not_laid(document):
    set_labels(document, "areas", [(tile(0, 0), 2)], 0)
    findings = findings_but_seams(document)
    assert [finding.kind for finding in findings] == ["half labelled", "missing join", "gap"]
    assert "1 tile is labelled only in part, first art 0, 0" in findings[0].sentence
    areas = document.project.join_sets[0]
    put(document, "bare", "join_sets", replace(areas, bare=True))
    assert "half labelled" not in kinds(document)


def test_a_set_without_tiles_has_no_proof(document):
    add_join_set(document, "Empty", "corner", ("A", "B"))
    assert proof_ground(Derived(document), document.project.join_sets[-1]) is None


def test_weights_change_what_is_knit(document):
    areas = document.project.join_sets[0]
    labels = {**areas.labels, tile(0, 3): (1, 1, 1, 1)}
    put(document, "x", "join_sets", replace(areas, labels=labels))
    derived = Derived(document)
    from knitground.core.grid.rect import CellRect

    def share() -> float:
        codes = derived.knitted("ground").codes("areas", CellRect(0, 0, 15, 20))
        return float((codes == document.palette.code(tile(0, 3))).mean())

    assert 0.3 < share() < 0.7
    put(document, "w", "join_sets", document.project.join_sets[0])
    document.define("w", replace(document.project, tiles={tile(0, 3): TileNotes(0.0)}))
    assert share() == 0


def test_tiles_that_meet_without_going_on_are_told_as_seams(document):
    seams = [finding for finding in all_findings(Derived(document)) if finding.kind == "seam"]
    assert len(seams) > 1
    assert all(finding.stage == "joins" for finding in seams)
    first, second = (TileRef.parse(name) for name in seams[0].tiles)
    side = {0: ((3, 2), (0, 1)), 1: ((1, 2), (0, 3))}[seams[0].index]
    labels = document.project.join_sets[0].labels
    assert [labels[first][place] for place in side[0]] == [labels[second][place] for place in side[1]]
    assert "more seams" in seams[3].sentence


def test_the_demo_joins_without_a_seam_until_a_tile_is_spoilt():
    from pathlib import Path

    document = Document.load(Path(DEMO))
    derived = Derived(document)
    cover = document.project.join_sets[0]
    drawn = {ref: pixels.copy() for ref, pixels in derived.drawn(cover).items()}
    assert find_seams(cover, drawn) == []
    spoilt = next(ref for ref, labels in cover.labels.items() if labels == (2, 2, 2, 2))
    drawn[spoilt][:, -1, :3] = (255, 0, 255)
    seams = find_seams(cover, drawn)
    assert seams
    assert {seam.first for seam in seams} == {spoilt}
    assert all(seam.level for seam in seams)
    assert [seam.times for seam in seams] == sorted((seam.times for seam in seams), reverse=True)


def test_bricks_with_mortar_at_their_borders_show_no_seam_but_for_a_tile_of_another_shade(document):
    random = np.random.default_rng(2)
    bricks = np.full((28, 28, 4), 255, np.uint8)
    bricks[..., :3] = (140, 80, 60)
    bricks[6::7, :, :3] = bricks[:, 6::7, :3] = (50, 40, 40)
    grained = {}
    joins = replace(document.project.join_sets[0], labels={tile(column, 0): (1, 1, 1, 1) for column in range(4)})
    for ref in joins.labels:
        grained[ref] = bricks.copy()
        grained[ref][..., :3] += random.integers(0, 6, (28, 28, 1), np.uint8)
    assert find_seams(joins, grained) == []
    other = tile(2, 0)
    grained[other][..., :3] = 255 - grained[other][..., :3] // 4
    assert {other} < {ref for seam in find_seams(joins, grained) for ref in (seam.first, seam.second)}
    lines = {ref: pixels[:, :1] for ref, pixels in grained.items()}
    assert all(not seam.level for seam in find_seams(joins, lines)), "a pixel wide, with no inside to go by"


def test_shapes_that_a_cell_set_lacks_are_counted_instead_of_spelled(document):
    set_id = add_join_set(document, "Ledge", "cell", ["Stone"])
    ledge = next(one for one in document.project.join_sets if one.id == set_id)
    put(document, "label", "join_sets", replace(ledge, labels={tile(0, 1): (1,) * 9}))
    (finding,) = [one for one in findings_but_seams(document) if one.subject == set_id]
    narrow = "34 of these where an area is one cell wide or turns twice beside a cell"
    assert (finding.sentence, finding.count) == (f"Ledge: no tile for 46 of 47 combinations, {narrow}", 46)


@pytest.mark.parametrize("times", [2, 4])
def test_enlarged_art_shows_no_more_seams_than_at_its_own_size(document, times):
    random = np.random.default_rng(4)
    hatch = np.full((16, 16, 4), (190, 160, 205, 255), np.uint8)
    hatch[np.indices((16, 16)).sum(axis=0) % 4 == 0] = (120, 90, 150, 255)
    joins = replace(document.project.join_sets[0], labels={tile(column, 0): (1, 1, 1, 1) for column in range(4)})
    drawn = {ref: hatch.copy() for ref in joins.labels}
    for ref in joins.labels:
        drawn[ref][4:12, 4:12, :3] += random.integers(0, 40, (8, 8, 1), np.uint8)

    def seams(pixels):
        return find_seams(joins, {ref: one.repeat(times, axis=0).repeat(times, axis=1) for ref, one in pixels.items()})

    assert find_seams(joins, drawn) == seams(drawn) == []
    drawn[tile(2, 0)][:, 0, :3] = (255, 0, 255)
    assert seams(drawn) == find_seams(joins, drawn) != []
