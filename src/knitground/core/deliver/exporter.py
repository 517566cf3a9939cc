"""What an exporter is: files made of a ground, in memory; who asked for them puts them in their places."""

import posixpath
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple

from knitground.core.deliver.options import checked_options
from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived

Progress = Callable[[float], None]
Namer = Callable[[str, str], str]
"""Gives the name of a file for what part of the ground it holds ("" if all of it) and its ending, with the dot."""


class File(NamedTuple):
    """A file as it will be: its name, and its bytes."""

    name: str
    data: bytes


class Order(NamedTuple):
    """What is asked of an exporter.

    Attributes
    ----------
    options : Any
        Of the exporter's own type.
    name : Namer
    per_unit : float
        How many pixels a unit of the game is.
    """

    derived: Derived
    ground_id: str
    options: Any
    name: Namer
    progress: Progress = lambda share: None
    per_unit: float = 1.0


@dataclass(frozen=True)
class NoOptions:
    """Of a format that has nothing to choose."""


class Exporter(NamedTuple):
    """How to make the files of a ground.

    What it makes in a few words and in more, the ending of its first file, the function that makes the files one after
    another, what can be chosen, and whether it holds the project as a whole, whatever the ground.
    """

    title: str
    about: str
    ending: str
    make: Callable[[Order], Iterator[File]]
    options: type = NoOptions
    of_project: bool = False

    def write(
        self,
        derived: Derived,
        ground_id: str,
        path: Path,
        progress: Progress = lambda share: None,
        options: Mapping[str, Any] | None = None,
        per_unit: float = 1.0,
    ) -> list[Path]:
        """Writes a ground to a file, and to more beside it if the format has more; returns the files written.

        Raises
        ------
        BadRequest
            If it can't be done for this ground, or an option is none.
        CannotWrite
            If a file cannot be written.
        """
        chosen = checked_options(self.options, options or {})
        order = Order(derived, ground_id, chosen, named_after(path, self.ending), progress, per_unit)
        written = []
        for file in self.make(order):
            write_atomically(path.parent / file.name, file.data)
            written.append(path.parent / file.name)
        progress(1.0)
        return written


def named_after(path: Path, ending: str) -> Namer:
    """Names of files like that of the first one; others get what they hold behind a hyphen."""

    def name(part: str, file_ending: str) -> str:
        if not part and file_ending == ending:
            return path.name
        return f"{path.stem}{'-' * bool(part)}{plain_name(part)}{file_ending}"

    return name


def relative_to(name: str, other: str) -> str:
    """The name of another file as the first one names it."""
    return posixpath.relpath(other, posixpath.dirname(name) or ".")


def plain_name(text: str) -> str:
    """A name as a part of the name of a file: lower case, words joined by hyphens, nothing else."""
    words = "".join(letter if letter.isalnum() else " " for letter in text.lower()).split()
    return "-".join(words)[:80]
