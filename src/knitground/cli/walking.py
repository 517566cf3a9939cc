"""The commands about walking: letting a figure follow a route, and telling what can be reached."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer

from knitground.cli.common import AsJson, GroundName, ProjectFolder, named, opened, pair, progress
from knitground.core.errors import BadRequest, readable

if TYPE_CHECKING:
    from knitground.core.ground.ground import Ground
    from knitground.core.walk.motion import Spot
    from knitground.core.walk.room import Foot
    from knitground.core.walk.survey import Survey
    from knitground.core.walk.tight import Tight

FigureSize = Annotated[
    str, typer.Option("--figure", metavar="WxH", help="width and height in pixels of the foot on which it stands")
]
USUAL_FOOT = "10x6"
BLOCKED = 1


def walk(
    project: ProjectFolder,
    route: Annotated[
        str, typer.Option("--route", metavar="ROUTE", help="“E 10 S 4” in cells, or a file that was recorded")
    ],
    ground: GroundName = None,
    start: Annotated[
        str | None,
        typer.Option("--from", metavar="X,Y", help="the cell to begin in; its spawn point if not given"),
    ] = None,
    figure: FigureSize | None = None,
    view: Annotated[
        str | None, typer.Option("--view", metavar="VIEW", help="top or side; as the ground says if not given")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Let a figure follow a route, and say where it ends and what blocked it; exits 1 where something did."""
    from knitground.core.sheet.picture import read_file
    from knitground.core.walk.figure import Figure
    from knitground.core.walk.journey import Route, legs_of, route_of
    from knitground.core.walk.motion import Spot
    from knitground.core.walk.side import BODY, seen_from_side
    from knitground.core.walk.survey import blamed

    derived = opened(project)
    chosen = named(derived.document.project.grounds, ground, "ground", project)
    recorded: Route | None = None
    path = Path(route)
    if path.suffix.lower() == ".json":
        recorded = route_of(read_file(path), readable(path))
    legs = legs_of(route, chosen) if recorded is None else recorded.legs
    if view not in (None, "top", "side"):
        raise BadRequest(f"There is no view “{readable(str(view))}”; give --view top or --view side.")
    side = seen_from_side(chosen) if view is None else view == "side"
    figure = figure or (f"{BODY.width:g}x{BODY.height:g}" if side else USUAL_FOOT)
    walker = Figure(derived, chosen, _foot(figure), side=side)
    begin = Spot(recorded.x, recorded.y) if recorded is not None and start is None else _begin(chosen, start, derived)
    if not walker.mover.fits(begin):
        raise BadRequest(f"A figure of {figure} has no room at {_at(chosen, begin)}; begin elsewhere with --from.")
    journey = walker.travel(begin, legs)
    stops = [
        (stop.leg, legs[stop.leg].way, stop.at, blamed(walker.solids, walker.foot, *stop.at))
        for stop in journey.stopped
    ]
    if as_json:
        typer.echo(json.dumps({
            "ground": chosen.name, "start": _told(chosen, begin), "end": _told(chosen, journey.end),
            "blocked": [
                {"leg": leg + 1, "way": way, **_told(chosen, at),
                 "by": piece.says if piece else "the border", "layer": piece.layer if piece else None}
                for leg, way, at, piece in stops
            ],
        }, ensure_ascii=False, indent=1))  # fmt: skip
    else:
        for leg, way, at, piece in stops:
            by = f"{piece.says} on “{piece.layer}”" if piece is not None else "the border of the ground"
            typer.echo(f"leg {leg + 1}, {way}: blocked by {by} at {_at(chosen, at)}")
        typer.echo(f"ends at {_at(chosen, journey.end)}, pixel {journey.end.x:.1f}, {journey.end.y:.1f}")
    raise typer.Exit(BLOCKED if stops else 0)


