"""Nothing is lost: history, journal, recovery, whatever happens in between."""

import os
import shutil
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from knitground.core.edits.exchange import exchange, same_layout
from knitground.core.edits.grounds import add_ground, resize_ground
from knitground.core.edits.layers import add_layer, change_layer, move_layer, remove_layer
from knitground.core.edits.notes import add_tag
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.edits.pins import pin
from knitground.core.errors import BadRequest, CannotWrite
from knitground.core.project.delta import delta_between
from knitground.core.project.document import Document
from knitground.core.project.history import History, Step
from knitground.core.project.journal import Journal, left_behind, replay
from knitground.core.project.model import Picture
from making import add_sheet, content, look, make_document, png, poke, rectangle, sheet_of_tiles, tile


def begun(folder: Path, document: Document) -> Journal:
    journal = Journal(folder)
    journal.begin(document.state, list(document.palette.refs), document.folder, document.saved_as.document)
    return journal


class Work(RuleBasedStateMachine):
    """Random work on a document, with saving, killing and coming back in between."""

    @initialize()
    def start(self) -> None:
        import tempfile

        self.root = Path(tempfile.mkdtemp())
        self.document = make_document(40, 30)
        self.document.save(self.root / "project")
        self.journal = begun(self.root / "journal 0", self.document)
        self.journals = 1
        self.past: list[dict] = []

    def done(self) -> None:
        self.journal.add(self.document.state, self.document.palette)

    @rule(row=st.integers(-3, 33), column=st.integers(-3, 43), terrain=st.integers(1, 2), radius=st.integers(0, 6))
    def paint(self, row: int, column: int, terrain: int, radius: int) -> None:
        with self.document.step("stroke"):
            stroke(self.document, "ground", "areas", Hand(terrain=terrain, radius=radius), (row, column), (column, row))
        self.done()

    @rule(row=st.integers(0, 29), column=st.integers(0, 39), which=st.integers(0, 15), turned=st.integers(0, 7))
    def lay(self, row: int, column: int, which: int, turned: int) -> None:
        hand = Hand(tile(which, 3), orientation=turned)
        area(self.document, "ground", "things", hand, (row, column), (row + 3, column + 4))
        self.done()

    @rule(row=st.integers(0, 29), column=st.integers(0, 39))
    def hold(self, row: int, column: int) -> None:
        ground = self.document.project.grounds[0]
        # Undo may have left the ground smaller.
        if row >= ground.height or column + 1 >= ground.width:
            return
        shape = rectangle((ground.height, ground.width), (row, column), (row, column + 1))
        pin(self.document, "ground", "areas", shape, self.document.palette.code(tile(5, 2)))
        self.done()

    @rule(word=st.sampled_from(["roof", "garden", "sky"]), which=st.integers(0, 3))
    def note(self, word: str, which: int) -> None:
        add_tag(self.document, [tile(which, 0)], word)
        self.done()

    @rule(width=st.integers(30, 45), height=st.integers(25, 35))
    def resize(self, width: int, height: int) -> None:
        resize_ground(self.document, "ground", width, height)
        self.done()
        resize_ground(self.document, "ground", 40, 30)
        self.done()

    @rule()
    def rearrange(self) -> None:
        made = add_layer(self.document, "ground", "More", kind="shade")
        move_layer(self.document, "ground", made, 1)
        change_layer(self.document, "ground", made, "look", opacity=0.5)
        self.done()
        remove_layer(self.document, "ground", made)
        self.done()

    @rule(seed=st.integers(0, 3))
    def redraw(self, seed: int) -> None:
        pixels = sheet_of_tiles(16, 4, seed=seed)
        picture = Picture(png(pixels), pixels)
        sheet = self.document.project.sheets[0]
        exchange(self.document, same_layout(sheet, self.document.state.pictures["art"], picture))
        self.done()

    @rule()
    def undo(self) -> None:
        before = content(self.document.state)
        if self.document.undo() is not None:
            self.document.redo()
            assert content(self.document.state) == before
            self.document.undo()
        self.done()

    @rule()
    def redo(self) -> None:
        self.document.redo()
        self.done()

    @rule()
    def never_mind(self) -> None:
        before = content(self.document.state)
        self.document.begin("never mind")
        stroke(self.document, "ground", "areas", Hand(terrain=2, radius=3), (9, 9), (12, 12))
        self.document.roll_back()
        assert content(self.document.state) == before

    @rule()
    def save(self) -> None:
        self.document.save()
        assert not self.document.changed
        assert look(Document.load(self.root / "project")) == look(self.document)
        self.journal.forget()
        self.journal = begun(self.root / f"journal {self.journals}", self.document)
        self.journals += 1

    @rule(cut=st.integers(0, 60))
    def killed(self, cut: int) -> None:
        """The program is gone; the last record may be cut short, and then just that one is lost."""
        copy = self.root / "copy"
        shutil.copytree(self.journal.folder, copy)
        back = replay(copy)
        assert back is not None
        assert look(back) == look(self.document)
        assert back.changed
        records = copy / "records"
        records.write_bytes(records.read_bytes()[: max(0, records.stat().st_size - cut)])
        assert replay(copy) is not None
        shutil.rmtree(copy)

    @precondition(lambda self: hasattr(self, "document"))
    @invariant()
    def what_is_known_to_be_saved_is(self) -> None:
        if not self.document.changed:
            assert look(Document.load(self.root / "project")) == look(self.document)

    def teardown(self) -> None:
        if hasattr(self, "root"):
            self.journal.forget()
            shutil.rmtree(self.root)


