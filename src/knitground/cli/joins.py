"""The commands about join sets: what they cover, their proof, labels read off pixels, and how a project knits."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from knitground.cli.common import AsJson, Keys, ProjectFolder, key_names, named, opened, output_file, pair, progress
from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from knitground.core.joins.sets import JoinSet
    from knitground.core.project.derived import Derived

SetName = Annotated[str | None, typer.Option("--set", metavar="NAME", help="which join set; the first if not given")]
MOST_LISTED = 1000
_SHORT = {
    "north-west": "nw", "north": "n", "north-east": "ne", "east": "e", "south-east": "se", "south": "s",
    "south-west": "sw", "west": "w", "middle": "m",
}  # fmt: skip


def infer(
    image: Annotated[Path, typer.Argument(metavar="IMAGE", help="sprite sheet")],
    tile: Annotated[str, typer.Option(metavar="WxH", help="tile size in pixels")],
    kind: Annotated[str, typer.Option(metavar="KIND", help="corner, edge, full or cell")] = "corner",
    margin: Annotated[str, typer.Option(metavar="X,Y", help="pixels before the first tile")] = "0,0",
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="pixels between tiles")] = "0,0",
    cells: Annotated[
        str,
        typer.Option(metavar="'C,R C,R ...'", help="columns and rows of the tiles; without it all that hold pixels"),
    ] = "",
    shape: Annotated[str, typer.Option(metavar="SHAPE", help="square or isometric")] = "square",
    terrains: Annotated[int | None, typer.Option(metavar="N", help="how many; found out if not given")] = None,
    key: Keys = None,
    as_json: AsJson = False,
) -> None:
    """Read off the pixels of tiles which terrain lies at their corners and edges.

    Terrains are numbered from 0 in the order in which they first show; transparent counts as one. On isometric tiles
    north-west is the corner on top, and north the edge at the upper right.
    """
    import numpy as np

    from knitground.core.joins.infer import infer_labels
    from knitground.core.joins.sets import PLACES

    if kind not in PLACES or shape not in ("square", "isometric"):
        raise BadRequest("A kind is corner, edge, full or cell, and a shape square or isometric; see --help.")
    tiles = _tiles_of(image, tile, margin, spacing, key)
    rows_there, columns_there = tiles.shape[:2]
    spots = [pair(word, "--cells", ",") for word in cells.split()]
    if not spots:
        spots = [(int(column), int(row)) for row, column in np.argwhere(tiles[..., 3].any(axis=(2, 3)))]
    for column, row in spots:
        if not (0 <= column < columns_there and 0 <= row < rows_there):
            raise BadRequest(
                f"There is no tile {column},{row}; {image.name} has {columns_there} columns and {rows_there} rows."
            )
    chosen = np.stack([tiles[row, column] for column, row in spots]) if spots else tiles[:0, 0]
    with progress("Reading labels") as report:
        found = infer_labels(
            chosen, kind, shape="isometric" if shape == "isometric" else "square", terrains=terrains, progress=report
        )
    short = [_SHORT[place] for place in PLACES[kind]]
    rows = []
    for (column, row), labels, sure in zip(spots, found.labels.tolist(), found.confidence.tolist(), strict=True):
        known = dict(zip(short, labels, strict=True))
        named = {name: known.get(name) for name in _SHORT.values() if name != "m" or kind == "cell"}
        rows.append({"column": column, "row": row, "labels": named, "confidence": round(sure, 3)})
    if as_json:
        typer.echo(json.dumps(rows, indent=1))
        return
    for one in rows:
        says = " ".join(f"{name} {number}" for name, number in one["labels"].items() if number is not None)
        typer.echo(f"{one['column']},{one['row']}: {says}   {one['confidence']:.0%} sure")


def sets(
    image: Annotated[Path, typer.Argument(metavar="IMAGE", help="sprite sheet")],
    tile: Annotated[str, typer.Option(metavar="WxH", help="tile size in pixels")],
    margin: Annotated[str, typer.Option(metavar="X,Y", help="pixels before the first tile")] = "0,0",
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="pixels between tiles")] = "0,0",
    shape: Annotated[str, typer.Option(metavar="SHAPE", help="square or isometric")] = "square",
    key: Keys = None,
    as_json: AsJson = False,
) -> None:
    """Find the join sets on a whole sheet: blocks of cells that show every corner, edge or both of two terrains.

    The most certain comes first. Terrains are numbered from 0 within each set. Where other blocks of the sheet repeat a
    set tile for tile, these are told as frames: of three or more blocks they are taken for such, of two for variants.
    """
    import numpy as np

    from knitground.core.joins.find import find_sets
    from knitground.core.joins.sets import PLACES

    if shape not in ("square", "isometric"):
        raise BadRequest("A shape is square or isometric; see --help.")
    tiles = _tiles_of(image, tile, margin, spacing, key)
    with progress("Looking for sets") as report:
        found = find_sets(
            tiles,
            np.asarray(tiles[..., 3].any(axis=(2, 3))),
            shape="isometric" if shape == "isometric" else "square",
            progress=report,
        )
    content = [
        {"kind": one.kind, "confidence": one.confidence, "cells": [
            {"column": column, "row": row,
             "labels": dict(zip((_SHORT[place] for place in PLACES[one.kind]), labels, strict=True))}
            for (column, row), labels in zip(one.cells.tolist(), one.labels.tolist(), strict=True)
        ], "moves": one.moves, "frames": [
            [{"column": column, "row": row} for column, row in run] for run in one.frames.tolist()
        ]}
        for one in found
    ]  # fmt: skip
    if as_json:
        typer.echo(json.dumps(content))
        return
    for one in found:
        left, top = one.cells.min(axis=0)
        right, foot = one.cells.max(axis=0)
        variants = len(one.labels) - len(np.unique(one.labels, axis=0))
        also = f", {variants} of them variants" if variants else ""
        also += f", each with {one.frames.shape[1]} frames" if one.moves else ""
        typer.echo(
            f"{one.kind} joins of {len(one.cells)} tiles{also}, columns {left} to {right}, rows {top} to {foot}: "
            f"{one.covered:.0%} covered, {one.confidence:.0%} sure"
        )
    if not found:
        typer.echo("No set was found; “knitground infer” reads the labels of cells that you name.")


def _tiles_of(image: Path, tile: str, margin: str, spacing: str, key: list[str] | None) -> "NDArray[np.uint8]":
    """The tiles of a sheet, (R, C, h, w, 4)."""
    from knitground.core.sheet.cut import Cut, grid_of, slice_tiles
    from knitground.core.sheet.picture import Clearing, cleared, decode_picture, read_file

    picture = cleared(decode_picture(read_file(image), image.name), Clearing(tuple(key_names(key))))
    cut = Cut("cut", *pair(tile, "--tile", "x"), *pair(margin, "--margin", ","), *pair(spacing, "--spacing", ","))
    grid_of(cut, picture.shape[1], picture.shape[0])  # says what is wrong with the numbers, if anything is
    return slice_tiles(picture, cut)


def coverage(project: ProjectFolder, name: SetName = None, as_json: AsJson = False) -> None:
    """Say which combinations of a join set have a tile; exits 1 if some have none."""
    from itertools import islice

    from knitground.core.joins.beyond import told_beyond, told_narrow
    from knitground.core.joins.sets import letters

    derived, join_set = _join_set(project, name)
    found = derived.coverage(join_set)
    counts = {
        "total": found.total, "present": found.present, "several": found.several, "turned": found.turned,
        "missing": found.lacking,
    }  # fmt: skip
    if as_json:
        tiles = [
            {"labels": dict(zip(_keys(join_set), labels, strict=True)),
             "tiles": [{"tile": str(one.ref), "orientation": one.orientation} for one in some]}
            for labels, some in sorted(found.tiles.items())
        ]  # fmt: skip
        missing = [dict(zip(_keys(join_set), labels, strict=True)) for labels in islice(found.missing(), MOST_LISTED)]
        terrains = [terrain.name for terrain in join_set.terrains]
        content = {
            "set": join_set.name,
            "kind": join_set.kind,
            "terrains": terrains,
            **counts,
            "apart": found.apart,
            "one_way": found.one_way,
        }
        typer.echo(json.dumps({**content, "combinations": tiles, "missing_combinations": missing}, ensure_ascii=False))
    else:
        says = (
            f"{join_set.name}: {found.present} of {found.total} present", f"{found.turned} of them by turning",
            f"{found.several} by several tiles", f"{found.lacking} missing", told_narrow(found),
        )  # fmt: skip
        typer.echo(", ".join(filter(None, says)))
        if beyond := told_beyond(join_set, found):
            typer.echo(beyond)
        for labels in islice(found.missing(), MOST_LISTED):
            typer.echo(f"missing {letters(join_set, labels)}")
    raise typer.Exit(1 if found.lacking else 0)


def proof(
    project: ProjectFolder,
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FILE", help="where to write the PNG")],
    name: SetName = None,
) -> None:
    """Draw the proof of a join set: a small wrapping ground of every combination, striped where there is no tile."""
    from knitground.core.project.atomic import write_atomically
    from knitground.core.project.proofing import proof_ground
    from knitground.core.render.compositor import picture
    from knitground.core.sheet.picture import encode_png

    path = output_file(output)
    derived, join_set = _join_set(project, name)
    knitted = proof_ground(derived, join_set)
    if knitted is None:
        raise BadRequest(f"“{join_set.name}” has no labelled tile yet, so there is nothing to show.")
    ground = knitted.ground
    write_atomically(path, encode_png(picture(derived.scene(knitted), f"The proof of “{join_set.name}”")))
    typer.echo(f"wrote {readable(output)}: {ground.width} x {ground.height} cells")


def _keys(join_set: "JoinSet") -> list[str]:
    return [_SHORT[place] for place in join_set.places]


def _join_set(folder: Path, name: str | None) -> tuple["Derived", "JoinSet"]:
    """A project with its tiles, and the join set that a name or id means."""
    derived = opened(folder)
    return derived, named(derived.document.project.join_sets, name, "join set", folder)
