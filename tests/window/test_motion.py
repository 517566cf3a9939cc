"""Animations in the real window."""

import numpy as np
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QMenu

from knitground.app.canvas import moving
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.notes import animate
from knitground.core.edits.placing import place
from knitground.core.layers.thing import Thing
from knitground.core.sheet.frames import USUAL_MS
from knitground.core.tiles.notes import Frame
from making import png, poke, sheet_of_tiles, tile
from window.choosing import click
from window.finding import press, says

LEFT = Qt.MouseButton.LeftButton
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def test_chosen_tiles_become_an_animation_that_plays_on_card_sheet_and_ground(working, hand, card, notes, qtbot):
    click(working, hand, 1, 1)
    click(working, hand, 3, 1, SHIFT)
    working.session.choose(tile=tile(1, 1))
    card.pages.show_page("Moves")
    card.motion.of_chosen()
    assert [frame.tile for frame in notes(1, 1).frames] == [tile(1, 1), tile(2, 1), tile(3, 1)]
    # Long beside what it takes to look: looking as often as all of them come round would show one alone.
    card.motion.ms.setValue(110)
    assert {frame.ms for frame in notes(1, 1).frames} == {110}
    document = working.session.document
    poke(document, "things", "cells", np.s_[7, 10], document.palette.code(tile(1, 1)))
    working.ground.view.show_again()
    working.ground.view.set_zoom(3)
    working.ground.view.centre_on(80, 60)

    def seen() -> set[bytes]:
        ground, sheet = working.ground.view, working.panels["sheet"].view
        places = (
            (ground, hand.cell(7, 10)),
            (sheet, sheet.tile_on_widget(1, 1).center()),
            (card.motion.playing, QPointF(48, 48)),
        )
        return tuple(widget.grab().toImage().pixel(at.toPoint()) for widget, at in places)

    shown = [set(), set(), set()]

    def all_moved() -> bool:
        for spot, colour in zip(shown, seen(), strict=True):
            spot.add(colour)
        return all(len(spot) >= 3 for spot in shown)

    qtbot.waitUntil(all_moved, timeout=5000)
    # What was there before the last change may have been among them.
    for spot in shown:
        spot.clear()
    qtbot.waitUntil(all_moved, timeout=5000)
    assert {len(spot) for spot in shown} == {3}
    press(card.motion, "Play everywhere")
    assert not working.session.clock.runs
    with qtbot.assertNotEmitted(working.session.clock.ticked, wait=120):
        held = seen()
    assert seen() == held
    press(card.motion, "Play everywhere")


def test_frames_are_reordered_timed_and_taken_out(working, hand, card, notes):
    click(working, hand, 13, 1)
    card.pages.show_page("Moves")
    card.motion.of_line(down=False)
    assert [frame.tile.column for frame in notes(13, 1).frames] == [13, 14, 15]
    frames = card.motion.frames
    frames.item(2).setSelected(True)
    press(card.motion, "Let the chosen frame show earlier")
    assert [frame.tile.column for frame in notes(13, 1).frames] == [13, 15, 14]
    card.motion.ms.setValue(300)
    assert [frame.ms for frame in notes(13, 1).frames] == [120, 300, 120]
    press(card.motion, "Remove")
    assert [frame.tile.column for frame in notes(13, 1).frames] == [13, 14]
    card.motion.of_line(down=True)
    assert [frame.tile.row for frame in notes(13, 1).frames] == [1, 2, 3]


def test_frames_come_from_several_files_or_one_that_moves(working, hand, card, notes, tmp_path, qtbot):
    click(working, hand, 1, 1)
    paths = []
    for number in range(3):
        paths.append(tmp_path / f"{number}.png")
        paths[-1].write_bytes(png(sheet_of_tiles(1, 1, 8, seed=number)))
    card.motion.of_files(paths)
    qtbot.waitUntil(lambda: len(notes(1, 1).frames) == 3)
    images = [Image.open(path) for path in paths]
    images[0].save(tmp_path / "move.gif", save_all=True, append_images=images[1:], duration=70)
    card.motion.of_files([tmp_path / "move.gif"])
    qtbot.waitUntil(lambda: [frame.ms for frame in notes(1, 1).frames] == [70, 70, 70])
    card.motion.of_files(paths[:1])
    qtbot.waitUntil(lambda: "one picture only" in says(working.ledger))


