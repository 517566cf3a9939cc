"""The command that packs a sheet of a project anew."""

from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from knitground.cli_joins import ProjectFolder
from knitground.core.errors import BadRequest


def repack(
    project: ProjectFolder,
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FILE", help="where to write the PNG")],
    sheet: Annotated[str, typer.Option("--sheet", metavar="NAME", help="which sheet")],
    margin: Annotated[int, typer.Option(metavar="N", help="clear pixels round the sheet")] = 0,
    spacing: Annotated[int, typer.Option(metavar="N", help="clear pixels between tiles")] = 0,
    extrude: Annotated[int, typer.Option(metavar="N", help="pixels by which to repeat the border of each tile")] = 0,
    power_of_two: Annotated[bool, typer.Option("--power-of-two", help="make both sides a power of two")] = False,
    move: Annotated[bool, typer.Option("--move", help="let the project use the new sheet; no map shifts")] = False,
) -> None:
    """Write a sheet anew with other gaps: every tile keeps its column and row."""
    from knitground.core.project.atomic import write_atomically
    from knitground.core.project.document import Document
    from knitground.core.project.model import Picture, replaced
    from knitground.core.sheet.cut import slice_tiles
    from knitground.core.sheet.picture import encode_png
    from knitground.core.sheet.repack import repack as packed
    from knitground.core.sheet.repack import repacked_cut

    document = Document.load(project)
    known = {one.id: one for one in document.project.sheets}
    if sheet not in known:
        raise BadRequest(f"{project} has no sheet “{sheet}”; it has {', '.join(known) or 'none'}.")
    if len(known[sheet].cuts) != 1:
        raise BadRequest(f"“{sheet}” has {len(known[sheet].cuts)} cuts; a sheet with one can be packed anew.")
    (cut,) = known[sheet].cuts
    pixels = document.state.pictures[sheet].seen(known[sheet])
    picture = packed(
        slice_tiles(pixels, cut), margin=margin, spacing=spacing, extrude=extrude, power_of_two=power_of_two
    )
    new = repacked_cut(cut, margin=margin, spacing=spacing, extrude=extrude)
    data = encode_png(picture)
    write_atomically(output, data)
    typer.echo(
        f"wrote {output}: {picture.shape[1]} x {picture.shape[0]} px, tile {new.tile_width} x {new.tile_height}, "
        f"margin {new.margin_x}, spacing {new.spacing_x}"
    )
    if move:
        changed = replace(known[sheet], cuts=(new,), keys=())
        document.define(
            "repack",
            replace(document.project, sheets=replaced(document.project.sheets, changed)),
            pictures={**document.state.pictures, sheet: Picture(data, picture)},
        )
        document.save()
        typer.echo(f"{project} uses it now as “{sheet}”")
