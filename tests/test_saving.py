"""Saving leaves all of the old or all of the new, and overwrites nobody else's work."""

import json
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from knitground.core.edits.exchange import exchange, same_layout
from knitground.core.edits.sheets import remove_sheet
from knitground.core.edits.things import put
from knitground.core.errors import CannotWrite, ChangedMeanwhile
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME
from knitground.core.project.lock import ProjectLock
from knitground.core.project.model import Picture
from making import add_sheet, look, make_document, png, poke, sheet_of_tiles, tile


def test_another_programs_save_is_not_overwritten_silently(tmp_path):
    document = make_document()
    document.save(tmp_path)
    other = Document.load(tmp_path)
    poke(other, "things", "cells", np.s_[1], other.palette.code(tile(1, 3)))
    other.save()
    theirs = (tmp_path / FILE_NAME).read_bytes()
    poke(document, "things", "cells", np.s_[2], document.palette.code(tile(2, 3)))
    with pytest.raises(ChangedMeanwhile, match="by another program"):
        document.save()
    assert (tmp_path / FILE_NAME).read_bytes() == theirs
    document.save(over=True)
    assert look(Document.load(tmp_path)) == look(document)


def test_a_project_has_one_writer_for_as_long_as_that_one_lives(tmp_path):
    lock = ProjectLock(tmp_path)
    assert lock.take()
    script = (
        "import sys, pathlib; from knitground.core.project.lock import ProjectLock; "
        "print(ProjectLock(pathlib.Path(sys.argv[1])).take())"
    )

    def other() -> str:
        return subprocess.run(
            [sys.executable, "-c", script, str(tmp_path)], capture_output=True, text=True, check=True
        ).stdout.strip()

    assert other() == "False"
    lock.release()
    assert other() == "True"


@pytest.mark.parametrize("after", range(12))
def test_saving_leaves_all_of_the_old_or_all_of_the_new(tmp_path, monkeypatch, after):
    """The disk is full after so many writes: what can be opened is one version whole, and no half lies about."""
    document = make_document()
    add_sheet(document, "more.png", png(sheet_of_tiles(3, 3, seed=3)))
    document.save(tmp_path)
    old = look(Document.load(tmp_path))
    for name, columns, rows in (("art", 16, 4), ("more", 3, 3)):
        pixels = sheet_of_tiles(columns, rows, seed=40)
        sheet = next(one for one in document.project.sheets if one.id == name)
        exchange(document, same_layout(sheet, document.state.pictures[name], Picture(png(pixels), pixels)))
    poke(document, "areas", "corners", np.s_[2:5], 2)
    left = [after]
    real = os.replace

    def replace_some(*args: object) -> None:
        left[0] -= 1
        if left[0] < 0:
            raise OSError(28, "No space left on device")
        real(*args)

    monkeypatch.setattr(os, "replace", replace_some)
    try:
        document.save()
        new = look(document)
    except CannotWrite:
        new = None
    found = look(Document.load(tmp_path))
    assert found == (old if new is None else new)
    assert not list(tmp_path.rglob("*.part"))


