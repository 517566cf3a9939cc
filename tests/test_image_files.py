"""Several image files that come together: how each is cut, given the others, and what is told of them."""

import numpy as np
import pytest
from scipy import ndimage

from knitground.core.edits.image_files import Source, drawn_for, insert_reads, read_files, read_images, told_of
from knitground.core.edits.likewise import cut_likewise, cut_otherwise, guess_likewise
from knitground.core.edits.notes import add_tag
from knitground.core.edits.sheets import insert_sheet
from knitground.core.errors import BadSheet, Cancelled
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.sheet.alike import likely_size
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.guess import Guess
from knitground.core.tiles.tile import TileRef
from making import png, sheet_of_tiles


def cliff(width: int, height: int, seed: int) -> np.ndarray:
    """Art that goes on over all borders of tiles, so that little but its size tells how it is cut."""
    shape = ndimage.gaussian_filter(np.random.default_rng(seed).random((height, width)), 5)
    return np.where((shape > np.median(shape))[..., None], np.array([120, 90, 60, 255], np.uint8), np.uint8(0))


def guessed(**shares: float) -> list[Guess]:
    """Guesses of square tiles, as in guessed(_16=0.7)."""
    sides = {int(name[1:]): share for name, share in shares.items()}
    return [Guess(side, side, 0, 0, 0, 0, 4, 4, share) for side, share in sides.items()]


def test_the_size_that_fits_most_sheets_is_likely():
    sheets = [(guessed(_16=0.5, _24=0.4), (48, 48)), (guessed(_24=0.6, _8=0.4), (72, 48)), (guessed(_10=1.0), (60, 10))]
    assert likely_size(sheets) == (24, 24)
    assert likely_size(sheets[1:]) is None, "two that have nothing in common"
    assert likely_size(sheets[:1]) is None, "one alone has nothing in common with others"
    assert likely_size([]) is None


def test_a_size_that_one_sheet_shows_is_likely_for_others_that_hold_a_whole_number_of_its_tiles():
    sheets = [(guessed(_20=1.0), (160, 20)), (guessed(_8=0.9), (120, 80)), (guessed(_48=0.5, _32=0.3), (100, 100))]
    assert likely_size(sheets) == (20, 20)
    assert likely_size([sheets[0], sheets[1], (sheets[2][0], (100, 96))]) == (20, 20), "two of three are most of them"
    assert likely_size([(guessed(_20=0.2, _16=0.8), (160, 20)), *sheets[1:]]) is None, "it shows nowhere"


def test_where_all_sheets_go_into_larger_tiles_those_are_likelier():
    each = guessed(_16=0.5, _32=0.4)
    assert likely_size([(each, (96, 64)), (each, (64, 128))]) == (32, 32)
    assert likely_size([(each, (96, 64)), (each, (80, 128))]) == (16, 16), "80 px are no tiles of 32"


@pytest.mark.parametrize("side", [16, 32])
def test_sheets_that_come_together_are_cut_alike_where_little_shows(side):
    clear = sheet_of_tiles(6, 4, side, spacing=2, seed=1)
    plain = [
        cliff(side * columns, side * rows, seed) for seed, (columns, rows) in enumerate(((5, 3), (3, 5), (3, 7)), 3)
    ]
    sources = [Source(f"{number}.png", png(one)) for number, one in enumerate([*plain, clear])]
    shares: list[float] = []
    found = read_images(sources, shares.append)
    assert [(cut.tile_width, cut.tile_height) for one in found.read for cut in one.cuts] == [(side, side)] * 4
    assert [cut.spacing_x for one in found.read for cut in one.cuts] == [0, 0, 0, 2]
    assert shares == sorted(shares)
    assert shares[-1] <= 1
    assert told_of(found.read) == f"4 sheets are in, each cut by a first guess, all in tiles of {side} x {side}."


