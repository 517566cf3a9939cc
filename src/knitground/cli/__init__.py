"""The command line: the same core without a window, one module for each topic.

Exit codes: 0 done, 1 findings, 2 cannot (with one sentence on standard error), 130 stopped by Ctrl+C.
"""

import gc
import json
import os
import sys
from contextlib import suppress
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from knitground.cli.delivering import TAKES_MORE, deliver, render
from knitground.cli.grounds import check, knit
from knitground.cli.growing import fill, grow, learn, quality
from knitground.cli.joins import coverage, infer, proof, sets
from knitground.cli.pictures import colours, from_map, from_ora, map_from_picture, rows
from knitground.cli.sheets import cut, guess, repack
from knitground.cli.stitches import stitch
from knitground.cli.walking import reach, walk
from knitground.cli.watching import watch
from knitground.core.errors import BadRequest, readable, told

DONE, CANNOT, STOPPED = 0, 2, 130
# Some releases of typer carry a click of their own, so its base error is found through a public one.
_UsageProblem: Any = typer.BadParameter.__mro__[2]


class OpenByDefault(TyperGroup):
    """Commands, or the folder of a project to open in the window."""

    def resolve_command(self, ctx: typer.Context, args: list[str]) -> Any:  # type: ignore[override]
        """Takes an argument that is no command for what `open` should open."""
        if args and args[0] not in self.commands and _is_path(args[0]):
            args = ["open", *args]
        return super().resolve_command(ctx, args)


app = typer.Typer(
    cls=OpenByDefault,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="""Knit Ground: from a sprite sheet to a seamless tile map.

    Without a command, opens the window: on the project in FOLDER (`knitground FOLDER`), else on an empty project.

    Exit codes: 0 done, 1 findings, 2 cannot, with one sentence on standard error, 130 stopped by Ctrl+C.""",
)


@app.callback(invoke_without_command=True)
def start(
    ctx: typer.Context,
    version: Annotated[bool, typer.Option("--version", help="print the version and end")] = False,
) -> None:
    """Opens the window where no command is given."""
    if version:
        from importlib.metadata import version as installed

        typer.echo(f"knitground {installed('knitground')}")
        raise typer.Exit
    if ctx.invoked_subcommand is None:
        open_window(None)


@app.command("open")
def open_window(path: Annotated[Path | None, typer.Argument(help="project folder, or a sprite sheet")] = None) -> None:
    """Open the window on a project, or on a sprite sheet as a new project."""
    if path is not None and not path.exists():
        raise BadRequest(
            f"There is no {readable(path)}; check the name, or make a project with `knitground new {readable(path)}`."
        )
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise BadRequest("There is no screen to open the window on; start it on a desktop, or use a command (--help).")
    # Nothing becomes unused while the window comes up; looking for it would take a tenth of that time.
    gc.disable()
    from knitground.app.main import run

    raise typer.Exit(run(path))


@app.command()
def new(folder: Annotated[Path, typer.Argument(help="where to make it; must be empty or not be there")]) -> None:
    """Make an empty project."""
    from knitground.core.project.document import Document
    from knitground.core.project.model import UNTITLED, Project, State

    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise BadRequest(
            f"{readable(folder)} is there already and not empty; choose another folder, nothing was changed."
        )
    name = folder.resolve().name[:80] or UNTITLED
    Document(State(Project(name=name), {}, {})).save(folder)
    typer.echo(f"made {readable(folder)}")


@app.command()
def schema(
    delivered: Annotated[bool, typer.Option("--delivered", help="of the JSON for games")] = False,
    tileset: Annotated[bool, typer.Option("--tileset", help="of the JSON of a tileset alone")] = False,
    live: Annotated[bool, typer.Option("--live", help="of the messages of the live link")] = False,
) -> None:
    """Print the JSON Schema of the project file, or of something that is delivered."""
    from knitground.core.deliver.schema import LIVE, MAP, TILESET
    from knitground.core.project.file import schema as project_schema

    if delivered + tileset + live > 1:
        raise BadRequest("Give one of --delivered, --tileset and --live; each has a schema of its own.")
    found = MAP if delivered else TILESET if tileset else LIVE if live else project_schema()
    typer.echo(json.dumps(found, indent=2, ensure_ascii=False))


for command in (
    cut, guess, repack, infer, sets, coverage, proof, knit, grow, check, render, map_from_picture, from_map, from_ora,
    colours, rows, stitch, learn, fill, quality, walk, reach, watch,
):  # fmt: skip
    app.command()(command)
app.command(context_settings=TAKES_MORE)(deliver)


def main() -> None:
    """The entry point: every foreseen problem is one sentence and exit code 2."""
    try:
        result = app(standalone_mode=False)
        if sys.stdout is None:
            raise BadRequest("There is nowhere to print to: standard output is closed; open it and try again.")
        sys.stdout.flush()
    except _UsageProblem as problem:
        _end(
            problem.format_message().rstrip(".") + "; see --help.",
            CANNOT,
        )
    except (typer.Abort, KeyboardInterrupt):
        _end("Stopped.", STOPPED)
    except (BrokenPipeError, SystemExit):
        # Who reads has what they wanted; some releases of typer end by themselves then.
        _leave(DONE)
    except Exception as problem:
        sentence = told(problem)
        if sentence is None:
            raise
        _end(str(sentence), CANNOT)
    if result == STOPPED:  # some releases of typer take Ctrl+C themselves
        _end("Stopped.", STOPPED)
    sys.exit(result if isinstance(result, int) else DONE)


def _end(sentence: str, code: int) -> None:
    with suppress(OSError, UnicodeError):  # there may be nobody to tell
        typer.echo(f"knitground: {' '.join(sentence.split())}", err=True)
    _leave(code)


def _leave(code: int) -> None:
    """Ends without writing what could not be written once more."""
    try:
        if sys.stdout is not None:
            sys.stdout.flush()
        sys.exit(code)
    except (OSError, ValueError):
        os._exit(code)


def _is_path(text: str) -> bool:
    try:
        return "/" in text or Path(text).exists() or text in (".", "..")
    except (OSError, ValueError):
        return True