def reach(
    project: ProjectFolder,
    start: Annotated[str, typer.Option("--from", metavar="X,Y", help="the cell to begin in, column and row from 0")],
    ground: GroundName = None,
    figure: FigureSize = USUAL_FOOT,
    narrow: Annotated[
        float | None,
        typer.Option("--narrow", metavar="PX", help="tell the passages, too, in which it has less than this to spare"),
    ] = None,
    ends: Annotated[bool, typer.Option("--dead-ends", help="tell the ways, too, that lead nowhere")] = False,
    as_json: AsJson = False,
) -> None:
    """Tell the parts of a ground that hang together for a figure, and which cells can't be reached."""
    import numpy as np

    from knitground.core.check.check import many
    from knitground.core.walk.graph import graph_of
    from knitground.core.walk.reach import part_name
    from knitground.core.walk.side import seen_from_side

    derived = opened(project)
    chosen = named(derived.document.project.grounds, ground, "ground", project)
    if seen_from_side(chosen):
        if narrow is not None or ends:
            raise BadRequest("--narrow and --dead-ends are for grounds seen from above; leave them out here.")
        _reach_from_side(derived, chosen, start, figure, as_json=as_json)
    survey = _survey(project, derived, chosen, figure)
    begin = _begin(chosen, start, derived)
    mine = survey.reach.part_at(begin)
    if mine < 0:
        raise BadRequest(f"A figure of {figure} has no room at {_at(chosen, begin)}; begin elsewhere with --from.")
    graph = graph_of(derived, survey)
    parts = [
        {"part": number, "cells": int((graph.part == number).sum()), "pixels": round(float(size)),
         "reached": number == mine}
        for number, size in enumerate(survey.reach.sizes.tolist())
    ]  # fmt: skip
    lost = np.flatnonzero(graph.part != mine)
    tight = _tight(derived, survey, narrow, ends=ends)
    if as_json:
        cells = [{"x": int(column), "y": int(row), "part": int(graph.part[number])}
                 for number in lost.tolist() for row, column in [graph.cells[number]]]  # fmt: skip
        content: dict[str, Any] = {
            "ground": chosen.name,
            "from": _told(chosen, begin),
            "parts": parts,
            "unreachable": cells,
        } | {key: [_told(chosen, one.spot) for one in found] for key, (_, found) in tight.items()}
        typer.echo(json.dumps(content, ensure_ascii=False, indent=1))
    else:
        for part in parts:
            state = "reached" if part["reached"] else "not reached"
            count = many(part["cells"], "cell", "cells")
            typer.echo(f"part {part_name(part['part'])}: {count}, {part['pixels']} pixels, {state}")
        typer.echo(f"{many(len(lost), 'cell', 'cells')} with room can't be reached from {_at(chosen, begin)}")
        for says, found in tight.values():
            for one in found:
                typer.echo(f"{says} at {_at(chosen, one.spot)}, {one.length:.0f} pixels long")
            if not found:
                typer.echo(f"no {says}")
    raise typer.Exit(BLOCKED if len(lost) else 0)


def _reach_from_side(derived: Any, ground: "Ground", start: str | None, figure: str, *, as_json: bool) -> NoReturn:
    """Tells which platforms of a ground seen from the side are reached, and where one doesn't get back."""
    from knitground.core.check.check import many
    from knitground.core.walk.figure import Figure
    from knitground.core.walk.leaps import leaps_of
    from knitground.core.walk.motion import Spot
    from knitground.core.walk.side import BODY

    body = f"{BODY.width:g}x{BODY.height:g}" if figure == USUAL_FOOT else figure
    with progress("Trying all jumps") as report:
        leaps = leaps_of(Figure(derived, ground, _foot(body), side=True), ground, report)
    begin = _begin(ground, start, derived)
    mine = leaps.below(begin, ground.projection.size[1])
    if mine < 0:
        raise BadRequest(f"A figure has nothing to stand on below {_at(ground, begin)}; begin elsewhere with --from.")
    there, traps = leaps.reached(mine), leaps.traps(mine)
    ends = [(Spot(*one.points[0].tolist()), Spot(*one.points[-1].tolist())) for one in leaps.platforms]
    if as_json:
        typer.echo(json.dumps({
            "ground": ground.name, "from": _told(ground, begin),
            "platforms": [
                {"left": _told(ground, left), "right": _told(ground, right), "reached": number in there}
                for number, (left, right) in enumerate(ends)
            ],
            "leaps": [
                {"from": leap.start, "to": leap.end, "keys": [[leg.way, leg.ticks] for leg in leap.legs]}
                for leap in leaps.leaps
            ],
            "traps": [_told(ground, leap.way[-1]) for leap in traps],
        }, ensure_ascii=False, indent=1))  # fmt: skip
    else:
        for number, (left, right) in enumerate(ends):
            state = "reached" if number in there else "no way was found"
            typer.echo(f"platform {number + 1}, {_at(ground, left)} to {_at(ground, right)}: {state}")
        for leap in traps:
            typer.echo(f"who gets to {_at(ground, leap.way[-1])} was not found to get back")
        typer.echo(f"{many(len(ends) - len(there), 'platform', 'platforms')} not reached from {_at(ground, begin)}")
    raise typer.Exit(BLOCKED if len(there) < len(ends) else 0)


