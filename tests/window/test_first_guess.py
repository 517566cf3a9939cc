"""What is said of a sheet that was just dropped: how it is cut, and what to do where little speaks for that."""

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.sheet.repack import Gaps, repack
from making import png
from test_captions import captioned
from test_repeated import drawn
from window.finding import press, says
from window.test_sheet import cut_of, drop


def test_who_drops_a_sheet_that_repeats_its_edges_is_told_they_are_left_out(window, tmp_path):
    for name, extrude in (("plain", 0), ("packed", 2)):
        path = tmp_path / f"{name}.png"
        path.write_bytes(png(repack(drawn(9, 3, 4, 16, 16), Gaps(1, 2, extrude))))
        drop(window, path)
        without = " without the edges that it repeats" if extrude else ""
        assert f"{name}.png is cut by a first guess{without}; drag" in says(window.ledger)


def scattered() -> np.ndarray:
    """Eleven round and square things of all sizes, put down by hand."""
    image = Image.new("RGBA", (260, 190), (0, 0, 0, 0))
    draw = ImageDraw.Draw(image)
    for number, (x, y, wide, high) in enumerate((
        (3, 5, 51, 47), (61, 2, 17, 39), (90, 9, 33, 21), (131, 4, 62, 58), (204, 11, 40, 28),
        (9, 70, 29, 44), (47, 62, 71, 35), (126, 77, 23, 23), (160, 71, 58, 49), (22, 128, 44, 51), (85, 119, 37, 66),
    )):  # fmt: skip
        colour = (30 + 20 * number, 200 - 15 * number, 90 + 60 * (number % 3), 255)
        (draw.ellipse, draw.rectangle)[number % 2]((x, y, x + wide - 1, y + high - 1), fill=colour)
    return np.array(image)


def test_who_drops_things_in_no_grid_is_told_that_little_speaks_for_one_and_has_them_whole_at_once(window, tmp_path):
    path = tmp_path / "shed.png"
    path.write_bytes(png(scattered()))
    drop(window, path)
    assert "shed.png is cut by a first guess that little speaks for; its shapes may be loose pieces" in says(
        window.ledger
    )
    press(window.ledger, "Loose pieces, or a grid")
    assert len(cut_of(window).pieces) == 11
    assert "Found 11 loose pieces" in says(window.ledger)


def test_letters_of_captions_among_loose_pieces_are_told_and_left_out_by_a_click(window, tmp_path):
    path = tmp_path / "shed.png"
    picture, places = captioned()
    path.write_bytes(png(picture))
    drop(window, path)
    press(window.ledger, "Loose pieces, or a grid")
    assert "of them look like writing" in says(window.ledger)
    press(window.ledger, "Leave writing out of the loose pieces")
    assert "pieces left out; a click takes one in again" in says(window.ledger)
    kept = list(window.panels["sheet"].view.tiles())
    assert len(kept) < 1.3 * len(places)
    pieces = cut_of(window).pieces
    assert set(places) <= {pieces[ref.column] for ref in kept}
