"""A cliff, from its sheet to the ground."""

import numpy as np
import pytest

from knitground.core.edits.layers import add_layer, move_layer
from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import Cut
from making import add_sheet, png, tile
from test_faces import SIDE, face, sheet, top
from test_joining import HEATH, SLATE, meeting
from window.finding import press, says


@pytest.fixture
def cliff(window, hand, qtbot):
    """The ground on which a cliff was laid by one drag: the tile at the lower side of its face, in its midst."""
    document, session = window.session.document, window.session
    add_sheet(document, "cliff.png", png(sheet(a1_1=top(2), a1_4=face(2, 2))))
    set_cut(document, "cliff", Cut("tiles", SIDE, SIDE))
    session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "1 set found" in says(panel), timeout=20_000)
    (one,) = panel.searching.proposed
    lowest = tile(2, 5)._replace(sheet="cliff")
    panel.searching.point_at(panel.searching.at(lowest))
    assert panel.searching.pointed is one, "what lies below its rim leads to it"
    assert "the face of a wall, 2 rows high" in says(panel)
    press(panel, "Take all")
    press(panel, "Paint with it")
    window.ground.view.set_zoom(1)
    session.choose(radius=0)
    hand.on_ground((3, 2), (3, 7))
    codes = session.derived.knitted(session.ground.id).codes(session.ground.layers[1].id, session.ground.board.whole)
    assert np.argwhere(codes).tolist() == [[row, column] for row in (4, 5) for column in range(2, 8)]
    assert document.palette.ref(int(codes[5, 7])) == lowest._replace(column=3)
    return lowest


@pytest.mark.parametrize("tool", ["fill", "area"])
def test_a_cliff_is_laid_with_its_face_and_a_floor_that_is_filled_later_goes_below_both(window, hand, cliff, tool):
    session, document = window.session, window.session.document
    first = [layer.id for layer in session.ground.layers]
    floor = add_layer(document, session.ground.id, "Floor")
    session.choose(layer_id=floor, tile=cliff._replace(row=2))
    window.ground.choose_tool(tool)
    window.ground.view.set_zoom(0.5)
    hand.on_ground((2, 0), *[(47, 35)] * (tool == "area"))
    press(window.ledger, "Lay the layer at hand below what it hides")
    assert [layer.id for layer in session.ground.layers] == [floor, *first]
    document.undo()
    assert [layer.id for layer in session.ground.layers] == [*first, floor]


def test_what_is_laid_below_the_face_of_a_cliff_is_told_and_comes_on_top_by_a_click(window, hand, cliff):
    session, document = window.session, window.session.document
    floor = add_layer(document, session.ground.id, "Floor")
    move_layer(document, session.ground.id, floor, 0)
    session.choose(layer_id=floor, tile=cliff._replace(row=2))
    window.ground.choose_tool("draw")
    hand.on_ground((9, 9))
    assert "hides what was laid" not in says(window.ledger)
    hand.on_ground((4, 5))
    press(window.ledger, "Lay the last stroke above what hides it")
    assert [layer.name for layer in session.ground.layers][-1] == "Floor above"
    assert session.layer.name == "Floor above"


@pytest.mark.parametrize("tool", ["draw", "area", "fill", "place"])
def test_whichever_tool_takes_the_floor_away_by_clear_edges_it_is_told(window, hand, cliff, tool):
    session, document = window.session, window.session.document
    floor = add_layer(document, session.ground.id, "Floor")
    session.choose(layer_id=floor, tile=cliff._replace(row=2))
    window.ground.choose_tool("fill")
    hand.on_ground((2, 9))
    session.choose(tile=cliff._replace(column=1, row=2))
    if tool == "place":
        view = window.panels["ground"].view
        hand.drag(view, *(view.to_widget((column + 0.5) * SIDE, 2.5 * SIDE) for column in (0, 1)))
    else:
        window.ground.choose_tool(tool)
    assert "took the ground away" not in says(window.ledger)
    hand.on_ground((9, 9), (10, 10)) if tool == "area" else hand.on_ground((9, 9))
    assert "took the ground away" in says(window.ledger)
    press(window.ledger, "Lay the last stroke above its layer instead")
    assert session.layer.name == "Floor above"


def test_what_covers_the_ground_is_in_hand_before_the_wall_that_stands_on_it(window, qtbot):
    document, session = window.session.document, window.session
    heath = np.stack(meeting(HEATH, SLATE, 1)).reshape(4, 4, SIDE, SIDE, 4).swapaxes(1, 2).astype(int)
    heath[..., :3] += np.random.default_rng(2).integers(-30, 31, (4, SIDE, 4, SIDE, 1))  # it is told less surely
    heath = np.clip(heath, 0, 255).astype(np.uint8).reshape(4 * SIDE, 4 * SIDE, 4)
    art = sheet(a1_1=top(), a1_4=face(2), a4_5=heath)
    add_sheet(document, "cliff.png", png(art))
    set_cut(document, "cliff", Cut("tiles", SIDE, SIDE))
    session.set_stage("joins")
    panel = window.panels["joins"]
    press(panel, "Find sets")
    qtbot.waitUntil(lambda: "2 sets found" in says(panel), timeout=20_000)
    ground, wall = (one.join_set.name for one in panel.searching.proposed)
    assert len(panel.searching.proposed[1].faces) == 2
    press(panel, "Take all")
    press(panel, "Paint with it")
    assert session.layer.name == ground
    session.set_stage("joins")
    session.choose(join_set_id=document.project.join_sets[1].id)
    press(panel, "Paint with it")
    assert [layer.name for layer in session.ground.layers] == [ground, wall, f"Below {wall}"]
    assert "below all" not in says(window.ledger)
