"""The commands that hand over: one picture, one format, or the project's list of deliveries."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from knitground.cli.common import GroundName, Output, ProjectFolder, named, opened, output_file, progress
from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from knitground.core.deliver.options import Choice
    from knitground.core.project.delivery import Delivery

TAKES_MORE = {"allow_extra_args": True, "ignore_unknown_options": True}
"""Settings of the command whose further options are those of a format."""
_YES, _NO = ("yes", "true", "on", "1"), ("no", "false", "off", "0")


def render(project: ProjectFolder, output: Output, ground: GroundName = None) -> None:
    """Draw a ground as a PNG."""
    _write_one(project, "png", output, ground, {}, (), 1.0, "pixels")


def deliver(
    ctx: typer.Context,
    project: ProjectFolder,
    to: Annotated[
        str | None,
        typer.Option(
            "--to", metavar="FORMAT", help="png, json, ora, csv, svg, graphml, gltf, gif, apng, webp or tileset"
        ),
    ] = None,
    every: Annotated[bool, typer.Option("--all", help="run all deliveries that the project keeps")] = False,
    kept: Annotated[str | None, typer.Option("--delivery", metavar="NAME", help="run one that it keeps")] = None,
    output: Annotated[Path | None, typer.Option("-o", "--output", metavar="FILE", help="where to write")] = None,
    ground: GroundName = None,
    layers: Annotated[str, typer.Option("--layers", metavar="A,B", help="just these layers, by their names")] = "",
    unit: Annotated[float, typer.Option("--unit", metavar="N", help="how large a unit of the game is")] = 1.0,
    unit_of: Annotated[
        str, typer.Option("--unit-of", metavar="pixels|cells", help="N pixels a unit, or N units a cell")
    ] = "pixels",
    look: Annotated[
        bool, typer.Option("--look", help="with --all or --delivery: just tell what it would write")
    ] = False,
) -> None:
    """Deliver a ground in a format, or run deliveries that the project keeps, or list them.

    Each format has options of its own, given as --NAME VALUE: --to png --scale 2 --shows layers. `knitground deliver
    PROJECT --to FORMAT --options` lists them.
    """
    from knitground.core.deliver import EXPORTERS

    if sum((to is not None, every, kept is not None)) > 1:
        raise BadRequest("Give one of --to, --all and --delivery; they are three ways to say what to deliver.")
    if to is None:
        if ctx.args:
            raise BadRequest(f"There is no option {readable(ctx.args[0])}; see --help.")
        if output is not None or ground is not None or layers:
            raise BadRequest("Where to, which ground and which layers go with --to; what is kept says that itself.")
        _kept(project, every, kept, look)
        return
    if to not in EXPORTERS:
        raise BadRequest(f"There is no format “{readable(to)}” to deliver to; choose one of {', '.join(EXPORTERS)}.")
    if "--options" in ctx.args:
        _list_options(to)
        return
    _write_one(project, to, output, ground, _options(to, ctx.args), _names(layers), unit, unit_of)


def _write_one(
    project: Path, to: str, output: Path | None, ground: str | None, options: "Mapping[str, Any]",
    layers: "Sequence[str]", unit: float, unit_of: str,
) -> None:  # fmt: skip
    from knitground.core.deliver import EXPORTERS
    from knitground.core.deliver.exporter import plain_name
    from knitground.core.deliver.picked import has_any, picked

    if not 0 < unit <= 2**20 or unit_of not in ("pixels", "cells"):
        raise BadRequest("A unit is a number above 0, of pixels or of cells; write --unit 16 --unit-of pixels.")
    path = None if output is None else output_file(output)
    derived = opened(project)
    chosen = named(derived.document.project.grounds, ground, "ground", project)
    if not has_any(chosen, layers):
        known = ", ".join(readable(layer.name) for layer in chosen.layers)
        raise BadRequest(f"“{readable(chosen.name)}” has no layer “{readable(layers[0])}”; it has {known}.")
    exporter = EXPORTERS[to]
    if path is None:
        folder = derived.document.folder or project
        path = folder / "delivered" / f"{plain_name(chosen.name) or 'map'}{exporter.ending}"
    per_unit = unit if unit_of == "pixels" else chosen.tile_width / unit
    with progress("Delivering") as report:
        source = picked(derived, chosen.id, layers)
        written = exporter.write(source, chosen.id, path, report, options, per_unit)
    typer.echo("wrote " + " and ".join(readable(path) for path in written))


def _kept(project: Path, every: bool, name: str | None, look: bool) -> None:
    """Runs deliveries that the project keeps, or lists them."""
    from knitground.core.deliver.run import look as looked
    from knitground.core.deliver.run import run, said_size, summary

    derived = opened(project)
    kept = derived.document.project.deliveries
    if not every and name is None:
        _list_kept(kept)
        return
    if every and not kept:
        raise BadRequest(f"{readable(project)} keeps no delivery yet; make one in the window, or use --to FORMAT.")
    chosen = kept if every else (named(kept, name, "delivery", project),)
    folder = derived.document.folder
    for delivery in chosen:
        with progress(delivery.name) as report:
            done = (looked if look else run)(derived, delivery, folder, report)
        if look:
            for one in done:
                typer.echo(f"{readable(one.path)}  {said_size(one.size)}{'' if one.changed else '  as before'}")
        else:
            typer.echo(f"{readable(delivery.name)}: {summary(done)}")


def _list_kept(kept: "Sequence[Delivery]") -> None:
    if not kept:
        typer.echo("no delivery is kept; make one in the window, or use --to FORMAT")
    for one in kept:
        when = {"asked": "when asked", "save": "on every save", "change": "on every change"}[one.when]
        typer.echo(f"{readable(one.name)}: {one.format} into {readable(one.folder)}, {when}")


def _list_options(to: str) -> None:
    from knitground.core.deliver import EXPORTERS
    from knitground.core.deliver.options import choices_of, may_be

    choices = choices_of(EXPORTERS[to].options)
    if not choices:
        typer.echo(f"{to} has no options of its own")
    for one in choices:
        about = one.about if one.form == "text" else f"{one.about}; {may_be(one)}"
        typer.echo(f"--{one.name}: {about} (usually {_said(one.plain)})")


def _options(to: str, args: "Sequence[str]") -> dict[str, Any]:
    """The options of a format as they were given: `--name value`, `--name=value`, or `--name` for a tick."""
    from knitground.core.deliver import EXPORTERS
    from knitground.core.deliver.options import choices_of

    known = {one.name: one for one in choices_of(EXPORTERS[to].options)}
    found: dict[str, Any] = {}
    left = list(args)
    while left:
        name, equals, value = left.pop(0).partition("=")
        one = known.get(name.removeprefix("--"))
        if not name.startswith("--") or one is None:
            there = ", ".join(f"--{name}" for name in known) or "none"
            raise BadRequest(f"{to} has no option {readable(name)}; its own are: {there}.")
        if not equals and one.form == "tick" and (not left or left[0].startswith("--")):
            value = _YES[0]
        elif not equals:
            value = left.pop(0) if left else ""
        found[one.name] = _value(one, value)
    return found


def _value(one: "Choice", text: str) -> Any:
    """A value as it was written; what can't be one is left for the check of the options."""
    if one.form == "tick":
        return True if text.lower() in _YES else False if text.lower() in _NO else text
    try:
        return int(text) if one.form == "whole" else float(text) if one.form == "number" else text
    except ValueError:
        return text


def _names(text: str) -> tuple[str, ...]:
    return tuple(name.strip() for name in text.split(",") if name.strip())


def _said(plain: Any) -> str:
    return ("yes" if plain else "no") if isinstance(plain, bool) else str(plain)
