"""The commands about join sets: what they cover, their proof, labels read off pixels, and how a project knits."""

import json
from pathlib import Path
from typing import Annotated

import typer

from knitground.core.errors import BadRequest

AsJson = Annotated[bool, typer.Option("--json", help="print JSON")]
ProjectFolder = Annotated[Path, typer.Argument(metavar="PROJECT", help="folder of the project")]
SetName = Annotated[str | None, typer.Option("--set", metavar="NAME", help="which join set; the first if not given")]
MOST_LISTED = 1000
MOST_PIXELS = 2**28
_SHORT = {
    "north-west": "nw", "north": "n", "north-east": "ne", "east": "e", "south-east": "se", "south": "s",
    "south-west": "sw", "west": "w",
}  # fmt: skip


def infer(
    image: Annotated[Path, typer.Argument(metavar="IMAGE", help="sprite sheet")],
    tile: Annotated[str, typer.Option(metavar="WxH", help="tile size in pixels")],
    kind: Annotated[str, typer.Option(metavar="KIND", help="corner, edge or full")] = "corner",
    margin: Annotated[str, typer.Option(metavar="X,Y", help="pixels before the first tile")] = "0,0",
    spacing: Annotated[str, typer.Option(metavar="X,Y", help="pixels between tiles")] = "0,0",
    cells: Annotated[
        str,
        typer.Option(metavar="'C,R C,R ...'", help="columns and rows of the tiles; without it all that hold pixels"),
    ] = "",
    shape: Annotated[str, typer.Option(metavar="SHAPE", help="square or isometric")] = "square",
    terrains: Annotated[int | None, typer.Option(metavar="N", help="how many; found out if not given")] = None,
    key: Annotated[
        list[str] | None, typer.Option(metavar="RRGGBB", help="colour that means transparent; may be repeated")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Read off the pixels of tiles which terrain lies at their corners and edges.

    Terrains are numbered from 0 in the order in which they first show; transparent counts as one. On isometric tiles
    north-west is the corner on top, and north the edge at the upper right.
    """
    import numpy as np

    from knitground.core.joins.infer import infer_labels
    from knitground.core.joins.sets import PLACES
    from knitground.core.sheet.cut import Cut, grid_of, slice_tiles
    from knitground.core.sheet.picture import Clearing, cleared, decode_picture, read_file

    if kind not in PLACES or shape not in ("square", "isometric"):
        raise BadRequest("A kind is corner, edge or full, and a shape square or isometric; see --help.")
    picture = cleared(decode_picture(read_file(image), image.name), Clearing(tuple(key_names(key))))
    cut = Cut("cut", *pair(tile, "--tile", "x"), *pair(margin, "--margin", ","), *pair(spacing, "--spacing", ","))
    grid = grid_of(cut, picture.shape[1], picture.shape[0])
    tiles = slice_tiles(picture, cut)
    spots = [pair(word, "--cells", ",") for word in cells.split()]
    if not spots:
        spots = [(int(column), int(row)) for row, column in np.argwhere(tiles[..., 3].any(axis=(2, 3)))]
    for column, row in spots:
        if not (0 <= column < grid.columns and 0 <= row < grid.rows):
            raise BadRequest(
                f"There is no tile {column},{row}; {image.name} has {grid.columns} columns and {grid.rows} rows."
            )
    chosen = np.stack([tiles[row, column] for column, row in spots]) if spots else tiles[:0, 0]
    found = infer_labels(chosen, kind, shape=shape, terrains=terrains)
    short = [_SHORT[place] for place in PLACES[kind]]
    rows = []
    for (column, row), labels, sure in zip(spots, found.labels.tolist(), found.confidence.tolist(), strict=True):
        known = dict(zip(short, labels, strict=True))
        named = {name: known.get(name) for name in _SHORT.values()}
        rows.append({"column": column, "row": row, "labels": named, "confidence": round(sure, 3)})
    if as_json:
        typer.echo(json.dumps(rows, indent=1))
        return
    for one in rows:
        says = " ".join(f"{name} {number}" for name, number in one["labels"].items() if number is not None)
        typer.echo(f"{one['column']},{one['row']}: {says}   {one['confidence']:.0%} sure")


def coverage(project: ProjectFolder, name: SetName = None, as_json: AsJson = False) -> None:
    """Say which combinations of a join set have a tile; exits 1 if some have none."""
    from itertools import islice

    from knitground.core.check.findings import letters

    derived, join_set = _join_set(project, name)
    found = derived.coverage(join_set)
    counts = {
        "total": found.total, "present": found.present, "several": found.doubled, "turned": found.turned,
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
        content = {"set": join_set.name, "kind": join_set.kind, "terrains": terrains, **counts}
        typer.echo(json.dumps({**content, "combinations": tiles, "missing_combinations": missing}, ensure_ascii=False))
    else:
        typer.echo(
            f"{join_set.name}: {found.present} of {found.total} present, {found.turned} of them by turning, "
            f"{found.doubled} by several tiles, {found.lacking} missing"
        )
        for labels in islice(found.missing(), MOST_LISTED):
            typer.echo(f"missing {letters(join_set, labels)}")
    raise typer.Exit(1 if found.lacking else 0)


def proof(
    project: ProjectFolder,
    output: Annotated[Path, typer.Option("-o", "--output", metavar="FILE", help="where to write the PNG")],
    name: SetName = None,
) -> None:
    """Draw the proof of a join set: a small wrapping ground of every combination, striped where there is no tile."""
    from knitground.core.ground.window import Window
    from knitground.core.project.atomic import write_atomically
    from knitground.core.project.derived import knitted_pixels
    from knitground.core.project.proofing import proof_ground
    from knitground.core.render.atlas import straight
    from knitground.core.sheet.picture import encode_png

    derived, join_set = _join_set(project, name)
    knitted = proof_ground(derived, join_set)
    if knitted is None:
        raise BadRequest(f"“{join_set.name}” has no labelled tile yet, so there is nothing to show.")
    ground = knitted.ground
    whole = Window(0, 0, ground.height, ground.width)
    if ground.height * ground.tile_height * ground.width * ground.tile_width > MOST_PIXELS:
        raise BadRequest(f"The proof of “{join_set.name}” is too large for a picture; look at it in the window.")
    pixels = knitted_pixels(knitted, derived.atlas(ground.tile_width, ground.tile_height), whole, 0, 1)
    write_atomically(output, encode_png(straight(pixels)))
    typer.echo(f"wrote {output}: {ground.width} x {ground.height} cells")


def knit(project: ProjectFolder, as_json: AsJson = False) -> None:
    """Knit every derived layer and say how many tiles are laid; exits 1 if no tile fits in some cells."""
    import numpy as np

    from knitground.core.ground.layers import TileLayer
    from knitground.core.ground.window import Window
    from knitground.core.project.audit import unmet
    from knitground.core.project.derived import Derived
    from knitground.core.project.document import Document

    document = Document.load(project)
    derived = Derived(document)
    rows, poor = [], False
    for ground in document.project.grounds:
        knitted, whole = derived.knitted(ground.id), Window(0, 0, ground.height, ground.width)
        for layer in ground.layers:
            if isinstance(layer, TileLayer):
                continue
            codes = knitted.codes(layer.id, whole)
            planes = document.state.planes[ground.id][layer.id]
            holes, broken = unmet(ground, layer, planes, knitted.tables, whole)
            row = {
                "ground": ground.name, "layer": layer.name, "laid": int(np.count_nonzero(codes > 0)),
                "holes": int(np.count_nonzero(codes < 0)), "instead": int(holes.sum()), "broken": int(broken.sum()),
            }  # fmt: skip
            poor |= bool(holes.any())
            rows.append(row)
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False))
    for row in () if as_json else rows:
        typer.echo(
            f"{row['ground']}, {row['layer']}: {row['laid']} tiles laid, "
            f"{row['instead']} cells without a fitting tile, {row['broken']} with joins that break, "
            f"{row['holes']} holes"
        )
    raise typer.Exit(1 if poor else 0)


def _keys(join_set) -> list[str]:  # type: ignore[no-untyped-def]
    return [_SHORT[place] for place in join_set.places]


def _join_set(folder: Path, name: str | None):  # type: ignore[no-untyped-def]
    """A project with its tiles, and the join set that a name or id means."""
    from knitground.core.project.derived import Derived
    from knitground.core.project.document import Document

    document = Document.load(folder)
    return Derived(document), named(document.project.join_sets, name, "join set", folder)


def named(things, name: str | None, kind: str, folder: Path):  # type: ignore[no-untyped-def]
    """The one of a project's things that a name or id means; the first where none is given."""
    if not things:
        raise BadRequest(f"{folder} has no {kind} yet; make one in the window.")
    for thing in things:
        if name is None or name in (thing.name, thing.id):
            return thing
    raise BadRequest(f"{folder} has no {kind} “{name}”; it has {', '.join(thing.name for thing in things)}.")


def pair(text: str, option: str, separator: str) -> tuple[int, int]:
    """Two whole numbers, or one for both."""
    parts = text.lower().split(separator)
    try:
        numbers = [int(part) for part in parts]
    except ValueError:
        numbers = []
    if len(numbers) not in (1, 2):
        raise BadRequest(f"{option} {text} is not understood; write two whole numbers, as in {option} 3{separator}3.")
    return numbers[0], numbers[-1]


def key_names(keys: list[str] | None) -> list[str]:
    """Key colours as the core names them."""
    return [f"#{name.lstrip('#').lower()}" for name in keys or []]
