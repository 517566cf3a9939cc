"""Art that blocks, or does not, unlike all that looks like it."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.blocking import block_tag
from knitground.core.edits.mending import mend
from knitground.core.edits.notes import add_tag, notes_of, set_collision, set_walkable
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png

ROCKS, TUFTS = range(6), range(6, 12)


@pytest.fixture
def document() -> Document:
    """A sheet with six rocks that fill their tiles, each a little different, and six thin tufts."""
    random = np.random.default_rng(4)
    art = np.zeros((16, 12 * 16, 4), dtype=np.uint8)
    for column in ROCKS:
        part = art[2:16, column * 16 + 1 : column * 16 + 15]
        part[..., :3] = np.array([120, 110, 100]) + random.integers(-12, 12, (14, 14, 3))
        part[..., 3] = 255
    for column in TUFTS:
        part = art[8:16, column * 16 + 7 : column * 16 + 9]
        part[..., :3] = np.array([40, 150, 50]) + random.integers(-12, 12, (8, 2, 3))
        part[..., 3] = 255
    made = Document()
    add_sheet(made, "props", png(art))
    (sheet,) = made.project.sheets
    made.define("cut", replace(made.project, sheets=(replace(sheet, cuts=(Cut("all", 16, 16),)),)))
    return made


def ref(column: int) -> TileRef:
    return TileRef("props", "all", column, 0)


def told(document: Document) -> dict[str, set[int]]:
    found = [one for one in all_findings(Derived(document)) if "block" in one.kind]
    return {one.kind: {TileRef.parse(text).column for text in one.tiles} for one in found}


def test_the_one_rock_that_was_forgotten_is_a_finding_and_mended_like_its_nearest(document):
    assert told(document) == {}
    set_collision(document, {ref(column): "whole" for column in ROCKS})
    assert told(document) == {}
    set_collision(document, {ref(3): "none"})
    assert told(document) == {"solid art does not block": {3}}
    (finding,) = [one for one in all_findings(Derived(document)) if one.kind == "solid art does not block"]
    assert "1 tile is mostly solid and does not block" in finding.sentence
    assert mend(document, finding) == 1
    assert notes_of(document, ref(3)).collision == "whole"
    with pytest.raises(BadRequest, match="Nothing is left"):
        mend(document, finding)


def test_a_tuft_that_blocks_among_tufts_that_do_not_is_a_finding(document):
    set_collision(document, {ref(column): "whole" for column in (*ROCKS, 8)})
    assert told(document) == {"blocks unlike its look-alikes": {8}}
    (finding,) = [one for one in all_findings(Derived(document)) if "unlike" in one.kind]
    mend(document, finding)
    assert told(document) == {}


def test_thin_art_that_does_not_block_among_such_that_does_is_none(document):
    set_collision(document, {ref(column): "whole" for column in (*ROCKS, *TUFTS)})
    set_collision(document, {ref(9): "none"})
    assert told(document) == {}


def test_what_blocks_by_a_tag_or_cannot_be_walked_on_counts(document):
    set_walkable(document, [ref(column) for column in (0, 1, 2)], False)
    add_tag(document, [ref(column) for column in (4, 5)], "rock")
    block_tag(document, "rock", blocks=True)
    assert told(document) == {"solid art does not block": {3}}
    add_tag(document, [ref(8)], "rock")
    (finding,) = [one for one in all_findings(Derived(document)) if "unlike" in one.kind]
    with pytest.raises(BadRequest, match="A tag or a property"):
        mend(document, finding)
