"""Stitches, courses and what they look at and lay onto: adding, moving, copying and taking out."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import NamedTuple

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.following import problem_following
from knitground.core.ground.ground import by_id
from knitground.core.layers.layer import Layer
from knitground.core.layers.onto import OntoLayer
from knitground.core.layers.stitched import StitchedLayer
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id, replaced
from knitground.core.project.sound_stitches import problem_of_stitches
from knitground.core.stitches.charts import Chart, renumbered
from knitground.core.stitches.rules import MOST_COURSES, MOST_PARTS, MOST_STITCHES, Course, Stitch, StitchSet, View


class Spot(NamedTuple):
    """Where a stitch stands: the number of its course, and its place in it, both from 0."""

    course: int
    place: int


class _Owner(NamedTuple):
    """As much of a table as is needed to see what a layer follows."""

    owner: StitchSet


def put_set(document: Document, label: str, stitch_set: StitchSet) -> None:
    """Adds a stitch set, or exchanges it for a changed one.

    Raises
    ------
    BadRequest
        If it can't be as it is, or layers would look at one another in a circle.
    """
    project = document.project
    problem = problem_of_stitches(stitch_set, project)
    if problem:
        raise BadRequest(f"“{stitch_set.name}” {problem}.")
    sets = replaced(project.stitch_sets, stitch_set)
    for ground in project.grounds:
        problem = _problem_in(ground.layers, sets)
        if problem:
            raise BadRequest(f"On “{ground.name}” {problem}")
    put(document, label, "stitch_sets", stitch_set)


def spot_of(stitch_set: StitchSet, stitch_id: str) -> Spot | None:
    """Where a stitch stands in its set."""
    for number, course in enumerate(stitch_set.courses):
        for place, stitch in enumerate(course.stitches):
            if stitch.id == stitch_id:
                return Spot(number, place)
    return None


def number_of(stitch_set: StitchSet, stitch_id: str) -> int:
    """The place of a stitch among all of its set, from 0; -1 if it is not there."""
    return next((n for n, stitch in enumerate(stitch_set.stitches) if stitch.id == stitch_id), -1)


def exchanged(stitch_set: StitchSet, stitch: Stitch) -> StitchSet:
    """The set with another stitch in place of the one with its id."""
    courses = tuple(
        replace(one, stitches=tuple(stitch if other.id == stitch.id else other for other in one.stitches))
        for one in stitch_set.courses
    )
    return replace(stitch_set, courses=courses)


def inserted(stitch_set: StitchSet, spot: Spot, stitches: Sequence[Stitch]) -> StitchSet:
    """The set with stitches put in at a place of a course; a set without any course gets one."""
    if len(stitch_set.stitches) + len(stitches) > MOST_STITCHES:
        raise BadRequest(f"A set holds at most {MOST_STITCHES} stitches; split it in two.")
    courses = list(stitch_set.courses) or [Course()]
    inside = list(courses[spot.course].stitches)
    inside[spot.place : spot.place] = stitches
    courses[spot.course] = replace(courses[spot.course], stitches=tuple(inside))
    return replace(stitch_set, courses=tuple(courses))


def without(stitch_set: StitchSet, stitch_ids: Sequence[str]) -> StitchSet:
    """The set without some stitches."""
    courses = tuple(
        replace(one, stitches=tuple(stitch for stitch in one.stitches if stitch.id not in stitch_ids))
        for one in stitch_set.courses
    )
    return replace(stitch_set, courses=courses)


def moved(stitch_set: StitchSet, stitch_id: str, to: Spot) -> StitchSet:
    """The set with a stitch moved before what stands at a place of a course."""
    at = spot_of(stitch_set, stitch_id)
    if at is None:
        return stitch_set
    stitch = stitch_set.courses[at.course].stitches[at.place]
    place = to.place - (at.course == to.course and at.place < to.place)
    return inserted(without(stitch_set, [stitch_id]), Spot(to.course, place), [stitch])


def moved_by(stitch_set: StitchSet, stitch_id: str, step: int) -> StitchSet:
    """The set with a stitch one place further up (-1) or down (1); beyond its course it goes into the next one."""
    at = spot_of(stitch_set, stitch_id)
    if at is None:
        return stitch_set
    place = at.place + step
    if 0 <= place < len(stitch_set.courses[at.course].stitches):
        return moved(stitch_set, stitch_id, Spot(at.course, place + (step > 0)))
    course = at.course + step
    if not 0 <= course < len(stitch_set.courses):
        return stitch_set
    return moved(stitch_set, stitch_id, Spot(course, 0 if step > 0 else len(stitch_set.courses[course].stitches)))


def copied(stitch_set: StitchSet, stitch_id: str) -> tuple[StitchSet, str]:
    """The set with a copy of a stitch below it, and the copy's id."""
    at = spot_of(stitch_set, stitch_id)
    if at is None:
        return stitch_set, stitch_id
    new_id = fresh_stitch_id(stitch_set)
    stitch = replace(stitch_set.courses[at.course].stitches[at.place], id=new_id)
    return inserted(stitch_set, Spot(at.course, at.place + 1), [stitch]), new_id


def fresh_stitch_id(stitch_set: StitchSet) -> str:
    """An id that no stitch of a set bears."""
    return fresh_id("s1", stitch_set.stitches)


def with_course(stitch_set: StitchSet, number: int, change: Callable[[Course], Course | None]) -> StitchSet:
    """The set with one of its courses changed, or taken out with all that it holds."""
    courses = list(stitch_set.courses)
    made = change(courses[number])
    courses[number : number + 1] = [] if made is None else [made]
    return replace(stitch_set, courses=tuple(courses))


