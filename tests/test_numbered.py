"""Images that are numbered: which of them look like the frames of an animation."""

import numpy as np
import pytest

from knitground.core.edits.importing import add_collection
from knitground.core.edits.notes import notes_of
from knitground.core.edits.numbered import animate_numbered, floors_among, mix_numbered, numbered_runs, told_of_runs
from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.sheet.frames import USUAL_MS
from knitground.core.tiles.tile import TileRef
from making import make_document, together


def lamp(step: int, side: int = 24, colour: tuple[int, ...] = (220, 160, 60)) -> np.ndarray:
    """A lamp on clear ground whose light swings a few pixels from frame to frame."""
    pixels = np.zeros((side, side, 4), np.uint8)
    pixels[4:20, 8:16] = (70, 60, 80, 255)
    pixels[6:12, 5 + step % 4 : 15 + step % 4] = (*colour, 255)
    return pixels


def collection(**images: np.ndarray) -> Document:
    document = make_document()
    add_collection(document, "yard", together({f"{name}.png": pixels for name, pixels in images.items()}))
    return document


def runs(**images: np.ndarray) -> list[list[str]]:
    return [[ref.cut for ref in run] for run in numbered_runs(collection(**images), "yard").values()]


@pytest.mark.parametrize("called", ["lamp_{}", "lamp {}", "lamp{}_lit", "2 lamps-0{}"])
@pytest.mark.parametrize("first", [0, 1])
def test_images_alike_but_for_their_number_are_a_run_in_its_order(called, first):
    names = [called.format(first + step) for step in range(4)]
    images = {name: lamp(step) for step, name in enumerate(names)}
    there = {name: images[name] for name in (names[2], names[0], names[3], names[1])}
    assert runs(**there, crate=lamp(0, 30)) == [names]


def test_ten_comes_after_nine_and_a_gap_ends_a_run():
    assert runs(**{f"lamp_{n}": lamp(n) for n in range(12) if n != 10}) == [[f"lamp_{n}" for n in range(10)]]


@pytest.mark.parametrize(
    "images",
    [
        {"lamp_2": lamp(0), "lamp_3": lamp(1), "lamp_4": lamp(2)},
        {"lamp_0": lamp(0), "lamp_1": lamp(1, 30), "lamp_2": lamp(2)},
        {"lamp_0": lamp(0), "lamp_1": np.roll(lamp(0), 12, axis=1), "lamp_2": lamp(0)},
        {"lamp_0": lamp(0), "lamp_1": lamp(0, colour=(40, 90, 240)), "lamp_2": lamp(0)},
        {"lamp": lamp(0), "mast": lamp(1), "lamp_0": lamp(2)},
    ],
    ids=["later numbers", "other sizes", "elsewhere", "another colour", "no numbers"],
)
def test_what_is_numbered_in_another_way_or_looks_otherwise_is_no_run(images):
    assert runs(**images) == []


def test_a_click_lets_the_first_of_each_run_play_it_and_what_plays_already_is_left_alone():
    document = collection(**{f"{name}_{n}": lamp(n) for name in ("lamp", "buoy") for n in range(3)}, lamp_9=lamp(1))
    found = numbered_runs(document, "yard")
    assert told_of_runs(list(found.values())) == "2 numbered runs look like animations."
    assert animate_numbered(document, "yard") == [TileRef("yard", f"{name}_0", 0, 0) for name in ("lamp", "buoy")]
    played = notes_of(document, TileRef("yard", "buoy_0", 0, 0)).frames
    assert [(frame.tile.cut, frame.ms) for frame in played] == [(f"buoy_{n}", USUAL_MS) for n in range(3)]
    assert numbered_runs(document, "yard") == {}
    with pytest.raises(BadRequest, match="numbered from 0 or 1 on"):
        animate_numbered(document, "yard")
    document.undo()
    assert numbered_runs(document, "yard") == found


def floor(seed: int, *, diamond: bool = False) -> np.ndarray:
    """A floor with a grain of its own."""
    pixels = np.full((16, 32 if diamond else 16, 4), (120, 140, 90, 255), np.uint8)
    pixels[..., 1] += np.random.default_rng(seed).integers(0, 20, pixels.shape[:2]).astype(np.uint8)
    if diamond:
        y, x = np.mgrid[:16, :32] + 0.5
        pixels[np.abs(x - 16) / 16 + np.abs(y - 8) / 8 > 1] = 0
    return pixels


@pytest.mark.parametrize("diamond", [False, True])
def test_numbered_images_that_fill_their_cells_may_be_variants_and_are_mixed_at_a_click(diamond):
    floors = {f"{name} {n}": floor(n, diamond=diamond) for name in ("cobble", "lawn") for n in (1, 2, 3)}
    document = collection(**floors, **{f"lamp {n}": lamp(n) for n in range(3)})
    found = numbered_runs(document, "yard")
    assert [run[0].cut for run in floors_among(document, "yard", found.values())] == ["cobble 1", "lawn 1"]
    assert told_of_runs(list(found.values()), 2) == "3 numbered runs may be frames or variants."
    before = document.project.mixes
    made = mix_numbered(document, "yard")
    mixes = [one for one in document.project.mixes if one.id in made]
    assert [one.name for one in mixes] == ["cobble", "lawn"]
    assert [part.tile.cut for part in mixes[1].parts] == ["lawn 1", "lawn 2", "lawn 3"]
    assert mix_numbered(document, "yard") == made
    document.undo()
    assert document.project.mixes == before


def test_where_nothing_that_is_numbered_fills_its_cell_nothing_is_mixed():
    with pytest.raises(BadRequest, match="fill their cells"):
        mix_numbered(collection(**{f"lamp {n}": lamp(n) for n in range(3)}), "yard")


def test_the_tiles_of_a_sheet_are_no_numbered_images():
    assert numbered_runs(make_document(), "art") == {}
