"""The commands that the README promises."""

import re
import subprocess
from pathlib import Path

import pytest

from calling import knitground

TOP = Path(__file__).resolve().parents[1]


def run(*command: object, cwd: Path = TOP) -> subprocess.CompletedProcess[str]:
    return subprocess.run([*map(str, command)], capture_output=True, text=True, cwd=cwd, timeout=300, check=False)


def test_the_demo_runs_without_a_window_from_any_folder(tmp_path):
    result = run(TOP / "start-demo", "--headless", "--out", "delivered", cwd=tmp_path)
    assert result.returncode == 0, result.stderr
    assert sorted(path.name for path in (tmp_path / "delivered").iterdir()) == [
        "ground-tileset.png",
        "ground.json",
        "ground.png",
    ]
    # What is drawn from the sheets alone is what was saved of the same example.
    knitground("render", TOP / "demo" / "apiary", "-o", tmp_path / "saved.png")
    assert (tmp_path / "saved.png").read_bytes() == (tmp_path / "delivered" / "ground.png").read_bytes()


@pytest.mark.parametrize(
    ("arguments", "says"),
    [(["--headless"], "--out DIR"), (["--out"], "needs a folder"), (["--sideways"], "no option --sideways")],
)
def test_wrong_options_of_the_demo_are_told_in_a_sentence(arguments, says):
    result = run(TOP / "start-demo", *arguments)
    assert result.returncode == 2
    assert says in result.stderr
    assert len(result.stderr.strip().splitlines()) == 1


def test_the_window_gets_a_copy_of_the_demo_that_keeps_its_changes(tmp_path):
    import os

    def start(*arguments: str) -> Path:
        # Without a screen the window can't open, but the copy is made before.
        bare = {n: v for n, v in os.environ.items() if n not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        bare["XDG_DATA_HOME"] = str(tmp_path)
        subprocess.run([TOP / "start-demo", *arguments], env=bare, capture_output=True, check=False, timeout=300)
        return tmp_path / "knitground" / "rooftop-apiary" / "knitground.json"

    original = (TOP / "demo" / "apiary" / "knitground.json").read_bytes()
    copy = start()
    assert copy.read_bytes() == original
    copy.write_text("changed")
    assert start().read_text() == "changed"
    assert start("--fresh").read_bytes() == original
    assert (copy.parent / "sheets" / "props.png").exists()


def test_the_demo_says_how_it_is_used():
    result = run(TOP / "start-demo", "--help")
    assert result.returncode == 0
    assert "--headless --out DIR" in result.stdout


def test_pictures_and_papers_that_the_readme_names_are_there():
    text = (TOP / "README.md").read_text()
    for target in re.findall(r"\]\(([^)]+)\)", text):
        assert (TOP / target).exists(), target
    for command in re.findall(r"^    knitground ([\w-]+)", text, flags=re.MULTILINE):
        assert run(TOP / ".venv/bin/knitground", command, "--help").returncode == 0


def test_there_is_a_picture_of_every_stage_and_not_too_many():
    names = {path.stem for path in (TOP / "docs" / "screenshots").iterdir()}
    assert {"sheet", "joins", "stitches", "ground", "grow", "deliver"} <= names
    assert len(names) < 20


def test_the_desktop_entry_starts_the_program():
    entry = (TOP / "share" / "knitground.desktop").read_text()
    assert "Exec=knitground %f" in entry
    assert (TOP / "share" / "knitground.png").read_bytes().startswith(b"\x89PNG")
