"""The history of changes, and the things one does to a project."""

import sys
from dataclasses import replace
from threading import Thread

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.grounds import add_ground, resize_ground
from knitground.core.edits.layers import add_layer, move_layer, remove_layer
from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.model import Palette, Picture
from knitground.core.sheet.picture import encode_png
from making import make_document, poke, rectangle, tile


def test_edits_of_a_gesture_are_one_step_and_can_be_rolled_back(document):
    before = document.project
    document.begin("two things")
    add_ground(document, "One", 3, 3, (8, 8))
    add_ground(document, "Two", 3, 3, (8, 8))
    document.commit()
    assert len(document.project.grounds) == 3
    assert document.undo() == "two things"
    assert document.project == before
    document.begin("never mind")
    add_ground(document, "Three", 3, 3, (8, 8))
    document.roll_back()
    assert document.project == before
    assert document.undo() is None


def test_a_sealed_trial_is_accepted_by_the_next_edit(document):
    document.begin("trial")
    add_ground(document, "Tried", 3, 3, (8, 8))
    document.seal()
    add_ground(document, "Meant", 3, 3, (8, 8))
    assert document.undo() == "add ground Meant"
    assert document.undo() == "trial"


def test_a_gesture_that_changes_nothing_leaves_no_step(document):
    document.begin("nothing")
    document.commit()
    document.paint("same", "ground", "areas", "corners", rectangle((16, 21), (0, 0), (3, 3)), 1)
    assert document.undo_label is None
    assert not document.changed


def test_painting_on_a_new_layer_can_be_undone_and_redone(document):
    layer = add_layer(document, "ground", "More")
    document.paint("draw", "ground", layer, "cells", rectangle((15, 20), (1, 1), (2, 2)), 1)
    document.undo()
    document.undo()
    assert layer not in document.state.planes["ground"]
    document.redo()
    document.redo()
    assert int((np.asarray(document.state.planes["ground"][layer]["cells"]) == 1).sum()) == 4


def test_saved_means_no_changes_until_the_next_edit_and_again_after_undo(document, tmp_path):
    add_ground(document, "One", 3, 3, (8, 8))
    document.save(tmp_path / "p")
    assert not document.changed
    add_ground(document, "Two", 3, 3, (8, 8))
    assert document.changed
    document.undo()
    assert not document.changed
    document.undo()
    assert document.changed


def test_resizing_keeps_what_was_painted_and_goes_on_at_the_border(document):
    document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (0, 20), (15, 20)), 2)
    resize_ground(document, "ground", 25, 12)
    corners = document.state.planes["ground"]["areas"]["corners"]
    assert corners.shape == (13, 26)
    assert (corners[:, 20:] == 2).all()
    assert (corners[:, :20] == 1).all()
    document.undo()
    assert document.state.planes["ground"]["areas"]["corners"].shape == (16, 21)


@pytest.mark.parametrize("size", [(0, 5), (5, 0), (4097, 5), (5, -1)])
def test_a_ground_of_impossible_size_is_refused(document, size):
    with pytest.raises(BadRequest, match="out of range"):
        add_ground(document, "Bad", *size, (8, 8))
    with pytest.raises(BadRequest, match="out of range"):
        resize_ground(document, "ground", *size)


def test_a_new_terrain_layer_starts_covered_unless_its_set_borders_on_nothing(document):
    areas = add_layer(document, "ground", "A", "areas")
    lines = add_layer(document, "ground", "L", "lines")
    walls = add_layer(document, "ground", "W", "walls")
    planes = document.state.planes["ground"]
    assert (np.asarray(planes[areas]["corners"]) == 1).all()
    assert (np.asarray(planes[lines]["across"]) == 0).all()
    assert set(planes[walls]) == {"plan"}
    assert [document.project.grounds[0].layer(one).erased(document.project) for one in (areas, lines)] == [
        1,
        0,
    ]


def test_layers_move_and_go_and_come_back(document):
    names = [layer.id for layer in document.project.grounds[0].layers]
    move_layer(document, "ground", names[0], 2)
    assert [layer.id for layer in document.project.grounds[0].layers] == [names[1], names[2], names[0], names[3]]
    remove_layer(document, "ground", names[1])
    assert names[1] not in document.state.planes["ground"]
    document.undo()
    document.undo()
    assert [layer.id for layer in document.project.grounds[0].layers] == names


