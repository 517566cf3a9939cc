"""What is installed: a wheel with desktop entry, icon, metadata, MIME type, man pages, completions and readers."""

import os
import re
import shutil
import subprocess
import sys
import tomllib
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import pytest
import typer.main

import readers
from knitground.cli import app

TOP = Path(__file__).resolve().parents[1]
SHARE = TOP / "share"
GROUP = typer.main.get_command(app)
PAGES = sorted((SHARE / "man").glob("*.1"))


@pytest.fixture(scope="module")
def wheel(tmp_path_factory) -> zipfile.ZipFile:
    sources, out = tmp_path_factory.mktemp("sources"), tmp_path_factory.mktemp("wheel")
    for name in ("src", "share"):
        shutil.copytree(TOP / name, sources / name, ignore=shutil.ignore_patterns("*.egg-info"))
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(TOP / name, sources)
    readers.run(sys.executable, "-m", "build", "--wheel", "--no-isolation", "--outdir", out, sources, within=120)
    return zipfile.ZipFile(next(out.glob("*.whl")))


def test_the_wheel_carries_everything_to_where_the_desktop_looks(wheel):
    data = {name.partition(".data/data/")[2] for name in wheel.namelist() if ".data/data/" in name}
    for place in (
        "share/applications/knitground.desktop",
        "share/icons/hicolor/256x256/apps/knitground.png",
        "share/metainfo/knitground.metainfo.xml",
        "share/mime/packages/knitground-mime.xml",
        "share/man/man1/knitground.1",
        "share/bash-completion/completions/knitground",
        "share/zsh/site-functions/_knitground",
        "share/fish/vendor_completions.d/knitground.fish",
        "share/knitground/readers/knitground_reader.html",
        "share/knitground/readers/knitground_reader.py",
    ):
        assert place in data
    assert {f"share/man/man1/{path.name}" for path in PAGES} <= data
    assert "knitground/py.typed" in wheel.namelist()


@pytest.mark.parametrize("name", sorted(GROUP.commands))
def test_each_command_has_a_page_with_all_its_options(name):
    text = (SHARE / "man" / f"knitground-{name}.1").read_text().replace("\\-", "-")
    context = GROUP.make_context("knitground", [], resilient_parsing=True)
    command = GROUP.commands[name]
    inner = command.make_context(name, [], parent=context, resilient_parsing=True)
    for one in command.get_params(inner):
        if one.param_type_name == "option":
            assert all(option in text for option in one.opts), "run scripts/make-man-pages"
    words = re.sub(r"\s+", " ", (command.help or "").split("\n\n")[0]).strip()
    assert words in re.sub(r"\s+", " ", text)
    assert f"knitground-{name}" in (SHARE / "man" / "knitground.1").read_text().replace("\\-", "-")


@pytest.mark.skipif(not (shutil.which("mandoc") or shutil.which("man")), reason="neither mandoc nor man is installed")
def test_the_pages_are_as_roff_is_to_be():
    if shutil.which("mandoc"):
        command = ["mandoc", "-T", "lint", "-W", "warning", *map(str, PAGES)]
        result = subprocess.run(command, capture_output=True, text=True, check=False)
        assert (result.returncode, result.stdout) == (0, "")
        return
    for path in PAGES:
        result = subprocess.run(["man", "--warnings", "-l", path], capture_output=True, text=True, check=False)
        assert (result.returncode, result.stderr) == (0, "")


@readers.needs("desktop-file-validate")
def test_the_desktop_entry_is_valid():
    assert readers.run("desktop-file-validate", SHARE / "knitground.desktop") == ""


@readers.needs("appstreamcli")
def test_the_metadata_are_valid():
    readers.run("appstreamcli", "validate", "--no-net", SHARE / "knitground.metainfo.xml")


def test_versions_agree_and_a_project_has_its_type():
    version = tomllib.loads((TOP / "pyproject.toml").read_text())["project"]["version"]
    component = ElementTree.parse(SHARE / "knitground.metainfo.xml")
    assert component.find("releases/release").get("version") == version
    kind = component.find("provides/mediatype").text
    assert kind in (SHARE / "knitground.desktop").read_text()
    assert f'type="{kind}"' in (SHARE / "knitground-mime.xml").read_text()
    assert readers.run(Path(sys.executable).with_name("knitground"), "--version").strip() == f"knitground {version}"


def test_the_shell_completes_commands():
    words = {"COMP_WORDS": "knitground del", "COMP_CWORD": "1", "_KNITGROUND_COMPLETE": "complete_bash"}
    assert readers.run(Path(sys.executable).with_name("knitground"), **words).split() == ["deliver"]
    script = (SHARE / "completion" / "knitground").read_text()
    if shutil.which("bash"):
        subprocess.run(["bash", "-n"], input=script, text=True, check=True, env=os.environ)
