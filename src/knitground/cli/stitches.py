"""Commands about stitches."""

from pathlib import Path
from typing import Annotated

import typer

from knitground.cli.common import ProjectFolder, named, opened, output_file, pair, text_of
from knitground.core.errors import BadRequest, readable


def stitch(
    project: ProjectFolder,
    plan: Annotated[Path, typer.Option("--plan", metavar="CSV", help="rows of letters of marks, empty for none")],
    stitch_set: Annotated[
        str | None, typer.Option("--set", metavar="NAME", help="which stitch set; the first if not given")
    ] = None,
    part: Annotated[
        str, typer.Option("--part", metavar="NAME", help="write what is laid onto this part of the set instead")
    ] = "",
    seed: Annotated[int | None, typer.Option(metavar="N", help="of chance; the project's if not given")] = None,
    output: Annotated[Path | None, typer.Option("-o", "--output", metavar="CSV", help="where to write")] = None,
    why: Annotated[str, typer.Option(metavar="ROW,COLUMN", help="say of a cell why its tile lies there")] = "",
) -> None:
    """Lay a plan by a stitch set, without a ground: the tile of each cell as sheet/cut/column,row.

    A turned tile has @N behind it, N being its orientation from 1 to 7. Cells without a tile are empty.
    """
    from knitground.core.edits.plans import part_of, planned, read_plan, tiles_as_rows, why_planned
    from knitground.core.project.atomic import write_atomically

    if output is None and not why:
        raise BadRequest("Give -o FILE to write the tiles, or --why ROW,COLUMN to ask about one.")
    derived = opened(project)
    chosen = named(derived.document.project.stitch_sets, stitch_set, "stitch set", project)
    laid = planned(derived, chosen, read_plan(text_of(plan), chosen), seed)
    if why:
        typer.echo(why_planned(derived, laid, *pair(why, "--why", ",")))
    if output is not None:
        rows = tiles_as_rows(laid, derived.document.palette, part_of(chosen, part))
        write_atomically(output_file(output), rows.encode())
        typer.echo(f"wrote {readable(output)}, {laid.ground.width} x {laid.ground.height} cells of {chosen.name}")