def test_files_that_cannot_be_read_are_told_and_keep_no_other_out(tmp_path):
    for name, side in (("a", 12), ("c", 20)):
        (tmp_path / f"{name}.png").write_bytes(png(sheet_of_tiles(5, 4, side, spacing=1)))
    (tmp_path / "b.png").write_bytes(b"nothing")
    (tmp_path / "d.png").write_bytes(png(np.zeros((2, 2, 4), np.uint8)))
    paths = [tmp_path / f"{name}.png" for name in "abcd"]
    found = read_files([*paths, tmp_path / "gone.png"])
    assert [(one.name, one.origin) for one in found.read] == [("a.png", paths[0]), ("c.png", paths[2])]
    assert [sentence.split()[0] for sentence in found.left_out] == ["There", "b.png", "The"]
    assert [cut.tile_width for one in found.read for cut in one.cuts] == [12, 20], "each shows its own"
    assert told_of(found.read[:1]) == "a.png is in, cut by a first guess."
    with pytest.raises(BadSheet, match=r"b\.png is not"):
        read_files([paths[1]])


def test_sheets_that_came_together_are_one_step_and_nothing_comes_once_stopped():
    document = Document()
    sources = [Source(f"{side}.png", png(sheet_of_tiles(5, 4, side, spacing=1))) for side in (12, 20)]
    assert insert_reads(document, read_images(sources).read) == ["12", "20"]
    document.undo()
    assert not document.project.sheets

    def stop(share: float) -> None:
        if share > 0.5:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        read_images(sources, stop)


def plain_sheets(document: Document, side: int, *cut_in: int) -> list[str]:
    """Sheets on which little shows, of tiles of one side, cut as told."""
    made = []
    for number, cut in enumerate(cut_in):
        art = cliff(side * (3 + 2 * number), side * 5, number)
        made.append(insert_sheet(document, f"cliff {number}.png", Picture(png(art), art), Cut("tiles", cut, cut)))
    return made


def test_a_size_set_right_on_one_sheet_is_taken_over_by_others_that_nothing_uses():
    document = Document()
    right, wrong, other, used = plain_sheets(document, 24, 24, 12, 8, 12)
    clear = sheet_of_tiles(6, 4, 20, spacing=2)
    shown = insert_sheet(document, "c.png", Picture(png(clear), clear), Cut("tiles", 20, 20, 0, 0, 2, 2))
    add_tag(document, [TileRef(used, "tiles", 0, 0)], "moss")
    assert [one.id for one in cut_otherwise(document, right)] == [wrong, other]
    shares: list[float] = []
    found = guess_likewise(document, right, shares.append)
    assert found.sentence == f"{wrong}, {other} are cut in such tiles now."
    assert shares == sorted(shares)
    before = document.project
    cut_likewise(document, right, found.cuts)
    assert [one.cuts[0].tile_width for one in document.project.sheets] == [24, 24, 24, 12, 20]
    assert cut_otherwise(document, right) == []
    assert [one.id for one in cut_otherwise(document, shown)] == [right, wrong, other]
    document.undo()
    assert document.project == before


def test_a_sheet_that_shows_another_size_stays_and_one_used_meanwhile_does_too():
    document = Document()
    right, wrong = plain_sheets(document, 24, 24, 12)
    clear = sheet_of_tiles(6, 4, 20)
    stays = insert_sheet(document, "c.png", Picture(png(clear), clear), Cut("tiles", 20, 20))
    found = guess_likewise(document, right, lambda share: None)
    assert found.sentence == f"{wrong} is cut in such tiles now; {stays} shows another size, and stays as it was."
    add_tag(document, [TileRef(wrong, "tiles", 0, 0)], "moss")
    cut_likewise(document, right, found.cuts)
    assert [one.cuts[0].tile_width for one in document.project.sheets] == [24, 12, 20]
    also = insert_sheet(document, "d.png", Picture(png(clear), clear), Cut("tiles", 20, 20))
    both = guess_likewise(document, right, lambda share: None)
    assert both.sentence == f"{stays}, {also} show another size, and stay as they were."
    document.undo()
    again = guess_likewise(document, right, lambda share: None)
    assert again.sentence == f"{stays} shows another size, and stays as it was."


def test_what_tiles_are_drawn_for_is_told_unless_they_are_squares_or_differ():
    flat, pointed, lying = (Cut("tiles", 52, 60, shape=shape) for shape in ("isometric", "hex-pointed", "hex-flat"))
    assert [drawn_for([cut]) for cut in (flat, pointed, lying)] == [
        " into isometric tiles", " into hexagons", " into hexagons",
    ]  # fmt: skip
    assert drawn_for([Cut("tiles", 52, 60)]) == drawn_for([flat, pointed]) == ""