def test_sprites_of_things_play_on_the_ground_as_tiles_do(working, hand, qtbot):
    session, view = working.session, working.ground.view
    layer = add_layer(session.document, "ground", "Props", kind="props")
    animate(session.document, {tile(1, 1): [Frame(tile(n, 1), 40) for n in (1, 2, 3)]})
    still, moves = (Thing("n", x * 8 + 4.0, 64.0, tile=tile(n, 1)) for x, n in ((6, 5), (10, 1)))
    place(session.document, "ground", layer, [still, moves])
    change_layer(session.document, "ground", layer, "move", offset_x=8)
    view.set_zoom(3)
    view.centre_on(80, 60)
    seen: list[set[int]] = [set(), set()]

    def moved() -> bool:
        image = view.grab().toImage()
        for place_, column in zip(seen, (7, 11), strict=True):
            place_.add(image.pixel(hand.cell(7, column).toPoint()))
        return len(seen[1]) == 3

    qtbot.waitUntil(moved, timeout=5000)
    # What was there before the last change may have been among them.
    for colours in seen:
        colours.clear()
    qtbot.waitUntil(moved, timeout=5000)
    assert len(seen[0]) == 1


def test_cells_begin_apart_where_asked_and_alike_again_after_undo(working, hand, card, notes, qtbot):
    document, view = working.session.document, working.ground.view
    animate(document, {tile(1, 1): [Frame(tile(1, 1), 10_000), Frame(tile(2, 1), 10_000)]})
    click(working, hand, 1, 1)
    card.pages.show_page("Moves")
    poke(document, "things", "cells", np.s_[5:9, 8:14], document.palette.code(tile(1, 1)))
    view.set_zoom(3)
    view.centre_on(80, 60)

    def colours() -> int:
        image = view.grab().toImage()
        return len({image.pixel(hand.cell(row, column).toPoint()) for row in range(5, 9) for column in range(8, 14)})

    assert colours() == 1
    card.motion.apart.click()
    assert notes(1, 1).apart
    qtbot.waitUntil(lambda: colours() == 2, timeout=3000)
    working.undo()
    assert not card.motion.apart.isChecked()
    qtbot.waitUntil(lambda: colours() == 1, timeout=3000)


def test_a_block_of_tiles_plays_the_blocks_that_follow_and_is_timed_together(working, hand, card, notes):
    click(working, hand, 10, 1)
    click(working, hand, 11, 2, SHIFT)
    card.pages.show_page("Moves")
    assert card.motion.ms.value() == USUAL_MS
    press(card.motion, "Take frames")
    menu = next(one for one in card.motion.findChildren(QMenu) if one.isVisible())
    next(one for one in menu.actions() if one.text() == "The blocks from the chosen one along their rows").trigger()
    menu.close()
    assert "4 tiles play 3 frames each." in says(working.ledger)
    block = [(column, row) for column in (10, 11) for row in (1, 2)]
    for column, row in block:
        assert [frame.tile for frame in notes(column, row).frames] == [tile(column + 2 * n, row) for n in range(3)]
    card.motion.ms.setValue(200)
    card.motion.frames.item(2).setSelected(True)
    press(card.motion, "Let the chosen frame show earlier")
    for column, row in block:
        assert [frame.tile.column - column for frame in notes(column, row).frames] == [0, 4, 2]
        assert {frame.ms for frame in notes(column, row).frames} == {200}
    for _ in range(3):
        working.undo()
    assert not any(notes(*place).frames for place in block)


def test_where_a_moment_takes_too_long_to_draw_the_rest_stands_still(working, hand, qtbot, monkeypatch):
    monkeypatch.setattr(moving, "_LONGEST", -1)
    document = working.session.document
    animate(document, {tile(1, 1): [Frame(tile(n, 1), 60) for n in (1, 2, 3)]})
    shown: dict[tuple[int, int], set[int]] = {(2, 2): set(), (9, 15): set()}
    for cell in shown:
        poke(document, "things", "cells", cell, document.palette.code(tile(1, 1)))
    working.ground.view.show_again()

    def moves() -> bool:
        picture = working.ground.view.grab().toImage()
        for cell, colours in shown.items():
            colours.add(picture.pixel(hand.cell(*cell).toPoint()))
        return max(map(len, shown.values())) >= 3

    qtbot.waitUntil(moves, timeout=5000)
    assert min(map(len, shown.values())) == 1
