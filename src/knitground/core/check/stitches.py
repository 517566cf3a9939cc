"""Stitches that can never fire, and stitches that nothing tells from one another."""

from collections.abc import Iterator

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.stitches.audit import dead_stitches, same_charts
from knitground.core.stitches.compiled import ReadySet
from knitground.core.stitches.rules import StitchSet


def _find(facts: Facts, stitch_set: StitchSet) -> Iterator[Finding]:
    ready: ReadySet = facts.ready(stitch_set)
    alike = {other: one for course in ready.courses for one, other in same_charts(course)}
    for later, first in alike.items():
        yield Finding(
            "same charts", "stitches",
            f"{stitch_set.name}: stitches {first + 1} and {later + 1} look at the same and lay different things",
            stitch_set.id, index=later, mend="Let one look at more, or make a mix of what both lay.",
        )  # fmt: skip
    for dead in dead_stitches(ready, facts.pulse):
        if dead.index in alike:
            continue
        hiding = " and ".join(str(index + 1) for index in dead.hidden_by)
        why = f"hidden by {hiding}" if hiding else "as its signs contradict one another"
        seen = f" (no place was found for it in {dead.samples} samples)" if dead.samples else ""
        yield Finding(
            "dead stitch", "stitches", f"{stitch_set.name}: stitch {dead.index + 1} never fires, {why}{seen}",
            stitch_set.id, index=dead.index,
            mend="Move it above the stitches that hide it, or take it out." if hiding else "Mend its chart.",
        )  # fmt: skip


CHECK = DefinitionCheck(
    "stitches",
    lambda facts: facts.stitch_sets,
    lambda facts, one: (facts.ready(one),),
    lambda *of: tuple(_find(*of)),
    at_once=False,
)
