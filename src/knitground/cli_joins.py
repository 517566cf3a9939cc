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
    sets = document.project.join_sets
    if not sets:
        raise BadRequest(f"{folder} has no join set yet; make one in the window.")
    for join_set in sets:
        if name is None or name in (join_set.name, join_set.id):
            return Derived(document), join_set
    raise BadRequest(f"{folder} has no join set “{name}”; it has {', '.join(one.name for one in sets)}.")
