"""The commands that leave things to chance and procedure: growing, filling to fit, learning from an example."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from knitground.cli.common import AsJson, GroundName, Output, ProjectFolder, named, opened, output_file, pair, progress
from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    from knitground.core.grow.pairs import PairSet
    from knitground.core.joins.sets import JoinSet
    from knitground.core.project.derived import Derived

Seed = Annotated[int, typer.Option("--seed", metavar="N", min=0, max=2**32 - 1, help="another number, another throw")]

_TOLD = 5


def grow(
    project: ProjectFolder,
    ground: GroundName = None,
    recipe: Annotated[
        str | None,
        typer.Option(
            "--recipe", metavar="NAME", help="which recipe, also one of another ground; the ground's first if not given"
        ),
    ] = None,
    seed: Annotated[
        int | None,
        typer.Option("--seed", metavar="N", min=0, max=2**32 - 1, help="another throw; kept with the recipe"),
    ] = None,
) -> None:
    """Run a recipe over a ground, and save the project."""
    from dataclasses import replace

    from knitground.core.edits.growing import grow as lay
    from knitground.core.edits.recipes import on_ground

    with _alone(project) as derived:
        document = derived.document
        chosen = named(document.project.grounds, ground, "ground", project)
        known = [one for one in document.project.recipes if one.ground == chosen.id]
        others = [one for one in document.project.recipes if recipe in (one.id, one.name)]
        if others and not any(recipe in (one.id, one.name) for one in known):
            found = on_ground(document.project, others[0], chosen)
        else:
            found = named(known, recipe, "recipe", project, where=f"for “{readable(chosen.name)}”")
        with progress("Growing") as report:
            lay(derived, found if seed is None else replace(found, seed=seed), progress=report)
        document.save()
    typer.echo(f"grew {found.name} on {chosen.name} with seed {found.seed if seed is None else seed}, and saved it")


def fill(
    project: ProjectFolder,
    layer: Annotated[str, typer.Option("--layer", metavar="NAME", help="which layer of the ground")],
    join_set: Annotated[str, typer.Option("--set", metavar="NAME", help="the join set or pairs whose tiles are laid")],
    ground: GroundName = None,
    keep: Annotated[bool, typer.Option("--keep", help="hold the tiles that lie there, and fill only the rest")] = False,
    wrap: Annotated[bool, typer.Option("--wrap", help="let tiles agree over the borders, too")] = False,
    seed: Seed = 1,
) -> None:
    """Fill a layer with tiles of a join set so that every neighbour agrees, and save the project."""
    from knitground.core.edits.filling import Wanted, filled_planes

    with _alone(project) as derived:
        document = derived.document
        chosen = named(document.project.grounds, ground, "ground", project)
        on = named(chosen.layers, layer, "layer", project, where=f"on “{readable(chosen.name)}”")
        sets: tuple[JoinSet | PairSet, ...] = (*document.project.join_sets, *document.project.pair_sets)
        found = named(sets, join_set, "join set or pairs", project)
        with progress("Filling") as report:
            planes = filled_planes(
                derived, chosen.id, on.id, found.id, seed, Wanted(held=keep, wraps=wrap), progress=report
            )
        document.put_planes(f"fill {on.name}", chosen.id, {on.id: planes})
        document.save()
    typer.echo(f"filled “{on.name}” of {chosen.name} with “{found.name}”, seed {seed}, and saved it")


def learn(
    sample: Annotated[Path, typer.Argument(metavar="SAMPLE", help="a picture of a map, made of tiles")],
    tile: Annotated[str, typer.Option("--tile", metavar="WxH", help="size of its tiles in pixels")],
    size: Annotated[str, typer.Option("--size", metavar="WxH", help="how many tiles wide and high the new map is")],
    output: Output,
    patterns: Annotated[
        int,
        typer.Option("--patterns", metavar="N", min=1, max=3, help="keep blocks of N x N tiles as they are, 1 to 3"),
    ] = 1,
    turns: Annotated[bool, typer.Option("--turns", help="learn from the sample turned and mirrored, too")] = False,
    wrap: Annotated[bool, typer.Option("--wrap", help="let the new map go on at its other side")] = False,
    seed: Seed = 1,
) -> None:
    """Make a larger map like a sample: every two tiles side by side, or every block, lie so in it."""
    from knitground.core.grow.pictured import more_of_picture
    from knitground.core.project.atomic import write_atomically
    from knitground.core.sheet.cut import LARGEST_TILE
    from knitground.core.sheet.picture import decode_picture, encode_png, read_file

    width, height = pair(tile, "--tile", "x")
    if not min(width, height) >= 1 or max(width, height) > LARGEST_TILE:
        raise BadRequest(f"--tile {readable(tile)} is out of range; give pixels from 1 to {LARGEST_TILE}, as in 16x16.")
    columns, rows = pair(size, "--size", "x")
    if min(columns, rows) < 1:
        raise BadRequest(f"--size {readable(size)} is out of range; give tiles from 1 on, as in 64x48.")
    path = output_file(output)
    picture = decode_picture(read_file(sample), sample.name)
    with progress("Learning") as report:
        made = more_of_picture(
            picture, (width, height), columns, rows, seed, size=patterns, turns=turns, wraps=wrap, progress=report
        )
    write_atomically(path, encode_png(made.pixels))
    unused = sum(one.got == 0 for one in made.usage)
    typer.echo(f"wrote {readable(path)}: {columns} x {rows} tiles, learned from {made.tiles} different ones")
    if unused:
        typer.echo(f"{unused} of the sample's tiles are not in it")
    for one in [one for one in made.usage if one.got][:_TOLD]:
        often, (row, column) = "more" if one.got > one.wanted else "less", made.places[one.code]
        typer.echo(
            f"the tile at column {column}, row {row} of the sample comes {often} often: {one.got:.1%} of the map, "
            f"{one.wanted:.1%} of the sample"
        )


def quality(project: ProjectFolder, ground: GroundName = None, as_json: AsJson = False) -> None:
    """Measure a ground: whether repetition shows, shares wanted and got, seams, parts that can't be reached."""
    from knitground.core.edits.measuring import quality as measure
    from knitground.core.edits.measuring import told

    derived = opened(project)
    chosen = named(derived.document.project.grounds, ground, "ground", project)
    with progress("Measuring") as report:
        found = measure(derived, chosen.id, report)
    if as_json:
        typer.echo(json.dumps(asdict(found), ensure_ascii=False, indent=1))
        return
    for line in told(found):
        typer.echo(line)


@contextmanager
def _alone(project: Path) -> "Iterator[Derived]":
    """The project, which nobody else may have open meanwhile."""
    from knitground.core.project.lock import ProjectLock

    lock = ProjectLock(project)
    if not lock.take():
        raise BadRequest(f"{readable(project)} is open in another window; close it there, or do it in that window.")
    try:
        yield opened(project)
    finally:
        lock.release()
