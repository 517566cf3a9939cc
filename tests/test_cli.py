import csv
import json
import shutil
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import readers
from calling import fails_with_one_sentence, knitground
from knitground.core.edits.growing import grow
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import DEMO, png, sheet_of_tiles, with_labels_removed

HERE = Path(__file__).resolve().parents[1]


@pytest.fixture
def sheet(tmp_path) -> Path:
    path = tmp_path / "sheet.png"
    path.write_bytes(png(sheet_of_tiles(7, 5, 16, 3, 2)))
    return path


def test_new_makes_a_project_that_can_be_checked(tmp_path):
    assert knitground("new", tmp_path / "fresh").returncode == 0
    checked = knitground("check", tmp_path / "fresh")
    assert (checked.returncode, checked.stdout.strip()) == (0, "nothing found")
    assert "not empty" in fails_with_one_sentence(knitground("new", tmp_path / "fresh"))


def test_guess_prints_an_array_best_first(sheet):
    result = knitground("guess", sheet, "--json")
    best = json.loads(result.stdout)[0]
    assert result.returncode == 0
    whole = ("tile_width", "tile_height", "margin_x", "margin_y", "spacing_x", "spacing_y", "columns", "rows")
    assert [best[name] for name in whole] == [16, 16, 3, 3, 2, 2, 7, 5]
    assert all(type(best[name]) is int for name in whole)
    assert type(best["confidence"]) is float
    assert "tile 16 x 16" in knitground("guess", sheet).stdout.splitlines()[0]


def test_the_grids_of_a_sheet_with_two_are_told_and_cut_one_at_a_time(tmp_path):
    picture = np.zeros((96, 200, 4), dtype=np.uint8)
    picture[:, :96] = sheet_of_tiles(6, 6, 16, seed=1)
    small = sheet_of_tiles(8, 8, 8, 0, 2, seed=2)
    picture[4 : 4 + small.shape[0], 110 : 110 + small.shape[1]] = small
    sheet = tmp_path / "two.png"
    sheet.write_bytes(png(picture))
    lines = knitground("guess", sheet, "--parts").stdout.splitlines()
    assert lines == [
        "--region 0,0,96,96  tile 16 x 16, spacing 0, 0",
        "--region 110,4,78,78  tile 8 x 8, spacing 2, 2",
    ]
    parts = json.loads(knitground("guess", sheet, "--parts", "--json").stdout)
    assert [part["tile_width"] for part in parts] == [16, 8]
    assert "2 grids show" in knitground("guess", sheet).stdout.splitlines()[0]
    fails_with_one_sentence(knitground("cut", sheet))
    assert "8 x 8 tiles of 8 x 8" in knitground("cut", sheet, "--region", "110,4,78,78").stdout
    assert "of 16 x 16" in knitground("cut", sheet, "--tile", "16x16").stdout


def test_cut_says_what_comes_out_and_writes_the_tiles(sheet, tmp_path):
    result = knitground("cut", sheet, "--tile", "16x16", "--margin", "3,3", "--spacing", "2", "-o", tmp_path / "tiles")
    assert result.returncode == 0
    assert "7 x 5 tiles of 16 x 16" in result.stdout
    written = sorted(path.name for path in (tmp_path / "tiles").iterdir())
    assert len(written) == 35
    first = np.asarray(Image.open(tmp_path / "tiles" / "0-0.png"))
    assert np.array_equal(first, np.asarray(Image.open(sheet))[3:19, 3:19])
    assert "7 x 5" in knitground("cut", sheet).stdout


def test_render_and_deliver_agree(tmp_path):
    assert knitground("render", DEMO, "-o", tmp_path / "a.png").returncode == 0
    assert knitground("render", DEMO, "--ground", "Long Roof", "-o", tmp_path / "b.png").returncode == 0
    assert knitground("deliver", DEMO, "--to", "png", "-o", tmp_path / "c.png").returncode == 0
    assert (tmp_path / "a.png").read_bytes() == (tmp_path / "b.png").read_bytes() == (tmp_path / "c.png").read_bytes()


@pytest.mark.parametrize("ground", ["Long Roof", "Glasshouse"])
def test_a_game_can_draw_the_ground_from_the_delivered_json_alone(tmp_path, ground):
    assert knitground("render", DEMO, "--ground", ground, "-o", tmp_path / "whole.png").returncode == 0
    result = knitground("deliver", DEMO, "--to", "json", "--ground", ground, "-o", tmp_path / "map.json")
    assert result.returncode == 0
    whole = np.asarray(Image.open(tmp_path / "whole.png")).astype(int)
    found = readers.drawn(tmp_path / "map.json").astype(int)
    assert found.shape == whole.shape
    assert readers.apart(found, whole).max() <= 1
    content = json.loads((tmp_path / "map.json").read_text())
    frames = [notes["frames"] for notes in content["tiles"].values() if len(notes.get("frames", ())) == 6]
    assert [[ms for _, ms in one] for one in frames[:1]] == ([[150] * 6] if ground == "Long Roof" else [])


