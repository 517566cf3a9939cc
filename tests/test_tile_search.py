"""Finding tiles by what is said of them."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.notes import add_tag, set_property
from knitground.core.edits.tile_search import find_tiles, tags_of
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.called import called
from knitground.core.tiles.notes import Property
from making import DEMO, make_document, tile

TAGS = ("old stone", "moss-green", "Water")


def tagged() -> Document:
    document = make_document()
    for column, tag in enumerate(TAGS):
        add_tag(document, [tile(column, 0), tile(column, 1)], tag)
    set_property(document, [tile(5, 2)], "biome", Property("text", "Marsh"))
    return document


def found(document: Document, text: str) -> list:
    return list(find_tiles(document.project, Derived(document).sliced(), text))


def test_tiles_are_found_by_the_beginning_of_a_word_of_a_tag_or_property():
    document = tagged()
    assert found(document, "ston") == [tile(0, 0), tile(0, 1)]
    assert found(document, "GREEN") == [tile(1, 0), tile(1, 1)]
    assert found(document, "marsh") == found(document, "biome") == [tile(5, 2)]
    assert found(document, "old stone") == [tile(0, 0), tile(0, 1)]
    assert found(document, "stone water") == []
    assert found(document, "  ") == []
    assert len(found(document, "art")) == 64
    assert tags_of(document.project) == ("Water", "moss-green", "old stone")


@given(words=st.lists(st.sampled_from(["old", "stone", "moss", "water", "art", "tiles"]), max_size=3))
def test_more_words_find_no_more_tiles(words):
    document = tagged()
    some = found(document, " ".join(words))
    for word in words:
        assert set(some) <= set(found(document, word))


def test_no_more_are_given_than_asked_for_and_none_that_the_sheet_lacks():
    document = tagged()
    sliced = Derived(document).sliced()
    assert len(find_tiles(document.project, sliced, "art", 7)) == 7
    add_tag(document, [tile(40, 40)], "lost")
    assert found(document, "lost") == []


def test_images_of_a_collection_are_called_by_their_own_names():
    document = Document.load(DEMO)
    roofs = document.project.sheets[0]
    collection = replace(roofs, images=("sheets/roofs/slate.png",))
    project = replace(document.project, sheets=(collection,))
    ref = tile(0, 0)._replace(sheet="roofs", cut="slate")
    assert called(project.sheets, ref) == "slate"
    assert called(document.project.sheets, ref) == "roofs 0, 0"
