"""Folders that are dropped on the window, or chosen: with sheets, with single images, with both."""

import numpy as np
import pytest
from PySide6.QtWidgets import QFileDialog, QLabel

from knitground.core.edits.notes import notes_of
from knitground.core.tiles.tile import TileRef
from making import png
from test_folders import put, sheet, thing
from test_numbered import floor, lamp
from window.finding import open_menu, press, says, take
from window.test_sheet import drop


def ids(window) -> list[str]:
    return [one.id for one in window.session.document.project.sheets]


@pytest.fixture
def yard(tmp_path):
    """A folder of four things and a sheet."""
    return put(tmp_path / "yard", **{f"one {n}": thing(n) for n in range(4)}, things=sheet(9, 12, 8))


def test_a_dropped_folder_gives_its_images_as_one_tileset_and_its_sheets_as_sheets(window, yard, qtbot):
    window.show()
    drop(window, yard)
    qtbot.waitUntil(lambda: len(ids(window)) == 2, timeout=9000)
    assert ids(window) == ["yard", "things"]
    assert "4 images are one tileset now; each a tile of its own. One more is a sheet of its own." in says(
        window.ledger
    )
    window.undo()
    assert ids(window) == []


def test_a_chosen_folder_is_told_apart_and_one_may_say_that_it_is_one_tileset(window, yard, monkeypatch, qtbot):
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *args: str(yard))
    window.show()
    press(window.panels["sheet"], "Choose a folder…")
    qtbot.waitUntil(lambda: len(ids(window)) == 2, timeout=9000)
    press(window.panels["sheet"], "Add a sprite sheet")
    take(open_menu(), "A folder of images as one tileset…")
    qtbot.waitUntil(lambda: len(ids(window)) == 3, timeout=9000)
    assert len(window.session.document.project.sheets[-1].images) == 5


def test_an_image_that_is_large_for_a_tile_is_cut_as_a_sheet_at_a_click(window, yard, qtbot):
    full = np.random.default_rng(4).integers(0, 255, (160, 128, 4), dtype=np.uint8)
    full[..., 3] = 255
    (yard / "things.png").unlink()
    (yard / "ground.png").write_bytes(png(full))
    window.show()
    drop(window, yard)
    qtbot.waitUntil(lambda: ids(window) == ["yard"], timeout=9000)
    press(window.ledger, "Cut the chosen images as sheets")
    qtbot.waitUntil(lambda: ids(window) == ["yard", "ground"], timeout=9000)
    assert [cut.id for cut in window.session.document.project.sheets[0].cuts] == [f"one {n}" for n in range(4)]
    assert window.session.choices.sheet_id == "ground"
    press(window.ledger, "Undo")
    assert ids(window) == ["yard"]


def test_chosen_images_are_taken_out_of_their_tileset(window, yard, qtbot):
    window.show()
    action = window.commands.action("Take the chosen images out of their tileset")
    assert "is chosen" in action.toolTip()
    drop(window, yard)
    qtbot.waitUntil(lambda: len(ids(window)) == 2, timeout=9000)
    view = window.panels["sheet"].view
    window.session.choose(tile=next(ref for ref in view.tiles() if ref.cut == "one 2"))
    press(window.panels["sheet"], "More to do with this sheet")
    take(open_menu(), "Take the chosen images out of their tileset")
    assert "Took 1 image out of yard." in says(window.ledger)
    assert len(window.session.document.project.sheets[0].images) == 3
    window.session.choose(sheet_id="things")
    assert not action.isEnabled()


def test_of_several_files_that_are_left_out_all_are_named_where_one_points(window, yard, qtbot):
    for name in ("torn", "worn", "gone"):
        (yard / f"{name}.png").write_bytes(b"nothing")
    window.show()
    drop(window, yard)
    qtbot.waitUntil(lambda: len(ids(window)) == 2, timeout=9000)
    (told,) = [one for one in window.ledger.findChildren(QLabel) if "3 are left out (all are named here)" in one.text()]
    assert "\n" not in told.text()
    assert all(f"{name}.png is not" in told.toolTip() for name in ("torn", "worn", "gone"))


def test_images_that_are_numbered_and_alike_are_animated_at_a_click(window, yard, qtbot):
    put(yard, **{f"lamp_{n}": lamp(n) for n in range(4)})
    window.show()
    drop(window, yard)
    qtbot.waitUntil(lambda: len(ids(window)) == 2, timeout=9000)
    assert "“lamp_0” to “lamp_3” look like frames. One more is a sheet of its own." in says(window.ledger)
    press(window.ledger, "Animate what is numbered")
    first = TileRef("yard", "lamp_0", 0, 0)
    document = window.session.document
    assert [frame.tile.cut for frame in notes_of(document, first).frames] == [f"lamp_{n}" for n in range(4)]
    assert window.session.choices.selection == {first}
    press(window.ledger, "Undo")
    assert not notes_of(document, first).frames
    window.session.choose(sheet_id="things")
    assert "made of images" in window.commands.action("Animate what is numbered").toolTip()


def test_images_that_are_numbered_and_fill_their_cells_are_mixed_at_a_click(window, tmp_path, qtbot):
    drop(window, put(tmp_path / "quay", **{f"sand {n}": floor(n) for n in (1, 2, 3)}, crate=thing(1)))
    qtbot.waitUntil(lambda: ids(window) == ["quay"], timeout=9000)
    assert "may be frames or variants." in says(window.ledger)
    press(window.ledger, "Mix what is numbered")
    (mix,) = window.session.document.project.mixes
    assert (mix.name, len(mix.parts), window.session.choices.mix_id) == ("sand", 3, mix.id)
    assert "“sand” is a mix now" in says(window.ledger)
    press(window.ledger, "Undo")
    assert not window.session.document.project.mixes


def test_frames_that_are_put_into_a_tileset_later_are_offered_too(window, tmp_path, qtbot):
    drop(window, put(tmp_path / "quay", crate=thing(1), post=thing(2)))
    qtbot.waitUntil(lambda: ids(window) == ["quay"], timeout=9000)
    more = put(tmp_path / "more", **{f"lamp_{n}": lamp(n) for n in range(3)})
    window.keeper.adder.add_more_images("quay", sorted(more.iterdir()))
    qtbot.waitUntil(lambda: "3 images more" in says(window.ledger), timeout=9000)
    press(window.ledger, "Animate what is numbered")
    assert len(notes_of(window.session.document, TileRef("quay", "lamp_0", 0, 0)).frames) == 3