def test_a_recipe_grows_on_the_command_line_as_in_the_window(tmp_path):
    folder = shutil.copytree(DEMO, tmp_path / "apiary")
    before = Document.load(folder)
    result = knitground("grow", folder, "--ground", "Long Roof", "--recipe", "Weathering", "--seed", 7)
    assert result.returncode == 0
    assert "seed 7" in result.stdout
    after = Document.load(folder)
    assert after.project.recipes[0].seed == 7
    document = Document(before.state, before.palette)
    grow(Derived(document), replace(before.project.recipes[0], seed=7))
    ours, theirs = (one.state.planes["long-roof"]["cover"]["corners"] for one in (document, after))
    assert np.array_equal(ours, theirs)
    assert not np.array_equal(theirs, before.state.planes["long-roof"]["cover"]["corners"])
    assert "no recipe" in fails_with_one_sentence(knitground("grow", folder, "--recipe", "Nothing"))
    assert "has no recipe for" in fails_with_one_sentence(knitground("grow", folder, "--ground", "Glasshouse"))
    assert "--seed" in fails_with_one_sentence(knitground("grow", folder, "--seed", -1))


def test_check_lists_findings_and_exits_with_one(document, tmp_path):
    with_labels_removed(document, 1)
    document.save(tmp_path / "p")
    result = knitground("check", tmp_path / "p")
    assert result.returncode == 1
    assert "Areas: no tile for B B B B" in result.stdout
    found = json.loads(knitground("check", tmp_path / "p", "--json").stdout)
    assert {finding["kind"] for finding in found} == {"missing join", "seam"}


def test_schema_prints_a_json_schema():
    assert json.loads(knitground("schema").stdout)["$schema"] == "https://json-schema.org/draft/2020-12/schema"


def _cut_short(folder: Path) -> Path:
    path = folder / "short.png"
    path.write_bytes(png(sheet_of_tiles(8, 8))[:700])
    return path


def _text(folder: Path) -> Path:
    path = folder / "notes.png"
    path.write_text("these are notes")
    return path


@pytest.mark.parametrize("make", [_cut_short, _text, lambda folder: folder / "missing.png", lambda folder: folder])
@pytest.mark.parametrize("command", ["guess", "cut"])
def test_bad_sheets_get_a_sentence_and_exit_code_two(tmp_path, make, command):
    fails_with_one_sentence(knitground(command, make(tmp_path)))


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--tile", "900x900"], "does not fit"),
        (["--tile", "16x16", "--spacing", "-2,0"], "spacing x is -2"),
        (["--tile", "sixteen"], "not understood"),
        (["--tile", "0x16"], "tile width is 0"),
        (["--tile", "16", "--key", "pink"], "not a colour"),
    ],
)
def test_impossible_cuts_get_a_sentence(sheet, arguments, says):
    assert says in fails_with_one_sentence(knitground("cut", sheet, *arguments))


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["render", DEMO, "--ground", "Nowhere", "-o", "x.png"], "Long Roof"),
        (["deliver", DEMO, "--to", "clay", "-o", "x.clay"], "png, json"),
        (["render", DEMO, "-o", "/proc/nowhere/x.png"], "could not be written"),
        (["render", HERE / "docs", "-o", "x.png"], "no project"),
        (["polish"], "No such command"),
        (["render"], "Missing"),
        (["no/such/folder"], "There is no"),
    ],
)
def test_what_cannot_be_done_is_said_in_one_sentence(arguments, says):
    assert says in fails_with_one_sentence(knitground(*arguments))


def test_damaged_projects_are_told_and_left_alone(document, tmp_path):
    document.save(tmp_path / "p")
    path = tmp_path / "p" / "knitground.json"
    half = path.read_bytes()[:2000]
    path.write_bytes(half)
    for command in (["check"], ["render", "-o", str(tmp_path / "x.png")]):
        assert "damaged" in fails_with_one_sentence(knitground(command[0], tmp_path / "p", *command[1:]))
    assert path.read_bytes() == half
    assert not (tmp_path / "x.png").exists()


@pytest.mark.parametrize(
    ("started", "later"),
    [("cli", "PySide6 scipy numba numpy"), ("core.project.ledger, knitground.app.window", "scipy.ndimage numba")],
)
def test_starting_waits_for_no_heavy_library_that_only_some_work_needs(started, later):
    code = f"import sys, knitground.{started}; print([m for m in {later.split()} if m in sys.modules])"
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert ran.stdout.strip() == "[]"


