"""The command line: the same core without a window.

Exit codes: 0 done, 1 findings, 2 cannot (with one sentence on standard error).
"""

import json
import os
import sys
from collections.abc import Callable
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from typer.core import TyperGroup

from knitground.cli_joins import AsJson, ProjectFolder, coverage, infer, key_names, knit, named, pair, proof
from knitground.cli_sheets import repack
from knitground.core.errors import BadRequest, KnitGroundError

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

DONE, FINDINGS, CANNOT = 0, 1, 2
# Some releases of typer carry a click of their own, so its base error is found through a public one.
_UsageProblem = typer.BadParameter.__mro__[2]


class OpenByDefault(TyperGroup):
    """Commands, or the folder of a project to open in the window."""

    def resolve_command(self, ctx: typer.Context, args: list[str]):  # type: ignore[no-untyped-def]
        """Takes an argument that is no command for what `open` should open."""
        if (
            args
            and args[0] not in self.commands
            and ("/" in args[0] or Path(args[0]).exists() or args[0] in (".", ".."))
        ):
            args = ["open", *args]
        return super().resolve_command(ctx, args)


app = typer.Typer(
    cls=OpenByDefault,
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="""Knit Ground: from a sprite sheet to a seamless tile map.

    Without a command, opens the window: on the project in FOLDER (`knitground FOLDER`), else on an empty project.

    Exit codes: 0 done, 1 findings, 2 cannot, with one sentence on standard error.""",
)

GroundName = Annotated[
    str | None, typer.Option("--ground", metavar="NAME", help="which ground; the first if not given")
]
Output = Annotated[Path, typer.Option("-o", "--output", metavar="FILE", help="where to write")]


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
        raise BadRequest(f"There is no {path}; check the name, or make a project with `knitground new {path}`.")
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise BadRequest("There is no screen to open the window on; start it on a desktop, or use a command (--help).")
    from knitground.app.main import run

    raise typer.Exit(run(path))


@app.command()
def new(folder: Annotated[Path, typer.Argument(help="where to make it; must be empty or not be there")]) -> None:
    """Make an empty project."""
    from knitground.core.project.document import Document
    from knitground.core.project.model import Project, State

    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise BadRequest(f"{folder} is there already and not empty; choose another folder, nothing was changed.")
    name = folder.resolve().name[:80] or "Untitled"
    Document(State(Project(name=name), {}, {})).save(folder)
    typer.echo(f"made {folder}")


@app.command()
def cut(
    sheet: Annotated[Path, typer.Argument(metavar="SHEET", help="image to cut")],
    tile: Annotated[str, typer.Option(metavar="WxH", help="tile size in pixels; guessed if not given")] = "",
    margin: Annotated[str, typer.Option(metavar="X,Y", help="pixels before the first tile")] = "0,0",
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="pixels between tiles")] = "0,0",
    region: Annotated[
        str, typer.Option(metavar="X,Y,W,H", help="part of the picture to cut, in pixels; the whole if not given")
    ] = "",
    key: Annotated[
        list[str] | None, typer.Option(metavar="RRGGBB", help="colour to make transparent; may be repeated")
    ] = None,
    output: Annotated[
        Path | None, typer.Option("-o", "--output", metavar="DIR", help="write each tile there as a PNG")
    ] = None,
) -> None:
    """Cut a sheet into tiles: say what comes out, or write the tiles as files named COLUMN-ROW.png."""
    from knitground.core.project.atomic import write_atomically
    from knitground.core.sheet.cut import Cut, grid_of, slice_tiles
    from knitground.core.sheet.guess import guess_cuts
    from knitground.core.sheet.picture import Clearing, cleared, decode_picture, encode_png, read_file

    picture = cleared(decode_picture(read_file(sheet), sheet.name), Clearing(tuple(key_names(key))))
    picture = _part(picture, region) if region else picture
    if tile:
        numbers = (*pair(tile, "--tile", "x"), *pair(margin, "--margin", ","), *pair(spacing, "--spacing", ","))
        cutting = Cut("cut", *numbers)
    else:
        guesses = guess_cuts(picture)
        if not guesses:
            raise BadRequest(f"No grid shows on {sheet.name}; give the tile size, as in --tile 16x16.")
        cutting = guesses[0].as_cut("cut")
    grid = grid_of(cutting, picture.shape[1], picture.shape[0])
    tiles = slice_tiles(picture, cutting)
    empty = int((tiles[..., 3] == 0).all(axis=(2, 3)).sum())
    typer.echo(
        f"{grid.columns} x {grid.rows} tiles of {cutting.tile_width} x {cutting.tile_height}, {empty} of them empty; "
        f"left over: {grid.left_over_x} px at the right, {grid.left_over_y} px at the bottom"
    )
    if output is not None:
        for row in range(grid.rows):
            for column in range(grid.columns):
                if tiles[row, column, ..., 3].any():
                    write_atomically(output / f"{column}-{row}.png", encode_png(tiles[row, column]))
        typer.echo(f"wrote {grid.columns * grid.rows - empty} tiles to {output}")