def _tight(derived: Any, survey: "Survey", narrow: float | None, *, ends: bool) -> dict[str, tuple[str, "list[Tight]"]]:
    """What is asked for of passages and dead ends: how one is called, and all of them."""
    from knitground.core.walk.goals import marks_of
    from knitground.core.walk.tight import LEAST_SPARE, MOST_SPARE, dead_ends, narrow_places

    found = {}
    if narrow is not None:
        if not LEAST_SPARE <= narrow <= MOST_SPARE:
            raise BadRequest(
                f"--narrow {narrow:g} is out of range; give pixels from {LEAST_SPARE:g} to {MOST_SPARE:g}."
            )
        found["narrow"] = "narrow place", narrow_places(survey, narrow)
    if ends:
        marks = tuple(marks_of(survey.solids.ground, derived.document.project.thing_kinds))
        found["dead_ends"] = "dead end", dead_ends(survey, marks)
    return found


def _survey(project: Path, derived: Any, ground: "Ground", figure: str) -> "Survey":
    from knitground.core.walk.survey import surveyed

    with progress("Looking at what blocks") as report:
        return surveyed(derived, ground.id, _foot(figure), progress=report)


def _foot(figure: str) -> "Foot":
    from knitground.core.walk.room import Foot
    from knitground.core.walk.survey import checked_foot

    width, height = pair(figure, "--figure", "x")
    return checked_foot(Foot(float(width), float(height)))


def _begin(ground: "Ground", start: str | None, derived: Any) -> "Spot":
    """Where a figure begins: in the middle of a cell, or at a way in."""
    from knitground.core.walk.goals import spawn_of
    from knitground.core.walk.motion import Spot

    if start is None:
        found = spawn_of(ground, derived.document.project.thing_kinds)
        if found is None:
            raise BadRequest(f"“{readable(ground.name)}” has no spawn point; say where to begin, as in --from 3,4.")
        return found
    column, row = pair(start, "--from", ",")
    if not ground.board.whole.holds(row, column):
        raise BadRequest(f"Cell {readable(start)} is off “{readable(ground.name)}”; give a column and a row on it.")
    y, x = ground.board.flat("cells", row, column)
    return Spot(*(float(n) for n in ground.projection.point(float(y) + 0.5, float(x) + 0.5)))


def _told(ground: "Ground", spot: "Spot") -> dict[str, Any]:
    cell = ground.board.cell_at(*(float(n) for n in ground.projection.place(spot.x, spot.y)))
    return {"x": round(spot.x, 3), "y": round(spot.y, 3), "cell": None if cell is None else [cell[1], cell[0]]}


def _at(ground: "Ground", spot: "Spot") -> str:
    cell = _told(ground, spot)["cell"]
    return f"column {cell[0]}, row {cell[1]}" if cell is not None else f"pixel {spot.x:.0f}, {spot.y:.0f}"
