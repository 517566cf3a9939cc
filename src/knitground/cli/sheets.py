"""The commands about sheets: how they are cut, and packing them anew."""

import json
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from knitground.cli.common import AsJson, Keys, ProjectFolder, key_names, output_file, pair, plain, whole
from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from knitground.core.sheet.cut import Cut


def cut(
    sheet: Annotated[Path, typer.Argument(metavar="SHEET", help="image to cut")],
    tile: Annotated[str, typer.Option(metavar="WxH", help="tile size in pixels; guessed if not given")] = "",
    margin: Annotated[str, typer.Option(metavar="X,Y", help="pixels before the first tile")] = "0,0",
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="pixels between tiles")] = "0,0",
    region: Annotated[
        str, typer.Option(metavar="X,Y,W,H", help="part of the picture to cut, in pixels; the whole if not given")
    ] = "",
    key: Keys = None,
    output: Annotated[
        str | None, typer.Option("-o", "--output", metavar="DIR", help="write each tile there as a PNG")
    ] = None,
) -> None:
    """Cut a sheet into tiles: say what comes out, or write the tiles as files named COLUMN-ROW.png."""
    from knitground.core.edits.sheets import shown_in
    from knitground.core.project.atomic import write_atomically
    from knitground.core.sheet.cut import Cut, grid_of, slice_tiles
    from knitground.core.sheet.parts import look_over
    from knitground.core.sheet.picture import Clearing, cleared, decode_picture, encode_png, read_file

    if output is not None and not output.strip():
        raise BadRequest("-o names no folder; give one, as in -o tiles.")
    picture = cleared(decode_picture(read_file(sheet), sheet.name), Clearing(tuple(key_names(key))))
    picture = _part(picture, region) if region else picture
    if tile:
        numbers = (*pair(tile, "--tile", "x"), *pair(margin, "--margin", ","), *pair(spacing, "--spacing", ","))
        cutting = Cut("cut", *numbers)
    else:
        guesses, parts = look_over(picture)
        if not guesses:
            raise BadRequest(f"No grid shows on {readable(sheet.name)}; give the tile size, as in --tile 16x16.")
        if parts:
            raise BadRequest(
                f"{shown_in(parts).capitalize()} show on {readable(sheet.name)}; cut one part at a time with --region, "
                "see guess --parts, or give the tile size."
            )
        cutting = guesses[0].as_cut("cut")
    grid = grid_of(cutting, picture.shape[1], picture.shape[0])
    tiles = slice_tiles(picture, cutting)
    empty = int((tiles[..., 3] == 0).all(axis=(2, 3)).sum())
    typer.echo(
        f"{grid.columns} x {grid.rows} tiles of {cutting.tile_width} x {cutting.tile_height}, {empty} of them empty; "
        f"left over: {grid.left_over_x} px at the right, {grid.left_over_y} px at the bottom"
    )
    if output is not None:
        folder = Path(output)
        for row in range(grid.rows):
            for column in range(grid.columns):
                if tiles[row, column, ..., 3].any():
                    write_atomically(folder / f"{column}-{row}.png", encode_png(tiles[row, column]))
        typer.echo(f"wrote {grid.columns * grid.rows - empty} tiles to {readable(output)}")