def _part(picture: "NDArray[np.uint8]", region: str) -> "NDArray[np.uint8]":
    """A rectangle of a picture."""
    words = region.split(",")
    if len(words) != 4 or not all(word.strip().isdigit() for word in words):
        raise BadRequest(f"--region {region} is not understood; write four whole numbers, as in --region 0,32,128,64.")
    left, top, width, height = (int(word) for word in words)
    if not (width and height and left + width <= picture.shape[1] and top + height <= picture.shape[0]):
        raise BadRequest(
            f"--region {region} does not lie on the picture, which is {picture.shape[1]} x {picture.shape[0]} pixels; "
            "give a rectangle inside it."
        )
    return picture[top : top + height, left : left + width]


@app.command()
def guess(
    image: Annotated[Path, typer.Argument(metavar="IMAGE", help="sprite sheet")], as_json: AsJson = False
) -> None:
    """Guess how a sheet is cut, best guess first."""
    from knitground.core.sheet.guess import guess_cuts
    from knitground.core.sheet.picture import decode_picture, read_file

    guesses = guess_cuts(decode_picture(read_file(image), image.name))
    if as_json:
        typer.echo(json.dumps([asdict(one) for one in guesses], indent=1))
        return
    if not guesses:
        raise BadRequest(f"No grid shows on {image.name}; count the pixels of one tile instead.")
    for one in guesses:
        typer.echo(
            f"{one.confidence:4.0%}  tile {one.tile_width} x {one.tile_height}, margin {one.margin_x}, {one.margin_y}, "
            f"spacing {one.spacing_x}, {one.spacing_y}: {one.columns} x {one.rows} tiles; {one.reason}"
        )


@app.command()
def render(project: ProjectFolder, output: Output, ground: GroundName = None) -> None:
    """Draw a ground as a PNG."""
    deliver(project, "png", output, ground)


@app.command()
def deliver(
    project: ProjectFolder,
    to: Annotated[str, typer.Option("--to", metavar="FORMAT", help="png or json")],
    output: Output,
    ground: GroundName = None,
) -> None:
    """Deliver a ground as a picture, or as JSON with a tileset picture beside it."""
    from knitground.core.deliver import EXPORTERS

    if to not in EXPORTERS:
        raise BadRequest(f"There is no format “{to}” to deliver to; choose one of {', '.join(EXPORTERS)}.")
    derived, chosen = _ground(project, ground)
    with _progress("Delivering") as report:
        written = EXPORTERS[to].write(derived, chosen, output, report)
    typer.echo("wrote " + " and ".join(str(path) for path in written))


@app.command()
def check(project: ProjectFolder, as_json: AsJson = False) -> None:
    """List what is wrong with a project; exits 1 where there are findings."""
    from knitground.core.project.audit import all_findings
    from knitground.core.project.derived import Derived
    from knitground.core.project.document import Document

    findings = all_findings(Derived(Document.load(project)))
    if as_json:
        typer.echo(json.dumps([asdict(finding) for finding in findings], ensure_ascii=False, indent=1))
    else:
        for finding in findings:
            typer.echo(f"{finding.stage}: {finding.sentence}")
        typer.echo(f"{len(findings)} finding{'s' * (len(findings) != 1)}" if findings else "nothing found")
    raise typer.Exit(FINDINGS if findings else DONE)


for command in (infer, coverage, proof, knit, repack):
    app.command()(command)


@app.command()
def schema() -> None:
    """Print the JSON Schema of the project file."""
    from knitground.core.project.file import schema as project_schema

    typer.echo(json.dumps(project_schema(), indent=2, ensure_ascii=False))


def _ground(folder: Path, name: str | None):  # type: ignore[no-untyped-def]
    """A project with its tiles, and the id of the ground that a name or id means."""
    from knitground.core.project.derived import Derived
    from knitground.core.project.document import Document

    document = Document.load(folder)
    return Derived(document), named(document.project.grounds, name, "ground", folder).id


@contextmanager
def _progress(title: str):  # type: ignore[no-untyped-def]
    """A bar on standard error where that is a terminal."""
    if not sys.stderr.isatty():
        yield lambda share: None
        return
    from rich.console import Console
    from rich.progress import Progress

    with Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(title, total=1.0)
        report: Callable[[float], None] = lambda share: bar.update(task, completed=share)  # noqa: E731
        yield report


def main() -> None:
    """The entry point: every foreseen problem is one sentence and exit code 2."""
    try:
        result = app(standalone_mode=False)
    except KnitGroundError as problem:
        _fail(str(problem))
    except _UsageProblem as problem:
        _fail(
            problem.format_message().rstrip(".")  # type: ignore[attr-defined]
            + "; see --help."
        )
    except (typer.Abort, KeyboardInterrupt):
        _fail("Stopped.")
    sys.exit(result if isinstance(result, int) else DONE)


def _fail(sentence: str) -> None:
    typer.echo(f"knitground: {sentence}", err=True)
    sys.exit(CANNOT)