_DONE = st.lists(
    st.sampled_from(["paint", "gesture", "ground", "trial", "undo", "undo", "redo", "redrawn", "names"]), max_size=24
)


@given(_DONE)
@settings(max_examples=60, deadline=None)
def test_undo_and_redo_lead_to_what_was_there_then_with_every_sheet_as_it_is_drawn_now(done):
    document = make_document(8, 6)
    derived = Derived(document)
    moments, at, drawn, names = [_seen(document)], 0, 0, 0
    for number, what in enumerate(done):
        if what == "undo":
            assert (document.undo() is None) == (at == 0)
            at = max(0, at - 1)
        elif what == "redo":
            assert (document.redo() is None) == (at == len(moments) - 1)
            at = min(len(moments) - 1, at + 1)
        elif what == "redrawn":
            drawn = number + 1
            pixels = np.full_like(document.state.pictures["art"].pixels, drawn)
            document.redrawn(document.project.sheets[0], Picture(encode_png(pixels), pixels))
        elif what == "names":
            names = number + 1
            document.take_names({"art": replace(document.project.sheets[0], file=f"sheets/{names}.png")})
        else:
            if what == "ground":
                add_ground(document, f"Ground {number}", 3, 3, (8, 8))
            else:
                document.begin(what)
                for step in range(2):
                    spot = number % 7, (number + step) % 5
                    document.paint("draw", "ground", "areas", "corners", rectangle((7, 9), spot, spot), number % 2 + 1)
                if what == "trial":
                    document.seal()
                document.commit()
            changed = _seen(document)
            moments[at + 1 :] = [changed] if changed != moments[at] else moments[at + 1 :]
            at += changed != moments[at]
        assert _seen(document) == moments[at]
        assert (document.state.pictures["art"].pixels == drawn).all() or not drawn
        assert document.project.sheets[0].file == (f"sheets/{names}.png" if names else "sheets/art.png")
        fresh = Derived(document)
        for owner in document.project.join_sets:
            assert derived.coverage(owner) == fresh.coverage(owner)
        fresh.close()


def _seen(document):
    """What is on the grounds."""
    planes = {
        (ground, layer, name): np.asarray(plane).tobytes()
        for ground, layers in document.state.planes.items()
        for layer, held in layers.items()
        for name, plane in held.items()
    }
    return [ground.name for ground in document.project.grounds], planes


def test_threads_that_ask_for_the_numbers_of_tiles_at_once_get_one_for_each_tile():
    usual = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        for _ in range(20):
            palette, told = Palette(), []
            palette.refs = _Slow()
            threads = [Thread(target=_ask, args=(palette, number, told)) for number in range(6)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            assert all(palette.ref(number) == one for one, number in told)
            assert len(palette.refs) == len(set(palette.refs))
    finally:
        sys.setswitchinterval(usual)


class _Slow(list):
    """A list that gives other threads a turn whenever it grows."""

    def append(self, one):
        super().append(one)
        for _ in range(20):
            pass


def _ask(palette, start, told):
    """Asks for the tiles of a large sheet, in an order of its own."""
    for number in range(400):
        one = tile(number * (2 * start + 1) % 401, 3)
        told.append((one, palette.number(one)))


@pytest.mark.parametrize(("every", "most"), [(1, 1), (2, 1), (200, 16)])
def test_what_changed_is_told_in_few_rectangles_that_hold_all_of_it(every, most):
    document = make_document(600, 600)
    told = []
    document.listeners.append(told.append)
    values = np.zeros((600, 600), dtype=np.int32)
    values[::every, ::every] = 1
    poke(document, "things", "cells", (slice(None), slice(None)), values)
    rects = [one.rect for one in told[-1].touched if one.layer == "things" and one.plane == "cells"]
    assert len(rects) <= most
    held = np.zeros_like(values)
    for rect in rects:
        held[rect.rows, rect.columns] = 1
    assert (held >= values).all()
    assert every < 100 or held.sum() < 100, "little that lies far apart stays little"