TestWork = Work.TestCase
TestWork.settings = settings(max_examples=8, stateful_step_count=18, deadline=None)


def test_a_snapshot_stays_as_it_is_and_costs_no_copy():
    document = make_document(500, 400)
    before, kept = document.state, content(document.state)
    stroke(document, "ground", "areas", Hand(terrain=2, radius=9), (50, 50), (90, 90))
    assert content(before) == kept
    assert document.state.planes["ground"]["lines"] is before.planes["ground"]["lines"]


def test_two_hundred_large_strokes_can_be_undone_within_the_bound():
    document = make_document(1024, 1024)
    first = content(document.state)
    for number in range(200):
        spot = 200 + 3 * number
        stroke(document, "ground", "areas", Hand(terrain=1 + number % 2, radius=100), (spot, spot), (spot, 900 - spot))
        area(document, "ground", "things", Hand(tile(number % 16, 3)), (0, 0), (300, 300))
    assert document.history.dropped == 0
    assert document.history.nbytes < 2**28
    while document.undo():
        pass
    assert content(document.state) == first
    assert not document.changed


def test_a_full_history_packs_first_then_lets_the_oldest_go_and_says_so():
    history = History(most_bytes=200_000)
    random = np.random.Generator(np.random.PCG64(1))
    document = make_document(400, 400)
    for number in range(12):
        before = document.state
        poke(document, "areas", "corners", np.s_[:], random.integers(1, 3, (401, 401)))
        history.push(Step("noise", delta_between(before, document.state), number, number + 1))
    assert history.dropped > 0
    assert len(history.done) + history.dropped == 12
    assert history.nbytes == sum(step.delta.nbytes for step in history.done)


def test_a_step_larger_than_the_bound_lets_no_older_one_go_and_is_packed_when_the_next_comes():
    document = make_document(1600, 1600)
    document.history = history = History(most_bytes=2**22)
    first = content(document.state)
    code = document.palette.code(tile(1, 3))
    poke(document, "things", "cells", np.s_[0, 0:5], code)
    poke(document, "things", "cells", np.s_[:, :], code)
    assert history.nbytes > 2**24
    assert len(history.done) == 2
    poke(document, "things", "cells", np.s_[3, 0:5], 0)
    assert history.nbytes < 2**22
    assert history.dropped == 0
    while document.undo():
        pass
    assert content(document.state) == first


