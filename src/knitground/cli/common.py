"""What the commands share: how projects and their things are named, how numbers are written, progress."""

import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    from knitground.core.project.derived import Derived

T = TypeVar("T")

Keys = Annotated[
    list[str] | None,
    typer.Option(
        "--key",
        metavar="KEY",
        help="what to make transparent: RRGGBB, checker (one drawn in) or ground (an uneven one); may be repeated",
    ),
]
AsJson = Annotated[bool, typer.Option("--json", help="print JSON")]
ProjectFolder = Annotated[Path, typer.Argument(metavar="PROJECT", help="folder of the project")]
GroundName = Annotated[
    str | None, typer.Option("--ground", metavar="NAME", help="which ground; the first if not given")
]
Output = Annotated[Path, typer.Option("-o", "--output", metavar="FILE", help="where to write")]


def named(things: Sequence[T], name: str | None, kind: str, folder: Path, *, where: str = "") -> T:
    """The one of a project's things that a name or id means; the first where none is given."""
    at = f" {where}" if where else ""
    if not things:
        raise BadRequest(f"{readable(folder)} has no {kind}{at} yet; make one in the window.")
    for thing in things:
        if name is None or name in (getattr(thing, "name", None), getattr(thing, "id", None)):
            return thing
    known = ", ".join(readable(getattr(thing, "name", "")) for thing in things)
    raise BadRequest(f"{readable(folder)} has no {kind} “{readable(name)}”{at}; it has {known}.")


def opened(folder: Path) -> "Derived":
    """A project with all that follows from it."""
    from knitground.core.project.derived import Derived
    from knitground.core.project.document import Document

    return Derived(Document.load(folder))


def output_file(path: Path) -> Path:
    """A file to write to, which must have a name."""
    if not path.name or path.is_dir():
        raise BadRequest(f"“{readable(path)}” is a folder; give the name of a file to write, as in -o map.png.")
    return path


def text_of(table: Path) -> str:
    """What a text file holds; raises BadRequest or BadSheet where it can't be read."""
    from knitground.core.edits.rows import read_text

    return read_text(table)


def whole(text: str) -> int:
    """A whole number in plain digits; ValueError if it is none."""
    if not text.strip().isascii():
        raise ValueError(text)
    return int(text)


def pair(text: str, option: str, separator: str) -> tuple[int, int]:
    """Two whole numbers, or one for both."""
    try:
        numbers = [whole(part) for part in text.lower().split(separator)]
    except ValueError:
        numbers = []
    if len(numbers) not in (1, 2):
        raise BadRequest(
            f"{option} {readable(text)} is not understood; write two whole numbers, as in {option} 3{separator}3."
        )
    return numbers[0], numbers[-1]


def key_names(keys: list[str] | None) -> list[str]:
    """Keys as the core names them."""
    from knitground.core.sheet.keys import parse_key

    return [parse_key(name) for name in keys or []]


@contextmanager
def progress(title: str) -> Iterator[Callable[[float], None]]:
    """A bar on standard error where that is a terminal."""
    if not sys.stderr.isatty():
        yield lambda share: None
        return
    from rich.console import Console
    from rich.progress import Progress

    with Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(title, total=1.0)

        def report(share: float) -> None:
            bar.update(task, completed=share)

        yield report


def plain(thing: Any) -> dict[str, Any]:
    """A dataclass as JSON prints it."""
    from dataclasses import asdict

    return asdict(thing)
