"""Documents of older versions of the format, made what they are called today."""

from typing import Any

from knitground.core.stitches.rules import around

_WITH_COURSES = 6
"""The version from which stitch sets have courses; before, they were one list of charts of eight signs."""


def brought_up(raw: dict[str, Any], version: int) -> dict[str, Any]:
    """What a document of a version holds, as today's has it; what is wrong in it is left for the check to find."""
    project = raw.get("project")
    sets = project.get("stitch_sets") if isinstance(project, dict) else None
    if version >= _WITH_COURSES or not isinstance(project, dict) or not isinstance(sets, list):
        return raw
    return {**raw, "project": {**project, "stitch_sets": [_with_courses(one) for one in sets]}}


def _with_courses(one: Any) -> Any:
    stitches = one.get("stitches") if isinstance(one, dict) else None
    if not isinstance(stitches, list):
        return one
    made = [_stitch(number, stitch) for number, stitch in enumerate(stitches, start=1)]
    rest = {name: value for name, value in one.items() if name != "stitches"}
    return {**rest, "courses": [{"stitches": made}]}


def _stitch(number: int, stitch: Any) -> Any:
    known = isinstance(stitch, dict) and set(stitch) <= {"mark", "chart", "tile"}
    mark, chart = (stitch.get("mark"), stitch.get("chart")) if known else (None, None)
    if not (isinstance(mark, int) and isinstance(chart, str) and len(chart) == 8 and set(chart) <= set("V.-")):
        return stitch
    rows = around(f"s{number}", mark, chart).charts[0].rows
    made: dict[str, Any] = {"id": f"s{number}", "charts": [{"rows": list(rows)}]}
    return {**made, "pieces": [{"tile": stitch["tile"]}]} if stitch.get("tile") is not None else made
