"""The command that packs a sheet of a project anew."""

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
    unique: Annotated[bool, typer.Option("--unique", help="leave tiles away that look the same as another")] = False,
    move: Annotated[bool, typer.Option("--move", help="let the project use the new sheet; no map shifts")] = False,
) -> None:
    """Write a sheet anew with other gaps: every tile keeps its column and row, unless copies are left away."""
    from knitground.core.project.atomic import write_atomically
    from knitground.core.project.document import Document
    from knitground.core.project.repacking import move_over, pack_anew
    from knitground.core.sheet.picture import encode_png
    from knitground.core.sheet.repack import Gaps

    document = Document.load(project)
    known = [one.id for one in document.project.sheets]
    if sheet not in known:
        raise BadRequest(f"{project} has no sheet “{sheet}”; it has {', '.join(known) or 'none'}.")
    packed = pack_anew(document, sheet, Gaps(margin, spacing, extrude, power_of_two), unique=unique)
    write_atomically(output, encode_png(packed.pixels))
    height, width = packed.pixels.shape[:2]
    first = packed.sheet.cuts[0]
    numbers = f"tile {first.tile_width} x {first.tile_height}, margin {first.margin_x}, spacing {first.spacing_x}"
    parts = f"{len(packed.sheet.cuts)} parts" if len(packed.sheet.cuts) > 1 else f"{len(first.pieces)} loose pieces"
    whole = len(packed.sheet.cuts) == 1 and not first.pieces
    copies = f", {packed.gone} cop{'y' if packed.gone == 1 else 'ies'} left away" if unique else ""
    typer.echo(f"wrote {output}: {width} x {height} px, {numbers if whole else parts}{copies}")
    if move:
        move_over(document, packed)
        document.save()
        typer.echo(f"{project} uses it now as “{sheet}”")
