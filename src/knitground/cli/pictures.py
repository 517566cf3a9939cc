"""The commands about pictures and tables that are maps: drawn maps, colours and rows, into a layer and out of one."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from knitground.cli.common import GroundName, ProjectFolder, named, opened, output_file, pair, text_of
from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    from collections.abc import Callable

    from knitground.core.ground.ground import Ground
    from knitground.core.layers.layer import Layer
    from knitground.core.project.document import Document


def map_from_picture(
    picture: Annotated[Path, typer.Argument(metavar="PICTURE", help="a drawn map, made of tiles")],
    tile: Annotated[str, typer.Option(metavar="WxH", help="size of its tiles in pixels")],
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FOLDER", help="the project to make")],
) -> None:
    """Make a project from a drawn map: a sheet with each of its tiles once, and a ground that looks like it."""
    from knitground.core.edits.drawn import project_of
    from knitground.core.sheet.picture import decode_picture, read_file

    width, height = _tile_size(tile)
    _check_empty(output)
    document = project_of(picture.stem, decode_picture(read_file(picture), picture.name), width, height)
    document.save(output)
    ground, (sheet,) = document.project.grounds[0], document.project.sheets
    count = len({ref for ref in document.palette.refs if ref.sheet == sheet.id})
    typer.echo(f"made {readable(output)}: {ground.width} x {ground.height} cells of {count} different tiles")


def from_map(
    source: Annotated[Path, typer.Argument(metavar="MAP.json", help="a map delivered as JSON, its pictures beside it")],
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FOLDER", help="the project to make")],
) -> None:
    """Make a project of a delivered map: the same cells, things and properties, on layers of tiles."""
    from knitground.core.deliver.taking_back import project_from_map

    _check_empty(output)
    document = project_from_map(source)
    document.save(output)
    ground = document.project.grounds[0]
    typer.echo(f"made {readable(output)}: {ground.width} x {ground.height} cells on {len(ground.layers)} layers")


def from_ora(
    source: Annotated[Path, typer.Argument(metavar="FILE.ora", help="a layered picture of a paint program")],
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FOLDER", help="the project to make")],
    tile: Annotated[
        str | None, typer.Option("--tile", metavar="WxH", help="the layers are drawn maps of tiles this large")
    ] = None,
) -> None:
    """Make a project of an OpenRaster file: a sheet for each layer, or with --tile a ground with as many layers."""
    from dataclasses import replace

    from knitground.core.edits.image_files import insert_reads, layers_as_images, read_images
    from knitground.core.edits.painted import add_as_map
    from knitground.core.project.document import Document
    from knitground.core.project.model import UNTITLED
    from knitground.core.sheet.openraster import read_layers
    from knitground.core.sheet.picture import read_file

    size = None if tile is None else _tile_size(tile)
    _check_empty(output)
    layers = read_layers(read_file(source), source.name)
    document = Document()
    document.define("name", replace(document.project, name=source.stem[:80] or UNTITLED))
    if size is None:
        made = insert_reads(document, read_images(layers_as_images(layers)).read)
        said = f"{len(made)} sheet{'s' * (len(made) != 1)}"
    else:
        add_as_map(document, source.stem, layers, *size)
        ground = document.project.grounds[0]
        said = f"{ground.width} x {ground.height} cells on {len(ground.layers)} layers"
    document.save(output)
    typer.echo(f"made {readable(output)}: {said}")


def _tile_size(tile: str) -> tuple[int, int]:
    from knitground.core.sheet.cut import LARGEST_TILE

    width, height = pair(tile, "--tile", "x")
    if not min(width, height) >= 1 or max(width, height) > LARGEST_TILE:
        raise BadRequest(f"--tile {readable(tile)} is out of range; give pixels from 1 to {LARGEST_TILE}, as in 16x16.")
    return width, height


def _check_empty(output: Path) -> None:
    """Raises BadRequest where a new project would lie among other things."""
    if output.exists() and (not output.is_dir() or any(output.iterdir())):
        raise BadRequest(f"{readable(output)} is there already and not empty; choose another folder.")


def colours(
    project: ProjectFolder,
    layer: Annotated[str, typer.Option("--layer", metavar="NAME", help="which layer of the ground")],
    table: Annotated[
        Path, typer.Option("--table", metavar="TABLE.csv", help="a colour and what it stands for on each line")
    ],
    ground: GroundName = None,
    source: Annotated[
        Path | None, typer.Option("--from", metavar="PICTURE", help="paint the layer by this picture, and save")
    ] = None,
    target: Annotated[
        Path | None, typer.Option("--to", metavar="PICTURE", help="write the layer as an indexed PNG, and the table")
    ] = None,
) -> None:
    """Paint a layer by a picture whose colours stand for terrains, marks or tiles, or write such a picture."""
    if (source is None) == (target is None):
        raise BadRequest("Give either --from PICTURE to paint the layer, or --to PICTURE to write it.")
    if source is not None:
        _paint(project, ground, layer, source, table)
    elif target is not None:
        _write(project, ground, layer, output_file(target), output_file(table))


def rows(
    project: ProjectFolder,
    layer: Annotated[str, typer.Option("--layer", metavar="NAME", help="which layer of the ground")],
    ground: GroundName = None,
    source: Annotated[Path | None, typer.Option("--from", metavar="CSV", help="paint the layer by these rows")] = None,
    target: Annotated[Path | None, typer.Option("--to", metavar="CSV", help="write the layer as rows of names")] = None,
) -> None:
    """Write a layer as CSV, a line for each row by the names of what lies there, or paint it by such a file."""
    from knitground.core.edits.rows import paint_rows, rows_of
    from knitground.core.project.atomic import write_atomically

    if (source is None) == (target is None):
        raise BadRequest("Give either --from CSV to paint the layer, or --to CSV to write it.")
    if source is not None:
        text = text_of(source)

        def act(document: "Document", chosen: "Ground", painted: "Layer") -> int:
            return paint_rows(document, chosen.id, painted.id, text)

        _painted(project, ground, layer, act)
    elif target is not None:
        document = opened(project).document
        chosen, shown = _chosen(document, project, ground, layer)
        write_atomically(output_file(target), rows_of(document, chosen.id, shown.id).encode())
        typer.echo(f"wrote {readable(target)}, {shown.name} of {chosen.name}")


def _paint(project: Path, ground: str | None, layer: str, source: Path, table: Path) -> None:
    from knitground.core.edits.colours import paint_from, read_table
    from knitground.core.sheet.picture import decode_picture, read_file

    picture = decode_picture(read_file(source), source.name)
    known = read_table(text_of(table))

    def act(document: "Document", chosen: "Ground", painted: "Layer") -> int:
        return paint_from(document, chosen.id, painted.id, picture, known)

    _painted(project, ground, layer, act)


def _painted(project: Path, ground: str | None, layer: str, act: "Callable[[Document, Ground, Layer], int]") -> None:
    """Paints a layer of a project that nobody else has open, and saves it."""
    from knitground.core.project.lock import ProjectLock

    lock = ProjectLock(project)
    if not lock.take():
        raise BadRequest(f"{readable(project)} is open in another window; close it there first.")
    try:
        document = opened(project).document
        chosen, painted = _chosen(document, project, ground, layer)
        count = act(document, chosen, painted)
        document.save()
    finally:
        lock.release()
    typer.echo(f"painted {count} places of {painted.name} on {chosen.name}, and saved it")


def _write(project: Path, ground: str | None, layer: str, target: Path, table: Path) -> None:
    from knitground.core.edits.colours import picture_of, read_table, write_table
    from knitground.core.project.atomic import write_atomically
    from knitground.core.sheet.picture import encode_indexed_png

    document = opened(project).document
    chosen, shown = _chosen(document, project, ground, layer)
    known = read_table(text_of(table)) if table.exists() else {}
    indices, colours_of, full = picture_of(document, chosen.id, shown.id, known)
    write_atomically(target, encode_indexed_png(indices, colours_of))
    if full != known:
        write_atomically(table, write_table(full).encode())
    typer.echo(f"wrote {readable(target)}, {indices.shape[1]} x {indices.shape[0]} pixels in {len(colours_of)} colours")


def _chosen(document: "Document", project: Path, ground: str | None, layer: str) -> "tuple[Ground, Layer]":
    chosen = named(document.project.grounds, ground, "ground", project)
    return chosen, named(chosen.layers, layer, "layer", project, where=f"on “{readable(chosen.name)}”")
