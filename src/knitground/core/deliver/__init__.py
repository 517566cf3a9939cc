"""Delivering: exporters, one file each, found by their name.

A new exporter is a module here and a line in `EXPORTERS`.
"""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from knitground.core.deliver import game_json, png
from knitground.core.project.derived import Derived

Progress = Callable[[float], None]


class Exporter(NamedTuple):
    """How to write a ground: what it makes, in words, the ending of its file, and the function that does it."""

    title: str
    ending: str
    write: Callable[[Derived, str, Path, Progress], list[Path]]


EXPORTERS = {
    "png": Exporter("One picture of the whole ground", ".png", png.deliver),
    "json": Exporter("JSON and a tileset picture, for a game to load", ".json", game_json.deliver),
}
