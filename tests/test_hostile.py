"""Damaged, odd and hostile input: each kind ends in one clear sentence, and what was there stays there."""

import io
import json
import os
import shutil
import signal
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from calling import fails_with_one_sentence, knitground
from knitground.core.errors import BadProject, BadSheet, CannotWrite
from knitground.core.project.atomic import write_atomically
from knitground.core.project.document import Document
from knitground.core.sheet.frames import decode_frames
from knitground.core.sheet.picture import decode_picture, read_file
from making import png, sheet_of_tiles

DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"
NAME = "knitground.json"
BESIDE = " 0" * 63


@pytest.fixture
def demo(tmp_path):
    folder = tmp_path / "demo"
    shutil.copytree(DEMO, folder)
    return folder


@pytest.fixture
def edited(demo):
    """Edits the demo's document as a hand with a text editor would; its folder."""

    def edit(act):
        raw = json.loads((demo / NAME).read_text())
        act(raw["project"], raw["maps"])
        (demo / NAME).write_text(json.dumps(raw))
        return demo

    return edit


def cli(*args, **more):
    """Runs the program itself; its exit code and the lines it says on standard error."""
    code = "from knitground.cli import main; main()"
    ran = subprocess.run([sys.executable, "-c", code, *args], stderr=subprocess.PIPE, timeout=60, **more)
    return ran.returncode, ran.stderr.decode("utf-8", "replace").splitlines()


def one_sentence(found):
    code, lines = found
    assert code == 2
    assert len(lines) == 1
    assert lines[0].startswith("knitground: ")
    assert lines[0].endswith((".", "!"))
    return lines[0]


ODD = {
    "lone surrogate in a name": lambda project, maps: project["grounds"][0].update(name="a\ud800"),
    "lone surrogate in an id": lambda project, maps: project["grounds"][0].update(id="a\ud800"),
    "lone surrogate in a tag": lambda project, maps: project["tiles"]["roofs/tops/0,0"].update(tags=["a\udfff"]),
    "NUL in a file name": lambda project, maps: project["sheets"][0].update(file="a\0b.png"),
    "surrogate in a file name": lambda project, maps: project["sheets"][0].update(file="a\ud800.png"),
    "way out of the folder": lambda project, maps: project["sheets"][0].update(file="../../etc/hostname"),
    "tile of gigabytes": lambda project, maps: project["sheets"][0]["cuts"][0].update(tile_width=2**40),
    "offset of gigabytes": lambda project, maps: project["sheets"][0]["cuts"][0].update(offset_x=-(2**40)),
    "no number for a width": lambda project, maps: project["sheets"][0]["cuts"][0].update(tile_width=1e300),
    "cells of gigabytes": lambda project, maps: project["grounds"][0].update(tile_width=10**9),
    "ground beyond 64 bits": lambda project, maps: project["grounds"][0].update(width=2**65),
    "opacity that is no number": lambda project, maps: project["grounds"][0]["layers"][0].update(opacity=float("nan")),
    "layer moved out of sight": lambda project, maps: project["grounds"][0]["layers"][0].update(offset_x=10**12),
    "seed beyond 64 bits": lambda project, maps: project.update(seed=2**70),
    "unknown grid": lambda project, maps: project["grounds"][0].update(grid="round"),
    "unknown kind of layer": lambda project, maps: project["grounds"][0]["layers"][0].update(kind="cloud"),
    "cell beyond 64 bits": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(0, f"{2**63}{BESIDE}"),
    "cell of 5000 digits": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(
        0, "9" * 5000 + BESIDE
    ),
    "cell in other digits": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(0, f"١{BESIDE}"),
    "cell below nothing": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(0, f"-1{BESIDE}"),
    "cell that the palette lacks": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(
        0, f"60000{BESIDE}"
    ),
    "tile in an unknown orientation": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(
        0, f"{1 + (9 << 24)}{BESIDE}"
    ),
    "row too short": lambda project, maps: maps["long-roof"]["props"]["cells"].__setitem__(0, "1"),
}


@pytest.mark.parametrize("kind", ODD)
def test_an_odd_project_is_refused_in_a_sentence(edited, kind):
    folder = edited(ODD[kind])
    with pytest.raises((BadProject, BadSheet)) as refused:
        Document.load(folder)
    assert "\n" not in str(refused.value)
    str(refused.value).encode()


def test_what_a_project_costs_is_reckoned_before_it_is_made(edited):
    def many(project, maps):
        ground = project["grounds"][0]
        ground.update(width=4096, height=4096)
        ground["layers"] = [{**ground["layers"][0], "id": f"l{n}", "name": f"l{n}"} for n in range(100)]
        project["recipes"] = []
        maps["long-roof"] = {}

    with pytest.raises(BadProject):
        Document.load(edited(many))