def test_help_names_every_command_and_the_exit_codes():
    text = knitground("--help").stdout
    assert all(name in text for name in ("new", "cut", "guess", "render", "check", "deliver", "schema", "Exit codes"))


def test_the_demo_is_what_its_generator_draws(tmp_path):
    sys.path.insert(0, str(HERE / "demo"))
    try:
        from art.sheets import write_sheets
    finally:
        sys.path.pop(0)
    write_sheets(tmp_path)
    for path in tmp_path.iterdir():
        assert np.array_equal(np.asarray(Image.open(path)), np.asarray(Image.open(DEMO / "sheets" / path.name)))


def test_without_a_screen_the_window_says_so_in_a_sentence():
    import os

    bare = {
        name: value
        for name, value in os.environ.items()
        if name not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    for arguments in ([], [str(DEMO)]):
        command = [sys.executable, "-m", "knitground", *arguments]
        result = subprocess.run(command, capture_output=True, text=True, env=bare, timeout=60, check=False)
        assert "no screen" in fails_with_one_sentence(result)


def test_infer_prints_labels_of_the_cells_asked_for():
    roofs = DEMO / "sheets" / "roofs.png"
    result = knitground("infer", roofs, "--tile", "16x16", "--kind", "corner", "--terrains", 4, "--json")
    cells = json.loads(result.stdout)
    assert result.returncode == 0
    assert len(cells) > 200
    asked = "0,0 1,0 2,0 3,0 4,0 5,0 6,0 7,0"
    result = knitground(
        "infer", roofs, "--tile", "16x16", "--margin", "0,0", "--cells", asked, "--kind", "edge", "--json"
    )
    assert [(one["column"], one["row"]) for one in json.loads(result.stdout)] == [(n, 0) for n in range(8)]
    assert set(json.loads(result.stdout)[0]["labels"]) == {"nw", "n", "ne", "e", "se", "s", "sw", "w"}
    assert json.loads(result.stdout)[0]["labels"]["nw"] is None
    assert isinstance(json.loads(result.stdout)[0]["labels"]["n"], int)
    basins = DEMO / "sheets" / "basins.png"
    (first, *_) = json.loads(knitground("infer", basins, "--tile", "16x16", "--kind", "cell", "--json").stdout)
    assert first["labels"]["m"] != first["labels"]["n"] == first["labels"]["nw"]
    result = knitground("infer", roofs, "--tile", "16x16", "--cells", "0,0 99,0")
    assert "99,0" in fails_with_one_sentence(result)
    result = knitground("infer", roofs, "--tile", "16x16", "--kind", "sideways")
    assert "corner, edge, full or cell" in fails_with_one_sentence(result)


def test_sets_prints_the_sets_of_a_sheet():
    trims = DEMO / "sheets" / "trims.png"
    result = knitground("sets", trims, "--tile", "16x16", "--json")
    assert result.returncode == 0
    found = json.loads(result.stdout)
    assert [one["kind"] for one in found] == ["edge", "edge"]
    assert {(cell["column"], cell["row"]) for cell in found[0]["cells"]} >= {(n, 0) for n in range(1, 8)}
    assert set(found[0]["cells"][0]["labels"]) == {"n", "e", "s", "w"}
    assert 0 < found[1]["confidence"] <= found[0]["confidence"] <= 1
    told = knitground("sets", trims, "--tile", "16x16").stdout
    assert "edge joins of" in told
    assert "columns 0 to 7" in told
    result = knitground("sets", trims, "--tile", "16x16", "--shape", "round")
    assert "square or isometric" in fails_with_one_sentence(result)


def test_coverage_proof_and_knit_say_what_there_is(tmp_path):
    result = knitground("coverage", DEMO, "--set", "walks", "--json")
    found = json.loads(result.stdout)
    assert (result.returncode, found["total"], found["present"], found["missing"]) == (1, 15, 14, 1)
    assert found["missing_combinations"] == [{"n": 1, "e": 1, "s": 1, "w": 1}]
    assert knitground("coverage", DEMO, "--set", "Roof cover").returncode == 0
    result = knitground("proof", DEMO, "--set", "walks", "-o", tmp_path / "proof.png")
    assert result.returncode == 0
    with Image.open(tmp_path / "proof.png") as picture:
        assert picture.size == (64, 64)
    result = knitground("knit", DEMO, "--json")
    rows = {(row["ground"], row["layer"]): row for row in json.loads(result.stdout)}
    assert result.returncode == 0
    assert rows["Long Roof", "Cover"] == {
        "ground": "Long Roof", "layer": "Cover", "laid": 64 * 48, "holes": 0, "instead": 0, "broken": 0
    }  # fmt: skip
    result = knitground("coverage", DEMO, "--set", "nope")
    assert "Roof cover" in fails_with_one_sentence(result)


def test_cut_takes_a_region_of_the_picture(sheet, tmp_path):
    whole = knitground("cut", sheet, "--tile", "16x16", "--margin", "3,3", "--spacing", "2,2")
    part = knitground(
        "cut", sheet, "--tile", "16x16", "--spacing", "2,2", "--region", "21,3,34,52", "-o", tmp_path / "t"
    )
    assert "7 x 5 tiles" in whole.stdout
    assert "2 x 3 tiles" in part.stdout
    with Image.open(sheet) as picture, Image.open(tmp_path / "t" / "1-2.png") as tile:
        assert picture.convert("RGBA").crop((39, 39, 55, 55)).tobytes() == tile.convert("RGBA").tobytes()
    for region in ("0,0,9999,10", "1,2,3", "a,b,c,d", "0,0,0,5"):
        says = fails_with_one_sentence(knitground("cut", sheet, "--tile", "16x16", "--region", region))
        assert "--region" in says


def test_a_sheet_is_repacked_and_the_project_moves_over_without_a_shift(tmp_path):
    import shutil

    shutil.copytree(DEMO, tmp_path / "p")
    assert knitground("render", tmp_path / "p", "-o", tmp_path / "before.png").returncode == 0
    numbers = ("--margin", 2, "--spacing", 1, "--extrude", 1)
    written = knitground("repack", tmp_path / "p", "--sheet", "props", *numbers, "-o", tmp_path / "props.png", "--move")
    assert "tile 16 x 16, margin 3, spacing 3" in written.stdout
    assert knitground("render", tmp_path / "p", "-o", tmp_path / "after.png").returncode == 0
    assert (tmp_path / "before.png").read_bytes() == (tmp_path / "after.png").read_bytes()
    guessed = json.loads(knitground("guess", tmp_path / "props.png", "--json").stdout)[0]
    assert guessed["tile_width"] in (16, 18)
    assert "every 19 px" in guessed["reason"]
    missing = knitground("repack", tmp_path / "p", "--sheet", "nope", "-o", tmp_path / "x.png")
    assert "roofs, trims, props" in fails_with_one_sentence(missing)


def test_a_layer_goes_out_as_rows_and_comes_in_again(tmp_path):
    project = tmp_path / "apiary"
    shutil.copytree(DEMO, project)
    rows = tmp_path / "cover.csv"
    assert knitground("rows", project, "--layer", "Cover", "--to", rows).returncode == 0
    text = rows.read_text()
    assert "Gravel" in text
    rows.write_text(text.replace("Gravel", "Soil"))
    painted = knitground("rows", project, "--layer", "Cover", "--from", rows)
    assert "painted" in painted.stdout
    again = tmp_path / "again.csv"
    assert knitground("rows", project, "--layer", "Cover", "--to", again).returncode == 0
    assert again.read_text() == rows.read_text()
    assert "Give either" in fails_with_one_sentence(knitground("rows", project, "--layer", "Cover"))
    assert "holds things" in fails_with_one_sentence(knitground("rows", project, "--layer", "Yard", "--to", again))
    for damage in ("x", "\x00", '"'):
        rows.write_text(damage)
        fails_with_one_sentence(knitground("rows", project, "--layer", "Cover", "--from", rows))


def test_stitch_lays_a_plan_and_says_why(tmp_path):
    plan, out = tmp_path / "plan.csv", tmp_path / "tiles.csv"
    plan.write_text("B,B,B\nB,,B\nB,B,K\n")
    result = knitground("stitch", DEMO, "--set", "Walls and skylights", "--plan", plan, "-o", out, "--why", "0,0")
    assert result.returncode == 0
    assert "stitch 18 of “Walls and skylights”, Parapet" in result.stdout
    assert out.read_text().splitlines()[1] == '"trims/lines/3,5",,"trims/lines/4,5"'
    assert "Give -o FILE" in fails_with_one_sentence(knitground("stitch", DEMO, "--plan", plan))
    assert "no stitch set" in fails_with_one_sentence(
        knitground("stitch", DEMO, "--set", "x", "--plan", plan, "-o", out)
    )
    assert knitground("stitch", DEMO, "--plan", plan, "--part", "Tops", "-o", out).returncode == 0
    assert list(csv.reader(out.open()))[1] == ["", "fittings/parts/3,0", ""]
    assert "no part of" in fails_with_one_sentence(
        knitground("stitch", DEMO, "--plan", plan, "--part", "Attic", "-o", out)
    )
    plan.write_text("Z\n")
    assert "“Z” is no mark" in fails_with_one_sentence(knitground("stitch", DEMO, "--plan", plan, "-o", out))