def course_added(stitch_set: StitchSet, name: str, after: int) -> StitchSet:
    """The set with an empty course behind another one."""
    if len(stitch_set.courses) >= MOST_COURSES:
        raise BadRequest(f"A set has at most {MOST_COURSES} courses.")
    courses = list(stitch_set.courses)
    courses.insert(after + 1, Course(name))
    return replace(stitch_set, courses=tuple(courses))


def course_copied(stitch_set: StitchSet, number: int) -> StitchSet:
    """The set with a copy of a course behind it, its stitches with ids of their own."""
    course, made = stitch_set.courses[number], list[Stitch]()
    if len(stitch_set.stitches) + len(course.stitches) > MOST_STITCHES:
        raise BadRequest(f"A set holds at most {MOST_STITCHES} stitches; split it in two.")
    for stitch in course.stitches:
        made.append(replace(stitch, id=fresh_id("s1", (*stitch_set.stitches, *made))))
    added = course_added(stitch_set, f"{course.name[:55]} copy", number)
    return with_course(added, number + 1, lambda one: replace(course, name=one.name, stitches=tuple(made)))


def course_moved(stitch_set: StitchSet, number: int, step: int) -> StitchSet:
    """The set with a course run earlier (-1) or later (1)."""
    to = number + step
    if not 0 <= to < len(stitch_set.courses):
        return stitch_set
    courses = list(stitch_set.courses)
    courses.insert(to, courses.pop(number))
    return replace(stitch_set, courses=tuple(courses))


def with_chart(stitch: Stitch, chart: Chart) -> Stitch:
    """The stitch with a chart of a view in place of the one it had, or besides."""
    known = any(one.of == chart.of for one in stitch.charts)
    charts = tuple(chart if one.of == chart.of else one for one in stitch.charts)
    return replace(stitch, charts=charts if known else (*charts, chart))


def without_chart(stitch: Stitch, of: str) -> Stitch:
    """The stitch that does not look at a view."""
    return replace(stitch, charts=tuple(chart for chart in stitch.charts if chart.of != of))


def without_view(stitch_set: StitchSet, name: str) -> StitchSet:
    """The set without a view, and without the charts of it."""
    courses = tuple(
        replace(course, stitches=tuple(without_chart(stitch, name) for stitch in course.stitches))
        for course in stitch_set.courses
    )
    return replace(stitch_set, courses=courses, views=tuple(view for view in stitch_set.views if view.name != name))


def with_view(stitch_set: StitchSet, view: View) -> StitchSet:
    """The set with a view besides, or in place of the one of its name."""
    known = any(one.name == view.name for one in stitch_set.views)
    views = tuple(view if one.name == view.name else one for one in stitch_set.views)
    return replace(stitch_set, views=views if known else (*views, view))


def with_numbers(stitch_set: StitchSet, of: str, numbers: dict[int, int]) -> StitchSet:
    """The set with other numbers in the charts of a view, as where a terrain was taken out."""
    courses = tuple(
        replace(
            course,
            stitches=tuple(
                replace(
                    stitch,
                    charts=tuple(renumbered(one, numbers) if one.of == of else one for one in stitch.charts),
                )
                for stitch in course.stitches
            ),
        )
        for course in stitch_set.courses
    )
    return replace(stitch_set, courses=courses)


def add_part(document: Document, set_id: str, part: str) -> None:
    """Gives a set another layer to lay onto, and every ground with its plan a layer that shows it, as one step.

    Raises
    ------
    BadRequest
        If the set has as many as it may have.
    """
    project = document.project
    stitch_set = by_id(project.stitch_sets, set_id)
    if part in stitch_set.parts:
        return
    if len(stitch_set.parts) >= MOST_PARTS:
        raise BadRequest(f"A set lays onto at most {MOST_PARTS} further layers.")
    grounds, planes = [], dict(document.state.planes)
    for ground in project.grounds:
        layers = list(ground.layers)
        mine = [one for one in layers if one.takes_terrains_of == "stitch_sets" and one.set_id == set_id]
        if mine:
            made = OntoLayer(fresh_id(part, layers), part, set_id, part)
            layers.insert(layers.index(mine[0]) + 1, made)
            planes[ground.id] = {**planes[ground.id], made.id: {}}
        grounds.append(replace(ground, layers=tuple(layers)))
    changed = replace(stitch_set, parts=(*stitch_set.parts, part))
    project = replace(project, stitch_sets=replaced(project.stitch_sets, changed), grounds=tuple(grounds))
    document.define(f"lay onto {part}", project, planes=planes)


def let_see(document: Document, ground_id: str, layer: StitchedLayer, view: str, layer_id: str | None) -> None:
    """Lets a stitched layer look at another one as one of its set's views; with None, at the one it finds itself.

    Raises
    ------
    BadRequest
        If layers would look at one another in a circle.
    """
    project = document.project
    sees = {name: one for name, one in layer.sees.items() if name != view}
    changed = replace(layer, sees=sees if layer_id is None else {**sees, view: layer_id})
    ground = next(one for one in project.grounds if one.id == ground_id)
    layers = replaced(ground.layers, changed)
    problem = _problem_in(layers, project.stitch_sets)
    if problem:
        raise BadRequest(problem)
    put(document, "choose a layer to look at", "grounds", replace(ground, layers=layers))


def _problem_in(layers: Sequence[Layer], sets: Sequence[StitchSet]) -> str:
    """Why layers can't look at one another as they would; nothing if they can."""
    known = {one.id: one for one in sets}
    return problem_following(
        layers,
        {
            one.id: _Owner(known[one.set_id])
            for one in layers
            if one.takes_terrains_of == "stitch_sets" and one.set_id in known
        },
    )