def test_a_picture_too_large_to_draw_is_refused_before_it_is_drawn(edited, tmp_path):
    folder = edited(lambda project, maps: project["grounds"][0].update(tile_width=4096, tile_height=4096))
    fails_with_one_sentence(knitground("deliver", folder, "--to", "png", "-o", tmp_path / "map.png"))
    assert not (tmp_path / "map.png").exists()


def test_frames_that_are_animated_themselves_are_delivered(edited, tmp_path):
    def frames(*columns):
        return {"frames": [{"tile": f"roofs/tops/{column},0", "ms": 100} for column in columns]}

    folder = edited(
        lambda project, maps: project["tiles"].update({"roofs/tops/0,0": frames(1, 2), "roofs/tops/1,0": frames(3, 2)})
    )
    assert knitground("deliver", folder, "--to", "json", "-o", tmp_path / "map.json").returncode == 0
    json.loads((tmp_path / "map.json").read_text())


def test_a_ground_with_an_id_that_leads_out_is_delivered_where_asked(edited, tmp_path):
    def lead_out(project, maps):
        project["grounds"][0]["id"] = "../../astray"
        project["recipes"] = []
        maps["../../astray"] = maps.pop("long-roof")

    folder, out = edited(lead_out), tmp_path / "here"
    assert knitground("deliver", folder, "--to", "json", "-o", out / "map.json").returncode == 0
    assert sorted(path.name for path in out.iterdir()) == ["map-tileset.png", "map.json"]
    assert not list(tmp_path.parent.rglob("astray*"))


def put_link(path):
    path.symlink_to(path.name)


def put_device(path):
    path.symlink_to("/dev/zero")


@pytest.mark.parametrize("put", [put_link, put_device, os.mkfifo, Path.mkdir])
@pytest.mark.parametrize("name", [NAME, "sheets/roofs.png"])
def test_what_is_no_ordinary_file_is_not_read(demo, put, name):
    (demo / name).unlink()
    put(demo / name)
    with pytest.raises((BadProject, BadSheet)):
        Document.load(demo)


def test_a_picture_is_read_from_ordinary_files_only(tmp_path):
    os.mkfifo(tmp_path / "pipe.png")
    for path in (Path("/dev/zero"), tmp_path / "pipe.png", tmp_path / ("x" * 300), tmp_path / "a\0b.png"):
        with pytest.raises(BadSheet):
            read_file(path)