def test_a_dropped_step_never_makes_changed_work_look_saved(tmp_path):
    document = make_document(60, 60)
    document.save(tmp_path)
    document.history = History(most_bytes=1)
    for number in range(5):
        poke(document, "things", "cells", np.s_[number], document.palette.code(tile(number, 3)))
    while document.undo():
        pass
    assert document.changed


def test_a_step_that_fails_leaves_nothing_and_no_gesture_open(document):
    before = content(document.state)

    def fail() -> None:
        with document.step("resize"):
            add_ground(document, "More", 4, 4, (8, 8))
            resize_ground(document, "ground", 0, 0)

    with pytest.raises(BadRequest):
        fail()
    assert content(document.state) == before
    assert document.gesture is None
    assert document.undo() is None


def test_records_follow_the_size_of_the_edit_and_not_of_the_project(tmp_path):
    sizes = {}
    for side in (100, 2000):
        document = make_document(side, side)
        document.save(tmp_path / str(side))
        journal = begun(tmp_path / f"journal {side}", document)
        stroke(document, "ground", "areas", Hand(terrain=2, radius=4), (40, 40), (44, 50))
        sizes[side] = journal.add(document.state, document.palette)
    assert sizes[2000] < 2 * sizes[100] < 4000


def test_work_on_a_project_that_was_never_saved_comes_back_with_its_pictures(tmp_path):
    document = Document()
    journal = begun(tmp_path / "journal", document)
    add_sheet(document, "roof.png", png(sheet_of_tiles(4, 2)))
    made = add_ground(document, "Field", 6, 5, (8, 8))
    add_layer(document, made, "Tiles")
    journal.add(document.state, document.palette)
    back = replay(tmp_path / "journal")
    assert look(back) == look(document)
    assert back.folder is None
    assert back.changed


def test_a_redrawn_sheet_wins_over_the_journal_and_is_not_written_over(tmp_path):
    document = make_document()
    document.save(tmp_path / "p")
    journal = begun(tmp_path / "journal", document)
    poke(document, "things", "cells", np.s_[3, 3], document.palette.code(tile(1, 3)))
    journal.add(document.state, document.palette)
    new = png(sheet_of_tiles(16, 4, seed=9))
    (tmp_path / "p" / "sheets" / "art.png").write_bytes(new)
    back = replay(tmp_path / "journal")
    assert back.state.pictures["art"].files == (new,)
    back.save()
    assert (tmp_path / "p" / "sheets" / "art.png").read_bytes() == new


def test_a_journal_that_is_held_is_nobody_elses_and_a_damaged_one_hides_no_other(tmp_path):
    document = make_document()
    document.save(tmp_path / "p")
    journals = [begun(tmp_path / "root" / name, document) for name in ("good", "broken")]
    for number, journal in enumerate(journals):
        poke(document, "things", "cells", np.s_[number], document.palette.code(tile(1, 3)))
        journal.add(document.state, document.palette)
    assert left_behind(tmp_path / "root") == []
    for journal in journals:
        journal._lock.release()
    (tmp_path / "root" / "broken" / "base.json").write_text("{")
    found = left_behind(tmp_path / "root")
    assert [one.name for one in found] == ["broken", "good"]
    assert [replay(one) is None for one in found] == [True, False]


def test_a_journal_that_cannot_be_written_says_so_and_goes_on_later(tmp_path, monkeypatch):
    document = make_document()
    journal = begun(tmp_path / "journal", document)
    poke(document, "things", "cells", np.s_[1], document.palette.code(tile(1, 3)))

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(os, "fsync", full)
        with pytest.raises(CannotWrite, match="disk is full"):
            journal.add(document.state, document.palette)
    poke(document, "things", "cells", np.s_[2], document.palette.code(tile(2, 3)))
    journal.add(document.state, document.palette)
    assert look(replay(tmp_path / "journal")) == look(document)