def guess(
    image: Annotated[Path, typer.Argument(metavar="IMAGE", help="sprite sheet")],
    in_parts: Annotated[
        bool, typer.Option("--parts", help="print the grids on parts of it instead; none where one grid will do")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Guess how a sheet is cut, best guess first."""
    from knitground.core.edits.sheets import shown_in
    from knitground.core.sheet.parts import look_over
    from knitground.core.sheet.picture import decode_picture, read_file
    from knitground.core.sheet.resized import resized

    picture = decode_picture(read_file(image), image.name)
    guesses, parts = look_over(picture)
    apart = resized(picture, parts or [one.as_cut("") for one in guesses[:1]])
    guesses = [replace(one, confidence=round(one.sureness, 4)) for one in guesses]
    if as_json:
        typer.echo(json.dumps([plain(one) for one in (parts if in_parts else guesses)], indent=1))
        return
    if not guesses:
        raise BadRequest(f"No grid shows on {readable(image.name)}; count the pixels of one tile instead.")
    if apart is not None:
        wide, high = apart.whole(picture.shape[1], picture.shape[0])
        typer.echo(f"{readable(image.name)}: {apart.says}; at {wide} x {high} pixels one would", err=True)
    if in_parts:
        typer.echo("\n".join(map(_as_part, parts)) or "one grid will do")
        return
    if parts:
        typer.echo(f"{shown_in(parts)} show, see --parts; by one grid:")
    for one in guesses:
        typer.echo(
            f"{one.confidence:4.0%}  tile {one.tile_width} x {one.tile_height}, margin {one.margin_x}, {one.margin_y}, "
            f"spacing {one.spacing_x}, {one.spacing_y}: {one.columns} x {one.rows} tiles; {one.reason}"
        )


def _as_part(cut: "Cut") -> str:
    region = ",".join(str(number) for number in cut.region or ())
    if cut.pieces:
        return f"--region {region}  {len(cut.pieces)} loose pieces"
    size, spacing = f"{cut.tile_width} x {cut.tile_height}", f"{cut.spacing_x}, {cut.spacing_y}"
    return f"--region {region}  tile {size}, spacing {spacing}"


def repack(
    project: ProjectFolder,
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FILE", help="where to write the PNG")],
    sheet: Annotated[str, typer.Option("--sheet", metavar="NAME", help="which sheet")],
    margin: Annotated[int, typer.Option(metavar="N", help="clear pixels round the sheet")] = 0,
    spacing: Annotated[int, typer.Option(metavar="N", help="clear pixels between tiles")] = 0,
    extrude: Annotated[int, typer.Option(metavar="N", help="pixels by which to repeat the border of each tile")] = 0,
    power_of_two: Annotated[bool, typer.Option("--power-of-two", help="make both sides a power of two")] = False,
    unique: Annotated[bool, typer.Option("--unique", help="leave tiles away that look the same as another")] = False,
    turned: Annotated[
        bool, typer.Option("--turned", help="with --unique: also those that are turned or mirrored copies")
    ] = False,
    move: Annotated[bool, typer.Option("--move", help="let the project use the new sheet; no map shifts")] = False,
) -> None:
    """Write a sheet anew with other gaps: every tile keeps its column and row, unless copies are left away."""
    from knitground.core.edits.repacking import move_over, pack_anew
    from knitground.core.project.atomic import write_atomically
    from knitground.core.project.document import Document
    from knitground.core.sheet.picture import encode_png
    from knitground.core.sheet.repack import Gaps

    if turned and not unique:
        raise BadRequest("--turned goes with --unique; give both, or neither.")
    document = Document.load(project)
    known = [one.id for one in document.project.sheets]
    if sheet not in known:
        there = readable(", ".join(known)) or "none"
        raise BadRequest(f"{readable(project)} has no sheet “{readable(sheet)}”; it has {there}.")
    packed = pack_anew(document, sheet, Gaps(margin, spacing, extrude, power_of_two), unique=unique, turned=turned)
    write_atomically(output_file(output), encode_png(packed.pixels))
    height, width = packed.pixels.shape[:2]
    first = packed.sheet.cuts[0]
    numbers = f"tile {first.tile_width} x {first.tile_height}, margin {first.margin_x}, spacing {first.spacing_x}"
    parts = f"{len(packed.sheet.cuts)} parts" if len(packed.sheet.cuts) > 1 else f"{len(first.pieces)} loose pieces"
    whole = len(packed.sheet.cuts) == 1 and not first.pieces
    copies = f", {packed.gone} cop{'y' if packed.gone == 1 else 'ies'} left away" if unique else ""
    typer.echo(f"wrote {readable(output)}: {width} x {height} px, {numbers if whole else parts}{copies}")
    if move:
        move_over(document, packed)
        document.save()
        typer.echo(f"{readable(project)} uses it now as “{readable(sheet)}”")


def _part(picture: "NDArray[np.uint8]", region: str) -> "NDArray[np.uint8]":
    """A rectangle of a picture."""
    try:
        left, top, width, height = (whole(word) for word in region.split(","))
    except ValueError:
        raise BadRequest(
            f"--region {readable(region)} is not understood; write four whole numbers, as in --region 0,32,128,64."
        ) from None
    if not (
        left >= 0 <= top
        and width > 0 < height
        and left + width <= picture.shape[1]
        and top + height <= picture.shape[0]
    ):
        raise BadRequest(
            f"--region {readable(region)} does not lie on the picture, which is {picture.shape[1]} x "
            f"{picture.shape[0]} pixels; give a rectangle inside it."
        )
    return picture[top : top + height, left : left + width]