def test_a_device_is_never_replaced(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    with pytest.raises(CannotWrite):
        write_atomically(tmp_path / "pipe", b"data")
    assert (tmp_path / "pipe").is_fifo()


def moving(form):
    images = [Image.fromarray(sheet_of_tiles(2, 1, 8, seed=number)) for number in range(4)]
    held = io.BytesIO()
    images[0].save(held, form, save_all=True, append_images=images[1:], duration=70)
    return held.getvalue()


MOVING = {form: moving(form) for form in ("GIF", "PNG", "WEBP")} | {"still": png(sheet_of_tiles(2, 2, 8))}


@pytest.mark.parametrize("form", MOVING)
@settings(max_examples=60, deadline=None)
@given(data=st.data())
def test_a_damaged_picture_is_read_or_refused(form, data):
    whole = MOVING[form]
    if data.draw(st.booleans()):
        broken = whole[: data.draw(st.integers(0, len(whole)))]
    else:
        broken = bytearray(whole)
        for _ in range(data.draw(st.integers(1, 6))):
            broken[data.draw(st.integers(0, len(whole) - 1))] = data.draw(st.integers(0, 255))
    for read in (decode_picture, decode_frames):
        with suppress(BadSheet):
            assert len(read(bytes(broken), "odd")) > 0


def test_a_frame_that_says_it_is_huge_is_refused_before_there_is_any_of_it():
    broken = bytearray(MOVING["GIF"])
    # Where a frame lies follows eight bytes after how long it shows.
    second = broken.index(b"\x21\xf9\x04", broken.index(b"\x21\xf9\x04") + 1) + 8
    broken[second + 1 : second + 5] = b"\xff\xf0\xff\xf0"  # how far right and down it lies: 61,695 pixels each
    with pytest.raises(BadSheet, match=r"4 frames of 617\d\d x 617\d\d pixels"):
        decode_frames(bytes(broken), "huge.gif")


def test_an_animation_cut_short_is_refused():
    with pytest.raises(BadSheet):
        decode_frames(MOVING["GIF"][: len(MOVING["GIF"]) * 2 // 3], "cut.gif")


BAD_CALLS = {
    "a name of many lines": ["check", "no\nsuch\nfolder"],
    "a name too long": ["check", "x" * 300],
    "a path too long": ["check", "x/" * 3000],
    "an output without a name": ["deliver", str(DEMO), "--to", "png", "-o", ""],
    "an output that is a folder": ["deliver", str(DEMO), "--to", "json", "-o", "."],
    "an output too long": ["render", str(DEMO), "-o", "x" * 300 + ".png"],
    "a folder without a name": ["cut", str(DEMO / "sheets/roofs.png"), "--tile", "16x16", "-o", ""],
    "turned copies without copies": ["repack", str(DEMO), "--sheet", "roofs", "-o", "x.png", "--turned"],
    "a repacked sheet without a name": ["repack", str(DEMO), "--sheet", "roofs", "-o", ""],
    "a proof that is a folder": ["proof", str(DEMO), "--set", "cover", "-o", "/"],
    "digits of other scripts": ["cut", str(DEMO / "sheets/roofs.png"), "--tile", "²x²"],
    "a region in other digits": ["cut", str(DEMO / "sheets/roofs.png"), "--tile", "16x16", "--region", "²,0,1,1"],
    "a seed in other digits": ["grow", str(DEMO), "--ground", "Long Roof", "--recipe", "Weathering", "--seed", "x"],
    "a region off the picture": ["cut", str(DEMO / "sheets/roofs.png"), "--tile", "16x16", "--region", "0,0,9999,1"],
    "a sheet under a file": ["new", str(DEMO / NAME / "x")],
}


@pytest.mark.parametrize("kind", BAD_CALLS)
def test_a_call_that_cannot_be_done_gets_one_sentence(kind, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    fails_with_one_sentence(knitground(*BAD_CALLS[kind]))
    assert not list(tmp_path.iterdir())


def test_a_name_that_is_no_text_is_told(tmp_path):
    one_sentence(cli("check", b"\xff\xfe", cwd=tmp_path, stdout=subprocess.DEVNULL))


def test_a_full_disk_and_a_closed_output_while_printing_are_told(tmp_path):
    with open("/dev/full", "w") as full:
        assert "disk is full" in one_sentence(cli("schema", stdout=full))
    one_sentence(cli("schema", preexec_fn=lambda: os.close(1)))


def test_a_reader_that_has_enough_is_no_error():
    code = "from knitground.cli import main; main()"
    ran = subprocess.Popen([sys.executable, "-c", code, "schema"], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    ran.stdout.close()
    assert ran.stderr.read() == b""
    assert ran.wait(60) == 0


def test_a_folder_that_is_gone_is_told(tmp_path):
    gone = tmp_path / "gone"
    gone.mkdir()
    code = f"import os; os.rmdir({str(gone)!r}); from knitground.cli import main; main()"
    for args in (["check", "."], ["new", "here"]):
        gone.mkdir(exist_ok=True)
        ran = subprocess.run([sys.executable, "-c", code, *args], cwd=gone, capture_output=True, timeout=60)
        one_sentence((ran.returncode, ran.stderr.decode().splitlines()))


def test_a_screen_that_does_not_answer_is_told(tmp_path):
    dead = {**os.environ, "DISPLAY": ":987", "QT_QPA_PLATFORM": "xcb", "XDG_STATE_HOME": str(tmp_path)}
    assert "screen" in one_sentence(cli("open", str(DEMO), env=dead, stdout=subprocess.DEVNULL))


def test_reading_labels_stops_on_request_and_tells_its_progress(tmp_path):
    noise = np.random.default_rng(3).integers(0, 256, (160, 240, 4), dtype=np.uint8)
    (tmp_path / "noise.png").write_bytes(png(noise))
    code = (
        # Who is started in the background may have been told to ignore it.
        "import _thread, signal; signal.signal(signal.SIGINT, signal.default_int_handler)\n"
        "import knitground.core.joins.infer as infer; real = infer.infer_labels\n"
        "def stopping(*args, **more):\n"
        "    told = more['progress']\n"
        "    more['progress'] = lambda share: (told(share), share > 0 and _thread.interrupt_main())\n"
        "    return real(*args, **more)\n"
        "infer.infer_labels = stopping\n"
        "from knitground.cli import main; main()"
    )
    args = [sys.executable, "-c", code, "infer", str(tmp_path / "noise.png"), "--tile", "16x16", "--kind", "full"]
    ran = subprocess.run(args, capture_output=True, timeout=60)
    assert ran.returncode == 128 + signal.SIGINT
    assert ran.stderr.decode().split() == ["knitground:", "Stopped."]
