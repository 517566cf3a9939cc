"""The history of changes, and the things one does to a project."""

import numpy as np
import pytest

from knitground.core.edits.grounds import add_ground, resize_ground
from knitground.core.edits.layers import add_layer, move_layer, remove_layer
from knitground.core.errors import BadRequest
from making import rectangle


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
