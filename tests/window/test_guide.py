"""The guide tells every command with its key, and shows pictures that are there."""

import importlib.machinery
import importlib.util
import re
from pathlib import Path

TOP = Path(__file__).resolve().parents[2]


def script(name: str):
    loader = importlib.machinery.SourceFileLoader(name.replace("-", "_"), str(TOP / "scripts" / name))
    module = importlib.util.module_from_spec(importlib.util.spec_from_loader(loader.name, loader))
    loader.exec_module(module)
    return module


def test_every_command_of_the_finder_is_in_the_guide_with_its_key(window):
    maker = script("make-user-guide")
    made, text = maker.table(window), (TOP / "docs" / "user-guide.md").read_text()
    assert made.count("\n") > 100
    assert made in text, "run scripts/make-user-guide"


def test_pages_lead_to_pictures_and_pages_that_are_there():
    pages = [TOP / "README.md", *(TOP / "docs").glob("*.md")]
    for page in pages:
        for target in re.findall(r"\]\(([^)#]+)[^)]*\)", page.read_text()):
            assert (page.parent / target).is_file(), f"{page.name} leads to {target}"
    shown = {name for page in pages for name in re.findall(r"screenshots/(\w+)\.png", page.read_text())}
    assert shown == {path.stem for path in (TOP / "docs" / "screenshots").glob("*.png")}
    for stage in ("Sheet", "Joins", "Stitches", "Ground", "Grow", "Deliver"):
        assert re.search(rf"^## \d\. {stage}$", (TOP / "docs" / "user-guide.md").read_text(), re.M)