def test_killed_at_any_step_one_version_lies_in_the_folder(tmp_path):
    """A process that saves is killed before each of the calls by which it changes files, one after another."""
    script = """
import itertools, os, pathlib, signal, sys
sys.path.insert(0, sys.argv[2])
import numpy as np
from knitground.core.edits.exchange import exchange, same_layout
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from making import png, poke, sheet_of_tiles

def change(document, version):
    pixels = sheet_of_tiles(16, 4, seed=version)
    picture = Picture(png(pixels), pixels)
    exchange(document, same_layout(document.project.sheets[0], document.state.pictures["art"], picture))
    poke(document, "areas", "corners", np.s_[:], 1 + version)

def die_at(step):
    left = [step]
    def watch(event, args):
        writes = event == "open" and isinstance(args[2], int) and args[2] & (os.O_WRONLY | os.O_RDWR)
        if writes or event in ("os.rename", "os.remove", "os.mkdir", "os.truncate"):
            left[0] -= 1
            if left[0] < 0:
                os.kill(os.getpid(), signal.SIGKILL)
    sys.addaudithook(watch)

folder, whole = pathlib.Path(sys.argv[1]), 1
for step in itertools.count():
    version = 1 - whole
    child = os.fork()
    if not child:
        document = Document.load(folder)
        change(document, version)
        die_at(step)
        document.save()
        os._exit(0)
    killed = os.WIFSIGNALED(os.waitpid(child, 0)[1])
    found = Document.load(folder)
    corners = np.asarray(found.state.planes["ground"]["areas"]["corners"])
    whole = int(corners[0, 0]) - 1
    assert (corners == whole + 1).all()
    assert np.array_equal(found.state.pictures["art"].pixels, sheet_of_tiles(16, 4, seed=whole))
    print(whole == version, flush=True)
    if not killed:
        break
"""
    document = make_document()
    pixels = sheet_of_tiles(16, 4, seed=1)
    exchange(
        document,
        same_layout(document.project.sheets[0], document.state.pictures["art"], Picture(png(pixels), pixels)),
    )
    poke(document, "areas", "corners", np.s_[:], 2)
    document.save(tmp_path)
    said = subprocess.run(
        [sys.executable, "-c", script, str(tmp_path), str(Path(__file__).parent)], capture_output=True, text=True
    )
    assert said.returncode == 0, said.stderr
    saved = said.stdout.split()
    assert len(saved) > 5, "it was killed at several steps"
    assert saved == sorted(saved), "from one of them on it is the new version"
    assert (saved[0], saved[-1]) == ("False", "True")


def test_saving_elsewhere_spares_pictures_that_lie_there(tmp_path):
    document = make_document()
    foreign = png(sheet_of_tiles(2, 2, seed=77))
    (tmp_path / "sheets").mkdir()
    (tmp_path / "sheets" / "art.png").write_bytes(foreign)
    document.save(tmp_path)
    assert (tmp_path / "sheets" / "art.png").read_bytes() == foreign
    assert document.project.sheets[0].file == "sheets/art-2.png"
    assert look(Document.load(tmp_path)) == look(document)


def test_pictures_that_no_version_names_any_more_are_removed(tmp_path):
    document = make_document()
    document.save(tmp_path)
    for seed in (1, 2, 3):
        pixels = sheet_of_tiles(16, 4, seed=seed)
        picture = Picture(png(pixels), pixels)
        exchange(document, same_layout(document.project.sheets[0], document.state.pictures["art"], picture))
        document.save()
    assert len(list((tmp_path / "sheets").iterdir())) == 2
    kept = json.loads((tmp_path / "knitground.previous.json").read_text())["project"]["sheets"][0]["file"]
    assert (tmp_path / kept).exists()


def test_two_sheets_that_name_one_file_each_get_their_own(tmp_path):
    document = make_document()
    sheet = document.project.sheets[0]
    pixels = sheet_of_tiles(16, 4, seed=5)
    document.define(
        "twice", replace(document.project, sheets=(sheet, replace(sheet, id="other"))),
        pictures={**document.state.pictures, "other": Picture(png(pixels), pixels)},
    )  # fmt: skip
    document.save(tmp_path)
    again = Document.load(tmp_path)
    assert len({one.file for one in again.project.sheets}) == 2
    assert np.array_equal(again.state.pictures["other"].pixels, pixels)


def test_a_disk_without_hard_links_takes_a_second_save(tmp_path, monkeypatch):
    def refuse(*_: object) -> None:
        raise OSError(1, "Operation not permitted")

    monkeypatch.setattr(os, "link", refuse)
    document = make_document()
    document.save(tmp_path)
    put(document, "name", "grounds", replace(document.project.grounds[0], name="Other"))
    document.save()
    assert (tmp_path / "knitground.previous.json").exists()


def test_a_sheet_that_goes_and_comes_back_finds_its_place(document):
    order = [sheet.id for sheet in document.project.sheets]
    add_sheet(document, "b.png", png(sheet_of_tiles(2, 2)))
    remove_sheet(document, "art")
    document.undo()
    assert [sheet.id for sheet in document.project.sheets] == [*order, "b"]
